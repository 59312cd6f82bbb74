"""Driving an app through walks, and telling where it does otherwise than it is wired."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from typing import Any, Final, NamedTuple

from msgspec import UNSET, UnsetType

from cadena.deliver.drive.as_a_person import as_a_person
from cadena.deliver.drive.gestures import Hand
from cadena.deliver.drive.overhearing import Overheard
from cadena.deliver.drive.reading import Reading, ReadPane
from cadena.deliver.drive.webdriver import Gone
from cadena.engine import events as do
from cadena.engine.form_values import value_in
from cadena.engine.rules.display import display_of
from cadena.engine.session import Session, Window
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.app import FormScreen
from cadena.model.problem import Problem
from cadena.model.values import Scalar, shown
from cadena.records.template import is_empty
from cadena.runs.walks.trace import (
    TracedAnchor,
    TracedPane,
    TraceLine,
    anchors_beside,
    trace_line,
)
from cadena.serve.call_services import Answers

NEAR: Final = 1.0
"""How far a place in the browser may be from the engine's, in CSS pixels."""
FIRST_NEAR: Final = NEAR + 0.5
"""How far what is first in view may be scrolled otherwise."""
PATIENCE: Final = 2.0
"""How long a page is waited for to show what it should, in seconds."""


Steps = Iterable[do.Event] | Callable[[Session], do.Event | None]
"""The events of a walk, or what gives the next of them in a state, until it gives none."""


class Difference(NamedTuple):
    """What is otherwise: what of which screen, what the engine says, and what the page shows."""

    what: str
    expected: Any
    got: Any

    def __str__(self) -> str:
        return f"{self.what}: expected {shown(self.expected)}, got {shown(self.got)}"


class Driven(NamedTuple):
    """One step of a walk that was driven: the event, and what is otherwise after it.

    ``step`` counts the events of the walk as a person walks it; 0 is the start.
    """

    step: int
    event: do.Event | None
    session: Session
    differences: tuple[Difference, ...]


def drive(
    app: WiredApp,
    hand: Hand,
    events: Steps,
    window: Window,
    patience: float = PATIENCE,
    stop: Callable[[], bool] = lambda: False,
    answering: Answers | None = None,
    overheard: Overheard | None = None,
) -> Iterator[Driven]:
    """Drive an app through events in a window; it ends with the first step that differs.

    Args:
        hand: what presses and reads.
        patience: how long a page is waited for, in seconds.
        stop: asked before each step.
        answering: gives what real services answer to the engine; the app asks them itself.
        overheard: what the app asks, where the engine is answered with that.
    """
    session, notes = start(app, window)
    hand.leave()
    if overheard is not None:
        overheard.forget()
    hand.open(window.width, window.height)
    session = _with_answers(app, session, answering)
    if window.fold is not None:
        hand.tell(do.Resize(width=window.width, height=window.height, fold=window.fold))
    line = trace_line(app, session, None, notes)
    found = _odd(overheard) or _awaited(app, session, line, hand, patience)
    found = found or _faults(hand)
    yield Driven(0, None, session, found)
    number = 0
    wanted_of = events if callable(events) else _in_turn(events)
    while not found and (wanted := wanted_of(session)) is not None:
        for event in as_a_person(app, session, wanted):
            if stop():
                return
            number += 1
            gone: tuple[Difference, ...] = ()
            with _told_at(number, event):
                try:
                    hand.take(session, event)
                except Gone as missing:
                    gone = (Difference("what is pressed", "there", str(missing)),)
                session, notes, _ = step(app, session, event)
                if answering is not None and isinstance(event, do.Kill | do.Relaunch):
                    answering.services.forget_versions()
                session = _with_answers(app, session, answering)
                line = trace_line(app, session, event, notes)
                found = gone or _odd(overheard)
                found = found or _awaited(app, session, line, hand, patience)
                found = found or _faults(hand)
            yield Driven(number, event, session, found)
            if found:
                return


def _in_turn(events: Iterable[do.Event]) -> Callable[[Session], do.Event | None]:
    left = iter(events)
    return lambda session: next(left, None)


def _odd(overheard: Overheard | None) -> tuple[Difference, ...]:
    """What was asked of services otherwise than it is wired."""
    if overheard is None:
        return ()
    found = [*overheard.odd, *overheard.left()]
    overheard.odd.clear()
    return tuple(Difference(*each) for each in found)


@contextmanager
def _told_at(number: int, event: do.Event) -> Iterator[None]:
    """A page that cannot be driven any more is told with the step at which that was."""
    try:
        yield
    except Problem as problem:
        problem.place = f"step {number}, {event.__struct_config__.tag}"
        raise


def _faults(hand: Hand) -> tuple[Difference, ...]:
    """What has gone wrong in the page, whatever it shows."""
    return tuple(Difference("an error of the page", "none", each) for each in hand.faults())


def _with_answers(app: WiredApp, session: Session, answering: Answers | None) -> Session:
    """A session once everything has come that it asks of real services."""
    while answering is not None and (answers := list(answering(session))):
        for event in answers:
            session = step(app, session, event).session
    return session


def _awaited(
    app: WiredApp, session: Session, line: TraceLine, hand: Hand, patience: float
) -> tuple[Difference, ...]:
    """What is still otherwise when the page has had its time."""
    until = time.monotonic() + patience
    while True:
        reading = hand.read()
        found = (
            (Difference("the page", "an app that can be driven", "none"),)
            if reading is None
            else tuple(differences(app, session, line, reading))
        )
        if not found or time.monotonic() > until:
            return found
        time.sleep(0.02)


def differences(
    app: WiredApp, session: Session, line: TraceLine, reading: Reading
) -> Iterator[Difference]:
    """What of a state a page shows otherwise than it is."""
    if line.phase != reading.phase:
        yield Difference("phase", line.phase, reading.phase)
        return
    if line.phase in ("killed", "left"):
        return
    wanted: list[tuple[str, str]] = [
        (each.place, each.screen or "nothing chosen") for each in line.display
    ]
    got = [(each.place, each.screen or "nothing chosen") for each in reading.panes]
    if wanted != got:
        yield Difference("on display", _panes_in_words(wanted), _panes_in_words(got))
        return
    if line.section != reading.section:
        yield Difference("section", line.section, reading.section)
    for pane, read_pane in zip(line.display, reading.panes, strict=True):
        yield from _of_pane(app, session, pane, read_pane)
    back = next((each.back for each in reversed(reading.panes) if each.back is not None), None)
    told = line.back if _is_back_told(app, session, line) else None
    if _read(told) != _read(back):
        yield Difference("back label", told, back)
    if reading.address is not UNSET and line.address != reading.address:
        yield Difference("address", line.address, reading.address)
    if reading.said is not None and (line.said or "") != reading.said:
        yield Difference("what is said", line.said, reading.said)
    if line.question != reading.question:
        yield Difference("question", line.question, reading.question)
    covered = session.question is not None or session.menu is not None or session.sections_open
    if not covered and line.focus != reading.focus and reading.focus is not None:
        yield Difference("focus", line.focus, reading.focus)


def _is_back_told(app: WiredApp, session: Session, line: TraceLine) -> bool:
    """Whether the screen that says what back shows is not covered by what is picked (rule 14)."""
    shown = display_of(app, session).shown
    return not shown or shown[-1].entry in {each.entry for each in line.display}


def _read(text: str | None) -> list[str] | None:
    """A text as it is read: browsers and libraries say times with blanks of other kinds."""
    return None if text is None else text.split()


def _panes_in_words(display: list[tuple[str, str]]) -> str:
    return ", ".join(
        screen if place == "pane" else f"{screen} ({place})" for place, screen in display
    )


def _of_pane(
    app: WiredApp, session: Session, pane: TracedPane, got: ReadPane
) -> Iterator[Difference]:
    name = pane.screen or "nothing chosen"
    places: list[tuple[str, float | UnsetType, float]] = [
        ("place", pane.x, got.x),
        ("width", pane.width, got.width),
        ("top", pane.y, got.y),
        ("height", pane.height, got.height),
    ]
    for what, one, other in places:
        if one is not UNSET and abs(one - other) > NEAR:
            yield Difference(f"{what} of {name}", one, other)
    if pane.screen is None or pane.entry is None:
        return
    if _read(pane.title) != _read(got.title):
        yield Difference(f"title of {name}", pane.title, got.title)
    yield from _chosen(session, pane, got, name)
    yield from _picked(session, pane, got, name)
    yield from _first(app, session, pane, got, name)
    own = got.rows.get("")
    if pane.first_row is not None and own not in (None, -1, pane.rows):
        yield Difference(f"rows of {name}", pane.rows, own)
    entry = session.entries[pane.entry]
    screen = app.screens[pane.screen]
    if isinstance(screen, FormScreen):
        for field in screen.fields:
            has = got.fields.get(field.field)
            value = value_in(app, session, entry, field.field)
            said = "" if is_empty(value) else shown(value)
            is_switch = app.type_of(screen.source, field.field) == "yes/no"
            said = "yes" if value is True else "no" if is_switch else said
            if has is not None and has.replace("\r", "") != said.replace("\r", ""):
                yield Difference(f"{field.field} of {name}", said, has)


def _chosen(session: Session, pane: TracedPane, got: ReadPane, name: str) -> Iterator[Difference]:
    """The chosen row, where it is there to be seen; and no other."""
    entry = session.entries[pane.entry or 0]
    wanted = dict(entry.view.choice)
    if pane.chosen is not None and pane.chosen_part not in wanted:
        wanted[pane.chosen_part] = pane.chosen
    for row in got.chosen:
        if wanted.get(row.list) != row.key:
            yield Difference(f"chosen on {name}", wanted.get(row.list), row.key)
    chosen = {(row.list, row.key) for row in got.chosen}
    for row in got.shown:
        if wanted.get(row.list) == row.key and (row.list, row.key) not in chosen:
            yield Difference(f"chosen on {name}", row.key, None)


def _picked(session: Session, pane: TracedPane, got: ReadPane, name: str) -> Iterator[Difference]:
    """The rows that are picked, of those that are there to be seen."""
    picked = session.entries[pane.entry or 0].view.picked
    has = {(row.list, row.key) for row in got.picked}
    for row in got.shown:
        wanted = row.key in picked.get(row.list, ())
        if wanted is not ((row.list, row.key) in has):
            yield Difference(f"picked on {name}", row.key if wanted else None, row.key)


def _first(
    app: WiredApp, session: Session, pane: TracedPane, got: ReadPane, name: str
) -> Iterator[Difference]:
    """What is first in view, and how much of it is over the edge.

    A page lies on whole pixels: what ends within one of the edge may be in view or not.
    """
    anchor = pane.anchor
    if anchor is not None and got.scrolled is not None:
        wanted = anchor.offset * session.window.text
        if abs(wanted - got.scrolled) > FIRST_NEAR:
            yield Difference(f"scrolled on {name}, in px", round(wanted, 1), got.scrolled)
    if anchor is None or got.first_part is None or got.above is None:
        return
    if anchor.key is not None and _is_hidden(app, session, pane, anchor.part, anchor.key):
        return
    found = _anchored(session, anchor, got, name)
    if found is not None and all(
        (each.part, each.key) == (anchor.part, anchor.key) or _anchored(session, each, got, name)
        for each in anchors_beside(app, session, pane, FIRST_NEAR)
    ):
        yield found


def _anchored(
    session: Session, anchor: TracedAnchor, got: ReadPane, name: str
) -> Difference | None:
    """How what a page shows first differs from what should be."""
    key = None if got.first is None else got.first.key
    if anchor.key is None:
        if (anchor.part, None) != (got.first_part, key):
            return Difference(f"first in view on {name}", anchor.part, got.first_part)
        said = f"scrolled over {anchor.part} of {name}"
    elif anchor.key != key:
        return Difference(f"first row of {name}", anchor.key, key)
    else:
        said = f"above the edge of {name}, in px"
    above = round(anchor.above * session.window.text, 1)
    is_apart = abs(above - (got.above or 0.0)) > FIRST_NEAR
    return Difference(said, above, got.above) if is_apart else None


def _is_hidden(app: WiredApp, session: Session, pane: TracedPane, part: str, key: Scalar) -> bool:
    """Whether a row is in a closed group, of which only the title is there to be seen."""
    listed = app.listed(session, session.entries[pane.entry or 0], part)
    at = None if listed is None else listed.rows.index_of(key)
    return listed is not None and at is not None and listed.stack(pane.width).is_hidden(at)
