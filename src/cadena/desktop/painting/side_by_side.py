"""What the engine shows beside what a browser does, in one picture."""

from __future__ import annotations

from typing import Final

from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor, QImage, QPainter

from cadena.desktop.painting.painter import paint_scene
from cadena.desktop.painting.pictures import Pictures
from cadena.engine.session import Session
from cadena.engine.wired import WiredApp
from cadena.scene.lay_out import lay_out

BETWEEN: Final = 16


def painted(app: WiredApp, session: Session, pictures: Pictures) -> QImage:
    """What the engine shows, a pixel for each dp."""
    scene = lay_out(app, session, session.window)
    image = QImage(
        round(scene.width * scene.text),
        round(scene.height * scene.text),
        QImage.Format.Format_RGB32,
    )
    painter = QPainter(image)
    painter.scale(scene.text, scene.text)
    paint_scene(painter, scene, pictures)
    painter.end()
    return image


def side_by_side(left: QImage, right: QImage) -> QImage:
    """Two pictures beside each other, their tops level."""
    image = QImage(
        left.width() + BETWEEN + right.width(),
        max(left.height(), right.height()),
        QImage.Format.Format_RGB32,
    )
    image.fill(QColor("#DAD6CB"))
    painter = QPainter(image)
    painter.drawImage(QRectF(0, 0, left.width(), left.height()), left)
    at = left.width() + BETWEEN
    painter.drawImage(QRectF(at, 0, right.width(), right.height()), right)
    painter.end()
    return image
