"""A table of marks that is looked at and chosen from: nothing in it is edited."""

from __future__ import annotations

from PySide6.QtCore import QAbstractTableModel, QModelIndex, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QResizeEvent, QShowEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHeaderView,
    QStyledItemDelegate,
    QTableView,
    QWidget,
)

from cadena.desktop.painting.theme import px


class QuietTable(QTableView):
    """Tells which mark somebody has come to (``come_to``); Enter wants what is behind it.

    Args:
        row: how tall a row is, in px of the usual text size.
    """

    wanted = Signal()

    def __init__(
        self, model: QAbstractTableModel, name: str, row: int, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._is_quiet = False
        self.setModel(model)
        self.setAccessibleName(name)
        self.setObjectName("marks")
        self.setShowGrid(False)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setTabKeyNavigation(False)
        self.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.horizontalHeader().setHighlightSections(False)
        self.verticalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        self.verticalHeader().setDefaultSectionSize(px(row))
        left = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        self.verticalHeader().setDefaultAlignment(left)
        self.selectionModel().currentChanged.connect(self._tell)
        model.modelReset.connect(self._fit_heads)
        self._fit_heads()

    def _fit_heads(self) -> None:
        """No head is cut: where there is not the room for all, they are scrolled to."""
        head, model = self.horizontalHeader(), self.model()
        across, metrics = Qt.Orientation.Horizontal, head.fontMetrics()
        words = [
            word
            for at in range(model.columnCount())
            for word in str(model.headerData(at, across) or "").split("\n")
        ]
        head.setMinimumSectionSize(max(map(metrics.horizontalAdvance, words), default=0) + 6)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._fit_heads()

    def paint_by(self, delegate: QStyledItemDelegate) -> None:
        """Let each mark be painted so."""
        self.setItemDelegate(delegate)

    def come_to(self, index: QModelIndex) -> None:
        """Somebody has come to a mark."""

    def focusInEvent(self, event: QFocusEvent) -> None:
        # A table makes its first cell current on taking the focus: nobody has chosen that.
        self._is_quiet = True
        super().focusInEvent(event)
        self._is_quiet = False

    def _tell(self, now: QModelIndex, _: QModelIndex) -> None:
        if now.isValid() and not self._is_quiet:
            self.come_to(now)

    def go_to(self, row: int, column: int) -> None:
        """Make a mark the current one, without telling."""
        index = self.model().index(row, column)
        if index.isValid() and index != self.currentIndex():
            self.selectionModel().blockSignals(True)
            self.setCurrentIndex(index)
            self.selectionModel().blockSignals(False)
            self.scrollTo(index, QAbstractItemView.ScrollHint.PositionAtCenter)
            self.viewport().update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if self.currentIndex().isValid():
            self.scrollTo(self.currentIndex())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.wanted.emit()
        else:
            super().keyPressEvent(event)
