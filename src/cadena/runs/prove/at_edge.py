"""What a step of an exploration breaks, and where in the project that comes from."""

from __future__ import annotations

from cadena.engine import events as do
from cadena.engine.notes import Note
from cadena.runs.prove.explore import Edge, Explored
from cadena.runs.prove.found import Found
from cadena.runs.walks.walk import Expected


def found_at(
    explored: Explored,
    edge: Edge,
    claim: str,
    where: str,
    what: str | Note,
    expect: Expected | None = None,
    more: tuple[do.Event, ...] = (),
) -> Found:
    """That a step, with more events after it, breaks a claim."""
    tail = (*edge.taken, *more)
    column = explored.column(edge.state)
    return Found(claim, where, what, column, edge.state, tail, expect or ())


def place_of(edge: Edge, otherwise: str = "") -> str:
    """Where in the project a step comes from: its link, or the screen that it was done on."""
    if edge.move.link is not None:
        return f"links[{edge.move.link.id}]"
    for event in edge.taken:
        if isinstance(event, do.On) and event.screen:
            part = getattr(event, "button", "") or getattr(event, "action", "")
            return f"screens[{event.screen}]" + (f".buttons[{part}]" if part else "")
    return otherwise


def index_of(edge: Edge) -> int:
    """The entry that a step was done on."""
    for event in edge.taken:
        if isinstance(event, do.On) and event.entry is not None:
            return event.entry
    return len(edge.before.entries) - 1
