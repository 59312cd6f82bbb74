"""Where windows of several sizes stand, each as large as may be."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple


class Place(NamedTuple):
    """A place in px."""

    x: float
    y: float
    width: float
    height: float


Size = tuple[float, float]


def places(sizes: Sequence[Size], width: float, height: float, gap: float = 8.0) -> list[Place]:
    """Stand windows in rows, in their order, in a room ``width`` by ``height`` px.

    Of all ways to break them into rows the one is taken that shows most of them largest.

    Args:
        sizes: width and height of each window, in dp.
    """
    best: list[Place] = []
    score = -1.0
    for rows in _rows(len(sizes)):
        made = _stood([[sizes[n] for n in row] for row in rows], width, height, gap)
        shown = zip(made, sizes, strict=True)
        scales = [min(1.0, each.width / size[0], each.height / size[1]) for each, size in shown]
        worth = sum(max(0.0, each) ** 0.5 for each in scales)
        if worth > score:
            best, score = made, worth
    return best


def _rows(count: int) -> Iterator[list[list[int]]]:
    """All ways to break a number of things into rows, in order."""
    for breaks in range(1 << max(0, count - 1)):
        rows: list[list[int]] = [[]]
        for n in range(count):
            if n and breaks >> (n - 1) & 1:
                rows.append([])
            rows[-1].append(n)
        yield rows


def _stood(rows: list[list[Size]], width: float, height: float, gap: float) -> list[Place]:
    """Rows one under another; each window has a share of its row by how broad it is."""
    wanted = [width / sum(w / h for w, h in row) for row in rows]
    room = height - gap * (len(rows) - 1)
    made = []
    y = 0.0
    for row, want in zip(rows, wanted, strict=True):
        tall = room * want / sum(wanted)
        broad = sum(w / h for w, h in row)
        x = 0.0
        for w, h in row:
            wide = (width - gap * (len(row) - 1)) * (w / h) / broad
            made.append(Place(x, y, wide, tall))
            x += wide + gap
        y += tall + gap
    return made
