"""The Bench in a window of its own."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtGui import QCloseEvent
from PySide6.QtWidgets import QVBoxLayout, QWidget


class Apart(QWidget):
    """A window that holds the Bench, and gives it back when it is closed."""

    closed = Signal()

    def __init__(self, bench: QWidget) -> None:
        super().__init__()
        self.setWindowTitle("Bench · Cadena")
        self.setStyleSheet(bench.window().styleSheet())
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(bench)

    def closeEvent(self, event: QCloseEvent) -> None:
        event.accept()
        self.closed.emit()
        self.deleteLater()
