"""The line under the head that says what could not be done, and offers what could be."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Final

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QHBoxLayout, QLabel, QWidget

from cadena.desktop.process.threads import is_there
from cadena.desktop.widgets.controls import choice, clear, label, put
from cadena.desktop.widgets.polish import marked

FOR: Final = 9000
"""Ms that a word stays which asks for nothing."""


class Said(QWidget):
    """Shown while there is something to say."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("said-line")
        self.words: QLabel = label("", "broken", "said")
        self.words.setWordWrap(True)
        self._offers = QHBoxLayout()
        self._offers.setSpacing(6)
        row = QHBoxLayout(self)
        row.setContentsMargins(20, 6, 20, 6)
        row.addWidget(self.words, 1)
        row.addLayout(self._offers)
        self._quiet = QTimer(self, singleShot=True, interval=FOR)
        self._quiet.timeout.connect(self.hide)
        self.hide()

    def text(self) -> str:
        """What is said."""
        return self.words.text()

    def say_well(self, text: str) -> None:
        """Say what was done; nothing, where the line is gone with its window."""
        if is_there(self.words):
            self.say(text, is_well=True)

    def say(
        self,
        text: str,
        offers: Sequence[tuple[str, Callable[[], object]]] = (),
        is_well: bool = False,
    ) -> None:
        """Say something; with offers it stays until one is taken, or it is put away.

        Args:
            is_well: it says what was done, and not what could not be.
        """
        marked(self.words, "role", "about" if is_well else "broken")
        self.words.setText(text)
        self.words.setAccessibleName(text)
        clear(self._offers)
        for name, does in offers:
            put(self._offers, choice(name, lambda does=does: self._take(does)))  # type: ignore[misc]
        if offers:
            put(self._offers, choice("Put away", self.hide, name="put the message away"))
            self._quiet.stop()
        else:
            self._quiet.start()
        self.show()

    def _take(self, does: Callable[[], object]) -> None:
        self.hide()
        does()
