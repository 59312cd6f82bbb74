"""The same list and detail again, for another source."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, NamedTuple

from msgspec.structs import replace

from cadena.model.app import App, DetailScreen, FromField, Link, ListScreen, Parameter
from cadena.model.blocks import (
    AddressBlock,
    Block,
    BodyBlock,
    FactsBlock,
    HeadingBlock,
    PictureBlock,
)
from cadena.model.edits.wiring import Types, key_type, with_screen
from cadena.model.find import by_id, slug, unused
from cadena.model.listing import Listing, Row
from cadena.model.naming import names_in
from cadena.model.source import Source
from cadena.model.values import fits


class Mapped(NamedTuple):
    """What a field of one source is in another; ``to`` is empty where nothing matches."""

    field: str
    to: str


def mapping(
    types: Types, source: str, to: str, bound: tuple[str, ...], by_type: bool = True
) -> tuple[Mapped, ...]:
    """The fields that a pair binds, each with the field of another source that is most like it.

    By name and type first, then by part of a name, then by type alone; each is used once.

    Args:
        by_type: whether the type alone is enough.
    """
    have, wanted = types.get(source, {}), types.get(to, {})
    left = dict(wanted)
    found: dict[str, str] = {}

    def take(field: str, alike: Any) -> None:
        if field in found:
            return
        match = next((each for each, kind in left.items() if alike(field, each, kind)), None)
        if match is not None:
            found[field] = match
            del left[match]

    def fitting(field: str, kind: str) -> bool:
        return fits(kind, have.get(field, "text")) and (kind == "picture") == (
            have.get(field) == "picture"
        )

    rules = (
        lambda field, each, kind: field == each and fitting(field, kind),
        lambda field, each, kind: (
            fitting(field, kind)
            and bool(set(field.lower().split("_")) & set(each.lower().split("_")))
        ),
        lambda field, each, kind: fitting(field, kind),
    )
    for rule in rules if by_type else rules[:2]:
        for field in bound:
            take(field, rule)
    return tuple(Mapped(field, found.get(field, "")) for field in bound)


def bound_fields(listing: Listing, detail: DetailScreen | None) -> tuple[str, ...]:
    """The fields that a list and its detail show, in the order in which they stand."""
    found = [*names_in(listing.row.title), *names_in(listing.row.subtitle)]
    found += [*names_in(listing.row.badge), *([listing.row.picture] if listing.row.picture else [])]
    found += [*listing.search, *(each.field for each in listing.sort)]
    for block in detail.blocks if detail is not None else ():
        match block:
            case HeadingBlock():
                found += names_in(block.text)
            case FactsBlock():
                found += block.fields
            case PictureBlock() | BodyBlock() | AddressBlock():
                found.append(block.field)
    return tuple(dict.fromkeys(found))


def pair_again(
    app: App, types: Types, screen: ListScreen, to: Source, chosen: Mapping[str, str]
) -> tuple[App, ListScreen]:
    """The same list and detail, with rows, blocks, sort and link, for another source.

    Args:
        chosen: the field of the other source for each that is bound; what has none is left
            out of rows and blocks, and shown as such before (see ``mapping``).
    """
    names = [each.id for each in app.screens]
    link = next((each for each in app.links if each.trigger.screen == screen.id), None)
    detail = by_id(app.screens, link.to) if link is not None else None
    listed = replace(
        screen,
        id=unused(to.id, names),
        title=to.title or to.id.capitalize(),
        rows=_again(screen.rows, to.id, chosen),
        above=(),
        buttons=(),
    )
    app = with_screen(app, listed)
    if link is None or not isinstance(detail, DetailScreen):
        return app, listed
    kind = key_type(types.get(to.id, {}).get(to.key, "text"))
    key = Parameter(name=slug(to.id).replace("-", "_"), type=kind, key_of=to.id)
    made = replace(
        detail,
        id=unused(f"{to.id}-detail", [each.id for each in app.screens]),
        title=_text(detail.title, chosen) or "{" + to.key + "}",
        source=to.id,
        key=key.name,
        parameters=(key,),
        blocks=tuple(
            again for block in detail.blocks if (again := _block_again(block, chosen)) is not None
        ),
    )
    app = with_screen(app, made)
    opens = Link(
        id=unused(f"{listed.id}-to-{made.id}", [each.id for each in app.links]),
        trigger=replace(link.trigger, screen=listed.id),
        to=made.id,
        how=link.how,
        arguments=(FromField(parameter=key.name, field=to.key),),
    )
    return replace(app, links=(*app.links, opens)), listed


def _again(listing: Listing, source: str, chosen: Mapping[str, str]) -> Listing:
    row = listing.row
    return replace(
        listing,
        source=source,
        where=(),
        groups=(),
        group_by=chosen.get(listing.group_by, ""),
        actions=(),
        orders=(),
        search=tuple(to for each in listing.search if (to := chosen.get(each))),
        sort=tuple(
            replace(sort, field=to) for sort in listing.sort if (to := chosen.get(sort.field))
        ),
        row=Row(
            title=_text(row.title, chosen),
            subtitle=_text(row.subtitle, chosen),
            badge=_text(row.badge, chosen),
            picture=chosen.get(row.picture, ""),
            picture_fit=row.picture_fit,
        ),
    )


def _text(text: str, chosen: Mapping[str, str]) -> str:
    """A text for another source; parts whose fields have no match are left out."""
    pieces = []
    for piece in text.split(" · "):
        fields = names_in(piece)
        if fields and not all(chosen.get(each) for each in fields):
            continue
        for field in fields:
            piece = piece.replace("{" + field + "}", "{" + chosen[field] + "}")
        pieces.append(piece)
    return " · ".join(pieces)


def _block_again(block: Block, chosen: Mapping[str, str]) -> Block | None:
    match block:
        case PictureBlock() | BodyBlock() | AddressBlock():
            to = chosen.get(block.field)
            return replace(block, field=to) if to else None
        case HeadingBlock():
            text = _text(block.text, chosen)
            return replace(block, text=text) if text else None
        case FactsBlock():
            fields = tuple(to for each in block.fields if (to := chosen.get(each)))
            in_place = tuple(to for each in block.in_place if (to := chosen.get(each)))
            return replace(block, fields=fields, in_place=in_place) if fields else None
    return None
