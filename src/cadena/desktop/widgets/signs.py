"""Signs in the cells of a table: a word or a mark on its ground."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from PySide6.QtCore import QModelIndex, QObject, QPersistentModelIndex, QRectF, QSize, Qt
from PySide6.QtGui import QFont, QPainter, QPen
from PySide6.QtWidgets import QStyle, QStyledItemDelegate, QStyleOptionViewItem

from cadena.desktop.painting.faces import font_of
from cadena.desktop.painting.theme import colour, px

Index = QModelIndex | QPersistentModelIndex


class Sign(NamedTuple):
    """What a cell shows, in roles of colour; ``edge`` is its outline, ``bold`` px wide. One that
    is ``bare`` is its text alone, and one that is not ``is_fresh`` is only outlined."""

    text: str
    ground: str
    ink: str
    edge: str
    bold: float
    bare: bool
    is_fresh: bool


class SignDelegate(QStyledItemDelegate):
    """Paints the sign of a cell, and a frame around the one that is chosen.

    Args:
        sign_of: gives the sign of a cell, or none.
        size: of the text, in px at the usual text size, as all that follow.
        room: how wide and how tall a cell is.
        widest: how wide a sign is at most; none fills its cell.
    """

    def __init__(
        self,
        parent: QObject,
        sign_of: Callable[[Index], Sign | None],
        size: int,
        room: tuple[int, int],
        widest: int | None = None,
    ) -> None:
        super().__init__(parent)
        self.sign_of, self.size, self.room, self.widest = sign_of, size, room, widest

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        sign = self.sign_of(index)
        if sign is None:
            return
        rect = QRectF(option.rect).adjusted(4, 3, -4, -3)
        if self.widest is not None:
            wide = min(rect.width() - 4, px(self.widest))
            rect = QRectF(rect.center().x() - wide / 2, rect.y(), wide, rect.height())
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(colour(sign.edge if sign.is_fresh else "hairline"), sign.bold))
        painter.setBrush(colour(sign.ground if sign.is_fresh else "ground"))
        if not sign.bare:
            painter.drawRoundedRect(rect, 6, 6)
        painter.setPen(colour(sign.ink if sign.is_fresh else "soft"))
        painter.setFont(font_of(px(self.size), QFont.Weight.DemiBold))
        painter.drawText(rect, int(Qt.AlignmentFlag.AlignCenter), sign.text)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.setPen(QPen(colour("brass"), 2.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(rect.adjusted(-3, -2, 3, 2), 8, 8)
        painter.restore()

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(*map(px, self.room))
