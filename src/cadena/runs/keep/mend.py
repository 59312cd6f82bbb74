"""Giving a piece of state another lifetime."""

from __future__ import annotations

from msgspec.structs import replace

from cadena.model.app import App, FromPosition, FromRecord
from cadena.model.edits.arrangements import with_arrangement
from cadena.model.edits.wiring import (
    Types,
    sensible,
    with_argument,
    with_link,
    with_screen,
    with_section,
)
from cadena.model.find import by_id
from cadena.model.part import Lifetime
from cadena.model.screen_depths import sections_to
from cadena.runs.keep.pieces import ORDER, Piece
from cadena.runs.keep.run import Run


def with_lifetime(app: App, piece: Piece, lifetime: Lifetime) -> App:
    """The app with a piece that lives so long; what is bound to a chain, with its sections."""
    match piece.kind:
        case "value":
            values = tuple(
                replace(value, keep=lifetime) if value.id == piece.of else value
                for value in app.values
            )
            return replace(app, values=values)
        case "dividers":
            rule = by_id(app.arrangements, piece.of)
            return app if rule is None else with_arrangement(app, replace(rule, keep=lifetime))
        case "chain":
            section = by_id(app.sections, piece.of)
            return app if section is None else with_section(app, replace(section, keep=lifetime))
        case "chosen row" | "carried" | "asked for":
            for section in sections_to(app).get(piece.of, ()):
                app = with_section(app, replace(section, keep=lifetime))
            return app
        case "chosen in view" | "forward":
            return app
    screen = by_id(app.screens, piece.of)
    if screen is None:
        return app
    keep = replace(screen.keep, **{piece.kept_as: lifetime})
    return with_screen(app, replace(screen, keep=keep))


def mended_keep(app: App, run: Run, types: Types) -> App | None:
    """The app with what a run lost kept from now on, or none where that is not enough.

    A piece of a screen is lost with its chain where the chain is not kept: that is mended too.
    What comes back as something else was carried as a position or as a copy: the key is
    carried in its place.
    """
    piece, made = run.piece, app
    if run.mark == "wrong":
        made = _with_keys_carried(app, run, types)
        return None if made == app else made
    if ORDER.index(piece.lifetime) < ORDER.index("saved"):
        made = with_lifetime(made, piece, "saved")
    if piece.kind not in ("value", "dividers"):
        made = with_chains_saved(made, piece.of)
    return None if made == app else made


def _with_keys_carried(app: App, run: Run, types: Types) -> App:
    """The app with keys carried to the screens of a run, in place of positions and copies."""
    opened = {entry.screen for chain in run.before.chains.values() for entry in chain.entries}
    made = app
    for link in app.links:
        target = by_id(app.screens, link.to)
        if target is None or link.to not in opened:
            continue
        for argument in link.arguments:
            parameter = next(
                (each for each in target.parameters if each.name == argument.parameter), None
            )
            if parameter is None or not isinstance(argument, FromPosition | FromRecord):
                continue
            key = sensible(app, types, link.trigger, parameter)
            if key is not None:
                now = by_id(made.links, link.id)
                made = made if now is None else with_link(made, with_argument(now, key))
    return made


def with_chains_saved(app: App, of: str) -> App:
    """The app with the chains saved that a screen is in, or that of the section of that name."""
    for section in (*sections_to(app).get(of, ()), by_id(app.sections, of)):
        if section is not None and section.keep in ("view", "entry"):
            app = with_section(app, replace(section, keep="saved"))
    return app
