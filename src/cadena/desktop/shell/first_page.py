"""The first page, when nothing is open: what can be begun with, and what was open before."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Final

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QIcon, QPixmap
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from cadena.desktop.painting.theme import px
from cadena.desktop.process.settings import state_of
from cadena.desktop.widgets.controls import choice, clear, label

WIDE: Final = 380
HIGH: Final = 96
"""Px that the picture of a recent project is high."""


def picture_of(project: Path) -> Path:
    """Where the picture of a project, as it was last left, is kept."""
    return state_of(project, "pictures", ".png")


class FirstPage(QWidget):
    """Offers what can be opened."""

    wants_project = Signal(Path)
    wants_demo = Signal()
    wants_empty = Signal()
    wants_folder = Signal()
    wants_files = Signal()
    wants_made_up = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._begin, self._recent = QVBoxLayout(), QVBoxLayout()
        for each in (self._begin, self._recent):
            each.setSpacing(10)
        columns = QHBoxLayout()
        columns.setSpacing(48)
        columns.addStretch(1)
        columns.addLayout(self._begin)
        columns.addLayout(self._recent)
        columns.addStretch(1)
        outer = QVBoxLayout(self)
        outer.addStretch(1)
        outer.addLayout(columns)
        outer.addStretch(2)

    def show_recent(self, recent: tuple[str, ...]) -> None:
        """Offer these projects, those that are still there."""
        clear(self._begin)
        clear(self._recent)
        title = label("Wire a list to its detail, and see what stays true", "subject")
        self._begin.addWidget(title)
        about = "A project is a folder: records, screens, links between them, and walks."
        self._begin.addWidget(label(about, "about"))
        self._offer("Drop data here, or choose files…", self.wants_files.emit, "open card")
        said = "JSON, CSV, spreadsheets, SQLite, Parquet, or an OpenAPI document"
        self._begin.addWidget(label(said, "about"))
        line = QLineEdit()
        line.setPlaceholderText("What does the first list show? huts, concerts, …")
        line.setAccessibleName("begin with made-up records of")
        line.setFixedWidth(px(WIDE))
        line.returnPressed.connect(lambda: self.wants_made_up.emit(line.text()))
        self._begin.addWidget(line)
        self._begin.addWidget(label("three made-up records to begin with: Enter", "about"))
        self._offer("Open the demo, Cresta Huts", self.wants_demo.emit)
        self._offer("Open a project…", self.wants_folder.emit)
        self._offer("Start an empty project…", self.wants_empty.emit)
        there = [Path(each) for each in recent if Path(each).exists()]
        if there:
            self._recent.addWidget(label("Recent", "about"))
        for path in there[:4]:
            name = path.stem if path.is_file() else path.name
            self._recent.addWidget(self._of_recent(path, name))
        self._recent.addStretch(1)
        self._begin.addStretch(1)

    def _of_recent(self, path: Path, name: str) -> QWidget:
        opens = partial(self.wants_project.emit, path)
        button = choice(f"{name}\n{path.parent}", opens, name=f"open {name}", role="card")
        picture = QPixmap(str(picture_of(path)))
        if not picture.isNull():
            button.setIcon(QIcon(picture))
            scaled = picture.size().scaled(px(WIDE), px(HIGH), Qt.AspectRatioMode.KeepAspectRatio)
            button.setIconSize(QSize(min(scaled.width(), px(140)), px(HIGH)))
        # The style sheet has cards as wide as those of sources.
        button.setStyleSheet(f"max-width: {px(WIDE)}px; min-width: {px(WIDE)}px")
        button.setFixedHeight(px(HIGH + 16))
        return button

    def _offer(self, text: str, does: Callable[[], object], role: str = "choice") -> None:
        button = choice(text, does, role=role)
        button.setFixedWidth(px(WIDE))
        button.setMinimumHeight(px(64 if role == "open card" else 32))
        self._begin.addWidget(button)
