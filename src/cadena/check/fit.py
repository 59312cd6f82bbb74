"""Checks of arrangements: every window has one, each can be reached, and panes have their room."""

from __future__ import annotations

from collections.abc import Iterator

from cadena.check.finding import Finding, Weight
from cadena.engine.rules.display import areas_in
from cadena.engine.session import sized
from cadena.model.app import App, Arrangement, DetailScreen
from cadena.model.edits.arrangements import faults_of, when_words
from cadena.model.windows import fault_of
from cadena.runs.window_plane import GAP, Plane, plane_of, used_in


def fit_findings(app: App) -> Iterator[Finding]:
    """What is wrong with the arrangements of an app, found on the whole plane of windows."""
    rules = app.arrangements
    for rule in rules:
        for place, said in faults_of(rule):
            yield _finding(
                "arrangement-cannot-be",
                "breaks",
                f"arrangements[{rule.id}].{place}",
                f"{_name(rule)}: {said}",
                "what is asked for cannot be given",
                "give sizes that a window, or a pane, can have",
            )
    for window in app.windows:
        if (fault := fault_of(window)) is not None:
            yield _finding(
                "window-cannot-be",
                "weakens",
                f"windows[{window.name}]",
                f"{window.name}: {fault}",
                "the app is not tried in it",
                "give it a size that a window can have",
            )
    if rules:
        flat, used = plane_of(rules), used_in(rules)
        yield from _reached(app, used)
        for number, rule in enumerate(rules):
            yield from _room(rule, number, flat)
            if number in used:
                yield from _hidden(app, rule)
    yield from _left_out(app)
    for screen in app.screens:
        side = screen.side if isinstance(screen, DetailScreen) else None
        if side is not None and side.measured == "window":
            yield Finding(
                "screen-asks-window",
                "breaks",
                f"screens[{screen.id}].side",
                f"{screen.id} asks how wide the window is to stand its blocks side by side",
                "beside a list it has less room than the window, and squeezes them",
                "go by the room that the screen is given",
                screen.id,
            )


def _reached(app: App, used: frozenset[int]) -> Iterator[Finding]:
    for number, rule in enumerate(app.arrangements):
        if number not in used and not (rule.when.width.is_empty or rule.when.height.is_empty):
            yield _finding(
                "arrangement-unreachable",
                "weakens",
                f"arrangements[{rule.id}]",
                f"{_name(rule)}: no window ever comes to it",
                "the rules before it take every window that it asks for",
                "ask for it sooner, change what it asks for, or remove it",
            )
    flat = plane_of(app.arrangements)
    for plane in (flat, plane_of(app.arrangements, folded=True)):
        when = plane.when_of(GAP)
        if when is not None and (not plane.folded or GAP not in flat.used):
            lies = " that lies folded" if plane.folded else ""
            yield _finding(
                "window-without-arrangement",
                "weakens",
                "arrangements",
                f"no rule is for a window{lies} that is {when_words(when)}",
                "it is shown with one pane and a bar at the bottom, whatever was meant",
                "add a rule for all that is left, at the end",
            )


def _room(rule: Arrangement, number: int, plane: Plane) -> Iterator[Finding]:
    """At every corner of where a rule acts, each pane gets its least width."""
    leasts = [each.least for each in rule.widths[: rule.panes]]
    for width, height in sorted(plane.cells_of(number)):
        areas = areas_in(rule, sized(width, height), rule.panes)
        for pane, (area, least) in enumerate(zip(areas, leasts, strict=False)):
            if area.width < least - 0.5 and not any(fault for _, fault in faults_of(rule)):
                yield _finding(
                    "pane-under-least",
                    "breaks",
                    f"arrangements[{rule.id}].widths[{pane}]",
                    f"{_name(rule)}: in a window {width:g} dp wide pane {pane + 1} gets "
                    f"{area.width:.0f} dp, and {least:g} dp is its least",
                    "its text is squeezed",
                    "begin with wider windows, or ask for less",
                )
                return


def _hidden(app: App, rule: Arrangement) -> Iterator[Finding]:
    """Sections that nothing leads to in an arrangement with no section bar."""
    others = [each for each in app.sections if each.in_bar and each.id != app.start]
    if rule.bar == "none" and others:
        names = ", ".join(each.title for each in others)
        yield _finding(
            "list-hidden",
            "breaks",
            f"arrangements[{rule.id}].bar",
            f"{_name(rule)} has no section bar: nothing leads to {names}",
            "people lose sections when their window gets this size",
            "put the bar behind a button",
        )


def _left_out(app: App) -> Iterator[Finding]:
    opened = {each.to for each in app.links}
    for section in app.sections:
        if not section.in_bar and section.id != app.start and section.root not in opened:
            yield _finding(
                "list-hidden",
                "breaks",
                f"sections[{section.id}].in_bar",
                f'section "{section.title}" is left out of the bar, and no link opens its list',
                "nobody will ever see it",
                "put it in the section bar, or link something to its list",
            )


def _name(rule: Arrangement) -> str:
    return f'arrangement "{rule.title or rule.id}"'


def _finding(code: str, weight: Weight, where: str, what: str, why: str, mend: str) -> Finding:
    return Finding(code, weight, where, what, why, mend)
