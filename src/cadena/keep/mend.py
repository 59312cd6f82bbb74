"""Giving a piece of state another lifetime."""

from __future__ import annotations

from msgspec.structs import replace

from cadena.keep.pieces import ORDER, Piece
from cadena.model.app import App
from cadena.model.edits import with_screen, with_section
from cadena.model.find import by_id
from cadena.model.part import Lifetime


def with_lifetime(app: App, piece: Piece, lifetime: Lifetime) -> App:
    """The app with a piece that lives so long; what is bound to chains, with all sections."""
    name = piece.where.rpartition(".")[2]
    match piece.kind:
        case "value":
            values = tuple(
                replace(each, keep=lifetime) if each.id == piece.of else each for each in app.values
            )
            return replace(app, values=values)
        case "chain":
            section = by_id(app.sections, piece.of)
            return app if section is None else with_section(app, replace(section, keep=lifetime))
        case "chosen row" | "carried":
            return _with_chains_kept(app, lifetime)
    screen = by_id(app.screens, piece.of)
    if screen is None:
        return app
    keep = replace(screen.keep, **{name: lifetime})
    return with_screen(app, replace(screen, keep=keep))


def mended_keep(app: App, piece: Piece) -> App | None:
    """The app with a piece that was lost kept from now on, or none where that is not enough.

    A piece of a screen is lost with its chain where the chain is not kept: that is mended too.
    """
    made = app
    if ORDER.index(piece.lifetime) < ORDER.index("saved"):
        made = with_lifetime(made, piece, "saved")
    if piece.kind != "value":
        made = _with_chains_kept(made, "saved")
    return None if made == app else made


def _with_chains_kept(app: App, lifetime: Lifetime) -> App:
    """The app with no section whose chain lives shorter."""
    sections = tuple(
        replace(each, keep=lifetime) if ORDER.index(each.keep) < ORDER.index(lifetime) else each
        for each in app.sections
    )
    return replace(app, sections=sections)
