"""What a person does with the windows of the Bench: each is told to all who show them."""

from __future__ import annotations

from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.document.sessions import MOST_WINDOWS
from cadena.engine.events import Event, Resize
from cadena.engine.session import Window
from cadena.model import windows


def do_in(document: Document, index: int, event: Event) -> None:
    """Let something happen in one of the windows."""
    make_live(document, index)
    document.do(event)


def make_live(document: Document, index: int) -> None:
    """What happens to the app happens in this window from now on."""
    if index != document.sessions.live:
        document.sessions.make_live(index)
        document.tell(Change.WINDOWS | Change.SESSION)


def add_window(document: Document, window: Window) -> None:
    """One more window, as far as there is room for it."""
    if document.sessions.add(window):
        document.tell(Change.WINDOWS)
    else:
        said = f"The Bench shows {MOST_WINDOWS} windows at most: remove one first."
        document.failed.emit(said)


def remove_window(document: Document, index: int) -> None:
    """One window less; the last one stays."""
    if len(document.sessions) > 1:
        if index == document.sessions.live:
            make_live(document, index - 1 if index else 1)
        document.sessions.remove(index)
        document.tell(Change.WINDOWS)


def set_apart(document: Document, apart: bool) -> None:
    """Give each window a session of its own, or let all show the live one."""
    if apart != document.sessions.is_apart:
        document.sessions.set_apart(apart)
        document.tell(Change.WINDOWS)


def resized(document: Document, index: int, width: float, height: float) -> None:
    """A window has another size; it keeps its fold where that still lies in it."""
    window = document.sessions.window(index)
    width, height = (max(1.0, min(round(each), windows.LARGEST)) for each in (width, height))
    fold = window.fold if window.fold is not None and window.fold < width else None
    if window.fold_across or window.folded:
        fold = None
    if (width, height) != window.size:
        resize = Resize(width=float(width), height=float(height), fold=fold)
        do_in(document, index, resize)
