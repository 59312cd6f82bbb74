"""What Shape's strip says of a list: its layout, order, groups, limit, words and actions."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial
from typing import Any, Final

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.document.known_references import references_in
from cadena.desktop.stages.list_settings import group_words
from cadena.desktop.stages.shape.about_actions import action_sentences
from cadena.desktop.stages.shape.copy_to_source import about_again
from cadena.desktop.stages.shape.strips_above import add_strip, remove_strip
from cadena.desktop.widgets.bound import Bound, replaced, without
from cadena.desktop.widgets.words import Sentence, Word, screen_words
from cadena.model.app import ListScreen, Screen
from cadena.model.edits import shaping
from cadena.model.edits.wiring import with_screen
from cadena.model.find import by_id
from cadena.model.listing import Button, Condition, Group, Listing, Order, Sort
from cadena.model.screen_parts import listings
from cadena.model.values import shown

LAYOUTS: Final = (("rows", "rows"), ("grid", "a grid"), ("strip", "a strip across"))
TESTS: Final = ("is", "is not", "under", "over", "at least", "at most", "contains", "is one of")
ALL_TESTS: Final = (*TESTS, "is empty", "is filled")
CONDITION: Final = "condition"
TILE: Final = (24, 2000)
"""dp that a tile can be wide."""
MOST_SEARCHED: Final = 12


def list_in_short(listing: Listing) -> list[tuple[str, str]]:
    """What there is to say of a list, each in few words."""
    groups = ", ".join(each.title for each in listing.groups) or (
        f"by {listing.group_by}" if listing.group_by else "no"
    )
    order = ", ".join(each.field + (" ↓" if each.descending else "") for each in listing.sort)
    kept = " and ".join(condition_words(each) for each in listing.where) or "all"
    actions = ", ".join(each.label for each in listing.actions) or "none"
    return [
        ("Laid out as", listing.layout),
        ("Grouped", groups),
        ("Sorted", order or "as read"),
        ("Searched", ", ".join(listing.search) or "no"),
        ("Kept", kept),
        ("At most", "all" if listing.limit is None else str(listing.limit)),
        ("Actions", actions),
    ]


def condition_words(condition: Condition) -> str:
    """A condition in words."""
    if condition.argument:
        wanted = f"argument {condition.argument}"
    elif condition.value:
        wanted = condition.value
    elif condition.choice:
        wanted = f"the choice in {condition.choice}"
    else:
        wanted = "" if condition.constant is None else shown(condition.constant)
    return f"{condition.field} {condition.test} {wanted}".strip()


class Change:
    """Changes one list of a screen."""

    def __init__(self, document: Document, screen: Screen, part: str) -> None:
        self.document, self.screen, self.part = document, screen, part

    def __call__(self, what: str, **changed: Any) -> None:
        document = self.document
        screen = by_id(document.app.screens, self.screen.id)
        listing = None if screen is None else listings(screen).get(self.part)
        if screen is None or listing is None:
            return
        app = shaping.with_listing(document.app, screen, self.part, replace(listing, **changed))
        document.edit(f"{what} of {screen.id}", app)


def about_list(document: Document, screen: Screen, part: str) -> list[Sentence]:
    """Everything of a list but its row."""
    listing = listings(screen).get(part)
    if listing is None:
        return []
    change = Change(document, screen, part)
    bound = Bound(listing, change, document.refuse)
    types = document.types.get(listing.source, {})
    said = [
        Sentence("", _layout_words(screen, part, listing, bound)),
        Sentence("Sorted", _sort_words(change, listing, list(types))),
        Sentence("Offers", _order_words(change, listing, list(types))),
        Sentence("Searched", bound.several("search", _searchable(types), "search", "search {}")),
        Sentence("Grouped", _group_words(document, change, listing, types)),
        *_kept_sentences(change, listing, types),
        Sentence(
            "At most",
            [
                bound.count("limit", "limit"),
                Word("text", "rows, and past that it says"),
                bound.text("past_limit", "words past the limit"),
            ],
        ),
        Sentence(
            "When empty",
            [
                bound.text("empty", "empty words"),
                Word("text", "· nothing found"),
                bound.text("not_found", "words for nothing found"),
            ],
        ),
    ]
    take = partial(_take_actions, change)
    said += action_sentences(document, "Row actions", listing.actions, take, on_row=True)
    if isinstance(screen, ListScreen) and not part:
        said += _own_actions(document, screen)
        said.append(Sentence("Above it", _strip_words(document, screen)))
        said += about_again(document, screen)
    return said


def _layout_words(screen: Screen, part: str, listing: Listing, bound: Bound) -> list[Word]:
    name = screen_words(screen) + (f" · {part}" if part else "")
    words = [
        Word("subject", name),
        Word("text", f"is a list of {listing.source}, laid out as"),
        *bound.one_of("layout", LAYOUTS, "lay out as {}", "laid out as {}"),
    ]
    if listing.layout == "rows":
        return words
    return [
        *words,
        Word("text", "of at least" if listing.layout == "grid" else "each"),
        bound.number("tile", "width of a tile in dp", *TILE),
        Word("text", "dp"),
    ]


def _searchable(types: Mapping[str, str]) -> list[str]:
    kinds = ("text", "whole number", "number")
    return [each for each, kind in types.items() if kind in kinds][:MOST_SEARCHED]


def _take_actions(change: Change, buttons: tuple[Button, ...]) -> None:
    change("row actions", actions=buttons)


def _own_actions(document: Document, screen: ListScreen) -> list[Sentence]:
    def change(buttons: tuple[Button, ...]) -> None:
        made = replace(screen, buttons=buttons)
        document.edit(f"actions of {screen.id}", with_screen(document.app, made))

    return action_sentences(document, "Its actions", screen.buttons, change)


def _strip_words(document: Document, screen: ListScreen) -> list[Word]:
    """Strips above a list, whose choice filters it."""
    words = [
        Word(
            "do",
            f"Remove strip {each.id}",
            partial(remove_strip, document, screen, each.id),
        )
        for each in screen.above
    ]
    options = [
        (
            f"{source.title or source.id} filter {field}",
            partial(add_strip, document, screen, source, field),
        )
        for source, field in _strip_options(document, screen)
    ]
    return [*words, Word("menu", "+ a strip of choices", name="add a strip", options=options)]


def _strip_options(document: Document, screen: ListScreen) -> list[tuple[Any, str]]:
    return [
        (source, each.field)
        for each in references_in(document)
        if each.source == screen.rows.source
        and (source := by_id(document.app.sources, each.to)) is not None
    ]


def _order_words(change: Change, listing: Listing, names: list[str]) -> list[Word]:
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
        (each, partial(change, "orders", orders=(*listing.orders, _order_by(each))))
        for each in names
    ]
    return [*words, Word("menu", "+ order by", name="offer an order", options=options)]


def _order_by(field: str) -> Order:
    return Order(name=f"By {field.replace('_', ' ')}", sort=(Sort(field=field),))


def _call_order(change: Change, listing: Listing, at: int, name: str) -> None:
    if name.strip():
        made = replace(listing.orders[at], name=name.strip())
        change("orders", orders=replaced(listing.orders, at, made))


def _sort_words(change: Change, listing: Listing, names: list[str]) -> list[Word]:
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
        (each, partial(change, "order", sort=(*listing.sort, Sort(field=each))))
        for each in names
        if each not in used
    ]
    return [*words, Word("menu", "+ field", name="add to the order", options=options)]


def _group_words(document: Document, change: Change, listing: Listing, types: Any) -> list[Word]:
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
    words = [Word("menu", now, name="grouped", options=options)]
    for at, group in enumerate(listing.groups):
        said = " and ".join(condition_words(each) for each in group.where) or "all the rest"

        def rename(text: str, at: int = at, group: Group = group) -> None:
            change("groups", groups=replaced(listing.groups, at, replace(group, title=text)))

        words += [
            Word("line", group.title, rename, name=f"title of group {at + 1}"),
            Word("text", said),
        ]
    if listing.is_grouped:
        words.append(Word("text", "and they are"))
        words += group_words(document, change.screen, change.part)
    return words


def _to_do(field: str) -> tuple[Group, ...]:
    """Two groups, in order: not yet, and done."""
    return (
        Group(title="To do", where=(Condition(field=field, constant=False),)),
        Group(title="Done", where=(Condition(field=field, constant=True),)),
    )


def _kept_sentences(change: Change, listing: Listing, types: Any) -> list[Sentence]:
    """The conditions, one a line, and a way to another."""
    said = [
        Sentence("Kept" if not at else "and", _condition_words(change, listing, types, at))
        for at in range(len(listing.where))
    ]
    options = [
        (each, partial(change, "condition", where=(*listing.where, Condition(field=each))))
        for each in types
    ]
    add = Word("menu", "+ condition", name="add a condition", options=options)
    return [*said, Sentence("" if said else "Kept", [add])]


def _condition_words(change: Change, listing: Listing, types: Any, at: int) -> list[Word]:
    condition = listing.where[at]

    def changed(what: str, **made: Any) -> None:
        change(what, where=replaced(listing.where, at, replace(condition, **made)))

    bound = Bound(condition, changed, change.document.refuse)
    words = [
        Word("text", condition.field),
        bound.menu("test", [(each, each) for each in ALL_TESTS], f"test {at + 1}", what=CONDITION),
        Word(
            "menu",
            _compared(condition),
            name=f"compared with {at + 1}",
            options=_comparands(change, partial(changed, CONDITION)),
        ),
    ]
    if not (condition.argument or condition.value or condition.choice):
        kind = types.get(condition.field, "text")
        words.append(bound.value("constant", f"value {at + 1}", kind, CONDITION))
    drop = partial(change, CONDITION, where=without(listing.where, at))
    return [*words, Word("do", "✕", drop, name=f"remove condition {at + 1}")]


def _compared(condition: Condition) -> str:
    for kind in ("argument", "value", "choice"):
        if name := getattr(condition, kind):
            return f"{kind} {name}"
    return "this value"


def _comparands(change: Change, changed: Any) -> Any:
    blank = {"argument": "", "value": "", "choice": "", "constant": None}
    screen, part = change.screen, change.part
    found = [("argument", each.name) for each in screen.parameters]
    found += [("value", each.id) for each in change.document.app.values]
    found += [
        ("choice", other)
        for other, listing in listings(screen).items()
        if other != part and listing.layout == "strip"
    ]
    options = [
        (f"{kind} {name}", partial(changed, **{**blank, kind: name})) for kind, name in found
    ]
    return [("this value", partial(changed, **blank)), *options]
