"""Sources that answer late: what is called for, and what an answer changes (rules.md, 9)."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, Final, Literal

from msgspec.structs import replace

from cadena.engine.events import Answered, Retry, Wait
from cadena.engine.layout.column import column_of
from cadena.engine.notes import Note, Notes, Refused
from cadena.engine.rules.display import display_of
from cadena.engine.rules.lists import offset_of, view_of
from cadena.engine.rules.neighbours import place_of
from cadena.engine.rules.records_changed import apply_changes
from cadena.engine.rules.targets import target_of
from cadena.engine.rules.unsent import still_shown, takes
from cadena.engine.rules.writing import answer_from_stand_in, send_waiting
from cadena.engine.session import Entry, Load, Request, Session, Write
from cadena.engine.wired import ITEM, NOT_LOADED, WiredApp
from cadena.model.app import FormScreen
from cadena.model.listing import Sort
from cadena.model.source import Source
from cadena.model.values import Scalar
from cadena.records.changes import Change, Changes
from cadena.records.query import compared_with
from cadena.records.seeded_random import drawn, happens

LONGEST_WAIT: Final = 86_400_000
MOST_ANSWERS: Final = 10_000


def call(app: WiredApp, session: Session) -> tuple[Session, Notes]:
    """Make the requests that what is on display now needs, and that are not under way."""
    if not app.late or session.phase != "running":
        return session, ()
    notes: Notes = ()
    display = display_of(app, session)
    for index, area in display.late:
        for part, source, page in _needs(app, session, index, area):
            session, note = _with_request(app, session, index, part, source, page)
            notes += (note,)
    for pane in display.shown if app.with_neighbours else ():
        for owner, part, source, page in _beyond(app, session, pane.entry or 0):
            session, note = _with_request(app, session, owner, part, source, page)
            notes += (note,)
    return session, notes


def _needs(
    app: WiredApp, session: Session, index: int, area: Any
) -> Iterator[tuple[str, Source, int]]:
    """The parts of an open screen that need a call, and the page to ask for."""
    entry = session.entries[index]
    source = app.source_of(entry)
    if source in app.late and app.key_of(entry) is not None:
        load = entry.loads.get(ITEM, NOT_LOADED)
        if load.state == "loading" and not load.request:
            yield ITEM, app.late[source], 0
    for part, listing in app.listings.get(entry.screen, {}).items():
        if listing.source not in app.late:
            continue
        late = app.late[listing.source]
        load = entry.loads.get(part, NOT_LOADED)
        asked = app.asks(late, entry, part)
        has_come = asked == (load.search, load.sort)
        if load.state == "loading" and not load.request:
            yield part, late, _page_of(load) if has_come else 0
        elif asked != _asked_last(session, load):
            yield part, late, 0
        elif load.state == "shown" and load.more and _is_near_end(app, session, index, area, part):
            yield part, late, load.brought


def _beyond(app: WiredApp, session: Session, index: int) -> Iterator[tuple[int, str, Source, int]]:
    """The next page of the list that a detail goes along, while the last rows of it are at hand."""
    place = place_of(app, session, index)
    if place is None or place.at < len(place.listed.rows) - 2:
        return
    owner, part = place.owner, place.row.part
    entry = session.entries[owner]
    late = app.late.get(app.listings[entry.screen][part].source)
    load = entry.loads.get(part, NOT_LOADED)
    if late is not None and load.state == "shown" and load.more:
        yield owner, part, late, load.brought


def _page_of(load: Load) -> int:
    """The page to ask for: the first that is asked for anew, else the last that had come."""
    return load.brought - load.again if load.again else max(0, load.brought - 1)


def _asked_last(session: Session, load: Load) -> tuple[str, tuple[Sort, ...] | None]:
    """What the newest call for a list asks for, whether it is under way, failed or has come."""
    under_way = next((each for each in session.requests if each.number == load.request), None)
    if under_way is not None:
        return under_way.search, under_way.sort
    return load.failed or (load.search, load.sort)


def _is_near_end(app: WiredApp, session: Session, index: int, area: Any, part: str) -> bool:
    """Whether less than one more view is left below what is in view."""
    entry = session.entries[index]
    width, height = view_of(app, entry, area)
    column = column_of(app, session, entry, width)
    rows = next((each for each in column.segments if each.part == part and each.listed), None)
    if rows is None:
        return True
    if rows.kind == "strip":
        return True
    offset = offset_of(app, session, index, area, column)
    return rows.top + rows.height < offset + 2 * height


def _with_request(
    app: WiredApp, session: Session, index: int, part: str, source: Source, page: int
) -> tuple[Session, Note]:
    """Make one request; a newer one for the same thing outdates those before it."""
    entry = session.entries[index]
    number = session.calls + 1
    due = session.clock + source.stand_in.delay if source.served == "stand-in" else None
    search, sort = app.asks(source, entry, part)
    key = app.key_of(entry) if part == ITEM else None
    request = Request(
        number,
        source.id,
        session.section,
        entry.screen,
        part,
        due,
        key,
        page,
        search,
        sort,
        _filters_asked(app, session, entry, part, source, key),
    )
    load = replace(entry.loads.get(part, NOT_LOADED), state="loading", request=number)
    load = load if page else replace(load, first=number)
    loads = {**entry.loads, part: load}
    session = session.with_entry(index, replace(entry, loads=loads))
    session = replace(session, calls=number, requests=(*session.requests, request))
    return session, Note("called", _asked_for(request), {**_call(request), "due": due})


def _filters_asked(
    app: WiredApp, session: Session, entry: Entry, part: str, source: Source, key: Scalar | None
) -> tuple[tuple[str, Scalar], ...]:
    """The fields by whose values a service is asked to keep records, where it says how."""
    keeps = {} if source.service is None or source.served != "service" else source.service.keeps
    if not keeps:
        return ()
    if part == ITEM:
        records = app.records(session, source.id)
        record = (None if records is None else records.by_key(key)) or {}
        return tuple((name, record[name]) for name in keeps if record.get(name) is not None)
    found: dict[str, Scalar] = {}
    for condition in app.listings[entry.screen][part].where:
        value = compared_with(condition, entry.arguments, session.values, entry.view.choice)
        if (
            condition.test == "is"
            and condition.field in keeps
            and not isinstance(value, tuple | None)
        ):
            found[condition.field] = value
    return tuple(found.items())


def _asked_for(request: Request) -> Literal["record", "page"]:
    return "record" if request.part == ITEM else "page"


def _call(request: Request) -> dict[str, Any]:
    """What a note says of a call."""
    what: dict[str, Any] = {"key": request.key} if request.part == ITEM else {"page": request.page}
    return {"source": request.source, "call": request.number, **what}


def wait(app: WiredApp, session: Session, event: Wait) -> tuple[Session, Notes]:
    """Let virtual time pass: answers come when they are due, and may call for more."""
    if not 0 <= event.ms <= LONGEST_WAIT:
        raise Refused("wait too long", most=LONGEST_WAIT, ms=event.ms)
    until = session.clock + event.ms
    notes: list[Note] = []
    for _ in range(MOST_ANSWERS):
        waiting: tuple[Request | Write, ...] = (*session.requests, *session.writes)
        due = [each for each in waiting if each.due is not None and each.due <= until]
        if not due:
            break
        first = min(due, key=_when)
        session = replace(session, clock=max(session.clock, first.due or 0))
        if isinstance(first, Write):
            session, said = answer_from_stand_in(app, session, first)
            session, sent = send_waiting(app, session)
            said = (*said, *sent)
        else:
            session, said = _answer_from_stand_in(app, session, first)
        session, called = call(app, session)
        notes += (*said, *called)
    return replace(session, clock=until), tuple(notes)


def _when(waiting: Request | Write) -> tuple[int, int]:
    """When an answer is due, and the number of its call."""
    number = waiting.call if isinstance(waiting, Write) else waiting.number
    return waiting.due or 0, number


def _answer_from_stand_in(
    app: WiredApp, session: Session, request: Request
) -> tuple[Session, Notes]:
    """What the stand-in answers, told by its seed and the number of the call alone."""
    source = app.late.get(request.source)
    if source is None:
        return _without(session, request), ()
    stand_in = source.stand_in
    session, notes = _changed_under_way(app, session, source, request.number)
    if happens(stand_in.seed, "fails", request.number, stand_in.fails_one_in):
        session, said = _settled(app, session, request, failed="the call failed")
        return session, (*notes, *said)
    records = app.records(session, request.source)
    missing = request.part == ITEM and (records is None or records.row_of(request.key) is None)
    session, said = _settled(app, session, request, missing=missing)
    return session, (*notes, *said)


def _changed_under_way(
    app: WiredApp, session: Session, source: Source, number: int
) -> tuple[Session, Notes]:
    """Between two calls a record changes, or goes."""
    stand_in = source.stand_in
    records = app.records(session, source.id)
    if not records or not happens(stand_in.seed, "changes", number, stand_in.changes_one_in):
        return session, ()
    pick = drawn(stand_in.seed, "which", number)
    key = records.key_at(pick % len(records))
    numbers = [
        name
        for name, kind in records.types.items()
        if kind == "whole number" and name != source.key
    ]
    if key is None:
        return session, ()
    if numbers and pick % 3:
        field = numbers[pick % len(numbers)]
        value = ((records.by_key(key) or {}).get(field) or 0) + 1
        changes = Changes(changed=(Change(key, {field: value}),))
        data = {"source": source.id, "key": key, "field": field, "to": value}
        note = Note("changed", "at the service", data)
    else:
        changes = Changes(gone=(key,))
        note = Note.of("changed", "went", source=source.id, key=key)
    session, notes = apply_changes(app, session, source.id, changes, by_itself=True)
    return session, (note, *notes)


def answered(app: WiredApp, session: Session, event: Answered) -> tuple[Session, Notes]:
    """A real service has answered: its records join those that have come."""
    request = next((each for each in session.requests if each.number == event.request), None)
    if request is None:
        return session, (Note.of("late", "unknown", call=event.request),)
    found = _waiting(session, request)
    notes: Notes = ()
    key = app.sources[request.source].key
    stale = _confirmed_since(session, request.source, request.number)
    fresh = tuple(each for each in event.records if each.get(key) not in stale)
    if found is not None and fresh:
        session, notes = _joined(app, session, request.source, fresh)
    came: tuple[Any, ...] = tuple(each[key] for each in event.records if each.get(key) is not None)
    if found is not None and request.page:
        came = (*found[2].loads[request.part].came, *came)
    session, said = _settled(
        app, session, request, event.failed, event.missing, more=event.more, came=came
    )
    is_whole = request.part != ITEM and not (event.failed or event.more or request.search)
    first = 0 if found is None else found[2].loads[request.part].first
    # Where something was written since its first page, a page may have slipped past a record.
    if found is not None and is_whole and not _confirmed_since(session, request.source, first):
        session, went = _without_unlisted(app, session, request, came)
        said = (*said, *went)
    return session, (*notes, *said)


def _confirmed_since(session: Session, source: str, call: int) -> set[Any]:
    """The keys of the records that a service has told, since a call, to be otherwise."""
    return {e.key for e in session.confirmed if e.source == source and e.calls >= call}


def _without_unlisted(
    app: WiredApp, session: Session, request: Request, came: tuple[Any, ...]
) -> tuple[Session, Notes]:
    """Without what a service does not list any more, now that all has come that it lists.

    What is open is judged by its own call, and what is to be sent by the answer to that.
    """
    source, records = app.late[request.source], app.records(session, request.source)
    service, kept = source.service, dict(request.kept)
    saves = any(isinstance(e, FormScreen) and e.source == source.id for e in app.app.screens)
    if records is None or service is None or (saves and not takes(app, source.id, "create")):
        return session, ()
    if service.paging.by == "none" and service.keeps and not kept:
        # It may list but the first of them, and others by the value of a field.
        return session, ()
    every = (entry for chain in session.chains.values() for entry in chain.entries)
    stays = {app.key_of(each) for each in every if app.source_of(each) == source.id}
    stays |= {*came, *(each.key for each in session.writes if each.source == source.id)}
    gone = [key for row in range(len(records)) if (key := records.key_at(row)) not in stays]
    for name, value in kept.items():
        gone = [key for key in gone if (records.by_key(key) or {}).get(name) == value]
    changes = Changes(gone=tuple(gone))
    return apply_changes(app, session, source.id, changes, True) if gone else (session, ())


def _joined(
    app: WiredApp, session: Session, source: str, came: tuple[dict[str, Any], ...]
) -> tuple[Session, Notes]:
    """Records that have come are new, or are as they now are."""
    session, notes = apply_changes(app, session, source, Changes(added=came))
    return (still_shown(app, session, source) if session.writes else session), notes


def _waiting(session: Session, request: Request) -> tuple[str, int, Entry] | None:
    """The open entry that waits for the answer to a request, if one still does."""
    for name, chain in session.chains.items():
        for index, entry in enumerate(chain.entries):
            load = entry.loads.get(request.part)
            if load is not None and load.request == request.number:
                return name, index, entry
    return None


def _without(session: Session, request: Request) -> Session:
    left = tuple(each for each in session.requests if each.number != request.number)
    return replace(session, requests=left)


def _settled(
    app: WiredApp,
    session: Session,
    request: Request,
    failed: str = "",
    missing: bool = False,
    more: bool | None = None,
    came: tuple[Scalar, ...] = (),
) -> tuple[Session, Notes]:
    """An answer counts if its entry is still in a chain and asked for nothing newer."""
    session = _without(session, request)
    found = _waiting(session, request)
    if found is None:
        return session, (Note("late", _asked_for(request), _call(request)),)
    section, index, entry = found
    load = entry.loads[request.part]
    state: Any = "failed" if failed else "missing" if missing else "shown"
    if failed:
        load = replace(load, state=state, request=0, failed=(request.search, request.sort))
    else:
        again = max(0, load.again - 1) if more is not False and not missing else 0
        brought = request.page + 1 + again
        state = "loading" if again else state
        first = load.first
        load = Load(
            state, 0, brought, False, request.search, request.sort, None, again, came, first
        )
    entry = replace(entry, loads={**entry.loads, request.part: load})
    if request.part != ITEM:
        there = more if more is not None else _has_more(app, session, entry, request.part)
        entry = replace(entry, loads={**entry.loads, request.part: replace(load, more=there)})
    chain = session.chains[section]
    entries = (*chain.entries[:index], entry, *chain.entries[index + 1 :])
    session = session.with_chain(replace(chain, entries=entries))
    what = _asked_for(request)
    if failed:
        return session, (Note("failed", what, {**_call(request), "why": failed}),)
    return session, (Note("answered", "missing" if missing else what, _call(request)),)


def _has_more(app: WiredApp, session: Session, entry: Entry, part: str) -> bool:
    listed = app.listed(session, entry, part)
    return listed is not None and len(listed.rows) < len(listed.asked)


def retry(app: WiredApp, session: Session, event: Retry) -> tuple[Session, Notes]:
    """Call once more for everything on a screen that has failed."""
    index, _ = target_of(app, session, display_of(app, session), event)
    entry = session.entries[index]
    notes: Notes = ()
    for part, load in entry.loads.items():
        listing = app.listings.get(entry.screen, {}).get(part)
        name = app.source_of(entry) if listing is None else listing.source
        if load.state == "failed" and name in app.late:
            is_same = load.failed == (load.search, load.sort)
            page = load.brought - load.again if is_same else 0
            session, note = _with_request(app, session, index, part, app.late[name], page)
            notes += (note,)
    return session, notes
