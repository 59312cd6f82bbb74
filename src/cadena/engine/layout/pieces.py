"""One stretch of a screen, and how tall such stretches are in dp."""

from __future__ import annotations

from typing import Final, NamedTuple

from cadena.engine.layout.rows import NARROW, RowStack
from cadena.engine.session import Load
from cadena.engine.wired import Listed
from cadena.model.blocks import Block, FormField

TITLE_BAR: Final = 52.0
SEARCH_BAR: Final = 52.0
PAGE_BAR: Final = 44.0
BOTTOM_BAR: Final = 64.0
EDGE: Final = 16.0
NARROW_EDGE: Final = 8.0
GAP: Final = 12.0
HEADING: Final = (24.0, 30.0)
BODY: Final = (15.0, 22.0)
FACT: Final = 28.0
FACT_IN_PLACE: Final = 48.0
FACT_LABEL: Final = 20.0
ADDRESS: Final = 28.0
LIST_HEADING: Final = 44.0
BUTTON: Final = 44.0
WORDS: Final = 96.0
FOOTER: Final = 36.0
LOADING: Final = 56.0
FAILED: Final = 104.0
LABEL: Final = 22.0
INPUT: Final = 44.0
INPUT_LINE: Final = 22.0
FAULT: Final = 20.0
CHOICE: Final = 40.0
PICTURE_MOST: Final = 220.0


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


def state_piece(load: Load, part: str) -> Piece:
    """What stands where something has not come yet, or has not come at all (9)."""
    if load.state == "failed":
        return Piece("failed", part, FAILED, lines=("It could not be loaded.",))
    return Piece("loading", part, LOADING, lines=("Loading…",))
