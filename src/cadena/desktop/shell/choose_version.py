"""Two versions of one project: which of them is wanted."""

from __future__ import annotations

import difflib
from typing import Literal

from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QPlainTextEdit,
    QVBoxLayout,
    QWidget,
)

from cadena.desktop.painting.theme import mono, px
from cadena.desktop.widgets.controls import choice, label

Which = Literal["theirs", "mine", "neither"]
MOST = 2000


def difference(mine: str, theirs: str) -> str:
    """What differs, line by line: - is on disk alone, + is here alone."""
    lines = difflib.unified_diff(
        theirs.splitlines(), mine.splitlines(), "on disk", "here", lineterm="", n=2
    )
    kept = list(lines)[:MOST]
    return "\n".join(kept) or "They say the same, written otherwise."


class AskWhich(QDialog):
    """Asks what to do with a project that somebody else has saved meanwhile."""

    def __init__(self, over: QWidget, name: str, mine: str, theirs: str) -> None:
        super().__init__(over)
        self.answer: Which = "neither"
        self.setWindowTitle("Changed on disk")
        said = label(
            f"{name} was changed on disk since it was read here, by another window or program.",
            "subject",
        )
        said.setWordWrap(True)
        self.shown = QPlainTextEdit(difference(mine, theirs))
        self.shown.setReadOnly(True)
        self.shown.setFont(mono(px(12)))
        self.shown.setAccessibleName("what differs")
        self.shown.setMinimumSize(px(640), px(320))
        self.shown.hide()
        row = QHBoxLayout()
        row.addWidget(choice("Take theirs", lambda: self._give("theirs"), name="take theirs"))
        row.addWidget(choice("Keep mine", lambda: self._give("mine"), name="keep mine"))
        row.addWidget(choice("Compare", self._compare, name="compare"))
        row.addStretch(1)
        row.addWidget(choice("Do nothing", lambda: self._give("neither"), name="do nothing"))
        column = QVBoxLayout(self)
        for part in (said, self.shown):
            column.addWidget(part)
        column.addLayout(row)

    def _give(self, answer: Which) -> None:
        self.answer = answer
        self.accept()

    def _compare(self) -> None:
        self.shown.show()
        self.adjustSize()


def ask_which(over: QWidget, name: str, mine: str, theirs: str) -> Which:
    """Ask which of two versions is wanted; neither leaves all as it is."""
    dialog = AskWhich(over, name, mine, theirs)
    dialog.exec()
    return dialog.answer
