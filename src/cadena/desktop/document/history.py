"""The app, what it was before, what it was after, and what was saved of it: pure values."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Final, NamedTuple

from msgspec.structs import replace

from cadena.model.app import App
from cadena.model.part import Part
from cadena.sources.open_project import Place, place_of

if TYPE_CHECKING:
    from cadena.sources.table import Table

Tables = Mapping[Place, "Table"]
"""The records that were changed by hand, by where they are."""
NONE: Final[Tables] = {}

MOST = 2000
"""Edits that can be undone; those before them cannot be any more."""


class Past(NamedTuple):
    """An app as it was, and what was done to it then."""

    what: str
    app: App
    tables: Tables


class History(Part, frozen=True, kw_only=True):
    """The app as it now is, with the way there and back.

    Every change is another history: so that whoever holds one holds all of it.
    """

    app: App = App()
    tables: Tables = NONE
    past: tuple[Past, ...] = ()
    future: tuple[Past, ...] = ()
    saved: App = App()
    saved_tables: Tables = NONE

    @property
    def is_saved(self) -> bool:
        """Whether the app is as it was saved."""
        return self.app == self.saved and not self.changed_tables

    @property
    def changed_tables(self) -> frozenset[Place]:
        """Where records that the app reads were changed by hand since they were saved."""
        now, saved = self.tables, self.saved_tables
        if now is saved:
            return frozenset()
        places = {*now, *saved} & {place_of(source) for source in self.app.sources}
        return frozenset(each for each in places if now.get(each) is not saved.get(each))

    @property
    def undoes(self) -> str:
        """What undo would take back, or nothing."""
        return self.past[-1].what if self.past else ""

    @property
    def redoes(self) -> str:
        """What redo would do again, or nothing."""
        return self.future[-1].what if self.future else ""

    def edited(self, what: str, app: App, tables: Tables | None = None) -> History:
        """The history after an edit; one that changes nothing is none.

        Args:
            tables: the records that were changed by hand, where these are others now.
        """
        tables = self.tables if tables is None else tables
        if app == self.app and tables is self.tables:
            return self
        past = (*self.past, Past(what, self.app, self.tables))[-MOST:]
        return replace(self, app=app, tables=tables, past=past, future=())

    def undone(self) -> History:
        """The history one edit back, as far as there is one."""
        if not self.past:
            return self
        *past, last = self.past
        future = (*self.future, Past(last.what, self.app, self.tables))
        return replace(self, app=last.app, tables=last.tables, past=tuple(past), future=future)

    def redone(self) -> History:
        """The history one edit on, as far as there is one."""
        if not self.future:
            return self
        *future, following = self.future
        past = (*self.past, Past(following.what, self.app, self.tables))
        app, tables = following.app, following.tables
        return replace(self, app=app, tables=tables, past=past, future=tuple(future))

    def written(self, place: Place) -> History:
        """The history after what was typed at a place was saved."""
        saved = {each: table for each, table in self.saved_tables.items() if each != place}
        if place in self.tables:
            saved[place] = self.tables[place]
        return replace(self, saved_tables=saved)

    def kept(self, app: App, tables: Tables | None = None) -> History:
        """The history after this app was saved, or read from disk with these tables."""
        return replace(
            self, saved=app, saved_tables=self.saved_tables if tables is None else tables
        )


def opened(app: App, saved: App, tables: Tables | None = None) -> History:
    """The history of a project as it is opened, perhaps with what was not saved of it."""
    begun = History(app=saved, saved=saved)
    return begun.edited("recover what was not saved", app, tables or begun.tables)
