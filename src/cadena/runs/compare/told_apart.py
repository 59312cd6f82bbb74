"""The shortest walks that tell two versions of an app apart: both are run in step.

What is compared is what a person would have to relearn: which screens are open, for what, and
how; what is on display; what is asked. Words are not.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Iterator
from typing import Any, Final, NamedTuple

from cadena.engine import events as do
from cadena.engine.rules.display import arrangement_for, display_of
from cadena.engine.session import Session, Window, sized
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.windows import windows_of
from cadena.runs.prove.explore import comes_round
from cadena.runs.prove.moves import Moves
from cadena.runs.prove.row_classes import RowClasses
from cadena.runs.prove.state_key import StateKey, screens_of_section
from cadena.runs.window_plane import plane_of

MOST_PAIRS: Final = 600
"""Pairs of states of one section in one window that are gone through."""
FOLLOWED: Final = (
    do.Back,
    do.Forward,
    do.Choose,
    do.Neighbour,
    do.Press,
    do.Act,
    do.ActOnPicked,
    do.LetGo,
    do.OpenFact,
    do.OpenField,
    do.Pick,
    do.GoTo,
    do.Type,
    do.Save,
)
KILLED: Final = (do.Kill(), do.Restore())


class Apart(NamedTuple):
    """A walk after which two versions differ: in which window, and what each then shows."""

    window: Window
    walk: tuple[do.Event, ...]
    old: dict[str, Any]
    new: dict[str, Any]


def windows_to_compare(old: WiredApp, new: WiredApp) -> tuple[Window, ...]:
    """One window for each pair of arrangements that a window has in the two versions."""
    sizes = [(each.width, each.height, each.fold) for each in windows_of(new.app)]
    planes = (plane_of(old.app.arrangements), plane_of(new.app.arrangements))
    widths = sorted({size for plane in planes for size in plane.widths[:-1]})
    heights = sorted({size for plane in planes for size in plane.heights[:-1]})
    tall = [each for each in heights if each > 1] or [800.0]
    sizes += [(width, high, None) for width in widths for high in (780.0, *tall)]
    found: dict[tuple[str, str], Window] = {}
    for width, height, fold in sizes:
        window = sized(width, height, fold)
        pair = arrangement_for(old, window).id, arrangement_for(new, window).id
        found.setdefault(pair, window)
    return tuple(found.values())


def same_records(old: WiredApp, new: WiredApp) -> bool:
    """Whether two versions read the same records, source by source."""
    return _hashed(old) == _hashed(new)


def _hashed(app: WiredApp) -> dict[str, list[int]]:
    return {name: each.frame.hash_rows().to_list() for name, each in app.as_read.items()}


def told_apart(old: WiredApp, new: WiredApp) -> Iterator[Apart]:
    """For each window and section, the shortest walk after which the two differ, if any does."""
    same = same_records(old, new)
    for window in windows_to_compare(old, new):
        for section in dict.fromkeys((*old.sections, *new.sections)):
            if section not in old.sections or section not in new.sections:
                continue
            if same and _of(old, window, section) == _of(new, window, section):
                continue
            found = _in_section(old, new, window, section)
            if found is not None:
                yield found


def _of(app: WiredApp, window: Window, section: str) -> object:
    """All that a section is run by in a window: of the same records, nothing can differ then."""
    model, screens = app.app, screens_of_section(app, section)
    return (
        arrangement_for(app, window),
        tuple(each for each in model.screens if each.id in screens),
        tuple(each for each in model.links if each.trigger.screen in screens),
        (model.sections, model.values, model.platform, model.start, model.sources),
    )


def _in_section(old: WiredApp, new: WiredApp, window: Window, section: str) -> Apart | None:
    keys = StateKey(old, section, (window,)), StateKey(new, section, (window,))
    moves = Moves(old, keys[0], RowClasses(old)), Moves(new, keys[1], RowClasses(new))
    pair, walk = (start(old, window)[0], start(new, window)[0]), list[do.Event]()
    if shown(old, pair[0]) != shown(new, pair[1]):
        return Apart(window, (), shown(old, pair[0]), shown(new, pair[1]))
    if pair[0].section != section:
        walk.append(do.GoTo(section=section))
        pair = step(old, pair[0], walk[0])[0], step(new, pair[1], walk[0])[0]
    waiting = deque([(pair, tuple(walk))])
    known: set[tuple[int, int]] = set()
    while waiting and len(known) < MOST_PAIRS:
        (one, other), events = waiting.popleft()
        now, then = shown(old, one), shown(new, other)
        if now != then:
            return Apart(window, events, now, then)
        if one.section != section or one.phase != "running" or one.question is not None:
            continue
        pair_key = keys[0](one), keys[1](other)
        if pair_key in known:
            continue
        known.add(pair_key)
        if comes_round(one):
            continue
        tried = [KILLED, *_offered(moves[0], one), *_offered(moves[1], other)]
        for taken in dict.fromkeys(tried):
            waiting.append(((_after(old, one, taken), _after(new, other, taken)), events + taken))
    return None


def _offered(moves: Moves, session: Session) -> Iterator[tuple[do.Event, ...]]:
    """What a person can do, but for what changes the window or the records by itself."""
    for move in moves.of(session):
        if all(isinstance(event, FOLLOWED) for event in move.events):
            yield move.events


def _after(app: WiredApp, session: Session, events: tuple[do.Event, ...]) -> Session:
    for event in events:
        session = step(app, session, event)[0]
    return session


def shown(app: WiredApp, session: Session) -> dict[str, Any]:
    """What is open, for what, where it is shown, and what is typed or asked."""
    if session.phase == "killed":
        return {"phase": "killed"}
    panes = display_of(app, session).shown
    return {
        "phase": session.phase,
        "section": session.section,
        "chain": [
            {"screen": e.screen, "arguments": e.arguments, "opened": e.opened}
            for e in session.entries
        ],
        "display": [session.entries[e.entry].screen for e in panes if e.entry is not None],
        "asked": session.question is not None,
        "typed": [bool(e.view.draft) for e in session.entries],
    }
