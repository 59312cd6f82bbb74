"""Rows one under another, in one column or several: where each lies, found all at once."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from itertools import accumulate
from typing import NamedTuple

from cadena.engine.layout.sizes import (
    FOOT,
    GROUP,
    HEADS,
    NARROW,
    ROWS,
    STRIP_PICTURE,
    STRIP_TILE,
    STRIP_TWO_LINES,
    TILE_GAP,
    TILE_TEXT,
)
from cadena.engine.layout.table_columns import columns_shown
from cadena.model.listing import Listing
from cadena.records.query import Rows
from cadena.records.records import FEW


class Place(NamedTuple):
    """Where a row lies, in dp from the left and from the top of the rows."""

    x: float
    y: float
    width: float
    height: float


class RowStack:
    """Where each row lies, in dp from the top of the first.

    Args:
        count: how many rows.
        height: the height of every line of rows, or that of each row.
        groups: the indices at which groups begin; each has its title above its first line.
        columns: how many rows stand side by side in a line.
        width: how wide the rows are together, for a grid; 0 for plain rows.
        closed: the groups, by number, of which only the title shows: their rows are 0 dp high.
        heads: how tall the heads above the first row are, which stay in view, in dp.
    """

    def __init__(
        self,
        count: int,
        height: float | Sequence[float],
        groups: tuple[int, ...] = (),
        columns: int = 1,
        width: float = 0.0,
        closed: frozenset[int] = frozenset(),
        heads: float = 0.0,
    ) -> None:
        self.closed = closed
        self.heads = heads
        self.count = count
        self.columns = columns
        self.width = width
        self._height = height if isinstance(height, float) else 0.0
        self._tops: Sequence[float] | None = None
        self._begins = groups
        if groups or width or not isinstance(height, float):
            lay = _tops_of_few if count <= FEW else _tops_of_many
            self._tops = lay(count, height, groups, columns, closed)
        self.total = self.top(count)

    def _group_of(self, index: int) -> int:
        """The number of the group of a row."""
        return bisect_right(self._begins, index) - 1

    def is_hidden(self, index: int) -> bool:
        """Whether the group of a row is closed."""
        return bool(self.closed) and self._group_of(index) in self.closed

    def begin(self, index: int) -> int:
        """The first row of the group of a row."""
        return self._begins[self._group_of(index)] if self._begins else 0

    def shown(self, index: int, step: int = 1) -> int | None:
        """The nearest row that is not hidden, this one or after it; before it for a step of -1."""
        while 0 <= index < self.count and self.is_hidden(index):
            begin = self.begin(index)
            index = begin - 1 if step < 0 else self.end(begin)
        return index if 0 <= index < self.count else None

    def end(self, index: int) -> int:
        """The row after the last of the group of a row."""
        if not self._begins:
            return self.count
        after = self._group_of(index) + 1
        return self._begins[after] if after < len(self._begins) else self.count

    def top(self, index: int) -> float:
        """Where a row begins, with its group's title; of the row after the last, where all end."""
        top = self._height * index if self._tops is None else float(self._tops[index])
        return self.heads + top

    def lead(self, index: int) -> float:
        """The room above a row that the title of its group takes."""
        if not self._begins:
            return 0.0
        return GROUP if index - self.begin(index) < self.columns else 0.0

    def bottom(self, index: int) -> float:
        """Where a row ends."""
        after = index + 1
        if self.columns > 1 and self._tops is not None:
            after = bisect_right(self._tops, self._tops[index])
        return self.top(min(after, self.count))

    def height(self, index: int) -> float:
        return self.bottom(index) - self.top(index)

    def place(self, index: int, width: float) -> Place:
        """Where a row lies in rows ``width`` dp wide, without the title above it."""
        lead = self.lead(index)
        top, high = self.top(index) + lead, self.height(index) - lead
        if not self.width:
            return Place(0.0, top, width, high)
        each = (width - TILE_GAP * (self.columns + 1)) / self.columns
        x = TILE_GAP + (index - self.begin(index)) % self.columns * (each + TILE_GAP)
        return Place(x, top + TILE_GAP, each, high - TILE_GAP)

    def at(self, y: float) -> int:
        """The first row of the line at a height, the nearest outside; -1 when there are none."""
        y -= self.heads
        if self._tops is None:
            found = int(y // self._height) if self._height else 0
        else:
            found = bisect_right(self._tops, y, hi=self.count) - 1
            if self.columns > 1 and found > 0:
                found = bisect_left(self._tops, self._tops[found], hi=self.count)
        found = min(max(found, 0), self.count - 1)
        return self.begin(found) if self.is_hidden(found) else found


def _tops_of_few(
    count: int,
    height: float | Sequence[float],
    groups: tuple[int, ...],
    columns: int,
    closed: frozenset[int],
) -> list[float]:
    """Where the line of each row begins; and, last, where all end."""
    heights = [height] * count if isinstance(height, float) else height
    if not groups and columns == 1:
        return [0.0, *accumulate(heights)]
    tops: list[float] = []
    bottom, ends = 0.0, (*groups[1:], count) if groups else (count,)
    for number, (begin, end) in enumerate(zip(groups or (0,), ends, strict=True)):
        lead = GROUP if groups else 0.0
        for first in range(begin, end, columns):
            tops += [bottom] * (min(first + columns, end) - first)
            bottom += lead + (0.0 if number in closed else heights[first])
            lead = 0.0
    return [*tops, bottom]


def _tops_of_many(
    count: int,
    height: float | Sequence[float],
    groups: tuple[int, ...],
    columns: int,
    closed: frozenset[int],
) -> Sequence[float]:
    """As ``_tops_of_few``, all at once."""
    import numpy as np

    tops = np.zeros(count + 1)
    if not groups and columns == 1:
        np.cumsum(np.broadcast_to(height, (count,)), out=tops[1:])
        return tops  # type: ignore[return-value]
    at = np.arange(count)
    begins = np.array(groups or (0,), dtype=np.int64)
    group = np.searchsorted(begins, at, side="right") - 1
    inside = at - begins[group]
    heights = np.broadcast_to(np.asarray(height, dtype=np.float64), (count,))
    if closed:
        heights = np.where(np.isin(group, list(closed)), 0.0, heights)
    step = np.where(inside % columns == 0, heights, 0.0)
    if groups:
        step[begins] += GROUP
    bottoms = np.cumsum(step)
    tops[:-1] = (bottoms - step)[at - inside % columns]
    tops[-1] = bottoms[-1]
    return tops  # type: ignore[return-value]


def stack_rows(
    listing: Listing, rows: Rows, width: float, closed: frozenset[int] = frozenset()
) -> RowStack:
    """Stack the rows of a list in a column ``width`` dp wide, with some groups closed."""
    groups = tuple(at for at, _ in rows.groups)
    if listing.layout == "grid":
        columns = max(1, int((width - TILE_GAP) // (max(listing.tile, 48.0) + TILE_GAP)))
        tile = (width - TILE_GAP * (columns + 1)) / columns
        picture = tile * 0.75 if listing.row.picture else 0.0
        tall = picture + TILE_TEXT + TILE_GAP
        return RowStack(len(rows), tall, groups, columns, width, closed)
    if columns_shown(listing, width):
        tall = ROWS[listing.density].one_line
        return RowStack(len(rows), tall, groups, closed=closed, heads=HEADS)
    heights = row_heights(listing, rows, 0 < width < NARROW)
    return RowStack(len(rows), heights, groups, closed=closed)


def row_heights(listing: Listing, rows: Rows, narrow: bool = False) -> float | Sequence[float]:
    """A picture makes each row tall, a subtitle that says nothing makes one short.

    Narrow rows have no picture, and a foot for their badge and their actions.
    """
    row, sizes = listing.row, ROWS[listing.density]
    foot = foot_of(listing) if narrow else 0.0
    if row.picture and not narrow:
        return sizes.with_picture
    one, two = sizes.one_line + foot, sizes.two_lines + foot
    if not row.subtitle:
        return one
    short = rows.records.unsaid(row.subtitle)
    if short is None:
        return two
    if isinstance(short, list):
        return [(two, one)[short[at]] for at in rows.positions]
    return two - (two - one) * short[rows.positions]  # type: ignore[no-any-return]


def foot_of(listing: Listing) -> float:
    """How tall the foot of a narrow row is, in dp; none where nothing stands in it."""
    return FOOT if listing.row.badge or listing.actions else 0.0


def strip_height(listing: Listing) -> float:
    """How tall a strip across is, in dp."""
    row = listing.row
    bare = STRIP_TWO_LINES if row.subtitle else STRIP_TILE
    return (STRIP_PICTURE if row.picture else bare) + TILE_GAP
