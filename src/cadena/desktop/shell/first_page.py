"""The first page, when nothing is open: recent projects, the demo, an empty project."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from cadena.desktop.widgets.controls import choice, clear, label


class FirstPage(QWidget):
    """Offers what can be opened."""

    wants_project = Signal(Path)
    wants_demo = Signal()
    wants_empty = Signal()
    wants_folder = Signal()

    def __init__(self) -> None:
        super().__init__()
        self._column = QVBoxLayout()
        self._column.setSpacing(10)
        outer = QVBoxLayout(self)
        outer.addStretch(1)
        outer.addLayout(self._column)
        outer.addStretch(2)

    def show_recent(self, recent: tuple[str, ...]) -> None:
        """Offer these projects, those that are still there."""
        clear(self._column)
        middle = Qt.AlignmentFlag.AlignHCenter
        title = label("Wire a list to its detail, and see what stays true", "subject")
        self._column.addWidget(title, 0, middle)
        about = "A project is a folder: records, screens, links between them, and walks."
        self._column.addWidget(label(about, "about"), 0, middle)
        first: list[QPushButton] = [
            choice("Open the demo, Cresta Huts", self.wants_demo.emit),
            choice("Open a project…", self.wants_folder.emit),
            choice("Start an empty project…", self.wants_empty.emit),
        ]
        for button in first:
            button.setMinimumWidth(300)
            button.setMinimumHeight(32)
            self._column.addWidget(button, 0, middle)
        there = [Path(each) for each in recent if Path(each).exists()]
        if there:
            self._column.addWidget(label("Recent", "about"), 0, middle)
        for path in there:
            name = path.stem if path.is_file() else path.name
            button = choice(
                f"{name}   {path.parent}",
                partial(self.wants_project.emit, path),
                name=f"open {name}",
            )
            button.setMinimumWidth(300)
            self._column.addWidget(button, 0, middle)
