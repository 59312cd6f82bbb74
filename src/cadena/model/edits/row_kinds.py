"""Rows that lead on by their kind (rules.md, 2.7): which there are, and screens for them."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Final

from msgspec.structs import replace

from cadena.model.app import App, DetailScreen, Link, RowKind
from cadena.model.edits.targets import target_made
from cadena.model.edits.wiring import Types, link_to, with_screen
from cadena.model.find import slug, unused
from cadena.model.values import Value, shown

FEW: Final = 8
"""How many values a field has at most that tells kinds apart."""


def kinds_among(fields: Iterable[tuple[str, Iterable[Value | None]]]) -> Iterator[RowKind]:
    """The kinds that the values of some fields tell apart: those of few values, each often."""
    for field, values in fields:
        counted: dict[Value, int] = {}
        for value in values:
            if value is not None and not isinstance(value, tuple):
                counted[value] = counted.get(value, 0) + 1
            if len(counted) > FEW:
                break
        if 1 < len(counted) <= FEW and max(counted.values()) > 1:
            yield from (RowKind(field=field, constant=each) for each in counted)


def with_kind(app: App, types: Types, link: Link, kind: RowKind) -> tuple[App, Link]:
    """Another screen for the rows of a kind, beside that of a link: made like it, and opened as
    that is.

    Raises:
        ValueError: when there are no records to make a screen of.
    """
    others = tuple(each for each in app.links if each.trigger != link.trigger)
    made, opens = target_made(replace(app, links=others), types, link.trigger)
    screen = next(each for each in made.screens if each.id == opens.to)
    name = unused(slug(shown(kind.constant)), [each.id for each in app.screens])
    title = screen.title if isinstance(screen, DetailScreen) else shown(kind.constant)
    app = with_screen(app, replace(screen, id=name, title=title))
    return link_to(app, types, link.trigger, name, kind)
