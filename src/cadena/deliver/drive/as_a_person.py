"""What a person does to let an event happen: to press a row, it is scrolled to first.

The engine takes an event whatever is in view. Here a walk is made one that a person can walk:
before each event stand those that bring what is pressed into view, or open the menu it is in;
what no person could do in that state is left out. Both the engine and the browser then take the
very same events.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from msgspec.structs import replace

from cadena.engine import events as do
from cadena.engine.form_values import value_in
from cadena.engine.layout.column import Column, Segment, column_of
from cadena.engine.layout.forms import has_input
from cadena.engine.layout.panes import Area
from cadena.engine.layout.pieces import is_narrow
from cadena.engine.layout.sizes import BUTTON, EDGE, GAP, GROUP, HEADS, INPUT, LABEL, TILE_GAP
from cadena.engine.layout.table_columns import orders_by_heads
from cadena.engine.notes import Refused
from cadena.engine.rules.display import arrangement_for, display_of
from cadena.engine.rules.dividing import dividers_of
from cadena.engine.rules.lists import across_of, offset_of, standing, view_of
from cadena.engine.rules.targets import target_of
from cadena.engine.session import Session
from cadena.engine.step import step
from cadena.engine.wired import WiredApp
from cadena.model.app import DetailScreen, FormScreen
from cadena.model.blocks import ActionsBlock, Block, FactsBlock, ListBlock
from cadena.model.listing import Listing
from cadena.model.screen_parts import page_of, pages
from cadena.model.values import Scalar
from cadena.records.template import is_empty

PRESSED: Final = (do.On, do.Undo, do.SlideList, do.Divide, do.OpenSections, do.GoTo)
"""What lies under a menu that is open."""
SPARE: Final = 4.0
"""Room in dp that is left above and below what is brought into view."""


def as_a_person(app: WiredApp, session: Session, event: do.Event) -> Iterator[do.Event]:
    """The events that let this one happen, itself the last; none where no person could."""
    if session.phase == "running" and session.question is None:
        for closing in _closing(session, event):
            session = step(app, session, closing).session
            yield closing
    if isinstance(event, do.On) and session.phase == "running" and session.question is None:
        try:
            index, area = target_of(app, session, display_of(app, session), event)
        except Refused:
            return
        event = replace(event, screen=session.entries[index].screen, entry=index)
        if isinstance(event, do.Type) and _types_nothing(app, session, index, event):
            return
        for prepare in (_to_page, _before):
            for before in tuple(prepare(app, session, index, area, event)):
                session, _, refused = step(app, session, before)
                if refused:
                    return
                yield before
        if isinstance(event, do.Search):
            yield from _letters(session.entries[index].view.search.get(event.list, ""), event)
            return
        if isinstance(event, do.Scroll):
            yield from _whole_pixels(app, session, index, area, event)
            return
    if isinstance(event, do.OpenSections) and session.sections_open:
        return
    if isinstance(event, do.Relaunch) and session.phase == "running" and session.writes:
        # Who closes an app lets it send what waits: it is not seen any more before it ends.
        yield do.Sleep()
    if isinstance(event, do.Divide):
        dragged = _dragged(app, session, event)
        if dragged is None:
            return
        event = dragged
    has_button = arrangement_for(app, session.window).bar == "button"
    if isinstance(event, do.GoTo) and has_button and not session.sections_open:
        opening = do.OpenSections()
        session, _, refused = step(app, session, opening)
        if not refused:
            yield opening
    if not step(app, session, event).refused:
        yield event


def _dragged(app: WiredApp, session: Session, event: do.Divide) -> do.Divide | None:
    """A divider moved by whole pixels, as a pointer drags it, and no further than it goes; none
    where that moves nothing."""
    held = dividers_of(session, display_of(app, session))
    divider = next((each for each in held if each.pane == event.pane), None)
    if divider is None:
        return event
    by = round(min(max(event.to, divider.least), divider.most) - divider.size)
    return replace(event, to=divider.size + by) if by else None


def _types_nothing(app: WiredApp, session: Session, index: int, event: do.Type) -> bool:
    """Whether a field is emptied that is empty: that is no letter, and no app hears of it."""
    entry = session.entries[index]
    screen = app.screens[entry.screen]
    fields = screen.fields if isinstance(screen, FormScreen) else ()
    field = next((each for each in fields if each.field == event.field), None)
    if field is None or not isinstance(screen, FormScreen) or not is_empty(event.to):
        return False
    is_typed = has_input(app, session, screen, field)
    return is_typed and is_empty(value_in(app, session, entry, field.field))


def _letters(before: str, event: do.Search) -> Iterator[do.Event]:
    """A word as it is typed in place of another, letter by letter; nothing where it is the same."""
    if before == event.text:
        return
    begins = len(before) if before and event.text.startswith(before) else 0
    for end in range(begins + 1, len(event.text)):
        yield replace(event, text=event.text[:end])
    yield event


def _closing(session: Session, event: do.Event) -> Iterator[do.Event]:
    """What closes a menu, or an open section bar, that covers what is pressed."""
    menu = session.menu
    if menu is not None and isinstance(event, PRESSED):
        is_in_it = isinstance(event, do.Act) and event.key == menu.key
        if not is_in_it and not isinstance(event, do.SortBy):
            yield do.CloseMenu()
    if session.sections_open and isinstance(event, PRESSED) and not isinstance(event, do.GoTo):
        yield do.PressOutside()


def _to_page(
    app: WiredApp, session: Session, index: int, area: Area, event: do.On
) -> Iterator[do.Event]:
    """To the page of a detail that has what is pressed."""
    entry = session.entries[index]
    screen = app.screens[entry.screen]
    if not isinstance(screen, DetailScreen) or isinstance(event, do.TurnPage):
        return
    marks = [each.id for each in pages(screen)]
    here = entry.view.page if entry.view.page in marks else next(iter(marks), "")
    block = next((each.id for each in screen.blocks if _is_of(app, entry.screen, each, event)), "")
    there = page_of(screen, block) if block else ""
    if there and there != here:
        yield do.TurnPage(screen=entry.screen, entry=index, to=there)


def _is_of(app: WiredApp, screen: str, block: Block, event: do.On) -> bool:
    match event:
        case do.Press():
            return isinstance(block, ActionsBlock) and event.button in {e.id for e in block.buttons}
        case do.OpenFact():
            return isinstance(block, FactsBlock) and event.fact in block.opens
        case do.Act():
            return block.id == app.actions[screen][event.action][0]
    return isinstance(block, ListBlock) and block.id == event.list


def _before(
    app: WiredApp, session: Session, index: int, area: Area, event: do.On
) -> Iterator[do.Event]:
    """What brings into view what an event presses, and opens the menu that it is in."""
    match event:
        case do.Choose() | do.OpenMenu() | do.Pick() | do.PickTo() if event.key is not None:
            yield from _to_row(app, session, index, area, event.list, event.key)
        case do.Enter():
            key = standing(app, session, index, event.list)
            if key is not None:
                yield from _to_row(app, session, index, area, event.list, key)
        case do.Act():
            part, button = app.actions[session.entries[index].screen][event.action]
            listing = app.listings[session.entries[index].screen][part]
            yield from _to_row(app, session, index, area, part, event.key)
            is_on_row = button.on_row and listing.layout == "rows" and not is_narrow(area.width)
            if not is_on_row and session.menu is None:
                screen = session.entries[index].screen
                yield do.OpenMenu(screen=screen, entry=index, list=part, key=event.key)
        case do.SortBy():
            listing = app.listings[session.entries[index].screen][event.list]
            if is_of_head(app, session, index, area, event):
                yield from _to_heads(app, session, index, area, event.list)
                return
            yield from _to_bar(app, session, index, area, event.list)
            if offers(listing, event) and session.menu is None:
                screen = session.entries[index].screen
                yield do.OpenMenu(screen=screen, entry=index, list=event.list)
        case do.Search() | do.OpenMenu():
            yield from _to_bar(app, session, index, area, event.list)
        case do.ShowGroup():
            yield from _to_group(app, session, index, area, event)
        case (
            do.Press()
            | do.OpenFact()
            | do.OpenField()
            | do.Type()
            | do.Save()
            | do.Cancel()
            | do.Retry()
            | do.Settle()
        ):
            yield from _to_segment(app, session, index, area, event)


def offers(listing: Listing, event: do.SortBy) -> bool:
    """Whether the menu of a list offers an order."""
    return bool(listing.orders) and (
        not event.by or any(each.sort == event.by for each in listing.orders)
    )


def is_of_head(app: WiredApp, session: Session, index: int, area: Area, event: do.SortBy) -> bool:
    """Whether a press on one of the heads of a list that are shown takes an order."""
    entry = session.entries[index]
    listing = app.listings[entry.screen][event.list]
    if listing.layout != "columns" or _column(app, session, index, area).rows(event.list) is None:
        return False
    sort = entry.view.sort.get(event.list) or listing.sort
    return event.by in orders_by_heads(listing, view_of(app, entry, area)[0], sort)


def _to_heads(
    app: WiredApp, session: Session, index: int, area: Area, part: str
) -> Iterator[do.Event]:
    """To where the heads of a list can be pressed: as long as its rows are in view, they are."""
    column = _column(app, session, index, area)
    rows = column.rows(part)
    if rows is not None:
        offset = offset_of(app, session, index, area, column)
        height = view_of(app, session.entries[index], area)[1]
        if not rows.top - offset <= height - HEADS or rows.top + rows.height - offset < HEADS:
            extent = (rows.top, rows.top + HEADS)
            yield from _into_view(app, session, index, area, column, extent)


def _column(app: WiredApp, session: Session, index: int, area: Area) -> Column:
    entry = session.entries[index]
    return column_of(app, session, entry, view_of(app, entry, area)[0])


def _to_row(
    app: WiredApp, session: Session, index: int, area: Area, part: str, key: Scalar
) -> Iterator[do.Event]:
    """Open the group of a row, and scroll to it, down and across, where that is needed."""
    entry = session.entries[index]
    screen = entry.screen
    listed = app.listed(session, entry, part)
    at = None if listed is None else listed.rows.index_of(key)
    column = _column(app, session, index, area)
    rows = column.rows(part)
    if listed is None or at is None:
        return
    if rows is not None and rows.stack is not None and rows.stack.is_hidden(at):
        begin = rows.stack.begin(at)
        title = next(title for start, title in listed.rows.groups if start == begin)
        show = do.ShowGroup(screen=screen, entry=index, list=part, title=title, open=True)
        yield from _to_group(app, session, index, area, show)
        for event in [*_to_group(app, session, index, area, show), show]:
            session = step(app, session, event).session
        yield show
        column = _column(app, session, index, area)
    extent = column.extent_of(part, key)
    if extent is not None:
        lead = column.lead(part, key)
        top = extent[0] + lead
        yield from _into_view(app, session, index, area, column, (top, extent[1]))
    if listed.listing.layout == "strip":
        each = listed.listing.tile + TILE_GAP
        offset = across_of(app, session, index, area.width, part)
        left, right = EDGE + at * each, EDGE + at * each + listed.listing.tile
        if left < offset or right > offset + area.width:
            to = max(0.0, left - SPARE) if left < offset else right - area.width + SPARE
            yield do.Scroll(screen=screen, entry=index, list=part, to=float(round(to)))


def _into_view(
    app: WiredApp,
    session: Session,
    index: int,
    area: Area,
    column: Column,
    extent: tuple[float, float],
) -> Iterator[do.Event]:
    """Scroll by the least that shows a stretch of a column, its middle at least."""
    entry = session.entries[index]
    height = view_of(app, entry, area)[1]
    offset = offset_of(app, session, index, area, column)
    top, bottom = extent
    if bottom - top + 2 * SPARE > height:
        middle = (top + bottom) / 2
        top, bottom = middle - 1, middle + 1
    if top >= offset and bottom <= offset + height:
        return
    to = top - SPARE if top < offset else bottom - height + SPARE
    to = max(0.0, min(to, column.total - height))
    yield do.Scroll(screen=entry.screen, entry=index, to=float(round(to)))


def _to_group(
    app: WiredApp, session: Session, index: int, area: Area, event: do.ShowGroup
) -> Iterator[do.Event]:
    column = _column(app, session, index, area)
    rows = column.rows(event.list)
    if rows is None or rows.listed is None or rows.stack is None:
        return
    begin = next((at for at, title in rows.listed.rows.groups if title == event.title), None)
    if begin is not None:
        top = rows.top + rows.stack.top(begin)
        yield from _into_view(app, session, index, area, column, (top, top + GROUP))


def _to_bar(
    app: WiredApp, session: Session, index: int, area: Area, part: str
) -> Iterator[do.Event]:
    """To the search field of a list that is one of several on its screen."""
    column = _column(app, session, index, area)
    bar = next((e for e in column.segments if e.kind == "search" and e.part == part), None)
    if bar is not None:
        extent = (bar.top, bar.top + bar.height)
        yield from _into_view(app, session, index, area, column, extent)


def _to_segment(
    app: WiredApp, session: Session, index: int, area: Area, event: do.On
) -> Iterator[do.Event]:
    """To the stretch of a screen that has a button, a fact or a field."""
    column = _column(app, session, index, area)
    found = next((each for each in column.segments if _has(each, event)), None)
    if found is None:
        return
    top, bottom = found.top, found.top + found.height
    if isinstance(event, do.Type | do.OpenField):
        # To the place to type itself: the browser would bring it into view at the first key.
        top, bottom = found.top + LABEL, found.top + LABEL + INPUT
        yield from _into_view(
            app, session, index, area, column, (top, min(bottom, found.top + found.height))
        )
        return
    if isinstance(event, do.Press):
        # One under another: to the very one.
        names = [each.id for each in getattr(found.block, "buttons", ())]
        top = found.top + GAP + (BUTTON + 8) * names.index(event.button)
        bottom = top + BUTTON
    elif isinstance(event, do.Save | do.Cancel):
        top = found.top + (BUTTON + 8 if isinstance(event, do.Cancel) else 0)
        bottom = top + BUTTON
    yield from _into_view(app, session, index, area, column, (top, bottom))


def _has(segment: Segment, event: do.On) -> bool:
    match event:
        case do.Press():
            names = getattr(segment.block, "buttons", ())
            return segment.kind == "actions" and any(e.id == event.button for e in names)
        case do.OpenFact():
            return segment.kind == "facts" and event.fact in getattr(segment.block, "fields", ())
        case do.Type() | do.OpenField():
            return segment.kind == "form field" and segment.part == event.field
        case do.Save() | do.Cancel():
            return segment.kind == "save"
        case do.Settle() if not event.field:
            return segment.kind == "sent"
        case do.Settle():
            return segment.kind == "form field" and segment.part == event.field
        case do.Retry():
            return segment.kind == "failed"
    return False


def _whole_pixels(
    app: WiredApp, session: Session, index: int, area: Area, event: do.Scroll
) -> Iterator[do.Event]:
    """A scroll to a whole number of dp, as a wheel turns; none where it moves nothing."""
    after, _, refused = step(app, session, event)
    if refused or index >= len(after.entries):
        return
    screen = session.entries[index].screen
    if event.list and app.listings[screen][event.list].layout == "strip":
        was = across_of(app, session, index, area.width, event.list)
        to = across_of(app, after, index, area.width, event.list)
    else:
        was, to = offset_of(app, session, index, area), offset_of(app, after, index, area)
        event = replace(event, list="")
    if round(to) != round(was):
        yield do.Scroll(screen=screen, entry=index, list=event.list, to=float(round(to)))
