"""Fields of a record that are changed where they stand (rules.md, 8)."""

from __future__ import annotations

from cadena.engine.events import Edit
from cadena.engine.notes import Note, Notes, Refused, unfit_field
from cadena.engine.rules.records_changed import demand_record, demand_referred
from cadena.engine.rules.unsent import changed_by_hand
from cadena.engine.session import Session
from cadena.engine.wired import WiredApp
from cadena.model.values import Unfit, carry
from cadena.records.changes import Change, Changes


def edit(app: WiredApp, session: Session, event: Edit) -> tuple[Session, Notes]:
    """Fields of one record change in place: that shows everywhere at once."""
    records = demand_record(app, session, event.source, event.key)
    for name in event.fields:
        if name not in records.types:
            raise Refused("no such field", f"sources[{event.source}]", field=name)
        if name == records.source.key:
            raise Refused("key stays", f"sources[{event.source}]", field=name)
        try:
            if event.fields[name] is not None:
                carry(event.fields[name], records.types[name])
        except Unfit as unfit:
            raise unfit_field(event.source, name, unfit) from None
        demand_referred(app, session, event.source, name, event.fields[name])
    change = Changes(changed=(Change(event.key, event.fields),))
    session, notes = changed_by_hand(app, session, event.source, change)
    note = Note.of("changed", source=event.source, key=event.key, fields=tuple(event.fields))
    return session, (note, *notes)
