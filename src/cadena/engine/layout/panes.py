"""How the room of a window is shared out among panes, and its dividers (rules.md, 3.2 and 5.6)."""

from __future__ import annotations

from functools import reduce
from itertools import accumulate
from math import inf
from operator import add
from typing import Final, NamedTuple

from msgspec.structs import replace

from cadena.engine.layout.sizes import RAIL, SECTION_BAR, WIDE_RAIL
from cadena.engine.session import Divided, Window
from cadena.model.app import LEAST_DIVIDED, Arrangement, PaneWidth


class Area(NamedTuple):
    """A place in a window, in dp from its top, and from the side where reading begins.

    In a window with large text these are the window's own units (see ``Window.room``).
    """

    x: float
    y: float
    width: float
    height: float


def body_area(arrangement: Arrangement, window: Window) -> Area:
    """What the section bar leaves of a window."""
    width, height = window.room
    match arrangement.bar:
        case "bottom":
            return Area(0, 0, width, max(0.0, height - SECTION_BAR))
        case "top":
            return Area(0, SECTION_BAR, width, max(0.0, height - SECTION_BAR))
        case "rail" | "wide rail" as bar:
            rail = RAIL if bar == "rail" else WIDE_RAIL
            return Area(rail, 0, max(0.0, width - rail), height)
        case _:
            return Area(0, 0, width, height)


EXACT: Final = 1e-6
"""Shares that differ by less than this are the same."""


class Divider(NamedTuple):
    """The divider after pane ``pane``, where a person can move it.

    ``area`` is the line that it is, without thickness; ``size`` is how wide (or, where panes lie
    down, how high) the pane before it is, and ``least`` and ``most`` are how far that can be
    moved, all in dp.
    """

    pane: int
    area: Area
    size: float
    least: float
    most: float


def areas_in(
    arrangement: Arrangement, window: Window, shown: int, divided: Divided = ()
) -> tuple[Area, ...]:
    """The areas of so many panes of an arrangement in a window, by arithmetic alone.

    Args:
        divided: where a person has left its dividers (see ``Session.divided``).
    """
    body = body_area(arrangement, window)
    is_down = arrangement.lie == "down"
    solved = [each / window.text for each in _sizes(arrangement, window, shown, divided)]
    starts = accumulate(solved, initial=body.y if is_down else body.x)
    return tuple(
        body._replace(y=start, height=size) if is_down else body._replace(x=start, width=size)
        for start, size in zip(starts, solved, strict=False)
    )


def dividers_in(
    arrangement: Arrangement, window: Window, shown: int, divided: Divided = ()
) -> tuple[Divider, ...]:
    """The dividers that a person can move, between so many panes of an arrangement (3.2)."""
    if arrangement.dividers == "fixed" or shown < 2 or _on_fold(arrangement, window, shown):
        return ()
    asked = _asked_for(arrangement, shown)
    sizes = _sizes(arrangement, window, shown, divided)
    wired = _sizes(arrangement, window, shown, ())
    least = [
        max(each.least, min(LEAST_DIVIDED[arrangement.lie], *pair))
        for each, *pair in zip(asked, sizes, wired, strict=True)
    ]
    limits = (inf if each.most is None else each.most for each in asked)
    most = [max(low, limit) for low, limit in zip(least, limits, strict=True)]
    areas = areas_in(arrangement, window, shown, divided)
    found = []
    for at in range(shown - 1):
        both, after = sizes[at] + sizes[at + 1], areas[at + 1]
        low = max(least[at], both - most[at + 1])
        high = min(most[at], both - least[at + 1])
        is_down = arrangement.lie == "down"
        line = after._replace(height=0.0) if is_down else after._replace(width=0.0)
        if high - low > EXACT:
            found.append(Divider(at, line, sizes[at], low, high))
    return tuple(found)


def shares_given(arrangement: Arrangement, window: Window) -> tuple[tuple[float, float], ...]:
    """The shares that the panes of an arrangement ask for, and those that came instead.

    Returns:
        Of each pane with a share both, from 0 to 1; nothing where all came as asked for.
    """
    if all(each.share is None for each in arrangement.widths):
        return ()
    sizes = _sizes(arrangement, window, arrangement.panes, ())
    room = _sum(sizes)
    asked = _asked_for(arrangement, arrangement.panes)
    pairs = tuple(
        (each.share, size / room if room else 0.0)
        for each, size in zip(asked, sizes, strict=True)
        if each.share is not None
    )
    return pairs if any(abs(wanted - came) > EXACT for wanted, came in pairs) else ()


def divided_at(
    arrangement: Arrangement, window: Window, shown: int, divided: Divided, pane: int, to: float
) -> Divided:
    """Where dividers are once the one after a pane is moved so that the pane has a size, in dp.

    Every pane keeps the size it then has, but for one that takes the room that is left: the last
    with nothing said, else the last shown.
    """
    sizes = _sizes(arrangement, window, shown, divided)
    sizes[pane], sizes[pane + 1] = to, sizes[pane] + sizes[pane + 1] - to
    rest = _rest_of(_asked_for(arrangement, shown))
    kept = tuple(None if at == rest else each for at, each in enumerate(sizes))
    return kept + divided[shown:]


def _asked_for(arrangement: Arrangement, shown: int) -> list[PaneWidth]:
    """What is asked for each pane shown; the last of fewer than there are takes what is left."""
    asked = [*arrangement.widths[:shown]]
    asked += [PaneWidth()] * (shown - len(asked))
    if 0 < shown < arrangement.panes:
        asked[-1] = PaneWidth()
    return asked


def _sizes(arrangement: Arrangement, window: Window, shown: int, divided: Divided) -> list[float]:
    """How wide (or high) the panes shown are, in dp."""
    body, is_down = body_area(arrangement, window), arrangement.lie == "down"
    start, room = (body.y, body.height) if is_down else (body.x, body.width)
    if _on_fold(arrangement, window, shown):
        fold = _fold_of(arrangement, window) or 0.0
        return [(fold - start) * window.text, (start + room - fold) * window.text]
    asked = _asked_for(arrangement, shown)
    if any(each is not None for each in divided[:shown]):
        rest = _rest_of(asked)
        for at, size in enumerate(divided[:shown]):
            if size is not None:
                wired = asked[at]
                most = inf if wired.most is None else wired.most
                asked[at] = replace(wired, share=None, fixed=max(wired.least, min(size, most)))
        asked[rest] = replace(asked[rest], share=None, fixed=None)
    return solve_widths(room * window.text, asked)


def _rest_of(asked: list[PaneWidth]) -> int:
    """Which pane takes what is left once dividers were moved: the last with nothing said, else
    the last."""
    return max((at for at, each in enumerate(asked) if _is_free(each)), default=len(asked) - 1)


def _on_fold(arrangement: Arrangement, window: Window, shown: int) -> bool:
    """Whether the edge between two panes lies on the fold of the window (5.6)."""
    fold, body = _fold_of(arrangement, window), body_area(arrangement, window)
    if shown != 2 or fold is None:
        return False
    if arrangement.lie == "down":
        return body.y < fold < body.y + body.height
    return body.x < fold < body.x + body.width


def _fold_of(arrangement: Arrangement, window: Window) -> float | None:
    """How far along its panes an open window folds, or none where it does not fold between."""
    is_down = arrangement.lie == "down"
    if window.fold is None or window.folded or window.fold_across != is_down:
        return None
    is_far = window.rtl and not is_down
    return (window.width - window.fold if is_far else window.fold) / window.text


def solve_widths(total: float, widths: list[PaneWidth]) -> list[float]:
    """Share a width out among panes.

    What is asked for is given, within least and most; the rest goes to the panes with nothing
    said, then to those with a share, the last of them first, and at last to the last one. Where
    it is short, all give way down to their least; where even that is too much, the least ones are
    cut alike.

    Args:
        total: the width to share out, in dp.
        widths: what each pane asks for.

    Returns:
        The width of each pane, in dp; they add up to ``total``.
    """
    if not widths:
        return []
    least = [each.least for each in widths]
    most = [max(_most(each), low) for each, low in zip(widths, least, strict=True)]
    needed = _sum(least)
    if needed >= total:
        return [low * (total / needed) if total > 0 else 0.0 for low in least]
    asked = (_size_asked(each, total) for each in widths)
    limits = zip(asked, least, most, strict=True)
    solved = [min(max(each, low), high) for each, low, high in limits]
    over = _sum(solved) - total
    if over > 0:
        slack = [each - low for each, low in zip(solved, least, strict=True)]
        part = over / _sum(slack)
        solved = [each - more * part for each, more in zip(solved, slack, strict=True)]
    _fill(solved, most, [at for at, each in enumerate(widths) if _is_free(each)], total)
    for at in reversed([at for at, each in enumerate(widths) if each.share is not None]):
        _fill(solved, most, [at], total)
    solved[-1] += total - _sum(solved)
    return solved


def _fill(solved: list[float], most: list[float], takes: list[int], total: float) -> None:
    """Give what is left of the total to some of the panes alike, each up to its most."""
    room = total - _sum(solved)
    open_ = [at for at in takes if solved[at] < most[at]]
    while room > 1e-9 and open_:
        given = [min(most[at] - solved[at], room / len(open_)) for at in open_]
        for at, more in zip(open_, given, strict=True):
            solved[at] += more
        room -= _sum(given)
        open_ = [at for at in open_ if solved[at] < most[at] - 1e-9]


def _sum(values: list[float]) -> float:
    """One after another, as every Python and every other language adds them."""
    return reduce(add, values, 0.0)


def _is_free(width: PaneWidth) -> bool:
    return width.fixed is None and width.share is None


def _size_asked(width: PaneWidth, total: float) -> float:
    return width.fixed if width.fixed is not None else (width.share or 0.0) * total


def _most(width: PaneWidth) -> float:
    if width.fixed is not None:
        return width.fixed
    return inf if width.most is None else width.most
