"""What a form scrolls: its fields one under another (rules.md, 10)."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, Final

from cadena.engine.form_values import faults_of, form_of, value_in
from cadena.engine.layout.pieces import NO_RECORD, Piece, is_narrow, state_piece
from cadena.engine.layout.sizes import BUTTON, CHOICE, FAULT, GAP, INPUT, INPUT_LINE, LABEL, WORDS
from cadena.engine.session import Entry, Session, Write
from cadena.engine.wired import ITEM, NOT_LOADED, WiredApp
from cadena.model.app import FormScreen, Link
from cadena.model.blocks import FormField
from cadena.model.listing import Listing
from cadena.model.naming import fields_of_label, label_field
from cadena.model.values import Scalar, shown
from cadena.records.query import Asked, query
from cadena.records.records import Records
from cadena.records.template import is_empty

OFFERED: Final = 4
IN_PLACE: Final = 12
"""Up to so many records are all offered where they stand; of more, the nearest few."""
LOOKED_THROUGH: Final = 1000
"""Records found by a label among which the only one that is called so is looked for."""


def form_pieces(
    app: WiredApp, session: Session, entry: Entry, screen: FormScreen, width: float
) -> Iterator[Piece]:
    """A label, a place to type or choices, and after a save that failed the fault of each field."""
    if app.key_of(entry) is not None and app.record_of(session, entry) is None:
        load = entry.loads.get(ITEM, NOT_LOADED) if screen.source in app.late else None
        if load is not None and load.state in ("loading", "failed"):
            yield state_piece(app, load, ITEM)
            return
        key = shown(app.key_of(entry))
        yield Piece("words", "", WORDS, lines=(app.words(NO_RECORD, key=key),))
        return
    faults = faults_of(app, session, entry) if entry.view.tried else {}
    yield Piece("gap", "", GAP)
    write = write_at(session, entry)
    if write is not None:
        faults = {**faults, **write.faults}
        said = said_of(app, write)
        tall = FAULT + GAP + (CHOICE if write.theirs else 0.0)
        yield Piece("sent", "", tall, lines=(said,))
    for field in screen.fields:
        lines = (faults[field.field],) if field.field in faults else ()
        tall = LABEL + GAP + (FAULT if lines else 0.0)
        if write is not None and field.field in write.theirs:
            tall += FAULT + CHOICE
        offered = choices_of(app, session, entry, field)
        if offered:
            tall += CHOICE * len(offered)
        if has_input(app, session, screen, field):
            tall += INPUT + (field.lines - 1) * INPUT_LINE
        elif not offered:
            tall += INPUT
        yield Piece("form field", field.field, tall, field, lines=lines)
    if is_narrow(width):
        yield Piece("save", "", 2 * (BUTTON + 8) + GAP)


def write_at(session: Session, entry: Entry) -> Write | None:
    """What the form of an entry has sent, until that is confirmed or given up (9.1)."""
    forms = ((each, each.form) for each in session.writes)
    return next((each for each, form in forms if form and form.is_of(form.section, entry)), None)


def said_of(app: WiredApp, write: Write) -> str:
    """What a form says of what it has sent."""
    match write.state:
        case "unsent":
            return app.words("It was not sent: {why}", why=app.words(write.why))
        case "refused":
            return write.why or app.words("It was refused.")
        case "quicker":
            return app.words("Somebody else has changed this as well.")
    return app.words("Being sent…")


def opening_link(app: WiredApp, screen: FormScreen, field: FormField) -> Link | None:
    """The link by which a field opens the list that it is filled from, or none (15)."""
    return app.links.get((screen.id, "field", field.field)) if field.opens else None


def has_input(app: WiredApp, session: Session, screen: FormScreen, field: FormField) -> bool:
    """Whether a field is typed into: not where it is switched, or all there is can be pressed."""
    if field.choices or is_switch(app, screen.source, field.field):
        return False
    return opening_link(app, screen, field) is None and not offers_all(app, session, field)


def offers_all(app: WiredApp, session: Session, field: FormField) -> bool:
    """Whether the records that a field chooses among are so few that all are offered."""
    records = app.records(session, field.choices_from) if field.choices_from else None
    return records is not None and 0 < len(records) <= IN_PLACE


def is_switch(app: WiredApp, source: str, field: str) -> bool:
    """Whether a field is switched on and off."""
    return app.type_of(source, field) == "yes/no"


def free_text_field(app: WiredApp, screen: FormScreen) -> str | None:
    """The first field of a form that any text can be typed into, or none."""
    for field in screen.fields:
        if app.type_of(screen.source, field.field) == "text" and not field.choices:
            return field.field
    return None


def choices_of(
    app: WiredApp, session: Session, entry: Entry, field: FormField
) -> tuple[tuple[Scalar, str], ...]:
    """What a field of a form offers to choose, each with its words: all, or the nearest few."""
    if field.choices:
        return tuple((each, shown(each)) for each in field.choices if not isinstance(each, tuple))
    if opening_link(app, form_of(app, entry), field) is not None:
        return ()
    records = app.records(session, field.choices_from) if field.choices_from else None
    if records is None:
        return ()
    if offers_all(app, session, field):
        return nearest(app, records, "", IN_PLACE)
    typed = value_in(app, session, entry, field.field)
    if isinstance(typed, tuple):
        return ()
    if typed is not None and records.row_of(typed) is not None:
        return ((typed, name_of(app, field.choices_from, records.by_key(typed))),)
    return nearest(app, records, shown(typed) if typed not in (None, "") else "")


def said_in(
    app: WiredApp, session: Session, screen: FormScreen, field: FormField, value: Any
) -> str:
    """What a field that holds a value says: the label of a record that it names, never its key."""
    if is_empty(value):
        return ""
    link = opening_link(app, screen, field)
    source, by = field.choices_from, ""
    if link is not None and link.brings is not None:
        listing = app.listings.get(link.to, {}).get(link.brings.list)
        source, by = ("" if listing is None else listing.source), link.brings.field
    records = app.records(session, source) if source else None
    if records is None or isinstance(value, tuple) or (by and by != records.source.key):
        return shown(value)
    record = records.by_key(value)
    return shown(value) if record is None else name_of(app, source, record)


def nearest(
    app: WiredApp, records: Records, text: str, most: int = OFFERED
) -> tuple[tuple[Scalar, str], ...]:
    """The first few records whose label or key holds a text."""
    source = records.source
    label = label_field(source, records.types)
    listing = Listing(source=source.id, search=(*fields_of_label(label), source.key), limit=most)
    rows = query(records, listing, Asked(search=text))
    return tuple(
        (rows.key_at(index), name_of(app, source.id, rows.record_at(index)))
        for index in range(len(rows))
    )


def key_called(app: WiredApp, records: Records, text: str) -> Scalar | None:
    """The key of the only record whose label is a text, in any case; none where several are."""
    source = records.source
    label = label_field(source, records.types)
    listing = Listing(source=source.id, search=fields_of_label(label), limit=LOOKED_THROUGH)
    rows = query(records, listing, Asked(search=text))
    wanted = text.strip().casefold()
    called = [
        rows.key_at(at)
        for at in range(len(rows))
        if name_of(app, source.id, rows.record_at(at)).casefold() == wanted
    ]
    return called[0] if len(called) == 1 and rows.found == len(rows) else None


def name_of(app: WiredApp, source: str, record: dict[str, Any] | None) -> str:
    """What a person calls a record: its label."""
    records = app.as_read[source]
    label = label_field(records.source, records.types)
    return app.say(source).value(label, record)
