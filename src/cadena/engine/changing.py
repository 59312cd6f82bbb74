"""Records that change under an open app (behaviour.md, 8)."""

from __future__ import annotations

from typing import Final

from msgspec.structs import replace

from cadena.data.records import Change, Changes, Records
from cadena.engine.events import Edit, Refresh, Remove
from cadena.engine.lists import unsettle
from cadena.engine.notes import Note, Notes, Refused
from cadena.engine.opening import arguments_for
from cadena.engine.session import Chain, Entry, RowRef, Session, cut
from cadena.engine.wired import WiredApp
from cadena.model.app import DetailScreen
from cadena.model.values import Scalar, Unfit, Value, carry, shown

NOTHING: Final = Changes()


def refresh(app: WiredApp, session: Session, event: Refresh) -> tuple[Session, Notes]:
    """The records of a source come again."""
    changes = Changes(event.changed, event.gone, event.added)
    _demand_source(app, event.source)
    session, notes = apply_changes(app, session, event.source, changes)
    counts = f"{len(event.changed)} changed, {len(event.gone)} gone, {len(event.added)} new"
    note = Note("refreshed", f"{event.source}: {counts}")
    return unsettle(app, session, event.source), (note, *notes)


def remove(app: WiredApp, session: Session, event: Remove) -> tuple[Session, Notes]:
    """One record is removed."""
    _demand_record(app, session, event.source, event.key)
    session, notes = apply_changes(app, session, event.source, Changes(gone=(event.key,)))
    return session, (Note("removed", f"{event.source}: record {shown(event.key)}"), *notes)


def edit(app: WiredApp, session: Session, event: Edit) -> tuple[Session, Notes]:
    """Fields of one record change in place: that shows everywhere at once."""
    records = _demand_record(app, session, event.source, event.key)
    for name in event.fields:
        if name not in records.types:
            raise Refused(f"there is no field {name}", f"sources[{event.source}]")
        if name == records.source.key:
            raise Refused(
                f"field {name} is the key, and a key does not change", f"sources[{event.source}]"
            )
        try:
            if event.fields[name] is not None:
                carry(event.fields[name], records.types[name])
        except Unfit as unfit:
            raise Refused(f"field {name}: {unfit}", f"sources[{event.source}]") from None
    change = Changes(changed=(Change(event.key, event.fields),))
    session, notes = apply_changes(app, session, event.source, change)
    note = Note("changed", f"{event.source}: record {shown(event.key)}, {', '.join(event.fields)}")
    return session, (note, *notes)


def _demand_source(app: WiredApp, source: str) -> None:
    if source not in app.as_read:
        raise Refused(f"there is no source {source}", "sources")


def _demand_record(app: WiredApp, session: Session, source: str, key: Scalar) -> Records:
    _demand_source(app, source)
    records = app.records(session, source)
    if records is None or records.row_of(key) is None:
        raise Refused(f"{source} has no record {shown(key)}", f"sources[{source}]")
    return records


def apply_changes(
    app: WiredApp, session: Session, source: str, changes: Changes
) -> tuple[Session, Notes]:
    """Make changes to the records of a source; they show everywhere at once (8)."""
    before = session
    merged = session.changes.get(source, NOTHING).then(changes)
    session = replace(session, changes={**session.changes, source: merged})
    notes: Notes = ()
    if changes.gone:
        for chain in tuple(session.chains.values()):
            settled, said = _without_gone(app, before, session, chain, source)
            if settled is not chain:
                session = session.with_chain(settled)
            notes += said
    return session, notes


def _without_gone(
    app: WiredApp, before: Session, session: Session, chain: Chain, source: str
) -> tuple[Chain, Notes]:
    """Do with each entry whose record has just gone what its screen says."""
    for index, entry in enumerate(chain.entries):
        screen = app.screens.get(entry.screen)
        if not isinstance(screen, DetailScreen) or screen.source != source or index == 0:
            continue
        if not _is_there(app, before, entry) or _is_there(app, session, entry):
            continue
        gone = f"{screen.id} {shown(entry.arguments.get(screen.key))} is gone"
        if screen.when_gone == "say so":
            continue
        if screen.when_gone == "next":
            opened = _next(app, before, session, chain, index)
            if opened is not None:
                entries = (*chain.entries[:index], opened)
                text = f"{gone}; {shown(opened.arguments.get(screen.key))} took its place"
                return replace(chain, entries=entries), (Note("moved on", text),)
        text = f"{gone}, and closed with what it had opened (rule 8)"
        entries = cut(chain.entries, index)
        return replace(chain, entries=entries), (Note("closed", text),)
    return chain, ()


def _is_there(app: WiredApp, session: Session, entry: Entry) -> bool:
    records = app.records(session, app.source_of(entry))
    return records is not None and records.row_of(app.key_of(entry)) is not None


def _next(
    app: WiredApp, before: Session, session: Session, chain: Chain, index: int
) -> Entry | None:
    """The entry opened again for the row that took its place, else for the one before."""
    entry, parent = chain.entries[index], chain.entries[index - 1]
    if entry.row is None:
        return None
    link = app.row_links.get((parent.screen, entry.row.part))
    was = app.listed(before, parent, entry.row.part)
    now = app.listed(session, parent, entry.row.part)
    at = None if was is None else was.rows.index_of(entry.row.key)
    if link is None or link.to != entry.screen or now is None or at is None or not len(now.rows):
        return None
    row = RowRef(entry.row.part, now.rows.key_at(min(at, len(now.rows) - 1)))
    placed = replace(session, section=chain.section).with_chain(chain)
    try:
        arguments: dict[str, Value] = arguments_for(app, placed, index - 1, link, row)
    except Refused:
        return None
    return Entry(entry.screen, arguments, entry.opened, entry.by, row)
