"""Sources from an OpenAPI document of version 3.0 or 3.1: every list path with its item path."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from typing import Any, Final, NamedTuple
from urllib.parse import urljoin

import msgspec
import yaml

from cadena.model.find import slug, unused
from cadena.model.problem import Problem
from cadena.model.source import Field, Paging, Service, Source
from cadena.model.values import FieldType
from cadena.sources.read_json import pointed

LARGEST: Final = 16 * 1024 * 1024
DEEPEST: Final = 6
MOST_FIELDS: Final = 200
MOST_ALIASES: Final = 1000
MOST_STEPS: Final = 200_000
"""Nodes that are looked at: a schema can hold itself again and again."""
LONGEST: Final = 2000
NOWHERE: Final = "http://localhost"
TYPES: Final[dict[str, FieldType]] = {
    "string": "text",
    "integer": "whole number",
    "number": "number",
    "boolean": "yes/no",
}
PARAMETER: Final = re.compile(r"\{([^{}]+)\}$")
PAGES: Final = ("page", "page_number", "pagenumber")
OFFSETS: Final = ("offset", "start", "skip")
SIZES: Final = ("size", "limit", "per_page", "perpage", "page_size", "pagesize", "count")
Tree = Mapping[str, Any]


class Document(dict[str, Any]):
    """An OpenAPI document, and how many of its nodes have been looked at."""

    steps = 0
    name = ""

    def count(self) -> None:
        """Count one step.

        Raises:
            Problem: when a document this large would never be read to its end.
        """
        self.steps += 1
        if self.steps > MOST_STEPS:
            reason = f"its schemas lead on through over {MOST_STEPS:,} nodes"
            raise Problem(self.name, "components", reason, "schemas that do not hold each other")


class Proposal(NamedTuple):
    """A source that a service could be, for a person to pick: its paths are named too."""

    source: Source
    list_path: str
    item_path: str


def proposals(raw: bytes, name: str, address: str = "") -> tuple[Proposal, ...]:
    """Every pair of a list path and an item path as a source with typed fields.

    Args:
        raw: the document, JSON or YAML.
        name: what it is called in messages.
        address: where it came from, for servers that are given relative to it.

    Raises:
        Problem: when it is no OpenAPI document, or offers no such pair.
    """
    document = _document(raw, name)
    paths = document.get("paths")
    paths = paths if isinstance(paths, dict) else {}
    base = _base(document, address, name)
    made: list[Proposal] = []
    for item_path in paths:
        parameter = PARAMETER.search(str(item_path))
        list_path = str(item_path)[: parameter.start()].rstrip("/") if parameter else ""
        if parameter is None or "{" in list_path or list_path not in paths:
            continue
        taken = [each.source.id for each in made]
        proposal = _pair(document, base, list_path, str(item_path), parameter[1], taken)
        if proposal is not None:
            made.append(proposal)
    if not made:
        raise Problem(
            name,
            "paths",
            "no path lists records and another, with a parameter at its end, brings one of them",
            "a pair such as /huts and /huts/{id}",
        )
    return tuple(made)


def _document(raw: bytes, name: str) -> Document:
    if len(raw) > LARGEST:
        raise Problem(name, "", f"it is over {LARGEST >> 20} MiB", "an OpenAPI document")
    try:
        tree = msgspec.json.decode(raw)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError):
        tree = _from_yaml(raw, name)
    version = str(tree.get("openapi", "")) if isinstance(tree, dict) else ""
    if not version.startswith(("3.0", "3.1")):
        found = f"it says openapi {version}" if version else "it is no OpenAPI document"
        raise Problem(name, "openapi", found, "3.0 or 3.1")
    document = Document(tree)
    document.name = name
    return document


def _from_yaml(raw: bytes, name: str) -> Any:
    """A YAML document as values; what could make much of little is refused (see YAML bombs).

    Raises:
        Problem: where it is none, or is written with merge keys or very many aliases.
    """
    loader = getattr(yaml, "CSafeLoader", yaml.SafeLoader)
    try:
        aliases = 0
        for event in yaml.parse(raw, Loader=loader):
            aliases += isinstance(event, yaml.AliasEvent)
            is_merge = False
            if isinstance(event, yaml.ScalarEvent) and event.value == "<<":
                is_merge = bool(event.implicit[0])
            if aliases > MOST_ALIASES or is_merge:
                said = "merge keys" if is_merge else f"over {MOST_ALIASES:,} aliases"
                wanted = "YAML that says the same as JSON"
                line = 0 if event.start_mark is None else event.start_mark.line + 1
                raise Problem(name, f"line {line}", f"it has {said}", wanted)
        return yaml.load(raw, Loader=loader)
    except (yaml.YAMLError, RecursionError, ValueError, TypeError, OverflowError) as error:
        said = (str(error).splitlines() or [type(error).__name__])[0]
        raise Problem(name, "", f"it is neither JSON nor YAML ({said})", "OpenAPI 3") from None


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
    document: Document, base: str, list_path: str, item_path: str, parameter: str, taken: list[str]
) -> Proposal | None:
    listed, parameters = _answer(document, list_path)
    item, _ = _answer(document, item_path)
    if listed is None or item is None:
        return None
    pointer, of_list = _array(document, listed)
    record, of_item = _object(document, item)
    if of_list is None or of_item is None:
        return None
    brings, whole = dict(_fields(document, of_list)), dict(_fields(document, of_item))
    fields = {**brings, **whole}
    if not fields:
        return None
    listed_names = of_item.get("required")
    required = {str(each) for each in listed_names} if isinstance(listed_names, list) else set()
    name = unused(slug(list_path.rpartition("/")[2]), taken)
    key = _key(parameter, fields)
    service = Service(
        list=base + list_path,
        item=base + item_path[: -len(parameter) - 2] + "{key}",
        records=pointer,
        record=record,
        paging=_paging(parameters),
        key_from_address="" if key else _address_field(fields),
    )
    source = Source(
        id=name,
        title=name.replace("-", " ").capitalize(),
        key=key or "key",
        fields=(
            *(() if key else (Field(name="key"),)),
            *(
                Field(name=each, type=kind, required=each in required)
                for each, kind in fields.items()
            ),
        ),
        list_brings=tuple(brings) if set(brings) < set(fields) else (),
        served="service",
        service=service,
    )
    return Proposal(source, list_path, item_path)


def _key(parameter: str, fields: Mapping[str, FieldType]) -> str:
    """The field that an item path's parameter means: of its name, or its end."""
    plain = {each.replace("_", "").replace("-", "").lower(): each for each in fields}
    name = parameter.replace("_", "").replace("-", "").lower()
    if name in plain:
        return plain[name]
    for end in ("id", "key", "code", "slug", "uuid"):
        if name.endswith(end) and end in plain:
            return plain[end]
    return plain.get("id", "")


def _address_field(fields: Mapping[str, FieldType]) -> str:
    return next((each for each in ("self", "href", "url", "link") if each in fields), "")


def _paging(parameters: list[str]) -> Paging:
    def named(names: tuple[str, ...]) -> str:
        return next((each for each in parameters if each.lower() in names), "")

    size = named(SIZES)
    for by, names in (("page", PAGES), ("offset", OFFSETS)):
        if parameter := named(names):
            return Paging(by=by, parameter=parameter, size_parameter=size)  # type: ignore[arg-type]
    return Paging(by="link", size_parameter=size)


def _answer(document: Document, path: str) -> tuple[Tree | None, list[str]]:
    """The schema of what a path answers to GET, and the names of its query parameters."""
    node = _followed(document, document["paths"][path])
    get = _followed(document, node.get("get")) if node else {}
    parameters = [
        str(each.get("name", ""))
        for given in (node.get("parameters"), get.get("parameters"))
        if isinstance(given, list)
        for each in (_followed(document, each) for each in given)
        if each.get("in") == "query"
    ]
    answers = get.get("responses")
    answers = answers if isinstance(answers, dict) else {}
    for status in ("200", 200, "2XX", "default"):
        content = _followed(document, answers.get(status)).get("content")
        if isinstance(content, dict):
            for kind, held in content.items():
                if "json" in str(kind):
                    schema = _followed(document, _followed(document, held).get("schema"))
                    return schema or None, parameters
    return None, parameters


def _followed(document: Document, node: Any) -> dict[str, Any]:
    """A node with its references followed; one in a circle, or to nowhere, holds nothing."""
    document.count()
    seen: set[str] = set()
    while isinstance(node, dict) and isinstance(node.get("$ref"), str):
        at = node["$ref"]
        if at in seen or not at.startswith("#"):
            return {}
        seen.add(at)
        try:
            node = pointed(document, at[1:], at)
        except Problem:
            return {}
    return node if isinstance(node, dict) else {}


def _kind(schema: Tree) -> str:
    kind = schema.get("type")
    if isinstance(kind, list):
        kind = next((each for each in kind if each != "null"), "")
    return str(kind or ("object" if "properties" in schema or "allOf" in schema else ""))


def _array(document: Document, schema: Tree) -> tuple[str, Tree | None]:
    """The pointer to the array of records in an answer, and the schema of one of them."""
    if _kind(schema) == "array":
        return "", _followed(document, schema.get("items"))
    for name, each in _properties(document, schema):
        if _kind(each) == "array":
            items = _followed(document, each.get("items"))
            if _kind(items) == "object":
                return f"/{name}", items
    return "", None


def _object(document: Document, schema: Tree) -> tuple[str, Tree | None]:
    """The pointer to the record in an answer: the answer itself, or the one object in it."""
    if _kind(schema) != "object":
        return "", None
    held = list(_properties(document, schema))
    if len(held) == 1 and _kind(held[0][1]) == "object":
        return f"/{held[0][0]}", held[0][1]
    return "", schema


def _properties(
    document: Document, schema: Tree, depth: int = 0
) -> Iterator[tuple[str, dict[str, Any]]]:
    """The properties of an object, those of all that it is made of among them."""
    parts = schema.get("allOf")
    if isinstance(parts, list) and depth < DEEPEST:
        for each in parts:
            yield from _properties(document, _followed(document, each), depth + 1)
    own = schema.get("properties")
    for name, each in (own if isinstance(own, dict) else {}).items():
        yield str(name), _followed(document, each)


def _fields(
    document: Document, schema: Tree, prefix: str = "", depth: int = 0
) -> Iterator[tuple[str, FieldType]]:
    """The fields of a record: objects inside by path, lists of values; lists of records left."""
    for number, (name, each) in enumerate(_properties(document, schema)):
        if number >= MOST_FIELDS:
            return
        kind = _kind(each)
        if kind == "object":
            if depth < DEEPEST:
                yield from _fields(document, each, f"{prefix}{name}.", depth + 1)
        elif kind == "array":
            inner = _plain(_followed(document, each.get("items")))
            if inner is not None and inner != "picture":
                yield prefix + name, f"list of {inner}"  # type: ignore[misc]
        elif (plain := _plain(each)) is not None:
            yield prefix + name, plain


def _plain(schema: Tree) -> FieldType | None:
    kind = _kind(schema)
    if kind == "string" and schema.get("format") == "date":
        return "date"
    if not kind and "enum" in schema:
        return "text"
    return TYPES.get(kind)
