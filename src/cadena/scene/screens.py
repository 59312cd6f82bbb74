"""One open screen in the area it is given, as boxes. It never asks how wide the window is."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, Final

from cadena.engine.events import (
    Back,
    Edit,
    Neighbour,
    OpenFact,
    OpenMenu,
    OpenSections,
    Press,
    Retry,
    Search,
    SlideList,
    TurnPage,
)
from cadena.engine.layout.column import Segment, bars_of, column_of, facts_shown
from cadena.engine.layout.panes import Area
from cadena.engine.layout.pieces import edge_of, is_narrow
from cadena.engine.layout.sizes import (
    ADDRESS,
    BODY,
    BOTTOM_BAR,
    BUTTON,
    EDGE,
    FACT,
    FACT_IN_PLACE,
    FACT_LABEL,
    GAP,
    HEADING,
    PAGE_BAR,
    SIZES,
    SLIDE,
    TITLE_BAR,
)
from cadena.engine.rules.actions import is_on
from cadena.engine.rules.lists import offset_of, view_of
from cadena.engine.rules.neighbours import place_of
from cadena.engine.session import Entry, Session
from cadena.engine.wired import WiredApp
from cadena.model.app import DetailScreen, FormScreen, ListScreen, Screen
from cadena.model.blocks import ActionsBlock, AddressBlock, FactsBlock, PictureBlock
from cadena.model.listing import Button, Follow, Listing, Sort
from cadena.model.outside_address import host_of, is_framed, outside_address
from cadena.model.screen_parts import pages
from cadena.model.source import StandsOut
from cadena.model.values import shown
from cadena.records.template import is_empty
from cadena.scene.forms import field_boxes, save_bar, save_boxes, sent_boxes
from cadena.scene.picking import actions_on_picked, picking_bar
from cadena.scene.rows import row_boxes, strip_boxes
from cadena.scene.scene import Box

BACK_MOST = 132.0
BACK_LEAST = 32.0

BEFORE, NEXT = "the one before", "the next"
USUAL: Final = "Usual"
"""What a list's own order is called among those that it offers."""


def screen_boxes(
    app: WiredApp,
    session: Session,
    index: int,
    area: Area,
    back: str | None = None,
    opens_sections: bool = False,
    slides: bool = False,
) -> Iterator[Box]:
    """The boxes of entry ``index`` of the chain on display.

    Args:
        area: where it lies, in dp.
        back: its back label, if it shows one.
        opens_sections: it has the button that the section bar is behind.
        slides: it has the button that its list is slid over it by.
    """
    entry = session.entries[index]
    screen = app.screens.get(entry.screen)
    title = app.title_of(session, entry)
    on = _ground(app, session, entry)
    said = f"{title or entry.screen}, {on.word}" if on is not None else title or entry.screen
    yield Box("screen", *area, name=said, entry=index)
    picking = next(iter(entry.view.picked), None)
    if picking is None:
        # Never the ground alone.
        title = f"{on.sign} {title}" if on is not None else title
        yield from _title_bar(app, session, area, title, back, index, opens_sections, slides)
    else:
        yield from picking_bar(app, session, index, picking, area, opens_sections, slides)
    width, height = view_of(app, entry, area)
    bars = bars_of(screen, area.width, picking is not None)
    under = Area(area.x, area.y + TITLE_BAR, width, bars.top - TITLE_BAR)
    if isinstance(screen, ListScreen) and screen.rows.has_bar:
        yield from _list_bar(app, entry, "", screen.rows, index, under, None)
    elif isinstance(screen, DetailScreen):
        if screen.neighbours:
            bar = under._replace(height=PAGE_BAR, y=under.y + under.height - PAGE_BAR)
            yield from _neighbours(app, session, index, bar)
            under = under._replace(height=under.height - PAGE_BAR)
        if pages(screen):
            yield from _page_bar(screen, entry, index, under)
    view = Area(area.x, area.y + bars.top, width, height)
    if on is not None:
        yield Box("page ground", *view, state=frozenset({on.colour}), entry=index)
    column = column_of(app, session, entry, width)
    offset = offset_of(app, session, index, area, column)
    for segment in column.segments:
        top = view.y + segment.top - offset
        if top + segment.height > view.y and top < view.y + view.height:
            beside = view
            if segment.width:
                beside = view._replace(x=view.x + segment.left, width=segment.width)
            yield from block_boxes(app, session, index, segment, beside, offset)
    if column.total > height > 0:
        long = max(24.0, height * height / column.total)
        at = (height - long) * offset / (column.total - height)
        yield Box("thumb of scroll", area.x + width - 6, view.y + at, 4, long, entry=index)
    if picking is not None:
        yield from actions_on_picked(app, session, index, picking, area)
    elif isinstance(screen, FormScreen) and bars.bottom:
        yield from save_bar(app, session, screen, index, area)
    elif bars.bottom:
        yield from _bottom_bar(app, session, index, area)


def _ground(app: WiredApp, session: Session, entry: Entry) -> StandsOut | None:
    """What the record of a detail stands out by, where the detail takes that ground (7.9)."""
    screen = app.screens.get(entry.screen)
    if not isinstance(screen, DetailScreen) or not screen.takes_ground:
        return None
    record = app.record_of(session, entry)
    return None if record is None else app.say(screen.source).ground(record)


def _neighbours(app: WiredApp, session: Session, index: int, area: Area) -> Iterator[Box]:
    """The row before, the place of this one among all, and the next (16)."""
    place = place_of(app, session, index)
    if place is None:
        return
    screen = session.entries[index].screen
    edge, wide = edge_of(area.width), BUTTON
    y, plain = area.y + (area.height - wide) / 2, frozenset({"plain", "in bar"})
    said = app.words("{at} of {all}", at=place.at + 1, all=place.all)
    yield Box("footer", area.x + edge + wide, area.y, area.width - 2 * (edge + wide), area.height,
              said, entry=index)  # fmt: skip
    yield Box("divider", area.x, area.y + area.height - 1, area.width, 1, entry=index)
    right = area.x + area.width - edge - wide
    for by, x, sign, name in ((-1, area.x + edge, "‹", BEFORE), (1, right, "›", NEXT)):
        if place.key(by) is not None:
            does = Neighbour(screen=screen, entry=index, by=by)  # type: ignore[arg-type]
            yield Box("button", x, y, wide, wide, sign, plain, does, name=app.words(name),
                      entry=index)  # fmt: skip


def _title_bar(
    app: WiredApp,
    session: Session,
    area: Area,
    title: str,
    back: str | None,
    index: int,
    opens_sections: bool,
    slides: bool,
) -> Iterator[Box]:
    yield Box("title bar", area.x, area.y, area.width, TITLE_BAR, entry=index)
    aside = 0.0
    if back is not None:
        aside = BACK_LEAST if is_narrow(area.width) else min(BACK_MOST, area.width * 0.34)
        name = app.words("Back to {title}", title=back) if back else app.words("Back")
        said = "" if is_narrow(area.width) else back
        box = (area.x + 4, area.y + 4, aside, 44.0)
        yield Box("back", *box, said, does=Back(), name=name, entry=index)
    if slides:
        box = (area.x + 4 + aside, area.y + 6, SLIDE, TITLE_BAR - 12)
        yield Box("slide", *box, does=SlideList(), name=app.words("Show the list"), entry=index)
        aside += SLIDE
    right = area.x + area.width - 8
    if opens_sections:
        box = (right - 40, area.y + 6, 40.0, TITLE_BAR - 12)
        yield Box("sections", *box, does=OpenSections(), name=app.words("Sections"), entry=index)
        right -= 46
    in_bar = [] if is_narrow(area.width) else _in_bar(app, session.entries[index])
    for button in reversed(in_bar):
        wide = min(area.width * 0.3, 28 + 7.6 * len(button.label))
        box = (right - wide, area.y + 8, wide, TITLE_BAR - 16)
        yield _button_box(app, session, index, button, box, None, frozenset({"in bar"}))
        right -= wide + 6
    taken = area.x + area.width - 8 - right
    edge = edge_of(area.width)
    x, width = area.x + edge, area.width - 2 * edge - taken
    kind = "title"
    if aside:
        beside, kind = max(aside, taken), "title centred"
        x, width = area.x + beside + 8, area.width - 2 * (beside + 8)
        if len(app.measure(title, SIZES[kind], True, max(1.0, width))) > 1:
            # Out of the middle, where it would be cut beside room that is free.
            x, width = area.x + aside + 8, area.width - aside - taken - 16
    yield Box(kind, x, area.y, max(0.0, width), TITLE_BAR, title, entry=index)


def _in_bar(app: WiredApp, entry: Entry) -> list[Button]:
    """The buttons that stand in the title bar: a list's own, and a detail's that say so."""
    screen = app.screens.get(entry.screen)
    if isinstance(screen, ListScreen):
        return list(screen.buttons)
    return _placed(screen, "bar")


def _placed(screen: Screen | None, place: str) -> list[Button]:
    if not isinstance(screen, DetailScreen):
        return []
    return [
        button
        for block in screen.blocks
        if isinstance(block, ActionsBlock) and block.place == place
        for button in block.buttons
    ]


def _bottom_bar(app: WiredApp, session: Session, index: int, area: Area) -> Iterator[Box]:
    buttons = _placed(app.screens.get(session.entries[index].screen), "bottom")
    top = area.y + area.height - BOTTOM_BAR
    yield Box("bottom bar", area.x, top, area.width, BOTTOM_BAR, entry=index)
    wide = (area.width - 2 * EDGE - GAP * (len(buttons) - 1)) / max(1, len(buttons))
    for number, button in enumerate(buttons):
        x = area.x + EDGE + number * (wide + GAP)
        box = (x, top + (BOTTOM_BAR - BUTTON) / 2, wide, BUTTON)
        yield _button_box(app, session, index, button, box, None)


def _button_box(
    app: WiredApp,
    session: Session,
    index: int,
    button: Button,
    box: tuple[float, float, float, float],
    clip: Area | None,
    state: frozenset[str] = frozenset(),
) -> Box:
    entry = session.entries[index]
    record = app.record_of(session, entry)
    does = Press(screen=entry.screen, entry=index, button=button.id)
    label = button.label
    if isinstance(button.does, Follow):
        if (entry.screen, "button", button.id) not in app.links:
            state |= {"unlinked"}
    elif is_on(app, session, button.does, app.source_of(entry), record, app.key_of(entry)):
        state |= {"on"}
        label = button.when_on or label
    return Box("button", *box, label, state, does, clip=clip, entry=index, part=button.id)


def _page_bar(screen: DetailScreen, entry: Entry, index: int, area: Area) -> Iterator[Box]:
    """The pages of a detail, side by side; the one that shows is marked."""
    marks = pages(screen)
    wide = area.width / len(marks)
    here = entry.view.page or marks[0].id
    for number, page in enumerate(marks):
        state = frozenset({"current"}) if page.id == here else frozenset()
        box = (area.x + number * wide, area.y, wide, area.height)
        does = TurnPage(screen=screen.id, entry=index, to=page.id)
        yield Box("page", *box, page.title, state, does, entry=index, part=page.id)


def _list_bar(
    app: WiredApp,
    entry: Entry,
    part: str,
    listing: Listing,
    index: int,
    area: Area,
    clip: Area | None,
) -> Iterator[Box]:
    """What stands over the rows of a list: its search field, and the order that is taken."""
    edge = edge_of(area.width)
    taken = 0.0
    if listing.orders:
        name = app.words(order_taken(listing, entry.view.sort.get(part)))
        wide = area.width - 2 * edge if not listing.search else min(124.0, area.width * 0.4)
        taken = wide + 8
        box = (area.x + area.width - edge - wide, area.y + 6, wide, area.height - 14)
        opens = OpenMenu(screen=entry.screen, entry=index, list=part)
        at: dict[str, Any] = {"clip": clip, "entry": index, "part": part}
        plain = frozenset({"plain"})
        yield Box(
            "button",
            *box,
            f"{name} ▾",
            plain,
            opens,
            name=app.words("Order: {name}", name=name),
            **at,
        )
    if listing.search:
        area = area._replace(width=area.width - taken)
        yield _search_field(app, entry, part, listing.search, index, area, clip)


def order_taken(listing: Listing, sort: tuple[Sort, ...] | None) -> str:
    """The name of the order in which a list stands."""
    return next((each.name for each in listing.orders if each.sort == sort), USUAL)


def _search_field(
    app: WiredApp,
    entry: Entry,
    part: str,
    fields: tuple[str, ...],
    index: int,
    area: Area,
    clip: Area | None,
) -> Box:
    text = entry.view.search.get(part, "")
    said = app.say(app.listings[entry.screen][part].source)
    hint = app.words("search {fields}", fields=", ".join(said.label(each) for each in fields))
    state = frozenset() if text else frozenset({"hint"})
    edge = edge_of(area.width)
    box = (area.x + edge, area.y + 6, area.width - 2 * edge, area.height - 14)
    does = Search(screen=entry.screen, entry=index, list=part, text=text)
    return Box(
        "search", *box, text or hint, state, does, name=hint, clip=clip, entry=index, part=part
    )


def block_boxes(
    app: WiredApp, session: Session, index: int, segment: Segment, view: Area, offset: float
) -> Iterator[Box]:
    """The boxes of one segment of a column scrolled by ``offset`` dp, seen in ``view``."""
    entry = session.entries[index]
    top = view.y + segment.top - offset
    edge = edge_of(view.width)
    x, width = view.x + edge, view.width - 2 * edge
    match segment.kind:
        case "rows":
            yield from row_boxes(app, session, index, segment, view, offset)
        case "strip":
            yield from strip_boxes(app, session, index, segment, view, top)
        case "words" | "footer" | "loading":
            text = " ".join(segment.lines)
            yield Box(segment.kind, x, top, width, segment.height, text, clip=view, entry=index)
        case "failed":
            text = " ".join(segment.lines)
            yield Box("words", x, top, width, 48, text, clip=view, entry=index)
            wide = min(160.0, width)
            again = Retry(screen=entry.screen, entry=index)
            box = (x + (width - wide) / 2, top + 50, wide, BUTTON)
            plain = frozenset({"plain"})
            yield Box("button", *box, app.words("Try again"), plain, again, clip=view, entry=index)
        case "heading" | "body":
            pitch = HEADING[1] if segment.kind == "heading" else BODY[1]
            for number, line in enumerate(segment.lines):
                box = (x, top + number * pitch, width, pitch)
                at = {"entry": index, "part": segment.part}
                yield Box(segment.kind, *box, line, clip=view, **at)  # type: ignore[arg-type]
        case "list heading":
            at = {"entry": index, "part": segment.part}
            box = (x, top, width, segment.height)
            yield Box("list heading", *box, segment.lines[0], clip=view, **at)  # type: ignore[arg-type]
        case "search":
            listing = app.listings[entry.screen][segment.part]
            area = Area(view.x, top, view.width, segment.height)
            yield from _list_bar(app, entry, segment.part, listing, index, area, view)
        case "save":
            area = Area(x, top, width, segment.height)
            yield from save_boxes(app, session, app.screens[entry.screen], index, area, view)
        case "sent":
            area = Area(x, top, width, segment.height)
            yield from sent_boxes(app, session, index, segment, area, view)
        case "form field":
            screen = app.screens[entry.screen]
            area = Area(x, top, width, segment.height)
            if isinstance(screen, FormScreen):
                yield from field_boxes(app, session, index, screen, segment, area, view)
        case _:
            yield from _block(
                app, session, index, segment, Area(x, top, width, segment.height), view
            )


def _block(
    app: WiredApp, session: Session, index: int, segment: Segment, area: Area, clip: Area
) -> Iterator[Box]:
    entry = session.entries[index]
    record = app.record_of(session, entry) or {}
    match segment.block:
        case PictureBlock() as block:
            file = record.get(block.field)
            picture = "" if is_empty(file) else str(file)
            yield Box(
                "picture",
                *(area.x, area.y, area.width, area.height - GAP),
                "" if picture else app.words("no picture"),
                frozenset({block.fit}),
                picture=picture,
                name=app.words("picture of {title}", title=app.title_of(session, entry)),
                clip=clip,
                entry=index,
                part=block.id,
            )
        case FactsBlock() as block:
            yield from _facts(app, session, index, block, record, area, clip)
        case AddressBlock() as block:
            text = shown(record.get(block.field))
            box = (area.x, area.y, area.width, ADDRESS)
            yield Box("address", *box, text, clip=clip, entry=index, part=block.id)
            if block.frame:
                says = text
                if not is_framed(text, app.app.platform.frames_from):
                    says = app.words("Not shown here: {address}", address=host_of(text) or text)
                box = (area.x, area.y + ADDRESS + GAP, area.width, block.frame)
                yield Box("frame", *box, says, clip=clip, entry=index, part=block.id)
        case ActionsBlock() as block:
            for number, button in enumerate(block.buttons):
                y = area.y + GAP + number * (BUTTON + 8)
                box = (area.x, y, min(area.width, 360.0), BUTTON)
                yield _button_box(app, session, index, button, box, clip)


def _fact(app: WiredApp, entry: Entry, index: int, name: str, box: Box) -> Box:
    """A fact; one that is linked opens what it refers to."""
    leaves = name in app.leaving.get(entry.screen, ()) and outside_address(box.text) is not None
    if not leaves and app.links.get((entry.screen, "fact", name)) is None:
        return box
    does = OpenFact(screen=entry.screen, entry=index, fact=name)
    called = app.say(app.source_of(entry)).label(name)
    opens = box.state | {"opens"}
    return box._replace(state=opens, does=does, part=name, name=f"{called}, {box.text}")


def _facts(
    app: WiredApp,
    session: Session,
    index: int,
    block: FactsBlock,
    record: dict[str, Any],
    area: Area,
    clip: Area,
) -> Iterator[Box]:
    """Labels and values; a value that can be changed in place is a place to type."""
    entry = session.entries[index]
    sayings = app.say(app.source_of(entry))
    key = app.key_of(entry)
    narrow = is_narrow(clip.width)
    at: dict[str, Any] = {"entry": index, "part": block.id}
    label = 0.0 if narrow else min(140.0, area.width * 0.45)
    y = area.y
    for name in facts_shown(app, entry, block, record):
        is_in_place = name in block.in_place
        tall = FACT_IN_PLACE if is_in_place else FACT
        rule = sayings.standing_out(name, record)
        said = sayings.value(name, record)
        called = sayings.label(name)
        state = frozenset() if rule is None else frozenset({rule.colour})
        word = "" if rule is None else f"{rule.sign} {rule.word}".strip()
        if narrow:
            yield Box("fact label", area.x, y, area.width, FACT_LABEL, called, clip=clip, **at)
            y += FACT_LABEL
        else:
            yield Box("fact label", area.x, y, label, tall, called, clip=clip, **at)
        box = (area.x + label, y, area.width - label, tall)
        if not is_in_place:
            text = f"{said}  {word}" if word else said
            yield _fact(app, entry, index, name, Box("fact", *box, text, state, clip=clip, **at))
        elif app.type_of(app.source_of(entry), name) == "yes/no":
            does = Edit(
                source=app.source_of(entry), key=key, fields={name: record.get(name) is not True}
            )
            on = frozenset({"on"}) if record.get(name) is True else frozenset()
            yield Box("switch", *box, said, on, does, name=called, clip=clip, **at)
        else:
            does = Edit(source=app.source_of(entry), key=key, fields={name: None})
            refers = name in app.chosen_among.get(app.source_of(entry), {})
            raw = said if refers else shown(record.get(name))
            raw = "" if is_empty(record.get(name)) else raw
            inner = (box[0], y + 3, box[2], tall - 8)
            yield Box(
                "in place",
                *inner,
                raw,
                state,
                does,
                name=f"{called}{', ' + word if word else ''}",
                clip=clip,
                entry=index,
                part=name,
                key=block.id,
            )
        y += tall
