"""Commands: the toolkit's actions, with what lets each be given now."""

from __future__ import annotations

from collections.abc import Callable
from typing import Final, Literal

from PySide6.QtCore import QObject, Qt
from PySide6.QtGui import QAction, QKeySequence

Menu = Literal["", "Project", "Edit"]
KEYS: Final[dict[str, str]] = {}
"""The keys of each action, by its name in small letters: buttons that do the same say them."""


def always() -> bool:
    """A command that can always be given."""
    return True


class Action(QAction):
    """A command: what it is called, its keys, what it does, and whether it can be done now.

    Args:
        menu: the group of the window's menu that it stands in, if it does.
        of_picture: its keys are for the picture of its stage alone.
    """

    def __init__(
        self,
        name: str,
        does: Callable[[], object],
        *,
        owner: QObject,
        keys: str = "",
        can: Callable[[], bool] = always,
        menu: Menu = "",
        of_picture: bool = False,
    ) -> None:
        super().__init__(name.replace("&", "&&"), owner)
        self.name, self.can, self.group, self.of_picture = name, can, menu, of_picture
        self._does = does
        if keys:
            self.setShortcut(QKeySequence(keys))
            KEYS[name.lower()] = keys
        if of_picture:
            self.setShortcutContext(Qt.ShortcutContext.WidgetShortcut)
        self.triggered.connect(self.give)

    @property
    def keys(self) -> str:
        """Its keys, as they are shown; they are bound from the same text."""
        return self.shortcut().toString(QKeySequence.SequenceFormat.NativeText)

    def give(self) -> None:
        """Do it, if it can be done now."""
        if self.can():
            self._does()
