"""Fields that no screen shows, and showing them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

from msgspec.structs import replace

from cadena.model.app import App, DetailScreen
from cadena.model.blocks import FactsBlock
from cadena.model.edits.shaping import with_listing
from cadena.model.edits.wiring import Types, with_screen
from cadena.model.field_uses import uses
from cadena.model.find import by_id, unused
from cadena.model.screen_parts import listings

MOST_ON_A_ROW: Final = 2


def shown_nowhere(app: App, types: Types, source: str) -> tuple[str, ...]:
    """The fields of a source that stand on no screen; its key needs to be on none."""
    of = by_id(app.sources, source)
    made = {field.name for field in of.fields if field.made_of} if of is not None else set()
    return tuple(
        name
        for name in types.get(source, {})
        if of is not None and name not in (of.key, *of.key_from, *made)
        if not uses(app, source, name)
    )


def with_fields_shown(app: App, source: str, names: Sequence[str]) -> App:
    """The app with fields on the details of a source, and the first of them on rows that say
    nothing yet but their title."""
    for screen in app.screens:
        if isinstance(screen, DetailScreen) and screen.source == source:
            app = with_screen(app, _with_facts(screen, names))
    for screen in app.screens:
        for part, listing in listings(screen).items():
            row = listing.row
            if listing.source == source and not (row.subtitle or row.badge):
                said = " · ".join("{" + name + "}" for name in names[:MOST_ON_A_ROW])
                listing = replace(listing, row=replace(row, subtitle=said))
                app = with_listing(app, by_id(app.screens, screen.id) or screen, part, listing)
    return app


def _with_facts(detail: DetailScreen, names: Sequence[str]) -> DetailScreen:
    blocks = list(detail.blocks)
    at = next((n for n, block in enumerate(blocks) if isinstance(block, FactsBlock)), None)
    if at is None:
        name = unused("facts", [block.id for block in blocks])
        return replace(detail, blocks=(*blocks, FactsBlock(id=name, fields=tuple(names))))
    facts = blocks[at]
    assert isinstance(facts, FactsBlock)
    blocks[at] = replace(facts, fields=(*facts.fields, *names))
    return replace(detail, blocks=tuple(blocks))
