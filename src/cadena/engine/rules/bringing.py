"""A list that is opened to choose from brings what is chosen to who asked (rules.md, 15)."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from cadena.engine.events import OpenField
from cadena.engine.form_values import with_typed
from cadena.engine.notes import Note, Notes, Refused, unfit_field, unfit_value
from cadena.engine.rules.asking import Asking
from cadena.engine.rules.display import display_of
from cadena.engine.rules.opening import link_of, open_link
from cadena.engine.rules.records_changed import demand_referred, not_sent
from cadena.engine.rules.targets import target_of
from cadena.engine.rules.unsent import changed_by_hand
from cadena.engine.session import Entry, Session, cut, touched
from cadena.engine.wired import WiredApp
from cadena.model.app import Link, ListScreen
from cadena.model.values import Scalar, Unfit, Value, carry
from cadena.records.changes import Change, Changes


def open_field(app: WiredApp, session: Session, event: OpenField) -> tuple[Session, Notes]:
    """A field of a form opens the list that it is filled from."""
    index, _ = target_of(app, session, display_of(app, session), event)
    link = link_of(app, session.entries[index].screen, "field", event.field)
    return open_link(app, session, index, link, None)


def bring(
    app: WiredApp, session: Session, index: int, asking: Asking, source: str, key: Scalar
) -> tuple[Session, Notes]:
    """Bring a record home: the list that was opened to choose, and all above it, leaves.

    Raises:
        Refused: where what is brought does not fit who asked, or its record is not there.
    """
    records = app.shown(session, source)
    record = None if records is None else records.by_key(key)
    if records is None or record is None:
        raise Refused("no such record", f"sources[{source}]", source=source, key=key)
    field = asking.brings.field or records.source.key
    if field not in record:
        raise Refused("no such field", f"links[{asking.link.id}].brings", field=field)
    session = session.with_entries(cut(session.entries, index))
    asker = touched(session.entries[asking.owner])
    session = replace(session.with_entry(asking.owner, asker), slid=False)
    session, notes = _give(app, session, asking, record[field])
    note = Note.of("brought", link=asking.link.id, screen=asker.screen, value=record[field])
    return session, (note, *notes)


def _give(
    app: WiredApp, session: Session, asking: Asking, value: Value | None
) -> tuple[Session, Notes]:
    """Give a value to who asked."""
    link, brings, owner = asking.link, asking.brings, asking.owner
    asker, on, part = session.entries[owner], link.trigger.on, link.trigger.part
    if on == "field":
        return with_typed(app, session, owner, part, value), ()
    if on == "fact":
        return _into_fact(app, session, asker, part, value)
    if brings.argument:
        return _into_argument(app, session, owner, link, brings.argument, value)
    declared = app.values.get(brings.value)
    if declared is None:
        raise Refused("brings nowhere", f"links[{link.id}].brings", link=link.id)
    try:
        made = None if value is None else carry(value, declared.type)
    except Unfit as unfit:
        raise unfit_value(declared.id, unfit) from None
    values = {name: each for name, each in session.values.items() if name != declared.id}
    if made is not None:
        values[declared.id] = made
    return replace(session, values=values), (Note.of("set", value=declared.id, to=made),)


def _into_fact(
    app: WiredApp, session: Session, asker: Entry, field: str, value: Value | None
) -> tuple[Session, Notes]:
    """A fact takes it as a change in place does."""
    source, key, record = app.source_of(asker), app.key_of(asker), app.record_of(session, asker)
    records = app.records(session, source)
    if records is None or record is None or field not in records.types:
        raise Refused("no such record", f"sources[{source}]", source=source, key=key)
    if field == records.source.key:
        raise Refused("key stays", f"sources[{source}]", field=field)
    try:
        made = None if value is None else carry(value, records.types[field])
    except Unfit as unfit:
        raise unfit_field(source, field, unfit) from None
    demand_referred(app, session, source, field, made)
    change = Changes(changed=(Change(key, {field: made}),))
    session, notes = changed_by_hand(app, session, source, change)
    data: dict[str, Any] = {"source": source, "key": key, "field": field, "to": made}
    return session, (Note("changed", "field", data), *not_sent(app, source), *notes)


def _into_argument(
    app: WiredApp, session: Session, owner: int, link: Link, name: str, value: Value | None
) -> tuple[Session, Notes]:
    """An argument of the screen that asked; not the one that says which record it is about."""
    asker = session.entries[owner]
    screen = app.screens[asker.screen]
    where = f"links[{link.id}].brings"
    parameter = next((each for each in screen.parameters if each.name == name), None)
    if parameter is None or value is None:
        raise Refused("brings nowhere", where, link=link.id)
    if not isinstance(screen, ListScreen) and screen.key == name:
        raise Refused("key stays", where, field=name)
    try:
        made = carry(value, parameter.type)
    except Unfit as unfit:
        who = ("link", link.id, screen.id)
        unfits = {"parameter": name, "came": unfit.came, "wanted": unfit.wanted}
        raise Refused("argument unfit", where, who=who, **unfits) from None
    given = replace(asker, arguments={**asker.arguments, name: made})
    return session.with_entry(owner, given), ()
