"""Dividers that people drag, and how long it is kept where they were left (rules.md, 3.2)."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from typing import Any

from msgspec.structs import replace

from cadena.engine import events as do
from cadena.engine.layout.panes import Divider, divided_at, dividers_in
from cadena.engine.notes import Note, Notes, Refused
from cadena.engine.rules.display import Display, display_of
from cadena.engine.session import Divided, Session
from cadena.engine.wired import WiredApp
from cadena.model.app import MOST_PANES, Arrangement
from cadena.model.part import Lifetime


def dividers_of(session: Session, display: Display) -> tuple[Divider, ...]:
    """The dividers on display that a person can move: what lies over the panes lies over them."""
    if display.layer is not None or display.slid is not None:
        return ()
    arrangement = display.arrangement
    divided = session.divided.get(arrangement.id, ())
    return dividers_in(arrangement, session.window, len(display.panes), divided)


def divide(app: WiredApp, session: Session, event: do.Divide) -> tuple[Session, Notes]:
    """Move a divider, within what its panes can be."""
    display = display_of(app, session)
    arrangement = display.arrangement
    found = (each for each in dividers_of(session, display) if each.pane == event.pane)
    divider = next(found, None)
    if divider is None or not math.isfinite(event.to):
        case = "divider is fixed" if arrangement.dividers == "fixed" else "no such divider"
        raise Refused(case, f"arrangements[{arrangement.id}]", pane=event.pane, to=event.to)
    to = min(max(event.to, divider.least), divider.most)
    was, shown = session.divided.get(arrangement.id, ()), len(display.panes)
    divided = divided_at(arrangement, session.window, shown, was, event.pane, to)
    session = replace(session, divided={**session.divided, arrangement.id: divided})
    where = f"arrangements[{arrangement.id}]"
    return session, (Note.of("divided", where=where, pane=event.pane, to=round(to, 2)),)


def divided_while(app: WiredApp, session: Session, keeps: Callable[[Arrangement], bool]) -> Session:
    """With only those dividers as they were left whose arrangement keeps that."""
    if not session.divided:
        return session
    kept = {
        arrangement.id: session.divided[arrangement.id]
        for arrangement in app.arrangements
        if arrangement.id in session.divided and keeps(arrangement)
    }
    return session if kept == session.divided else replace(session, divided=kept)


def fitting_divided(
    app: WiredApp, divided: Mapping[str, Any], survives: frozenset[Lifetime]
) -> dict[str, Divided]:
    """Where dividers were left that there still are, as far as it is kept, trusting nothing."""
    return {
        arrangement.id: tuple(
            None if size is None else float(size) for size in divided[arrangement.id]
        )
        for arrangement in app.arrangements
        if arrangement.id in divided
        and arrangement.dividers != "fixed"
        and arrangement.keep in survives
        and _is_sound(divided[arrangement.id])
    }


def _is_sound(sizes: Any) -> bool:
    return (
        isinstance(sizes, list | tuple)
        and len(sizes) <= MOST_PANES
        and all(
            each is None
            or (isinstance(each, int | float) and not isinstance(each, bool) and 0 <= each < 1e6)
            for each in sizes
        )
    )
