"""Two pictures side by side, each with its words under it."""

from __future__ import annotations

from typing import Final

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QFont, QPainter
from PySide6.QtWidgets import QWidget

from cadena.desktop.painting.faces import font_of
from cadena.desktop.painting.theme import colour, px

CAPTION: Final = 20


def rooms(widget: QWidget) -> tuple[QRectF, QRectF]:
    """Where the two stand in a widget, above their words."""
    half = (widget.width() - 28) / 2
    left = QRectF(6, 8, half, widget.height() - 16 - px(CAPTION))
    return left, left.translated(half + 16, 0)


def placed(room: QRectF, width: float, height: float) -> QRectF:
    """Something as large as fits into a room, in its middle."""
    scale = min(room.width() / width, room.height() / height)
    wide, high = width * scale, height * scale
    return QRectF(
        room.x() + (room.width() - wide) / 2, room.y() + (room.height() - high) / 2, wide, high
    )


def paint_caption(painter: QPainter, room: QRectF, text: str) -> None:
    """The words under a room."""
    painter.setClipping(False)
    painter.setFont(font_of(px(11), QFont.Weight.Normal))
    painter.setPen(colour("soft"))
    words = QRectF(room.x(), room.bottom() + 2, room.width(), px(CAPTION))
    painter.drawText(words, int(Qt.AlignmentFlag.AlignCenter), text)
