"""Strips of choices above a list."""

from __future__ import annotations

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.model.app import ListScreen
from cadena.model.blocks import ListBlock
from cadena.model.edits.wiring import with_screen
from cadena.model.find import slug, unused
from cadena.model.listing import Condition, Listing, Row
from cadena.model.naming import label_text
from cadena.model.screen_parts import listings
from cadena.model.source import Source


def add_strip(document: Document, screen: ListScreen, source: Source, field: str) -> None:
    """A strip of a source's records above a list; its choice keeps those of that key."""
    name = unused(slug(source.id), [*listings(screen), *(each.id for each in screen.above)])
    rows = Listing(
        source=source.id,
        layout="strip",
        tile=112,
        row=Row(title=label_text(source, document.types.get(source.id, {}))),
        empty=f"No {(source.title or source.id).lower()}.",
    )
    condition = Condition(field=field, choice=name)
    made = replace(
        screen,
        above=(*screen.above, ListBlock(id=name, heading="", rows=rows)),
        rows=replace(screen.rows, where=(*screen.rows.where, condition)),
    )
    document.edit(f"strip {name} above {screen.id}", with_screen(document.app, made))


def remove_strip(document: Document, screen: ListScreen, name: str) -> None:
    """Take a strip away, and the condition on its choice."""
    where = tuple(each for each in screen.rows.where if each.choice != name)
    made = replace(
        screen,
        above=tuple(each for each in screen.above if each.id != name),
        rows=replace(screen.rows, where=where),
    )
    document.edit(f"remove strip {name} above {screen.id}", with_screen(document.app, made))
