"""Sources from an OpenAPI document of version 3.0 or 3.1: every list path with its item path."""

from __future__ import annotations

import re
from collections.abc import Mapping
from itertools import islice
from typing import Final, NamedTuple
from urllib.parse import urljoin

from cadena.model.blocks import FormField
from cadena.model.find import slug, unused
from cadena.model.naming import label_field, singular, words_of
from cadena.model.problem import Problem
from cadena.model.source import Field, Paging, Refers, Service, Source
from cadena.model.values import FieldType
from cadena.sources.openapi_writing import written_by
from cadena.sources.schemas import (
    Document,
    Tree,
    answer_of,
    array_in,
    document_of,
    fields_of,
    followings,
    kind_of,
    object_in,
    security_of,
)

LONGEST: Final = 2000
MOST_SAID: Final = 8
NOWHERE: Final = "http://localhost"
BOM: Final = b"\xef\xbb\xbf"
ENDS: Final = ("id", "key", "uid", "code", "slug", "uuid")
PARAMETER: Final = re.compile(r"\{([^{}]+)\}/?$")
VARIABLE: Final = re.compile(r"\{([^{}]+)\}")
SAY_NOTHING: Final = frozenset({"search", "list", "all", "query", "find", "index", "get"})
"""Last steps of a path that say what is done, and not of what."""
SEARCHES: Final = ("q", "query", "search", "term", "keyword", "keywords", "text", "filter")
SORTS: Final = ("sort", "sort_by", "sortby", "order_by", "orderby", "ordering")
ORDERS: Final = ("order", "direction", "dir", "sort_order", "sort_dir", "sort_direction")
PAGES: Final = ("page", "page_number", "pagenumber")
OFFSETS: Final = ("offset", "start", "skip")
CURSORS: Final = (
    *("cursor", "page_token", "pagetoken", "next_token", "nexttoken", "after", "starting_after"),
    *("continuation", "continuation_token", "marker", "next", "page[cursor]", "page[after]"),
)
ADDRESSES: Final = frozenset({"next", "next_url", "nexturl", "next_link", "nextlink", "@nextlink"})
NEXT: Final = re.compile(
    r"^(?:x_)?(?:next|next_?(?:cursor|page_?token|token|page|url|link|marker)|cursor|end_?cursor|"
    r"continuation(?:_?token)?|after)$",
    re.IGNORECASE,
)
"""What is called so in an answer, or in its headers, says what comes next."""
SIZES: Final = ("size", "limit", "per_page", "perpage", "page_size", "pagesize", "count")


class Proposal(NamedTuple):
    """A source that a service could be, for a person to pick: its paths are named too, and what a
    form of it holds, where it is written to."""

    source: Source
    list_path: str
    item_path: str
    form: tuple[FormField, ...] = ()


class Skipped(NamedTuple):
    """A path that no source is made of, and why."""

    path: str
    why: str


class Offered(NamedTuple):
    """What a description offers, and what of it is left."""

    proposals: tuple[Proposal, ...]
    skipped: tuple[Skipped, ...]
    security: tuple[str, ...] = ()


class Listed(NamedTuple):
    """A path that answers with records: where in the answer they are, and what one is like."""

    path: str
    pointer: str
    schema: Tree
    parameters: Mapping[str, Tree]
    next: str = ""


class Single(NamedTuple):
    """A path with a parameter at its end that answers with one record."""

    path: str
    prefix: str
    parameter: str
    pointer: str
    schema: Tree


class Parent(NamedTuple):
    """The source whose record the beginning of a path names, by a variable of it."""

    source: Source
    variable: str


def proposals(raw: bytes, name: str, address: str = "") -> tuple[Proposal, ...]:
    """What a service could be the source of (see ``offered``)."""
    return offered(raw, name, address).proposals


def offered(raw: bytes, name: str, address: str = "") -> Offered:
    """What a service could be the source of: every path that lists records, with the path that
    brings one of them where there is one.

    An item path belongs to the list whose path it goes on from, else to one of the same schema;
    of several lists of one schema the first is offered. A path that goes on from that of a record
    lists what belongs to it; other variables of a path are asked for once.

    Args:
        raw: the document, JSON or YAML.
        name: what it is called in messages.
        address: where it came from, for servers that are given relative to it.

    Raises:
        Problem: when it is no OpenAPI document, or no path of it lists records.
    """
    document = document_of(raw.removeprefix(BOM), name)
    paths = document.get("paths")
    paths = [str(each) for each in paths] if isinstance(paths, dict) else []
    base = _base(document, address, name)
    skipped: dict[str, str] = {}
    lists: list[Listed] = []
    for path in sorted(paths, key=lambda each: each.count("{")):
        found = _list_at(document, path)
        if isinstance(found, Listed):
            lists.append(found)
        else:
            skipped[path] = found
    items = [one for path in paths if (one := _single(document, path)) is not None]
    made: list[Proposal] = []
    seen: list[Tree] = []
    for listed in lists:
        item = _item_of(listed, items)
        if any(listed.schema is each for each in seen):
            skipped[listed.path] = "it lists records of a kind that another path lists"
            continue
        if item is not None and any(item.path == each.item_path for each in made):
            skipped[listed.path] = f"what it lists is brought by {item.path}, of another list"
            continue
        taken = [each.source.id for each in made]
        parent = _parent_of(listed.path, made)
        proposal = _pair(document, base, listed, item, taken, parent)
        if proposal is None:
            skipped[listed.path] = "its records have no fields"
        else:
            made.append(proposal)
            seen.append(listed.schema)
    if not made:
        raise Problem(
            name,
            "paths",
            "no path lists records",
            "a path such as /huts that answers with an array, best with one such as /huts/{id}",
        )
    used = {path for each in made for path in (each.list_path, each.item_path)}
    left = tuple(Skipped(path, why) for path, why in skipped.items() if path not in used)
    return Offered(tuple(made), left, tuple(islice(security_of(document), MOST_SAID)))


def _list_at(document: Document, path: str) -> Listed | str:
    """A path that answers with an array of objects; or why it is none."""
    if PARAMETER.search(path):
        return "it is about one record, and no list has such"
    answer = answer_of(document, path)
    if answer.schema is None:
        return "it answers GET with no JSON that is described"
    pointer, schema = array_in(document, answer.schema)
    if schema is None or kind_of(schema) != "object":
        return "it answers with no array of records"
    beside = followings(document, answer.schema) if kind_of(answer.schema) == "object" else ()
    told = [(at, name) for at, name in beside if not at.startswith(f"{pointer}/")]
    told += [(name, name) for name in answer.headers]
    following = (at for at, name in told if NEXT.search(name.replace("-", "_")))
    return Listed(path, pointer, schema, answer.parameters, next(following, ""))


def _single(document: Document, path: str) -> Single | None:
    """A path with a parameter at its end, and that answers with one object."""
    parameter = PARAMETER.search(path)
    if parameter is None:
        return None
    answer = answer_of(document, path).schema
    if answer is None:
        return None
    pointer, schema = object_in(document, answer)
    prefix = path[: parameter.start()].rstrip("/")
    return None if schema is None else Single(path, prefix, parameter[1], pointer, schema)


def _item_of(listed: Listed, items: list[Single]) -> Single | None:
    """The path that brings one of the records of a list, with no variables besides."""
    own = next((each for each in items if each.prefix == listed.path), None)
    known = set(VARIABLE.findall(listed.path))
    same = (
        other
        for other in items
        if other.schema is listed.schema and set(VARIABLE.findall(other.prefix)) <= known
    )
    return own or next(same, None)


def _parent_of(path: str, made: list[Proposal]) -> Parent | None:
    """The source of the longest item path that a path goes on from."""
    found = [e for e in made if e.item_path and _plainly(path).startswith(_plainly(e.item_path))]
    if not found:
        return None
    longest = max(found, key=lambda each: len(each.item_path))
    return Parent(longest.source, VARIABLE.findall(path[: _end(path, longest.item_path)])[-1])


def _plainly(path: str) -> str:
    """A path whatever its variables are called, up to its end."""
    return VARIABLE.sub("{}", path) + "/"


def _end(path: str, item: str) -> int:
    """Where the part of a path ends that has as many steps as an item path."""
    return len("/".join(path.split("/")[: item.count("/") + 1]))


def _base(document: Document, address: str, name: str) -> str:
    servers = document.get("servers")
    first = servers[0] if isinstance(servers, list) and servers else {}
    url = str(first.get("url", "")) if isinstance(first, dict) else ""
    variables = first.get("variables") if isinstance(first, dict) else None
    known = variables if isinstance(variables, dict) else {}

    def default(found: re.Match[str]) -> str:
        each = known.get(found[1])
        return str(each.get("default", "")) if isinstance(each, dict) else found[0]

    # Once over: what a default says is not filled again.
    url = re.sub(r"\{([^{}]*)\}", default, url)
    try:
        return urljoin(address or NOWHERE, url[:LONGEST]).rstrip("/")
    except ValueError as error:
        raise Problem(name, "servers", f"{url} is no web address ({error})", "one") from None


def _pair(
    document: Document,
    base: str,
    listed: Listed,
    item: Single | None,
    taken: list[str],
    parent: Parent | None,
) -> Proposal | None:
    brings = fields_of(document, listed.schema)
    whole = {} if item is None else fields_of(document, item.schema)
    fields = {**brings, **whole}
    if not fields:
        return None
    told_by = (listed if item is None else item).schema.get("required")
    required = {str(each) for each in told_by} if isinstance(told_by, list) else set()
    path = listed.path if item is None else item.prefix
    said = [each for each in path.split("/") if each and "{" not in each]
    while len(said) > 1 and slug(said[-1]) in SAY_NOTHING:
        said.pop()
    name = unused(slug(said[-1] if said else "") or "records", taken)
    key = _key("" if item is None else item.parameter, fields)
    known = set(VARIABLE.findall(listed.path))
    child = "" if parent is None else _held_by(parent, fields)
    keeps = _filters_by(listed, fields)
    if parent is not None:
        keeps[child] = parent.variable
    others = sorted(known - set(keeps.values()))
    at = "" if item is None else item.prefix + "/{key}"
    paths = (listed.path, "" if item is None else item.path)
    written = written_by(document, base, paths, fields, key)
    service = Service(
        list=base + listed.path,
        item=base + at if at else "",
        keeps=keeps,
        given=dict.fromkeys(others, ""),
        search=_parameter_called(listed, SEARCHES),
        sort=_parameter_called(listed, SORTS),
        order=_parameter_called(listed, ORDERS) if _parameter_called(listed, SORTS) else "",
        sorts=_choices(listed, _parameter_called(listed, SORTS)),
        order_words=_order_words(_choices(listed, _parameter_called(listed, ORDERS))),
        records=listed.pointer,
        record="" if item is None else item.pointer,
        paging=_paging(listed),
        key_from_address="" if key else _address_field(fields),
        create=written.ways.get("create"),
        change=written.ways.get("change"),
        remove=written.ways.get("remove"),
        versions=written.versions,
        repeats=written.repeats,
    )

    def refers(field: str) -> Refers | None:
        return Refers(to=parent.source.id) if parent is not None and field == child else None

    source = Source(
        id=name,
        title=name.replace("-", " ").capitalize(),
        key=key or "key",
        label=_label(brings, key),
        fields=(
            *(() if key or not _address_field(fields) else (Field(name="key"),)),
            *(
                Field(name=each, type=kind, required=each in required, refers=refers(each))
                for each, kind in fields.items()
            ),
            *(
                (Field(name=child, type=_key_kind(parent), refers=refers(child)),)
                if parent is not None and child not in fields
                else ()
            ),
        ),
        list_brings=tuple(brings) if set(brings) < set(fields) else (),
        served="service",
        service=service,
    )
    return Proposal(source, *paths, written.fields)


def _label(brings: Mapping[str, FieldType], key: str) -> str:
    """The field that names a record: one that the list call brings."""
    found = label_field(Source(id="", key=key), dict(brings))
    return found if found in brings else ""


def _held_by(parent: Parent, fields: Mapping[str, FieldType]) -> str:
    """The field of a record that names the one it belongs to: its own, or one more."""
    one = singular(parent.source.id).removesuffix("-detail").replace("-", "_")
    wanted = {parent.variable.lower(), f"{one}_id", f"{one}id", one}
    kind = _key_kind(parent)
    found = (each for each, held in fields.items() if each.lower() in wanted and held == kind)
    return next(found, f"{one}_{parent.source.key}")


def _key_kind(parent: Parent | None) -> FieldType:
    found = () if parent is None else parent.source.fields
    key = "" if parent is None else parent.source.key
    return next((each.type for each in found if each.name == key), "text")


def _filters_by(listed: Listed, fields: Mapping[str, FieldType]) -> dict[str, str]:
    """The query parameters that are called as a field is: those keep records by it."""
    plain = {each.replace("_", "").lower(): each for each in fields}
    found: dict[str, str] = {}
    for parameter in listed.parameters:
        field = plain.get(parameter.replace("_", "").lower())
        if field is not None and parameter.lower() not in (*SORTS, *ORDERS, *SEARCHES):
            found[field] = parameter
    return found


def _parameter_called(listed: Listed, names: tuple[str, ...]) -> str:
    """The query parameter of one of these names."""
    return next((each for each in listed.parameters if each.lower() in names), "")


def _key(parameter: str, fields: Mapping[str, FieldType]) -> str:
    """The field that an item path's parameter means: of its name, its end, or its last word."""
    can_be = {e: k for e, k in fields.items() if k in ("text", "whole number") and "." not in e}
    plain = {each.replace("_", "").replace("-", "").lower(): each for each in can_be}
    name = parameter.replace("_", "").replace("-", "").lower()
    if name in plain:
        return plain[name]
    for end in ENDS:
        if name.endswith(end) and end in plain:
            return plain[end]
    if "id" in plain:
        return plain["id"]
    # hutNumber is the number, and number may be the hut's: one is the end of the other.
    last = words_of(parameter)[-1:]
    alike = [each for each in can_be if last and words_of(each)[-1:] == last]
    if len(alike) == 1:
        return alike[0]
    return next((plain[each] for each in ENDS if each in plain), "")


def _address_field(fields: Mapping[str, FieldType]) -> str:
    return next((each for each in ("self", "href", "url", "link") if each in fields), "")


def _choices(listed: Listed, parameter: str) -> tuple[str, ...]:
    """The only values that a query parameter takes, where it says so."""
    schema = listed.parameters.get(parameter, {})
    items = schema.get("items")
    enum = (items if isinstance(items, dict) else schema).get("enum")
    return tuple(map(str, enum)) if isinstance(enum, list) else ()


def _order_words(choices: tuple[str, ...]) -> tuple[str, str]:
    """The words for upwards and downwards, of those that are taken."""
    for up, down in (("asc", "desc"), ("ascending", "descending"), ("1", "-1"), ("up", "down")):
        found = {each.lower(): each for each in choices}
        if up in found and down in found:
            return found[up], found[down]
    return "asc", "desc"


def _paging(listed: Listed) -> Paging:
    size = _parameter_called(listed, SIZES)
    cursor = _parameter_called(listed, CURSORS)
    # An address of the next page needs no parameter; what is only a mark does.
    if listed.next and (cursor or listed.next.rpartition("/")[2].lower() in ADDRESSES):
        return Paging(by="cursor", parameter=cursor, next=listed.next, size_parameter=size)
    if parameter := _parameter_called(listed, PAGES):
        schema = listed.parameters[parameter]
        said = schema.get("default", schema.get("minimum", 1))
        first = 0 if said == 0 and said is not False else 1
        return Paging(by="page", parameter=parameter, first=first, size_parameter=size)
    if parameter := _parameter_called(listed, OFFSETS):
        return Paging(by="offset", parameter=parameter, size_parameter=size)
    return Paging(by="link", size_parameter=size)
