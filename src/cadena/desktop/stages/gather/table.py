"""The records of a source under the heads of its fields; a million are no trouble."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Final

import polars as pl
from PySide6.QtCore import (
    QAbstractTableModel,
    QEvent,
    QModelIndex,
    QPersistentModelIndex,
    QRect,
    QRectF,
    Qt,
    Signal,
)
from PySide6.QtGui import QColor, QFont, QFontMetrics, QKeyEvent, QKeySequence, QPainter
from PySide6.QtWidgets import (
    QHeaderView,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QWidget,
)

from cadena.desktop.painting.theme import colour, mono, px
from cadena.model.source import Source
from cadena.model.values import shown
from cadena.records.records import Records
from cadena.records.template import is_empty
from cadena.sources.profile import Head

Typed = Callable[[int, str, str], None]
"""Takes a row, a field and what was typed there."""
Index = QModelIndex | QPersistentModelIndex
HEAD: Final = 68
ROW: Final = 27
NARROWEST, WIDEST = 78, 280
SAMPLE: Final = 40
LONG: Final = 60
NO_MODIFIER: Final = Qt.KeyboardModifier.NoModifier
NOWHERE: Final = QModelIndex()


class RecordsModel(QAbstractTableModel):
    """A window on whole columns: a cell is read when it is in view."""

    def __init__(self, records: Records, typed: Typed | None) -> None:
        super().__init__()
        self.records = records
        self.typed = typed
        self.names = list(records.types)
        source = records.source
        self.made = {each.name for each in source.fields if each.made_of}
        if source.key_from or source.numbered:
            self.made.add(source.key)

    def rowCount(self, parent: Index = NOWHERE) -> int:
        return 0 if parent.isValid() else len(self.records)

    def columnCount(self, parent: Index = NOWHERE) -> int:
        return 0 if parent.isValid() else len(self.names)

    def flags(self, index: Index) -> Qt.ItemFlag:
        found = super().flags(index)
        is_made = self.names[index.column()] in self.made if index.isValid() else True
        return found if is_made or self.typed is None else found | Qt.ItemFlag.ItemIsEditable

    def setData(self, index: Index, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        if self.typed is None or role != Qt.ItemDataRole.EditRole:
            return False
        if str(value) != self.data(index, role):
            self.typed(index.row(), self.names[index.column()], str(value))
        return True

    def _text(self, index: Index) -> str:
        """A value as it is typed: as it stands in the data."""
        name = self.names[index.column()]
        reading = self.records.reading
        column = reading.frame[name] if reading is not None and name in reading.frame else None
        if column is not None and column.dtype == pl.String:
            return str(column[index.row()] or "")
        value = self.records.record(index.row()).get(name)
        return "" if value is None else shown(value)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if role == Qt.ItemDataRole.EditRole:
            return self._text(index)
        if role not in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return None
        value = self.records.record(index.row()).get(self.names[index.column()])
        if is_empty(value):
            return "empty" if role == Qt.ItemDataRole.AccessibleTextRole else None
        return shown(value).replace("\n", " ")[:400]

    def headerData(
        self,
        section: int,
        orientation: Qt.Orientation,
        role: int = Qt.ItemDataRole.DisplayRole,
    ) -> Any:
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return self.names[section] if orientation == Qt.Orientation.Horizontal else section + 1
        return None


class Heads(QHeaderView):
    """For each field its name, its type, how filled and how distinct it is, and what it is."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(Qt.Orientation.Horizontal, parent)
        self.setSectionsClickable(True)
        self.setHighlightSections(True)
        self.setFixedHeight(px(HEAD))
        self.heads: dict[str, Head] = {}
        self.badges: dict[str, tuple[str, str]] = {}
        self.chosen = ""

    def paintSection(self, painter: QPainter, rect: QRect, section: int) -> None:
        model = self.model()
        name = model.headerData(section, Qt.Orientation.Horizontal)
        head = self.heads.get(str(name))
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(rect).adjusted(1, 1, -3, -5)
        is_chosen = name == self.chosen
        painter.setPen(colour("brass" if is_chosen else "hairline"))
        painter.setBrush(colour("brass_wash" if is_chosen else "paper"))
        painter.drawRoundedRect(box, 6, 6)
        inner = box.adjusted(8, 5, -8, -6)
        self._text(painter, inner, str(name), mono(px(12)), "ink", bold=True)
        kind = head.type if head is not None else "…"
        font = self.font()
        font.setPixelSize(px(11))
        badge = self.badges.get(str(name))
        taken = 0.0 if badge is None else self._badge(painter, inner, badge, font)
        self._text(painter, inner.adjusted(0, px(17), -taken, 0), kind, font, "soft")
        if head is not None:
            y = box.bottom() - px(17)
            sparse = head.share_filled < 0.6
            self._bar(painter, inner, y, head.share_filled, "broken" if sparse else "holds")
            self._bar(painter, inner, y + px(8), head.share_distinct, "screen_link")
        painter.restore()

    def _text(
        self,
        painter: QPainter,
        rect: QRectF,
        text: str,
        font: QFont,
        role: str,
        bold: bool = False,
    ) -> None:
        font = QFont(font)
        font.setBold(bold)
        painter.setFont(font)
        painter.setPen(colour(role))
        cut = QFontMetrics(font).elidedText(text, Qt.TextElideMode.ElideRight, int(rect.width()))
        top = int(Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft)
        painter.drawText(rect, top, cut)

    def _badge(
        self, painter: QPainter, inner: QRectF, badge: tuple[str, str], font: QFont
    ) -> float:
        """Paint a badge, if there is room for it; returns the room it takes in px."""
        text, wash = badge
        painter.setFont(font)
        wide = painter.fontMetrics().horizontalAdvance(text) + 12
        rect = QRectF(inner.right() - wide + 4, inner.top() + px(16), wide, px(16))
        if rect.left() < inner.left() + 16:
            return 0.0
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(wash))
        painter.drawRoundedRect(rect, 8, 8)
        painter.setPen(colour("ink"))
        painter.drawText(rect, int(Qt.AlignmentFlag.AlignCenter), text)
        return wide

    def _bar(self, painter: QPainter, inner: QRectF, y: float, share: float, role: str) -> None:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour("hairline"))
        painter.drawRoundedRect(QRectF(inner.left(), y, inner.width(), 4), 2, 2)
        painter.setBrush(colour(role))
        painter.drawRoundedRect(QRectF(inner.left(), y, inner.width() * share, 4), 2, 2)


class Cells(QStyledItemDelegate):
    """Paints a cell; an empty one says so."""

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        rect: QRect = option.rect
        view = self.parent()
        current = isinstance(view, QTableView) and view.currentIndex().row() == index.row()
        if current:
            painter.fillRect(rect, colour("brass_wash"))
        painter.setPen(colour("hairline"))
        painter.drawLine(rect.bottomLeft(), rect.bottomRight())
        inner = rect.adjusted(9, 0, -6, 0)
        middle = int(Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft)
        text = index.data()
        if text is None:
            box = QRectF(inner.left() - 4, rect.center().y() - px(8), px(46), px(17))
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour("broken_wash"))
            painter.drawRoundedRect(box, 4, 4)
            painter.setPen(colour("broken_ink"))
            painter.drawText(box, int(Qt.AlignmentFlag.AlignCenter), "empty")
        else:
            painter.setPen(colour("ink"))
            cut = painter.fontMetrics().elidedText(
                str(text), Qt.TextElideMode.ElideRight, inner.width()
            )
            painter.drawText(inner, middle, cut)
        if isinstance(view, QTableView) and view.currentIndex() == index and view.hasFocus():
            painter.setPen(QColor(colour("ink")))
            painter.drawRect(rect.adjusted(1, 1, -2, -2))


class RecordsTable(QTableView):
    """The records, and the heads above them; the current cell's field is the one selected."""

    pasted = Signal()
    removed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.heads = Heads(self)
        self.setHorizontalHeader(self.heads)
        self.verticalHeader().hide()
        self.verticalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        self.verticalHeader().setDefaultSectionSize(px(ROW))
        self.setItemDelegate(Cells(self))
        self.setShowGrid(False)
        self.setFrameShape(QTableView.Shape.NoFrame)
        self.setObjectName("records")
        self.setAccessibleName("records")
        triggers = QTableView.EditTrigger
        self.setEditTriggers(
            triggers.DoubleClicked | triggers.EditKeyPressed | triggers.AnyKeyPressed
        )
        self.setSelectionMode(QTableView.SelectionMode.NoSelection)
        self.setHorizontalScrollMode(QTableView.ScrollMode.ScrollPerPixel)
        self.setTabKeyNavigation(False)
        self.setStyleSheet("QTableView { background: transparent; }")

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride:
            plain = event.modifiers() in (NO_MODIFIER, Qt.KeyboardModifier.ShiftModifier)
            if plain and event.text().isprintable() and event.text():
                # A letter begins to type in the cell.
                event.accept()
                return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        model, current = self.model(), self.currentIndex()
        if event.matches(QKeySequence.StandardKey.Paste):
            self.pasted.emit()
        elif event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and current.isValid():
            if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
                self.removed.emit()
            elif current.flags() & Qt.ItemFlag.ItemIsEditable:
                model.setData(current, "")
        else:
            super().keyPressEvent(event)

    def show_records(self, records: Records, source: Source, typed: Typed | None = None) -> None:
        """Show the records of a source, each column as wide as its first values need.

        Args:
            typed: takes what is typed into a cell; none where nothing can be.
        """
        before = (self.selectionModel(), self.model())
        old = before[1]
        was = self.currentIndex() if isinstance(old, RecordsModel) else NOWHERE
        is_same = isinstance(old, RecordsModel) and old.records.source.id == source.id
        stood = (self.horizontalScrollBar().value(), self.verticalScrollBar().value())
        self.setModel(RecordsModel(records, typed))
        # A view lets go of neither by itself.
        for widget in before:
            if widget is not None:
                widget.deleteLater()
        self.heads.setSectionResizeMode(QHeaderView.ResizeMode.Interactive)
        plain, head = self.fontMetrics(), QFontMetrics(mono(px(12)))
        sample = [records.record(at) for at in range(min(SAMPLE, len(records)))]
        for number, name in enumerate(records.types):
            texts = (shown(each[name])[:60] for each in sample if not is_empty(each[name]))
            wide = max((plain.horizontalAdvance(each) for each in texts), default=0) + 24
            kind = plain.horizontalAdvance(records.types[name])
            named = max(head.horizontalAdvance(name), kind) + 26
            self.setColumnWidth(number, max(px(NARROWEST), named, min(wide, px(WIDEST))))
        # A view without a current cell takes one with the focus, as if it had been chosen.
        row, column = (was.row(), was.column()) if is_same and was.isValid() else (0, 0)
        column = min(column, len(records.types) - 1)
        self.setCurrentIndex(self.model().index(max(0, min(row, len(records) - 1)), column))
        if is_same:
            self.horizontalScrollBar().setValue(stood[0])
            self.verticalScrollBar().setValue(stood[1])

    def show_heads(
        self, heads: tuple[Head, ...], source: Source, references: dict[str, str]
    ) -> None:
        """Show what is counted of the fields."""
        self.heads.heads = {each.name: each for each in heads}
        badges: dict[str, tuple[str, str]] = {}
        for head in heads:
            if head.name == source.key:
                badges[head.name] = ("key", "holds_wash")
            elif head.name in references:
                badges[head.name] = (f"→ {references[head.name]}", "brass_wash")
            elif (head.longest or 0) > LONG:
                badges[head.name] = ("long", "card")
        self.heads.badges = badges
        self.heads.viewport().update()

    def choose_field(self, name: str) -> None:
        """Mark the head of a field; it comes into view when it is another than before."""
        model = self.model()
        if self.heads.chosen != name and isinstance(model, RecordsModel) and name in model.names:
            column = model.names.index(name)
            if self.currentIndex().column() != column:
                row = max(0, self.currentIndex().row())
                self.setCurrentIndex(model.index(row, column))
        self.heads.chosen = name
        self.heads.viewport().update()
