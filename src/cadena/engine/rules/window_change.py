"""Another window: resized, turned or folded (rules.md, 5)."""

from __future__ import annotations

import math
from typing import Final

from msgspec.structs import replace

from cadena.engine import events as do
from cadena.engine.layout.panes import shares_given
from cadena.engine.notes import Note, Notes, Refused
from cadena.engine.rules.display import arrangement_for
from cadena.engine.rules.dividing import divided_while
from cadena.engine.rules.lifetimes import rebuild
from cadena.engine.session import Session, Window, sized
from cadena.engine.wired import WiredApp
from cadena.model.app import NamedWindow
from cadena.model.windows import fault_of

LEAST_TEXT: Final = 0.5625
MOST_TEXT: Final = 3.0
"""How small and how large text can be: what is 9 to 48 px where 16 is usual."""
Resized = do.Resize | do.Turn | do.Fold | do.Unfold | do.SetText | do.ReadFrom


def resized(app: WiredApp, session: Session, event: Resized) -> tuple[Session, Notes]:
    """Another window: the chain stays, its projection and perhaps its screens are made anew."""
    old = session.window
    window = window_after(old, event)
    if window == old:
        return session, ()
    was, now = arrangement_for(app, old), arrangement_for(app, window)
    notes = [Note.of("window", "resized", old=old.size, new=window.size)]
    if isinstance(event, do.SetText | do.ReadFrom):
        side = "right" if window.rtl else "left"
        notes = [Note.of("window", "read", text=window.text, side=side)]
    session = replace(session, window=window)
    if was is not now:
        notes.append(Note.of("arranged", old=was.id, new=now.id))
    rebuilds = app.app.platform.rebuilds
    shares = app.remember(("shares", now.id, window), lambda: shares_given(now, window))
    if shares and now.panes > 1:
        asked, came = zip(*[(round(e, 4), round(c, 4)) for e, c in shares], strict=True)
        notes.append(Note.of("shares", where=f"arrangements[{now.id}]", asked=asked, came=came))
    is_rebuilt = (isinstance(event, do.Turn) and "turn" in rebuilds) or (
        was is not now and "breakpoint" in rebuilds
    )
    if is_rebuilt:
        session = rebuild(app, session)
        notes.append(Note("rebuilt"))
    session = divided_while(
        app, session, lambda each: each.keep != "view" or (each is now and not is_rebuilt)
    )
    return session, tuple(notes)


def window_of(named: NamedWindow) -> Window:
    """A named window as it lies when nobody has turned or folded it."""
    return sized(named.width, named.height, named.fold)


def resize_to(window: Window) -> do.Resize:
    """The event that gives the app this window."""
    return do.Resize(width=window.width, height=window.height, fold=window.fold)


def window_after(window: Window, event: Resized) -> Window:
    """The window that a change of it leads to, of any kind (5)."""
    match event:
        case do.Resize():
            named = NamedWindow(name="", width=event.width, height=event.height, fold=event.fold)
            if (fault := fault_of(named)) is not None:
                raise Refused("window cannot be", fault=fault)
            return replace(window_of(named), text=window.text, rtl=window.rtl)
        case do.Turn():
            return replace(
                window,
                width=window.height,
                height=window.width,
                fold_across=window.fold is not None and not window.fold_across,
            )
        case do.SetText():
            if not (math.isfinite(event.size) and LEAST_TEXT <= event.size <= MOST_TEXT):
                raise Refused("text size", size=event.size)
            return replace(window, text=event.size)
        case do.ReadFrom():
            return replace(window, rtl=event.side == "right")
        case _:
            if window.fold is None:
                raise Refused("no fold")
            return replace(window, folded=isinstance(event, do.Fold))
