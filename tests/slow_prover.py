"""A prover that leaves out nothing: plain breadth first, every row, every value, every window.

It is slow, and only for small apps of one section; the prover itself is held against it. What
`docs/proving.md` says is not looked at is not looked at here: circles gone round more than once,
more than one change of the records, more than one way to fill a field.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable, Iterator
from typing import Any, Final, NamedTuple

from msgspec import json

from cadena.engine import events as do
from cadena.engine.form_values import form_of, value_in
from cadena.engine.notes import Notes
from cadena.engine.rules.display import display_of
from cadena.engine.session import Entry, Session
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.address import addressed, told
from cadena.model.app import FormScreen, Link
from cadena.model.claims import OwnClaim
from cadena.records.template import is_empty
from cadena.runs.possible import every_row, possible
from cadena.runs.prove.windows import to_window, windows_to_try
from cadena.runs.walks.situation import holds

TAKEN: Final = (
    *(do.Choose, do.Press, do.Act, do.OpenFact, do.OpenField, do.Save, do.Cancel),
    *(do.Pick, do.LetGo, do.ActOnPicked),
    *(do.Back, do.Forward, do.PressOutside, do.SlideList, do.GoTo),
)
MOST: Final = 4_000
UNREAD: Final = "note"
"""The one field that nothing of these apps reads: that it changes is no change."""
LEFT, CHANGED, REFUSED, ROUND = -1, -2, -3, -4
Taken = tuple[do.Event, ...]


class TooMany(Exception):
    """There are more sessions than are looked at."""


class Way(NamedTuple):
    """A move that was tried, and what came of it; ``to`` is a state, or why it is none."""

    state: int
    events: Taken
    link: Link | None
    before: Session
    after: Session
    notes: Notes
    to: int


def has_changed(session: Session) -> bool:
    return any(
        each.gone or each.added or any(set(one.fields) != {UNREAD} for one in each.changed)
        for each in session.changes.values()
    )


def run(app: WiredApp, session: Session, events: Iterable[do.Event]) -> tuple[Session, Notes, bool]:
    """The events one after the other, each question answered with yes."""
    notes: Notes = ()
    for event in events:
        session, said, refused = step(app, session, event)
        notes = (*notes, *said)
        if refused:
            return session, said, True
    if session.question is not None:
        session, said, refused = step(app, session, do.Decide(yes=True))
        return session, (*notes, *said), refused
    return session, notes, False


class Everything:
    """All sessions that can be come to, nearest first, with how many moves that takes."""

    def __init__(self, app: WiredApp, most: int = MOST) -> None:
        self.app = app
        self.sessions: list[Session] = []
        self.depths: list[int] = []
        self.ways: list[Way] = []
        self._known: dict[bytes, int] = {}
        self._waiting: deque[int] = deque()
        self.windows = [each.window for each in windows_to_try(app)]
        for window in self.windows:
            begun, _ = start(app, window)
            for events in self.starts() if not window.folded else ():
                self._meet(run(app, begun, events)[0], 0)
        while self._waiting:
            if len(self.sessions) > most:
                raise TooMany
            self._try_all(self._waiting.popleft())

    def starts(self) -> Iterator[Taken]:
        """As it is, and from the address of each record of each screen that has one."""
        yield ()
        for each in addressed(self.app.app):
            screen = self.app.screens[each.screen]
            for key in self.app.as_read[screen.source].keys if screen.parameters else ():
                address = told(each.template, {screen.key: key})
                if address is not None:
                    yield (do.Visit(address=address),)

    def _meet(self, session: Session, depth: int) -> int:
        key = json.encode((session.window, self.told(session)))
        if key not in self._known:
            self._known[key] = len(self.sessions)
            self.sessions.append(session)
            self.depths.append(depth)
            self._waiting.append(self._known[key])
        return self._known[key]

    def _try_all(self, at: int) -> None:
        session = self.sessions[at]
        for events, link in (*self.moves(session), *self.to_windows(session)):
            after, notes, refused = run(self.app, session, events)
            self.ways.append(Way(at, events, link, session, after, notes, REFUSED))
            if not refused:
                to = self._goal(at, after)
                self.ways[-1] = self.ways[-1]._replace(to=to)

    def _goal(self, at: int, after: Session) -> int:
        if after.phase != "running":
            return LEFT
        if has_changed(after):
            return CHANGED
        last = after.entries[-1].screen
        if sum(each.screen == last for each in after.entries) > 2:
            key = json.encode((after.window, self.told(after)))
            return self._known.get(key, ROUND)
        return self._meet(after, self.depths[at] + 1)

    def to_windows(self, session: Session) -> Iterator[tuple[Taken, None]]:
        for window in self.windows:
            to = to_window(session.window, window) if window != session.window else None
            if to is not None:
                yield (to,), None

    def moves(self, session: Session) -> Iterator[tuple[Taken, Link | None]]:
        for each in possible(self.app, session, every_row):
            if isinstance(each.event, TAKEN):
                yield (each.event,), each.link
        display = display_of(self.app, session)
        for pane in display.shown if display.layer is None else (display.layer,):
            entry = None if pane.entry is None else session.entries[pane.entry]
            if entry is None:
                continue
            if isinstance(self.app.screens[entry.screen], FormScreen) and not entry.view.draft:
                yield from self.typed(session, entry, pane.entry)
            source, key = self.app.source_of(entry), self.app.key_of(entry)
            if key is not None and not session.changes:
                yield (do.Refresh(source=source, gone=(key,)),), None

    def typed(
        self, session: Session, entry: Entry, index: int
    ) -> Iterator[tuple[Taken, Link | None]]:
        """All that a form requires and lacks, or its last field: one draft of each form."""
        fields = form_of(self.app, entry).fields
        lacks = [
            each
            for each in fields
            if each.required and is_empty(value_in(self.app, session, entry, each.field))
        ]
        yield (
            tuple(
                do.Type(screen=entry.screen, entry=index, field=each.field, to="Some")
                for each in lacks or fields[-1:]
            ),
            None,
        )

    def told(self, session: Session) -> list[Any]:
        """All of a session but where it is scrolled to, and the clock."""
        entries = [
            (
                *(e.screen, e.arguments, e.opened, e.by, e.row, e.opened_for),
                *(e.view.choice, e.view.last, e.view.draft, e.view.picked),
            )
            for e in session.entries
        ]
        changes = {name: each.changed for name, each in session.changes.items()}
        return [
            *(session.section, entries, session.chain.asked),
            *(session.values, session.slid, changes if has_changed(session) else None),
        ]

    def shortest(self, claim: OwnClaim) -> int | None:
        """In how many moves a claim is broken, or none where it holds."""
        when = [at for at, each in enumerate(self.sessions) if holds(self.app, each, claim.when)]
        so = [holds(self.app, each, claim.so) for each in self.sessions]
        if claim.says == "can reach":
            reaches = self.leading_to({at for at, is_so in enumerate(so) if is_so})
            broken = [at for at in when if at not in reaches]
        else:
            broken = [at for at in when if so[at] is (claim.says == "never")]
        return min((self.depths[at] for at in broken), default=None)

    def leading_to(self, goals: set[int]) -> set[int]:
        before: dict[int, list[int]] = {}
        for way in self.ways:
            if way.to >= 0 and way.after.window == way.before.window:
                before.setdefault(way.to, []).append(way.state)
        found, waiting = set(goals), deque(goals)
        while waiting:
            for at in before.get(waiting.popleft(), ()):
                if at not in found:
                    found.add(at)
                    waiting.append(at)
        return found
