"""The whole of what an app shows in a window: ``lay_out(app, session, window) -> scene``."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from msgspec.structs import replace

from cadena.engine.events import (
    Act,
    CloseMenu,
    Decide,
    Divide,
    Event,
    GiveUp,
    GoBackTo,
    GoTo,
    PressOutside,
    PutAway,
    Relaunch,
    Restore,
    SendAgain,
    SortBy,
    Undo,
    Wake,
)
from cadena.engine.layout.column import bars_of, column_of
from cadena.engine.layout.measure import plain_measure
from cadena.engine.layout.panes import Area, body_area
from cadena.engine.layout.pieces import is_narrow
from cadena.engine.layout.sizes import RAIL, SECTION_BAR, WIDE_RAIL
from cadena.engine.rules.back import back_label
from cadena.engine.rules.display import Display, Pane, can_slide, display_of, picking_at
from cadena.engine.rules.dividing import dividers_of
from cadena.engine.rules.lists import offset_of
from cadena.engine.rules.passing import said_now
from cadena.engine.rules.unsent import asking_write
from cadena.engine.session import Session, Window
from cadena.engine.wired import WiredApp
from cadena.model.app import ListScreen, Section
from cadena.model.listing import RemoveRecord, Sort
from cadena.model.values import Scalar
from cadena.scene.picking import picked_in_words
from cadena.scene.rows import action_label, standing_of
from cadena.scene.scene import Box, Scene
from cadena.scene.screens import USUAL, order_taken, screen_boxes

LEAST: Final = 1.0
DIVIDER: Final = 12.0
"""How broad what is taken hold of between panes is, in dp."""


def lay_out(app: WiredApp, session: Session, window: Window) -> Scene:
    """Lay out what a session shows in a window: pure, by arithmetic, and asking no widget.

    Args:
        window: the window to show it in; the session's own, or another beside it.
    """
    if session.window != window:
        session = replace(session, window=window)
    width, height = window.room
    # Nothing can be laid out in less than its own edges.
    width, height = max(width, LEAST), max(height, LEAST)
    boxes: tuple[Box, ...]
    if session.phase in ("killed", "left"):
        boxes = tuple(_ended(app, session, width, height))
    else:
        boxes = tuple(_running(app, session, width, height))
    if window.rtl:
        boxes = tuple(_mirrored(each, width) for each in boxes)
    return Scene(width, height, boxes, window.text, window.rtl)


def _mirrored(box: Box, width: float) -> Box:
    """A box where it lies for who reads from the right."""
    clip = box.clip
    if clip is not None:
        clip = clip._replace(x=width - clip.x - clip.width)
    return box._replace(x=width - box.x - box.width, clip=clip)


def _ended(app: WiredApp, session: Session, width: float, height: float) -> Iterator[Box]:
    yield Box("off", 0, 0, width, height)
    is_killed = session.phase == "killed"
    said = "The system ended this app" if is_killed else app.words("The app was left.")
    yield Box("off words", 16, height / 2 - 64, width - 32, 28, said)
    back: tuple[str, Event] = (
        ("Restore", Restore()) if is_killed else (app.words("Come back"), Wake())
    )
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
    entries = session.entries
    picking = picking_at(session, display) if app.with_several else None
    for number, pane in enumerate(display.panes):
        is_after = picking is not None and pane.entry is not None and pane.entry > picking
        if picking is not None and (is_after or (pane.entry is None and number)):
            yield from _picked(app, session, picking, pane.area)
        elif pane.entry is None:
            yield from _nothing_chosen(app, session, pane.area)
        else:
            opens = display.arrangement.bar == "button" and number == 0 and bool(app.in_bar)
            slides = number == 0 and not session.slid and can_slide(entries, display.arrangement)
            said = back if pane is top else None
            yield from screen_boxes(app, session, pane.entry, pane.area, said, opens, slides)
        if number:
            is_down = display.arrangement.lie == "down"
            edge = (pane.area.width, 1.0) if is_down else (1.0, pane.area.height)
            yield Box("pane edge", pane.area.x, pane.area.y, *edge)
    yield from _dividers(app, session, display)
    if not session.entries:
        area = body_area(display.arrangement, session.window)
        has_sections = bool(app.sections)
        said = (
            app.words("This section has no screen that can open.")
            if has_sections
            else "Nothing to run yet"
        )
        yield Box("words", *area, said)
    yield from _section_bar(app, session, display)
    for over, kind in ((display.slid, "slid"), (display.layer, display.layer_as)):
        if over is not None:
            yield from _over(app, session, over, kind, back if over is top else None)
    yield from _open_sections(app, session, display)
    yield from _passing(app, session, display)
    yield from _menu(app, session, display)
    yield from _question(session)
    if session.phase == "asleep":
        yield Box("asleep", 0, 0, width, height, "asleep", does=Wake(), name="Asleep: wake")


def _dividers(app: WiredApp, session: Session, display: Display) -> Iterator[Box]:
    """What a person drags to give panes other room, over the edges between them (3.2)."""
    is_down = display.arrangement.lie == "down"
    for divider in dividers_of(session, display):
        (x, y, width, height), entry = divider.area, display.panes[divider.pane].entry
        half = DIVIDER / 2
        area = (x, y - half, width, DIVIDER) if is_down else (x - half, y, DIVIDER, height)
        title = "" if entry is None else app.title_of(session, session.entries[entry])
        room = app.words("Room for {title}", title=title)
        name = f"{room}: {divider.size:.0f} dp, {divider.least:.0f} to {divider.most:.0f}"
        state = frozenset({display.arrangement.lie})
        does = Divide(pane=divider.pane, to=divider.size)
        yield Box("pane divider", *area, "", state, does, name=name, part=str(divider.pane))


def _passing(app: WiredApp, session: Session, display: Display) -> Iterator[Box]:
    """What is said for a moment, or was removed, above the section bar: to undo, or put away."""
    said = said_now(app, session)
    if said is None:
        return
    area = body_area(display.arrangement, session.window)
    wide = min(area.width - 24, 420.0)
    x, y = area.x + (area.width - wide) / 2, area.y + area.height - 60
    yield Box("removed", x, y, wide, 48, said, name=said)
    right = x + wide - 44
    for word, does in _offered(app, session, display):
        needs = max(80, 24 + 9 * len(word))
        right -= needs
        yield Box("undo", right, y + 4, needs, 40, word, does=does)
    box = (x + wide - 44, y + 4, 40, 40)
    yield Box("put away", *box, "×", does=PutAway(), name=app.words("Put away"))


def _offered(app: WiredApp, session: Session, display: Display) -> list[tuple[str, Event]]:
    """What can be done about what is said: a removal is undone, what was not sent is sent again."""
    if session.removal is not None:
        return [(app.words("Undo"), Undo())]
    write = asking_write(session, display) if session.passing is None else None
    if write is None:
        return []
    ways: list[tuple[str, Event]] = [(app.words("Give up"), GiveUp(write=write.number))]
    if write.form is not None:
        ways.append((app.words("Back to it"), GoBackTo(write=write.number)))
    elif write.state == "unsent":
        ways.append((app.words("Send again"), SendAgain(write=write.number)))
    return ways


def _menu(app: WiredApp, session: Session, display: Display) -> Iterator[Box]:
    """The actions of one row, under what opened it."""
    menu = session.menu
    if menu is None or menu.entry >= len(session.entries):
        return
    if menu.key is None:
        yield from _orders(app, session, display, menu.entry, menu.part)
        return
    width, height = session.window.room
    area = display.area_of(menu.entry)
    standing = standing_of(app, session, menu.entry, menu.part)
    every = area is not None and is_narrow(area.width)
    every = every or standing.listing.layout != "rows"
    actions = [each for each in standing.listing.actions if every or not each.on_row]
    listed = app.listed(session, session.entries[menu.entry], menu.part)
    at = None if listed is None else listed.rows.index_of(menu.key)
    if area is None or listed is None or at is None:
        return
    scrim = frozenset({"menu"})
    yield Box("scrim", 0, 0, width, height, state=scrim, does=CloseMenu(), name="Close")
    wide, tall = min(240.0, area.width - 16), 48.0 * len(actions)
    y = _row_bottom(app, session, menu.entry, area, menu.part, menu.key)
    y = min(max(8.0, y), height - tall - 8)
    x = area.x + area.width - wide - 8
    yield Box("menu", x, y, wide, tall, entry=menu.entry)
    record = listed.rows.record_at(at)
    for number, button in enumerate(actions):
        label, state = action_label(standing, button, record, menu.key)
        does = Act(screen=standing.screen, entry=menu.entry, key=menu.key, action=button.id)
        if isinstance(button.does, RemoveRecord):
            state |= {"bad"}
        yield Box("menu item", x, y + number * 48, wide, 48, label, state, does, entry=menu.entry)


def _orders(
    app: WiredApp, session: Session, display: Display, index: int, part: str
) -> Iterator[Box]:
    """The orders of a list, its own first, under the top of its screen."""
    entry, area = session.entries[index], display.area_of(index)
    listing = app.listings.get(entry.screen, {}).get(part)
    if area is None or listing is None:
        return
    width, height = session.window.room
    scrim = frozenset({"menu"})
    yield Box("scrim", 0, 0, width, height, state=scrim, does=CloseMenu(), name="Close")
    orders: list[tuple[str, tuple[Sort, ...]]] = [(USUAL, ())]
    orders += [(each.name, each.sort) for each in listing.orders]
    wide, tall = min(240.0, area.width - 16), 48.0 * len(orders)
    x, y = area.x + area.width - wide - 8, min(area.y + 100.0, max(8.0, height - tall - 8))
    yield Box("menu", x, y, wide, tall, entry=index)
    taken = order_taken(listing, entry.view.sort.get(part))
    for number, (name, sort) in enumerate(orders):
        state = frozenset({"on"}) if name == taken else frozenset[str]()
        does = SortBy(screen=entry.screen, entry=index, list=part, by=sort)
        yield Box(
            "menu item", x, y + number * 48, wide, 48, app.words(name), state, does, entry=index
        )


def _row_bottom(
    app: WiredApp, session: Session, index: int, area: Area, part: str, key: Scalar
) -> float:
    """How far down the window a row ends."""
    entry = session.entries[index]
    column = column_of(app, session, entry, area.width)
    extent = column.extent_of(part, key)
    top = area.y + bars_of(app.screens.get(entry.screen), area.width).top
    offset = offset_of(app, session, index, area, column)
    return top + (0.0 if extent is None else extent[1]) - offset - 12


def _question(session: Session) -> Iterator[Box]:
    """What is asked, over everything, until it is answered."""
    question = session.question
    if question is None:
        return
    width, height = session.window.room
    yield Box("scrim", 0, 0, width, height, state=frozenset({"question"}))
    wide = min(340.0, width - 24)
    lines = plain_measure(question.text, 15, False, wide - 32)
    tall = 22.0 * len(lines) + 100
    x, y = (width - wide) / 2, (height - tall) / 2
    yield Box("question", x, y, wide, tall, name=question.text)
    for number, line in enumerate(lines):
        yield Box("body", x + 16, y + 18 + 22 * number, wide - 32, 22, line)
    each = (wide - 48) / 2
    for number, (label, yes) in enumerate(((question.no, False), (question.yes, True))):
        box = (x + 16 + number * (each + 16), y + tall - 60, each, 44)
        state = frozenset({"plain"}) if not yes else frozenset({"bad"})
        yield Box("button", *box, label, state, Decide(yes=yes), name=f"{label}: {question.text}")


def _picked(app: WiredApp, session: Session, index: int, area: Area) -> Iterator[Box]:
    """A pane after a list on which rows are picked says how many (14)."""
    entry = session.entries[index]
    words = picked_in_words(app, session, entry, next(iter(entry.view.picked)))
    yield Box("screen", *area, name=words)
    yield Box("nothing chosen", *area, words)


def _nothing_chosen(app: WiredApp, session: Session, area: Area) -> Iterator[Box]:
    last = session.entries[display_of(app, session).runs[-1][1]]
    screen = app.screens.get(last.screen)
    said = screen.nothing_chosen_words if isinstance(screen, ListScreen) else ""
    words = app.words(said)
    yield Box("screen", *area, name="nothing chosen")
    yield Box("nothing chosen", *area, words)


def _over(
    app: WiredApp, session: Session, pane: Pane, kind: str, back: str | None
) -> Iterator[Box]:
    """A layer over the panes: what lies under it cannot be pressed (2.5)."""
    width, height = session.window.room
    index = pane.entry if pane.entry is not None else -1
    closes = PressOutside() if kind in ("popover", "slid") else None
    name = "Close" if closes else ""
    yield Box(
        "scrim", 0, 0, width, height, state=frozenset({kind}), does=closes, name=name, entry=index
    )
    yield Box("layer", *pane.area, state=frozenset({kind}), entry=index)
    yield from screen_boxes(app, session, index, pane.area, back)


def _section_bar(app: WiredApp, session: Session, display: Display) -> Iterator[Box]:
    sections = app.in_bar
    width, height = session.window.room
    bar = display.arrangement.bar
    if bar in ("none", "button") or not sections:
        return
    rails = {"rail": RAIL, "wide rail": WIDE_RAIL}
    rail = rails.get(bar)
    top = height - SECTION_BAR if bar == "bottom" else 0.0
    area = Area(0, 0, rail, height) if rail else Area(0, top, width, SECTION_BAR)
    yield Box("section bar", *area, state=frozenset({bar}), name=app.words("Sections"))
    room = (height - 12) / len(sections)
    for number, section in enumerate(sections):
        if rail:
            tall = min(60.0 if bar == "rail" else 48.0, room)
            box = (0.0, 12.0 + number * tall, rail, tall - 4)
        else:
            each = width / len(sections)
            box = (number * each, area.y, each, SECTION_BAR)
        yield _section(session, section, box, {bar})


def _section(
    session: Session, section: Section, box: tuple[float, float, float, float], state: set[str]
) -> Box:
    if section.id == session.section:
        state = state | {"current"}
    does = GoTo(section=section.id)
    made = Box("section", *box, section.title, frozenset(state), does, part=section.id)
    return made._replace(icon=section.icon) if section.icon else made


def _open_sections(app: WiredApp, session: Session, display: Display) -> Iterator[Box]:
    """The section bar that is behind a button, once it is opened."""
    sections = app.in_bar
    has_button = display.arrangement.bar == "button" and sections and display.panes
    if not has_button or not session.sections_open:
        return
    width, height = session.window.room
    close = PressOutside()
    yield Box("scrim", 0, 0, width, height, state=frozenset({"menu"}), does=close, name="Close")
    tall = min(48.0, (height - 16) / len(sections))
    wide = min(240.0, width - 16)
    yield Box("menu", 8, 8, wide, tall * len(sections), name=app.words("Sections"))
    for number, section in enumerate(sections):
        yield _section(session, section, (8, 8 + number * tall, wide, tall), {"list"})
