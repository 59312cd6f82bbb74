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

    ``when_empty`` is what is said in place of an empty value: words, another field as
    ``{field}``, or nothing at all, which leaves it out. ``decimals`` are the digits after
    the point; ``unit`` follows a number, ``unit_of_one`` the number 1; ``date`` is how long a
    date is written.
    ``written`` is how the values stand in the data where that is not plain: a date as POSIX
    strftime has it (``%d.%m.%Y``), a number by an example (``1,234.5``), yes and no by their words
    (``Y/N``). ``made_of`` are other
    fields, whose values it holds joined: what refers to a key that several fields make.
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
    """How a CSV file is written (RFC 4180, and what is met besides).

    ``gaps`` are the words that stand for nothing, such as ``NA``, where all else in a column is
    numbers, dates or yes and no. ``skip`` lines stand above the header, or the first row.
    ``blanks`` after a delimiter are no part of the value.
    """

    delimiter: Annotated[str, Meta(min_length=1, max_length=1)] = ","
    encoding: str = "utf-8"
    header: bool = True
    gaps: tuple[str, ...] = ()
    skip: Annotated[int, Meta(ge=0, le=1000)] = 0
    blanks: bool = False


class Inside(Part, frozen=True, kw_only=True):
    """Records that others hold: those of the list ``field`` of each, or the one object there.

    Each carries, in a field ``called``, the key of the record that holds it: its field ``key``,
    several of them joined, or the number of its row where none is named. ``of`` are fields of
    those that hold them, and the text that each must be: the others hold something else.
    """

    field: str
    called: str
    key: tuple[str, ...] = ()
    of: dict[str, str] = {}


class Paging(Part, frozen=True, kw_only=True):
    """How a list call asks for its next page; ``link`` follows rel="next" (RFC 8288).

    ``parameter`` carries the page number or the offset, ``first`` is that of the first page,
    ``size_parameter`` carries ``size``, the records of a page. By ``cursor`` the answer says what
    comes ``next``, at a JSON Pointer (RFC 6901) or in a header: an address, or what ``parameter``
    carries then.
    """

    by: Literal["none", "page", "offset", "link", "cursor"] = "none"
    parameter: str = ""
    first: Count = 1
    size_parameter: str = ""
    size: Some = 20
    next: str = ""


class Writing(Part, frozen=True, kw_only=True):
    """How a service takes one way of writing: where it is sent, and what (rules.md, 9.1).

    ``address`` is an RFC 6570 template, with ``{key}`` where the record is there already.
    ``sends`` is the whole record or only what was changed, as ``media``: plain JSON, or a merge
    patch (RFC 7396). ``record`` is a JSON Pointer to the record in the answer.
    """

    method: Literal["POST", "PUT", "PATCH", "DELETE"]
    address: str
    sends: Literal["whole", "changed"] = "whole"
    media: Literal["application/json", "application/merge-patch+json"] = "application/json"
    record: str = ""


class Service(Part, frozen=True, kw_only=True):
    """An HTTP service that serves records as JSON.

    ``list`` is the address of the list call; ``item`` that of the item call, an RFC 6570
    template with ``{key}``. ``records`` and ``record`` are JSON Pointers (RFC 6901) into
    their answers. ``keeps`` names for fields of the records the parameter by which the service
    keeps those of one value: a variable of the address, or of its query; ``given`` are the
    variables that stay as they are. ``search`` is the query parameter for a word, ``sort`` that
    for the field to sort by, with ``order`` for the direction, or else a minus before the field;
    ``sorts`` are the only values that it takes, where it says so, and ``order_words`` those for
    upwards and downwards.
    ``key_from_address``: where records have no key, the last part of the address that a record
    names as its own. ``create``, ``change`` and ``remove`` say how it is written to, ``versions``
    that it tells versions apart (``ETag`` and ``If-Match``, RFC 9110), ``repeats`` that it knows an
    ``Idempotency-Key``.
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
    """How the stand-in service answers, from the source's own records (rules.md, 9).

    ``delay`` in ms of virtual time; one call in ``fails_one_in`` fails and before one in
    ``changes_one_in`` a record changes or goes, chosen by ``seed``; 0 is never. ``takes`` says how
    it is written to (9.1): one write in ``refuses_one_in`` is refused at a field, and with one in
    ``quicker_one_in`` somebody else was quicker.
    """

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
    """Records that are made up from a seed: for each field that is, the kind of thing it is."""

    count: Annotated[int, Meta(ge=0, le=5_000_000)] = 3
    seed: Count = 1
    kinds: dict[str, str] = {}


class Source(Part, frozen=True, kw_only=True):
    """A set of records, each found by its key.

    ``file`` is a path inside the project folder; its ending tells the format. ``at`` is
    where in it the records are: a JSON Pointer (RFC 6901) to the array, or the table or
    view of a database, or the sheet of a spreadsheet; ``inside`` the list in each of these
    records that is meant in place of them. ``key`` names the field of the key; with ``key_from``
    it is made of other fields; where it is ``numbered``, the key is the number of the row, from
    1, and holds only as long as the rows stand as they do. ``label`` names the field that tells
    a record to a person. Without ``fields`` names and types are those found in the data.

    ``served`` says who answers when the app runs: the file at once, the stand-in service,
    or the service itself. ``list_brings`` are the fields that a list call brings; empty is
    all of them. ``made_up`` says how the records in the file were made up.
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
