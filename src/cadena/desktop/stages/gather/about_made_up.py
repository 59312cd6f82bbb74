"""What Gather's strip says of records that are made up, and of other data in their place."""

from __future__ import annotations

from functools import partial
from typing import Final

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.document.making_up import (
    MOST,
    find_again,
    kinds_for,
    make_up_anew,
    make_up_field,
)
from cadena.desktop.document.typing import can_be_typed
from cadena.desktop.widgets.bound import matter_of, number_in
from cadena.desktop.widgets.words import NOTHING, Matter, Sentence, Word
from cadena.model.problem import Problem
from cadena.model.references import not_found
from cadena.model.source import MadeUp, Source, service_at

TYPED: Final = "typed by hand"
MOST_LOST: Final = 6


def made_up_matters(document: Document, source: Source) -> list[Matter]:
    """How many records are made up, and from which seed."""
    made = source.made_up
    if made is None:
        return []

    def take(what: str, least: int, most: int, text: str) -> None:
        value = number_in(text, (least, most), "")
        if value is None or value != int(value):
            said = f"a whole number from {least} to {most:,}"
            document.refuse(f'"{text}" came, {said} was wanted')
        else:
            make_up_anew(document, source, **{what: int(value)})

    words = [
        Word("line", str(made.count), partial(take, "count", 0, MOST), name="how many"),
        Word("text", "records from seed"),
        Word("line", str(made.seed), partial(take, "seed", 0, 999_999), name="seed"),
    ]
    hint = Word("text", "The head of a field says what kind of thing it is.")
    inside = lambda: [Sentence("", words), Sentence("", [hint])]  # noqa: E731
    return [matter_of(Source, "made_up", f"{made.count} from seed {made.seed}", inside)]


def made_up_field_matters(document: Document, source: Source, name: str) -> list[Matter]:
    """What kind of thing a field is made up as."""
    is_made = name == source.key and bool(source.numbered or source.key_from)
    if not can_be_typed(source) or source.service is not None or is_made:
        return []
    made = source.made_up
    now = "" if made is None else made.kinds.get(name, "")
    does = partial(make_up_field, document, source, name)
    options = [
        (TYPED, partial(does, "")),
        *((e, partial(does, e)) for e in kinds_for(document, source.id)),
    ]
    menu = Word("menu", now or TYPED, name="made up as", options=options)
    return [matter_of(MadeUp, "kinds", now, lambda: [Sentence("", [menu])])]


def not_found_sentences(document: Document, source: Source) -> list[Sentence]:
    """What is bound of records that were exchanged, and was not found in the new ones."""
    said: list[Sentence] = []
    names = list(document.types.get(source.id, {}))
    lost = not_found(document.app, document.types, source.id) if names else ()
    for name in lost[:MOST_LOST]:
        options = [(to, partial(find_again, document, source.id, name, to)) for to in names]
        words = [
            Word("broken", f"! {name} is bound, and there is no such field"),
            Word("menu", "it is now", name=f"{name} is now", options=options),
        ]
        said.append(Sentence("", words))
    return said


def exchange_matter(document: Document, source: Source) -> Matter:
    """Other data in the place of these."""
    if source.service is not None:
        return NOTHING

    def call(address: str) -> None:
        try:
            service = service_at(address)
        except Problem as problem:
            document.refuse(str(problem))
            return
        asked = replace(source, service=service, made_up=None, key="id", key_from=(), fields=())
        document.wants_bringing.emit(replace(asked, numbered=False))

    file = partial(document.wants_exchange.emit, source.id)
    said = [
        Sentence("For", [Word("do", "a file…", file, name="exchange for a file")]),
        Sentence(
            "or a service",
            [
                Word("line", "", call, name="exchange for a service"),
                Word("text", "by the address of its list call"),
            ],
        ),
        Sentence("", [Word("text", "Screens and links stay; fields are found by name and type.")]),
    ]
    return Matter("", "", "exchange for other data", lambda: said)
