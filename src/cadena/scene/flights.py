"""What flies between a row and the screen that it opens, and what waits meanwhile (rules.md, 12).

The kit tells the same from ``flights.js``.
"""

from __future__ import annotations

from typing import Final, NamedTuple

from cadena.engine.rules.display import display_of
from cadena.engine.session import RowRef, Session
from cadena.engine.wired import WiredApp
from cadena.model.app import Link, Transition

BY_NO_ROW: Final = ("button", "fact", "field", "saved")
FADES: Final = 120
"""Ms that an element takes at least to come in."""


class Came(NamedTuple):
    """The link that was followed from a row, or (without one) from a fact, ``forth`` or back
    along; ``at`` is where the screen of that stands in the chain."""

    link: Link
    row: RowRef | None
    at: int
    forth: bool


class Coming(NamedTuple):
    """The link by which a screen comes in a way of its own, or goes back; ``at`` is where it
    stands in the chain."""

    link: Link
    at: int
    forth: bool


def came_by(app: WiredApp, before: Session, after: Session) -> Came | None:
    """How one screen came from a row or a fact, or went back to it; none where what it came from
    lies beside it. Where several facts lead from one screen to another, the first counts."""
    longer, forth = _one_more(app, before, after)
    if longer is None:
        return None
    of, at, row = longer.entries[-2].screen, len(longer.entries) - 2, longer.entries[-1].row
    to = longer.entries[-1].screen
    if row is not None:
        link = _link_of(app, of, row, to)
    else:
        facts = (e for e in app.app.links if (e.trigger.screen, e.trigger.on) == (of, "fact"))
        link = next((each for each in facts if each.to == to), None)
    if link is None or link.transition is None:
        return None
    return Came(link, row, at, forth)


def comes_by(app: WiredApp, before: Session, after: Session) -> Coming | None:
    """How one screen came in a way of its own, or went back so: by whatever opened it.

    Where several links lead from one screen to another by no row, the first of them counts.
    """
    longer, forth = _one_more(app, before, after)
    if longer is None:
        return None
    of, entry = longer.entries[-2].screen, longer.entries[-1]
    if entry.row is not None:
        found = [_link_of(app, of, entry.row, entry.screen)]
    else:
        found = [e for e in app.app.links if e.trigger.screen == of and e.trigger.on in BY_NO_ROW]
    link = next((each for each in found if each is not None and each.to == entry.screen), None)
    if link is None or link.transition is not None or link.comes == "at once":
        return None
    return Coming(link, len(longer.entries) - 1, forth)


def _link_of(app: WiredApp, screen: str, row: RowRef, to: str) -> Link | None:
    """The link to a screen that was followed from a row, by a press on it or by an action of it."""
    on = ("action", row.action) if row.action else ("row", row.part)
    links = app.links_at((screen, *on))
    return next((each for each in links if each.to == to), None)


def _one_more(app: WiredApp, before: Session, after: Session) -> tuple[Session | None, bool]:
    """Which of two sessions has one screen more than the other, and whether it is the later one;
    none where that lies beside what it came from."""
    if (before.window, before.section) != (after.window, after.section):
        return None, False
    if before.phase != "running" or after.phase != "running":
        return None, False
    forth = len(after.entries) > len(before.entries)
    longer, shorter = (after, before) if forth else (before, after)
    at = len(longer.entries) - 2
    if at < 0 or len(shorter.entries) != at + 1:
        return None, False
    if [each.screen for each in longer.entries[:-1]] != [each.screen for each in shorter.entries]:
        return None, False
    panes = {each.entry for each in display_of(app, longer).panes}
    return (None if {at, at + 1} <= panes else longer), forth


def waits(transition: Transition) -> dict[str, tuple[int, int]]:
    """When each element that waits begins to come in, and is there, in ms from the start.

    A delay ends with the duration at the latest.
    """
    begins = {name: min(delay, transition.duration) for name, delay in transition.fades.items()}
    return {name: (at, max(transition.duration, at + FADES)) for name, at in begins.items()}
