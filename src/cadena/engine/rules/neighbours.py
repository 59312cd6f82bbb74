"""From a detail to the rows beside its own (rules.md, 16)."""

from __future__ import annotations

from typing import NamedTuple

from cadena.engine.events import Neighbour
from cadena.engine.layout.sizes import NARROW
from cadena.engine.notes import Notes, Refused
from cadena.engine.rules.choosing import open_row
from cadena.engine.rules.display import display_of
from cadena.engine.rules.targets import target_of
from cadena.engine.session import LAYERS, RowRef, Session, cut, owner_of
from cadena.engine.wired import Listed, WiredApp
from cadena.model.values import Scalar


class Place(NamedTuple):
    """Where the row of a detail stands: the entry whose list it is of, and its place in that."""

    owner: int
    row: RowRef
    listed: Listed
    at: int

    @property
    def all(self) -> int:
        """How many rows there are, come or not."""
        return max(len(self.listed.asked), len(self.listed.rows))

    def key(self, by: int) -> Scalar | None:
        """The key of the row before, or of the next, of those that show; none at an end."""
        rows, stack, to = self.listed.rows, self.listed.stack(NARROW), self.at + by
        while 0 <= to < len(rows) and stack.is_hidden(to):
            to = stack.end(to) if by > 0 else stack.begin(to) - 1
        key: Scalar | None = rows.key_at(to) if 0 <= to < len(rows) else None
        return key


def place_of(app: WiredApp, session: Session, index: int) -> Place | None:
    """Where the row stands that opened a detail which offers its neighbours; none where it does
    not offer them, no row opened it, or its row is not on that list any more."""
    entry = session.entries[index]
    row = entry.row
    if entry.screen not in app.with_neighbours or row is None or row.action:
        return None
    owner = owner_of(row, index)
    if not 0 <= owner < index:
        return None
    of = session.entries[owner]
    if (of.screen, row.part) not in app.row_links or (of.screen, row.part) in app.choosing:
        return None
    listed = app.listed(session, of, row.part)
    at = None if listed is None else listed.rows.index_of(row.key)
    return None if listed is None or at is None else Place(owner, row, listed, at)


def neighbour(app: WiredApp, session: Session, event: Neighbour) -> tuple[Session, Notes]:
    """Choose the row beside that of a detail, as if it were chosen in its list."""
    index, _ = target_of(app, session, display_of(app, session), event)
    place = place_of(app, session, index)
    key = None if place is None else place.key(event.by)
    if place is None or key is None:
        raise Refused("no neighbour", f"screens[{session.entries[index].screen}]")
    entries = session.entries
    if any(each.opened in LAYERS for each in entries[place.owner + 1 : index + 1]):
        # What lies over its list is taken away first, as who chooses there would have to.
        session = session.with_entries(cut(entries, place.owner + 1))
    area = display_of(app, session).area_of(place.owner)
    return open_row(app, session, place.owner, area, place.row.part, key)
