"""References between sources, and the paths that follow them (rules.md, 13)."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from functools import lru_cache
from typing import Final, Literal, NamedTuple, get_args

import inflection
from msgspec.structs import replace

from cadena.model.app import App, DetailScreen, FormScreen, FromField, ListScreen, Screen
from cadena.model.blocks import AddressBlock, BodyBlock, FactsBlock, HeadingBlock, PictureBlock
from cadena.model.edits.wiring import source_of
from cadena.model.listing import Listing, Sort
from cadena.model.naming import label_field, names_in
from cadena.model.once import once
from cadena.model.screen_parts import listings
from cadena.model.source import Field, Refers, Source
from cadena.model.values import FieldType

MOST_STEPS: Final = 4
Types = Mapping[str, Mapping[str, FieldType]]
Gives = Literal["count", "many", "sum", "least", "most", "first"]
"""What is said of all records that refer to one; ``many`` is their count with their name."""
COUNTS: Final[tuple[Gives, ...]] = ("count", "many")
GIVES: Final = "|".join(get_args(Gives))
FROM_OTHERS: Final = re.compile(
    rf"(?:\((?P<field>[^()]+)\))?\.(?P<gives>{GIVES})(?:\.(?P<rest>.+))?"
)
SUMMED: Final[tuple[FieldType, ...]] = ("whole number", "number")
ORDERED: Final[tuple[FieldType, ...]] = (*SUMMED, "date", "date and time")


class Followed(NamedTuple):
    """A path from a source: over a field that is a reference, and what is named there."""

    field: str
    refers: Refers
    rest: str

    @property
    def to(self) -> str:
        """The source that it leads to."""
        return self.refers.to


class FromOthers(NamedTuple):
    """A path from a source: to all records ``to`` whose ``field`` refers to one of it, found by
    ``by``, or by its key where that is empty; and what is said of them, of the ``rest``."""

    to: str
    field: str
    by: str
    gives: Gives
    rest: str


class End(NamedTuple):
    """Where a path ends: at which field of which source, and what its value is.

    ``gives`` is how what stands there is told of several records, empty where it is of one. Of a
    count there is no field.
    """

    source: str
    field: str
    type: FieldType
    gives: Gives | Literal[""] = ""


def followed(sources: Mapping[str, Source], source: str, path: str) -> Followed | None:
    """The first step of a path, or none where its beginning is no reference."""
    of = sources.get(source)
    for field in of.fields if of is not None else ():
        if field.refers is not None and path.startswith(f"{field.name}."):
            return Followed(field.name, field.refers, path[len(field.name) + 1 :])
    return None


def from_others(sources: Mapping[str, Source], source: str, path: str) -> FromOthers | None:
    """The first step of a path to what refers to a source (``rooms.count``), or none.

    Where several fields of a source do, the field is named: ``rooms(hut).count``.
    """
    for other in sources.values():
        found = path.startswith(other.id) and FROM_OTHERS.fullmatch(path, len(other.id))
        if not found:
            continue
        referring = [
            each
            for each in other.fields
            if each.refers is not None
            and each.refers.to == source
            and found["field"] in (None, each.name)
        ]
        gives, rest = found["gives"], found["rest"] or ""
        if len(referring) == 1 and bool(rest) is (gives not in COUNTS):
            (field,) = referring
            assert field.refers is not None
            return FromOthers(other.id, field.name, field.refers.by, gives, rest)  # type: ignore[arg-type]
    return None


def step_of(sources: Mapping[str, Source], source: str, path: str) -> Followed | FromOthers | None:
    """The first step of a path, over a reference or to what refers here; or none."""
    return followed(sources, source, path) or from_others(sources, source, path)


def steps_of(
    sources: Mapping[str, Source], source: str, path: str
) -> Iterator[tuple[str, Followed | FromOthers]]:
    """Each step of a path, with the source that it starts from."""
    for _ in range(MOST_STEPS):
        step = step_of(sources, source, path)
        if step is None:
            return
        yield source, step
        source, path = step.to, step.rest


def field_at(
    sources: Mapping[str, Source], types: Types, source: str, path: str, steps: int = 0
) -> End | None:
    """What a path ends at, or none where it leads nowhere.

    A field that is there is itself, whatever points are in its name.
    """
    if path in types.get(source, {}):
        return End(source, path, types[source][path])
    step = step_of(sources, source, path)
    if step is None and (named := names_in(path)):
        is_text = all(each in types.get(source, {}) for each in named)
        return End(source, path, "text") if is_text else None
    if step is None or steps == MOST_STEPS or step.to not in sources:
        return None
    if isinstance(step, Followed):
        return field_at(sources, types, step.to, step.rest, steps + 1)
    if step.gives in COUNTS:
        return End(step.to, "", "whole number", step.gives)
    end = field_at(sources, types, step.to, step.rest, steps + 1)
    can_be: Mapping[Gives, tuple[FieldType, ...]] = {
        "sum": SUMMED,
        "least": ORDERED,
        "most": ORDERED,
    }
    if end is None or end.type not in can_be.get(step.gives, (end.type,)):
        return None
    return end._replace(gives=step.gives)


@lru_cache(maxsize=256)
def counted_words(title: str) -> tuple[str, str]:
    """What one record of a source is called, and several: from its title.

    >>> counted_words("Rooms")
    ('room', 'rooms')
    """
    return inflection.singularize(title.lower()), title.lower()


def label_paths(sources: Mapping[str, Source], types: Types, source: str) -> dict[str, str]:
    """For each field that is a reference, the path to the label of what it refers to."""
    of, found = sources.get(source), {}
    for field in of.fields if of is not None else ():
        to = sources.get(field.refers.to) if field.refers is not None else None
        if to is not None:
            found[field.name] = f"{field.name}.{label_field(to, types.get(to.id, {}))}"
    return found


def paths_offered(app: App, types: Types, source: str) -> dict[str, FieldType]:
    """The paths that a person would ask for from a source, and what they end at: the labels of
    what it refers to; and of what refers to it how many there are, and what their numbers are in
    all."""
    sources = {each.id: each for each in app.sources}
    paths = [*label_paths(sources, types, source).values()]
    for other in app.sources:
        referring = [e.name for e in other.fields if e.refers is not None and e.refers.to == source]
        held = {each.name for each in other.fields if each.refers is not None} | {other.key}
        kinds = types.get(other.id, {})
        numbers = [each for each, kind in kinds.items() if kind in SUMMED and each not in held]
        for field in referring:
            name = other.id if len(referring) == 1 else f"{other.id}({field})"
            paths += [f"{name}.many", *(f"{name}.sum.{each}" for each in numbers)]
    ends = {path: field_at(sources, types, source, path) for path in paths}
    return {path: end.type for path, end in ends.items() if end is not None}


def paths_of(app: App, types: Types) -> dict[str, tuple[str, ...]]:
    """The paths that an app follows from each source: those it names, and those to labels."""
    sources = {each.id: each for each in app.sources}
    refer = any(each.refers is not None for source in app.sources for each in source.fields)
    if not refer and not any(names_in(each.label) for each in app.sources):
        return {}
    found: dict[str, dict[str, None]] = {}
    named = [*_names_bound(app)]
    for name in sources:
        named += [(name, path) for path in label_paths(sources, types, name).values()]
        named.append((name, label_field(sources[name], types.get(name, {}))))
    for source, name in named:
        is_path = ("." in name or "{" in name) and name not in types.get(source, {})
        if is_path and field_at(sources, types, source, name) is not None:
            found.setdefault(source, {})[name] = None
    return {source: tuple(paths) for source, paths in found.items()}


def others_of(
    sources: Mapping[str, Source], paths: Mapping[str, tuple[str, ...]]
) -> dict[str, list[FromOthers]]:
    """What paths tell of the records that refer to those of a source: by which field of which
    other source, once each."""
    found: dict[str, dict[FromOthers, None]] = {}
    for source, some in paths.items():
        for path in some:
            for at, step in steps_of(sources, source, path):
                if isinstance(step, FromOthers):
                    found.setdefault(at, {})[step._replace(gives="count", rest="")] = None
    return {source: [*steps] for source, steps in found.items()}


def orders_of_others(app: App) -> dict[tuple[str, str], tuple[Sort, ...]]:
    """In which order details list what refers to their record: by its source and that field."""
    found: dict[tuple[str, str], tuple[Sort, ...]] = {}
    for screen in app.screens:
        if isinstance(screen, DetailScreen):
            for listing in listings(screen).values():
                for condition in listing.where:
                    if condition.argument == screen.key and condition.test == "is" and listing.sort:
                        found.setdefault((listing.source, condition.field), listing.sort)
    return found


def not_found(app: App, types: Types, source: str) -> tuple[str, ...]:
    """The names that an app binds in a source, and that lead to no field."""
    sources = {each.id: each for each in app.sources}
    named = dict.fromkeys(name for of, name in _names_bound(app) if of == source and name)
    return tuple(each for each in named if field_at(sources, types, source, each) is None)


def field_named(
    sources: Mapping[str, Source], types: Types, source: str, path: str
) -> Field | None:
    """How what a path ends at is said, under the name of the path; none where it leads nowhere."""
    end = field_at(sources, types, source, path)
    if end is None:
        return None
    if end.gives in COUNTS:
        title = sources[end.source].title or end.source
        one, several = counted_words(title) if end.gives == "many" else ("", "")
        made = Field(name=path, type="whole number", label=title, when_empty="")
        return replace(made, unit=several, unit_of_one=one)
    of = next((each for each in sources[end.source].fields if each.name == end.field), None)
    of = of or Field(name=end.field)
    kept = {name: getattr(of, name) for name in ("unit", "unit_of_one", "decimals", "date")}
    label = of.label or end.field
    return Field(name=path, type=end.type, label=label, when_empty="", **kept)


def _names_bound(app: App) -> Iterator[tuple[str, str]]:
    """Every name that an app binds, with the source that it is looked for in."""
    for source in app.sources:
        yield from _in_source(source)
    yield from _carried(app)
    for screen in app.screens:
        yield from _bound(screen)


@once
def _in_source(source: Source) -> list[tuple[str, str]]:
    empty = [name for each in source.fields for name in names_in(each.when_empty)]
    return [(source.id, name) for name in (*empty, *(rule.field for rule in source.stands_out))]


@once
def _bound(screen: Screen) -> list[tuple[str, str]]:
    """Every name that a screen binds, with the source that it is looked for in."""
    lists = listings(screen).values()
    bound = [(listing.source, name) for listing in lists for name in _in_listing(listing)]
    if isinstance(screen, DetailScreen | FormScreen):
        bound += [(screen.source, name) for name in _on_screen(screen)]
    return bound


def _carried(app: App) -> Iterator[tuple[str, str]]:
    for link in app.links:
        source = source_of(app, link.trigger)
        if source is not None:
            for argument in link.arguments:
                if isinstance(argument, FromField):
                    yield source.id, argument.field


def _in_listing(listing: Listing) -> Iterator[str]:
    row = listing.row
    for text in (row.title, row.subtitle, row.badge):
        yield from names_in(text)
    yield from (row.picture, listing.group_by, *listing.search)
    for column in listing.columns:
        yield from names_in(column.shows) or (column.shows,)
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
