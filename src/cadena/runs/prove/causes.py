"""Causes: what breaks a claim, run once more on the real app, with the shortest walk to it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import NamedTuple

from msgspec import UNSET

from cadena.engine import events as do
from cadena.engine.notes import Note
from cadena.engine.session import Session, Window
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.runs.possible import until_answered
from cadena.runs.prove.explore import Explored
from cadena.runs.prove.found import Found
from cadena.runs.shortest_walks import AT_MOST
from cadena.runs.walks.trace import TraceLine, trace_line
from cadena.runs.walks.walk import NOTHING_CHOSEN, Expectation, Expected, Walk, replay


class Cause(NamedTuple):
    """What breaks a claim, where, in which arrangements, and the shortest walk that shows it.

    The walk starts in ``window`` and ends in the expectation that fails; it is empty for what
    nothing leads to. ``begins`` is how many of its steps only lead there.
    """

    claim: str
    where: str
    what: str | Note
    columns: tuple[str, ...]
    window: Window | None
    walk: Walk
    begins: int = 0


def cause_of(app: WiredApp, explored: Explored, found: Found) -> Cause | None:
    """The cause with its walk as the real app takes it; none where it does not do so there.

    Waits are put in for sources that answer late.
    """
    window, leading = explored.walk_to(found.state)
    waits = not explored.key.is_late
    lead, session, _ = run_of(app, start(app, window)[0], leading, waits)
    tail, _, line = run_of(app, session, found.tail, waits)
    expect, where, what = found.expect, found.where, found.what
    if isinstance(expect, tuple):
        _, _, other = run_of(app, session, expect, waits)
        before = other or trace_line(app, session, None, ())
        expect = as_it_was(before, line)
        where, what = _draft_lost(before, line) or (where, what)
    walk = (*lead, *tail, Expectation(expect=expect))
    every = (each.arrangement for each in explored.tried)
    columns = tuple(dict.fromkeys(every)) if found.column is None else (found.column,)
    return confirmed(app, Cause(found.claim, where, what, columns, window, walk, len(lead)))


def _draft_lost(before: TraceLine, after: TraceLine | None) -> tuple[str, str] | None:
    """Where the lifetime of a draft is said, and that it is gone, where that is all that is."""
    if after is None or [e.screen for e in before.chain] != [e.screen for e in after.chain]:
        return None
    for was, now in zip(before.chain, after.chain, strict=True):
        if was.draft and was.draft != now.draft:
            return f"screens[{was.screen}].keep.draft", f"what was typed in {was.screen} is gone"
    return None


def thing_of(where: str) -> tuple[str, str]:
    """What a place such as ``links[open].arguments`` is in, and the name of that."""
    thing, _, rest = where.partition("[")
    return thing, rest.partition("]")[0]


def confirmed(app: WiredApp, cause: Cause) -> Cause | None:
    """The cause, where the last expectation of its walk does fail."""
    failed: tuple[object, ...] = ()
    for at in replay(app, cause.walk, cause.window or Window(360.0, 780.0)):
        failed = at.failures
    return cause if failed else None


def run_of(
    app: WiredApp, session: Session, events: tuple[do.Event, ...], waits: bool
) -> tuple[tuple[do.Event, ...], Session, TraceLine | None]:
    """The events as taken, with waits for what answers late; the session, and the last line."""
    done: list[do.Event] = []
    line = None
    for event in events:
        session, notes, _ = step(app, session, event)
        done.append(event)
        line = trace_line(app, session, event, notes)
        waited = 0
        while waits and app.late and session.phase == "running" and waited < AT_MOST:
            wait = until_answered(session)
            if wait is None:
                break
            session, notes, _ = step(app, session, wait)
            done.append(wait)
            waited += wait.ms
            line = trace_line(app, session, wait, notes)
    return tuple(done), session, line


def as_it_was(before: TraceLine, after: TraceLine | None = None) -> Expected:
    """That everything a person sees of a state is so: its screens, for what, what is typed."""
    drafts = {each.screen: each.draft for each in before.chain if each.draft}
    return Expected(
        section=before.section,
        phase="running",
        chain=tuple(each.screen for each in before.chain),
        arguments=before.chain[-1].arguments if before.chain else UNSET,
        display=tuple(each.screen or NOTHING_CHOSEN for each in before.display),
        draft=drafts or UNSET,
        values=before.values if after is not None and before.values != after.values else UNSET,
    )


def grouped(causes: Iterable[Cause]) -> tuple[Cause, ...]:
    """Causes of one claim at one place told once, with all their arrangements; shortest first."""
    found: dict[tuple[str, str], Cause] = {}
    for cause in sorted(causes, key=lambda each: len(each.walk)):
        key = (cause.claim, cause.where)
        known = found.get(key)
        if known is None:
            found[key] = cause
        else:
            columns = tuple(dict.fromkeys((*known.columns, *cause.columns)))
            found[key] = known._replace(columns=columns)
    return tuple(found.values())


def events_of(walk: Walk) -> Iterator[do.Event]:
    """The events of a walk, without what is expected."""
    return (each for each in walk if not isinstance(each, Expectation))
