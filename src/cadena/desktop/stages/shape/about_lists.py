"""What Shape's strip says of a list: its layout, order, groups, limit, words and actions."""

from __future__ import annotations

from functools import partial
from typing import Any, Final

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.document.known_references import references_in
from cadena.desktop.stages.list_settings import group_words
from cadena.desktop.stages.shape.about_actions import action_sentences
from cadena.desktop.stages.shape.copy_to_source import about_again
from cadena.desktop.stages.shape.strips_above import add_strip, remove_strip
from cadena.desktop.widgets.words import Sentence, Word, screen_words
from cadena.model.app import ListScreen, Screen
from cadena.model.edits import shaping
from cadena.model.edits.wiring import with_screen
from cadena.model.find import by_id
from cadena.model.listing import Button, Condition, Group, Listing, Sort
from cadena.model.screen_parts import listings
from cadena.model.values import Unfit, carry, shown

LAYOUTS: Final = (("rows", "rows"), ("grid", "a grid"), ("strip", "a strip across"))
TESTS: Final = ("is", "is not", "under", "over", "at least", "at most", "contains", "is one of")


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
    types = document.types.get(listing.source, {})
    name = screen_words(screen) + (f" · {part}" if part else "")
    first: list[Word] = [
        Word("subject", name),
        Word("text", f"is a list of {listing.source}, laid out as"),
        *(
            Word(
                "choice",
                words,
                partial(change, f"lay out as {words}", layout=each),
                listing.layout == each,
                f"laid out as {words}",
            )
            for each, words in LAYOUTS
        ),
    ]
    if listing.layout != "rows":
        first += [
            Word("text", "of at least" if listing.layout == "grid" else "each"),
            Word(
                "line",
                f"{listing.tile:g}",
                partial(_take_number, document, change, "tile", 24, 2000),
                name="width of a tile in dp",
            ),
            Word("text", "dp"),
        ]
    said = [Sentence("", first)]
    said.append(Sentence("Sorted", _sort_words(change, listing, list(types))))
    said.append(Sentence("Searched", _search_words(change, listing, types)))
    said.append(Sentence("Grouped", _group_words(document, change, listing, types)))
    said += _kept_sentences(document, change, screen, part, listing, types)
    limit = "" if listing.limit is None else str(listing.limit)
    said.append(
        Sentence(
            "At most",
            [
                Word(
                    "line",
                    limit,
                    partial(_take_limit, document, change),
                    name="limit",
                ),
                Word("text", "rows, and past that it says"),
                Word(
                    "line",
                    listing.past_limit,
                    lambda text: change("words past the limit", past_limit=text),
                    name="words past the limit",
                ),
            ],
        )
    )
    said.append(
        Sentence(
            "When empty",
            [
                Word(
                    "line",
                    listing.empty,
                    lambda t: change("empty words", empty=t),
                    name="empty words",
                ),
                Word("text", "· nothing found"),
                Word(
                    "line",
                    listing.not_found,
                    lambda text: change("words for nothing found", not_found=text),
                    name="words for nothing found",
                ),
            ],
        )
    )
    said += action_sentences(
        document,
        "Row actions",
        listing.actions,
        lambda buttons: change("row actions", actions=buttons),
        on_row=True,
    )
    if isinstance(screen, ListScreen) and not part:
        said += _own_actions(document, screen)
        said.append(Sentence("Above it", _strip_words(document, screen)))
        said += about_again(document, screen)
    return said


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


def _take_number(
    document: Document, change: Change, name: str, least: float, most: float, text: str
) -> None:
    try:
        value = float(text)
    except ValueError:
        value = -1.0
    if not least <= value <= most:
        document.failed.emit(f'"{text}" came, a number from {least:g} to {most:g} was wanted')
        return
    change(name, **{name: value})


def _take_limit(document: Document, change: Change, text: str) -> None:
    text = text.strip()
    if text and (not text.isdecimal() or int(text) < 1):
        document.failed.emit(f'"{text}" came, a whole number from 1 was wanted, or nothing')
        return
    change("limit", limit=int(text) if text else None)


def _sort_words(change: Change, listing: Listing, names: list[str]) -> list[Word]:
    words: list[Word] = []
    for at, sort in enumerate(listing.sort):
        turned = replace(sort, descending=not sort.descending)
        flipped = (*listing.sort[:at], turned, *listing.sort[at + 1 :])
        without = listing.sort[:at] + listing.sort[at + 1 :]
        way = "downwards" if sort.descending else "upwards"
        words += [
            Word("text", "then" if at else "by"),
            Word(
                "do",
                f"{sort.field} {way}",
                partial(change, "order", sort=flipped),
                name=f"turn order {at + 1}",
            ),
            Word("do", "✕", partial(change, "order", sort=without), name=f"remove order {at + 1}"),
        ]
    used = {each.field for each in listing.sort}
    options = [
        (each, partial(change, "order", sort=(*listing.sort, Sort(field=each))))
        for each in names
        if each not in used
    ]
    return [*words, Word("menu", "+ field", name="add to the order", options=options)]


def _search_words(change: Change, listing: Listing, types: Any) -> list[Word]:
    texts = [each for each, kind in types.items() if kind in ("text", "whole number", "number")]
    words = []
    for name in texts[:12]:
        is_in = name in listing.search
        made = (
            tuple(each for each in listing.search if each != name)
            if is_in
            else (*listing.search, name)
        )
        words.append(
            Word("toggle", name, partial(change, "search", search=made), is_in, f"search {name}")
        )
    return words


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
            made = replace(group, title=text)
            change("groups", groups=(*listing.groups[:at], made, *listing.groups[at + 1 :]))

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


def _kept_sentences(
    document: Document,
    change: Change,
    screen: Screen,
    part: str,
    listing: Listing,
    types: Any,
) -> list[Sentence]:
    """The conditions, one a line, and a way to another."""
    said = []
    for at, condition in enumerate(listing.where):
        rest = listing.where[:at] + listing.where[at + 1 :]

        def changed(at: int = at, condition: Condition = condition, **made: Any) -> None:
            where = list(listing.where)
            where[at] = replace(condition, **made)
            change("condition", where=tuple(where))

        tests = [(each, partial(changed, test=each)) for each in (*TESTS, "is empty", "is filled")]
        words: list[Word] = [
            Word("text", condition.field),
            Word("menu", condition.test, name=f"test {at + 1}", options=tests),
            Word(
                "menu",
                _compared(condition),
                name=f"compared with {at + 1}",
                options=_comparands(document, screen, part, changed),
            ),
        ]
        if not (condition.argument or condition.value or condition.choice):
            kind = types.get(condition.field, "text")
            value = "" if condition.constant is None else shown(condition.constant)
            take = partial(_take_constant, document, changed, kind)
            words.append(Word("line", value, take, name=f"value {at + 1}"))
        words.append(
            Word(
                "do",
                "✕",
                partial(change, "condition", where=rest),
                name=f"remove condition {at + 1}",
            )
        )
        said.append(Sentence("Kept" if not at else "and", words))
    options = [
        (each, partial(change, "condition", where=(*listing.where, Condition(field=each))))
        for each in types
    ]
    add = Word("menu", "+ condition", name="add a condition", options=options)
    return [*said, Sentence("" if said else "Kept", [add])]


def _compared(condition: Condition) -> str:
    for kind in ("argument", "value", "choice"):
        if name := getattr(condition, kind):
            return f"{kind} {name}"
    return "this value"


def _comparands(document: Document, screen: Screen, part: str, changed: Any) -> Any:
    blank = {"argument": "", "value": "", "choice": "", "constant": None}
    options = [("this value", partial(changed, **blank))]
    for each in screen.parameters:
        options.append(
            (f"argument {each.name}", partial(changed, **{**blank, "argument": each.name}))
        )
    for value in document.app.values:
        options.append((f"value {value.id}", partial(changed, **{**blank, "value": value.id})))
    for other, listing in listings(screen).items():
        if other != part and listing.layout == "strip":
            options.append((f"choice {other}", partial(changed, **{**blank, "choice": other})))
    return options


def _take_constant(document: Document, changed: Any, kind: str, text: str) -> None:
    try:
        changed(constant=carry(text, kind, convert=True) if text else None)
    except Unfit as unfit:
        document.failed.emit(str(unfit))
