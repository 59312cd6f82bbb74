"""What of a list is in view, and whether that outlives the hard cases (rules.md, 7)."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any, Final, NamedTuple

from cadena.engine import events as do
from cadena.engine.layout.column import Column, column_of
from cadena.engine.layout.pieces import is_narrow
from cadena.engine.layout.sizes import EDGE, TILE_GAP
from cadena.engine.rules.display import display_of
from cadena.engine.rules.lists import (
    across_of,
    chosen_row,
    offset_of,
    row_to_show,
    strip_width,
    view_of,
)
from cadena.engine.session import Session
from cadena.engine.wired import Listed, WiredApp
from cadena.model.screen_parts import page_of
from cadena.model.values import Scalar
from cadena.runs.keep.disturbances import Events
from cadena.runs.keep.hard_cases import answers
from cadena.runs.keep.pieces import Piece, chain_lifetime
from cadena.runs.keep.run import Asked, Compared
from cadena.runs.keep.starting_points import Stand, after
from cadena.runs.shortest_walks import Way

NEAR: Final = 0.5
"""Dp in which two places are the same."""
A_BIT: Final = 10.0
PAGES: Final = 2
SOME: Final = 8
SHOWS: Final = (do.Resize, do.SortBy, do.Restore)
"""Events after which a list brings its chosen row into view, beside a refresh of its own."""
KINDS: Final = frozenset({"first in view", "chosen in view"})


class InView(NamedTuple):
    """What of a list is in view, along its own direction, in dp.

    ``offset`` is how far it is scrolled, ``most`` how far it can be, and ``size`` how much is
    seen; ``first`` is the row at the edge, if one is; ``strip`` the tiles, where it is a strip.
    """

    part: str
    first: Scalar | None
    offset: float
    most: float
    size: float
    column: Column
    strip: Listed | None

    def extent(self, key: Scalar) -> tuple[float, float] | None:
        """Where a row begins and ends, from the edge on; none where it is not shown."""
        if self.strip is None:
            lies = self.column.extent_of(self.part, key)
            if lies is None:
                return None
            begin = lies[0] + self.column.lead(self.part, key) - self.offset
            return begin, lies[1] - self.offset
        at = self.strip.rows.index_of(key)
        if at is None:
            return None
        begin = at * _each(self.strip) - self.offset
        return begin, begin + EDGE + self.strip.listing.tile

    def touches(self, key: Scalar) -> bool:
        """Whether any of a row is in view."""
        lies = self.extent(key)
        return lies is not None and lies[1] > 0 and lies[0] < self.size

    def shows(self, key: Scalar) -> bool:
        """Whether a row is in view, as much of it as there is room for."""
        lies = self.extent(key)
        if lies is None:
            return False
        whole = lies[0] > -NEAR and lies[1] < self.size + NEAR
        return whole or (lies[0] < NEAR and lies[1] > self.size - NEAR)

    def is_flush(self, key: Scalar) -> bool:
        """Whether a row lies at an edge of the view: it was scrolled by the least."""
        lies = self.extent(key)
        if lies is None:
            return False
        if self.strip is not None:
            return min(abs(lies[0]), abs(lies[1] - self.size)) < EDGE + NEAR
        titled = lies[0] - self.column.lead(self.part, key)
        return min(abs(lies[0]), abs(titled), abs(lies[1] - self.size)) < NEAR


class ListStand(NamedTuple):
    """An app with a list brought to where something of it is in view, and which row that is."""

    stand: Stand
    seen: InView | None
    had: Scalar | None


def _each(strip: Listed) -> float:
    return strip.listing.tile + TILE_GAP


def in_view(app: WiredApp, session: Session, index: int, part: str) -> InView | None:
    """What of a list is in view now, or none where it is off display or has no rows."""
    area = display_of(app, session).area_of(index) if index < len(session.entries) else None
    if area is None or session.phase != "running":
        return None
    entry = session.entries[index]
    listed = app.listed(session, entry, part)
    if listed is None or not len(listed.rows):
        return None
    width, height = view_of(app, entry, area)
    column = column_of(app, session, entry, width)
    if listed.listing.layout == "strip":
        offset = across_of(app, session, index, width, part)
        at = min(int((offset + NEAR) // _each(listed)), len(listed.rows) - 1)
        most = max(0.0, strip_width(listed) - width)
        return InView(part, listed.rows.key_at(at), offset, most, width, column, listed)
    offset = offset_of(app, session, index, area, column)
    anchor = column.first_in_view(offset)
    first = None if anchor is None or anchor.part != part else anchor.key
    if first is not None and column.extent_of(part, first) is None:
        first = None
    most = max(0.0, column.total - height)
    return InView(part, first, offset, most, height, column, None)


def lists_in_view(
    app: WiredApp, found: Mapping[str, Way], seen: set[object]
) -> Iterator[ListStand]:
    """The app with each list scrolled into its middle, and then with a row chosen there.

    Args:
        seen: the ways in which lists have been laid out so far; none is tried twice.
    """
    for screen, way in found.items():
        display = display_of(app, way.session)
        area = display.area_of(way.entry)
        for part in app.listings[screen] if area is not None else ():
            listed = app.listed(way.session, way.session.entries[way.entry], part)
            if area is None or listed is None or not len(listed.rows):
                continue
            columns = listed.stack(area.width).columns
            laid = (screen, part, is_narrow(area.width), len(display.panes) > 1, columns)
            if laid in seen:
                continue
            seen.add(laid)
            yield from _of_list(app, way, screen, part)


def _of_list(app: WiredApp, way: Way, screen: str, part: str) -> Iterator[ListStand]:
    index, section = way.entry, way.session.section
    keep, where = app.screens[screen].keep.scroll, f"screens[{screen}]"
    way = _scrolled(app, way, screen, part)
    piece = Piece("first in view", screen, part, keep, f"{where}.keep.scroll")
    seen = in_view(app, way.session, index, part)
    had = None if seen is None or seen.offset < NEAR else seen.first
    yield ListStand(Stand(way, section, index, (piece,)), seen, had)
    if not {(screen, part)} & {*app.row_links, *app.choosing}:
        return
    key = None if seen is None else _wholly_in_view(app, way, part, seen)
    if key is not None:
        way = _chosen_on(app, way, screen, part, key)
        seen = in_view(app, way.session, index, part)
    had = None if seen is None or key is None or not seen.shows(key) else key
    path = f"{where}.blocks[{part}]" if part else where
    life = keep if (screen, part) in app.choosing else chain_lifetime(app, screen)
    piece = Piece("chosen in view", screen, part, life, f"{path}.rows.keep_in_view")
    yield ListStand(Stand(way, section, index, (piece,)), seen, had)


def _chosen_on(app: WiredApp, way: Way, screen: str, part: str, key: Scalar) -> Way:
    """With a row chosen, and gone back from what it opened where that hides the list."""
    index = way.entry
    way = after(app, way, (do.Choose(screen=screen, entry=index, list=part, key=key),))
    for _ in range(len(way.session.entries) - index - 1):
        if not _is_plain(app, way.session, index):
            way = after(app, way, (do.Back(),))
    return way


def _is_plain(app: WiredApp, session: Session, index: int) -> bool:
    """Whether a screen is on display with nothing over it."""
    display = display_of(app, session)
    return display.layer is None and display.area_of(index) is not None


def _scrolled(app: WiredApp, way: Way, screen: str, part: str) -> Way:
    """With a list scrolled into its middle; one that loads page by page, beyond its first."""
    index, session = way.entry, way.session
    for _ in range(PAGES if app.listings[screen][part].source in app.late else 0):
        listed = app.listed(way.session, way.session.entries[index], part)
        if listed is not None and len(listed.rows):
            last = listed.rows.key_at(len(listed.rows) - 1)
            to = do.Scroll(screen=screen, entry=index, list=part, row=last)
            way = after(app, way, (to, *answers(app)))
    session = way.session
    listed = app.listed(session, session.entries[index], part)
    if listed is None or not len(listed.rows):
        return way
    count, groups = len(listed.rows), listed.rows.groups
    begin = groups[-1][0] + 1 if listed.listing.is_grouped and groups else count // 2
    key = listed.rows.key_at(min(begin, count - 1))
    on: dict[str, Any] = {"screen": screen, "entry": index, "list": part}
    page = page_of(app.screens[screen], part)
    turns = (do.TurnPage(screen=screen, entry=index, to=page),) if page else ()
    if listed.closed:
        opens = tuple(do.ShowGroup(**on, title=title, open=True) for _, title in listed.rows.groups)
        way = after(app, way, opens)
    scrolls = (do.Scroll(**on, row=key), do.Scroll(**on, by=A_BIT))
    return after(app, way, (*turns, *scrolls, *answers(app)))


def _wholly_in_view(app: WiredApp, way: Way, part: str, seen: InView) -> Scalar | None:
    """A row of a list that is in view, as much of it as there is room for."""
    listed = app.listed(way.session, way.session.entries[way.entry], part)
    if listed is None:
        return None
    first = (None if seen.first is None else listed.rows.index_of(seen.first)) or 0
    keys = [listed.rows.key_at(at) for at in range(first, min(first + SOME, len(listed.rows)))]
    return next((key for key in keys if seen.shows(key)), None)


def judged_in_view(
    app: WiredApp, of: ListStand, case: str, events: Events, session: Session, asked: Asked
) -> Compared:
    """What was in view and what is after a case, what was asked for, and the mark.

    Args:
        events: what the case was.
        asked: what is asked of the scroll position by its lifetime.
    """
    piece, index, key = of.stand.pieces[0], of.stand.place, of.had
    now = in_view(app, session, index, piece.part)
    if key is None or of.seen is None or now is None:
        return Compared(None, None, asked, "nothing to keep here")
    if piece.kind == "chosen in view":
        return _judged_chosen(app, piece, events, session, index, key, now)
    had = _first_in_view(of.seen, key)
    has = None if now.first is None else _first_in_view(now, now.first)
    lies, still = of.seen.extent(key), now.extent(key)
    if lies is not None and still is not None and abs(still[0] - lies[0]) < NEAR:
        return Compared(had, had, asked, "kept")
    if asked == "let go":
        return Compared(had, has, asked, "let go as asked")
    if _may_move(app, of, case, session, now, key):
        return Compared(had, has, "move on", "moved on as asked")
    return Compared(had, has, asked, "lost" if now.offset < NEAR else "wrong")


def _may_move(
    app: WiredApp, of: ListStand, case: str, session: Session, now: InView, key: Scalar
) -> bool:
    """Whether the list is where the rules have it go when the row cannot stay where it was.

    A choice starts it at the top; of a row that is gone the one at its index takes the place;
    the chosen row is shown by the least; of a row whose group is closed the title lies there;
    and it goes no further than its content (7.2, 7.3).
    """
    index, part = of.stand.place, now.part
    if case == "choice made":
        return now.offset < NEAR
    shown = row_to_show(app, session, index)
    if shown is not None and shown.part == part and now.is_flush(shown.key):
        return True
    is_at_end = now.offset > now.most - NEAR
    before = app.listed(of.stand.way.session, of.stand.way.session.entries[index], part)
    listed = app.listed(session, session.entries[index], part)
    if before is None or listed is None or not len(listed.rows):
        return False
    at = before.rows.index_of(key)
    if listed.rows.index_of(key) is None and at is not None:
        heir = listed.rows.key_at(min(at, len(listed.rows) - 1))
        lay, lies = of.seen and of.seen.extent(key), now.extent(heir)
        is_in_its_place = lay and lies and abs(lay[0] - lies[0]) < NEAR
        return bool(is_in_its_place) or now.first == heir or (is_at_end and now.touches(heir))
    is_in_closed_group = now.extent(key) is None
    return is_in_closed_group or (is_at_end and now.touches(key))


def _first_in_view(seen: InView, key: Scalar) -> tuple[Scalar, float]:
    """The first row in view, and how many dp of it are over the edge."""
    lies = seen.extent(key)
    return key, 0.0 if lies is None else round(0.0 - lies[0], 1)


def _judged_chosen(
    app: WiredApp,
    piece: Piece,
    events: Events,
    session: Session,
    index: int,
    key: Scalar,
    now: InView,
) -> Compared:
    """Whether the chosen row is in view still, where the list keeps it in view (7.3)."""
    if now.shows(key):
        return Compared(key, key, "keep", "kept")
    listing = app.listings[piece.of][piece.part]
    shows = any(
        isinstance(event, SHOWS)
        or (isinstance(event, do.Refresh) and event.source == listing.source)
        for event in events
    )
    if not shows or not listing.keep_in_view:
        return Compared(key, None, "let go", "let go as asked")
    if key != _chosen(session, index, piece.part) or now.extent(key) is None:
        return Compared(key, None, "let go", "let go as asked")
    return Compared(key, None, "keep", "lost")


def _chosen(session: Session, index: int, part: str) -> Scalar | None:
    """The row of a list that is chosen, or that it led on from."""
    view = session.entries[index].view
    if part in view.choice:
        return view.choice[part]
    row = chosen_row(session, index)
    return row.key if row is not None and row.part == part else view.last.get(part)
