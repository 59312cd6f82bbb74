"""Edits of arrangements: their order, their breakpoints, and what cannot be."""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Iterator
from typing import Final, Literal

from msgspec.structs import replace

from cadena.model.app import LEAST_DIVIDED, App, Arrangement, Bar, PaneWidth, Range, When
from cadena.model.find import by_id, exchanged, unused

Axis = Literal["width", "height"]


def with_arrangement(app: App, made: Arrangement) -> App:
    """The app with the arrangement of that identifier exchanged, or added at the end."""
    return replace(app, arrangements=exchanged(app.arrangements, made))


def without_arrangement(app: App, name: str) -> App:
    """The app without an arrangement."""
    arrangements = tuple(each for each in app.arrangements if each.id != name)
    return replace(app, arrangements=arrangements)


def with_rule_for_the_rest(app: App) -> App:
    """The app with one more arrangement, at the end, for whatever window is left."""
    name = unused("any", [each.id for each in app.arrangements])
    return with_arrangement(app, Arrangement(id=name, title="any other window"))


def range_of(when: When, axis: Axis) -> Range:
    """The sizes that an arrangement is for, on one axis."""
    return when.width if axis == "width" else when.height


def with_range(arrangement: Arrangement, axis: Axis, least: float, below: float | None) -> When:
    """What an arrangement asks for, with other sizes on one axis.

    Raises:
        ValueError: for a range that no size is in.
    """
    made = Range(least=least, below=below)
    if least < 0 or (below is not None and below < 0):
        raise ValueError(f"{axis} from {least:g} dp: sizes begin at 0")
    if made.is_empty:
        raise ValueError(f"{axis} from {least:g} to below {below:g} dp: no window is in it")
    when = arrangement.when
    return replace(when, width=made) if axis == "width" else replace(when, height=made)


def moved_breakpoint(app: App, axis: Axis, at: float, to: float) -> App:
    """The app with a breakpoint moved, in every arrangement that begins or ends there.

    Raises:
        ValueError: where that leaves an arrangement with no window, or the size is not one.
    """
    made = []
    for arrangement in app.arrangements:
        sizes = range_of(arrangement.when, axis)
        least = to if sizes.least == at and at > 0 else sizes.least
        below = to if sizes.below == at else sizes.below
        if (least, below) == (sizes.least, sizes.below):
            made.append(arrangement)
            continue
        try:
            made.append(replace(arrangement, when=with_range(arrangement, axis, least, below)))
        except ValueError as error:
            raise ValueError(f"{arrangement.title or arrangement.id}: {error}") from None
    return replace(app, arrangements=tuple(made))


def split(app: App, name: str, axis: Axis, at: float) -> tuple[App, Arrangement]:
    """The app with an arrangement split in two at a size: a copy of it takes what is below.

    Raises:
        ValueError: where all its windows are on one side of that size.
    """
    whole = by_id(app.arrangements, name)
    if whole is None:
        raise ValueError(f"there is no arrangement {name}")
    sizes = range_of(whole.when, axis)
    new = unused(f"{whole.id}-below", [each.id for each in app.arrangements])
    below = replace(whole, id=new, when=with_range(whole, axis, sizes.least, at))
    above = replace(whole, when=with_range(whole, axis, at, sizes.below))
    index = app.arrangements.index(whole)
    before, after = app.arrangements[:index], app.arrangements[index + 1 :]
    return replace(app, arrangements=(*before, below, above, *after)), below


def faults_of(arrangement: Arrangement) -> Iterator[tuple[str, str]]:
    """What of an arrangement cannot be: where in it, and what is wrong."""
    for axis in ("width", "height"):
        sizes = range_of(arrangement.when, axis)
        if sizes.is_empty:
            said = f"{sizes.least:g} to below {sizes.below:g} dp: no window is in it"
            yield f"when.{axis}", said
    share = sum(each.share or 0.0 for each in arrangement.widths[: arrangement.panes])
    if share > 1:
        yield "widths", f"the shares add up to {share:.0%}"
    for number, each in enumerate(arrangement.widths):
        if each.most is not None and each.least > each.most:
            yield f"widths[{number}]", f"least {each.least:g} dp is above most {each.most:g} dp"
        if each.fixed is not None and each.least > each.fixed:
            yield f"widths[{number}]", f"least {each.least:g} dp is above {each.fixed:g} dp, fixed"


def never_divided(arrangement: Arrangement) -> bool:
    """Whether dividers that people drag can be moved in no window (rules.md, 3.2)."""
    if arrangement.dividers == "fixed":
        return False
    asked = [*arrangement.widths[: arrangement.panes]]
    asked += [PaneWidth()] * (arrangement.panes - len(asked))
    low = LEAST_DIVIDED[arrangement.lie]
    stuck = [e.most is not None and e.most <= max(e.least, low) for e in asked]
    return all(one or other for one, other in itertools.pairwise(stuck))


BARS: Final[dict[Bar, str]] = {
    "bottom": "bar at the bottom",
    "rail": "rail",
    "wide rail": "wide rail with words",
    "top": "bar at the top",
    "button": "bar behind a button",
    "none": "no section bar",
}
PANES: Final = ("no pane", "one pane", "two panes", "three panes")


def panes_words(count: int) -> str:
    return PANES[count] if count < len(PANES) else f"{count} panes"


def words_of(arrangement: Arrangement) -> str:
    """An arrangement in words: two panes, the first 300 dp, rail."""
    count = arrangement.panes
    said = [panes_words(count)]
    if count > 1 and arrangement.lie == "down":
        said[0] += " down"
    if count > 1 and arrangement.widths and (first := width_words(arrangement.widths[0])):
        said.append(f"the first {first}")
    if count > 1 and arrangement.first == "stays":
        said.append("list stays")
    if count > 1 and arrangement.dividers != "fixed":
        said.append("dividers to drag")
    if count == 1 and arrangement.over:
        said.append("list over")
    if count == 1 and arrangement.detail_first != "no":
        said.append("detail first")
    return ", ".join([*said, BARS[arrangement.bar]])


def width_words(width: PaneWidth) -> str:
    """What a pane asks for, in words; nothing where it takes what is left."""
    said = []
    if width.fixed is not None:
        said.append(f"{width.fixed:g} dp")
    elif width.share is not None:
        said.append(f"{width.share:.0%}")
    if width.least and width.most is not None:
        said.append(f"{width.least:g} to {width.most:g} dp")
    elif width.least:
        said.append(f"at least {width.least:g} dp")
    elif width.most is not None:
        said.append(f"at most {width.most:g} dp")
    return ", ".join(said)


def when_words(when: When) -> str:
    """The windows that a rule asks for, in words."""
    said = []
    for name, sizes in (("wide", when.width), ("high", when.height)):
        if sizes.least and sizes.below is not None:
            said.append(f"{sizes.least:g} to below {sizes.below:g} dp {name}")
        elif sizes.least:
            said.append(f"from {sizes.least:g} dp {name}")
        elif sizes.below is not None:
            said.append(f"below {sizes.below:g} dp {name}")
    said += [each for each in (when.shape, when.fold) if each]
    return ", ".join(said) or "any window"


def snapped(value: float, near: Iterable[float], within: float) -> float:
    """A size moved to one that matters nearby, else to a whole ten nearby, else to whole dp."""
    close = [each for each in near if abs(each - value) <= within]
    if close:
        return min(close, key=lambda each: abs(each - value))
    ten = round(value / 10) * 10.0
    return ten if abs(ten - value) <= within else float(round(value))
