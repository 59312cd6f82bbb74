"""The whole of what an app shows in a window: ``lay_out(app, session, window) -> scene``."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec.structs import replace

from cadena.engine.back import back_label
from cadena.engine.display import (
    RAIL,
    SECTION_BAR,
    Area,
    Display,
    Pane,
    body_area,
    display_of,
)
from cadena.engine.events import Event, GoTo, PressOutside, Relaunch, Restore, Wake
from cadena.engine.session import Session, Window
from cadena.engine.wired import WiredApp
from cadena.model.app import ListScreen
from cadena.scene.scene import Box, Scene
from cadena.scene.screens import screen_boxes


def lay_out(app: WiredApp, session: Session, window: Window) -> Scene:
    """Lay out what a session shows in a window: pure, by arithmetic, and asking no widget.

    Args:
        window: the window to show it in; the session's own, or another beside it.
    """
    if session.window != window:
        session = replace(session, window=window)
    width, height = window.size
    boxes: tuple[Box, ...]
    if session.phase in ("killed", "left"):
        boxes = tuple(_ended(session, width, height))
    else:
        boxes = tuple(_running(app, session, width, height))
    return Scene(width, height, boxes)


def _ended(session: Session, width: float, height: float) -> Iterator[Box]:
    yield Box("off", 0, 0, width, height)
    is_killed = session.phase == "killed"
    said = "The system ended this app" if is_killed else "The app was left"
    yield Box("off words", 16, height / 2 - 64, width - 32, 28, said)
    back: tuple[str, Event] = ("Restore", Restore()) if is_killed else ("Come back", Wake())
    ways: tuple[tuple[str, Event], ...] = (back, ("Relaunch cold", Relaunch()))
    for number, (label, does) in enumerate(ways):
        wide = min(200.0, width - 32)
        at = ((width - wide) / 2, height / 2 - 16 + number * 52)
        yield Box("button", *at, wide, 44, label, does=does)


def _running(app: WiredApp, session: Session, width: float, height: float) -> Iterator[Box]:
    display = display_of(app, session)
    yield Box("ground", 0, 0, width, height)
    back = back_label(app, session) if session.entries else None
    top = display.shown[-1] if display.shown else None
    for number, pane in enumerate(display.panes):
        if pane.entry is None:
            yield from _nothing_chosen(app, session, pane.area)
        else:
            yield from screen_boxes(
                app, session, pane.entry, pane.area, back if pane is top else None
            )
        if number:
            yield Box("pane edge", pane.area.x, pane.area.y, 1, pane.area.height)
    if not session.entries:
        area = body_area(display.arrangement, session.window)
        has_sections = bool(app.sections)
        said = "This section has no screen that can open." if has_sections else "Nothing to run yet"
        yield Box("words", *area, said)
    yield from _section_bar(app, session, display)
    for over, kind in ((display.slid, "slid"), (display.layer, display.layer_as)):
        if over is not None:
            yield from _over(app, session, over, kind, back if over is top else None)
    if session.phase == "asleep":
        yield Box("asleep", 0, 0, width, height, "asleep", does=Wake(), name="Asleep: wake")


def _nothing_chosen(app: WiredApp, session: Session, area: Area) -> Iterator[Box]:
    last = session.entries[display_of(app, session).runs[-1][1]]
    screen = app.screens.get(last.screen)
    words = screen.nothing_chosen_words if isinstance(screen, ListScreen) else ""
    yield Box("screen", *area, name="nothing chosen")
    yield Box("nothing chosen", *area, words)


def _over(
    app: WiredApp, session: Session, pane: Pane, kind: str, back: str | None
) -> Iterator[Box]:
    """A layer over the panes: what lies under it cannot be pressed (2.5)."""
    width, height = session.window.size
    index = pane.entry if pane.entry is not None else -1
    closes = PressOutside() if kind in ("popover", "slid") else None
    name = "Close" if closes else ""
    yield Box(
        "scrim", 0, 0, width, height, state=frozenset({kind}), does=closes, name=name, entry=index
    )
    yield Box("layer", *pane.area, state=frozenset({kind}), entry=index)
    yield from screen_boxes(app, session, index, pane.area, back)


def _section_bar(app: WiredApp, session: Session, display: Display) -> Iterator[Box]:
    sections = [each for each in app.sections.values() if each.in_bar]
    width, height = session.window.size
    bar = display.arrangement.bar
    if bar == "none" or not sections:
        return
    rail = bar == "rail"
    area = Area(0, 0, RAIL, height) if rail else Area(0, height - SECTION_BAR, width, SECTION_BAR)
    area = Area(0, 0, width, SECTION_BAR) if bar == "top" else area
    yield Box("section bar", *area, state=frozenset({bar}), name="Sections")
    for number, section in enumerate(sections):
        if rail:
            box = (0.0, 12.0 + number * 60, RAIL, 56.0)
        else:
            each = width / len(sections)
            box = (number * each, area.y, each, SECTION_BAR)
        state = frozenset({"current"}) if section.id == session.section else frozenset()
        yield Box("section", *box, section.title, state, GoTo(section=section.id))
