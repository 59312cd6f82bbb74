"""The first page, when nothing is open: what can be begun with, and what was open before."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Final

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QIcon, QPixmap, QShowEvent
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from cadena.desktop.document.stages import stages
from cadena.desktop.painting.theme import px
from cadena.desktop.process.settings import state_of
from cadena.desktop.widgets.controls import choice, clear, label

if TYPE_CHECKING:
    from cadena.desktop.widgets.running_app import RunningApp

WIDE: Final = 400
LEFT: Final = 300
"""Px that a project is wide."""
HIGH: Final = 96
"""Px that the picture of a recent project is high."""
MOST: Final = 3
NOT_SAVED: Final = "not saved yet"


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
        self._begin, self._recent = QVBoxLayout(), QHBoxLayout()
        self._stages = QGridLayout()
        self._begin.setSpacing(10)
        self._recent.setSpacing(12)
        self._stages.setHorizontalSpacing(20)
        self._stages.setVerticalSpacing(2)
        self.demo: RunningApp | None = None
        self._above = QHBoxLayout()
        self._above.setSpacing(40)
        self._above.addLayout(self._begin)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(px(48), px(28), px(48), px(24))
        outer.setSpacing(px(22))
        outer.addLayout(self._above, 1)
        outer.addLayout(self._recent)
        outer.addLayout(self._stages)

    def show_recent(self, recent: Sequence[str], drafts: Sequence[Path] = ()) -> None:
        """Offer the projects that are still there, and first those that are saved nowhere yet."""
        if self.demo is None:
            # Made where it is first shown: most windows begin with a project.
            from cadena.desktop.shell.live_demo import LiveDemo

            self.demo = LiveDemo()
            self.demo.clicked.connect(self.wants_demo.emit)
            self._above.addWidget(self.demo, 1)
        for layout in (self._begin, self._recent, self._stages):
            clear(layout)
        self._fill_begin()
        there = [(each, NOT_SAVED) for each in drafts[:MOST]]
        there += [(Path(each), "") for each in recent if Path(each).exists()]
        for path, state in there[:MOST]:
            name = path.stem if path.is_file() else path.name
            self._recent.addWidget(self._of_recent(path, name, state or str(path.parent)))
        self._recent.addStretch(1)
        for number, stage in enumerate(stages()):
            title = label(f"{stage.number} {stage.name}", "subject")
            title.setFixedHeight(px(22))
            about = label(stage.about, "about")
            about.setWordWrap(True)
            about.setAlignment(Qt.AlignmentFlag.AlignTop)
            self._stages.addWidget(title, 0, number)
            self._stages.addWidget(about, 1, number)
            self._stages.setColumnStretch(number, 1)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.setFocus()

    def _fill_begin(self) -> None:
        title = label("Wire a list to its detail, and see what stays true", "subject")
        self._begin.addWidget(title)
        about = label("Begin at once; where it is to be saved is asked when you save.", "about")
        self._begin.addWidget(about)
        line = QLineEdit()
        line.setPlaceholderText("What does the first list show? huts, concerts, …")
        line.setAccessibleName("begin with made-up records of")
        line.setFixedWidth(px(WIDE))
        line.returnPressed.connect(lambda: self.wants_made_up.emit(line.text()))
        self.setFocusProxy(line)
        self._begin.addWidget(line)
        self._begin.addWidget(label("three made-up records to begin with: Enter", "about"))
        self._offer("Drop data here, or choose files…", self.wants_files.emit, "open card")
        said = "JSON, CSV, spreadsheets, SQLite, Parquet, or an OpenAPI document"
        self._begin.addWidget(label(said, "about"))
        self._offer("Open a project…", self.wants_folder.emit)
        self._offer("Start with nothing", self.wants_empty.emit)
        self._begin.addStretch(1)

    def _of_recent(self, path: Path, name: str, about: str) -> QWidget:
        opens = partial(self.wants_project.emit, path)
        button = choice(f"{name}\n{about}", opens, name=f"open {name}", role="card")
        picture = QPixmap(str(picture_of(path)))
        if not picture.isNull():
            button.setIcon(QIcon(picture))
            scaled = picture.size().scaled(px(LEFT), px(HIGH), Qt.AspectRatioMode.KeepAspectRatio)
            button.setIconSize(QSize(min(scaled.width(), px(140)), px(HIGH)))
        # The style sheet has cards as wide as those of sources.
        button.setStyleSheet(f"max-width: {px(LEFT)}px; min-width: {px(LEFT)}px")
        button.setFixedHeight(px(HIGH + 16))
        return button

    def _offer(self, text: str, does: Callable[[], object], role: str = "choice") -> None:
        button = choice(text, does, role=role)
        button.setFixedWidth(px(WIDE))
        button.setMinimumHeight(px(64 if role == "open card" else 32))
        self._begin.addWidget(button)
