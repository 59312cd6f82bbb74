"""Changes to rows, details and forms, each a plain function from one app to the next."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from cadena.model.app import (
    App,
    DetailScreen,
    ListScreen,
    Screen,
)
from cadena.model.blocks import (
    Block,
    BodyBlock,
    FactsBlock,
    HeadingBlock,
    ListBlock,
    PictureBlock,
)
from cadena.model.edits.wiring import (
    Types,
    moved,
    with_link,
    with_screen,
)
from cadena.model.field_uses import shows, slots_with
from cadena.model.find import by_id, exchanged, slug, unused
from cadena.model.listing import Button, Listing
from cadena.model.screen_parts import actions, buttons, listings
from cadena.model.source import Field, Source
from cadena.model.values import FieldType


def with_source(app: App, source: Source) -> App:
    """The app with the source of that identifier exchanged."""
    sources = tuple(source if each.id == source.id else each for each in app.sources)
    return replace(app, sources=sources)


def with_field(app: App, types: Types, source: str, name: str, **changed: Any) -> App:
    """The app with one field of a source said or typed otherwise.

    A source that declares no fields declares those found in its data from then on.
    """
    owner = by_id(app.sources, source)
    if owner is None:
        return app
    fields = declared_fields(owner, types)
    if all(each.name != name for each in fields):
        fields = (*fields, Field(name=name, type=types.get(source, {}).get(name, "text")))
    made = tuple(replace(each, **changed) if each.name == name else each for each in fields)
    return with_source(app, replace(owner, fields=made))


def declared_fields(source: Source, types: Types) -> tuple[Field, ...]:
    """The fields that a source declares; of one that declares none, those found in its data."""
    found = types.get(source.id, {})
    return source.fields or tuple(Field(name=each, type=kind) for each, kind in found.items())


def field_of(source: Source, types: Types, name: str) -> Field:
    """A field as it is declared, or as it was found."""
    found = types.get(source.id, {}).get(name, "text")
    return next((each for each in source.fields if each.name == name), Field(name=name, type=found))


def with_listing(app: App, screen: Screen, part: str, listing: Listing) -> App:
    """The app with one list of a screen exchanged."""
    if isinstance(screen, ListScreen):
        if not part:
            return with_screen(app, replace(screen, rows=listing))
        above = tuple(
            replace(strip, rows=listing) if strip.id == part else strip for strip in screen.above
        )
        return with_screen(app, replace(screen, above=above))
    if not isinstance(screen, DetailScreen):
        return app
    blocks = tuple(
        replace(block, rows=listing) if isinstance(block, ListBlock) and block.id == part else block
        for block in screen.blocks
    )
    return with_screen(app, replace(screen, blocks=blocks))


def with_slot(listing: Listing, slot: str, text: str) -> Listing:
    """A list with one slot of its row filled otherwise."""
    return replace(listing, row=replace(listing.row, **{slot: text}))


def on_row(listing: Listing, field: str, kind: FieldType) -> Listing:
    """A list that shows a field on its row: in the first slot that is empty and fits it."""
    row = listing.row
    if kind == "picture":
        return with_slot(listing, "picture", field)
    named = "{" + field + "}"
    if not row.title:
        return with_slot(listing, "title", named)
    if not row.badge and kind in ("whole number", "number", "yes/no"):
        return with_slot(listing, "badge", named)
    return with_slot(listing, "subtitle", f"{row.subtitle} · {named}" if row.subtitle else named)


def off_row(listing: Listing, field: str) -> Listing:
    """A list that shows a field on its row no more; a title keeps what it has."""
    for slot in slots_with(listing, field):
        if slot == "picture":
            listing = with_slot(listing, slot, "")
            continue
        text = getattr(listing.row, slot)
        kept = [each for each in text.split(" · ") if "{" + field + "}" not in each]
        if kept or slot != "title":
            listing = with_slot(listing, slot, " · ".join(kept))
    return listing


def on_detail(
    screen: DetailScreen, field: str, kind: FieldType, long: bool = False
) -> DetailScreen:
    """A detail that shows a field: as a picture, as body where it is long, else as a fact."""
    name = unused(slug(field), [each.id for each in screen.blocks])
    if kind == "picture":
        return replace(screen, blocks=(PictureBlock(id=name, field=field), *screen.blocks))
    if long:
        return replace(screen, blocks=(*screen.blocks, BodyBlock(id=name, field=field)))
    for block in screen.blocks:
        if isinstance(block, FactsBlock):
            return with_block(screen, replace(block, fields=(*block.fields, field)))
    facts = FactsBlock(id=unused("facts", [each.id for each in screen.blocks]), fields=(field,))
    return replace(screen, blocks=(*screen.blocks, facts))


def off_detail(screen: DetailScreen, field: str) -> DetailScreen:
    """A detail that shows a field no more; headings keep what they say."""
    blocks: list[Block] = []
    for block in screen.blocks:
        if isinstance(block, FactsBlock) and field in block.fields:
            kept = tuple(each for each in block.fields if each != field)
            in_place = tuple(each for each in block.in_place if each != field)
            if kept:
                blocks.append(replace(block, fields=kept, in_place=in_place))
        elif isinstance(block, HeadingBlock) or not shows(block, field):
            blocks.append(block)
    return replace(screen, blocks=tuple(blocks))


def with_block(screen: DetailScreen, block: Block) -> DetailScreen:
    """The detail with the block of that identifier exchanged, or added at the end."""
    return replace(screen, blocks=exchanged(screen.blocks, block))


def without_block(screen: DetailScreen, block: str) -> DetailScreen:
    """The detail without a block."""
    return replace(screen, blocks=tuple(each for each in screen.blocks if each.id != block))


def moved_block(screen: DetailScreen, block: str, by: int) -> DetailScreen:
    """The detail with a block moved up or down."""
    at = [each.id for each in screen.blocks].index(block)
    return replace(screen, blocks=moved(screen.blocks, at, by))


def with_row_action(app: App, screen: str, part: str, label: str) -> tuple[App, str]:
    """The app with one more action on the rows of a list, which opens what it is linked to; and
    its identifier."""
    owner = by_id(app.screens, screen)
    listing = None if owner is None else listings(owner).get(part)
    if owner is None or listing is None:
        return app, ""
    name = unused(slug(label), [*actions(owner), *buttons(owner)])
    made = replace(listing, actions=(*listing.actions, Button(id=name, label=label)))
    return with_listing(app, owner, part, made), name


def copied(app: App, screen: Screen) -> tuple[App, Screen]:
    """The app with an independent copy of a screen, and of the links that start from it."""
    name = unused(screen.id, [each.id for each in app.screens])
    copy: Screen = replace(screen, id=name)
    app = with_screen(app, copy)
    for link in tuple(app.links):
        if link.trigger.screen == screen.id:
            trigger = replace(link.trigger, screen=name)
            link_id = unused(link.id, [each.id for each in app.links])
            to = name if link.to == screen.id else link.to
            app = with_link(app, replace(link, id=link_id, trigger=trigger, to=to))
    return app, copy
