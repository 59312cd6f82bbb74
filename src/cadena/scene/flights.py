"""What flies between a row and the screen that it opens, and what waits meanwhile (rules.md, 12).

The kit tells the same from ``flights.js``.
"""

from __future__ import annotations

from typing import Final, NamedTuple

from cadena.engine.rules.display import display_of
from cadena.engine.session import RowRef, Session
from cadena.engine.wired import WiredApp
from cadena.model.app import Link, Transition

FADES: Final = 120
"""Ms that an element takes at least to come in."""


class Came(NamedTuple):
    """The link that was followed from a row, ``forth`` or back along; ``at`` is where the list
    stands in the chain."""

    link: Link
    row: RowRef
    at: int
    forth: bool


def came_by(app: WiredApp, before: Session, after: Session) -> Came | None:
    """How one screen came from a row or went back to it; none where a list lies beside it."""
    if (before.window, before.section) != (after.window, after.section):
        return None
    if before.phase != "running" or after.phase != "running":
        return None
    forth = len(after.entries) > len(before.entries)
    longer, shorter = (after, before) if forth else (before, after)
    entries, row = longer.entries, longer.entries[-1].row
    if len(entries) != len(shorter.entries) + 1 or row is None:
        return None
    if [each.screen for each in entries[:-1]] != [each.screen for each in shorter.entries]:
        return None
    of, at = entries[-2].screen, len(entries) - 2
    trigger = (of, "action", row.action) if row.action else (of, "row", row.part)
    link = app.links.get(trigger)
    panes = {each.entry for each in display_of(app, longer).panes}
    if link is None or link.transition is None or link.to != entries[-1].screen:
        return None
    return None if {at, at + 1} <= panes else Came(link, row, at, forth)


def waits(transition: Transition) -> dict[str, tuple[int, int]]:
    """When each element that waits begins to come in, and is there, in ms from the start.

    A delay ends with the duration at the latest.
    """
    begins = {name: min(delay, transition.duration) for name, delay in transition.fades.items()}
    return {name: (at, max(transition.duration, at + FADES)) for name, at in begins.items()}
