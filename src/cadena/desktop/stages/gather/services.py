"""What Gather's strip says of services: the calls of one, and sources that are new."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import partial
from typing import Any, Final, Literal

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.document.new_sources import Proposed, pick, take_picked
from cadena.desktop.widgets.bound import Bound
from cadena.desktop.widgets.struct_editor import struct_sentences
from cadena.desktop.widgets.words import NOTHING, Matter, Sentence, Word
from cadena.model.edits.shaping import with_source
from cadena.model.find import slug, unused
from cadena.model.problem import Problem
from cadena.model.source import Kind, Service, Source, Writing, service_at


def about_new(document: Document) -> list[Sentence]:
    """The ways to a new source, and the sources of a description to pick from."""
    said = [
        Sentence(
            "",
            [
                Word("subject", "New records"),
                Word("do", "From files…", document.wants_records.emit),
                Word(
                    "text",
                    "JSON, JSON Lines, CSV, SQLite, or an OpenAPI document. Or drop them here.",
                ),
            ],
        ),
        Sentence(
            "A service",
            [
                Word("text", "address of its list call"),
                Word("line", "", partial(_new_service, document), name="address of a service"),
                Word("text", "It is called only when you say so."),
            ],
        ),
    ]
    proposed = document.own(Proposed)
    if proposed.proposals:
        said.append(Sentence("It offers", _offered(document, proposed)))
    return said


def _offered(document: Document, proposed: Proposed) -> list[Word]:
    words = []
    for proposal in proposed.proposals:
        name = proposal.source.id
        does, is_picked = partial(pick, document, name), name in proposed.picked
        words.append(
            Word("choice", f"{name} · {proposal.list_path}", does, is_picked, f"pick {name}")
        )
    take = partial(take_picked, document)
    return [*words, Word("mend", f"Add {len(proposed.picked)}", take, name="add those picked")]


METHODS: Final[dict[Kind, Literal["POST", "PATCH", "DELETE"]]] = {
    "create": "POST",
    "change": "PATCH",
    "remove": "DELETE",
}
WRITTEN: Final[dict[Kind, str]] = {"create": "made", "change": "changed", "remove": "removed"}
TOLD: Final = {
    "repeats": "it knows an Idempotency-Key",
    "versions": "it tells versions by ETag",
}


def _new_service(document: Document, address: str) -> None:
    """A source of a service, from the address of its list call."""
    try:
        service = service_at(address)
    except Problem as problem:
        document.failed.emit(str(problem))
        return
    stem = service.list.split("?")[0].rstrip("/").rpartition("/")[2]
    name = unused(slug(stem or "service"), [each.id for each in document.app.sources])
    source = Source(
        id=name,
        title=name.replace("-", " ").capitalize(),
        key="id",
        service=service,
    )
    document.wants_bringing.emit(source)


def headers_in(text: str) -> dict[str, str]:
    """Headers written as ``Name: value; Name: value``."""
    pairs = (each.partition(":") for each in text.split(";") if each.strip())
    return {name.strip(): value.strip() for name, _, value in pairs if name.strip()}


def service_matters(document: Document, source: Source) -> list[Matter]:
    """The calls of a source's service."""
    service = source.service
    if service is None:
        return []

    def change(what: str, **changed: Any) -> None:
        made = replace(source, service=replace(service, **changed))
        document.edit(f"{what} of {source.id}", with_source(document.app, made))

    def page(what: str, made: Any) -> None:
        change(f"{what} of the pages", paging=made)

    def headers(text: str) -> None:
        change("headers", headers=headers_in(text))

    def sorts(text: str) -> None:
        change("the orders it takes", sorts=tuple(text.replace(",", " ").split()))

    def ways(text: str) -> None:
        words = text.split()
        if len(words) != 2:
            document.refuse(f'"{text}" came, two words were wanted, such as asc desc')
        else:
            change("the words for up and down", order_words=(words[0], words[1]))

    def keeps(text: str) -> None:
        change("what it keeps by", keeps=headers_in(text))

    bound = Bound(service, change, document.refuse)
    item_words = [
        Sentence("Call", [bound.text("item", "item call")]),
        Sentence("Record at", [bound.text("record", "pointer to the record", "record")]),
        Sentence(
            "Key from",
            [
                bound.text("key_from_address", "field of its own address", "key from address"),
                Word("text", "a field that holds its own address"),
            ],
        ),
    ]
    list_words = [
        Sentence("Call", [bound.text("list", "list call")]),
        Sentence("Records at", [bound.text("records", "pointer to the records", "records")]),
        Sentence("Pages", []),
        *struct_sentences(service.paging, page, document.refuse, of="pages: "),
    ]
    order_words = [
        bound.text("sort", "parameter for the field to sort by", "sort"),
        Word("text", "direction"),
        bound.text("order", "parameter for the direction", "order"),
    ]
    if service.order:
        said = Word("line", " ".join(service.order_words), ways, name="words for up and down")
        order_words += [Word("text", "says"), said]
    if service.sort:
        only = Word("line", " ".join(service.sorts), sorts, name="orders that it takes")
        order_words += [Word("text", "only"), only]
    asked_words = [
        Sentence("Search by", [bound.text("search", "parameter for a word", "search")]),
        Sentence("Sort by", order_words),
        Sentence(
            "Keep by",
            [
                Word("line", pairs_said(service.keeps), keeps, name="keeps records by"),
                Word("text", "as field: parameter; field: parameter"),
            ],
        ),
    ]
    header_words = [
        Sentence("", [Word("line", pairs_said(service.headers), headers, name="headers")]),
        Sentence(
            "", [Word("text", "as Name: value; Name: value. They are saved with the project.")]
        ),
    ]
    asked = ", ".join(filter(None, (service.search, service.sort, *service.keeps.values())))
    missing = [f"! {name} is" for name, value in service.given.items() if not value]
    given = ", ".join(missing or service.given.values())
    return [
        bound.matter("list", service.list, lambda: list_words),
        bound.matter("item", service.item, lambda: item_words),
        Matter("asked to find and sort by", asked, "what it is asked", lambda: asked_words),
        bound.matter("given", given, lambda: _given_sentences(service, change))
        if service.given
        else NOTHING,
        *(_writing_matter(document, service, kind, change) for kind in METHODS),
        bound.matter("headers", ", ".join(service.headers), lambda: header_words),
    ]


def _writing_matter(
    document: Document, service: Service, kind: Kind, change: Callable[..., None]
) -> Matter:
    """How a service takes what is made, changed or removed; without it, it does not."""
    way: Writing | None = getattr(service, kind)
    word = WRITTEN[kind]

    def take(what: str, made: Any) -> None:
        change(f"{what} of what is {word}", **{kind: made})

    def begin() -> None:
        address = service.list.partition("?")[0] if kind == "create" else service.item
        sends: Literal["whole", "changed"] = "changed" if kind == "change" else "whole"
        take("sending", Writing(method=METHODS[kind], address=address, sends=sends))

    def inside() -> list[Sentence]:
        if way is None:
            return [Sentence("", [Word("do", f"+ send what is {word}", begin)])]
        bound = Bound(service, change, document.refuse)
        last = [Word("do", "Send none", partial(take, "no sending", None), name=f"no {kind}")]
        if kind != "remove":
            field = "repeats" if kind == "create" else "versions"
            last.insert(0, bound.toggle(field, TOLD[field]))
        return [*struct_sentences(way, take, document.refuse, of=f"{kind}: "), Sentence("", last)]

    said = "" if way is None else f"{way.method} {way.address}"
    return Matter(f"{word} by", said, f"how it is {word}", inside, f"what is {word}, sent to it")


def pairs_said(pairs: Mapping[str, str]) -> str:
    """Pairs as they are typed: ``name: value; name: value``."""
    return "; ".join(f"{name}: {value}" for name, value in pairs.items())


def _given_sentences(service: Service, change: Callable[..., None]) -> list[Sentence]:
    """The variables of the addresses that nothing on a screen tells: asked for once."""

    def give(name: str, text: str) -> None:
        change(f"{name} of the address", given={**service.given, name: text.strip()})

    return [
        Sentence(name, [Word("line", value, partial(give, name), name=f"{name} of the address")])
        for name, value in service.given.items()
    ]
