"""What Gather's strip says of services: the calls of one, and sources that are new."""

from __future__ import annotations

from functools import partial
from typing import Any

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.document.new_sources import Proposed, pick, take_picked
from cadena.desktop.widgets.words import Sentence, Word
from cadena.model.edits.shaping import with_source
from cadena.model.find import slug, unused
from cadena.model.source import Paging, Service, Source


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
    if document.own(Proposed).proposals:
        count = len(document.own(Proposed).picked)
        said.append(
            Sentence(
                "It offers",
                [
                    *(
                        Word(
                            "choice",
                            f"{each.source.id} · {each.list_path}",
                            partial(pick, document, each.source.id),
                            each.source.id in document.own(Proposed).picked,
                            f"pick {each.source.id}",
                        )
                        for each in document.own(Proposed).proposals
                    ),
                    Word(
                        "mend",
                        f"Add {count}",
                        partial(take_picked, document),
                        name="add those picked",
                    ),
                ],
            )
        )
    return said


def _new_service(document: Document, address: str) -> None:
    """A source of a service, from the address of its list call."""
    address = address.strip()
    if not address.startswith(("http://", "https://")):
        document.failed.emit(f"{address}: it is no web address. Wanted: http:// or https://.")
        return
    stem = address.split("?")[0].rstrip("/").rpartition("/")[2]
    name = unused(slug(stem or "service"), [each.id for each in document.app.sources])
    service = Service(list=address, item=f"{address.split('?')[0].rstrip('/')}/{{key}}")
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


def about_service(document: Document, source: Source) -> list[Sentence]:
    """The calls of a source's service, and bringing its records."""
    service = source.service
    if service is None:
        return []

    def change(what: str, **changed: Any) -> None:
        made = replace(source, service=replace(service, **changed))
        document.edit(f"{what} of {source.id}", with_source(document.app, made))

    def page(what: str, **changed: Any) -> None:
        change(what, paging=replace(service.paging, **changed))

    paging: Paging = service.paging
    kinds = [
        (each, partial(page, "paging", by=each)) for each in ("none", "page", "offset", "link")
    ]
    words = [
        Word("text", "pages by"),
        Word("menu", paging.by, name="paging", options=kinds),
    ]
    if paging.by in ("page", "offset"):
        words.append(
            Word(
                "line",
                paging.parameter,
                lambda text: page("paging", parameter=text),
                name="page parameter",
            )
        )
    return [
        Sentence(
            "List call",
            [
                Word(
                    "line",
                    service.list,
                    lambda text: change("list call", list=text),
                    name="list call",
                ),
                Word("text", "records at"),
                Word(
                    "line",
                    service.records,
                    lambda text: change("records", records=text),
                    name="pointer to the records",
                ),
                *words,
            ],
        ),
        Sentence(
            "Item call",
            [
                Word(
                    "line",
                    service.item,
                    lambda text: change("item call", item=text),
                    name="item call",
                ),
                Word("text", "record at"),
                Word(
                    "line",
                    service.record,
                    lambda text: change("record", record=text),
                    name="pointer to the record",
                ),
                Word("text", "key from the address in"),
                Word(
                    "line",
                    service.key_from_address,
                    lambda text: change("key from address", key_from_address=text),
                    name="field of its own address",
                ),
                Word("mend", "Bring the records", partial(document.wants_bringing.emit, source)),
            ],
        ),
        Sentence(
            "Headers",
            [
                Word(
                    "line",
                    "; ".join(f"{name}: {value}" for name, value in service.headers.items()),
                    lambda text: change("headers", headers=headers_in(text)),
                    name="headers",
                ),
                Word("text", "as Name: value; Name: value. They are saved with the project."),
            ],
        ),
    ]
