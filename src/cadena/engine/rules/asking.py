"""Who asked for a list to be opened, and what they hold now (rules.md, 15)."""

from __future__ import annotations

from collections.abc import Container, Sequence
from typing import NamedTuple

from msgspec.structs import replace

from cadena.engine.form_values import value_in
from cadena.engine.session import Entry, Session, owner_of
from cadena.engine.wired import WiredApp
from cadena.model.app import Brings, FormScreen, Link
from cadena.model.listing import Condition, Listing
from cadena.model.values import Scalar, Value
from cadena.records.query import Asked, query


class Asking(NamedTuple):
    """Who asked for a list to be opened, by its place in the chain, and by which link."""

    owner: int
    link: Link
    brings: Brings


def asking_of(app: WiredApp, entries: tuple[Entry, ...], index: int) -> Asking | None:
    """What an open screen is there to choose for; none where it was not opened to choose, or
    where who asked, and what of it, is no longer there."""
    entry = entries[index]
    asked = entry.opened_for
    if asked is None:
        return None
    owner = owner_of(asked, index)
    if not 0 <= owner < index:
        return None
    asker = entries[owner].screen
    there: dict[str, Container[str]] = {
        "field": app.fields_opening.get(asker, ()),
        "fact": app.facts.get(asker, ()),
        "button": app.buttons.get(asker, ()),
    }
    if asked.part not in there[asked.on]:
        return None
    link = app.links.get((asker, asked.on, asked.part))
    if link is None or link.brings is None or link.to != entry.screen:
        return None
    return Asking(owner, link, link.brings) if has_rows_to_bring(app, link) else None


def has_rows_to_bring(app: WiredApp, link: Link) -> bool:
    """Whether a link opens a screen with the list that what it brings is chosen from."""
    return link.brings is not None and link.brings.list in app.listings.get(link.to, {})


def with_asker(app: WiredApp, below: Sequence[Entry], entry: Entry) -> Entry:
    """An entry over some others: an ordinary list where nobody asks for it any more."""
    if entry.opened_for is None or asking_of(app, (*below, entry), len(below)) is not None:
        return entry
    return replace(entry, opened_for=None)


def choosing_for(app: WiredApp, entries: tuple[Entry, ...], index: int, part: str) -> Asking | None:
    """What a press on a row of a list brings home for, if it does."""
    asking = asking_of(app, entries, index)
    return asking if asking is not None and asking.brings.list == part else None


def held_by_asker(app: WiredApp, session: Session, asking: Asking) -> Value | None:
    """What who asked now holds."""
    asker = session.entries[asking.owner]
    on, part = asking.link.trigger.on, asking.link.trigger.part
    if on == "field":
        return value_in(app, session, asker, part)
    if on == "fact":
        value: Value | None = (app.record_of(session, asker) or {}).get(part)
        return value
    if asking.brings.argument:
        return asker.arguments.get(asking.brings.argument)
    return session.values.get(asking.brings.value)


def row_held(app: WiredApp, session: Session, index: int, part: str) -> Scalar | None:
    """The key of the row that who asked now holds, on a list that was opened to choose."""
    asking = choosing_for(app, session.entries, index, part)
    value = None if asking is None else held_by_asker(app, session, asking)
    if asking is None or value is None or isinstance(value, tuple):
        return None
    listing = app.listings[session.entries[index].screen][part]
    records = app.shown(session, listing.source)
    if records is None:
        return None
    field = asking.brings.field
    if not field or field == records.source.key:
        return value
    if field not in records.types:
        return None
    is_it = Condition(field=field, constant=value)
    rows = query(records, Listing(source=listing.source, where=(is_it,), limit=1), Asked())
    return rows.key_at(0) if len(rows) else None


def made_for(
    app: WiredApp, session: Session, index: int, form: FormScreen
) -> tuple[int, Asking] | None:
    """The list below a form, opened to choose among the records that the form makes."""
    for at in range(index - 1, 0, -1):
        asking = asking_of(app, session.entries, at)
        if asking is not None:
            listing = app.listings[session.entries[at].screen].get(asking.brings.list)
            return (at, asking) if listing is not None and listing.source == form.source else None
    return None


def keeps_draft(app: WiredApp, session: Session, index: int) -> int | None:
    """The form that an open screen was opened to choose for: what is typed in it is not lost."""
    for at in range(index, 0, -1):
        asking = asking_of(app, session.entries, at)
        if asking is not None:
            return asking.owner
    return None
