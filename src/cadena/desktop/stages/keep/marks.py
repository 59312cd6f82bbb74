"""The marks: pieces of state down, disturbances across, each mark the result of a run."""

from __future__ import annotations

from typing import Any, Final

from PySide6.QtCore import (
    QAbstractTableModel,
    QModelIndex,
    Qt,
    Signal,
)
from PySide6.QtWidgets import QWidget

from cadena.desktop.widgets.quiet_table import QuietTable
from cadena.desktop.widgets.signs import Index, Sign, SignDelegate
from cadena.runs.keep.disturbances import DISTURBANCES, Disturbance
from cadena.runs.keep.marks_in_words import LAST, pieces_in
from cadena.runs.keep.pieces import Piece
from cadena.runs.keep.run import SIGNS, Mark, Matrix, Run

WIDE, ROW = 56, 30
INDENT: Final = " " * 8
INKS: Final[dict[Mark, tuple[str, str]]] = {
    "kept": ("holds_wash", "holds_ink"),
    "let go as asked": ("paper", "soft"),
    "moved on as asked": ("region2", "ink"),
    "lost": ("broken_wash", "broken_ink"),
    "wrong": ("broken_wash", "broken_ink"),
}


class MarksModel(QAbstractTableModel):
    """A matrix as rows and columns."""

    def __init__(self) -> None:
        super().__init__()
        self.columns: tuple[Disturbance, ...] = DISTURBANCES
        self.matrix: Matrix = {}
        self.pieces: list[Piece] = []
        self.is_fresh = False

    def show(
        self,
        matrix: Matrix,
        is_fresh: bool,
        columns: tuple[Disturbance, ...] = DISTURBANCES,
    ) -> None:
        """Show some columns of a matrix; one that is not fresh is of the app as it was."""
        if (matrix is self.matrix and columns is self.columns) and is_fresh == self.is_fresh:
            return
        self.beginResetModel()
        self.matrix, self.is_fresh, self.columns = matrix, is_fresh, columns
        self.pieces = pieces_in(matrix, columns)
        self.endResetModel()

    def run_at(self, index: Index) -> Run | None:
        """The run behind a mark."""
        if not index.isValid():
            return None
        return self.matrix.get((self.pieces[index.row()], self.columns[index.column()].name))

    def sign(self, index: Index) -> Sign | None:
        """How a mark is painted."""
        run = self.run_at(index)
        if run is None:
            return None
        ground, ink = INKS.get(run.mark, ("ground", "soft"))
        edge, bold = ("broken", 1.5) if run.is_broken else ("hairline", 0.5)
        is_bare = run.mark == "nothing to keep here"
        return Sign(SIGNS[run.mark], ground, ink, edge, bold, is_bare, self.is_fresh)

    def rowCount(self, parent: Index = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(self.pieces)

    def columnCount(self, parent: Index = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(self.columns)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        run = self.run_at(index)
        if run is None:
            return None
        if role == Qt.ItemDataRole.DisplayRole:
            return SIGNS[run.mark]
        if role in (Qt.ItemDataRole.AccessibleTextRole, Qt.ItemDataRole.ToolTipRole):
            stale = "" if self.is_fresh else ", as it was before the last change"
            return f"{run.piece.name}, {run.disturbance}: {run.mark}{stale}"
        return None

    def headerData(
        self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> Any:
        if orientation == Qt.Orientation.Horizontal:
            each = self.columns[section]
            if role == Qt.ItemDataRole.DisplayRole:
                return each.name.replace(" ", "\n", 1)
            return each.about if role == Qt.ItemDataRole.ToolTipRole else None
        piece = self.pieces[section]
        if role == Qt.ItemDataRole.DisplayRole:
            return f"{self._name(section)}   {piece.lifetime}"
        if role == Qt.ItemDataRole.AccessibleTextRole:
            return f"{piece.name}, lives {piece.lifetime}"
        return piece.where if role == Qt.ItemDataRole.ToolTipRole else None

    def _name(self, row: int) -> str:
        """A piece by name; those of one screen name it once, and stand under it."""
        piece = self.pieces[row]
        above = self.pieces[row - 1] if row else None
        if above is None or above.of != piece.of or {above.kind, piece.kind} & {*LAST}:
            return piece.name
        return INDENT + piece.name.removeprefix(f"{piece.of} · ")


class Marks(QuietTable):
    """The marks to look at and to choose from; Enter plays the run of one."""

    chosen = Signal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        self.marks = MarksModel()
        super().__init__(self.marks, "what survives", ROW, parent)
        self.paint_by(SignDelegate(self, self.marks.sign, 14, (WIDE, ROW)))

    def come_to(self, index: QModelIndex) -> None:
        run = self.marks.run_at(index)
        if run is not None:
            self.chosen.emit(run)

    def choose(self, piece: str, disturbance: str) -> None:
        """Select the mark of a piece, without telling."""
        names = [each.name for each in self.marks.pieces]
        columns = [each.name for each in self.marks.columns]
        if piece in names and disturbance in columns:
            self.go_to(names.index(piece), columns.index(disturbance))
