"""The one thing selected: a small type for each kind, so that none is taken for another.

What is of the whole app stands here; a stage has its own beside it (``stages/NAME/selected.py``).
"""

from __future__ import annotations

from msgspec import Struct

from cadena.model.app import Trigger


class Selection(Struct, frozen=True):
    """Nothing is selected."""


class AllFindings(Selection, frozen=True):
    """Everything that is open."""


class AllWalks(Selection, frozen=True):
    """The walks of the project."""


class WholeApp(Selection, frozen=True):
    """The app itself: its name, what all screens share, and what it runs on."""


class SelectedWalk(Selection, frozen=True):
    """One of them, by the name of its file."""

    walk: str


class SelectedLink(Selection, frozen=True):
    link: str


class SelectedTrigger(Selection, frozen=True):
    """A trigger that no link starts from."""

    trigger: Trigger


class OnScreen(Selection, frozen=True):
    """A screen, or something on one."""

    screen: str


class SelectedScreen(OnScreen, frozen=True):
    pass


class SelectedSection(Selection, frozen=True):
    section: str


class SelectedSource(Selection, frozen=True):
    source: str


class SelectedField(SelectedSource, frozen=True):
    """A field of a source."""

    field: str


class NewSource(Selection, frozen=True):
    """What a source is to be added from."""
