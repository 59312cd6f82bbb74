"""The plane of all windows, cut where the engine changes its arrangement (rules.md, 5.1).

Between the sizes that rules name nothing changes but at the diagonal, where portrait becomes
landscape. So the plane falls into cells, each cut in two by the diagonal or not, and the
engine is asked once for each: the map is what it answers.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterator
from functools import cached_property, lru_cache
from typing import Final, Literal, NamedTuple

from cadena.engine.rules.display import matches
from cadena.engine.session import Window
from cadena.model.app import Arrangement, Range, When
from cadena.model.edits.arrangements import Axis, range_of
from cadena.model.windows import LARGEST

GAP: Final = -1
"""In place of an arrangement: no rule matches, and one pane is shown."""

SMALLEST: Final = 1.0
UPRIGHT, ACROSS = 0, 1
Half = Literal[0, 1]
Cell = tuple[int, int, int]
"""Column, row, and which side of the diagonal."""


class Span(NamedTuple):
    """A stretch of a breakpoint where it acts, along the other axis (or along the diagonal)."""

    start: float
    end: float


class Breakpoint(NamedTuple):
    """A size at which the arrangement changes, and where it does."""

    axis: Literal["width", "height", "shape"]
    at: float
    spans: tuple[Span, ...]


class Region(NamedTuple):
    """Windows side by side that the engine arranges alike.

    ``arrangement`` is its place among the rules, or ``GAP``; ``cells`` are those of the plane.
    """

    arrangement: int
    cells: tuple[Cell, ...]


class Plane:
    """The plane of windows under some rules.

    Args:
        rules: the arrangements, in order; the first that matches is taken.
        folded: whether these are windows that lie folded.
    """

    def __init__(self, rules: tuple[Arrangement, ...], folded: bool = False) -> None:
        self.rules = rules
        self.folded = folded
        self.widths = _sizes(rules, "width")
        self.heights = _sizes(rules, "height")
        self._taken: dict[Cell, int] = {}
        for i in range(len(self.widths) - 1):
            for j in range(len(self.heights) - 1):
                for half in (UPRIGHT, ACROSS):
                    at = self._inside(i, j, half)
                    if at is not None:
                        self._taken[i, j, half] = self._rule_for(*at)

    def _rule_for(self, width: float, height: float) -> int:
        window = Window(width, height, width if self.folded else None, folded=self.folded)
        return next((n for n, each in enumerate(self.rules) if matches(each.when, window)), GAP)

    def _inside(self, i: int, j: int, half: int) -> tuple[float, float] | None:
        """A size in one half of a cell, or none where the cell lies beyond the diagonal."""
        (left, right), (low, high) = self._sides(i, j)
        if half == UPRIGHT:
            return (left, max(low, left)) if high > left else None
        if right <= low:
            return None
        return (left if left > low else (max(left, low) + right) / 2), low

    def _sides(self, i: int, j: int) -> tuple[tuple[float, float], tuple[float, float]]:
        return (self.widths[i], self.widths[i + 1]), (self.heights[j], self.heights[j + 1])

    def at(self, width: float, height: float) -> int:
        """The rule that arranges a window of this size, or ``GAP``."""
        i = bisect_right(self.widths, width) - 1
        j = bisect_right(self.heights, height) - 1
        i = max(0, min(i, len(self.widths) - 2))
        j = max(0, min(j, len(self.heights) - 2))
        return self._taken[i, j, UPRIGHT if height >= width else ACROSS]

    @property
    def used(self) -> frozenset[int]:
        """The rules that are taken for some window, and ``GAP`` where there is one."""
        return frozenset(self._taken.values())

    def size_in(self, rule: int) -> tuple[float, float] | None:
        """The smallest size that a rule is taken for, or none."""
        found = (self._inside(*cell) for cell, taken in self._taken.items() if taken == rule)
        return min((each for each in found if each is not None), default=None)

    def whens_of(self, rule: int) -> Iterator[When]:
        """The sizes of each cell that a rule is taken in, as a rule would ask for them: of a cell
        that the diagonal cuts, the half."""
        for (i, j, half), taken in self._taken.items():
            is_whole = self._taken.get((i, j, 1 - half), taken) == taken
            if taken == rule and not (is_whole and half == ACROSS and self.is_cut(i, j)):
                width, height = (_range(*each) for each in self._sides(i, j))
                shape: Literal["portrait", "landscape"] | None = None
                if not is_whole:
                    shape = "portrait" if half == UPRIGHT else "landscape"
                yield When(width=width, height=height, shape=shape)

    def cells_of(self, rule: int) -> Iterator[tuple[float, float]]:
        """The smallest width and height in each cell that a rule is taken in."""
        for cell, taken in self._taken.items():
            if taken == rule and (inside := self._inside(*cell)) is not None:
                yield inside

    @cached_property
    def regions(self) -> tuple[Region, ...]:
        """The regions there are: cells side by side with one arrangement."""
        left = dict(self._taken)
        found = []
        while left:
            cell, rule = next(iter(left.items()))
            del left[cell]
            mine, open_ = [cell], [cell]
            while open_:
                for each in self._beside(open_.pop()):
                    if left.get(each) == rule:
                        del left[each]
                        mine.append(each)
                        open_.append(each)
            found.append(Region(rule, tuple(sorted(mine))))
        return tuple(found)

    def _beside(self, cell: Cell) -> Iterator[Cell]:
        i, j, half = cell
        for a, b in ((i - 1, j), (i + 1, j), (i, j - 1), (i, j + 1)):
            yield a, b, half
        if self.is_cut(i, j):
            yield i, j, 1 - half

    def is_cut(self, i: int, j: int) -> bool:
        """Whether the diagonal goes through a cell."""
        return (i, j, UPRIGHT) in self._taken and (i, j, ACROSS) in self._taken

    def outline(self, cell: Cell, most: tuple[float, float]) -> list[tuple[float, float]]:
        """The corners of a cell, or of its half, in dp, cut at the most that is shown."""
        i, j, half = cell
        (left, right), (low, high) = self._sides(i, j)
        right, high = min(right, most[0]), min(high, most[1])
        if right <= left or high <= low:
            return []
        corners = [(left, low), (right, low), (right, high), (left, high)]
        if not self.is_cut(i, j):
            return corners
        return _cut(corners, upright=half == UPRIGHT)

    @cached_property
    def breakpoints(self) -> tuple[Breakpoint, ...]:
        """Where arrangements change: only what acts, and only where it does."""
        found = []
        for axis, sizes, others in (
            ("width", self.widths, self.heights),
            ("height", self.heights, self.widths),
        ):
            for n in range(1, len(sizes) - 1):
                spans = _joined(self._acting(axis == "width", n, sizes[n], others))
                if spans:
                    found.append(Breakpoint(axis, sizes[n], spans))  # type: ignore[arg-type]
        spans = _joined(self._diagonal())
        return (*found, Breakpoint("shape", 0.0, spans)) if spans else tuple(found)

    def _acting(
        self, is_width: bool, n: int, at: float, others: list[float]
    ) -> Iterator[tuple[float, float]]:
        for m in range(len(others) - 1):
            start, end = others[m], others[m + 1]
            for half in (UPRIGHT, ACROSS):
                # Above a width, or before a height, windows are upright.
                is_beyond = (half == UPRIGHT) is is_width
                part = (max(start, at), end) if is_beyond else (start, min(end, at))
                if part[1] <= part[0]:
                    continue
                one = (n - 1, m, half) if is_width else (m, n - 1, half)
                other = (n, m, half) if is_width else (m, n, half)
                if self._taken.get(one) != self._taken.get(other):
                    yield part

    def _diagonal(self) -> Iterator[tuple[float, float]]:
        for i in range(len(self.widths) - 1):
            for j in range(len(self.heights) - 1):
                if self.is_cut(i, j) and self._taken[i, j, UPRIGHT] != self._taken[i, j, ACROSS]:
                    (left, right), (low, high) = self._sides(i, j)
                    yield max(left, low), min(right, high)

    @cached_property
    def idle(self) -> tuple[tuple[Axis, float], ...]:
        """The sizes that rules name and that change nothing anywhere."""
        act = {(each.axis, each.at) for each in self.breakpoints}
        named = [("width", each) for each in self.widths[1:-1]]
        named += [("height", each) for each in self.heights[1:-1]]
        return tuple(each for each in named if each not in act)  # type: ignore[misc]


@lru_cache(maxsize=16)
def plane_of(rules: tuple[Arrangement, ...], folded: bool = False) -> Plane:
    """The plane under some rules; it never changes, and is made once."""
    return Plane(rules, folded)


def used_in(rules: tuple[Arrangement, ...]) -> frozenset[int]:
    """The rules that are taken for some window, flat or folded."""
    return plane_of(rules).used | plane_of(rules, folded=True).used


def _range(least: float, below: float) -> Range:
    return Range(
        least=0.0 if least <= SMALLEST else least, below=None if below >= LARGEST else below
    )


def _sizes(rules: tuple[Arrangement, ...], axis: Axis) -> list[float]:
    """All sizes that rules name on an axis, between the smallest and the largest."""
    named = {SMALLEST, float(LARGEST)}
    for rule in rules:
        sizes = range_of(rule.when, axis)
        named |= {sizes.least} | ({sizes.below} if sizes.below is not None else set())
    return sorted(float(each) for each in named if SMALLEST <= each <= LARGEST)


def _joined(spans: Iterator[tuple[float, float]]) -> tuple[Span, ...]:
    made: list[Span] = []
    for start, end in sorted(spans):
        if end <= start:
            continue
        if made and start <= made[-1].end:
            made[-1] = Span(made[-1].start, max(end, made[-1].end))
        else:
            made.append(Span(start, end))
    return tuple(made)


def _cut(corners: list[tuple[float, float]], upright: bool) -> list[tuple[float, float]]:
    """What of a polygon lies on one side of the diagonal (Sutherland and Hodgman, 1974)."""

    def inside(x: float, y: float) -> bool:
        return y >= x if upright else y <= x

    kept: list[tuple[float, float]] = []
    for (x0, y0), (x1, y1) in zip([corners[-1], *corners], corners, strict=False):
        if inside(x0, y0) != inside(x1, y1):
            t = (x0 - y0) / ((x0 - y0) - (x1 - y1))
            kept.append((x0 + t * (x1 - x0), y0 + t * (y1 - y0)))
        if inside(x1, y1):
            kept.append((x1, y1))
    return list(dict.fromkeys(kept))
