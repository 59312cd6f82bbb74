"""What a run of one piece through one disturbance is, and the marks it can come to."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any, Final, Literal, NamedTuple, get_args

from cadena.engine import events as do
from cadena.engine.session import Session, Window
from cadena.runs.keep.pieces import Piece, size_of

Mark = Literal[
    "nothing to keep here",
    "kept",
    "let go as asked",
    "moved on as asked",
    "lost",
    "wrong",
]
Asked = Literal["keep", "let go", "move on"]
WORST: Final[tuple[Mark, ...]] = get_args(Mark)
"""From what says least to what is worst; of several windows the worst is told."""

SIGNS: Final[dict[Mark, str]] = {
    "nothing to keep here": " ",
    "kept": "✓",
    "let go as asked": "–",
    "moved on as asked": "↷",
    "lost": "✕",
    "wrong": "≠",
}


class Compared(NamedTuple):
    """What a piece held, what it holds, what was asked for, and the mark.

    ``instead`` is what would be carried now, where that is something else.
    """

    had: Any
    has: Any
    asked: Asked
    mark: Mark
    instead: Any = None


class Run(NamedTuple):
    """One run of one piece: how the app was brought there, what disturbed it, what came back.

    ``events`` bring a fresh app in ``window`` to ``before``; ``disturbing`` lead to ``after``.
    ``place`` is where in its chain the screen of the piece is; ``instead`` is what would be
    carried now, where what is carried no longer answers to that.
    """

    piece: Piece
    disturbance: str
    mark: Mark
    window: Window
    window_name: str
    events: tuple[do.Event, ...]
    disturbing: tuple[do.Event, ...]
    had: Any
    has: Any
    asked: str
    before: Session
    after: Session
    place: int
    instead: Any = None

    @property
    def is_broken(self) -> bool:
        """Whether it was lost, or came back as something else."""
        return self.mark in ("lost", "wrong")

    @property
    def size(self) -> int:
        """Bytes of the piece, saved."""
        return size_of(self.had)


Matrix = dict[tuple[Piece, str], Run]


def worst(some: Iterable[Run]) -> Matrix:
    """Of several runs of one piece through one disturbance, the one with the worst mark."""
    found: Matrix = {}
    for run in some:
        key = (run.piece, run.disturbance)
        known = found.get(key)
        if known is None or WORST.index(run.mark) > WORST.index(known.mark):
            found[key] = run
    return found
