"""Checks of what survives: those that can be read, and those that Keep's runs have shown."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from typing import Final

import msgspec
from msgspec.structs import replace

from cadena.check.finding import Finding, Mend, Weight, first_few, found, of_screen, of_thing
from cadena.engine.rules.window_change import resize_to
from cadena.model.app import App, FormScreen
from cadena.model.edits.wiring import Types, with_screen, with_section
from cadena.model.find import by_id
from cadena.model.listing import Mark
from cadena.model.screen_depths import sections_to
from cadena.model.screen_parts import every_button
from cadena.runs.keep.mend import with_chains_saved
from cadena.runs.keep.run import Run

STORED_MOST: Final = 200
KEPT_FOR: Final = {
    "view": "kept only while it is shown",
    "entry": "kept only until the process ends",
    "saved": "kept only until the app is closed",
}
REBUILDS: Final = ("turn", "over an edge", "fold", "other width")
SAID: Final = {
    "draft": "what was typed",
    "scroll": "where it was scrolled",
    "search": "what was searched for",
    "sort": "the order it was put in",
    "groups": "which groups are open",
    "choice": "what was chosen in its strip",
    "picked": "which rows were picked",
    "asked for": "what it was opened to choose for",
    "carried": "what it was opened with",
    "value": "its value",
    "first in view": "where it was scrolled",
    "chosen in view": "the chosen row in view",
}


def keeping_findings(app: App) -> Iterator[Finding]:
    """What the lifetimes of an app say that cannot come true, or has no end."""
    forms = {
        each.id
        for each in app.screens
        if isinstance(each, FormScreen) and each.keep.draft in ("saved", "stored")
    }
    led = sections_to(app)
    for section in app.sections:
        drafted = sorted(each for each in forms if section in led.get(each, ()))
        if section.keep in ("view", "entry") and drafted:
            yield found(
                "chain-dropped",
                of_thing("section", section.id),
                f'section "{section.title}" loses its chain when the process ends, and drafts of '
                f"{drafted[0]} are to be kept",
                f"sections[{section.id}].keep",
            )
    yield from _marks_lost(app)
    if app.platform.stored_most is not None:
        return
    for screen in app.screens:
        keep = screen.keep
        lives = (keep.scroll, keep.search, keep.page, keep.draft)
        if "stored" in lives and screen.parameters:
            yield found(
                "stored-without-limit",
                of_screen(screen),
                f"{screen.id} stores state for everything it was ever opened with, without limit",
                f"screens[{screen.id}].keep",
            )


def _marks_lost(app: App) -> Iterator[Finding]:
    """What people mark is theirs, and is to be there when the app is started anew."""
    marked = {
        button.does.value: screen
        for screen in app.screens
        for _, button in every_button(screen)
        if isinstance(button.does, Mark)
    }
    for value in app.values:
        screen = marked.get(value.id)
        if screen is not None and value.keep != "stored":
            yield found(
                "marks-lost",
                of_thing("value", value.id, screen=screen.id),
                f"people mark records in {value.id}, and it is {KEPT_FOR[value.keep]}",
                f"values[{value.id}].keep",
                value=value.id,
            )


def lost_findings(runs: Iterable[Run]) -> Iterator[Finding]:
    """What runs of an app have shown to be lost: one finding for each screen and way of losing.

    What lives only as long as its view goes as it was asked to; where a rebuild takes it, the
    person did not ask for that, and the app is weaker for it.
    """
    losses: dict[tuple[str, Weight, str], list[Run]] = {}
    weight: Weight
    for run in runs:
        is_rebuilt = run.disturbance in REBUILDS
        if run.mark == "lost":
            code, weight = "turn-loses" if is_rebuilt else "state-lost", "breaks"
        elif run.mark == "let go as asked" and is_rebuilt and run.piece.lifetime == "view":
            code, weight = "turn-loses", "weakens"
        else:
            continue
        losses.setdefault((code, weight, run.piece.of), []).append(run)
    for (code, weight, of), some in losses.items():
        if code == "state-lost" and ("turn-loses", "breaks", of) in losses:
            continue
        yield _lost(code, weight, some)


def _lost(code: str, weight: Weight, runs: list[Run]) -> Finding:
    first = runs[0]
    what = list(dict.fromkeys(SAID.get(each.piece.kind, f"its {each.piece.kind}") for each in runs))
    by = list(dict.fromkeys(each.disturbance for each in runs))
    walk = (resize_to(first.window), *first.events, *first.disturbing)
    return found(
        code,
        of_thing("screen", first.piece.of, first.piece.kept_as),
        f"{first.piece.of} loses {' and '.join(what)} through {', '.join(by)} "
        f"at {first_few(each.window_name for each in runs)}",
        first.piece.where,
        weight=weight,
        run=msgspec.json.encode(walk).decode(),
    )


def _with_chain_saved(app: App, types: Types, finding: Finding) -> App | None:
    section = by_id(app.sections, finding.subject.name)
    return None if section is None else with_section(app, replace(section, keep="saved"))


def _with_chains_saved(app: App, types: Types, finding: Finding) -> App | None:
    return with_chains_saved(app, finding.subject.name)


def _with_marks_stored(app: App, types: Types, finding: Finding) -> App | None:
    name = finding.subject.name
    stored = (replace(e, keep="stored") if e.id == name else e for e in app.values)
    return replace(app, values=tuple(stored))


def _with_limit(app: App, types: Types, finding: Finding) -> App | None:
    return replace(app, platform=replace(app.platform, stored_most=STORED_MOST))


def _kept_over_a_turn(app: App, types: Types, finding: Finding) -> App | None:
    screen = by_id(app.screens, finding.subject.name)
    if screen is None or not finding.subject.part:
        return None
    keep = replace(screen.keep, **{finding.subject.part: "saved"})
    return with_screen(app, replace(screen, keep=keep))


MENDS: Final[Mapping[str, Mend]] = {
    "chain-dropped": _with_chain_saved,
    "marks-lost": _with_marks_stored,
    "state-lost": _with_chains_saved,
    "stored-without-limit": _with_limit,
    "turn-loses": _kept_over_a_turn,
}
