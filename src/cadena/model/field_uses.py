"""Where a field of a source is used."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final, NamedTuple

from cadena.model.app import App, DetailScreen, FormScreen, FromField, Screen
from cadena.model.blocks import (
    ActionsBlock,
    AddressBlock,
    Block,
    BodyBlock,
    FactsBlock,
    HeadingBlock,
    PictureBlock,
)
from cadena.model.edits.wiring import source_of
from cadena.model.find import by_id
from cadena.model.listing import LeaveFor, Listing
from cadena.model.screen_parts import listings

SLOTS: Final = ("title", "subtitle", "badge", "picture")


class Use(NamedTuple):
    """One place that binds a field: on a screen, ``part`` of it, as ``what``."""

    screen: str
    part: str
    what: str


def uses(app: App, source: str, field: str) -> tuple[Use, ...]:
    """Every place that binds a field, screens in their order, then links."""
    found: list[Use] = []
    for screen in app.screens:
        for part, listing in listings(screen).items():
            if listing.source == source:
                found += [Use(screen.id, part, what) for what in _in_listing(listing, field)]
        if isinstance(screen, DetailScreen | FormScreen) and screen.source == source:
            found += _in_screen(screen, field)
    for link in app.links:
        carries = any(
            isinstance(argument, FromField) and argument.field == field
            for argument in link.arguments
        )
        owner = source_of(app, link.trigger)
        goes_by = link.when is not None and link.when.field == field
        if (carries or goes_by) and owner is not None and owner.id == source:
            found.append(Use(link.trigger.screen, "", f"link to {link.to}"))
        if link.brings is not None and link.brings.field == field:
            target = by_id(app.screens, link.to)
            choosing = None if target is None else listings(target).get(link.brings.list)
            if choosing is not None and choosing.source == source:
                found.append(Use(link.trigger.screen, "", f"brought from {link.to}"))
    return tuple(found)


def names(text: str, field: str) -> bool:
    """Whether a text names a field."""
    return "{" + field + "}" in text


def slots_with(listing: Listing, field: str) -> list[str]:
    """The slots of a row that show a field."""
    row = listing.row
    found = [
        slot
        for slot, text in (("title", row.title), ("subtitle", row.subtitle), ("badge", row.badge))
        if names(text, field)
    ]
    return [*found, "picture"] if row.picture == field else found


def _in_listing(listing: Listing, field: str) -> Iterator[str]:
    for slot in slots_with(listing, field):
        yield f"row · {slot}"
    if any(each.shows == field or names(each.shows, field) for each in listing.columns):
        yield "column"
    if field in listing.search:
        yield "search"
    orders = (sort for order in listing.orders for sort in order.sort)
    if any(each.field == field for each in (*listing.sort, *orders)):
        yield "sort"
    if field == listing.group_by:
        yield "groups"
    presses = (listing.press, *(each.does for each in listing.actions))
    if any(isinstance(each, LeaveFor) and each.field == field for each in presses):
        yield "leaves for it"
    if any(names(each.says, field) for each in listing.actions):
        yield "words once done"
    conditions = [*listing.where, *(each for group in listing.groups for each in group.where)]
    if any(each.field == field for each in conditions):
        yield "condition"


def shows(block: Block, field: str) -> bool:
    """Whether a block of a detail shows a field."""
    match block:
        case PictureBlock() | BodyBlock() | AddressBlock():
            return block.field == field
        case HeadingBlock():
            return names(block.text, field)
        case FactsBlock():
            return field in block.fields
    return False


def _in_screen(screen: Screen, field: str) -> Iterator[Use]:
    if isinstance(screen, FormScreen):
        if any(each.field == field for each in screen.fields):
            yield Use(screen.id, field, "form")
        if names(screen.says, field):
            yield Use(screen.id, "", "words once saved")
    elif isinstance(screen, DetailScreen):
        if names(screen.title, field):
            yield Use(screen.id, "", "title")
        for block in screen.blocks:
            said = block.buttons if isinstance(block, ActionsBlock) else ()
            if any(isinstance(e.does, LeaveFor) and e.does.field == field for e in said):
                yield Use(screen.id, block.id, "leaves for it")
            if any(names(each.says, field) for each in said):
                yield Use(screen.id, block.id, "words once done")
            if shows(block, field):
                yield Use(screen.id, block.id, str(block.__struct_config__.tag))
