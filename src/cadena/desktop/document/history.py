"""The app, what it was before, what it was after, and what was saved of it: pure values."""

from __future__ import annotations

from typing import NamedTuple

from msgspec.structs import replace

from cadena.model.app import App
from cadena.model.part import Part

MOST = 2000
"""Edits that can be undone; those before them cannot be any more."""


class Past(NamedTuple):
    """An app as it was, and what was done to it then."""

    what: str
    app: App


class History(Part, frozen=True, kw_only=True):
    """The app as it now is, with the way there and back.

    Every change is another history: so that whoever holds one holds all of it.
    """

    app: App = App()
    past: tuple[Past, ...] = ()
    future: tuple[Past, ...] = ()
    saved: App = App()

    @property
    def is_saved(self) -> bool:
        """Whether the app is as it was saved."""
        return self.app == self.saved

    @property
    def undoes(self) -> str:
        """What undo would take back, or nothing."""
        return self.past[-1].what if self.past else ""

    @property
    def redoes(self) -> str:
        """What redo would do again, or nothing."""
        return self.future[-1].what if self.future else ""

    def edited(self, what: str, app: App) -> History:
        """The history after an edit; one that changes nothing is none."""
        if app == self.app:
            return self
        past = (*self.past, Past(what, self.app))[-MOST:]
        return replace(self, app=app, past=past, future=())

    def undone(self) -> History:
        """The history one edit back, as far as there is one."""
        if not self.past:
            return self
        *past, last = self.past
        future = (*self.future, Past(last.what, self.app))
        return replace(self, app=last.app, past=tuple(past), future=future)

    def redone(self) -> History:
        """The history one edit on, as far as there is one."""
        if not self.future:
            return self
        *future, following = self.future
        past = (*self.past, Past(following.what, self.app))
        return replace(self, app=following.app, past=past, future=tuple(future))

    def kept(self, app: App) -> History:
        """The history after this app was saved, or read from disk."""
        return replace(self, saved=app)


def opened(app: App, saved: App) -> History:
    """The history of a project as it is opened, perhaps with what was not saved of it."""
    return History(app=saved, saved=saved).edited("recover what was not saved", app)
