"""Sources that are written to: what is sent, and what an answer makes of it (rules.md, 9.1)."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Final

from msgspec.structs import replace

from cadena.engine.events import GiveUp, GoBackTo, SendAgain, Settle, Written
from cadena.engine.form_values import form_of
from cadena.engine.notes import Note, Notes, Refused
from cadena.engine.rules.after_saving import after_saving
from cadena.engine.rules.asking import made_for
from cadena.engine.rules.calling_again import called_again
from cadena.engine.rules.display import display_of
from cadena.engine.rules.passing import saying, saying_text
from cadena.engine.rules.records_changed import apply_changes
from cadena.engine.rules.targets import target_of
from cadena.engine.rules.unsent import (
    ASKS,
    GONE,
    NO_ANSWER,
    NOT_KNOWN,
    UNDER_WAY,
    called,
    with_write,
    without_write,
    write_of,
)
from cadena.engine.session import Confirmed, Entry, FormAt, Session, View, Write
from cadena.engine.wired import WiredApp
from cadena.model.app import FormScreen
from cadena.model.source import Source
from cadena.model.values import Scalar, Value
from cadena.records.changes import Change, Changes
from cadena.records.seeded_random import drawn, happens

NONE: Final = Changes()
MOST_CONFIRMED: Final = 50
AGAIN_AFTER: Final = 1_000
"""Ms after which the stand-in says that it can be asked again."""


def demand_not_sent(session: Session, index: int) -> None:
    """What is being sent is not changed meanwhile, and is sent once."""
    write = write_of(session, index)
    if write is not None and write.state in UNDER_WAY:
        raise Refused("being sent", f"screens[{session.entries[index].screen}]")
    if write is not None and write.state == "quicker":
        raise Refused("somebody was quicker", f"screens[{session.entries[index].screen}]")


def without_fault(session: Session, index: int, field: str) -> Session:
    """What was refused of a field is said until something else is typed in it."""
    write = write_of(session, index)
    if write is None or field not in write.faults:
        return session
    faults = {name: why for name, why in write.faults.items() if name != field}
    return with_write(session, replace(write, faults=faults))


def save_at_service(
    app: WiredApp,
    session: Session,
    index: int,
    form: FormScreen,
    key: Scalar | None,
    fields: dict[str, Value | None],
) -> tuple[Session, Notes]:
    """Send what a form holds; it stays open until that is confirmed."""
    demand_not_sent(session, index)
    entry = session.entries[index]
    earlier = write_of(session, index)
    record = {} if key is None else (app.record_of(session, entry) or {})
    write = Write(
        session.calls + 1 if earlier is None else earlier.number,
        form.source,
        "create" if key is None else "change",
        key,
        fields,
        {name: record.get(name) for name in fields},
        form=FormAt(session.section, entry.screen, entry.arguments, entry.view.draft),
        done=earlier is not None and earlier.done,
        made=None if earlier is None else earlier.made,
    )
    if earlier is not None:
        session = without_write(session, earlier)
    return send(app, session, write)


def send_waiting(app: WiredApp, session: Session) -> tuple[Session, Notes]:
    """Send what waited for its turn, or for its undo to lapse."""
    notes: Notes = ()
    for write in session.writes:
        if write.state == "held":
            removal = session.removal
            if removal is not None and removal.source == write.source and write.key in removal.keys:
                continue
            records = app.records(session, write.source)
            if records is None or records.row_of(write.key) is not None:
                session = without_write(session, write)
                continue
            write = replace(write, state="queued")
            session = with_write(session, write)
        if write.state == "queued" and not _is_behind(session, write):
            session, said = send(app, session, write)
            notes += said
    return session, notes


def _is_behind(session: Session, write: Write) -> bool:
    """Whether something earlier of the same record is not answered yet."""
    for each in session.writes:
        if each.number == write.number:
            return False
        if each.key is not None and (each.source, each.key) == (write.source, write.key):
            return True
    return False


def send(app: WiredApp, session: Session, write: Write) -> tuple[Session, Notes]:
    """Send a write, or once more."""
    source = app.late[write.source]
    call = max(session.calls, write.number - 1) + 1
    due = session.clock + source.stand_in.delay if source.served == "stand-in" else None
    settled = replace(write, why="", faults={}, theirs={}, away=False)
    sent = replace(settled, state="sending", call=call, due=due)
    session = replace(with_write(session, sent), calls=call)
    return session, (Note.of("sent", write.kind, **_about(sent), due=due),)


def answer_from_stand_in(app: WiredApp, session: Session, write: Write) -> tuple[Session, Notes]:
    """What the stand-in answers to a write, told by its seed and the number of the call alone."""
    source = app.late.get(write.source)
    if source is None:
        return without_write(session, write), ()
    if write.state == "later":
        return send(app, session, write)
    stand_in, number = source.stand_in, write.call
    if happens(stand_in.seed, "fails", number, stand_in.fails_one_in):
        how = drawn(stand_in.seed, "how", number) % 3
        if how == 0:
            return _later(session, write, AGAIN_AFTER)
        if how == 1:
            # It was done, and nobody was told.
            session, write = _done_unheard(app, session, write)
        return _unsent(session, write, NO_ANSWER)
    records = app.records(session, write.source)
    if write.kind == "change" and (records is None or records.row_of(write.key) is None):
        return _gone(app, session, write)
    fields = sorted(write.fields)
    if fields and happens(stand_in.seed, "refuses", number, stand_in.refuses_one_in):
        field = fields[drawn(stand_in.seed, "field", number) % len(fields)]
        return _refused(app, session, write, {field: app.words("is not taken")}, "")
    if write.kind == "change" and happens(
        stand_in.seed, "quicker", number, stand_in.quicker_one_in
    ):
        theirs = _theirs(source, write, number)
        if theirs:
            return _quicker(app, session, write, theirs)
    return _confirmed(app, session, write, None)


def written(app: WiredApp, session: Session, event: Written) -> tuple[Session, Notes]:
    """A real service has answered a write, or has failed to."""
    write = next(
        (e for e in session.writes if e.call == event.request and e.state == "sending"), None
    )
    if write is None:
        return session, (Note.of("late", "unknown", call=event.request),)
    match event.outcome:
        case "done":
            return _confirmed(app, session, write, event.record)
        case "refused":
            return _refused(app, session, write, event.faults, event.why)
        case "quicker":
            return _quicker(app, session, write, event.record or {})
        case "gone":
            return _gone(app, session, write)
        case "later" if event.after is not None:
            return _later(session, write, event.after)
    return _unsent(session, write, event.why or NO_ANSWER)


def send_again(app: WiredApp, session: Session, event: SendAgain) -> tuple[Session, Notes]:
    """Send once more what has not been."""
    write = _demand(session, event.write, ("unsent", "refused"))
    return send(app, session, write)


def give_up(app: WiredApp, session: Session, event: GiveUp) -> tuple[Session, Notes]:
    """What was not sent is not to be: what showed already goes back."""
    write = _demand(session, event.write, ASKS)
    session = without_write(session, write)
    if app.sources[write.source].served == "service" and write.why in NOT_KNOWN:
        # Whether the service has taken it is not known: it is asked, and what it says counts.
        session = called_again(app, session, write.source)
    elif write.form is None and not write.done:
        session = _gone_back(app, session, write)
    return session, (Note.of("given up", **_about(write)),)


def go_back_to(app: WiredApp, session: Session, event: GoBackTo) -> tuple[Session, Notes]:
    """Back to what was typed in a form that was left, and has not been sent."""
    write = _demand(session, event.write, ASKS)
    at = write.form
    if at is None or at.section not in session.chains or at.screen not in app.screens:
        raise Refused("nothing was typed")
    return _opened_again(app, session, at), (Note.of("back to", screen=at.screen),)


def _opened_again(app: WiredApp, session: Session, at: FormAt) -> Session:
    """The form on display again, with what was typed in it."""
    session = replace(session, section=at.section, slid=False)
    entries = session.entries
    found = next((n for n, e in enumerate(entries) if at.is_of(at.section, e)), None)
    if found is not None:
        return session.with_entries(entries[: found + 1])
    form = Entry(at.screen, at.arguments, "push", view=View(draft=at.draft))
    return session.with_entries((*entries, form))


def settle_conflict(app: WiredApp, session: Session, event: Settle) -> tuple[Session, Notes]:
    """Of what somebody else has changed as well: mine counts, or theirs (9.1)."""
    index, _ = target_of(app, session, display_of(app, session), event)
    write = write_of(session, index)
    is_asked = write is not None and write.state == "quicker"
    if write is None or not is_asked or (event.field and event.field not in write.theirs):
        raise Refused("nothing to settle")
    fields = (event.field,) if event.field else tuple(write.theirs)
    left = {name: each for name, each in write.theirs.items() if name not in fields}
    if event.take == "mine":
        was = {**write.was, **{name: write.theirs[name] for name in fields}}
        write = replace(write, theirs=left, was=was)
    else:
        mine = {name: each for name, each in write.fields.items() if name not in fields}
        view = session.entries[index].view
        draft = {name: each for name, each in view.draft.items() if name not in fields}
        session = session.with_view(index, draft=draft)
        write = replace(write, theirs=left, fields=mine)
    note = Note.of("settled", event.take, fields=fields)
    if left:
        return with_write(session, write), (note,)
    if not write.fields:
        return without_write(session, write), (note,)
    session, notes = send(app, session, write)
    return session, (note, *notes)


def _demand(session: Session, number: int, states: tuple[str, ...]) -> Write:
    write = next((e for e in session.writes if e.number == number and e.state in states), None)
    if write is None:
        raise Refused("nothing is unsent")
    return write


def _about(write: Write) -> dict[str, Any]:
    return {"source": write.source, "key": write.key, "call": write.call}


def _later(session: Session, write: Write, after: int) -> tuple[Session, Notes]:
    """It is sent again by itself, once the service has said that it may be."""
    due = session.clock + after
    session = with_write(session, replace(write, state="later", due=due))
    return session, (Note.of("not written", "later", **_about(write), due=due),)


def _unsent(session: Session, write: Write, why: str) -> tuple[Session, Notes]:
    session = with_write(session, replace(write, state="unsent", due=None, why=why))
    return session, (Note.of("not written", "unsent", **_about(write), why=why),)


def _gone(app: WiredApp, session: Session, write: Write) -> tuple[Session, Notes]:
    """The record is not there any more: what was typed stays where it was typed."""
    note = Note.of("not written", "gone", **_about(write))
    if write.form is not None:
        session = with_write(session, replace(write, state="unsent", due=None, why=GONE))
        return session, (note,)
    text = app.words("{title} was not sent: {why}", title=called(app, session, write), why=GONE)
    session = without_write(session, write)
    notes: Notes = ()
    records = app.records(session, write.source)
    if records is not None and write.key is not None and records.row_of(write.key) is not None:
        changes = Changes(gone=(write.key,))
        session, notes = apply_changes(app, session, write.source, changes, by_itself=True)
    if write.kind == "remove":
        # That is what was wanted.
        return session, (note, *notes)
    session, said = saying_text(session, text)
    return session, (note, *notes, *said)


def _refused(
    app: WiredApp, session: Session, write: Write, faults: Mapping[str, str], why: str
) -> tuple[Session, Notes]:
    """A form says at which field; an act goes back, and says so."""
    form = None if write.form is None else app.screens.get(write.form.screen)
    there = {each.field for each in form.fields} if isinstance(form, FormScreen) else set()
    # What is wrong with what no field shows is said of the whole.
    label = app.say(write.source).label
    others = [f"{label(name)}: {said}" for name, said in faults.items() if name not in there]
    faults = {name: said for name, said in faults.items() if name in there}
    why = "; ".join(filter(None, (why, *others)))
    note = Note.of("not written", "refused", **_about(write), faults=faults, why=why)
    if write.form is not None:
        refused = replace(write, state="refused", due=None, faults=faults, why=why)
        return with_write(session, refused), (note,)
    title = called(app, session, write)
    session = _gone_back(app, without_write(session, write), write)
    text = "{title} was refused: {why}" if why else "{title} was refused"
    session, said = saying_text(session, app.words(text, title=title, why=why))
    return session, (note, *said)


def _quicker(
    app: WiredApp, session: Session, write: Write, there: Mapping[str, Any]
) -> tuple[Session, Notes]:
    """What somebody else has changed meanwhile is as they have it; what both have is asked."""
    of = {name: value for name, value in there.items() if name != _key_of(app, write)}
    both = {
        name: value
        for name, value in of.items()
        if name in write.fields and value not in (write.was.get(name), write.fields[name])
    }
    note = Note.of("not written", "quicker", **_about(write), fields=tuple(both))
    title = called(app, session, write)
    if write.kind == "remove":
        session = _gone_back(app, session, write)
    if write.key is not None:
        changes = Changes(changed=(Change(write.key, of),))
        session, said = apply_changes(app, session, write.source, changes, by_itself=True)
        note_said: Notes = (note, *said)
    else:
        note_said = (note,)
    if write.form is None:
        session = without_write(session, write)
        session, words = saying_text(
            session, app.words("Somebody was quicker: {title}", title=title)
        )
        return session, (*note_said, *words)
    if not both:
        # What others have changed is not what was typed here: that is sent on top of it.
        was = {name: of.get(name, write.was.get(name)) for name in write.fields}
        session, sent = send(app, session, replace(write, was=was))
        return session, (*note_said, *sent)
    session = with_write(session, replace(write, state="quicker", due=None, theirs=both))
    return session, note_said


def _theirs(source: Source, write: Write, number: int) -> dict[str, Value | None]:
    """What the stand-in lets somebody else have changed: a field that is written."""
    fields = sorted(write.fields)
    if not fields:
        return {}
    name = fields[drawn(source.stand_in.seed, "which field", number) % len(fields)]
    was = write.was.get(name)
    match was:
        case bool():
            return {name: not was}
        case int() | float():
            return {name: was + 1}
        case str():
            return {name: f"{was} *"}
    return {}


def _key_of(app: WiredApp, write: Write) -> str:
    return app.sources[write.source].key


def unheard(app: WiredApp, session: Session) -> Session:
    """What was under way when the process ended: the service may have taken it."""
    for write in session.writes:
        source = app.late.get(write.source)
        if write.state != "sending" or source is None or source.served != "stand-in":
            continue
        if drawn(source.stand_in.seed, "ended", write.call) % 2:
            session, done = _done_unheard(app, session, write)
            session = with_write(session, done)
    return session


def _done_unheard(app: WiredApp, session: Session, write: Write) -> tuple[Session, Write]:
    """A write that the service has taken, of which nobody was told."""
    session, key, _ = _taken(app, session, write, None)
    return session, replace(write, done=True, made=key)


def _taken(
    app: WiredApp, session: Session, write: Write, record: Mapping[str, Any] | None
) -> tuple[Session, Scalar | None, Notes]:
    """The records as they are once a write is done: as the answer says, else as was sent.

    What was changed later, and is still to be sent, stays as it shows.
    """
    records = app.records(session, write.source)
    if records is None:
        return session, write.key, ()
    name = records.source.key
    came = dict(record or {})
    key: Any = write.key
    if write.kind == "create":
        key = came.get(name, write.made)
        key = write.fields.get(name) if key is None else key
        if key is None and app.sources[write.source].served == "service":
            # Which key it has is for the service to say: the list is called for anew.
            return called_again(app, session, write.source), None, ()
        key = records.unused_key(write.source) if key is None else key
        changes = Changes(added=({**write.fields, **came, name: key},)) if key is not None else NONE
    elif records.row_of(key) is None:
        return session, key, ()
    elif write.kind == "remove":
        changes = Changes(gone=(key,))
    else:
        later = {
            field
            for other in session.writes
            if other.number > write.number and (other.source, other.key) == (write.source, key)
            for field in other.fields
        }
        fields = {n: e for n, e in {**write.fields, **came}.items() if n not in {*later, name}}
        changes = Changes(changed=(Change(key, fields),)) if fields else NONE
    session, notes = apply_changes(app, session, write.source, changes, by_itself=True)
    return session, key, notes


def _confirmed(
    app: WiredApp, session: Session, write: Write, record: Mapping[str, Any] | None
) -> tuple[Session, Notes]:
    """The service has taken it: a form goes on as after saving (10)."""
    session, key, notes = _taken(app, session, write, record)
    session = without_write(session, write)
    if app.sources[write.source].served == "service":
        last = Confirmed(write.source, key, session.calls)
        session = replace(session, confirmed=(*session.confirmed, last)[-MOST_CONFIRMED:])
    note = Note.of("written", write.kind, **{**_about(write), "key": key})
    if write.form is None:
        return session, (note, *notes)
    session, after = _left(app, session, write.form, key)
    return session, (note, *notes, *after)


def _left(app: WiredApp, session: Session, at: FormAt, key: Scalar | None) -> tuple[Session, Notes]:
    """The form of a write goes on, where it is still open, in whichever section."""
    here, chain = session.section, session.chains.get(at.section)
    entries = () if chain is None else chain.entries
    index = next((n for n, e in enumerate(entries) if at.is_of(at.section, e)), None)
    form = app.screens.get(at.screen)
    if index is None or not isinstance(form, FormScreen):
        return session, ()
    session = replace(session, section=at.section)
    is_new = app.key_of(entries[index]) is None
    if key is None:
        emptied = replace(entries[index].view, draft={}, tried=False)
        session = session.with_entry(index, replace(entries[index], view=emptied))
        session = session.cut_back(max(1, index))
        return replace(session, section=here), ()
    wanted = made_for(app, session, index, form_of(app, entries[index])) if is_new else None
    session, notes = after_saving(app, session, index, form, key, wanted)
    session, said = saying(app, session, form.says, form.source, key)
    return replace(session, section=here), (*notes, *said)


def _gone_back(app: WiredApp, session: Session, write: Write) -> Session:
    """What an act had changed is as it was, where it still is as the act had made it."""
    records = app.records(session, write.source)
    if records is None or write.key is None:
        return session
    if write.kind == "remove":
        changes = session.changes[write.source].with_back((write.key,))
        return replace(session, changes={**session.changes, write.source: changes})
    now = records.by_key(write.key) or {}
    back = {
        name: write.was.get(name) for name, value in write.fields.items() if now.get(name) == value
    }
    if not back:
        return session
    changed = Changes(changed=(Change(write.key, back),))
    return apply_changes(app, session, write.source, changed, by_itself=True)[0]
