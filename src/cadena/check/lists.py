"""Checks of lists against their records: what a row shows is there, told once, and not cut mute."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from operator import eq
from typing import Final

from msgspec.structs import replace

from cadena.check.finding import Finding, Mend, found, of_screen
from cadena.engine.layout.table_columns import columns_shown
from cadena.model.app import App, DetailScreen, ListScreen, Screen
from cadena.model.edits.shaping import with_listing
from cadena.model.edits.wiring import Types, with_screen
from cadena.model.find import by_id
from cadena.model.in_words import condition_words
from cadena.model.listing import Condition, Listing, Row
from cadena.model.screen_parts import listings
from cadena.model.source import Source
from cadena.model.windows import windows_of
from cadena.records.query import query
from cadena.records.records import Records, held_like
from cadena.records.template import fields_in

ALIKE: Final = 0.95
LOOKED_AT: Final = 20_000


def listing_findings(
    app: App, all_records: Mapping[str, Records], screen: Screen, listing: Listing, where: str
) -> Iterator[Finding]:
    """What the records say against one list of a screen."""
    records = all_records.get(listing.source)
    source = by_id(app.sources, listing.source)
    if records is None or source is None:
        return
    yield from _row_findings(source, records, screen, listing, where)
    if listing.limit is not None and len(records) > listing.limit and not listing.past_limit:
        kept = len(records)
        if not listing.where:
            yield found(
                "limit-without-words",
                of_screen(screen),
                f"the list shows {listing.limit} of {kept} records, and has no words for it",
                f"{where}.past_limit",
            )
    if listing.layout == "columns" and not columns_shown(listing, _widest(app)):
        yield found(
            "columns-never",
            of_screen(screen),
            "not even two of its columns have room in any window that the app names",
            f"{where}.columns",
        )
    if listing.row.takes_ground and not source.stands_out:
        yield found(
            "ground-never",
            of_screen(screen),
            f"its rows take the ground of what stands out, and nothing of {source.id} does",
            f"{where}.row.takes_ground",
        )
    for order in listing.orders:
        if not order.sort:
            yield found(
                "order-empty",
                of_screen(screen),
                f"{order.name} is offered as an order, and sorts by nothing",
                f"{where}.orders[{order.name}]",
            )
    if len(records) and isinstance(screen, DetailScreen):
        yield from _nested_findings(all_records, screen, listing, records, where)


def _row_findings(
    source: Source, records: Records, screen: Screen, listing: Listing, where: str
) -> Iterator[Finding]:
    bound = dict(bound_by_row(listing.row, where))
    if source.list_brings:
        for name, place in bound.items():
            if name in records.types and name not in (*source.list_brings, source.key):
                yield found(
                    "row-needs-item-call",
                    of_screen(screen),
                    f'"{name}" is bound on a row, and only the item call of {source.id} brings it',
                    place,
                )
    said: list[tuple[str, str]] = []
    for slot, text in slots(listing.row):
        names = [each for each in fields_in(text) if each in records.types]
        for name in names:
            for other_slot, other in said:
                if other_slot != slot and _say_the_same(records, name, other):
                    yield found(
                        "row-says-twice",
                        of_screen(screen, slot),
                        f'"{name}" says on a row what "{other}" says there already',
                        f"{where}.row.{slot}",
                    )
        said += [(slot, name) for name in names]


def slots(row: Row) -> tuple[tuple[str, str], ...]:
    """The texts of a row, by slot."""
    return ("title", row.title), ("subtitle", row.subtitle), ("badge", row.badge)


def bound_by_row(row: Row, where: str) -> Iterator[tuple[str, str]]:
    """The fields that a row binds, each with the path of its place."""
    for slot, text in slots(row):
        for name in fields_in(text):
            yield name, f"{where}.row.{slot}"
    if row.picture:
        yield row.picture, f"{where}.row.picture"


def _say_the_same(records: Records, one: str, other: str) -> bool:
    if one == other:
        return True
    if held_like(records.types[one]) != held_like(records.types[other]):
        return False
    first, second = (records.values_of(name, LOOKED_AT) for name in (one, other))
    return len(set(first)) >= 3 and sum(map(eq, first, second)) >= ALIKE * len(first)


def _nested_findings(
    all_records: Mapping[str, Records],
    screen: DetailScreen,
    listing: Listing,
    records: Records,
    where: str,
) -> Iterator[Finding]:
    """A nested list that is empty for every record there is."""
    outer = all_records.get(screen.source)
    if outer is None or not len(outer) or not listing.where:
        return
    constants = tuple(each for each in listing.where if not each.argument and not each.value)
    left = query(records, Listing(source=listing.source, where=constants))
    by_key = [each for each in listing.where if each.argument == screen.key and each.test == "is"]
    matches = len(left) > 0 and all(_meets(left.records, each, outer) for each in by_key)
    if not matches:
        said = " and ".join(condition_words(each) for each in listing.where)
        yield found(
            "nested-matches-nothing",
            of_screen(screen),
            f"no record of {listing.source} passes: {said}",
            f"{where}.where",
            screen=screen.id,
        )


def _meets(records: Records, condition: Condition, outer: Records) -> bool:
    """Whether any value of the field is a key of the records that the detail is about."""
    if condition.field not in records.types:
        return True
    key = outer.source.key
    if held_like(records.types[condition.field]) != held_like(outer.types.get(key, "text")):
        return False
    values = set(records.values_of(condition.field)) - {None}
    return not values.isdisjoint(outer.values_of(key))


def _with_words_past_limit(app: App, types: Types, finding: Finding) -> App | None:
    screen = by_id(app.screens, finding.subject.name)
    if not isinstance(screen, ListScreen):
        return None
    rows = replace(screen.rows, past_limit="{shown} shown, {found} found, {all} in all")
    return with_screen(app, replace(screen, rows=rows))


def _widest(app: App) -> float:
    """The widest that a list can be in the windows that an app names, in dp."""
    return max(max(each.width, each.height) for each in windows_of(app))


def _in_rows(app: App, types: Types, finding: Finding) -> App | None:
    """Every list of the screen whose columns never have room is laid out in rows."""
    screen = by_id(app.screens, finding.subject.name)
    if screen is None:
        return None
    for part, listing in listings(screen).items():
        if listing.layout == "columns" and not columns_shown(listing, _widest(app)):
            app = with_listing(app, screen, part, replace(listing, layout="rows"))
    return app


def _with_slot_emptied(app: App, types: Types, finding: Finding) -> App | None:
    screen = by_id(app.screens, finding.subject.name)
    if not isinstance(screen, ListScreen):
        return None
    row = replace(screen.rows.row, **{finding.subject.part: ""})
    return with_screen(app, replace(screen, rows=replace(screen.rows, row=row)))


MENDS: Final[Mapping[str, Mend]] = {
    "columns-never": _in_rows,
    "limit-without-words": _with_words_past_limit,
    "row-says-twice": _with_slot_emptied,
}
