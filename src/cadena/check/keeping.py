"""Checks of lifetimes that can be read: drafts over chains that go, and state without a limit."""

from __future__ import annotations

from collections.abc import Iterator

from cadena.check.finding import Finding
from cadena.model.app import App, FormScreen
from cadena.model.steps import steps_in


def keeping_findings(app: App) -> Iterator[Finding]:
    """What the lifetimes of an app say that cannot come true, or has no end."""
    forms = {
        each.id
        for each in app.screens
        if isinstance(each, FormScreen) and each.keep.draft in ("saved", "stored")
    }
    for section in app.sections:
        drafted = sorted(forms & steps_in(app, section.root).keys())
        if section.keep in ("view", "entry") and drafted:
            yield Finding(
                "chain-dropped",
                "breaks",
                f"sections[{section.id}].keep",
                f'section "{section.title}" loses its chain when the process ends, and drafts of '
                f"{drafted[0]} are to be kept",
                "the form is gone, and what was typed with it",
                "save the chain as well",
            )
    if app.platform.stored_most is not None:
        return
    for screen in app.screens:
        keep = screen.keep
        lives = (keep.scroll, keep.search, keep.page, keep.draft)
        if "stored" in lives and screen.parameters:
            yield Finding(
                "stored-without-limit",
                "weakens",
                f"screens[{screen.id}].keep",
                f"{screen.id} stores state for everything it was ever opened with, without limit",
                "it grows for as long as the app is used",
                "say for how many screens state is stored",
                screen.id,
            )
