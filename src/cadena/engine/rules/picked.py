"""What is picked on lists, and what becomes of it (rules.md, 14)."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec.structs import replace

from cadena.engine.rules.display import display_of
from cadena.engine.session import Entry, Session
from cadena.engine.wired import Listed, WiredApp
from cadena.model.app import ListScreen
from cadena.model.listing import Button, DoneToRecords, Listing
from cadena.model.values import Scalar


def shown_of(app: WiredApp, listed: Listed, keys: tuple[Scalar, ...], known: int = -1) -> int:
    """How many of the keys that are picked a list shows now.

    Args:
        known: how many, where that is known.
    """
    at = ("shown of", id(keys), id(listed))
    made: tuple[object, object, int] = app.remember(
        at, lambda: (listed, keys, listed.rows.count_of(keys) if known < 0 else known)
    )
    return made[2]


def for_several(listing: Listing) -> tuple[Button, ...]:
    """The actions of a list that are for several; to open a screen is not done to several."""
    return tuple(
        action
        for action in listing.actions
        if action.several is not None and isinstance(action.does, DoneToRecords)
    )


def hides_buttons(app: WiredApp, entry: Entry) -> bool:
    """Whether what is picked on a list screen has taken the place of its own buttons."""
    return bool(entry.view.picked) and isinstance(app.screens.get(entry.screen), ListScreen)


def picked_on_display(app: WiredApp, session: Session) -> tuple[int, ...]:
    """The entries on display on which something is picked: what back lets go first."""
    if not app.with_several:
        return ()
    display = display_of(app, session)
    top = display.layer or display.slid
    panes = display.panes if top is None else (top,)
    entries = session.entries
    return tuple(
        pane.entry for pane in panes if pane.entry is not None and entries[pane.entry].view.picked
    )


def all_let_go(session: Session, entries: Iterable[int]) -> Session:
    """A session with nothing picked on some of its entries."""
    for index in entries:
        session = session.with_view(index, picked={})
    return session


def without_gone(app: WiredApp, session: Session, source: str = "") -> Session:
    """What is picked is let go once its record is gone; of late sources nothing is judged gone.

    Args:
        source: of this one alone, where it is named.
    """
    if not app.with_several:
        return session

    def kept(entry: Entry) -> Entry:
        picked = entry.view.picked
        if not picked:
            return entry
        now = dict(picked)
        for part, keys in picked.items():
            listing = app.listings.get(entry.screen, {}).get(part)
            of = "" if listing is None else listing.source
            if of in app.late or (source and of != source):
                continue
            records = app.records(session, of)
            if records is None or (entry.screen, part) not in app.with_several:
                del now[part]
                continue
            there = records.there(keys)
            if len(there) < len(keys):
                now[part] = there
            if not there:
                del now[part]
        return entry if now == picked else replace(entry, view=replace(entry.view, picked=now))

    return session.with_each_entry(lambda chain, index, entry: kept(entry))
