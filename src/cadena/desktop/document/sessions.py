"""The running app in the windows of the Bench, and what has happened to it. No window needed."""

from __future__ import annotations

import dataclasses
from dataclasses import dataclass
from typing import Final

from msgspec.structs import replace

from cadena.engine.events import Divide, Event, Resize
from cadena.engine.notes import Note, Notes
from cadena.engine.session import Session, Window
from cadena.engine.step import resume, seen_in, start, step
from cadena.engine.wired import WiredApp
from cadena.model import windows
from cadena.model.app import App

MOST_WINDOWS: Final = 6
TRACE_KEPT: Final = 120


@dataclass(frozen=True)
class Traced:
    """What happened, and what was said of it; without an event, something was done to the run.

    ``after`` is the session then, and ``wired`` the app that it was of.
    """

    event: Event | None
    notes: Notes = ()
    refused: bool = False
    after: Session | None = None
    wired: WiredApp | None = None


class Sessions:
    """The windows there are; all show one session, or each has its own.

    The live one is the window of ``session``. Where all show one session, another window is a
    projection of it: what is done there makes that window the live one first, and nothing is
    rebuilt for that.
    """

    def __init__(self, wired: WiredApp, window: Window) -> None:
        self.wired = wired
        self.session = Session(window)
        self.trace: list[Traced] = []
        self.at: int | None = None
        self.peeked: int | None = None
        self.live = 0
        self.is_apart = False
        self._windows: list[Window] = [window]
        self._sessions: list[Session] = []
        self._seen: dict[int, tuple[Session, WiredApp, Window, Session]] = {}

    def __len__(self) -> int:
        return len(self._windows)

    def begin(self, wired: WiredApp) -> None:
        """Another app, in the live window alone."""
        self.wired, self.trace, self.at = wired, [], None
        self.session, notes = start(wired, self.session.window)
        self._tell(None, (Note("started"), *notes))
        self._windows, self._sessions = [self.session.window], []
        self.live, self.is_apart = 0, False
        self._seen.clear()

    def restart(self) -> None:
        """Start the app anew in its window, with the records as they were read."""
        self.session, notes = start(self.wired, self.session.window)
        self._tell(None, (Note("started"), *notes))

    def _tell(self, event: Event | None, notes: Notes, refused: bool = False) -> None:
        """One more line of what has happened; what a person has gone back before is gone."""
        self.peeked = None
        if self.at is not None:
            self.trace, self.at = self.trace[: self.at + 1], None
        line = Traced(event, notes, refused, self.session, self.wired)
        if event is None:
            self.trace = [*self.trace[-TRACE_KEPT:], line]
        else:
            self.trace = lines_after(self.trace[-TRACE_KEPT:], event, line)

    def go_back_to(self, at: int) -> None:
        """Show the app as it was after a line; going on from there starts anew from it."""
        line = self.trace[at]
        if line.after is None or line.wired is None:
            return
        self.at = at
        self.session = line.after
        if line.wired is not self.wired:
            self.session, _ = resume(self.wired, line.after, line.wired)

    def run(self) -> tuple[Window, tuple[Event, ...]]:
        """The events since the app was last started, up to where it is, and its window then."""
        lines = self.trace if self.at is None else self.trace[: self.at + 1]
        starts = [n for n, each in enumerate(lines) if _is_start(each)]
        first = starts[-1] if starts else 0
        begun = lines[first].after if lines else None
        window = self.session.window if begun is None else begun.window
        events = (each.event for each in lines[first:])
        return window, tuple(each for each in events if each is not None)

    def go_on_with(self, wired: WiredApp) -> None:
        """The app has been changed under its sessions: they go on with it (8.1)."""
        before, self.wired = self.wired, wired
        self.session, notes = resume(wired, self.session, before)
        self._sessions = [resume(wired, each, before)[0] for each in self._sessions]
        # The run still knows the app as it was, and needs nothing of what that remembered.
        before.forget()
        if notes:
            self._tell(None, notes)

    def do(self, event: Event) -> Notes:
        """Let something happen in the live window."""
        self.session, notes, refused = step(self.wired, self.session, event)
        self._tell(event, notes, refused)
        return notes

    def window(self, index: int) -> Window:
        """One of the windows."""
        return self.shown(index).window

    def shown(self, index: int) -> Session:
        """What a window shows: its own session, or the one there is as seen in it."""
        if index == self.live:
            return self._peeked() or self.session
        if self.is_apart:
            return self._sessions[index]
        window, known = self._windows[index], self._seen.get(index)
        if known is None or known[:3] != (self.session, self.wired, window):
            seen = seen_in(self.wired, self.session, window)
            known = self._seen[index] = (self.session, self.wired, window, seen)
        return known[3]

    def _peeked(self) -> Session | None:
        """The session as it was after the line that is looked at, if one is."""
        if self.peeked is None or self.peeked >= len(self.trace):
            return None
        line = self.trace[self.peeked]
        return line.after if line.wired is self.wired else None

    def make_live(self, index: int) -> None:
        """What happens to the app happens in this window from now on."""
        self.peeked = None
        session = self.shown(index)
        self._windows[self.live] = self.session.window
        if self.is_apart:
            self._sessions[self.live] = self.session
        self.live, self.session = index, session
        where = f"now in {name_of(self.wired.app, session.window)}"
        self._tell(None, (Note.of("window", "shown", name=where),))

    def add(self, window: Window) -> bool:
        """One more window; whether there was room for it."""
        if len(self) >= MOST_WINDOWS:
            return False
        self._windows.append(window)
        if self.is_apart:
            self._sessions.append(seen_in(self.wired, self.session, window))
        return True

    def remove(self, index: int) -> None:
        """One window less, which is not the live one."""
        del self._windows[index]
        if self.is_apart:
            del self._sessions[index]
        self.live -= self.live > index
        self._seen.clear()

    def set_apart(self, apart: bool) -> None:
        """Give each window a session of its own, or let all show the live one."""
        self.peeked = None
        every = range(len(self))
        self._windows = [self.window(index) for index in every]
        self._sessions = [self.shown(index) for index in every] if apart else []
        self.is_apart = apart


def _is_start(line: Traced) -> bool:
    return line.event is None and any(note.kind == "started" for note in line.notes)


def lines_after(trace: list[Traced], event: Event, traced: Traced) -> list[Traced]:
    """The trace with one more line; sizes dragged through inside one arrangement are one line,
    and so is a divider that is dragged."""
    last = trace[-1] if trace else None
    kinds = [each.kind for each in (*(last.notes if last else ()), *traced.notes)]
    if (
        isinstance(event, Divide)
        and last is not None
        and isinstance(last.event, Divide)
        and last.event.pane == event.pane
        and kinds == ["divided", "divided"]
    ):
        return [*trace[:-1], traced]
    if (
        isinstance(event, Resize)
        and last is not None
        and isinstance(last.event, Resize)
        and kinds == ["window", "window"]
    ):
        begun, note = last.notes[0].data["old"], traced.notes[0]
        note = replace(note, data={**note.data, "old": begun})
        return [*trace[:-1], dataclasses.replace(traced, notes=(note,))]
    return [*trace, traced]


def name_of(app: App, window: Window) -> str:
    """What a window is called: a name, that turned or folded, or free."""
    for each in windows.windows_of(app):
        if (window.width, window.height) == (each.width, each.height):
            return f"{each.name} folded" if window.folded else each.name
        if (window.width, window.height) == (each.height, each.width):
            return f"{each.name} turned"
    return "Free"
