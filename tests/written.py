"""The app of stays, with a stand-in that is written to."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from builders import POCKET, Run
from cadena.engine import events as do
from cadena.engine.session import Window
from cadena.engine.step import start
from cadena.engine.wired import WiredApp
from cadena.model.app import App, FormScreen
from cadena.model.source import StandIn
from stays import stays_app, stays_records

EVERYTHING = ("create", "change", "remove")


def written_app(keep: Any = None, **rates: Any) -> App:
    """Stays that a stand-in takes, which answers after 300 ms."""
    app = stays_app()
    stand_in = StandIn(**{"takes": EVERYTHING, "page": 50, **rates})
    sources = tuple(
        replace(each, served="stand-in", stand_in=stand_in) if each.id == "stays" else each
        for each in app.sources
    )
    screens = tuple(
        replace(each, keep=replace(each.keep, draft=keep))
        if keep is not None and isinstance(each, FormScreen)
        else each
        for each in app.screens
    )
    return replace(app, sources=sources, screens=screens)


def written_run(app: App | None = None, window: Window = POCKET, count: int = 9) -> Run:
    """That app, with what it has called for come."""
    run = Run.__new__(Run)
    run.app = WiredApp(written_app() if app is None else app, stays_records(count))
    run.session, run.notes = start(run.app, window)
    return run(do.Wait(ms=400))
