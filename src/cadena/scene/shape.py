"""A row and the blocks of a detail by themselves, for one record: what Shape shows."""

from __future__ import annotations

from typing import Any, Final

from msgspec.structs import replace

from cadena.engine.layout.column import Segment, block_pieces
from cadena.engine.layout.forms import form_pieces
from cadena.engine.layout.panes import Area
from cadena.engine.layout.sizes import GAP, ROWS, TILE_TEXT
from cadena.engine.layout.table_columns import columns_shown
from cadena.engine.session import Chain, Entry, Session, sized
from cadena.engine.wired import WiredApp
from cadena.model.app import DetailScreen, FormScreen
from cadena.model.blocks import ActionsBlock, Block, FormField, PageBlock
from cadena.model.listing import Listing
from cadena.records.records import Records
from cadena.records.template import fields_in
from cadena.scene.rows import cell_boxes, cell_of, row_contents, texts_of, tile_contents
from cadena.scene.scene import Box, Scene
from cadena.scene.screens import block_boxes

HELD: Final = 3000.0


def at_once(app: WiredApp) -> WiredApp:
    """The app with every source answering at once, so that all of a record can be shown."""
    if not app.late:
        return app
    sources = tuple(replace(each, served="file") for each in app.app.sources)
    return WiredApp(replace(app.app, sources=sources), app.as_read, app.measure)


def row_scene(app: WiredApp, listing: Listing, records: Records, row: int, width: float) -> Scene:
    """One row of a list as it is for one record, ``width`` dp wide."""
    record, key = records.record(row), records.key_at(row)
    sayings = app.say(listing.source)
    texts = texts_of(sayings, listing.row, record, key)
    sizes = ROWS[listing.density]
    if columns := columns_shown(listing, width):
        area = Area(0, 0, width, sizes.one_line)
        cells = [cell_of(sayings, each.column, record) for each in columns]
        texts = texts._replace(title=cells[0].text or texts.title)
        contents = cell_boxes(columns, cells, area, area, texts, frozenset(), {})
    elif not listing.has_tiles:
        lines = sizes.two_lines if texts.subtitle else sizes.one_line
        height = sizes.with_picture if listing.row.picture else lines
        area = Area(0, 0, width, height)
        contents = row_contents(listing, record, area, area, texts, frozenset())
    else:
        wide = min(width, max(listing.tile, 48.0))
        picture = wide * 0.75 if listing.row.picture else 0.0
        area = Area(0, 0, wide, picture + TILE_TEXT)
        contents = tile_contents(listing, record, area, area, texts, frozenset())
    return Scene(width, area.height, (Box("ground", 0, 0, width, area.height), *contents))


def block_scene(
    app: WiredApp, screen: DetailScreen, block: Block, key: Any, width: float
) -> Scene | None:
    """One block of a detail for one record; none where it shows nothing."""
    if isinstance(block, PageBlock):
        return None
    if isinstance(block, ActionsBlock):
        block = replace(block, place="flow")
    entry = Entry(screen.id, {screen.key: key}, "root")
    session = Session(sized(width, HELD), "sample", {"sample": Chain("sample", (entry,))})
    record = app.record_of(session, entry)
    if record is None:
        return None
    boxes: list[Box] = []
    top = 0.0
    for piece in block_pieces(app, session, entry, block, record, width):
        view = Area(0, 0, width, HELD)
        boxes += block_boxes(app, session, 0, Segment(top, piece), view, 0.0)
        top += piece.height
    return Scene(width, max(0.0, top - GAP), tuple(boxes)) if top else None


def field_scene(
    app: WiredApp, screen: FormScreen, field: FormField, key: Any, width: float
) -> Scene | None:
    """One field of a form, filled from one record."""
    entry = Entry(screen.id, {} if key is None else {screen.key: key}, "root")
    session = Session(sized(width, HELD), "sample", {"sample": Chain("sample", (entry,))})
    pieces = form_pieces(app, session, entry, screen, width)
    piece = next((each for each in pieces if each.part == field.field), None)
    if piece is None:
        return None
    boxes = block_boxes(app, session, 0, Segment(0.0, piece), Area(0, 0, width, HELD), 0.0)
    return Scene(width, piece.height, tuple(boxes))


def fields_of_row(listing: Listing) -> tuple[str, ...]:
    """The fields that a row shows as text."""
    row = listing.row
    found = [*fields_in(row.title), *fields_in(row.subtitle), *fields_in(row.badge)]
    return tuple(dict.fromkeys(found))
