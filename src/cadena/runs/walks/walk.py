"""Walks: events and what is expected after them, replayed on a wired app."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any, Final, Literal, NamedTuple

import msgspec
from msgspec import UNSET, Struct, UnsetType

from cadena.engine.events import Event
from cadena.engine.rules.window_change import window_of
from cadena.engine.session import Session, Window
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.app import NamedWindow
from cadena.model.claims import Situation
from cadena.model.file.disk import read_bytes, said_path
from cadena.model.problem import Problem
from cadena.model.values import Scalar, Value
from cadena.model.windows import fault_of
from cadena.runs.walks.situation import holds
from cadena.runs.walks.trace import TraceLine, trace_line

NOTHING_CHOSEN: Final = "nothing chosen"
LARGEST: Final = 16 * 1024 * 1024


class Expected(Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """What should be so after the events before it; only what is given is compared.

    ``display`` and ``chain`` are screens, left to right and root first; a pane that says
    so is "nothing chosen". ``arguments`` are those of the deepest entry; ``chosen`` and
    ``first_row`` go by screen; ``focus`` is the screen that has it; ``back`` is the back label,
    null where back leaves; ``note`` is the kind of one of the last event's notes. ``shows`` are
    screens that are on display, among others; ``draft`` is what is typed, by screen; ``missing``
    are the screens whose record is not there; ``saved_most`` is how many bytes an app that was
    just ended may have saved. ``so`` is a situation, as claims name it. ``never`` holds where not
    all that it names is so.
    """

    display: tuple[str, ...] | UnsetType = UNSET
    chain: tuple[str, ...] | UnsetType = UNSET
    arguments: dict[str, Value] | UnsetType = UNSET
    chosen: dict[str, Scalar | None] | UnsetType = UNSET
    first_row: dict[str, Scalar | None] | UnsetType = UNSET
    rows: dict[str, int] | UnsetType = UNSET
    question: str | UnsetType | None = UNSET
    values: dict[str, Value] | UnsetType = UNSET
    clock: int | UnsetType = UNSET
    focus: str | UnsetType | None = UNSET
    address: str | UnsetType | None = UNSET
    back: str | UnsetType | None = UNSET
    title: str | UnsetType = UNSET
    section: str | UnsetType = UNSET
    phase: Literal["running", "asleep", "killed", "left"] | UnsetType = UNSET
    note: str | UnsetType = UNSET
    shows: tuple[str, ...] | UnsetType = UNSET
    draft: dict[str, dict[str, Value | None]] | UnsetType = UNSET
    missing: tuple[str, ...] | UnsetType = UNSET
    saved_most: int | UnsetType = UNSET
    so: Situation | UnsetType = UNSET
    never: Expected | UnsetType = UNSET


class Expectation(Struct, frozen=True, forbid_unknown_fields=True):
    expect: Expected


Walk = tuple[Event | Expectation, ...]


class Failure(NamedTuple):
    """An expectation that does not hold: which step of the walk, of what, and how."""

    step: int
    what: str
    expected: Any
    got: Any

    def __str__(self) -> str:
        expected, got = (msgspec.json.encode(each).decode() for each in (self.expected, self.got))
        return f"step {self.step}: {self.what}: expected {expected}, got {got}"


class Replayed(NamedTuple):
    """One step of a walk replayed: a line of the trace for an event, or what failed."""

    number: int
    session: Session
    line: TraceLine | None
    failures: tuple[Failure, ...]


def read_walk(path: Path) -> Walk:
    """Read a walk.

    Raises:
        Problem: naming the step that cannot be used.
    """
    name = said_path(path.name)
    try:
        raw = read_bytes(path, name, LARGEST, "a walk in JSON")
        steps = msgspec.json.decode(raw, type=list[msgspec.Raw])
    except (msgspec.MsgspecError, UnicodeDecodeError, RecursionError) as error:
        raise Problem(name, "", f"it is not a walk ({error})", "a JSON list of steps") from None
    return tuple(_read_step(raw, name, number) for number, raw in enumerate(steps))


def read_step(text: str, number: int) -> Event | Expectation:
    """One step of a walk from its text.

    Raises:
        Problem: where it is none.
    """
    return _read_step(msgspec.Raw(text.encode()), "the walk", number)


def _read_step(raw: msgspec.Raw, name: str, number: int) -> Event | Expectation:
    try:
        tree = msgspec.json.decode(raw)
        if isinstance(tree, dict) and "expect" in tree:
            return msgspec.convert(tree, Expectation)
        return msgspec.convert(tree, Event)  # type: ignore[no-any-return]
    except (msgspec.MsgspecError, UnicodeDecodeError, RecursionError) as error:
        raise Problem(
            name, f"step {number}", str(error), 'an event ("do": …) or an expectation ("expect": …)'
        ) from None


Answering = Callable[[Session], Iterator[Event]]
"""The answers of real services to what a session asks of them."""


def replay(
    app: WiredApp, walk: Walk, window: Window, answering: Answering | None = None
) -> Iterator[Replayed]:
    """Replay a walk from a fresh start in a window. The first line is the start itself.

    Args:
        answering: gives what real services answer, after the start and after each event; without
            it nothing is called, and what is asked of them stays unanswered.
    """
    session, notes = start(app, window)
    line = trace_line(app, session, None, notes)
    yield Replayed(-1, session, line, ())
    for answer in () if answering is None else _answers(app, session, answering):
        session, line = answer.session, answer.line or line
        yield answer
    for number, each in enumerate(walk):
        if isinstance(each, Expectation):
            failed = failures(app, session, line, each.expect, number)
            yield Replayed(number, session, None, failed)
            continue
        session, notes, _ = step(app, session, each)
        line = trace_line(app, session, each, notes)
        yield Replayed(number, session, line, ())
        for answer in () if answering is None else _answers(app, session, answering, number):
            session, line = answer.session, answer.line or line
            yield answer


def not_held(app: WiredApp, walk: Walk, window: Window) -> list[str]:
    """What does not hold of a walk in a window, in words; nothing real is asked."""
    return [str(failure) for each in replay(app, walk, window) for failure in each.failures]


def _answers(
    app: WiredApp, session: Session, answering: Answering, number: int = -1
) -> Iterator[Replayed]:
    """What services answer, until nothing is asked any more."""
    while answers := list(answering(session)):
        for event in answers:
            session, notes, _ = step(app, session, event)
            yield Replayed(number, session, trace_line(app, session, event, notes), ())


def failures(
    app: WiredApp, session: Session, line: TraceLine, expected: Expected, number: int
) -> tuple[Failure, ...]:
    """What of an expectation does not hold of a session, and of its line of the trace."""
    got: dict[str, Any] = {
        "display": tuple(each.screen or NOTHING_CHOSEN for each in line.display),
        "chain": tuple(each.screen for each in line.chain),
        "arguments": line.chain[-1].arguments if line.chain else {},
        "focus": line.focus,
        "address": line.address,
        "back": line.back,
        "title": line.display[-1].title if line.display else "",
        "section": line.section,
        "phase": line.phase,
        "question": line.question,
        "values": line.values,
        "clock": line.clock,
    }
    found = [
        Failure(number, name, wanted, got[name])
        for name in got
        if (wanted := getattr(expected, name)) is not UNSET and wanted != got[name]
    ]
    for name in ("chosen", "first_row", "rows"):
        wanted = getattr(expected, name)
        for screen, key in ({} if wanted is UNSET else wanted).items():
            pane = next((each for each in reversed(line.display) if each.screen == screen), None)
            has = "not on display" if pane is None else pane.chosen
            if name == "first_row" and pane is not None:
                has = pane.first_row
            elif name == "rows" and pane is not None:
                has = pane.rows
            if type(has) is not type(key) or has != key:
                found.append(Failure(number, f"{name} of {screen}", key, has))
    found += _of_state(line, expected, number)
    if expected.so is not UNSET and not holds(app, session, expected.so):
        found.append(Failure(number, "so", expected.so, "it is not so"))
    if expected.never is not UNSET and not failures(app, session, line, expected.never, number):
        found.append(Failure(number, "never", expected.never, "it is so"))
    kinds = [each.kind for each in line.notes]
    if expected.note is not UNSET and expected.note not in kinds:
        found.append(Failure(number, "note", expected.note, kinds))
    return tuple(found)


def _of_state(line: TraceLine, expected: Expected, number: int) -> Iterator[Failure]:
    """What does not hold of what is expected of the state as a whole."""
    if expected.shows is not UNSET:
        shown = tuple(each.screen or NOTHING_CHOSEN for each in line.display)
        if not set(expected.shows) <= set(shown):
            yield Failure(number, "shows", expected.shows, shown)
    for screen, wanted in ({} if expected.draft is UNSET else expected.draft).items():
        drafts = (each.draft for each in reversed(line.chain) if each.screen == screen)
        has = next(drafts, "not open")
        if has != wanted:
            yield Failure(number, f"draft of {screen}", wanted, has)
    if expected.missing is not UNSET:
        missing = tuple(each.screen for each in line.chain if each.missing)
        if missing != expected.missing:
            yield Failure(number, "missing", expected.missing, missing)
    if expected.saved_most is not UNSET:
        saved = next((each.data["bytes"] for each in line.notes if each.kind == "killed"), 0)
        if saved > expected.saved_most:
            yield Failure(number, "saved, in bytes, at most", expected.saved_most, saved)


def parse_window(text: str) -> Window:
    """The window that ``360x780`` means; ``673x841@336`` folds at 336 dp.

    Raises:
        Problem: for anything else.
    """
    size, _, fold = text.lower().replace("×", "x").partition("@")
    width, _, height = size.partition("x")
    wanted = Problem("--window", "", f'"{text}" came', "WIDTHxHEIGHT in dp, such as 360x780")
    try:
        named = NamedWindow(
            name="", width=float(width), height=float(height), fold=float(fold) if fold else None
        )
    except ValueError:
        raise wanted from None
    if fault_of(named) is not None:
        raise wanted
    return window_of(named)


def schema() -> dict[str, Any]:
    """The JSON Schema (2020-12) of a walk; ``$defs`` also has TraceLine, a line of the trace."""
    (events, expectation, _), parts = msgspec.json.schema_components(
        (Event, Expectation, TraceLine)
    )
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Cadena walk",
        "type": "array",
        "items": {"anyOf": [*events["anyOf"], expectation]},
        "$defs": parts,
    }
