"""One stretch of a screen, and how tall such stretches are in dp."""

from __future__ import annotations

from typing import Final, NamedTuple

from cadena.engine.layout.rows import RowStack
from cadena.engine.layout.sizes import EDGE, FAILED, LOADING, NARROW, NARROW_EDGE
from cadena.engine.session import Load
from cadena.engine.wired import Listed, WiredApp
from cadena.model.blocks import Block, FormField


def is_narrow(width: float) -> bool:
    """Whether a screen ``width`` dp wide stands one thing under another rather than beside it."""
    return width < NARROW


def edge_of(width: float) -> float:
    """The room left free at each side of a screen, in dp."""
    return NARROW_EDGE if is_narrow(width) else EDGE


class Piece(NamedTuple):
    """One stretch of a screen: what it shows, and how tall it is in dp.

    ``kind`` is rows, strip, words, footer, search, loading, failed, form field, save, or the
    name of a block; ``lines`` are its running text, broken to fit; ``stack`` is where its rows lie.
    """

    kind: str
    part: str
    height: float
    block: Block | FormField | None = None
    listed: Listed | None = None
    lines: tuple[str, ...] = ()
    stack: RowStack | None = None


NO_RECORD: Final = "There is no record {key} any more."


def state_piece(app: WiredApp, load: Load, part: str) -> Piece:
    """What stands where something has not come yet, or has not come at all (9)."""
    if load.state == "failed":
        return Piece("failed", part, FAILED, lines=(app.words("It could not be loaded."),))
    return Piece("loading", part, LOADING, lines=(app.words("Loading…"),))
