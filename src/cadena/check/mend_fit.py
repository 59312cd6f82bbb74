"""Mending findings of Fit without asking."""

from __future__ import annotations

from msgspec.structs import replace

from cadena.check.finding import Finding
from cadena.engine.rules.display import body_area
from cadena.engine.session import sized
from cadena.model.app import App, Arrangement, DetailScreen
from cadena.model.edits.arrangements import (
    moved_breakpoint,
    with_arrangement,
    with_rule_for_the_rest,
    without_arrangement,
)
from cadena.model.edits.wiring import with_screen, with_section
from cadena.model.find import by_id


def mended_fit(app: App, finding: Finding) -> App | None:
    """The app with a finding of Fit mended, or none where a person has to decide."""
    name = finding.where.partition("[")[2].partition("]")[0]
    rule = by_id(app.arrangements, name)
    screen = by_id(app.screens, finding.screen)
    match finding.code:
        case "arrangement-unreachable" if rule is not None:
            return without_arrangement(app, rule.id)
        case "window-without-arrangement":
            return with_rule_for_the_rest(app)
        case "pane-under-least" if rule is not None:
            return _with_room(app, rule)
        case "list-hidden" if finding.where.startswith("sections"):
            section = by_id(app.sections, name)
            return None if section is None else with_section(app, replace(section, in_bar=True))
        case "list-hidden" if rule is not None:
            return with_arrangement(app, replace(rule, bar="button"))
        case "screen-asks-window" if isinstance(screen, DetailScreen) and screen.side is not None:
            side = replace(screen.side, measured="room")
            return with_screen(app, replace(screen, side=side))
        case "turn-loses" if screen is not None:
            piece = finding.where.rpartition(".")[2]
            return with_screen(app, replace(screen, keep=replace(screen.keep, **{piece: "saved"})))
        case "window-cannot-be":
            windows = tuple(each for each in app.windows if each.name != name)
            return replace(app, windows=windows)
    return None


def _with_room(app: App, rule: Arrangement) -> App | None:
    """The breakpoint where a rule begins, moved to where its panes have their least."""
    taken = 10_000 - body_area(rule, sized(10_000, 1_000)).width
    wanted = taken + sum(each.least for each in rule.widths[: rule.panes])
    if not rule.when.width.least:
        when = replace(rule.when, width=replace(rule.when.width, least=wanted))
        return with_arrangement(app, replace(rule, when=when))
    try:
        return moved_breakpoint(app, "width", rule.when.width.least, wanted)
    except ValueError:
        return None
