"""What Shape's strip says of a list: its layout, order, groups, limit, words and actions."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial
from typing import Any, Final

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.document.known_references import references_in
from cadena.desktop.stages.list_settings import group_words
from cadena.desktop.stages.shape.about_actions import action_chips
from cadena.desktop.stages.shape.about_columns import column_sentences, columns_in_short, in_columns
from cadena.desktop.stages.shape.about_conditions import (
    CONDITION,
    ListChange,
    condition_sentences,
)
from cadena.desktop.stages.shape.copy_to_source import again_matter
from cadena.desktop.stages.shape.strips_above import add_strip, remove_strip
from cadena.desktop.widgets.bound import Bound, matter_of, replaced, without
from cadena.desktop.widgets.words import (
    NOTHING,
    Matter,
    Sentence,
    Word,
    calmly,
    one_line,
    screen_words,
)
from cadena.model.app import ListScreen, Screen
from cadena.model.edits.wiring import with_screen
from cadena.model.find import by_id
from cadena.model.in_words import condition_words
from cadena.model.listing import (
    Button,
    Condition,
    Follow,
    Group,
    LeaveFor,
    Listing,
    Mark,
    OnPress,
    Order,
    SetValue,
    Sort,
    TakeMarker,
)
from cadena.model.properties import value_words
from cadena.model.references import paths_offered
from cadena.model.screen_parts import listings
from cadena.model.values import FieldType

MOST_SEARCHED: Final = 12


def about_list(document: Document, screen: Screen, part: str) -> list[Sentence]:
    """Everything of a list but its row."""
    listing = listings(screen).get(part)
    if listing is None:
        return []
    change = ListChange(document, screen, part)
    bound = Bound(listing, change, document.refuse)
    paths = paths_offered(document.app, document.types, listing.source)
    types = {**document.types.get(listing.source, {}), **paths}
    name = screen_words(screen) + (f" · {part}" if part else "")
    first = [Word("subject", name), Word("text", f"is a list of {listing.source}")]
    matters = _matters(document, change, listing, bound, types)
    lines = []
    take = partial(_take_actions, change)
    if row := action_chips(document, "On a row", "row action", listing.actions, take, on_row=True):
        lines.append(row)
    if isinstance(screen, ListScreen) and not part:
        matters.append(_strips_matter(document, screen))
        matters.append(again_matter(document, screen))
        own = partial(_take_own, document, screen)
        lines.append(action_chips(document, "In its bar", "button", screen.buttons, own))
    return calmly(first, matters, *lines)


def _matters(
    document: Document,
    change: ListChange,
    listing: Listing,
    bound: Bound,
    types: Mapping[str, FieldType],
) -> list[Matter]:
    """What can be so of a list, in the order in which one would say it."""
    order = ", ".join(each.field + (" ↓" if each.descending else " ↑") for each in listing.sort)
    groups = ", ".join(each.title for each in listing.groups) or listing.group_by
    kept = " and ".join(condition_words(each) for each in listing.where)
    offered = ", ".join(each.name for each in listing.orders)
    said = [each for each in (listing.empty, listing.not_found) if each]
    limit = "" if listing.limit is None else str(listing.limit)
    names = list(types)

    return [
        bound.matter(
            "layout",
            value_words(listing, "layout"),
            one_line(_layout_words, change, listing, bound, types),
        ),
        bound.matter(
            "columns",
            columns_in_short(listing),
            partial(column_sentences, change, listing, types),
        )
        if listing.layout == "columns"
        else NOTHING,
        bound.matter("sort", order, one_line(_sort_words, change, listing, names)),
        bound.matter("groups", groups, partial(_group_sentences, document, change, listing, types)),
        bound.some("search", _searchable(types), "search", "search {}"),
        bound.matter("where", kept, partial(_condition_lines, change, listing, types)),
        bound.chosen("density", "density", "rows are {}", usual="regular"),
        bound.inner("row").on("takes_ground"),
        bound.matter("limit", limit, partial(_limit, bound)),
        bound.matter("press", _press_in_short(listing), partial(_press, document, change, listing)),
        bound.chosen("several", "picking: {}", "rows: {}", usual="no"),
        bound.matter("orders", offered, one_line(_order_words, change, listing, names)),
        bound.matter("empty", f"“{said[0]}”" if said else "", partial(_empty_words, bound)),
    ]


def _press_in_short(listing: Listing) -> str:
    match listing.press:
        case SetValue() as press:
            return f"sets app-wide {press.value}"
        case Mark() as press:
            return f"marks it in {press.value}"
        case TakeMarker():
            return "only takes the marker"
        case LeaveFor() as press:
            return f"leaves for the address in {press.field}"
    return ""


def _press(document: Document, change: ListChange, listing: Listing) -> list[Sentence]:
    """What a press on a row does: it opens its link, unless it is said to do something else."""
    ways: list[tuple[str, OnPress]] = [("opens its link", Follow())]
    for value in document.app.values:
        marks = value.type.startswith("list of")
        said = f"marks it in {value.id}" if marks else f"sets app-wide {value.id} to its key"
        ways.append((said, Mark(value=value.id) if marks else SetValue(value=value.id)))
    ways.append(("only takes the marker", TakeMarker()))
    names = document.types.get(listing.source, {})
    ways += [(f"leaves for the address in {e}", LeaveFor(field=e)) for e in names]
    options = [(said, partial(change, "a press", press=press)) for said, press in ways]
    now = next((said for said, press in ways if press == listing.press), "opens its link")
    return [Sentence("A press", [Word("menu", now, name="a press on a row", options=options)])]


def _limit(bound: Bound) -> list[Sentence]:
    return [
        Sentence("At most", [bound.count("limit", "limit"), Word("text", "rows")]),
        Sentence("Past that", [bound.text("past_limit", "words past the limit")]),
    ]


def _empty_words(bound: Bound) -> list[Sentence]:
    return [
        Sentence("When empty", [bound.text("empty", "empty words")]),
        Sentence("Not found", [bound.text("not_found", "words for nothing found")]),
    ]


def _layout_words(
    change: ListChange, listing: Listing, bound: Bound, types: Mapping[str, FieldType]
) -> list[Word]:
    words = bound.one_of("layout", "lay out as {}", "laid out as {}")
    own = [*change.document.types.get(listing.source, {})]
    inside = partial(in_columns, change, listing, types, own)
    words = [e._replace(does=inside) if e.text == "columns" else e for e in words]
    if not listing.has_tiles:
        return words
    return [
        *words,
        Word("text", "of at least" if listing.layout == "grid" else "each"),
        bound.number("tile", "width of a tile in dp"),
        Word("text", "dp"),
    ]


def _searchable(types: Mapping[str, FieldType]) -> list[str]:
    kinds = ("text", "whole number", "number")
    return [each for each, kind in types.items() if kind in kinds][:MOST_SEARCHED]


def _take_actions(change: ListChange, buttons: tuple[Button, ...]) -> None:
    change("row actions", actions=buttons)


def _take_own(document: Document, screen: ListScreen, buttons: tuple[Button, ...]) -> None:
    made = replace(screen, buttons=buttons)
    document.edit(f"actions of {screen.id}", with_screen(document.app, made))


def _strips_matter(document: Document, screen: ListScreen) -> Matter:
    """Strips above a list, whose choice filters it."""
    now = ", ".join(each.id for each in screen.above)
    inside = one_line(_strip_words, document, screen)
    return matter_of(ListScreen, "above", now, inside)


def _strip_words(document: Document, screen: ListScreen) -> list[Word]:
    words = [
        Word("do", f"Remove strip {strip.id}", partial(remove_strip, document, screen, strip.id))
        for strip in screen.above
    ]
    options = [
        (
            f"{source.title or source.id} filter {field}",
            partial(add_strip, document, screen, source, field),
        )
        for source, field in _strip_options(document, screen)
    ]
    if not options and not words:
        return [Word("text", "no field of it refers to another source, whose records could choose")]
    return [*words, Word("menu", "+ a strip of choices", name="add a strip", options=options)]


def _strip_options(document: Document, screen: ListScreen) -> list[tuple[Any, str]]:
    return [
        (source, reference.field)
        for reference in references_in(document)
        if reference.source == screen.rows.source
        and (source := by_id(document.app.sources, reference.to)) is not None
    ]


def _order_words(change: ListChange, listing: Listing, names: list[str]) -> list[Word]:
    """The orders that the list offers its person: each by its name, and a way to one more."""
    words: list[Word] = []
    for at, order in enumerate(listing.orders):
        # An order by nothing can be in a project, and is told by a check.
        by = order.sort[0].field if order.sort else "nothing"
        called = partial(_call_order, change, listing, at)
        words.append(Word("line", order.name, called, name=f"name of the order by {by}"))
        for sort in order.sort[:1]:
            turned = replace(order, sort=(replace(sort, descending=not sort.descending),))
            way = f"{sort.field} {'downwards' if sort.descending else 'upwards'}"
            turn = partial(change, "orders", orders=replaced(listing.orders, at, turned))
            words.append(Word("do", way, turn, name=f"order by {way}"))
        drop = partial(change, "orders", orders=without(listing.orders, at))
        words.append(Word("do", "✕", drop, name=f"offer no order by {by}"))
    options = [
        (name, partial(change, "orders", orders=(*listing.orders, _order_by(name))))
        for name in names
    ]
    return [*words, Word("menu", "+ order by", name="offer an order", options=options)]


def _order_by(field: str) -> Order:
    return Order(name=f"By {field.replace('_', ' ')}", sort=(Sort(field=field),))


def _call_order(change: ListChange, listing: Listing, at: int, name: str) -> None:
    if name.strip():
        made = replace(listing.orders[at], name=name.strip())
        change("orders", orders=replaced(listing.orders, at, made))


def _sort_words(change: ListChange, listing: Listing, names: list[str]) -> list[Word]:
    words: list[Word] = []
    for at, sort in enumerate(listing.sort):
        turned = replaced(listing.sort, at, replace(sort, descending=not sort.descending))
        way = f"{sort.field} {'downwards' if sort.descending else 'upwards'}"
        turn = partial(change, "order", sort=turned)
        drop = partial(change, "order", sort=without(listing.sort, at))
        words += [
            Word("text", "then" if at else "by"),
            Word("do", way, turn, name=f"turn order {at + 1}"),
            Word("do", "✕", drop, name=f"remove order {at + 1}"),
        ]
    used = {each.field for each in listing.sort}
    options = [
        (name, partial(change, "order", sort=(*listing.sort, Sort(field=name))))
        for name in names
        if name not in used
    ]
    return [*words, Word("menu", "+ field", name="add to the order", options=options)]


def _group_sentences(
    document: Document, change: ListChange, listing: Listing, types: Mapping[str, FieldType]
) -> list[Sentence]:
    """Grouped by a field, or in groups of their own, each with its title and its conditions."""
    options: list[tuple[str, Any]] = [("not", partial(change, "groups", group_by="", groups=()))]
    options += [
        (f"by {each}", partial(change, "groups", group_by=each, groups=())) for each in types
    ]
    options += [
        (f"to do and done, by {each}", partial(change, "groups", group_by="", groups=_to_do(each)))
        for each, kind in types.items()
        if kind == "yes/no"
    ]
    now = f"by {listing.group_by}" if listing.group_by else "not"
    if listing.groups:
        now = "in order"
    said = [Sentence("", [Word("menu", now, name="grouped", options=options)])]
    for at in range(len(listing.groups)):
        said += _one_group(change, listing, types, at)
    if listing.groups:
        made = (*listing.groups, Group(title="The rest"))
        more = Word("do", "+ group", partial(change, "groups", groups=made), name="one more group")
        said.append(Sentence("", [more]))
    if listing.is_grouped:
        starts = group_words(document, change.screen, change.part)
        said.append(Sentence("", [Word("text", "and they are"), *starts]))
    return said


def _one_group(
    change: ListChange, listing: Listing, types: Mapping[str, FieldType], at: int
) -> list[Sentence]:
    bound = Bound(listing, change, change.document.refuse).item("groups", at)
    drop = partial(change, "groups", groups=without(listing.groups, at))
    title = [
        bound.text("title", f"title of group {at + 1}"),
        Word("do", "✕", drop, name=f"remove group {at + 1}"),
    ]
    where = partial(_take_where, bound.change)
    conditions = condition_sentences(change, bound.of.where, types, where, f"group {at + 1}: ")
    return [Sentence("Group", title), *conditions]


def _take_where(take: Any, where: tuple[Condition, ...]) -> None:
    take(CONDITION, where=where)


def _condition_lines(
    change: ListChange, listing: Listing, types: Mapping[str, FieldType]
) -> list[Sentence]:
    return condition_sentences(change, listing.where, types, partial(_take_where, change))


def _to_do(field: str) -> tuple[Group, ...]:
    """Two groups, in order: not yet, and done."""
    return (
        Group(title="To do", where=(Condition(field=field, constant=False),)),
        Group(title="Done", where=(Condition(field=field, constant=True),)),
    )
