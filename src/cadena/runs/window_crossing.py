"""What becomes of the chain's projection in another window: from a real run, in words."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from cadena.engine.events import Event
from cadena.engine.layout.column import column_of
from cadena.engine.notes import Notes
from cadena.engine.rules.display import Display, display_of, focus_of
from cadena.engine.rules.lists import chosen_row, offset_of, view_of
from cadena.engine.session import Entry, Session, View
from cadena.engine.step import step
from cadena.engine.wired import WiredApp
from cadena.model.values import shown


class Going(NamedTuple):
    """A session before and after another window, and in words what changed."""

    before: Session
    after: Session
    notes: Notes
    lines: tuple[str, ...]
    lost: tuple[str, ...]


def going(app: WiredApp, session: Session, event: Event) -> Going:
    """Run an event that changes the window on a session, and say what it did."""
    after, notes, _ = step(app, session, event)
    lines = (*_places(app, session, after), *_rows(app, session, after), *_focus(app, after))
    return Going(session, after, notes, lines, tuple(lost_between(app, session, after)))


def _places(app: WiredApp, before: Session, after: Session) -> Iterator[str]:
    """Where each screen was shown, and where it is now."""
    was, now = display_of(app, before), display_of(app, after)
    count = max(len(before.entries), len(after.entries))
    for index in range(count):
        if index >= len(after.entries):
            yield f"{_title(app, before, index)} goes with its pane: a rule had opened it"
            continue
        one = "not open" if index >= len(before.entries) else _place(was, index)
        other = _place(now, index)
        if one == other == "off display":
            continue
        title = _title(app, after, index)
        if index >= len(before.entries):
            yield f"{title} is opened by rule, {other}"
        else:
            yield f"{title}: {one} → {other}" if one != other else f"{title}: {other}, as before"
    if any(each.entry is None for each in now.panes):
        yield "one pane says that nothing is chosen"


def _place(display: Display, index: int) -> str:
    if display.layer is not None and display.layer.entry == index:
        return f"over it all, as {display.layer_as}"
    if display.slid is not None and display.slid.entry == index:
        return "slid over"
    for number, pane in enumerate(display.panes):
        if pane.entry == index:
            wide = f"{pane.area.width:.0f} dp"
            return f"alone, {wide}" if len(display.panes) == 1 else f"pane {number + 1}, {wide}"
    return "off display"


def _rows(app: WiredApp, before: Session, after: Session) -> Iterator[str]:
    """What is chosen on the lists on display, and whether it can be seen."""
    display = display_of(app, after)
    for pane in display.panes:
        row = None if pane.entry is None else chosen_row(after, pane.entry)
        if pane.entry is None or row is None:
            continue
        entry = after.entries[pane.entry]
        column = column_of(app, after, entry, pane.area.width)
        extent = column.extent_of(row.part, row.key)
        if extent is None:
            yield f"{shown(row.key)} is chosen and not on its list"
            continue
        offset = offset_of(app, after, pane.entry, pane.area, column)
        height = view_of(app, entry, pane.area)[1]
        seen = extent[0] >= offset - 0.5 and extent[1] <= offset + height + 0.5
        yield f"{shown(row.key)} is chosen, {'in view' if seen else 'out of view'}"


def _focus(app: WiredApp, after: Session) -> Iterator[str]:
    at = focus_of(app, after)
    if at is not None:
        yield f"focus is on {_title(app, after, at)}"


def _title(app: WiredApp, session: Session, index: int) -> str:
    entry = session.entries[index]
    return app.title_of(session, entry) or entry.screen


def lost_between(app: WiredApp, before: Session, after: Session) -> Iterator[str]:
    """What of the entries that are still open was there before, and is not any more."""
    for name, chain in before.chains.items():
        other = after.chains.get(name)
        for index, entry in enumerate(chain.entries):
            if other is None or index >= len(other.entries):
                continue
            yield from _lost(entry, other.entries[index])


def _lost(before: Entry, after: Entry) -> Iterator[str]:
    plain = View()
    pieces = {
        "what was typed": "draft",
        "the search": "search",
        "the order": "sort",
        "the page": "page",
        "where it was scrolled": "scroll",
        "what was chosen in a strip": "choice",
        "what was picked": "picked",
    }
    for words, name in pieces.items():
        had, empty = getattr(before.view, name), getattr(plain, name)
        if had != empty and getattr(after.view, name) == empty:
            yield f"{words} in {before.screen}"
