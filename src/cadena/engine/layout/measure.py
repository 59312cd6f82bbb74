"""Breaking running text into lines, by arithmetic that is the same on every machine."""

from __future__ import annotations

from functools import lru_cache
from typing import Final, Protocol


class Measure(Protocol):
    def __call__(self, text: str, size: float, bold: bool, width: float) -> tuple[str, ...]:
        """The lines of a text of ``size`` dp in a column ``width`` dp wide; at least one."""


NARROW: Final = frozenset("iljtfrI.,;:!'|()[] -–")
WIDE: Final = frozenset("mwMWOQGDHNUCAK@%&—…")


@lru_cache(maxsize=4096)
def plain_measure(text: str, size: float, bold: bool, width: float) -> tuple[str, ...]:
    """Lines by the usual widths of a sans-serif face, with no face at hand."""
    return break_lines(text, width, lambda piece: _advance(piece) * size * (1.06 if bold else 1.0))


def _advance(text: str) -> float:
    """Width in em: narrow, usual and wide letters, and a full em beyond Latin script."""
    return sum(
        0.32 if letter in NARROW else 0.76 if letter in WIDE else 1.0 if letter > "⿿" else 0.57
        for letter in text
    )


class Advance(Protocol):
    def __call__(self, piece: str, /) -> float: ...


def break_lines(text: str, width: float, advance: Advance) -> tuple[str, ...]:
    """Fill lines with words; a word wider than the column is broken where it must be."""
    lines: list[str] = []
    for paragraph in text.split("\n"):
        line = ""
        for word in paragraph.split(" "):
            longer = f"{line} {word}" if line else word
            if advance(longer) <= width:
                line = longer
                continue
            if line:
                lines.append(line)
            at = 0
            while at + (fitting := _fitting(word, at, width, advance)) < len(word):
                lines.append(word[at : at + fitting])
                at += fitting
            line = word[at:]
        lines.append(line)
    return tuple(lines)


def _fitting(word: str, at: int, width: float, advance: Advance) -> int:
    """How many letters fit from one on; at least one.

    Found by doubling, then by halving: a word without end costs no more than its lines.
    """
    rest = len(word) - at
    low, high = 1, min(2, rest)
    while low < high and advance(word[at : at + high]) <= width:
        low, high = high, min(2 * high, rest)
    while low < high:
        middle = (low + high + 1) // 2
        if advance(word[at : at + middle]) <= width:
            low = middle
        else:
            high = middle - 1
    return low
