"""The run: what has happened to the app, newest first, each line what, why, and by which rule."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any, Final

from PySide6.QtCore import (
    QAbstractListModel,
    QEvent,
    QModelIndex,
    QPersistentModelIndex,
    QPointF,
    QRect,
    QRectF,
    QSize,
    Qt,
)
from PySide6.QtGui import QFont, QKeyEvent, QPainter, QPen
from PySide6.QtWidgets import QListView, QStyledItemDelegate

from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.document.sessions import Traced
from cadena.desktop.painting.faces import elided, font_of
from cadena.desktop.painting.theme import colour, px
from cadena.engine.events import Answered, Written, in_short
from cadena.engine.notes import Note
from cadena.words.notes import in_words
from cadena.words.rules import rule_of

if TYPE_CHECKING:
    from PySide6.QtWidgets import QStyleOptionViewItem

    from cadena.sources.connection import Exchange

Index = QModelIndex | QPersistentModelIndex
HIGH: Final = 40
NOWHERE: Final = QModelIndex()


def what_of(line: Traced) -> str:
    """What happened, in a word or two."""
    if line.event is None:
        return "started" if any(note.kind == "started" for note in line.notes) else "meanwhile"
    return in_short(line.event, "key", "button", "section", "text", "to")


def why_of(line: Traced, exchanges: Mapping[int, tuple[Exchange, ...]] | None = None) -> str:
    """What it did, and by which rule; of what a service has answered, what was asked of it."""
    notes = [note for note in line.notes if note.kind != "started"]
    number = line.event.request if isinstance(line.event, Answered | Written) else -1
    asked = (exchanges or {}).get(number, ())
    return "; ".join((*map(str, asked), *map(_by_rule, notes)))


def _by_rule(note: Note) -> str:
    """A note in words, with the number of its rule where the words do not name it."""
    said = in_words(note)
    return said if "(rule " in said else f"{said} (rule {rule_of(note)})"


class RunModel(QAbstractListModel):
    """The lines of what has happened, newest first."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.lines: list[tuple[int, Traced]] = []

    def refresh(self) -> None:
        self.beginResetModel()
        self.lines = list(reversed(list(enumerate(self.document.trace))))
        self.endResetModel()

    def rowCount(self, parent: Index = NOWHERE) -> int:
        return 0 if parent.isValid() else len(self.lines)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        number, line = self.lines[index.row()]
        what, why = what_of(line), why_of(line, self.document.services.exchanges)
        if role == Qt.ItemDataRole.ToolTipRole:
            return why or what
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return f"{number + 1}, {what}: {why}" if why else f"{number + 1}, {what}"
        return None


class Lines(QStyledItemDelegate):
    """Paints a line: a mark on the thread, what happened, and why under it."""

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(120, px(HIGH))

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        view, model = self.parent(), index.model()
        assert isinstance(model, RunModel)
        assert isinstance(view, RunList)
        number, line = model.lines[index.row()]
        at = model.document.sessions.at
        is_now = number == (len(model.lines) - 1 if at is None else at)
        is_ahead = at is not None and number > at
        rect: QRect = option.rect
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if is_now or index == view.currentIndex():
            painter.setPen(QPen(colour("brass"), 1) if is_now else Qt.PenStyle.NoPen)
            painter.setBrush(colour("brass_wash" if is_now else "card"))
            painter.drawRoundedRect(QRectF(rect).adjusted(1, 1, -3, -1), 6, 6)
        x, y = rect.left() + px(14), rect.top() + px(14)
        painter.setPen(QPen(colour("hairline"), 2))
        if index.row() + 1 < len(model.lines):
            painter.drawLine(int(x), int(y), int(x), rect.bottom() + px(10))
        painter.setPen(QPen(colour("brass" if not is_ahead else "hairline"), 2))
        painter.setBrush(colour("brass" if is_now else "paper"))
        painter.drawEllipse(QPointF(x, y), px(5), px(5))
        ink = "broken_ink" if line.refused else "soft" if is_ahead else "ink"
        left, wide = x + px(14), rect.right() - x - px(46)
        bold, plain = QFont.Weight.Bold, QFont.Weight.Normal
        painter.setFont(font_of(px(12), bold))
        painter.setPen(colour(ink))
        sign = "✕ " if line.refused else ""
        said = elided(sign + what_of(line), px(12), bold, int(wide) - 8)
        top = QRectF(left, rect.top() + px(3), wide, px(17))
        painter.drawText(top, int(Qt.AlignmentFlag.AlignVCenter), said)
        painter.setFont(font_of(px(11), plain))
        painter.setPen(colour("soft"))
        below = QRectF(left, rect.top() + px(20), wide + px(24), px(16))
        exchanges = model.document.services.exchanges
        why = elided(why_of(line, exchanges), px(11), plain, int(below.width()) - 6)
        painter.drawText(below, int(Qt.AlignmentFlag.AlignVCenter), why)
        right = QRectF(rect.right() - px(34), rect.top() + px(3), px(26), px(17))
        painter.drawText(right, int(Qt.AlignmentFlag.AlignRight), str(number + 1))
        painter.restore()


class RunList(QListView):
    """Shows the run; a press goes back to that moment, and going on starts anew from it."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.setObjectName("run")
        self.setAccessibleName("the run, newest first")
        self.setFrameShape(QListView.Shape.NoFrame)
        self.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setUniformItemSizes(True)
        self.setMouseTracking(True)
        self.setStyleSheet("QListView { background: transparent; }")
        self.lines = RunModel(document)
        self.setModel(self.lines)
        self.setItemDelegate(Lines(self))
        self.clicked.connect(self._go)
        self.entered.connect(self._peek)
        document.watch(Change.APP, self.tell)

    def tell(self) -> None:
        """Show what has happened since."""
        self.lines.refresh()

    def _go(self, index: QModelIndex) -> None:
        number, _ = self.lines.lines[index.row()]
        self.document.go_back_to(number)
        self.setCurrentIndex(self.lines.index(index.row()))

    def _peek(self, index: QModelIndex) -> None:
        self.document.peek(self.lines.lines[index.row()][0])

    def leaveEvent(self, event: QEvent) -> None:
        self.document.peek(None)
        super().leaveEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        current = self.currentIndex()
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            if current.isValid():
                self._go(current)
        else:
            super().keyPressEvent(event)
