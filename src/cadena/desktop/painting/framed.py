"""A small picture of an app in a frame, with what has changed in it outlined."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from cadena.desktop.painting.painter import Pictures, paint_scene
from cadena.desktop.painting.theme import colour
from cadena.scene.scene import Box, Scene


def paint_framed(
    painter: QPainter,
    inside: QRectF,
    scene: Scene,
    pictures: Pictures,
    changed: tuple[Box, ...] = (),
    frame: str = "frame",
) -> None:
    """Paint a scene into a place of its own shape, by the one painter."""
    scale = inside.width() / scene.width
    painter.setPen(QPen(colour(frame), 4))
    painter.setBrush(colour("card"))
    painter.drawRoundedRect(inside.adjusted(-2, -2, 2, 2), 4, 4)
    painter.save()
    painter.setClipRect(inside)
    painter.translate(inside.topLeft())
    painter.scale(scale, scale)
    paint_scene(painter, scene, pictures)
    painter.restore()
    painter.save()
    painter.setClipRect(inside.adjusted(-3, -3, 3, 3))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(colour("broken"), 1.6, Qt.PenStyle.DashLine))
    for box in changed:
        x, y = inside.x() + box.x * scale, inside.y() + box.y * scale
        painter.drawRoundedRect(QRectF(x, y, box.width * scale, box.height * scale), 3, 3)
    painter.restore()
