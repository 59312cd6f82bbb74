"""Checks of arrangements: every window has one, each can be reached, and panes have their room."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Final

from msgspec.structs import replace

from cadena.check.finding import Finding, Mend, found, of_screen, of_thing
from cadena.engine.layout.panes import areas_in, body_area
from cadena.engine.session import sized
from cadena.model.app import App, Arrangement, DetailScreen
from cadena.model.edits.arrangements import (
    Axis,
    faults_of,
    moved_breakpoint,
    never_divided,
    range_of,
    when_words,
    with_arrangement,
    with_range,
    with_rule_for_the_rest,
    without_arrangement,
)
from cadena.model.edits.wiring import Types, with_screen, with_section
from cadena.model.find import by_id
from cadena.model.once import once
from cadena.model.windows import fault_of
from cadena.runs.window_plane import GAP, Plane, plane_of, used_in


def fit_findings(app: App) -> Iterator[Finding]:
    """What is wrong with the arrangements of an app, found on the whole plane of windows."""
    rules = app.arrangements
    for rule in rules:
        for place, said in faults_of(rule):
            yield found(
                "arrangement-cannot-be",
                of_thing("arrangement", rule.id, place),
                f"{_name(rule)}: {said}",
            )
    for window in app.windows:
        if (fault := fault_of(window)) is not None:
            yield found(
                "window-cannot-be", of_thing("window", window.name), f"{window.name}: {fault}"
            )
    if rules:
        used = used_in(rules)
        yield from _reached(app, used)
        without_room = _without_room(rules)
        for number, rule in enumerate(rules):
            yield from without_room[number]
            if number in used:
                yield from _hidden(app, rule)
            if never_divided(rule):
                yield found(
                    "divider-never",
                    of_thing("arrangement", rule.id, "dividers"),
                    f"{_name(rule)}: its dividers are the person's, and none can be moved",
                )
    yield from _left_out(app)
    for screen in app.screens:
        side = screen.side if isinstance(screen, DetailScreen) else None
        if side is not None and side.measured == "window":
            yield found(
                "screen-asks-window",
                of_screen(screen, "side"),
                f"{screen.id} asks how wide the window is to stand its blocks side by side",
                f"screens[{screen.id}].side",
            )


def _reached(app: App, used: frozenset[int]) -> Iterator[Finding]:
    for number, rule in enumerate(app.arrangements):
        if number not in used and not (rule.when.width.is_empty or rule.when.height.is_empty):
            yield found(
                "arrangement-unreachable",
                of_thing("arrangement", rule.id),
                f"{_name(rule)}: no window ever comes to it",
            )
    flat = plane_of(app.arrangements)
    for plane in (flat, plane_of(app.arrangements, folded=True)):
        gaps = " or ".join(when_words(each) for each in plane.whens_of(GAP))
        if gaps and (not plane.folded or GAP not in flat.used):
            lies = " that lies folded" if plane.folded else ""
            yield found(
                "window-without-arrangement",
                of_thing("arrangements"),
                f"no rule is for a window{lies} that is {gaps}",
            )


@once
def _without_room(rules: tuple[Arrangement, ...]) -> tuple[tuple[Finding, ...], ...]:
    flat = plane_of(rules)
    return tuple(tuple(_room(rule, number, flat)) for number, rule in enumerate(rules))


def _room(rule: Arrangement, number: int, plane: Plane) -> Iterator[Finding]:
    """At every corner of where a rule acts, each pane gets its least."""
    leasts = [each.least for each in rule.widths[: rule.panes]]
    for width, height in sorted(plane.cells_of(number)):
        areas = areas_in(rule, sized(width, height), rule.panes)
        for pane, (area, least) in enumerate(zip(areas, leasts, strict=False)):
            size = area.height if rule.lie == "down" else area.width
            if size < least - 0.5 and not any(fault for _, fault in faults_of(rule)):
                yield found(
                    "pane-under-least",
                    of_thing("arrangement", rule.id, f"widths[{pane}]"),
                    f"{_name(rule)}: in a window {_wide(rule, width, height)} pane {pane + 1} gets "
                    f"{size:.0f} dp, and {least:g} dp is its least",
                )
                return


def _wide(rule: Arrangement, width: float, height: float) -> str:
    return f"{height:g} dp high" if rule.lie == "down" else f"{width:g} dp wide"


def _hidden(app: App, rule: Arrangement) -> Iterator[Finding]:
    """Sections that nothing leads to in an arrangement with no section bar."""
    others = [each for each in app.sections if each.in_bar and each.id != app.start]
    if rule.bar == "none" and others:
        names = ", ".join(each.title for each in others)
        yield found(
            "list-hidden",
            of_thing("arrangement", rule.id, "bar"),
            f"{_name(rule)} has no section bar: nothing leads to {names}",
        )


def _left_out(app: App) -> Iterator[Finding]:
    opened = {each.to for each in app.links}
    for section in app.sections:
        if not section.in_bar and section.id != app.start and section.root not in opened:
            yield found(
                "list-hidden",
                of_thing("section", section.id, "in_bar"),
                f'section "{section.title}" is left out of the bar, and no link opens its list',
                why="nobody will ever see it",
                mend="put it in the section bar, or link something to its list",
            )


def _name(rule: Arrangement) -> str:
    return f'arrangement "{rule.title or rule.id}"'


def _without_rule(app: App, types: Types, finding: Finding) -> App | None:
    return without_arrangement(app, finding.subject.name)


def _with_rule_for_the_rest(app: App, types: Types, finding: Finding) -> App | None:
    return with_rule_for_the_rest(app)


def _with_room(app: App, types: Types, finding: Finding) -> App | None:
    """The breakpoint where a rule begins, moved to where its panes have their least."""
    rule = by_id(app.arrangements, finding.subject.name)
    if rule is None:
        return None
    axis: Axis = "height" if rule.lie == "down" else "width"
    body = body_area(rule, sized(10_000, 10_000))
    taken = 10_000 - (body.height if axis == "height" else body.width)
    wanted = taken + sum(each.least for each in rule.widths[: rule.panes])
    sizes = range_of(rule.when, axis)
    try:
        if not sizes.least:
            when = with_range(rule, axis, wanted, sizes.below)
            return with_arrangement(app, replace(rule, when=when))
        return moved_breakpoint(app, axis, sizes.least, wanted)
    except ValueError:
        return None


def _with_fixed_dividers(app: App, types: Types, finding: Finding) -> App | None:
    rule = by_id(app.arrangements, finding.subject.name)
    return None if rule is None else with_arrangement(app, replace(rule, dividers="fixed"))


def _with_way_to_list(app: App, types: Types, finding: Finding) -> App | None:
    """The section stands in the bar, or the bar behind a button."""
    name = finding.subject.name
    if finding.subject.thing == "section":
        section = by_id(app.sections, name)
        return None if section is None else with_section(app, replace(section, in_bar=True))
    rule = by_id(app.arrangements, name)
    return None if rule is None else with_arrangement(app, replace(rule, bar="button"))


def _by_room(app: App, types: Types, finding: Finding) -> App | None:
    screen = by_id(app.screens, finding.subject.name)
    if not isinstance(screen, DetailScreen) or screen.side is None:
        return None
    return with_screen(app, replace(screen, side=replace(screen.side, measured="room")))


def _without_window(app: App, types: Types, finding: Finding) -> App | None:
    windows = tuple(each for each in app.windows if each.name != finding.subject.name)
    return replace(app, windows=windows)


MENDS: Final[Mapping[str, Mend]] = {
    "arrangement-unreachable": _without_rule,
    "divider-never": _with_fixed_dividers,
    "list-hidden": _with_way_to_list,
    "pane-under-least": _with_room,
    "screen-asks-window": _by_room,
    "window-cannot-be": _without_window,
    "window-without-arrangement": _with_rule_for_the_rest,
}
