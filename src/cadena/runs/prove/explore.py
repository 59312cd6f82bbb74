"""All that can be reached in one section of an app, nearest first, as a table of numbers.

Sessions are let go of once they have been gone on from: a state is a number, with its parent
and the move that led to it, and a walk to it is read off these.
"""

from __future__ import annotations

from array import array
from collections import deque
from collections.abc import Callable, Iterator
from typing import Final, NamedTuple

from cadena.engine import events as do
from cadena.engine.notes import Notes
from cadena.engine.session import Session, Window
from cadena.engine.step import Step, start, step
from cadena.engine.wired import WiredApp
from cadena.model.address import addressed, told
from cadena.model.app import FromValue
from cadena.model.listing import Mark
from cadena.model.values import LIST, Value
from cadena.runs.prove.found import Found
from cadena.runs.prove.moves import Move, Moves, acting
from cadena.runs.prove.row_classes import RowClasses
from cadena.runs.prove.state_key import StateKey
from cadena.runs.prove.windows import Tried, windows_to_try

LEFT, ELSEWHERE, CIRCLE, CHANGED, REFUSED = -1, -2, -3, -4, -5
"""In place of a state: the app was left, another section is shown, a chain has come round to a
screen that is in it, records have changed, or nothing happened."""
MOST_STATES: Final = 400_000
USUAL: Final = 400
"""About how wide a window is in the hand, in dp."""
YES: Final = do.Decide(yes=True)
ROUNDS: Final = 2
"""How often a screen may lie below itself in a chain that is gone on from."""


class Limits(NamedTuple):
    """How far an exploration goes: events from a start, states, and until it is told to stop."""

    depth: int | None = None
    states: int = MOST_STATES
    stop: Callable[[], bool] = lambda: False


class Edge(NamedTuple):
    """A step that was taken: from a state, by a move with its events, to a session.

    ``to`` is the number of that session's state, or what stands in place of one. ``taken`` are
    the events of the move, with the answer to what it asked.
    """

    state: int
    before: Session
    move: Move
    taken: tuple[do.Event, ...]
    step: Step
    to: int


Judge = Callable[["Explored", Edge], Iterator[Found]]


class Explored:
    """The table of what was reached in a section, in the order of its distance.

    ``closed`` tells that nothing was left out; ``depth`` is how many moves from a start all has
    been tried. ``unfinished`` says why that is not all.
    """

    def __init__(self, app: WiredApp, section: str, is_late: bool = False) -> None:
        self.app = app
        self.section = section
        self.tried: tuple[Tried, ...] = windows_to_try(app)
        self.windows: tuple[Window, ...] = tuple(each.window for each in self.tried)
        self.key = StateKey(app, section, self.windows, is_late)
        self.classes = RowClasses(app)
        self.moves = Moves(app, self.key, self.classes)
        self.states: dict[int, int] = {}
        self.parents, self.through, self.depths = array("i"), array("i"), array("h")
        self.window_of, self.lengths, self.shapes = array("b"), array("h"), array("i")
        self.of, self.by, self.to = array("i"), array("i"), array("i")
        self.taken: list[tuple[do.Event, ...]] = []
        self.move_of: list[Move] = []
        self.found: dict[tuple[str, str, str | None], Found] = {}
        self.screens: dict[int, set[str]] = {at: set() for at in range(len(self.windows))}
        self.followed: dict[int, set[str]] = {at: set() for at in range(len(self.windows))}
        self.rounds = ROUNDS
        self.closed = True
        self.unfinished = ""
        self.depth = 0
        self.steps = 0
        self.most_marked: int | None = None
        self.at_root: set[int] = set()
        self.known_once: set[object] = set()
        self._numbers: dict[tuple[object, ...], int] = {}
        self._waiting: deque[tuple[int, Session]] = deque()
        self._counted: set[tuple[int, int]] = set()

    def __len__(self) -> int:
        return len(self.parents)

    def once(self, *key: object) -> bool:
        """Whether this is asked for the first time: what is judged once for many states."""
        if key in self.known_once:
            return False
        self.known_once.add(key)
        return True

    def column(self, state: int) -> str:
        """The arrangement of a state's window."""
        return self.tried[self.window_of[state]].arrangement

    def walk_to(self, state: int) -> tuple[Window, tuple[do.Event, ...]]:
        """The window that a walk to a state starts in, and its events."""
        parts = []
        while True:
            parts.append(self.taken[self.through[state]])
            if self.parents[state] < 0:
                break
            state = self.parents[state]
        window = self.windows[self.window_of[state]]
        return window, tuple(event for part in reversed(parts) for event in part)

    def explore(self, limits: Limits, judges: tuple[Judge, ...] = ()) -> Iterator[int]:
        """Explore in small pieces of work, one for each ``next``: how many states there are."""
        # Of walks that are as short, those in the windows that most apps are first made for.
        for tried in sorted(self.tried, key=lambda each: abs(each.window.width - USUAL)):
            if not tried.window.folded:
                self._start(tried.window)
        while self._waiting:
            state, session = self._waiting.popleft()
            self.depth = depth = self.depths[state]
            if limits.depth is not None and depth >= limits.depth:
                self.closed, self.unfinished = False, f"no more than {limits.depth} moves"
                break
            if len(self) > limits.states:
                self.closed, self.unfinished = False, f"more than {limits.states:,} states"
                break
            if state % 16 == 0:
                yield len(self)
                if limits.stop():
                    self.closed, self.unfinished = False, "no more time"
                    break
            self._expand(state, session, judges)
        self._let_go()

    def _let_go(self) -> None:
        """What is left is the table: of a session nothing more is asked."""
        self.states, self.known_once = {}, set()
        for known in (self._waiting, self._numbers, self._counted, self.key, self.moves):
            known.forget() if isinstance(known, StateKey | Moves) else known.clear()

    def _start(self, window: Window) -> None:
        """The starts of the section in a window: as it is, with values set, from addresses."""
        begun, _ = start(self.app, window)
        for events in (
            (),
            *values_set(self.app, begun, self.key),
            *self._visits(),
        ):
            session, taken = begun, events
            for event in events:
                session, *_ = step(self.app, session, event)
            if session.section != self.section and not any(isinstance(e, do.Visit) for e in events):
                there = do.GoTo(section=self.section)
                session, *_ = step(self.app, session, there)
                taken = (*taken, there)
            if session.section == self.section and session.phase == "running" and session.entries:
                self._meet(session, -1, taken, Move(taken))

    def _visits(self) -> Iterator[tuple[do.Event, ...]]:
        """A visit to each address of a screen of the section, for a record of each class: one
        parameter after the other, those beside it for their first."""
        for place in addressed(self.app.app):
            screen = self.app.screens.get(place.screen)
            if place.screen not in self.key.screens or screen is None or not screen.parameters:
                continue
            some = {e.name: self.classes.of_parameter(screen, e) for e in screen.parameters}
            first = {name: keys[0] for name, keys in some.items() if keys}
            for name in first:
                for key in some[name][name != next(iter(first)) :]:
                    address = told(place.template, {**first, name: key})
                    if address is not None:
                        yield (do.Visit(address=address),)

    def _number(self, taken: tuple[do.Event, ...], move: Move) -> int:
        key = taken, move.sort
        number = self._numbers.get(key)
        if number is None:
            number = self._numbers[key] = len(self.taken)
            self.taken.append(taken)
            self.move_of.append(move)
        return number

    def _meet(
        self, session: Session, parent: int, taken: tuple[do.Event, ...], move: Move
    ) -> tuple[int, bool]:
        """The number of a session's state, and whether it is new."""
        key = self.key(session)
        known = self.states.get(key)
        if known is not None:
            return known, False
        state = self.states[key] = len(self.parents)
        self.parents.append(parent)
        self.through.append(self._number(taken, move))
        self.depths.append(0 if parent < 0 else self.depths[parent] + 1)
        window, (chain, shape) = self.key.windows[session.window], self.key.chain(session)
        entries = session.chains[self.section].entries
        self.window_of.append(window)
        self.lengths.append(len(entries))
        self.shapes.append(shape if session.section == self.section else -1 - shape)
        if (window, chain) not in self._counted:
            self._counted.add((window, chain))
            self.screens[window].update([each.screen for each in entries])
        self._waiting.append((state, session))
        return state, True

    def _expand(self, state: int, session: Session, judges: tuple[Judge, ...]) -> None:
        for move in self.moves.of(session):
            made, taken = self._taken(session, move)
            to = self._goal(state, made, taken, move)
            if move.link is not None and not made.refused:
                self.followed[self.window_of[state]].add(move.link.id)
            self.of.append(state)
            self.by.append(self._number(taken, move))
            self.to.append(to)
            edge = Edge(state, session, move, taken, made, to)
            for judge in judges:
                for found in judge(self, edge):
                    self.tell(found)

    def tell(self, found: Found) -> None:
        """Keep what breaks a claim, the nearest of its kind."""
        key = (found.claim, found.where, found.column)
        known = self.found.get(key)
        if known is None or self._moves_to(found) < self._moves_to(known):
            self.found[key] = found

    def _moves_to(self, found: Found) -> int:
        return self.depths[found.state] + len(found.tail)

    def _taken(self, session: Session, move: Move) -> tuple[Step, tuple[do.Event, ...]]:
        """What a move comes to, where what is asked is answered with yes."""
        taken, after = move.events, session
        notes: Notes = ()
        for event in move.events:
            self.steps += 1
            after, said, refused = step(self.app, after, event)
            if refused:
                return Step(after, said, refused=True), taken
            notes = (*notes, *said)
        if after.question is not None:
            self.steps += 1
            after, said, refused = step(self.app, after, YES)
            notes, taken = (*notes, *said), (*taken, YES)
            if refused:
                return Step(after, said, refused=True), taken
        return Step(after, notes), taken

    def _goal(self, state: int, made: Step, taken: tuple[do.Event, ...], move: Move) -> int:
        if made.refused:
            return REFUSED
        after = made.session
        if after.phase == "left":
            return LEFT
        if after.section != self.section and move.sort != "away" and self.shapes[state] >= 0:
            return ELSEWHERE
        if after.section == self.section:
            if self.key.changes(after):
                return CHANGED
            if comes_round(after, self.rounds):
                return self.states.get(self.key(after), CIRCLE)
        return self._meet(after, state, taken, move)[0]


def comes_round(session: Session, rounds: int = ROUNDS) -> bool:
    """Whether the deepest screen of a chain lies in it so often more: circles are gone once."""
    entries = session.entries
    last = entries[-1].screen
    return sum(each.screen == last for each in entries[:-1]) >= rounds


def values_set(app: WiredApp, session: Session, key: StateKey) -> Iterator[tuple[do.Event, ...]]:
    """What other sections may have set of the values that a section reads: one record each."""
    for name in key.read:
        if not _is_set_elsewhere(app, name, key.screens):
            continue
        value = app.values[name]
        some = _some_value(app, name, value.type)
        if some is not None and session.values.get(name) != some:
            yield (do.SetValue(value=name, to=some),)


def _is_set_elsewhere(app: WiredApp, name: str, screens: frozenset[str]) -> bool:
    """Whether a screen of another section sets an app-wide value; what a section sets itself is
    come to in it."""
    links = {each.trigger.screen for each in app.app.links if name in each.sets}
    acts = {
        screen.id
        for screen in app.app.screens
        for _, each in acting(app, screen.id)
        if isinstance(each.does, Mark) and each.does.value == name
    }
    return not links | acts <= screens


def _some_value(app: WiredApp, name: str, kind: str) -> Value | None:
    """The key, or the first few, of a source whose keys a value holds."""
    for listings in app.listings.values():
        for listing in listings.values():
            records = app.as_read.get(listing.source)
            for condition in listing.where:
                if (
                    condition.value == name
                    and condition.field
                    and records is not None
                    and len(records)
                ):
                    return _from_column(records.by_key(records.key_at(0)), condition.field, kind)
    for link in app.app.links:
        target = app.screens.get(link.to)
        for argument in link.arguments:
            if not isinstance(argument, FromValue) or argument.value != name or target is None:
                continue
            key_of = next((e.key_of for e in target.parameters if e.name == argument.parameter), "")
            records = app.as_read.get(key_of)
            if records is not None and len(records):
                first: Value = records.key_at(0)
                return (first,) if kind.startswith(LIST) else first  # type: ignore[return-value]
    return None


def _from_column(record: dict[str, Value] | None, field: str, kind: str) -> Value | None:
    value = (record or {}).get(field)
    if value is None or isinstance(value, tuple):
        return value
    return (value,) if kind.startswith(LIST) else value
