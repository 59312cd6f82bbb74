"""Lists: scroll, search, order, and moving along them by key (rules.md, 7)."""

from __future__ import annotations

from msgspec.structs import replace

from cadena.engine.events import Move, Scroll, Search, SortBy, TurnPage
from cadena.engine.layout.column import Column, bars_of, column_of
from cadena.engine.layout.panes import Area
from cadena.engine.layout.rows import RowStack
from cadena.engine.layout.sizes import EDGE, TILE_GAP
from cadena.engine.notes import Note, Notes, Refused
from cadena.engine.rules.asking import asking_of, row_held
from cadena.engine.rules.display import display_of
from cadena.engine.rules.targets import target_of
from cadena.engine.session import Anchor, Entry, RowRef, Session, opened_from
from cadena.engine.wired import Listed, WiredApp
from cadena.model.values import Scalar


def view_of(app: WiredApp, entry: Entry, area: Area) -> tuple[float, float]:
    """The size in dp of the part of a screen that scrolls, in the area it is given."""
    at = entry.screen, area, bool(entry.view.picked)
    found = app.viewed.get(at)
    if found is None:
        bars = bars_of(app.screens.get(entry.screen), area.width, at[2])
        found = app.viewed[at] = area.width, max(0.0, area.height - bars.top - bars.bottom)
    return found


def chosen_row(session: Session, index: int) -> RowRef | None:
    """The chosen row of an entry: the row that opened the next one. It is never stored."""
    return opened_from(session.entries, index)


def row_to_show(app: WiredApp, session: Session, index: int) -> RowRef | None:
    """The row that a list keeps in view: the chosen one, else the one it led on from."""
    entry = session.entries[index]
    listings = app.listings.get(entry.screen, {})
    row = row_chosen(app, session, index)
    if row is None:
        part = next((part for part in entry.view.last if part in listings), None)
        row = None if part is None else RowRef(part, entry.view.last[part])
    if row is None or row.part not in listings or not listings[row.part].keep_in_view:
        return None
    return row


def row_chosen(app: WiredApp, session: Session, index: int) -> RowRef | None:
    """The row that a list shows as chosen: the one that opened the next entry; on a list that was
    opened to choose from, the one that who asked now holds (15)."""
    asking = asking_of(app, session.entries, index) if app.brings else None
    if asking is None:
        return chosen_row(session, index)
    part = asking.brings.list
    key = row_held(app, session, index, part)
    return None if key is None else RowRef(part, key)


def offset_of(
    app: WiredApp, session: Session, index: int, area: Area, column: Column | None = None
) -> float:
    """How far an entry on display is scrolled, in dp (7.2, 7.3).

    The anchor says; in a view of another size than the one it was scrolled in, the row
    to keep in view is then shown by the least that shows it. Nothing is stored for that,
    so a window made smaller and as large again is scrolled as it was.
    """
    entry = session.entries[index]
    width, height = view_of(app, entry, area)
    column = column or column_of(app, session, entry, width)
    anchor = entry.view.scroll
    offset = 0.0 if anchor is None else column.offset_of(anchor)
    offset = _within(offset, column, height)
    if anchor is None or anchor.seen != (width, height):
        row = row_to_show(app, session, index)
        extent = None if row is None else _to_show(column, row.part, row.key, height)
        if extent is not None:
            offset = _within(_least_showing(offset, extent, height), column, height)
    return offset


def _within(offset: float, column: Column, height: float) -> float:
    return max(0.0, min(offset, column.total - height))


def _to_show(column: Column, part: str, key: Scalar, height: float) -> tuple[float, float] | None:
    """What is to be in view for a row: with the title of its group, where both have room."""
    extent = column.extent_of(part, key)
    if extent is None or extent[1] - extent[0] <= height:
        return extent
    return extent[0] + column.lead(part, key), extent[1]


def _least_showing(offset: float, extent: tuple[float, float], height: float) -> float:
    top, bottom = extent
    if bottom > offset + height:
        offset = bottom - height
    return min(offset, top)


def scrolled(app: WiredApp, session: Session, index: int, area: Area, offset: float) -> Session:
    """The session with an entry scrolled to an offset in dp, as far as its content allows."""
    entry = session.entries[index]
    width, height = view_of(app, entry, area)
    column = column_of(app, session, entry, width)
    anchor = column.first_in_view(_within(offset, column, height))
    if anchor is not None:
        anchor = replace(anchor, seen=(width, height))
    return session.with_view(index, scroll=anchor)


def shown_row(
    app: WiredApp, session: Session, index: int, area: Area, part: str, key: Scalar
) -> Session:
    """The session with an entry scrolled by the least that shows a row."""
    entry = session.entries[index]
    width, height = view_of(app, entry, area)
    column = column_of(app, session, entry, width)
    extent = _to_show(column, part, key, height)
    offset = offset_of(app, session, index, area, column)
    if extent is None or _least_showing(offset, extent, height) == offset:
        return session
    return scrolled(app, session, index, area, _least_showing(offset, extent, height))


def scroll(app: WiredApp, session: Session, event: Scroll) -> tuple[Session, Notes]:
    """Take a scroll event."""
    index, area = target_of(app, session, display_of(app, session), event)
    entry = session.entries[index]
    if event.list and app.listings[entry.screen][event.list].layout == "strip":
        return _scroll_strip(app, session, index, area, event)
    if event.row is not None:
        column = column_of(app, session, entry, area.width)
        extent = column.extent_of(event.list, event.row)
        if extent is None:
            raise Refused("row not shown", f"screens[{entry.screen}]", key=event.row)
        offset = extent[0]
    elif event.to is not None:
        offset = event.to
    elif event.by is not None:
        offset = offset_of(app, session, index, area) + event.by
    else:
        raise Refused("scroll to nothing")
    return scrolled(app, session, index, area, offset), ()


def _scroll_strip(
    app: WiredApp, session: Session, index: int, area: Area, event: Scroll
) -> tuple[Session, Notes]:
    entry = session.entries[index]
    listed = app.listed(session, entry, event.list)
    if listed is None or not len(listed.rows):
        raise Refused("strip is empty", _place(entry, event.list))
    each = listed.listing.tile + TILE_GAP
    if event.row is not None:
        at = listed.rows.index_of(event.row)
        if at is None:
            raise Refused("row not on strip", _place(entry, event.list), key=event.row)
        offset = at * each
    else:
        now = across_of(app, session, index, area.width, event.list)
        offset = event.to if event.to is not None else now + (event.by or 0.0)
    offset = max(0.0, min(offset, strip_width(listed) - area.width))
    at = min(int(offset // each), len(listed.rows) - 1)
    anchor = Anchor(event.list, listed.rows.key_at(at), offset - at * each, at, (area.width, 0.0))
    return session.with_view(index, across={**entry.view.across, event.list: anchor}), ()


def strip_width(listed: Listed) -> float:
    """How wide the tiles of a strip are together, in dp."""
    return len(listed.rows) * (listed.listing.tile + TILE_GAP) + 2 * EDGE - TILE_GAP


def across_of(app: WiredApp, session: Session, index: int, width: float, part: str) -> float:
    """How far a strip is scrolled, in dp: by its anchor, and so that its chosen tile shows."""
    entry = session.entries[index]
    listed = app.listed(session, entry, part)
    if listed is None or not len(listed.rows):
        return 0.0
    each = listed.listing.tile + TILE_GAP
    most = max(0.0, strip_width(listed) - width)
    anchor = entry.view.across.get(part)
    offset = 0.0
    if anchor is not None:
        at = listed.rows.index_of(anchor.key)
        at = min(anchor.index, len(listed.rows) - 1) if at is None else at
        offset = at * each + anchor.above
    if anchor is None or anchor.seen != (width, 0.0):
        row = row_chosen(app, session, index)
        key = entry.view.choice.get(part, row.key if row and row.part == part else None)
        at = None if key is None else listed.rows.index_of(key)
        if at is not None:
            offset = _least_showing(offset, (at * each, (at + 1) * each + EDGE), width)
    return max(0.0, min(offset, most))


def turn_page(app: WiredApp, session: Session, event: TurnPage) -> tuple[Session, Notes]:
    """Show another page; each is scrolled as it was left."""
    index, _ = target_of(app, session, display_of(app, session), event)
    view = session.entries[index].view
    names = app.pages[session.entries[index].screen]
    here = view.page if view.page in names else names[0]
    turned = {name: each for name, each in view.turned.items() if name not in (here, event.to)}
    if view.scroll is not None:
        turned[here] = view.scroll
    scroll = view.turned.get(event.to)
    return session.with_view(index, page=event.to, turned=turned, scroll=scroll), (
        Note.of("page", page=event.to),
    )


def search(app: WiredApp, session: Session, event: Search) -> tuple[Session, Notes]:
    """Take a search: it starts at the top, unless the chosen row is among what was found."""
    index, _ = target_of(app, session, display_of(app, session), event)
    entry = session.entries[index]
    listing = app.listings[entry.screen][event.list]
    if not listing.search:
        raise Refused("no search", _place(entry, event.list))
    texts = {part: text for part, text in entry.view.search.items() if part != event.list}
    if event.text:
        texts[event.list] = event.text
    return session.with_view(index, search=texts, scroll=None), ()


def sort(app: WiredApp, session: Session, event: SortBy) -> tuple[Session, Notes]:
    """Take an order; none asked for means the list's own."""
    index, _ = target_of(app, session, display_of(app, session), event)
    entry = session.entries[index]
    listing = app.listings[entry.screen][event.list]
    for each in event.by:
        if not app.can_sort(listing, each.field):
            raise Refused("no such order", _place(entry, event.list), field=each.field)
    taken = {part: order for part, order in entry.view.sort.items() if part != event.list}
    if event.by:
        taken[event.list] = event.by
    return session.with_view(index, sort=taken, scroll=_unsettled(entry.view.scroll)), ()


def _unsettled(anchor: Anchor | None) -> Anchor | None:
    """An anchor that no longer answers for the chosen row being in view."""
    return None if anchor is None else replace(anchor, seen=None)


def unsettle(app: WiredApp, session: Session, source: str) -> Session:
    """After the records of a source came again, its lists bring their chosen rows into view."""

    def unsettled(entry: Entry) -> Entry:
        view = entry.view
        lists = app.listings.get(entry.screen, {})
        of = {part for part, each in lists.items() if each.source == source}
        if not of or (view.scroll is None and not view.across):
            return entry
        across = {
            part: replace(anchor, seen=None) if part in of else anchor
            for part, anchor in view.across.items()
        }
        view = replace(view, scroll=_unsettled(view.scroll), across=across)
        return replace(entry, view=view)

    return session.with_each_entry(lambda chain, index, entry: unsettled(entry))


def _place(entry: Entry, part: str) -> str:
    return f"screens[{entry.screen}].blocks[{part}]" if part else f"screens[{entry.screen}]"


def goal_of(
    app: WiredApp, session: Session, index: int, area: Area, event: Move
) -> tuple[Scalar, Scalar | None]:
    """The row that a key leads to, and the row it leads from (7.4).

    Raises:
        Refused: when the list has no rows.
    """
    entry = session.entries[index]
    listed = app.listed(session, entry, event.list)
    if listed is None or not len(listed.rows):
        raise Refused("list is empty", _place(entry, event.list))
    is_strip = listed.listing.layout == "strip"
    column = column_of(app, session, entry, area.width)
    laid = column.rows(event.list)
    stack = laid.stack if laid is not None and laid.stack is not None else listed.stack(area.width)
    rows = listed.rows
    here = standing(app, session, index, event.list)
    at = None if here is None else rows.index_of(here)
    last = len(rows) - 1
    height = view_of(app, entry, area)[1] - stack.heads
    match event.to:
        case "home":
            goal = 0
        case "end":
            goal = last
        case "up" | "down" if is_strip:
            raise Refused("strip goes across", _place(entry, event.list))
        case "left":
            goal = 0 if at is None else max(0, at - 1)
        case "right":
            goal = 0 if at is None else min(last, at + 1)
        case "up":
            goal = 0 if at is None else at - stack.columns if at >= stack.columns else at
        case "down":
            goal = 0 if at is None else _line_below(stack, at)
        case "page up":
            goal = (
                0 if at is None else max(0, min(at - 1, stack.at(stack.top(at + 1) - height + 1)))
            )
        case _:
            first = 0 if at is None else at
            goal = min(last, max(first + 1, stack.at(stack.top(first) + height - 1)))
    seen = _not_hidden(stack, goal, at)
    if seen is None:
        raise Refused("groups are closed", _place(entry, event.list))
    return rows.key_at(seen), here


def _not_hidden(stack: RowStack, goal: int, at: int | None) -> int | None:
    """The goal, or the next row that shows on the way there and beyond; else the one before."""
    step = -1 if goal == stack.count - 1 or (at is not None and goal < at) else 1
    found = stack.shown(goal, step)
    return stack.shown(goal, -step) if found is None else found


def _line_below(stack: RowStack, at: int) -> int:
    """The row below one in a grid, or the last of a shorter line; itself on the last line."""
    below = stack.at(stack.bottom(at) + 1e-6)
    if below <= at:
        return at
    side = at - stack.at(stack.top(at))
    goal = min(below + side, stack.count - 1)
    while stack.top(goal) > stack.top(below):
        goal -= 1
    return goal


def standing(app: WiredApp, session: Session, index: int, part: str) -> Scalar | None:
    """The row that a list is at: the marked, else the chosen, else the last opened one (7.4)."""
    row = row_chosen(app, session, index)
    view = session.entries[index].view
    if part in view.marker:
        return view.marker[part]
    if row is not None and row.part == part:
        return row.key
    return view.last.get(part)


def mark(
    app: WiredApp, session: Session, index: int, area: Area, part: str, key: Scalar
) -> tuple[Session, Notes]:
    """Move the marker to a row, and show it."""
    markers = {**session.entries[index].view.marker, part: key}
    session = session.with_view(index, marker=markers)
    note = Note.of("marked", key=key)
    return shown_row(app, session, index, area, part, key), (note,)
