"""What buttons and row actions do beside opening a screen."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, Final

from msgspec.structs import replace

from cadena.engine import events as do
from cadena.engine.notes import Note, Notes, Refused, unfit_field, unfit_value
from cadena.engine.rules.display import display_of
from cadena.engine.rules.leaving import leave_for
from cadena.engine.rules.opening import link_of, open_link
from cadena.engine.rules.passing import saying
from cadena.engine.rules.picked import hides_buttons
from cadena.engine.rules.records_changed import not_sent
from cadena.engine.rules.targets import target_of
from cadena.engine.rules.unsent import changed_by_hand
from cadena.engine.session import Entry, Menu, Removal, RowRef, Session, cut
from cadena.engine.wired import WiredApp
from cadena.model.app import DetailScreen
from cadena.model.listing import (
    Does,
    Follow,
    LeaveFor,
    Mark,
    RemoveRecord,
    SaveRows,
    SetField,
    SetValue,
    ToggleField,
)
from cadena.model.naming import label_field
from cadena.model.values import LIST, FieldType, Scalar, Unfit, Value, carry
from cadena.records.changes import Alike, Change, Changes
from cadena.records.records import FEW_KEYS, Records

ABOUT_A_RECORD: Final = (do.Press, do.Act)


def press(app: WiredApp, session: Session, event: do.Press) -> tuple[Session, Notes]:
    """A button of a screen is pressed; on a detail it is about the detail's record."""
    index, _ = target_of(app, session, display_of(app, session), event)
    entry = session.entries[index]
    if hides_buttons(app, entry):
        raise Refused("rows are picked", f"screens[{entry.screen}]")
    does = app.buttons[entry.screen][event.button].does
    if isinstance(does, Follow):
        return open_link(
            app, session, index, link_of(app, entry.screen, "button", event.button), None
        )
    if isinstance(does, SaveRows):
        return _save_rows(app, session, index, does)
    if isinstance(does, LeaveFor):
        return leave_for(session, app.record_of(session, entry), does.field)
    key = app.key_of(entry)
    if key is None:
        raise Refused("no record here", f"screens[{entry.screen}]")
    source = app.source_of(entry)
    record = app.record_of(session, entry)
    after, notes = _done(app, session, does, source, key, record)
    says = app.buttons[entry.screen][event.button].says
    after, said = saying(app, after, says, source, key, record)
    notes = (*notes, *said)
    is_detail = isinstance(app.screens[entry.screen], DetailScreen)
    if isinstance(does, RemoveRecord) and is_detail and index and len(after.entries) > index:
        still = after.entries[index]
        # Removed from its own detail: nobody stays to be told that it is gone.
        if still.arguments == entry.arguments and still.screen == entry.screen:
            after = after.with_entries(cut(after.entries, index))
    return after, notes


def act(app: WiredApp, session: Session, event: do.Act) -> tuple[Session, Notes]:
    """An action of a row is taken; the row counts as the one that led on."""
    index, _ = target_of(app, session, display_of(app, session), event)
    entry = session.entries[index]
    part, button = app.actions[entry.screen][event.action]
    _demand_none_picked(entry, part)
    record = _on_list(app, session, entry, part, event.key)
    if record is None:
        raise Refused("row not listed", f"screens[{entry.screen}]", key=event.key)
    if isinstance(button.does, Follow):
        link = link_of(app, entry.screen, "action", event.action)
        row = RowRef(part, event.key, action=event.action)
        return open_link(app, session, index, link, row)
    if isinstance(button.does, LeaveFor):
        return leave_for(session, record, button.does.field)
    source = app.listings[entry.screen][part].source
    after, notes = _done(app, session, button.does, source, event.key, record)
    after, said = saying(app, after, button.says, source, event.key, record)
    return after, (*notes, *said)


def _on_list(
    app: WiredApp, session: Session, entry: Entry, part: str, key: Scalar
) -> dict[str, Any] | None:
    """The record of a row as its list shows it; none where it is not on the list."""
    listed = app.listed(session, entry, part)
    if listed is None or listed.rows.index_of(key) is None:
        return None
    return listed.rows.records.by_key(key)


def open_menu(app: WiredApp, session: Session, event: do.OpenMenu) -> tuple[Session, Notes]:
    """The menu of a row's actions is opened, or that of the orders of a list (4.0)."""
    index, _ = target_of(app, session, display_of(app, session), event)
    listing = app.listings[session.entries[index].screen][event.list]
    if event.key is None:
        if not listing.orders:
            raise Refused("no orders", f"screens[{session.entries[index].screen}]")
    elif not listing.actions:
        raise Refused("no row actions", f"screens[{session.entries[index].screen}]")
    else:
        _demand_none_picked(session.entries[index], event.list)
    return replace(session, menu=Menu(index, event.list, event.key)), ()


def _demand_none_picked(entry: Entry, part: str) -> None:
    """While rows are picked, what can be done is for all of them (14)."""
    if part in entry.view.picked:
        raise Refused("rows are picked", f"screens[{entry.screen}]")


def close_menu(app: WiredApp, session: Session, event: do.CloseMenu) -> tuple[Session, Notes]:
    """Close the menu; nothing else is touched."""
    if session.menu is None:
        raise Refused("no menu is open")
    return replace(session, menu=None), ()


def question_before(app: WiredApp, session: Session, event: object) -> tuple[str, str] | None:
    """What an action asks before it is done, and the word for yes; none for most."""
    if isinstance(event, do.ActOnPicked):
        return _question_before_several(app, session, event)
    if isinstance(event, ABOUT_A_RECORD):
        index, _ = target_of(app, session, display_of(app, session), event)
        entry = session.entries[index]
        if isinstance(event, do.Act):
            part, button = app.actions[entry.screen][event.action]
            source = app.listings[entry.screen][part].source
            record = _on_list(app, session, entry, part, event.key)
            record = None if part in entry.view.picked else record
        else:
            button = app.buttons[entry.screen][event.button]
            source, record = app.source_of(entry), app.record_of(session, entry)
        # What is refused asks nothing before.
        if isinstance(button.does, RemoveRecord) and button.does.confirm and record is not None:
            return app.say(source).fill(button.does.confirm, record), button.label
    return None


def _question_before_several(
    app: WiredApp, session: Session, event: do.ActOnPicked
) -> tuple[str, str] | None:
    """What an action asks once before it is done to all that is picked."""
    index, _ = target_of(app, session, display_of(app, session), event)
    entry = session.entries[index]
    part, button = app.actions[entry.screen][event.action]
    picked = entry.view.picked.get(part, ())
    if button.several is None or not button.several.confirm or not picked:
        return None
    text = words_for(app, button.several.confirm, len(picked))
    return text, words_for(app, button.several.label or button.label, len(picked))


def words_for(app: WiredApp, text: str, count: int) -> str:
    """What an action on several says, with their count in it."""
    return app.words(text, count=count)


def _done(
    app: WiredApp,
    session: Session,
    does: Does,
    source: str,
    key: Scalar,
    record: dict[str, Any] | None,
) -> tuple[Session, Notes]:
    """Do it to a record, which is as it is on display: of a late source, what has come."""
    records = app.records(session, source)
    if records is None or record is None:
        raise Refused("no such record", f"sources[{source}]", source=source, key=key)
    match does:
        case RemoveRecord():
            title = app.say(source).value(label_field(records.source, records.types), record)
            session, notes = changed_by_hand(app, session, source, Changes(gone=(key,)))
            removal = Removal(source, (key,), title) if does.undo else None
            note = Note.of("removed", source=source, key=key)
            return replace(session, removal=removal), (note, *not_sent(app, source), *notes)
        case Mark():
            return _marked(app, session, does, key)
        case SetField() | ToggleField():
            kind = _kind_set(records, does.field)
            to = does.to if isinstance(does, SetField) else _toggled(does, record)
            value = _fitting(source, does.field, to, kind)
            change = Changes(changed=(Change(key, {does.field: value}),))
            session, notes = changed_by_hand(app, session, source, change)
            data = {"source": source, "key": key, "field": does.field, "to": value}
            return session, (Note("changed", "field", data), *not_sent(app, source), *notes)
        case _:
            raise Refused("from a list only")


def _kind_set(records: Records, field: str) -> FieldType:
    """The type of a field that an action sets."""
    if field not in records.types or field == records.source.key:
        raise Refused("field not set", f"sources[{records.source.id}]", field=field)
    return records.types[field]


def _fitting(source: str, field: str, to: Value | None, kind: FieldType) -> Value | None:
    try:
        return None if to is None else carry(to, kind)
    except Unfit as unfit:
        raise unfit_field(source, field, unfit) from None


def done_to_several(
    app: WiredApp, session: Session, does: Does, source: str, keys: tuple[Scalar, ...]
) -> tuple[Session, Notes]:
    """Do it to several records at once: for all of them, or for none (14).

    What is marked, or switched on, in all is taken out, or switched off, in all; else put in, or
    switched on. Of named values each goes to its next.
    """
    records = app.shown(session, source)
    if records is None:
        raise Refused("no such record", f"sources[{source}]", source=source, key=keys[0])
    count = len(keys)
    match does:
        case RemoveRecord():
            session, notes = changed_by_hand(app, session, source, Changes(gone=keys))
            title = app.words("{count} records", count=count)
            removal = Removal(source, keys, title) if does.undo else None
            note = Note.of("removed", "several", source=source, count=count)
            return replace(session, removal=removal), (note, *not_sent(app, source), *notes)
        case Mark():
            return _several_marked(app, session, does, keys)
        case SetField() | ToggleField():
            kind = _kind_set(records, does.field)
            made = [
                (some, _fitting(source, does.field, to, kind))
                for some, to in _set_alike(does, records, keys)
            ]
            changes = Changes(alike=tuple(Alike(some, {does.field: to}) for some, to in made))
            if count <= FEW_KEYS:
                changed = {key: {does.field: to} for some, to in made for key in some}
                changes = Changes(tuple(Change(each, changed[each]) for each in keys))
            session, notes = changed_by_hand(app, session, source, changes)
            data = {"source": source, "count": count, "field": does.field}
            return session, (Note("changed", "several", data), *not_sent(app, source), *notes)
        case _:
            raise Refused("not for several")


def _set_alike(
    does: SetField | ToggleField, records: Records, keys: tuple[Scalar, ...]
) -> Iterator[tuple[tuple[Scalar, ...], Value | None]]:
    """Which of some records are to hold what."""
    if isinstance(does, SetField):
        yield keys, does.to
    elif not does.between:
        yield keys, not all(records.values_with(does.field, keys))
    else:
        nexts: dict[Value | None, list[Scalar]] = {}
        for key in keys:
            nexts.setdefault(_toggled(does, records.by_key(key) or {}), []).append(key)
        yield from ((tuple(some), to) for to, some in nexts.items())


def _toggled(does: ToggleField, record: dict[str, Any]) -> Value | None:
    now = record.get(does.field)
    if not does.between:
        return not now
    at = does.between.index(now) if now in does.between else -1
    return does.between[(at + 1) % len(does.between)]


def is_on(app: WiredApp, session: Session, does: Does, source: str, record: Any, key: Any) -> bool:
    """Whether what a button marks or toggles is on now."""
    if isinstance(does, Mark):
        marks = session.values.get(does.value, ())
        return isinstance(marks, tuple) and key in marks
    if isinstance(does, ToggleField):
        now = (record or {}).get(does.field)
        return now == does.between[-1] if does.between else now is True
    return False


def _marked(app: WiredApp, session: Session, does: Mark, key: Scalar) -> tuple[Session, Notes]:
    marks = _marks(app, session, does)
    is_marked = key in marks
    made = tuple(each for each in marks if each != key) if is_marked else (*marks, key)
    session = _with_marks(app, session, does, made)
    case = "unmarked" if is_marked else "marked"
    note = Note.of("set", case, value=does.value, key=key, count=len(made))
    return session, (note,)


def _several_marked(
    app: WiredApp, session: Session, does: Mark, keys: tuple[Scalar, ...]
) -> tuple[Session, Notes]:
    marks = dict.fromkeys(_marks(app, session, does))
    are_marked = all(each in marks for each in keys)
    if are_marked:
        going = set(keys)
        made = tuple(each for each in marks if each not in going)
    else:
        made = tuple(dict.fromkeys((*marks, *keys)))
    session = _with_marks(app, session, does, made)
    case = "several unmarked" if are_marked else "several marked"
    return session, (Note.of("set", case, value=does.value, picked=len(keys), count=len(made)),)


def _marks(app: WiredApp, session: Session, does: Mark) -> tuple[Any, ...]:
    """The keys that an app-wide value holds."""
    declared = app.values.get(does.value)
    if declared is None or not declared.type.startswith(LIST):
        raise Refused("no such marks", "values", value=does.value)
    marks = session.values.get(does.value, ())
    return marks if isinstance(marks, tuple) else ()


def _with_marks(app: WiredApp, session: Session, does: Mark, made: tuple[Any, ...]) -> Session:
    try:
        value = carry(made, app.values[does.value].type)
    except Unfit as unfit:
        raise unfit_value(does.value, unfit) from None
    return replace(session, values={**session.values, does.value: value})


def pressed_row(
    app: WiredApp, session: Session, does: SetValue | Mark, key: Scalar
) -> tuple[Session, Notes]:
    """A press on a row that sets an app-wide value to its key, or marks it (7.8)."""
    if isinstance(does, Mark):
        return _marked(app, session, does, key)
    declared = app.values.get(does.value)
    if declared is None:
        raise Refused("no such value", "values", value=does.value)
    try:
        value = carry(key, declared.type)
    except Unfit as unfit:
        raise unfit_value(does.value, unfit) from None
    note = Note.of("set", value=does.value, to=value)
    return replace(session, values={**session.values, does.value: value}), (note,)


def _save_rows(
    app: WiredApp, session: Session, index: int, does: SaveRows
) -> tuple[Session, Notes]:
    entry = session.entries[index]
    listed = app.listed(session, entry, "")
    if listed is None:
        raise Refused("no rows to save", f"screens[{entry.screen}]")
    data = {"screen": entry.screen, "count": len(listed.rows), "form": does.form}
    return session, (Note("handed out", "", data, f"screens[{entry.screen}]"),)


def undo(app: WiredApp, session: Session, event: do.Undo) -> tuple[Session, Notes]:
    """Put back what an action removed; it stands where it stood."""
    removal = session.removal
    if removal is None:
        raise Refused("nothing was removed")
    source, keys = removal.source, removal.keys
    changes = session.changes[source].with_back(keys)
    session = replace(session, removal=None, changes={**session.changes, source: changes})
    if len(keys) > 1:
        return session, (Note.of("put back", "several", source=source, count=len(keys)),)
    return session, (Note.of("put back", source=source, key=keys[0]),)
