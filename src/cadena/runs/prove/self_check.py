"""The exploration tested against a plainer one: nothing folded, and other rows of each class.

It is slow, and so goes only a few moves deep.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from cadena.engine.wired import Listed, WiredApp
from cadena.model.values import Scalar
from cadena.runs.prove.claims import judged
from cadena.runs.prove.explore import Explored, Limits
from cadena.runs.prove.prove import at_once
from cadena.runs.prove.row_classes import RowClasses

DEPTH: Final = 3
STATES: Final = 6_000


class LastRows(RowClasses):
    """The last row of each class in place of the first."""

    def _classify(self, screen: str, part: str, listed: Listed) -> tuple[Scalar, ...]:
        return self.stand_for(screen, part, listed, last=True)


def differences(app: WiredApp) -> Iterator[str]:
    """What one exploration finds broken and another does not, in words."""
    plain = at_once(app)
    for section in app.sections:
        found = _broken(Explored(plain, section))
        exact = Explored(plain, section)
        exact.rounds = DEPTH + 1
        others = Explored(plain, section)
        others.classes = others.moves.classes = LastRows(plain)
        for name, explored in (("nothing folded", exact), ("other rows", others)):
            other = _broken(explored)
            for claim, where in sorted(found ^ other):
                which = "folded" if (claim, where) in found else name
                yield f"{section}: {claim} at {where} is broken only with {which}"


def _broken(explored: Explored) -> set[tuple[str, str]]:
    for _ in explored.explore(Limits(depth=DEPTH, states=STATES), (judged,)):
        pass
    # Whether a chain grows is told by what is folded, and so not where nothing is.
    return {(e.claim, e.where) for e in explored.found.values() if e.claim != "grows"}
