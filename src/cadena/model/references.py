"""References between sources, and the paths that follow them (rules.md, 13)."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Final, NamedTuple

from cadena.model.app import App, DetailScreen, FormScreen, FromField, ListScreen, Screen
from cadena.model.blocks import AddressBlock, BodyBlock, FactsBlock, HeadingBlock, PictureBlock
from cadena.model.edits.wiring import source_of
from cadena.model.field_uses import names_in
from cadena.model.listing import Listing
from cadena.model.naming import label_field
from cadena.model.screen_parts import listings
from cadena.model.source import Field, Refers, Source
from cadena.model.values import FieldType

MOST_STEPS: Final = 4
Types = Mapping[str, Mapping[str, FieldType]]


class Followed(NamedTuple):
    """A path from a source: over a field that is a reference, and what is named there."""

    field: str
    refers: Refers
    rest: str


def followed(sources: Mapping[str, Source], source: str, path: str) -> Followed | None:
    """The first step of a path, or none where its beginning is no reference."""
    of = sources.get(source)
    for each in of.fields if of is not None else ():
        if each.refers is not None and path.startswith(f"{each.name}."):
            return Followed(each.name, each.refers, path[len(each.name) + 1 :])
    return None


def field_at(
    sources: Mapping[str, Source], types: Types, source: str, path: str, steps: int = 0
) -> tuple[str, str] | None:
    """The source and the field that a path ends at, or none where it leads nowhere.

    A field that is there is itself, whatever points are in its name.
    """
    if path in types.get(source, {}):
        return source, path
    step = followed(sources, source, path)
    if step is None or steps == MOST_STEPS or step.refers.to not in sources:
        return None
    return field_at(sources, types, step.refers.to, step.rest, steps + 1)


def label_paths(sources: Mapping[str, Source], types: Types, source: str) -> dict[str, str]:
    """For each field that is a reference, the path to the label of what it refers to."""
    of, found = sources.get(source), {}
    for each in of.fields if of is not None else ():
        to = sources.get(each.refers.to) if each.refers is not None else None
        if to is not None:
            found[each.name] = f"{each.name}.{label_field(to, types.get(to.id, {}))}"
    return found


def paths_of(app: App, types: Types) -> dict[str, tuple[str, ...]]:
    """The paths that an app follows from each source: those it names, and those to labels."""
    sources = {each.id: each for each in app.sources}
    if not any(each.refers is not None for source in app.sources for each in source.fields):
        return {}
    found: dict[str, dict[str, None]] = {}
    named = [*_named(app)]
    for name in sources:
        named += [(name, path) for path in label_paths(sources, types, name).values()]
    for source, name in named:
        is_path = "." in name and name not in types.get(source, {})
        if is_path and field_at(sources, types, source, name) is not None:
            found.setdefault(source, {})[name] = None
    return {source: tuple(paths) for source, paths in found.items()}


def not_found(app: App, types: Types, source: str) -> tuple[str, ...]:
    """The names that an app binds in a source, and that lead to no field."""
    sources = {each.id: each for each in app.sources}
    named = dict.fromkeys(name for of, name in _named(app) if of == source and name)
    return tuple(each for each in named if field_at(sources, types, source, each) is None)


def field_named(
    sources: Mapping[str, Source], types: Types, source: str, path: str
) -> Field | None:
    """How what a path ends at is said, under the name of the path; none where it leads nowhere."""
    end = field_at(sources, types, source, path)
    if end is None:
        return None
    of = next((each for each in sources[end[0]].fields if each.name == end[1]), Field(name=end[1]))
    kept = {name: getattr(of, name) for name in ("type", "unit", "decimals", "date")}
    return Field(name=path, label=of.label or end[1], when_empty="", **kept)


def _named(app: App) -> Iterator[tuple[str, str]]:
    """Every name that an app binds, with the source that it is looked for in."""
    for source in app.sources:
        for each in source.fields:
            yield from ((source.id, name) for name in names_in(each.when_empty))
        yield from ((source.id, rule.field) for rule in source.stands_out)
    yield from _carried(app)
    for screen in app.screens:
        for listing in listings(screen).values():
            yield from ((listing.source, name) for name in _in_listing(listing))
        if isinstance(screen, DetailScreen | FormScreen):
            yield from ((screen.source, name) for name in _on_screen(screen))


def _carried(app: App) -> Iterator[tuple[str, str]]:
    for link in app.links:
        source = source_of(app, link.trigger)
        if source is not None:
            for each in link.arguments:
                if isinstance(each, FromField):
                    yield source.id, each.field


def _in_listing(listing: Listing) -> Iterator[str]:
    row = listing.row
    for text in (row.title, row.subtitle, row.badge):
        yield from names_in(text)
    yield from (row.picture, listing.group_by, *listing.search)
    yield from (each.field for each in listing.sort)
    yield from (each.field for order in listing.orders for each in order.sort)
    conditions = [*listing.where, *(each for group in listing.groups for each in group.where)]
    yield from (each.field for each in conditions)


def _on_screen(screen: Screen) -> Iterator[str]:
    yield from names_in(screen.title)
    if isinstance(screen, ListScreen | FormScreen):
        return
    for block in screen.blocks:
        match block:
            case PictureBlock() | BodyBlock() | AddressBlock():
                yield block.field
            case HeadingBlock():
                yield from names_in(block.text)
            case FactsBlock():
                yield from block.fields
