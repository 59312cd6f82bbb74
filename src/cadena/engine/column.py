"""What a screen scrolls: its blocks and rows one under another, laid out by arithmetic."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, Final, NamedTuple

from cadena.data.template import fill, is_empty
from cadena.engine.session import Anchor, Entry, Session
from cadena.engine.wired import Listed, WiredApp
from cadena.model.app import (
    ActionsBlock,
    Block,
    BodyBlock,
    DetailScreen,
    FactsBlock,
    HeadingBlock,
    ListBlock,
    Listing,
    ListScreen,
    PictureBlock,
)
from cadena.model.values import Scalar, shown

TITLE_BAR: Final = 52.0
SEARCH_BAR: Final = 52.0
EDGE: Final = 16.0
GAP: Final = 12.0
HEADING: Final = (24.0, 30.0)
BODY: Final = (15.0, 22.0)
FACT: Final = 28.0
LIST_HEADING: Final = 44.0
BUTTON: Final = 44.0
WORDS: Final = 96.0
FOOTER: Final = 36.0
PICTURE_MOST: Final = 220.0


class Segment(NamedTuple):
    """One stretch of a column.

    ``kind`` is what it shows: rows, words, footer, search, or the name of a block;
    ``lines`` are its running text, broken to fit.
    """

    kind: str
    part: str
    top: float
    height: float
    block: Block | None = None
    listed: Listed | None = None
    lines: tuple[str, ...] = ()


class Column(NamedTuple):
    """All segments of a screen, top to bottom, and how tall they are together in dp."""

    segments: tuple[Segment, ...]
    total: float

    def first_in_view(self, offset: float) -> Anchor | None:
        """What lies at the upper edge of a view scrolled by ``offset`` dp."""
        at = next((each for each in self.segments if offset < each.top + each.height), None)
        if at is None:
            return None
        if at.kind == "rows" and at.listed is not None:
            index = at.listed.stack.at(offset - at.top)
            above = offset - at.top - at.listed.stack.top(index)
            return Anchor(at.part, at.listed.rows.key_at(index), above, index)
        return Anchor(at.part, None, offset - at.top, self.segments.index(at))

    def offset_of(self, anchor: Anchor) -> float:
        """Where an anchor now lies; when its row is gone, the row now at its index (7.2)."""
        if anchor.key is not None:
            rows = self.rows(anchor.part)
            if rows is not None and rows.listed is not None:
                index = rows.listed.rows.index_of(anchor.key)
                if index is None:
                    index = min(anchor.index, rows.listed.stack.count - 1)
                return rows.top + rows.listed.stack.top(index) + anchor.above
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
        """The top and the bottom of a row in dp, or none when it is not on its list."""
        rows = self.rows(part)
        if rows is None or rows.listed is None:
            return None
        index = rows.listed.rows.index_of(key)
        if index is None:
            return None
        stack = rows.listed.stack
        return rows.top + stack.top(index), rows.top + stack.top(index + 1)


def column_of(app: WiredApp, session: Session, entry: Entry, width: float) -> Column:
    """Lay out what an open screen scrolls, in a column ``width`` dp wide."""
    screen = app.screens.get(entry.screen)
    pieces: Iterator[tuple[Any, ...]]
    if screen is None:
        pieces = iter([("words", "", WORDS, None, None, ("There is no such screen.",))])
    elif isinstance(screen, ListScreen):
        pieces = _list_pieces(app, session, entry, "", screen.rows)
    else:
        pieces = _detail_pieces(app, session, entry, screen, width)
    segments: list[Segment] = []
    top = 0.0
    for kind, part, height, block, listed, lines in pieces:
        segments.append(Segment(kind, part, top, height, block, listed, lines))
        top += height
    return Column(tuple(segments), top)


def _list_pieces(
    app: WiredApp, session: Session, entry: Entry, part: str, listing: Listing
) -> Iterator[tuple[Any, ...]]:
    listed = app.listed(session, entry, part)
    if listed is None:
        yield "words", part, WORDS, None, None, (f'There is no source "{listing.source}".',)
        return
    rows = listed.rows
    if len(rows):
        yield "rows", part, listed.stack.total, None, listed, ()
    else:
        searched = entry.view.search.get(part, "").strip()
        said = (
            listing.not_found or f'Nothing found for "{searched}".' if searched else listing.empty
        )
        yield "words", part, WORDS, None, listed, (said,)
    if len(rows) < rows.found:
        counts = f"{len(rows)} shown, {rows.found} found, {rows.kept} in all"
        yield "footer", part, FOOTER, None, listed, (counts,)


def _detail_pieces(
    app: WiredApp, session: Session, entry: Entry, screen: DetailScreen, width: float
) -> Iterator[tuple[Any, ...]]:
    record = app.record_of(session, entry)
    if record is None:
        key = shown(entry.arguments.get(screen.key))
        yield "words", "", WORDS, None, None, (f"There is no record {key} any more.",)
        return
    inner = width - 2 * EDGE
    yield "gap", "", GAP, None, None, ()
    for block in screen.blocks:
        match block:
            case PictureBlock():
                tall = min(PICTURE_MOST, inner * 0.5625) + GAP
                yield "picture", block.id, tall, block, None, ()
            case HeadingBlock():
                lines = app.measure(fill(block.text, record) or "–", HEADING[0], True, inner)
                yield "heading", block.id, len(lines) * HEADING[1] + GAP, block, None, lines
            case FactsBlock():
                yield "facts", block.id, len(block.fields) * FACT + GAP, block, None, ()
            case BodyBlock():
                if not is_empty(text := record.get(block.field)):
                    lines = app.measure(shown(text), BODY[0], False, inner)
                    yield "body", block.id, len(lines) * BODY[1] + GAP, block, None, lines
            case ListBlock():
                yield "list heading", block.id, LIST_HEADING, block, None, (block.heading,)
                if block.rows.search:
                    yield "search", block.id, SEARCH_BAR, block, None, ()
                yield from _list_pieces(app, session, entry, block.id, block.rows)
            case ActionsBlock():
                yield (
                    "actions",
                    block.id,
                    len(block.buttons) * (BUTTON + 8) + 2 * GAP,
                    block,
                    None,
                    (),
                )
