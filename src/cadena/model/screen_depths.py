"""How far in each screen is, along the links."""

from __future__ import annotations

from collections.abc import Iterator

from cadena.model.app import App, Link, Section, Trigger
from cadena.model.once import once
from cadena.model.screen_parts import triggers
from cadena.model.search import nearest_first


def steps_in(app: App, root: str) -> dict[str, int]:
    """How many links each screen is away from a root, by the shortest way; the root is 0.

    Screens of one distance come in the order in which their triggers stand.
    """
    leads = _leads(app)

    def beyond(at: tuple[str, int]) -> Iterator[tuple[str, int]]:
        name, depth = at
        return ((to, depth + 1) for to in leads[name])

    starts = [(root, 0)] if root in leads else []
    return dict(nearest_first(starts, beyond, lambda at: at[0]))


@once
def _leads(app: App) -> dict[str, tuple[str, ...]]:
    """The screens that each screen leads to, in the order in which its triggers stand."""
    targets: dict[Trigger, list[str]] = {}
    for link in app.links:
        targets.setdefault(link.trigger, []).append(link.to)
    there = {each.id for each in app.screens}
    return {
        screen.id: tuple(
            to for trigger in triggers(screen) for to in targets.get(trigger, ()) if to in there
        )
        for screen in app.screens
    }


@once
def links_about(app: App) -> dict[str, tuple[Link, ...]]:
    """The links that start from each screen, or lead to it, in their order."""
    found: dict[str, tuple[Link, ...]] = {}
    for link in app.links:
        for name in {link.trigger.screen, link.to}:
            found[name] = (*found.get(name, ()), link)
    return found


@once
def sections_to(app: App) -> dict[str, tuple[Section, ...]]:
    """For each screen, the sections from whose root links lead to it."""
    led: dict[str, tuple[Section, ...]] = {}
    for section in app.sections:
        for name in steps_in(app, section.root):
            led[name] = (*led.get(name, ()), section)
    return led


def unreached(app: App) -> tuple[str, ...]:
    """The screens that no section's root leads to."""
    reached = sections_to(app)
    return tuple(each.id for each in app.screens if each.id not in reached)
