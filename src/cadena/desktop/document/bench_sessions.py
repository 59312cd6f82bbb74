"""The windows of the Bench: all show one session, or each has its own."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec.structs import replace

from cadena.desktop.document.traced import Traced
from cadena.engine.events import Event, Resize
from cadena.engine.notes import Note
from cadena.engine.session import Session, Window
from cadena.engine.step import resume, seen_in
from cadena.engine.wired import WiredApp
from cadena.model import windows
from cadena.model.app import App

if TYPE_CHECKING:
    from cadena.desktop.document.document import Document

MOST = 6


def name_of(app: App, window: Window) -> str:
    """What a window is called: a name, that turned or folded, or free."""
    for each in windows.windows_of(app):
        if (window.width, window.height) == (each.width, each.height):
            return f"{each.name} folded" if window.folded else each.name
        if (window.width, window.height) == (each.height, each.width):
            return f"{each.name} turned"
    return "Free"


class Several:
    """The windows there are. The live one is the window of the document's session.

    Where all show one session, another window is a projection of it: what is done there makes
    that window the live one first, and nothing is rebuilt for that.
    """

    def __init__(self, document: Document) -> None:
        self.document = document
        self.live = 0
        self.is_apart = False
        self._windows: list[Window] = [document.session.window]
        self._sessions: list[Session] = []
        self._seen: dict[int, tuple[Session, WiredApp, Window, Session]] = {}

    def __len__(self) -> int:
        return len(self._windows)

    def window(self, index: int) -> Window:
        """One of the windows."""
        return self.session(index).window

    def session(self, index: int) -> Session:
        """What a window shows: its own session, or the one there is as seen in it."""
        document = self.document
        if index == self.live:
            return document.session
        if self.is_apart:
            return self._sessions[index]
        window, known = self._windows[index], self._seen.get(index)
        if known is None or known[:3] != (document.session, document.wired, window):
            seen = seen_in(document.wired, document.session, window)
            known = self._seen[index] = (document.session, document.wired, window, seen)
        return known[3]

    def do(self, index: int, event: Event) -> None:
        """Let something happen in one of the windows."""
        self.make_live(index)
        self.document.do(event)

    def make_live(self, index: int) -> None:
        """What happens to the app happens in this window from now on."""
        if index == self.live:
            return
        document, session = self.document, self.session(index)
        self._windows[self.live] = document.session.window
        if self.is_apart:
            self._sessions[self.live] = document.session
        self.live = index
        document.session = session
        where = f"now in {name_of(document.app, session.window)}"
        document.trace.append(Traced(None, (Note.of("window", "shown", name=where),)))
        document.windows_changed.emit()
        document.session_changed.emit()

    def add(self, window: Window) -> None:
        """One more window, as far as there is room for it."""
        if len(self) >= MOST:
            self.document.failed.emit(f"The Bench shows {MOST} windows at most: remove one first.")
            return
        seen = seen_in(self.document.wired, self.document.session, window)
        self._windows.append(window)
        if self.is_apart:
            self._sessions.append(seen)
        self.document.windows_changed.emit()

    def remove(self, index: int) -> None:
        """One window less; the last one stays."""
        if len(self) == 1:
            return
        if index == self.live:
            self.make_live(index - 1 if index else 1)
        del self._windows[index]
        if self.is_apart:
            del self._sessions[index]
        self.live -= self.live > index
        self._seen.clear()
        self.document.windows_changed.emit()

    def set_apart(self, apart: bool) -> None:
        """Give each window a session of its own, or let all show the live one."""
        if apart != self.is_apart:
            self._windows = [self.window(index) for index in range(len(self))]
            self._sessions = [self.session(index) for index in range(len(self))] if apart else []
            self.is_apart = apart
            self.document.windows_changed.emit()

    def start(self) -> None:
        """Only the live window, with one session: a project was opened."""
        self._windows, self._sessions = [self.document.session.window], []
        self.live, self.is_apart = 0, False
        self._seen.clear()
        self.document.windows_changed.emit()

    def carry_over(self, before: WiredApp) -> None:
        """The app has been changed: sessions of other windows go on with it."""
        wired = self.document.wired
        self._sessions = [resume(wired, each, before)[0] for each in self._sessions]

    def resized(self, index: int, width: float, height: float) -> None:
        """A window has another size; it keeps its fold where that still lies in it."""
        window = self.window(index)
        width, height = (max(1.0, min(round(each), windows.LARGEST)) for each in (width, height))
        fold = window.fold if window.fold is not None and window.fold < width else None
        if window.fold_across or window.folded:
            fold = None
        if (width, height) != window.size:
            self.do(index, Resize(width=float(width), height=float(height), fold=fold))


def lines_after(trace: list[Traced], event: Event, traced: Traced) -> list[Traced]:
    """The trace with one more line; sizes dragged through inside one arrangement are one line."""
    last = trace[-1] if trace else None
    if (
        isinstance(event, Resize)
        and last is not None
        and isinstance(last.event, Resize)
        and [each.kind for each in (*last.notes, *traced.notes)] == ["window", "window"]
    ):
        begun, note = last.notes[0].data["old"], traced.notes[0]
        note = replace(note, data={**note.data, "old": begun})
        return [*trace[:-1], Traced(event, (note,))]
    return [*trace, traced]
