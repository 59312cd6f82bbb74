"""One open screen in the area it is given, as boxes. It never asks how wide the window is."""

from __future__ import annotations

from collections.abc import Iterator

from cadena.data.template import is_empty
from cadena.engine.column import (
    BODY,
    BUTTON,
    EDGE,
    FACT,
    GAP,
    HEADING,
    SEARCH_BAR,
    TITLE_BAR,
    Segment,
    column_of,
)
from cadena.engine.display import Area
from cadena.engine.events import Back, Press
from cadena.engine.lists import chosen_row, offset_of, view_of
from cadena.engine.session import Entry, Session
from cadena.engine.wired import WiredApp
from cadena.model.app import ActionsBlock, FactsBlock, ListScreen, PictureBlock, listings
from cadena.model.values import shown
from cadena.scene.rows import row_boxes
from cadena.scene.scene import Box

BACK_MOST = 132.0


def screen_boxes(
    app: WiredApp, session: Session, index: int, area: Area, back: str | None = None
) -> Iterator[Box]:
    """The boxes of entry ``index`` of the chain on display.

    Args:
        area: where it lies, in dp.
        back: its back label, if it shows one.
    """
    entry = session.entries[index]
    title = app.title_of(session, entry)
    yield Box("screen", *area, name=title or entry.screen, entry=index)
    yield from _title_bar(area, title, back, index)
    width, height = view_of(app, entry, area)
    yield from _search_bar(app, entry, index, Area(area.x, area.y + TITLE_BAR, width, SEARCH_BAR))
    view = Area(area.x, area.y + area.height - height, width, height)
    column = column_of(app, session, entry, width)
    offset = offset_of(app, session, index, area, column)
    for segment in column.segments:
        top = view.y + segment.top - offset
        if top + segment.height > view.y and top < view.y + view.height:
            yield from block_boxes(app, session, index, segment, view, offset)
    if column.total > height > 0:
        long = max(24.0, height * height / column.total)
        at = (height - long) * offset / (column.total - height)
        yield Box("thumb of scroll", area.x + width - 6, view.y + at, 4, long, entry=index)


def _title_bar(area: Area, title: str, back: str | None, index: int) -> Iterator[Box]:
    yield Box("title bar", area.x, area.y, area.width, TITLE_BAR, entry=index)
    aside = 0.0
    if back is not None:
        aside = min(BACK_MOST, area.width * 0.34)
        name = f"Back to {back}" if back else "Back"
        yield Box(
            "back", area.x + 4, area.y + 4, aside, 44, back, does=Back(), name=name, entry=index
        )
    x, width = area.x + EDGE, area.width - 2 * EDGE
    kind = "title"
    if back is not None:
        x, width, kind = area.x + aside + 8, area.width - 2 * (aside + 8), "title centred"
    yield Box(kind, x, area.y, max(0.0, width), TITLE_BAR, title, entry=index)


def _search_bar(app: WiredApp, entry: Entry, index: int, area: Area) -> Iterator[Box]:
    screen = app.screens.get(entry.screen)
    if isinstance(screen, ListScreen) and screen.rows.search:
        yield _search_field(entry, "", screen.rows.search, index, area, None)


def _search_field(
    entry: Entry, part: str, fields: tuple[str, ...], index: int, area: Area, clip: Area | None
) -> Box:
    text = entry.view.search.get(part, "")
    hint = "search " + ", ".join(fields)
    state = frozenset() if text else frozenset({"hint"})
    box = (area.x + EDGE, area.y + 6, area.width - 2 * EDGE, area.height - 14)
    return Box("search", *box, text or hint, state, name=hint, clip=clip, entry=index, part=part)


def block_boxes(
    app: WiredApp, session: Session, index: int, segment: Segment, view: Area, offset: float
) -> Iterator[Box]:
    """The boxes of one segment of a column scrolled by ``offset`` dp, seen in ``view``."""
    entry = session.entries[index]
    top = view.y + segment.top - offset
    x, width = view.x + EDGE, view.width - 2 * EDGE
    match segment.kind:
        case "rows":
            yield from row_segment_boxes(app, session, index, segment, view, offset)
        case "words" | "footer":
            text = " ".join(segment.lines)
            yield Box(segment.kind, x, top, width, segment.height, text, clip=view, entry=index)
        case "heading" | "body":
            pitch = HEADING[1] if segment.kind == "heading" else BODY[1]
            for number, line in enumerate(segment.lines):
                yield Box(segment.kind, x, top + number * pitch, width, pitch, line, clip=view)
        case "list heading":
            yield Box("list heading", x, top, width, segment.height, segment.lines[0], clip=view)
        case "search":
            listing = listings(app.screens[entry.screen])[segment.part]
            area = Area(view.x, top, view.width, segment.height)
            yield _search_field(entry, segment.part, listing.search, index, area, view)
        case _:
            yield from _block(
                app, session, index, segment, Area(x, top, width, segment.height), view
            )


def row_segment_boxes(
    app: WiredApp, session: Session, index: int, segment: Segment, view: Area, offset: float
) -> Iterator[Box]:
    """The boxes of the rows in view of one list of a screen."""
    entry = session.entries[index]
    chosen = chosen_row(session, index)
    marks: dict[str, object] = {"marked": entry.view.marker.get(segment.part)}
    if chosen is not None and chosen.part == segment.part:
        marks["chosen"] = chosen.key
    elif segment.part in entry.view.last:
        marks["last"] = entry.view.last[segment.part]
    row = listings(app.screens[entry.screen])[segment.part].row
    opens = (entry.screen, segment.part) in app.row_links
    yield from row_boxes(segment, row, view, offset, entry.screen, index, marks, opens)


def _block(
    app: WiredApp, session: Session, index: int, segment: Segment, area: Area, clip: Area
) -> Iterator[Box]:
    entry = session.entries[index]
    record = app.record_of(session, entry) or {}
    match segment.block:
        case PictureBlock() as block:
            file = record.get(block.field)
            picture = "" if is_empty(file) else str(file)
            box = (area.x, area.y, area.width, area.height - GAP)
            name = f"picture of {app.title_of(session, entry)}"
            yield Box(
                "picture",
                *box,
                "" if picture else "no picture",
                picture=picture,
                name=name,
                clip=clip,
            )
        case FactsBlock() as block:
            label = min(140.0, area.width * 0.4)
            for number, name in enumerate(block.fields):
                y = area.y + number * FACT
                value = record.get(name)
                said = shown(None if is_empty(value) else value)
                yield Box("fact label", area.x, y, label, FACT, name.replace("_", " "), clip=clip)
                yield Box("fact", area.x + label, y, area.width - label, FACT, said, clip=clip)
        case ActionsBlock() as block:
            for number, button in enumerate(block.buttons):
                y = area.y + GAP + number * (BUTTON + 8)
                linked = (entry.screen, "button", button.id) in app.links
                state = frozenset() if linked else frozenset({"unlinked"})
                does = Press(screen=entry.screen, entry=index, button=button.id)
                width = min(area.width, 360.0)
                box = (area.x, y, width, BUTTON)
                yield Box(
                    "button",
                    *box,
                    button.label,
                    state,
                    does,
                    clip=clip,
                    entry=index,
                    part=button.id,
                )
