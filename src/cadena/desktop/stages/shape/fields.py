"""The fields of one record: each can be put on the row and on the detail."""

from __future__ import annotations

from typing import Any, Final

from PySide6.QtCore import QMimeData, QModelIndex, QPersistentModelIndex, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetrics, QKeyEvent, QPainter
from PySide6.QtWidgets import (
    QAbstractItemView,
    QListWidget,
    QListWidgetItem,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
)

from cadena.desktop.painting.theme import colour, mono, px
from cadena.model.values import shown

FIELD: Final = "application/x-cadena-field"
TALL: Final = 42
NAME, VALUE, PLACES = range(int(Qt.ItemDataRole.UserRole), int(Qt.ItemDataRole.UserRole) + 3)
PLACED: Final = {"row": "holds_wash", "detail": "brass_wash", "form": "brass_wash"}


class Tile(QStyledItemDelegate):
    """Paints a field: its name, its value, and where it is shown."""

    def sizeHint(self, option: QStyleOptionViewItem, index: Any) -> QSize:
        return QSize(120, px(TALL))

    def paint(
        self,
        painter: QPainter,
        option: QStyleOptionViewItem,
        index: QModelIndex | QPersistentModelIndex,
    ) -> None:
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        rect = QRectF(option.rect).adjusted(2, 2, -2, -3)
        state: QStyle.StateFlag = option.state
        chosen = bool(state & QStyle.StateFlag.State_Selected)
        painter.setPen(colour("brass" if chosen else "hairline"))
        painter.setBrush(colour("brass_wash" if chosen else "card"))
        painter.drawRoundedRect(rect, 6, 6)
        if state & QStyle.StateFlag.State_HasFocus and chosen:
            painter.setPen(colour("ink"))
            painter.drawRoundedRect(rect.adjusted(2, 2, -2, -2), 5, 5)
        left = rect.left() + 9
        right = rect.right() - 6
        small = painter.font()
        small.setPixelSize(px(10))
        for place in reversed(index.data(PLACES)):
            painter.setFont(small)
            wide = painter.fontMetrics().horizontalAdvance(place) + 12
            box = QRectF(right - wide, rect.top() + 5, wide, px(15))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour(PLACED[place]))
            painter.drawRoundedRect(box, 7, 7)
            painter.setPen(colour("ink"))
            painter.drawText(box, int(Qt.AlignmentFlag.AlignCenter), place)
            right -= wide + 3
        name = mono(px(11))
        name.setBold(True)
        painter.setFont(name)
        painter.setPen(colour("ink"))
        room = int(right - left - 4)
        top = QRectF(left, rect.top() + 3, room, px(17))
        text = QFontMetrics(name).elidedText(index.data(NAME), Qt.TextElideMode.ElideRight, room)
        painter.drawText(top, int(Qt.AlignmentFlag.AlignVCenter), text)
        plain = painter.font()
        plain.setFamily(option.font.family())
        plain.setBold(False)
        plain.setPixelSize(px(11))
        painter.setFont(plain)
        painter.setPen(colour("soft"))
        wide = int(rect.right() - left - 8)
        below = QRectF(left, rect.top() + px(19), wide, px(17))
        cut = QFontMetrics(plain).elidedText(index.data(VALUE), Qt.TextElideMode.ElideRight, wide)
        painter.drawText(below, int(Qt.AlignmentFlag.AlignVCenter), cut)
        painter.restore()


class Fields(QListWidget):
    """The fields, top to bottom. ``R`` puts one on the row or takes it off, ``D`` the detail."""

    toggled = Signal(str, str)
    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("fields")
        self.setAccessibleName("fields of the record")
        self.setItemDelegate(Tile(self))
        self.setDragEnabled(True)
        self.setDragDropMode(QAbstractItemView.DragDropMode.DragOnly)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setStyleSheet("QListWidget { background: transparent; }")
        self.itemClicked.connect(lambda item: self.chosen.emit(item.data(NAME)))
        self.itemActivated.connect(lambda item: self.chosen.emit(item.data(NAME)))

    def show_record(self, record: dict[str, Any], places: dict[str, list[str]]) -> None:
        """Show the fields of a record, and where each is shown; the one marked stays so."""
        marked = self.currentRow()
        if self.count() != len(record):
            self.clear()
            for _ in record:
                self.addItem(QListWidgetItem())
        for at, (name, value) in enumerate(record.items()):
            item = self.item(at)
            said = shown(None if value == "" else value).replace("\n", " ")
            item.setData(NAME, name)
            item.setData(VALUE, said[:80])
            item.setData(PLACES, places.get(name, []))
            where = " and ".join(places.get(name, [])) or "nowhere"
            item.setData(
                Qt.ItemDataRole.AccessibleTextRole, f"{name}, {said[:80]}, shown on {where}"
            )
        if 0 <= marked < self.count():
            self.setCurrentRow(marked)

    def mimeData(self, items: Any) -> QMimeData:
        held = QMimeData()
        held.setData(FIELD, items[0].data(NAME).encode() if items else b"")
        return held

    def keyPressEvent(self, event: QKeyEvent) -> None:
        item = self.currentItem()
        place = {int(Qt.Key.Key_R): "row", int(Qt.Key.Key_D): "detail"}.get(event.key())
        if item is not None and place is not None and not event.modifiers():
            self.toggled.emit(item.data(NAME), place)
            return
        super().keyPressEvent(event)


def field_in(held: QMimeData) -> str:
    """The field that is dragged, or the empty text."""
    return bytes(held.data(FIELD).data()).decode() if held.hasFormat(FIELD) else ""
