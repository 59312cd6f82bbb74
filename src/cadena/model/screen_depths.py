"""How far in each screen is, along the links."""

from __future__ import annotations

from cadena.model.app import App, Section, Trigger
from cadena.model.screen_parts import triggers


def steps_in(app: App, root: str) -> dict[str, int]:
    """How many links each screen is away from a root, by the shortest way; the root is 0.

    Plain breadth-first search, screens of one distance in the order their triggers stand.
    """
    screens = {each.id: each for each in app.screens}
    if root not in screens:
        return {}
    targets: dict[Trigger, str] = {each.trigger: each.to for each in app.links}
    steps = {root: 0}
    queue = [root]
    for name in queue:
        for trigger in triggers(screens[name]):
            to = targets.get(trigger)
            if to in screens and to is not None and to not in steps:
                steps[to] = steps[name] + 1
                queue.append(to)
    return steps


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
