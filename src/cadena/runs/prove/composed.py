"""The sections of an app together, composed of the table of each by whole numbers alone.

A state of the whole is which section is shown, and the state of each: of the one shown as it is,
of the others as they are while away. Windows change for all at once.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from cadena.runs.prove.explore import Explored

Numbers = NDArray[np.int64]
NONE = -1


class Part(NamedTuple):
    """The table of one section, made to be composed.

    Its own moves are ``ends[starts[state] : starts[state + 1]]``. ``windows`` has a column for
    each window; ``away`` is the state that it has once another is shown, ``back`` once it is
    shown again; -1 where there is none. ``window`` is that of each state.
    """

    starts: Numbers
    ends: Numbers
    windows: Numbers
    away: Numbers
    back: Numbers
    begins: Numbers
    window: Numbers


class Whole(NamedTuple):
    """How many states the whole has, and how many transitions lead from one to another."""

    states: int
    transitions: int


def part_of(explored: Explored) -> Part:
    """The table of a section, as arrays: shape (states,), and (states, windows)."""
    count = len(explored)
    away, back = np.full(count, NONE), np.full(count, NONE)
    windows = np.full((count, len(explored.windows)), NONE)
    pairs = []
    shapes = explored.shapes
    for state, by, to in zip(explored.of, explored.by, explored.to, strict=True):
        if to < 0:
            continue
        match explored.move_of[by].sort:
            case "window":
                windows[state, explored.window_of[to]] = to
            case "away":
                (away if shapes[state] >= 0 else back)[state] = to
            case _ if shapes[to] >= 0:
                pairs.append((state, to))
    moves = np.array(sorted(pairs), dtype=np.int64).reshape(-1, 2)
    starts = np.searchsorted(moves[:, 0], np.arange(count + 1))
    firsts = [n for n in range(count) if explored.parents[n] < 0 and shapes[n] >= 0]
    begins = np.array(firsts, dtype=np.int64)
    window = np.array(explored.window_of, dtype=np.int64)
    return Part(starts, moves[:, 1], windows, away, back, begins, window)


def composed(parts: Sequence[Part], first: int = 0) -> Whole:
    """Go through all states of the whole, from each of the starts of the section shown first."""
    sizes = [len(each.away) for each in parts]
    radix = np.concatenate([[1], np.cumprod(sizes)])[: len(parts)]
    whole = int(np.prod(sizes))
    frontier = np.unique(_begun(parts, first, radix, whole))
    known, transitions = frontier, 0
    while len(frontier):
        made = []
        for shown, part in enumerate(parts):
            codes = frontier[frontier // whole == shown]
            local = [codes % whole // radix[n] % sizes[n] for n in range(len(parts))]
            made += _own(codes, local[shown], part, int(radix[shown]))
            made += _in_windows(parts, codes, local, shown, radix, whole)
            made += _to_others(parts, codes, local, shown, radix, whole)
        transitions += sum(map(len, made))
        reached = np.unique(np.concatenate(made) if made else frontier[:0])
        places = np.minimum(np.searchsorted(known, reached), len(known) - 1)
        frontier = reached[known[places] != reached]
        known = np.sort(np.concatenate([known, frontier]))
    return Whole(len(known), transitions)


def _begun(parts: Sequence[Part], first: int, radix: Numbers, whole: int) -> Numbers:
    """The starts: the section shown first at one of its own, the others away at theirs."""
    begun = []
    for start in parts[first].begins:
        code = first * whole + int(start) * int(radix[first])
        for n, part in enumerate(parts):
            if n == first:
                continue
            # The state of its root in the same window, as it is while away.
            same = part.begins[part.window[part.begins] == parts[first].window[start]]
            code += int(part.away[same[0]]) * int(radix[n])
        begun.append(code)
    return np.array(begun, dtype=np.int64)


def _own(codes: Numbers, local: Numbers, part: Part, radix: int) -> list[Numbers]:
    """The moves of the section that is shown."""
    counts = part.starts[local + 1] - part.starts[local]
    at = np.repeat(part.starts[local], counts) + _within(counts)
    ends = part.ends[at]
    return [np.repeat(codes, counts) + (ends - np.repeat(local, counts)) * radix]


def _within(counts: Numbers) -> Numbers:
    """0, 1, … for each of some counts, one after the other."""
    ends = np.cumsum(counts)
    return np.arange(ends[-1] if len(ends) else 0) - np.repeat(ends - counts, counts)


def _in_windows(
    parts: Sequence[Part],
    codes: Numbers,
    local: list[Numbers],
    shown: int,
    radix: Numbers,
    whole: int,
) -> list[Numbers]:
    """The same in each other window: every section goes along."""
    made = []
    for window in range(parts[shown].windows.shape[1]):
        to = [part.windows[local[n], window] for n, part in enumerate(parts)]
        can = np.logical_and.reduce([each >= 0 for each in to])
        code = shown * whole + sum(each * int(radix[n]) for n, each in enumerate(to))
        made.append(code[can])
    return made


def _to_others(
    parts: Sequence[Part],
    codes: Numbers,
    local: list[Numbers],
    shown: int,
    radix: Numbers,
    whole: int,
) -> list[Numbers]:
    """To each other section, where nothing covers the section bar."""
    made = []
    gone = parts[shown].away[local[shown]]
    for other, part in enumerate(parts):
        if other == shown:
            continue
        back = part.back[local[other]]
        can = (gone >= 0) & (back >= 0)
        moved = (gone - local[shown]) * int(radix[shown])
        moved = moved + (back - local[other]) * int(radix[other])
        made.append((codes + moved + (other - shown) * whole)[can])
    return made
