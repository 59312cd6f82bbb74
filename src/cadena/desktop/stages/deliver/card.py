"""A card for one form in which the app is handed over."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QFont, QPainter, QPaintEvent
from PySide6.QtWidgets import QPushButton

from cadena.desktop.painting.faces import font_of
from cadena.desktop.painting.theme import colour, px


class Card(QPushButton):
    """A title, what it is, and how much; each in a line that is shortened where it must be."""

    def __init__(self) -> None:
        super().__init__()
        self.lines = ("", "", "")
        self.setProperty("role", "card")
        self.setCheckable(True)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def say(self, title: str, what: str, said: str) -> None:
        """What it says, to be seen and to be heard."""
        self.lines = (title, what, said)
        self.setAccessibleName(f"{title}: {what}, {said}")
        self.setToolTip(f"{what}, {said}")
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(px(150), px(66))

    def minimumSizeHint(self) -> QSize:
        return QSize(px(70), px(66))

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        for number, text in enumerate(self.lines):
            weight = QFont.Weight.Normal if number else QFont.Weight.Bold
            painter.setFont(font_of(px(11 if number else 13), weight))
            painter.setPen(colour("soft" if number else "ink"))
            rect = QRectF(px(12), px(7) + number * px(18), self.width() - 2 * px(12), px(18))
            shown = painter.fontMetrics().elidedText(
                text, Qt.TextElideMode.ElideRight, int(rect.width())
            )
            painter.drawText(rect, int(Qt.AlignmentFlag.AlignVCenter), shown)
