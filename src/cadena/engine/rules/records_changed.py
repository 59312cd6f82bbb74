"""Records that change under an open app (rules.md, 8)."""

from __future__ import annotations

from typing import Any, Final

from msgspec.structs import replace

from cadena.engine.events import Refresh, Remove
from cadena.engine.notes import Note, Notes, Refused
from cadena.engine.rules.lists import unsettle
from cadena.engine.rules.opening import arguments_for, link_for, stored_view
from cadena.engine.rules.picked import without_gone
from cadena.engine.session import Chain, Entry, Session, cut, owner_of
from cadena.engine.wired import WiredApp
from cadena.model.app import DetailScreen
from cadena.model.values import Scalar, Unfit, Value, carry
from cadena.records.changes import Alike, Change, Changes
from cadena.records.records import Records
from cadena.records.template import is_empty

NOTHING: Final = Changes()

LeftOut = list[tuple[str, dict[str, Any]]]
"""Of changes that cannot be: which way not, and the data of that."""


def refresh(app: WiredApp, session: Session, event: Refresh) -> tuple[Session, Notes]:
    """The records of a source come again."""
    changes = Changes(event.changed, event.gone, event.added)
    _demand_source(app, event.source)
    session, notes = apply_changes(app, session, event.source, changes, by_itself=True)
    data = {"source": event.source, "changed": len(event.changed), "gone": len(event.gone)}
    note = Note("refreshed", "", {**data, "new": len(event.added)})
    return unsettle(app, session, event.source), (note, *notes)


def remove(app: WiredApp, session: Session, event: Remove) -> tuple[Session, Notes]:
    """One record is removed."""
    demand_record(app, session, event.source, event.key)
    going = Changes(gone=(event.key,))
    session, notes = apply_changes(app, session, event.source, going, by_itself=True)
    return session, (Note.of("removed", source=event.source, key=event.key), *notes)


def demand_referred(
    app: WiredApp, session: Session, source: str, name: str, value: Value | None
) -> None:
    """What a field refers to is a record that is there (8)."""
    to = app.chosen_among.get(source, {}).get(name)
    records = None if to is None else app.records(session, to)
    if to is None or records is None or is_empty(value) or isinstance(value, tuple):
        return
    if records.row_of(value) is None:
        raise Refused("no such record", f"sources[{to}]", source=to, key=value)


def _demand_source(app: WiredApp, source: str) -> None:
    if source not in app.as_read:
        raise Refused("no such source", "sources", source=source)


def demand_record(app: WiredApp, session: Session, source: str, key: Scalar) -> Records:
    """The records of a source, which are to hold one of this key."""
    _demand_source(app, source)
    records = app.records(session, source)
    if records is None or records.row_of(key) is None:
        raise Refused("no such record", f"sources[{source}]", source=source, key=key)
    return records


def not_sent(app: WiredApp, source: str) -> Notes:
    """That a change stays in the app: a service is only read (9)."""
    of = app.sources.get(source)
    is_service = of is not None and of.served == "service" and source not in app.writes
    return (Note.of("not sent", source=source),) if is_service else ()


def apply_changes(
    app: WiredApp, session: Session, source: str, changes: Changes, by_itself: bool = False
) -> tuple[Session, Notes]:
    """Make changes to the records of a source; they show everywhere at once (8).

    What goes goes first, then what is new comes, then fields change. What cannot be is left
    out, and the notes say so. Of changes that come by themselves nobody can be asked, so no
    screen closes that a draft lies on.
    """
    before = session
    base, records = app.as_read.get(source), app.records(session, source)
    if base is None or records is None:
        return session, ()
    changes, left_out = _possible(records, changes)
    earlier = session.changes.get(source, NOTHING)
    merged = earlier.then(changes, base.source.key, lambda key: base.row_of(key) is not None)
    session = replace(session, changes={**session.changes, source: merged})
    notes: Notes = ()
    if left_out:
        case, data = left_out[0]
        data = {**data, "source": source, "count": len(left_out)}
        notes = (Note("left out", case, data, f"sources[{source}]"),)
    if changes.gone:
        session = without_gone(app, session, source)
        for chain in tuple(session.chains.values()):
            settled, said = _without_gone(app, before, session, chain, source, by_itself)
            if settled is not chain:
                session = session.with_chain(settled)
            notes += said
    return session, notes


def _possible(records: Records, changes: Changes) -> tuple[Changes, LeftOut]:
    """Of changes those that the records as they are now can take, and why others cannot be.

    A record that comes and is there already, is changed; one that is not there cannot change.
    """
    left_out: LeftOut = []
    gone = records.there(changes.gone)
    if gone is not changes.gone:
        left = set(gone)
        left_out += [("cannot go", {"key": each}) for each in changes.gone if each not in left]
    added: dict[Scalar, dict[str, Value | None]] = {}
    changed = []
    for row in changes.added:
        new = {name: row.get(name) for name in records.types}
        key: Any = new.get(records.source.key)
        if not records.can_be_key(key):
            left_out.append(("no key", {"key": key}))
        elif key in gone or records.row_of(key) is None:
            added[key] = {**dict.fromkeys(new), **_fitting(records, key, new, left_out)}
        else:
            came = {name: value for name, value in row.items() if name in records.types}
            changed.append(Change(key, _fitting(records, key, came, left_out)))
    for change in changes.changed:
        is_there = change.key in added or (
            records.row_of(change.key) is not None and change.key not in gone
        )
        if not is_there:
            left_out.append(("cannot change", {"key": change.key}))
        else:
            fields = _fitting(records, change.key, change.fields, left_out)
            changed.append(Change(change.key, fields))
    alike = tuple(
        Alike(
            records.there(alike_one.keys),
            _fitting(records, alike_one.keys[0], alike_one.fields, left_out),
        )
        for alike_one in changes.alike
    )
    return Changes(tuple(changed), gone, tuple(added.values()), alike), left_out


def _fitting(
    records: Records, key: Scalar, fields: dict[str, Value | None], left_out: LeftOut
) -> dict[str, Value | None]:
    """The fields whose values are of their types; the key never changes."""
    fitting: dict[str, Value | None] = {}
    for name, value in fields.items():
        if name == records.source.key:
            fitting[name] = key
            continue
        try:
            fitting[name] = None if value is None else carry(value, records.types[name])
        except (Unfit, KeyError):
            left_out.append(("unfit", {"key": key, "field": name, "came": value}))
    return fitting


def _without_gone(
    app: WiredApp, before: Session, session: Session, chain: Chain, source: str, by_itself: bool
) -> tuple[Chain, Notes]:
    """Do with each entry whose record has just gone what its screen says."""
    for index, entry in enumerate(chain.entries):
        screen = app.screens.get(entry.screen)
        if not isinstance(screen, DetailScreen) or screen.source != source or index == 0:
            continue
        if not _is_there(app, before, entry) or _is_there(app, session, entry):
            continue
        gone = {"screen": screen.id, "key": entry.arguments.get(screen.key)}
        has_draft = any(each.view.draft for each in chain.entries[index:])
        if screen.when_gone == "say so" or (by_itself and has_draft):
            continue
        if screen.when_gone == "next":
            opened = _next(app, before, session, chain, index)
            if opened is not None:
                entries = (*chain.entries[:index], opened)
                moved = {**gone, "to": app.key_of(opened)}
                return replace(chain, entries=entries), (Note("moved on", "", moved),)
        entries = cut(chain.entries, index)
        return replace(chain, entries=entries), (Note("closed", "gone", gone),)
    return chain, ()


def _is_there(app: WiredApp, session: Session, entry: Entry) -> bool:
    records = app.records(session, app.source_of(entry))
    return records is not None and records.row_of(app.key_of(entry)) is not None


def _next(
    app: WiredApp, before: Session, session: Session, chain: Chain, index: int
) -> Entry | None:
    """The entry opened again, by the link that had opened it, for the row that took its row's
    place, else for the one before."""
    entry = chain.entries[index]
    if entry.row is None:
        return None
    at = owner_of(entry.row, index)
    owner = chain.entries[at]
    action = entry.row.action
    trigger = (owner.screen, "action" if action else "row", action or entry.row.part)
    link = app.links.get(trigger)
    was = app.listed(before, owner, entry.row.part)
    now = app.listed(session, owner, entry.row.part)
    stood = None if was is None else was.rows.index_of(entry.row.key)
    if link is None or now is None or stood is None or not len(now.rows):
        return None
    row = replace(entry.row, key=now.rows.key_at(min(stood, len(now.rows) - 1)))
    placed = replace(session, section=chain.section).with_chain(chain)
    link = link_for(app, placed, at, link, row)
    if link is None or (link.to != entry.screen and trigger not in app.kinds):
        return None
    try:
        arguments: dict[str, Value] = arguments_for(app, placed, at, link, row)
    except Refused:
        return None
    view = stored_view(app, session, chain.section, app.screens[link.to], arguments)
    return Entry(link.to, arguments, entry.opened, entry.by, row, view)
