"""What is to be written to services, and is not confirmed yet (rules.md, 9.1)."""

from __future__ import annotations

from typing import Final

from msgspec.structs import replace

from cadena.engine.notes import Notes
from cadena.engine.rules.display import Display
from cadena.engine.rules.records_changed import apply_changes
from cadena.engine.session import Session, Write
from cadena.engine.wired import WiredApp
from cadena.model.naming import label_field
from cadena.records.changes import Change, Changes

NO_ANSWER: Final = "no answer came"
NOT_FROM_HERE: Final = "nothing is sent to a service from here"
FAILED: Final = "the service has failed"
NOT_ALLOWED: Final = "it is not allowed"
TOO_MUCH: Final = "too much was asked of the service"
NOT_NOW: Final = "the service does not answer now"
GONE: Final = "it is not there any more"
REFUSED: Final = "the service refused it"
QUICKER: Final = "somebody was quicker"
UNDER_WAY: Final = ("sending", "later", "queued")
ASKS: Final = ("unsent", "refused", "quicker")
"""What a person has to do something about."""
NOT_KNOWN: Final = (NO_ANSWER, FAILED)
"""After which the service may have taken it all the same."""


def takes(app: WiredApp, source: str, kind: str) -> bool:
    """Whether a source is written to in this way."""
    return kind in app.writes.get(source, ())


def takes_forms(app: WiredApp, source: str) -> bool:
    """Whether what a form saves of a source is sent, of new records or of those that are there."""
    return takes(app, source, "create") or takes(app, source, "change")


def with_write(session: Session, write: Write) -> Session:
    """The session with a write, in the place of that of its number."""
    if any(each.number == write.number for each in session.writes):
        writes = tuple(write if e.number == write.number else e for e in session.writes)
    else:
        writes = (*session.writes, write)
    return replace(session, writes=writes)


def without_write(session: Session, write: Write) -> Session:
    """The session without the write of a number."""
    writes = tuple(each for each in session.writes if each.number != write.number)
    return replace(session, writes=writes)


def changed_by_hand(
    app: WiredApp, session: Session, source: str, changes: Changes
) -> tuple[Session, Notes]:
    """Make changes that show at once, and send them where the source is written to."""
    records = app.records(session, source)
    before = session
    session, notes = apply_changes(app, session, source, changes)
    made: list[Write] = []
    number = session.calls
    changed = [(each.key, each.fields) for each in changes.changed]
    changed += [(key, some.fields) for some in changes.alike for key in some.keys]
    for key, fields in changed if takes(app, source, "change") else ():
        record = (None if records is None else records.by_key(key)) or {}
        number += 1
        was = {name: record.get(name) for name in fields}
        made.append(Write(number, source, "change", key, fields, was, "queued"))
    for key in changes.gone if takes(app, source, "remove") else ():
        number += 1
        made.append(Write(number, source, "remove", key, state="held"))
    if not made or session is before:
        return session, notes
    return replace(session, calls=number, writes=(*session.writes, *made)), notes


def write_of(session: Session, index: int) -> Write | None:
    """What the form that is open at a place has sent, until that is confirmed or given up."""
    if not session.writes or not 0 <= index < len(session.entries):
        return None
    entry = session.entries[index]
    at = (session.section, entry.screen, entry.arguments)
    return next((e for e in session.writes if e.form is not None and e.form.place == at), None)


def asking_write(session: Session, display: Display) -> Write | None:
    """What was not sent, and is said beside the screens: whose form is not on display."""
    shown = [each.entry for each in display.shown if each.entry is not None]
    for write in session.writes:
        if (
            write.state in ASKS
            and not write.away
            and not any(write_of(session, at) is write for at in shown)
        ):
            return write
    return None


def words_for_write(app: WiredApp, session: Session, write: Write) -> str:
    """What is said of a write that was not sent."""
    title = called(app, session, write)
    why = app.words(write.why or (QUICKER if write.state == "quicker" else REFUSED))
    return app.words("{title} was not sent: {why}", title=title, why=why)


def called(app: WiredApp, session: Session, write: Write) -> str:
    """The record of a write, by its label."""
    source = app.sources[write.source]
    base = app.as_read.get(write.source)
    records = app.records(session, write.source)
    record = None if records is None or write.key is None else records.by_key(write.key)
    record = {**(record or {}), **write.fields}
    if base is not None and record:
        said = app.say(source.id).value(label_field(base.source, base.types), record)
        if said and said != "–":
            return said
    return (source.title or source.id) if write.key is None else str(write.key)


def still_shown(app: WiredApp, session: Session, source: str) -> Session:
    """What acts have changed shows on, whatever has come of the records meanwhile."""
    records = app.records(session, source)
    acts = [each for each in session.writes if each.source == source and each.form is None]
    if records is None or not acts:
        return session
    changed, gone = [], []
    for write in acts:
        if write.key is not None and records.row_of(write.key) is not None:
            if write.kind == "remove":
                gone.append(write.key)
            else:
                changed.append(Change(write.key, write.fields))
    left = tuple(each for each in changed if each.key not in gone)
    return apply_changes(app, session, source, Changes(left, tuple(gone)), by_itself=True)[0]
