"""What Shape's strip says of conditions: those of a list, and of its groups."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import partial
from typing import Any, Final

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.widgets.bound import Bound, replaced, without
from cadena.desktop.widgets.words import Sentence, Word
from cadena.model.app import Screen
from cadena.model.edits import shaping
from cadena.model.find import by_id
from cadena.model.listing import Condition
from cadena.model.screen_parts import listings
from cadena.records.conditions import compared_as

TESTS: Final = ("is", "is not", "under", "over", "at least", "at most", "contains", "is one of")
ALL_TESTS: Final = (*TESTS, "is empty", "is filled")
CONDITION: Final = "condition"


class ListChange:
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


def condition_sentences(
    change: ListChange,
    where: tuple[Condition, ...],
    types: Mapping[str, str],
    take: Callable[[tuple[Condition, ...]], object],
    of: str = "",
) -> list[Sentence]:
    """Conditions, one a line, and a way to another.

    Args:
        take: takes the conditions as they are to be.
        of: what goes before the names of the controls.
    """
    said = [
        Sentence("Where" if not at else "and", _words(change, where, types, at, take, of))
        for at in range(len(where))
    ]
    options = [(each, partial(take, (*where, Condition(field=each)))) for each in types]
    add = Word("menu", "+ condition", name=f"{of}add a condition", options=options)
    return [*said, Sentence("" if said else "Where", [add])]


def _words(
    change: ListChange,
    where: tuple[Condition, ...],
    types: Mapping[str, str],
    at: int,
    take: Callable[[tuple[Condition, ...]], object],
    of: str,
) -> list[Word]:
    condition = where[at]

    def changed(_: str, **made: Any) -> None:
        take(replaced(where, at, replace(condition, **made)))

    bound = Bound(condition, changed, change.document.refuse)
    compared = _comparands(change, partial(changed, CONDITION))
    words = [
        bound.menu("field", [(each, each) for each in types], f"{of}field {at + 1}"),
        bound.menu("test", [(each, each) for each in ALL_TESTS], f"{of}test {at + 1}"),
        Word("menu", _compared(condition), name=f"{of}compared with {at + 1}", options=compared),
    ]
    if not (condition.argument or condition.value or condition.choice):
        kind = compared_as(condition.test, types.get(condition.field, "text"))
        words.append(bound.value("constant", f"{of}value {at + 1}", kind, CONDITION))
    drop = partial(take, without(where, at))
    return [*words, Word("do", "✕", drop, name=f"{of}remove condition {at + 1}")]


def _compared(condition: Condition) -> str:
    for kind in ("argument", "value", "choice"):
        if name := getattr(condition, kind):
            return f"{kind} {name}"
    return "this value"


def _comparands(change: ListChange, changed: Any) -> Any:
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
