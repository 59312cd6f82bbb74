"""What Keep's strip says of a list whose rows are in view: what of them is kept there."""

from __future__ import annotations

from cadena.desktop.document.document import Document
from cadena.desktop.stages.list_settings import group_words, in_view_words
from cadena.desktop.widgets.words import Matter, Sentence, Word, one_line
from cadena.model.find import by_id
from cadena.model.listing import Listing
from cadena.model.properties import value_words
from cadena.model.screen_parts import listings
from cadena.runs.keep.pieces import Piece


def row_matters(document: Document, piece: Piece) -> list[Matter]:
    """The settings of a list that decide what of it is in view."""
    screen = by_id(document.app.screens, piece.of)
    listing = None if screen is None else listings(screen).get(piece.part)
    if screen is None or listing is None:
        return []
    about = lambda: [Sentence("", [Word("text", _how(document, piece, listing))])]  # noqa: E731
    kept = one_line(in_view_words, document, screen, piece.part)
    matters = [
        Matter("in", value_words(listing, "layout"), "how it is laid out", about),
        Matter("the chosen row", value_words(listing, "keep_in_view"), "chosen row", kept),
    ]
    if listing.is_grouped:
        groups = one_line(group_words, document, screen, piece.part)
        now = value_words(listing, "groups_start")
        matters.append(Matter("groups", now, "groups", groups))
    return matters


def _how(document: Document, piece: Piece, listing: Listing) -> str:
    """How a list is laid out, where, and how it comes."""
    place = f"inside {piece.of}" if piece.part else f"the whole of {piece.of}"
    source = by_id(document.app.sources, listing.source)
    comes = "page by page" if source is not None and source.served != "file" else "all at once"
    return f"{value_words(listing, 'layout')}, {place}; {listing.source} come {comes}"
