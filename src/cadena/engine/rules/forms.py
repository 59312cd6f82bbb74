"""Forms: typing, saving and leaving (rules.md, 10)."""

from __future__ import annotations

from cadena.engine.events import Cancel, Save, Type
from cadena.engine.form_values import checked, faults_of, form_of, with_typed
from cadena.engine.notes import Note, Notes, Refused
from cadena.engine.rules.after_saving import after_saving
from cadena.engine.rules.asking import made_for
from cadena.engine.rules.display import display_of
from cadena.engine.rules.passing import saying
from cadena.engine.rules.records_changed import apply_changes, not_sent
from cadena.engine.rules.targets import target_of
from cadena.engine.rules.unsent import takes
from cadena.engine.rules.writing import demand_not_sent, save_at_service, without_fault
from cadena.engine.session import Session
from cadena.engine.wired import WiredApp
from cadena.model.app import FormScreen
from cadena.model.values import Scalar, Value
from cadena.records.changes import Change, Changes
from cadena.records.records import Records


def type_in(app: WiredApp, session: Session, event: Type) -> tuple[Session, Notes]:
    """A field is given a value; what is as it was before makes no draft."""
    index, _ = target_of(app, session, display_of(app, session), event)
    demand_not_sent(session, index)
    session = without_fault(session, index, event.field)
    return with_typed(app, session, index, event.field, event.to), ()


def save(app: WiredApp, session: Session, event: Save) -> tuple[Session, Notes]:
    """Write the record, or name every field at fault and write nothing; then go on."""
    index, _ = target_of(app, session, display_of(app, session), event)
    demand_not_sent(session, index)
    entry = session.entries[index]
    form = form_of(app, entry)
    faults = faults_of(app, session, entry)
    if faults:
        note = Note.of("not saved", "", f"screens[{form.id}].fields", faults=faults)
        return session.with_view(index, tried=True), (note,)
    records = app.records(session, form.source)
    if records is None:
        raise Refused("no such source", f"screens[{form.id}].source", source=form.source)
    written = {each.field: checked(app, session, entry, each) for each in form.fields}
    key = app.key_of(entry)
    wanted = made_for(app, session, index, form) if key is None else None
    if key is not None and app.record_of(session, entry) is None:
        raise Refused("record is gone", source=form.source, key=key)
    # What was not typed stays as it is, which of a late source is not known in whole.
    typed = entry.view.draft.keys() - {records.source.key}
    if takes(app, form.source, "create" if key is None else "change"):
        sent = written if key is None else {n: each for n, each in written.items() if n in typed}
        return save_at_service(app, session, index, form, key, sent)
    if key is None:
        key, written = _with_key(records, form, written)
        changes = Changes(added=(written,))
        note = Note.of("saved", "new", source=form.source, key=key)
    else:
        change = Change(key, {name: each for name, each in written.items() if name in typed})
        changes = Changes(changed=(change,) if change.fields else ())
        note = Note.of("saved", source=form.source, key=key)
    session, notes = apply_changes(app, session, form.source, changes)
    session, after = after_saving(app, session, index, form, key, wanted)
    session, said = saying(app, session, form.says, form.source, key)
    return session, (note, *not_sent(app, form.source), *notes, *after, *said)


def _with_key(
    records: Records, form: FormScreen, written: dict[str, Value | None]
) -> tuple[Scalar, dict[str, Value | None]]:
    """The key of a new record: as typed, or made."""
    name = records.source.key
    typed = written.get(name)
    if typed is not None and not isinstance(typed, tuple):
        return typed, written
    key = records.unused_key(form.source)
    if key is None:
        where = f"screens[{form.id}].fields"
        raise Refused("no next key", where, field=name, type=records.types[name])
    return key, {**written, name: key}


def cancel(app: WiredApp, session: Session, event: Cancel) -> tuple[Session, Notes]:
    """Leave a form; what was typed goes, once that was agreed to."""
    index, _ = target_of(app, session, display_of(app, session), event)
    entry = session.entries[index]
    form = form_of(app, entry)
    if index == 0:
        return session.with_view(index, draft={}, tried=False), (
            Note.of("emptied", screen=form.id),
        )
    return session.cut_back(index), (Note.of("closed", "cancelled", screen=form.id),)
