"""What a screen scrolls: its blocks and rows one under another, laid out by arithmetic."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from typing import Any, NamedTuple

from cadena.engine.layout.forms import form_pieces
from cadena.engine.layout.pieces import NO_RECORD, Piece, edge_of, is_narrow, state_piece
from cadena.engine.layout.rows import RowStack, strip_height
from cadena.engine.layout.sizes import (
    ADDRESS,
    BODY,
    BOTTOM_BAR,
    BUTTON,
    FACT,
    FACT_IN_PLACE,
    FACT_LABEL,
    FOOTER,
    GAP,
    GROUP,
    HEADING,
    LIST_HEADING,
    PAGE_BAR,
    PICTURE_MOST,
    SEARCH_BAR,
    TITLE_BAR,
    WORDS,
)
from cadena.engine.session import Anchor, Entry, Session
from cadena.engine.wired import ITEM, NOT_LOADED, Listed, WiredApp
from cadena.model.app import DetailScreen, FormScreen, ListScreen, Screen, Side
from cadena.model.blocks import (
    ActionsBlock,
    AddressBlock,
    Block,
    BodyBlock,
    FactsBlock,
    FormField,
    HeadingBlock,
    ListBlock,
    PageBlock,
    PictureBlock,
)
from cadena.model.listing import Listing
from cadena.model.screen_parts import pages
from cadena.model.values import Scalar, shown
from cadena.records.template import is_empty


class Segment(NamedTuple):
    """A piece where it lies: ``top`` dp below the top of the first.

    Beside other pieces it lies ``left`` dp into the column and is ``width`` dp wide; with no
    width it takes all of the column.
    """

    top: float
    piece: Piece
    left: float = 0.0
    width: float = 0.0

    @property
    def kind(self) -> str:
        return self.piece.kind

    @property
    def part(self) -> str:
        return self.piece.part

    @property
    def height(self) -> float:
        return self.piece.height

    @property
    def block(self) -> Block | FormField | None:
        return self.piece.block

    @property
    def listed(self) -> Listed | None:
        return self.piece.listed

    @property
    def lines(self) -> tuple[str, ...]:
        return self.piece.lines

    @property
    def stack(self) -> RowStack | None:
        return self.piece.stack


class Column(NamedTuple):
    """All segments of a screen, top to bottom, and how tall they are together in dp; ``lists``
    are the first of each list."""

    segments: tuple[Segment, ...]
    total: float
    lists: dict[str, Segment]

    def first_in_view(self, offset: float) -> Anchor | None:
        """What lies at the upper edge of a view scrolled by ``offset`` dp."""
        under = [each for each in self.segments if offset < each.top + each.height]
        # Of two side by side, the one that was begun first is the one that is read.
        at = next((each for each in under if each.top <= offset), next(iter(under), None))
        if at is None:
            return None
        if at.kind == "rows" and at.listed is not None and at.stack is not None:
            # Under heads that stay in view, it is what lies at their lower edge.
            edge = offset - at.top + at.stack.heads
            index = at.stack.at(edge)
            above = edge - at.stack.top(index) - at.stack.lead(index)
            return Anchor(at.part, at.listed.rows.key_at(index), above, index)
        return Anchor(at.part, None, offset - at.top, self.segments.index(at))

    def offset_of(self, anchor: Anchor) -> float:
        """Where an anchor now lies; when its row is gone, the row now at its index (7.2)."""
        if anchor.key is not None:
            rows = self.rows(anchor.part)
            if rows is not None and rows.listed is not None and rows.stack is not None:
                index = rows.listed.rows.index_of(anchor.key)
                if index is None:
                    index = min(anchor.index, rows.stack.count - 1)
                return rows.top + _within_group(rows.stack, index, anchor.above) - rows.stack.heads
        elif anchor.index < len(self.segments) and self.segments[anchor.index].part == anchor.part:
            return self.segments[anchor.index].top + anchor.above
        part = next((each for each in self.segments if each.part == anchor.part), None)
        return 0.0 if part is None else part.top

    def rows(self, part: str) -> Segment | None:
        """The rows of a list, or none when it shows none."""
        return next(
            (each for each in self.segments if each.kind == "rows" and each.part == part), None
        )

    def extent_of(self, part: str, key: Scalar) -> tuple[float, float] | None:
        """The top and the bottom of a row in dp, or none when its list does not show it; under
        heads that stay in view, its top has room for them."""
        found = self.lists.get(part)
        listed = None if found is None else found.piece.listed
        index = None if listed is None else listed.rows.index_of(key)
        if found is None or index is None:
            return None
        top, stack = found.top, found.piece.stack
        if stack is None:
            return top, top + found.height
        if stack.is_hidden(index):
            return None
        return top + stack.top(index) - stack.heads, top + stack.bottom(index)

    def lead(self, part: str, key: Scalar) -> float:
        """The room in dp above a row that the title of its group takes."""
        rows = self.rows(part)
        at = None if rows is None or rows.listed is None else rows.listed.rows.index_of(key)
        return 0.0 if rows is None or rows.stack is None or at is None else rows.stack.lead(at)


def _column(segments: list[Segment], total: float) -> Column:
    lists = {e.piece.part: e for e in reversed(segments) if e.piece.listed is not None}
    return Column(tuple(segments), total, lists)


def _within_group(stack: RowStack, index: int, above: float) -> float:
    """Where a row lies ``above`` dp over an edge; of a closed group its title does."""
    if not stack.is_hidden(index):
        return stack.top(index) + stack.lead(index) + above
    begin = stack.begin(index)
    return stack.top(begin) + (max(0.0, above + GROUP) if index == begin and above <= 0 else 0.0)


class Bars(NamedTuple):
    """What of a screen does not scroll, in dp: above and below what does."""

    top: float
    bottom: float


def bars_of(screen: Screen | None, width: float, is_picking: bool = False) -> Bars:
    """The title, the search field and the pages above; what is kept at the bottom below.

    A narrow screen keeps nothing at its bottom: that scrolls with the rest. While something is
    picked, what can be done with it stands there (14).
    """
    if is_picking:
        return bars_of(screen, width)._replace(bottom=BOTTOM_BAR)
    below = 0.0 if is_narrow(width) else BOTTOM_BAR
    match screen:
        case ListScreen() if screen.rows.has_bar:
            return Bars(TITLE_BAR + SEARCH_BAR, 0.0)
        case DetailScreen():
            kept = any(
                isinstance(block, ActionsBlock) and block.place == "bottom"
                for block in screen.blocks
            )
            top = TITLE_BAR + PAGE_BAR * (bool(pages(screen)) + screen.neighbours)
            return Bars(top, below if kept else 0.0)
        case FormScreen():
            return Bars(TITLE_BAR, below)
        case _:
            return Bars(TITLE_BAR, 0.0)


def blocks_shown(screen: DetailScreen, page: str) -> Iterator[Block]:
    """The blocks on a page: those before the first page, then the page's own."""
    marks = [each.id for each in pages(screen)]
    wanted = page if page in marks else (marks[0] if marks else "")
    on: str | None = None
    for block in screen.blocks:
        if isinstance(block, PageBlock):
            on = block.id
        elif on is None or on == wanted:
            yield block


def column_of(app: WiredApp, session: Session, entry: Entry, width: float) -> Column:
    """Lay out what an open screen scrolls, in a column ``width`` dp wide."""
    view = entry.view
    # Where it is scrolled to, and what is chosen, does not lay it out anew.
    of = (
        *(entry.arguments, entry.loads, session.changes),
        *(view.sort, view.choice, view.draft, view.groups),
        session.values if entry.screen in app.with_values else None,
        session.writes,
    )
    room = session.window.room if entry.screen in app.by_window else None
    picking = bool(view.picked)
    plain = (entry.screen, width, room, view.page, view.tried, entry.row is None, picking)
    key = ("column", *plain, *view.search.items(), *map(id, of))
    made: tuple[object, Column] = app.remember(key, lambda: (of, _laid(app, session, entry, width)))
    return made[1]


def _laid(app: WiredApp, session: Session, entry: Entry, width: float) -> Column:
    pieces: Iterator[Piece]
    match app.screens.get(entry.screen):
        case ListScreen() as screen:
            pieces = _list_screen_pieces(app, session, entry, screen, width)
        case DetailScreen() as screen:
            side = side_of(session, screen, width)
            if side is not None and (
                both := _two_columns(app, session, entry, screen, side, width)
            ):
                return both
            pieces = _detail_pieces(app, session, entry, screen, width)
        case FormScreen() as screen:
            pieces = form_pieces(app, session, entry, screen, width)
        case _:
            pieces = iter(
                [Piece("words", "", WORDS, lines=(app.words("There is no such screen."),))]
            )
    segments, total = _stacked(pieces, 0.0)
    return _column(segments, total)


def _stacked(
    pieces: Iterable[Piece], top: float, left: float = 0.0, width: float = 0.0
) -> tuple[list[Segment], float]:
    """Pieces one under another from ``top`` dp down, and where they end."""
    segments: list[Segment] = []
    for piece in pieces:
        segments.append(Segment(top, piece, left, width))
        top += piece.height
    return segments, top


def side_of(session: Session, screen: DetailScreen, width: float) -> Side | None:
    """The blocks that stand beside the others in a column ``width`` dp wide, if there is room."""
    side = screen.side
    if side is None or not side.blocks:
        return None
    room = session.window.room[0] if side.measured == "window" else width
    return side if room >= side.least else None


def _two_columns(
    app: WiredApp, session: Session, entry: Entry, screen: DetailScreen, side: Side, width: float
) -> Column | None:
    """A detail with some of its blocks beside the others; none while it has no record to show."""
    if app.record_of(session, entry) is None:
        return None
    wide = width / 2
    main = _detail_pieces(app, session, entry, screen, wide, lambda each: each not in side.blocks)
    aside = _detail_pieces(app, session, entry, screen, wide, lambda each: each in side.blocks)
    left, left_end = _stacked(main, 0.0, 0.0, wide)
    right, right_end = _stacked(aside, 0.0, wide, wide)
    return _column([*left, *right], max(left_end, right_end))


def _list_screen_pieces(
    app: WiredApp, session: Session, entry: Entry, screen: ListScreen, width: float
) -> Iterator[Piece]:
    if is_narrow(width) and screen.buttons and not entry.view.picked:
        yield _actions(ActionsBlock(id="", buttons=screen.buttons))
    for strip in screen.above:
        if strip.heading:
            yield Piece("list heading", strip.id, LIST_HEADING, strip, lines=(strip.heading,))
        yield from _list_pieces(app, session, entry, strip.id, strip.rows, width)
    yield from _list_pieces(app, session, entry, "", screen.rows, width)


def _list_pieces(
    app: WiredApp, session: Session, entry: Entry, part: str, listing: Listing, width: float
) -> Iterator[Piece]:
    listed = app.listed(session, entry, part)
    if listed is None:
        said = f'There is no source "{listing.source}".'
        yield Piece("words", part, WORDS, lines=(said,))
        return
    rows = listed.rows
    load = entry.loads.get(part, NOT_LOADED) if listing.source in app.late else None
    if len(rows) and listing.layout == "strip":
        yield Piece("strip", part, strip_height(listing), None, listed)
    elif len(rows):
        stack = listed.stack(width)
        yield Piece("rows", part, stack.total, None, listed, (), stack)
    elif load is None or load.brought:
        searched = entry.view.search.get(part, "").strip()
        said = (
            listing.not_found or app.words('Nothing found for "{text}".', text=searched)
            if searched
            else listing.empty
        )
        yield Piece("words", part, WORDS, None, listed, (said,))
    if load is not None and load.state != "shown":
        yield state_piece(app, load, part)
    if len(listed.asked) < rows.found or (load is None and len(rows) < rows.found):
        yield Piece("footer", part, FOOTER, None, listed, (listed.counts(app.words),))


def _detail_pieces(
    app: WiredApp,
    session: Session,
    entry: Entry,
    screen: DetailScreen,
    width: float,
    takes: Callable[[str], bool] = lambda block: True,
) -> Iterator[Piece]:
    record = app.record_of(session, entry)
    load = entry.loads.get(ITEM, NOT_LOADED) if screen.source in app.late else None
    waits = load is not None and load.state in ("loading", "failed")
    if record is None:
        if load is not None and waits:
            yield state_piece(app, load, ITEM)
            return
        key = shown(entry.arguments.get(screen.key))
        yield Piece("words", "", WORDS, lines=(app.words(NO_RECORD, key=key),))
        return
    yield Piece("gap", "", GAP)
    for block in blocks_shown(screen, entry.view.page):
        if takes(block.id):
            yield from block_pieces(app, session, entry, block, record, width)
    if load is not None and waits and takes(""):
        yield state_piece(app, load, ITEM)


def block_pieces(
    app: WiredApp,
    session: Session,
    entry: Entry,
    block: Block,
    record: dict[str, Any],
    width: float,
) -> Iterator[Piece]:
    """The pieces that a block of a detail makes in a column ``width`` dp wide."""
    inner = width - 2 * edge_of(width)
    sayings = app.say(app.source_of(entry))
    match block:
        case PictureBlock():
            tall = min(PICTURE_MOST, inner * 0.5625) + GAP
            yield Piece("picture", block.id, tall, block)
        case HeadingBlock():
            lines = app.measure(sayings.fill(block.text, record) or "–", HEADING[0], True, inner)
            yield Piece("heading", block.id, len(lines) * HEADING[1] + GAP, block, lines=lines)
        case FactsBlock():
            said = facts_shown(app, entry, block, record)
            if said:
                tall = sum(FACT_IN_PLACE if each in block.in_place else FACT for each in said)
                tall += FACT_LABEL * len(said) if is_narrow(width) else 0.0
                yield Piece("facts", block.id, tall + GAP, block)
        case BodyBlock():
            if text := sayings.value(block.field, record) * sayings.says(block.field, record):
                lines = app.measure(text, BODY[0], False, inner)
                yield Piece("body", block.id, len(lines) * BODY[1] + GAP, block, lines=lines)
        case AddressBlock():
            if not is_empty(record.get(block.field)):
                frame = block.frame + GAP if block.frame else 0.0
                yield Piece("address", block.id, ADDRESS + GAP + frame, block)
        case ListBlock():
            if block.heading:
                yield Piece("list heading", block.id, LIST_HEADING, block, lines=(block.heading,))
            if block.rows.has_bar:
                yield Piece("search", block.id, SEARCH_BAR, block)
            yield from _list_pieces(app, session, entry, block.id, block.rows, width)
        case ActionsBlock() if block.place == "flow" or is_narrow(width):
            yield _actions(block)


def _actions(block: ActionsBlock) -> Piece:
    """Buttons one under another."""
    tall = len(block.buttons) * (BUTTON + 8) + 2 * GAP
    return Piece("actions", block.id, tall, block)


def facts_shown(
    app: WiredApp, entry: Entry, block: FactsBlock, record: dict[str, Any]
) -> tuple[str, ...]:
    """The fields of a facts block that say something, or can be filled in where they stand."""
    sayings = app.say(app.source_of(entry))
    return tuple(
        field for field in block.fields if field in block.in_place or sayings.value(field, record)
    )
