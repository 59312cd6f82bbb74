"""The trace: one line of JSON for each event, saying what happened, what is shown and why."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

import msgspec
from msgspec import UNSET, Struct, UnsetType

from cadena.engine.events import Event
from cadena.engine.layout.column import Column, column_of
from cadena.engine.layout.panes import Area
from cadena.engine.notes import Note, Notes
from cadena.engine.rules.addresses import address_now
from cadena.engine.rules.asking import asking_of
from cadena.engine.rules.back import back_label
from cadena.engine.rules.display import Display, Pane, display_of, focus_of, picking_at
from cadena.engine.rules.lists import offset_of, row_chosen, view_of
from cadena.engine.rules.passing import said_now
from cadena.engine.session import Entry, Session
from cadena.engine.wired import WiredApp
from cadena.model.values import Scalar, Value


class TracedEntry(Struct, frozen=True, omit_defaults=True):
    """An entry of the chain.

    ``draft`` is what is typed in a form and not saved; ``missing`` tells that the record it is
    about is not there. ``picked`` are the keys of picked rows, by list; ``chooses`` tells that it
    was opened to choose from.
    """

    screen: str
    arguments: dict[str, Value]
    opened: str
    by: str
    draft: dict[str, Value | None] = {}
    missing: bool = False
    picked: dict[str, tuple[Scalar, ...]] = {}
    chooses: bool = False


class TracedAnchor(Struct, frozen=True):
    """What is first in view: ``key`` for a row, none for a block; ``offset`` in dp from the top."""

    part: str
    key: Scalar | None
    above: float
    index: int
    offset: float


class TracedPane(Struct, frozen=True):
    """A pane, left to right, then what lies over them; without a screen nothing is chosen.

    ``y`` and ``height`` are said where panes lie down (rules.md, 3.2).

    ``rows`` are those of the screen's own list, or of its first; ``first_row`` is the first of
    them in view.
    """

    place: Literal["pane", "slid", "modal", "popover"]
    screen: str | None
    entry: int | None
    title: str
    x: float
    width: float
    chosen: Scalar | None = None
    chosen_part: str = ""
    anchor: TracedAnchor | None = None
    first_row: Scalar | None = None
    rows: int = 0
    y: float | UnsetType = UNSET
    height: float | UnsetType = UNSET


class TracedWrite(Struct, frozen=True, omit_defaults=True):
    """Something to be written to a service that is not confirmed (rules.md, 9.1)."""

    source: str
    kind: str
    key: Scalar | None
    fields: dict[str, Value | None]
    state: str
    faults: dict[str, str] = {}
    theirs: dict[str, Value | None] = {}


class TraceLine(Struct, frozen=True):
    """The state after one event. ``event`` is none on the first line: the start.

    ``focus`` is the screen that has it; ``address`` that of the deepest screen with one.
    ``writes`` are said where there are any.
    """

    event: Event | None
    phase: str
    section: str
    window: tuple[float, float]
    chain: tuple[TracedEntry, ...]
    display: tuple[TracedPane, ...]
    focus: str | None
    address: str | None
    back: str | None
    question: str | None
    said: str | None
    values: dict[str, Value]
    clock: int
    notes: tuple[Note, ...]
    writes: tuple[TracedWrite, ...] | UnsetType = UNSET


def trace_line(app: WiredApp, session: Session, event: Event | None, notes: Notes) -> TraceLine:
    """Trace the state of a session after an event."""
    is_shown = session.phase in ("running", "asleep")
    display = display_of(app, session)
    return TraceLine(
        event,
        session.phase,
        session.section,
        session.window.size,
        tuple(
            TracedEntry(
                each.screen,
                each.arguments,
                each.opened,
                each.by,
                each.view.draft,
                _is_missing(app, session, each),
                each.view.picked,
                asking_of(app, session.entries, at) is not None,
            )
            for at, each in enumerate(session.entries)
        ),
        _panes(app, session, display) if is_shown else (),
        _focus(app, session) if is_shown else None,
        address_now(app, session) if is_shown else None,
        back_label(app, session) if is_shown and session.entries else None,
        None if session.question is None else session.question.text,
        said_now(app, session),
        session.values,
        session.clock,
        notes,
        tuple(
            TracedWrite(e.source, e.kind, e.key, e.fields, e.state, e.faults, e.theirs)
            for e in session.writes
        )
        or UNSET,
    )


def _is_missing(app: WiredApp, session: Session, entry: Entry) -> bool:
    """Whether the record is not there that a detail or form was opened for."""
    key = app.key_of(entry)
    records = app.records(session, app.source_of(entry))
    return key is not None and records is not None and records.row_of(key) is None


def _focus(app: WiredApp, session: Session) -> str | None:
    """The screen that has the focus."""
    at = focus_of(app, session)
    return None if at is None else session.entries[at].screen


def _panes(app: WiredApp, session: Session, display: Display) -> tuple[TracedPane, ...]:
    picking = picking_at(session, display) if app.with_several else None
    panes = [_pane(app, session, _uncovered(each, picking), "pane") for each in display.panes]
    if display.slid is not None:
        panes.append(_pane(app, session, display.slid, "slid"))
    if display.layer is not None:
        kind: Literal["modal", "popover"] = "modal" if display.layer_as == "modal" else "popover"
        panes.append(_pane(app, session, display.layer, kind))
    return tuple(panes)


def _uncovered(pane: Pane, picking: int | None) -> Pane:
    """A pane as it shows: after one on which rows are picked it says how many, and no more."""
    is_after = picking is not None and pane.entry is not None and pane.entry > picking
    return pane._replace(entry=None) if is_after else pane


def _pane(
    app: WiredApp,
    session: Session,
    pane: Pane,
    place: Literal["pane", "slid", "modal", "popover"],
) -> TracedPane:
    area = pane.area
    if pane.entry is None:
        x, y, width, height = _placed(app, session, area)
        return TracedPane(place, None, None, "", x, width, y=y, height=height)
    entry = session.entries[pane.entry]
    row = row_chosen(app, session, pane.entry)
    column = column_of(app, session, entry, view_of(app, entry, area)[0])
    offset = offset_of(app, session, pane.entry, area, column)
    first, rows = _first_row(column, offset)
    x, y, width, height = _placed(app, session, area)
    return TracedPane(
        place,
        entry.screen,
        pane.entry,
        app.title_of(session, entry),
        x,
        width,
        chosen=None if row is None else row.key,
        chosen_part="" if row is None else row.part,
        anchor=_anchor(column, offset),
        first_row=first,
        rows=rows,
        y=y,
        height=height,
    )


def _anchor(column: Column, offset: float) -> TracedAnchor | None:
    first = column.first_in_view(offset)
    if first is None:
        return None
    return TracedAnchor(first.part, first.key, round(first.above, 2), first.index, round(offset, 2))


def anchors_beside(
    app: WiredApp, session: Session, pane: TracedPane, by: float
) -> Iterator[TracedAnchor]:
    """What would be first in view, were a pane scrolled by so many dp less, or more."""
    area = None if pane.entry is None else display_of(app, session).area_of(pane.entry)
    if pane.entry is None or pane.anchor is None or area is None:
        return
    entry = session.entries[pane.entry]
    column = column_of(app, session, entry, view_of(app, entry, area)[0])
    for offset in (pane.anchor.offset - by, pane.anchor.offset + by):
        anchor = _anchor(column, max(0.0, offset))
        if anchor is not None:
            yield anchor


def _placed(
    app: WiredApp, session: Session, area: Area
) -> tuple[float, float | UnsetType, float, float | UnsetType]:
    """Where a pane lies, in dp; from the top, and how high, where panes lie down."""
    x, y, width, height = (round(each * session.window.text, 2) for each in area)
    is_down = display_of(app, session).arrangement.lie == "down"
    return x, y if is_down else UNSET, width, height if is_down else UNSET


def _first_row(column: Column, offset: float) -> tuple[Scalar | None, int]:
    """The first row in view of a screen's own list, or of its first, and how many there are."""
    lists = [each for each in column.segments if each.kind == "rows"]
    own = next((each for each in lists if not each.part), lists[0] if lists else None)
    if own is None or own.listed is None or own.stack is None:
        return None, 0
    at = own.stack.shown(own.stack.at(max(0.0, offset - own.top) + own.stack.heads))
    return None if at is None else own.listed.rows.key_at(at), len(own.listed.rows)


def to_line(line: TraceLine) -> str:
    """A line of the trace as JSON text, the same for the same state byte for byte."""
    return msgspec.json.encode(line).decode()
