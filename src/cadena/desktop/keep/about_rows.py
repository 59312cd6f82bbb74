"""What Keep's strip says of a list whose rows are in view: what of them is kept there."""

from __future__ import annotations

from functools import partial

from msgspec.structs import replace

from cadena.desktop.document import Document
from cadena.desktop.shape.about_lists import GROUPS_START
from cadena.desktop.words import Sentence, Word
from cadena.keep.pieces import Piece
from cadena.model import shaping
from cadena.model.find import by_id
from cadena.model.listing import Listing
from cadena.model.looking import listings

IN_VIEW = ((True, "kept in view"), (False, "left where it was scrolled"))


def about_rows(document: Document, piece: Piece) -> list[Sentence]:
    """The settings of a list that decide what of it is in view."""
    screen = by_id(document.app.screens, piece.of)
    listing = None if screen is None else listings(screen).get(piece.part)
    if screen is None or listing is None:
        return []

    def change(what: str, made: Listing) -> None:
        app = shaping.with_listing(document.app, screen, piece.part, made)
        document.edit(f"{what} on {piece.of}", app, document.selection)

    said = [Sentence("It is", [Word("text", _how(document, piece, listing))])]
    words = [
        Word(
            "choice",
            said_,
            partial(change, f"chosen row {said_}", replace(listing, keep_in_view=keeps)),
            listing.keep_in_view == keeps,
            f"the chosen row is {said_}",
        )
        for keeps, said_ in IN_VIEW
    ]
    said.append(Sentence("Chosen row", words))
    if listing.is_grouped:
        groups = [
            Word(
                "choice",
                said_,
                partial(change, f"groups {said_}", replace(listing, groups_start=start)),
                listing.groups_start == start,
                f"groups are {said_}",
            )
            for start, said_ in GROUPS_START
        ]
        said.append(Sentence("Groups", groups))
    return said


def _how(document: Document, piece: Piece, listing: Listing) -> str:
    """How a list is laid out, where, and how it comes."""
    layout = {"rows": "rows", "grid": "a grid", "strip": "a strip across"}[listing.layout]
    place = f"inside {piece.of}" if piece.part else f"the whole of {piece.of}"
    source = by_id(document.app.sources, listing.source)
    comes = "page by page" if source is not None and source.served != "file" else "all at once"
    return f"{layout}, {place}; {listing.source} come {comes}"
