"""The demo's pictures: a ridge, a sky and a hut, drawn by arithmetic from the hut's number."""

from __future__ import annotations

import math
import random
from pathlib import Path

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QColor, QImage, QLinearGradient, QPainter, QPolygonF

SIZE = (320, 180)
SKIES = [
    ("#BFD3CE", "#EDE3CC"),
    ("#C9B98F", "#F1E6CF"),
    ("#A9BACB", "#E4E3DD"),
    ("#CDA79F", "#F0E0D2"),
]
RIDGES = ["#7E9A93", "#8B7A54", "#6E8196", "#8F6C66"]


def draw_hut(seed: int, file: Path) -> None:
    """Draw one picture, 320 × 180 px, and save it as PNG."""
    chance = random.Random(seed)
    width, height = SIZE
    image = QImage(width, height, QImage.Format.Format_RGB32)
    tint = seed % len(SKIES)
    top, bottom = (QColor(each) for each in SKIES[tint])
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    sky = QLinearGradient(0, 0, 0, height)
    sky.setColorAt(0, top)
    sky.setColorAt(1, bottom)
    painter.fillRect(0, 0, width, height, sky)
    painter.setPen(QColor(0, 0, 0, 0))
    painter.setBrush(QColor(255, 250, 235, 170))
    painter.drawEllipse(QPointF(chance.uniform(40, 280), chance.uniform(24, 60)), 13, 13)
    for layer in range(3):
        colour = QColor(RIDGES[tint]).lighter(136 - 20 * layer)
        painter.setBrush(colour)
        painter.drawPolygon(_ridge(chance, 70 + 34 * layer, 30 - 7 * layer))
    _hut(painter, chance.uniform(70, 220), 132, QColor(RIDGES[tint]).darker(170))
    painter.end()
    image.save(str(file))


def _ridge(chance: random.Random, base: float, rough: float) -> QPolygonF:
    width, height = SIZE
    shift, pace = chance.uniform(0, 6), chance.uniform(0.018, 0.034)
    points = [QPointF(0, height)]
    for x in range(0, width + 8, 8):
        peak = abs(math.sin(x * pace + shift)) * rough + chance.uniform(0, rough / 5)
        points.append(QPointF(x, base - peak + rough / 2))
    return QPolygonF([*points, QPointF(width, height)])


def _hut(painter: QPainter, x: float, y: float, colour: QColor) -> None:
    painter.setBrush(colour)
    painter.drawRect(QRectF(x, y, 46, 24))
    painter.setBrush(colour.darker(140))
    roof = [QPointF(x - 6, y), QPointF(x + 23, y - 18), QPointF(x + 52, y)]
    painter.drawPolygon(QPolygonF(roof))
    painter.setBrush(QColor("#F6D98A"))
    painter.drawRect(QRectF(x + 8, y + 8, 7, 8))
    painter.drawRect(QRectF(x + 30, y + 8, 7, 8))
