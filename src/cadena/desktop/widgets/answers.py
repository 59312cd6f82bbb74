"""A table of answers: claims, walks, or what was reached, each against windows."""

from __future__ import annotations

from typing import Any, Final, Literal, NamedTuple

from PySide6.QtCore import (
    QAbstractTableModel,
    QModelIndex,
    Qt,
    Signal,
)

from cadena.desktop.painting.theme import Look, px
from cadena.desktop.widgets.quiet_table import QuietTable
from cadena.desktop.widgets.signs import Index, Sign, SignDelegate

WIDE, ROW = 64, 28
LARGE: Final = 1.25
"""Above this scale of the desktop's text, titles of columns stand in three lines."""
NOWHERE: Final = QModelIndex()
Tone = Literal["holds", "to depth", "broken", "aside", "none"]
INKS: Final[dict[Tone, tuple[str, str, str]]] = {
    "holds": ("holds_wash", "holds_ink", "holds_wash"),
    "to depth": ("card", "holds_ink", "holds"),
    "broken": ("broken_wash", "broken_ink", "broken"),
    "aside": ("paper", "soft", "hairline"),
    "none": ("ground", "soft", "hairline"),
}


class Cell(NamedTuple):
    """What one answer shows, and says in words."""

    text: str
    tone: Tone
    said: str


class Line(NamedTuple):
    """A line of the table: what it is about, its words, and its cells."""

    about: str
    words: str
    cells: tuple[Cell, ...]


class Answers(QAbstractTableModel):
    """Lines and columns of answers."""

    def __init__(self) -> None:
        super().__init__()
        self.columns: tuple[str, ...] = ()
        self.lines: tuple[Line, ...] = ()
        self.is_fresh = False

    def show(self, columns: tuple[str, ...], lines: tuple[Line, ...], is_fresh: bool) -> None:
        """Show other answers; those that are not fresh are of the app as it was."""
        if (columns, lines, is_fresh) == (self.columns, self.lines, self.is_fresh):
            return
        self.beginResetModel()
        self.columns, self.lines, self.is_fresh = columns, lines, is_fresh
        self.endResetModel()

    def cell(self, index: Index) -> Cell | None:
        if not index.isValid():
            return None
        return self.lines[index.row()].cells[index.column()]

    def sign(self, index: Index) -> Sign | None:
        """How a cell is painted."""
        cell = self.cell(index)
        if cell is None:
            return None
        return Sign(cell.text, *INKS[cell.tone], 1.4, cell.tone == "none", self.is_fresh)

    def rowCount(self, parent: Index = NOWHERE) -> int:
        return 0 if parent.isValid() else len(self.lines)

    def columnCount(self, parent: Index = NOWHERE) -> int:
        return 0 if parent.isValid() else len(self.columns)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        cell = self.cell(index)
        if cell is None:
            return None
        if role == Qt.ItemDataRole.DisplayRole:
            return cell.text
        if role in (Qt.ItemDataRole.AccessibleTextRole, Qt.ItemDataRole.ToolTipRole):
            stale = "" if self.is_fresh else ", as it was before the last change"
            line, column = self.lines[index.row()], self.columns[index.column()]
            return f"{line.words}, {column}: {cell.said}{stale}"
        return None

    def headerData(
        self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> Any:
        if role not in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.ToolTipRole):
            return None
        if orientation == Qt.Orientation.Horizontal:
            is_shown = role == Qt.ItemDataRole.DisplayRole
            lines = 3 if Look.scale > LARGE else 2
            return in_lines(self.columns[section], lines) if is_shown else self.columns[section]
        return self.lines[section].words


def in_lines(title: str, lines: int = 2) -> str:
    """A title in so many lines at most, as even as its words allow."""
    words = title.split(" ")
    if lines == 1:
        return title
    halves = (
        f"{' '.join(words[:at])}\n{in_lines(' '.join(words[at:]), lines - 1)}".rstrip()
        for at in range(1, len(words) + 1)
    )
    return min(halves, key=lambda text: max(map(len, text.split("\n"))))


class AnswerTable(QuietTable):
    """The answers to look at and to choose from; Enter plays the walk of one."""

    chosen = Signal(int, int)

    def __init__(self) -> None:
        self.answers = Answers()
        super().__init__(self.answers, "what is proven", ROW)
        self.paint_by(SignDelegate(self, self.answers.sign, 13, (WIDE, ROW), WIDE))
        self.setMinimumHeight(px(ROW) * 5)
        self.verticalHeader().setSectionsClickable(True)
        self.verticalHeader().sectionClicked.connect(lambda row: self.chosen.emit(row, -1))
        self.clicked.connect(self.come_to)

    def come_to(self, index: QModelIndex) -> None:
        self.chosen.emit(index.row(), index.column())
