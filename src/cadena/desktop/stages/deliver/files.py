"""The files that are handed over: their names with what becomes of each, and the text of one."""

from __future__ import annotations

from typing import Any, Final

from PySide6.QtCore import QAbstractListModel, QModelIndex, QPersistentModelIndex, QSize, Qt, Signal
from PySide6.QtGui import QFont, QFontDatabase, QPainter
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QListView,
    QPlainTextEdit,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QWidget,
)

from cadena.deliver.delivery import YOURS, Handed
from cadena.desktop.painting.faces import font_of
from cadena.desktop.painting.theme import colour, px

ROW: Final = 24
MOST_TEXT: Final = 200_000
"""Letters of a file that are shown."""
STATES: Final = {
    "new": "new",
    "changed": "changed",
    "yours": "yours",
    "joined": "yours, joined",
    "both": "yours, not joined",
    "gone": "goes",
    "unused": "yours, not used",
}
NOWHERE: Final = QModelIndex()
Index = QModelIndex | QPersistentModelIndex


class FileNames(QAbstractListModel):
    """The files in the order that a reader would take them: the app's own first, the kit last."""

    def __init__(self) -> None:
        super().__init__()
        self.handed: tuple[Handed, ...] = ()

    def show(self, handed: tuple[Handed, ...]) -> None:
        ordered = tuple(sorted(handed, key=lambda each: _order(each.path)))
        if ordered != self.handed:
            self.beginResetModel()
            self.handed = ordered
            self.endResetModel()

    def rowCount(self, parent: Index = NOWHERE) -> int:
        return 0 if parent.isValid() else len(self.handed)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        each = self.handed[index.row()]
        if role == Qt.ItemDataRole.DisplayRole:
            return each.path
        if role in (Qt.ItemDataRole.AccessibleTextRole, Qt.ItemDataRole.ToolTipRole):
            return f"{each.path}, {each.said}" if each.said else each.path
        return None


def _order(path: str) -> tuple[int, str]:
    folders = ("screens/", "typescript/", "python/", "java/", "vectors/", "records/")
    last = ("pictures/", "kit/")
    if "/" not in path:
        return 0, path
    if path.startswith(last):
        return 3, path
    return 1 + (not path.startswith(folders[:1])), path


class FileDelegate(QStyledItemDelegate):
    """Paints a name, and at its right what becomes of the file."""

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        model = index.model()
        if not isinstance(model, FileNames):
            return
        each = model.handed[index.row()]
        rect = option.rect
        painter.save()
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(rect, colour("brass_wash"))
        state = STATES.get(each.state, "")
        painter.setFont(font_of(px(12), QFont.Weight.Normal))
        wide = painter.fontMetrics().horizontalAdvance(state) + 16 if state else 8
        is_yours = each.state in YOURS
        painter.setPen(colour("brass_ink" if is_yours else "soft"))
        right = int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        painter.drawText(rect.adjusted(0, 0, -10, 0), right, state)
        painter.setPen(colour("ink"))
        name = painter.fontMetrics().elidedText(
            each.path, Qt.TextElideMode.ElideMiddle, rect.width() - wide - 14
        )
        left = int(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        painter.drawText(rect.adjusted(10, 0, 0, 0), left, name)
        painter.restore()

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(px(120), px(ROW))


class Files(QWidget):
    """The names, and beside them the text of the one that somebody has come to."""

    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.files: dict[str, bytes] = {}
        self.names = FileNames()
        self.list = QListView()
        self.list.setModel(self.names)
        self.list.setItemDelegate(FileDelegate(self.list))
        self.list.setFrameShape(QFrame.Shape.NoFrame)
        self.list.setAccessibleName("files that are handed over")
        self.list.setFixedWidth(px(250))
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.text = QPlainTextEdit()
        self.text.setReadOnly(True)
        self.text.setProperty("role", "code")
        self.text.setAccessibleName("the text of the file")
        self.text.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        font = QFontDatabase.systemFont(QFontDatabase.SystemFont.FixedFont)
        font.setPixelSize(px(12))
        self.text.setFont(font)
        self.text.setTabChangesFocus(True)
        for view in (self.list, self.text):
            view.setMinimumHeight(px(ROW) * 3)
        row = QHBoxLayout(self)
        row.setContentsMargins(20, 6, 16, 6)
        row.setSpacing(10)
        row.addWidget(self.list)
        row.addWidget(self.text, 1)
        self.list.selectionModel().currentChanged.connect(self._come_to)

    def show_files(self, files: dict[str, bytes], handed: tuple[Handed, ...], path: str) -> None:
        """Show these files, and the text of one."""
        self.files = files
        self.names.show(handed)
        paths = [each.path for each in self.names.handed]
        wanted = path if path in paths else next(iter(paths), "")
        if wanted:
            index = self.names.index(paths.index(wanted))
            if index != self.list.currentIndex():
                self.list.selectionModel().blockSignals(True)
                self.list.setCurrentIndex(index)
                self.list.selectionModel().blockSignals(False)
                self.list.viewport().update()
        self._show_text(wanted)

    def _come_to(self, now: QModelIndex) -> None:
        if now.isValid():
            path = self.names.handed[now.row()].path
            self._show_text(path)
            self.chosen.emit(path)

    def _show_text(self, path: str) -> None:
        wraps = QPlainTextEdit.LineWrapMode
        self.text.setLineWrapMode(wraps.WidgetWidth if path.endswith(".txt") else wraps.NoWrap)
        text = said_of(path, self.files.get(path))
        if text != self.text.toPlainText():
            self.text.setPlainText(text)


def said_of(path: str, content: bytes | None) -> str:
    """What is shown of a file."""
    if content is None:
        return ""
    try:
        text = content.decode()
    except UnicodeDecodeError:
        return f"{path}: {len(content):,} bytes that are no text"
    if len(text) <= MOST_TEXT:
        return text
    return f"{text[:MOST_TEXT]}\n… {len(text) - MOST_TEXT:,} letters more"
