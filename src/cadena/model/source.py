"""Sources: where records come from, what their fields are, and how they are said."""

from __future__ import annotations

from typing import Annotated, Literal
from urllib.parse import unquote

from msgspec import Meta

from cadena.model.part import Part
from cadena.model.problem import Problem
from cadena.model.values import FieldType, Value

Test = Literal[
    "is",
    "is not",
    "under",
    "over",
    "at least",
    "at most",
    "contains",
    "is one of",
    "is empty",
    "is filled",
]
Colour = Literal["good", "warning", "bad", "quiet"]
Kind = Literal["create", "change", "remove"]
"""How a source is written to (rules.md, 9.1)."""
Served = Literal["file", "stand-in", "service"]
Length = Literal["as written", "short", "medium", "long"]
Count = Annotated[int, Meta(ge=0)]
Some = Annotated[int, Meta(ge=1)]


class Refers(Part, frozen=True, kw_only=True):
    """A field tells a record of source ``to``: by its key, or by field ``by`` (rules.md, 13)."""

    to: str
    by: str = ""


class Field(Part, frozen=True, kw_only=True):
    """One typed column of a source, and how its values are said wherever they stand.

    ``written`` is a date as POSIX strftime has it (``%d.%m.%Y``), a number by an example
    (``1,234.5``), yes and no by their words (``Y/N``).
    """

    name: str
    type: FieldType = "text"
    label: str = ""
    required: bool = False
    unit: str = ""
    unit_of_one: str = ""
    decimals: Annotated[int, Meta(ge=0, le=12)] | None = None
    date: Length = "as written"
    when_empty: str = "–"
    written: str = ""
    made_of: tuple[str, ...] = ()
    refers: Refers | None = None


class Csv(Part, frozen=True, kw_only=True):
    """How a CSV file is written (RFC 4180, and what is met besides)."""

    delimiter: Annotated[str, Meta(min_length=1, max_length=1)] = ","
    encoding: str = "utf-8"
    header: bool = True
    gaps: tuple[str, ...] = ()
    skip: Annotated[int, Meta(ge=0, le=1000)] = 0
    blanks: bool = False


class Inside(Part, frozen=True, kw_only=True):
    """Records that others hold: those of the list ``field`` of each, or the one object there.

    Records whose fields are not as ``of`` says hold something else there.
    """

    field: str
    called: str
    key: tuple[str, ...] = ()
    of: dict[str, str] = {}


class Paging(Part, frozen=True, kw_only=True):
    """How a list call asks for its next page; ``link`` follows rel="next" (RFC 8288).

    By ``cursor``, ``next`` is at a JSON Pointer (RFC 6901) or in a header: an address, or what
    ``parameter`` carries then.
    """

    by: Literal["none", "page", "offset", "link", "cursor"] = "none"
    parameter: str = ""
    first: Count = 1
    size_parameter: str = ""
    size: Some = 20
    next: str = ""


class Writing(Part, frozen=True, kw_only=True):
    """How a service takes one way of writing: where it is sent, and what (rules.md, 9.1)."""

    method: Literal["POST", "PUT", "PATCH", "DELETE"]
    address: str
    sends: Literal["whole", "changed"] = "whole"
    media: Literal["application/json", "application/merge-patch+json"] = "application/json"
    record: str = ""


class Service(Part, frozen=True, kw_only=True):
    """An HTTP service that serves records as JSON.

    What ``keeps`` names for a field is a variable of the list call's address, or of its query.
    """

    list: str
    item: str = ""
    records: str = ""
    record: str = ""
    paging: Paging = Paging()
    headers: dict[str, str] = {}
    key_from_address: str = ""
    keeps: dict[str, str] = {}
    given: dict[str, str] = {}
    search: str = ""
    sort: str = ""
    order: str = ""
    sorts: tuple[str, ...] = ()
    order_words: tuple[str, str] = ("asc", "desc")
    create: Writing | None = None
    change: Writing | None = None
    remove: Writing | None = None
    versions: bool = False
    repeats: bool = False

    def ways(self) -> dict[Kind, Writing]:
        """The ways in which it is written to."""
        ways: dict[Kind, Writing | None] = {
            "create": self.create,
            "change": self.change,
            "remove": self.remove,
        }
        return {name: way for name, way in ways.items() if way is not None}

    def addresses(self) -> tuple[str, ...]:
        """All that it is called at."""
        return (self.list, self.item, *(each.address for each in self.ways().values()))


def service_at(address: str) -> Service:
    """The service whose list call is at an address.

    A fragment is the JSON Pointer to the records in its answer (RFC 6901, 6).

    Raises:
        Problem: where it is no web address.
    """
    address, _, fragment = address.strip().partition("#")
    if not address.startswith(("http://", "https://")):
        raise Problem(f'"{address}"', "", "it is no web address", "http:// or https://")
    item = f"{address.partition('?')[0].rstrip('/')}/{{key}}"
    return Service(list=address, item=item, records=unquote(fragment))


class StandIn(Part, frozen=True, kw_only=True):
    """How the stand-in service answers, from the source's own records (rules.md, 9 and 9.1)."""

    delay: Annotated[int, Meta(ge=0, le=600_000)] = 300
    fails_one_in: Count = 0
    page: Some = 20
    changes_one_in: Count = 0
    seed: Count = 1
    takes: tuple[Kind, ...] = ()
    refuses_one_in: Count = 0
    quicker_one_in: Count = 0


class StandsOut(Part, frozen=True, kw_only=True):
    """Values of a field that stand out, wherever the field is shown: sign, word and colour."""

    field: str
    test: Test = "is"
    constant: Value | None = None
    sign: Annotated[str, Meta(min_length=1, max_length=2)] = "!"
    word: str = ""
    colour: Colour = "warning"


class MadeUp(Part, frozen=True, kw_only=True):
    """Records that are made up from a seed."""

    count: Annotated[int, Meta(ge=0, le=5_000_000)] = 3
    seed: Count = 1
    kinds: dict[str, str] = {}


class Source(Part, frozen=True, kw_only=True):
    """A set of records, each found by its key.

    ``key`` names its field; with ``key_from`` it is made of other fields, and where it is
    ``numbered`` of the number of the row.
    """

    id: str
    file: str = ""
    at: str = ""
    inside: Inside | None = None
    csv: Csv = Csv()
    key: str
    key_from: tuple[str, ...] = ()
    numbered: bool = False
    label: str = ""
    title: str = ""
    fields: tuple[Field, ...] = ()
    served: Served = "file"
    list_brings: tuple[str, ...] = ()
    stand_in: StandIn = StandIn()
    service: Service | None = None
    made_up: MadeUp | None = None
    stands_out: tuple[StandsOut, ...] = ()


def refers_of(source: Source, field: str) -> Refers | None:
    """What a field of a source refers to, or none."""
    return next((each.refers for each in source.fields if each.name == field), None)


def has_key(source: Source) -> bool:
    """Whether a source of a service says what tells its records apart."""
    named = {each.name for each in source.fields}
    return source.key in named or bool(source.service and source.service.key_from_address)


def takes_of(source: Source) -> frozenset[str]:
    """How a source is written to: what its stand-in takes, or its service (rules.md, 9.1)."""
    if source.served == "stand-in":
        return frozenset(source.stand_in.takes)
    service = source.service if source.served == "service" else None
    return frozenset() if service is None else frozenset(service.ways())
