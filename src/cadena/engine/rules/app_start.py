"""An app started with nothing kept: every section at its root (rules.md, 2)."""

from __future__ import annotations

from typing import Any

from cadena.engine.notes import Note, Notes, Refused
from cadena.engine.rules.opening import fill_in
from cadena.engine.session import (
    Chain,
    Entry,
    Session,
    Window,
)
from cadena.engine.wired import WiredApp


def started(app: WiredApp, window: Window, changes: dict[str, Any] | None = None) -> Session:
    """A session started with nothing kept: every section at its root."""
    chains = {each.id: Chain(each.id, _root(app, each.root)) for each in app.sections.values()}
    start = app.app.start if app.app.start in app.sections else next(iter(app.sections), "")
    values = {each.id: each.default for each in app.app.values if each.default is not None}
    return Session(window, start, chains, values=values, changes=changes or {})


def _root(app: WiredApp, screen: str) -> tuple[Entry, ...]:
    try:
        return (_root_entry(app, screen),)
    except Refused:
        return ()


def _root_entry(app: WiredApp, screen: str) -> Entry:
    filled = {
        parameter.name: fill_in(parameter, None, ("root", screen), f"screens[{screen}]")
        for parameter in app.screens[screen].parameters
    }
    arguments = {name: value for name, value in filled.items() if value is not None}
    return Entry(screen, arguments, "root")


def unopened(app: WiredApp) -> Notes:
    """A note for each section whose root asks for what nobody gives it: its chain is empty."""
    notes: list[Note] = []
    for section in app.sections.values():
        try:
            _root_entry(app, section.root)
        except Refused as refused:
            why = refused.note
            notes.append(Note.of("not opened", "", why.where, section=section.id, why=why))
    return tuple(notes)
