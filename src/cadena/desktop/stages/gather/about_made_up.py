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
from cadena.desktop.widgets.bound import number_in
from cadena.desktop.widgets.words import Sentence, Word
from cadena.model.problem import Problem
from cadena.model.references import not_found
from cadena.model.source import Source, service_at

TYPED: Final = "typed by hand"
MOST_LOST: Final = 6


def about_making_up(document: Document, source: Source) -> list[Sentence]:
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

    return [
        Sentence(
            "Made up",
            [
                Word("line", str(made.count), partial(take, "count", 0, MOST), name="how many"),
                Word("text", "records from seed"),
                Word("line", str(made.seed), partial(take, "seed", 0, 999_999), name="seed"),
                Word("text", "The head of a field says what kind of thing it is."),
            ],
        )
    ]


def about_made_up_field(document: Document, source: Source, name: str) -> list[Sentence]:
    """What kind of thing a field is made up as."""
    if not can_be_typed(source) or source.service is not None:
        return []
    made = source.made_up
    now = TYPED if made is None else made.kinds.get(name, TYPED)
    does = partial(make_up_field, document, source, name)
    options = [
        (TYPED, partial(does, "")),
        *((e, partial(does, e)) for e in kinds_for(document, source.id)),
    ]
    is_key = source.numbered and name == source.key
    if is_key or (source.key_from and name == source.key):
        return []
    return [Sentence("Made up as", [Word("menu", now, name="made up as", options=options)])]


def about_exchange(document: Document, source: Source) -> list[Sentence]:
    """Other data in the place of these, and what of these was not found in it."""
    said: list[Sentence] = []
    types = document.types
    names = list(types.get(source.id, {}))
    lost = not_found(document.app, types, source.id) if names else ()
    for name in lost[:MOST_LOST]:
        options = [(to, partial(find_again, document, source.id, name, to)) for to in names]
        words = [
            Word("broken", f"! {name} is bound, and there is no such field"),
            Word("menu", "it is now", name=f"{name} is now", options=options),
        ]
        said.append(Sentence("Not found", words))
    if source.service is not None:
        return said

    def call(address: str) -> None:
        try:
            service = service_at(address)
        except Problem as problem:
            document.refuse(str(problem))
            return
        asked = replace(source, service=service, made_up=None, key="id", key_from=(), fields=())
        document.wants_bringing.emit(replace(asked, numbered=False))

    said.append(
        Sentence(
            "Exchange for",
            [
                Word(
                    "do",
                    "a file…",
                    partial(document.wants_exchange.emit, source.id),
                    name="exchange for a file",
                ),
                Word("text", "or a service, by the address of its list call"),
                Word("line", "", call, name="exchange for a service"),
                Word("text", "Screens and links stay; fields are found by name and type."),
            ],
        )
    )
    return said
