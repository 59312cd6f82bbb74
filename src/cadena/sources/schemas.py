"""An OpenAPI document, and what its schemas say of records: references followed, and bounded."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from itertools import islice
from typing import Any, Final, NamedTuple

import msgspec

from cadena.model.problem import Problem
from cadena.model.values import FieldType
from cadena.sources.json_tree import pointed
from cadena.sources.read_yaml import values_in

LARGEST: Final = 16 * 1024 * 1024
DEEPEST: Final = 6
DEEPEST_FIELD: Final = 2
"""Objects around a field of a record."""
MOST_FIELDS: Final = 200
MOST_STEPS: Final = 200_000
"""Nodes that are looked at: a schema can hold itself again and again."""
DEEPEST_LIST: Final = 3
"""Objects around the array of records in an answer."""
TYPES: Final[dict[str, FieldType]] = {
    "string": "text",
    "integer": "whole number",
    "number": "number",
    "boolean": "yes/no",
}
TIMES: Final[dict[Any, FieldType]] = {"date": "date", "date-time": "date and time"}
Tree = Mapping[str, Any]
WRAPPINGS: Final = frozenset(
    {"data", "result", "results", "response", "_embedded", "payload", "item", "record", "body"}
)
ABOUT: Final = frozenset(
    {"status", "code", "message", "success", "ok", "error", "errors", "meta", "links", "_links"}
    | {"warnings", "included", "jsonapi", "timestamp", "request_id", "requestid", "version"}
)
"""What stands beside a record in an answer, and is about the answer."""


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


def document_of(raw: bytes, name: str) -> Document:
    """The document that is written in JSON or YAML.

    Raises:
        Problem: when it is none of OpenAPI 3.0 or 3.1.
    """
    if len(raw) > LARGEST:
        raise Problem(name, "", f"it is over {LARGEST >> 20} MiB", "an OpenAPI document")
    try:
        tree = msgspec.json.decode(raw)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError):
        tree = values_in(raw, name, "OpenAPI 3")
    version = str(tree.get("openapi", "")) if isinstance(tree, dict) else ""
    if not version.startswith(("3.0", "3.1")):
        found = f"it says openapi {version}" if version else "it is no OpenAPI document"
        if isinstance(tree, dict) and "swagger" in tree:
            found = f"it is Swagger {tree['swagger']}, the format before OpenAPI 3"
        raise Problem(name, "openapi", found, "3.0 or 3.1")
    document = Document(tree)
    document.name = name
    return document


class Answer(NamedTuple):
    """What a path answers to GET: its schema, none where that is no JSON, and its headers; and the
    schemas of its query parameters, by name."""

    schema: Tree | None
    parameters: Mapping[str, Tree]
    headers: tuple[str, ...] = ()


def answer_of(document: Document, path: str) -> Answer:
    """What a path answers to GET, as far as it is described."""
    node = followed(document, document["paths"][path])
    get = followed(document, node.get("get")) if node else {}
    parameters = parameters_of(document, (node, get), "query")
    schema, headers = answered(document, get, ("200", 200, "2XX", "default"))
    return Answer(schema, parameters, headers)


def parameters_of(
    document: Document, nodes: Iterable[Tree], place: str
) -> dict[str, dict[str, Any]]:
    """The schemas of the parameters of a path, or of a method, in one place, by name."""
    return {
        str(each.get("name", "")): followed(document, each.get("schema"))
        for given in (node.get("parameters") for node in nodes)
        if isinstance(given, list)
        for each in (followed(document, each) for each in given)
        if each.get("in") == place
    }


def answered(
    document: Document, method: Tree, statuses: Sequence[str | int]
) -> tuple[Tree | None, tuple[str, ...]]:
    """What a method answers with the first of some statuses that has JSON: the schema, none where
    there is none, and the headers."""
    answers = method.get("responses")
    answers = answers if isinstance(answers, dict) else {}
    for status in statuses:
        answer = followed(document, answers.get(status))
        content, headers = answer.get("content"), answer.get("headers")
        for kind, held in (content if isinstance(content, dict) else {}).items():
            if "json" in str(kind):
                schema = followed(document, followed(document, held).get("schema"))
                said = tuple(map(str, headers)) if isinstance(headers, dict) else ()
                return schema or None, said
    return None, ()


def security_of(document: Document) -> Iterator[str]:
    """What a service asks for before it answers, in words: a line each."""
    held = followed(document, document.get("components")).get("securitySchemes")
    for name, each in (held if isinstance(held, dict) else {}).items():
        scheme = followed(document, each)
        kind, place = scheme.get("type"), scheme.get("in")
        if kind == "apiKey" and place == "header":
            header = f"{scheme.get('name')}: ${{CADENA_KEY}}"
            yield f"it asks for a key ({name}): give the source the header {header}"
        elif kind == "apiKey":
            yield f"it asks for a key ({name}) in the {place}, which is not sent"
        elif kind == "http" and str(scheme.get("scheme")).lower() == "bearer":
            header = "Authorization: Bearer ${CADENA_TOKEN}"
            yield f"it asks for a token ({name}): give the source the header {header}"
        elif kind == "http":
            header = "Authorization: Basic ${CADENA_LOGIN}"
            yield f"it asks for a login ({name}): give the source the header {header}"
        else:
            header = "Authorization: Bearer ${CADENA_TOKEN}"
            yield f"it asks for a token of {kind} ({name}): get one, and give the header {header}"


def followings(
    document: Document, schema: Tree, prefix: str = "", depth: int = 0
) -> Iterator[tuple[str, str]]:
    """The plain values of an answer that are beside its records: the pointer to each, and its
    name."""
    for name, each in properties_of(document, schema):
        if kind_of(each) in ("string", "integer"):
            yield f"{prefix}/{name}", name
        elif kind_of(each) == "object" and depth < DEEPEST_FIELD:
            yield from followings(document, each, f"{prefix}/{name}", depth + 1)


def followed(document: Document, node: Any) -> dict[str, Any]:
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
    if not isinstance(node, dict):
        return {}
    parts = node.get("allOf")
    if isinstance(parts, list) and not node.keys() & {"type", "properties"}:
        known = [followed(document, each) for each in parts[:MOST_FIELDS]]
        if known and all(kind_of(each) not in ("", "object") for each in known):
            # What all of it is made of says what a plain value is.
            return {name: value for each in known for name, value in each.items()}
    one_of = node.get("oneOf", node.get("anyOf"))
    if isinstance(one_of, list) and not node.keys() & {"type", "properties", "$ref"}:
        return _likeliest(document, one_of)
    return node


def _likeliest(document: Document, one_of: list[Any]) -> dict[str, Any]:
    """Of what a value may be, what says most: an object or an array, else the first that is not
    null."""
    found = [followed(document, each) for each in one_of[:MOST_FIELDS]]
    whole = (each for each in found if kind_of(each) in ("object", "array"))
    plain = (each for each in found if kind_of(each) not in ("", "null"))
    return next(whole, next(plain, {}))


def kind_of(schema: Tree) -> str:
    """The type that a schema names; of several the first that is not null."""
    kind = schema.get("type")
    if isinstance(kind, list):
        kind = next((each for each in kind if each != "null"), "")
    return str(kind or ("object" if "properties" in schema or "allOf" in schema else ""))


def array_in(document: Document, schema: Tree, depth: int = 0) -> tuple[str, Tree | None]:
    """The pointer to the array of records in an answer, and the schema of one of them."""
    if kind_of(schema) == "array":
        return "", followed(document, schema.get("items"))
    # Of what a schema is made of, the later says more.
    inside = list(dict(properties_of(document, schema)).items())
    for name, each in inside:
        if kind_of(each) == "array":
            items = followed(document, each.get("items"))
            if kind_of(items) == "object":
                return f"/{name}", items
    # An object that is a record itself may hold others; only wrappings are looked into.
    for name, each in inside if depth < DEEPEST_LIST else ():
        if name in WRAPPINGS and kind_of(each) == "object":
            pointer, items_inside = array_in(document, each, depth + 1)
            if items_inside is not None:
                return f"/{name}{pointer}", items_inside
    return "", None


def object_in(document: Document, schema: Tree) -> tuple[str, Tree | None]:
    """The pointer to the record in an answer: the answer itself, or the one object in it."""
    if kind_of(schema) != "object":
        return "", None
    held = list(properties_of(document, schema))
    if len(held) == 1 and kind_of(held[0][1]) == "object":
        return f"/{held[0][0]}", held[0][1]
    # What only wraps a record says of it whether it came, and no more.
    wrapped = [(name, each) for name, each in held if kind_of(each) == "object"]
    inside = next(((name, each) for name, each in wrapped if name in WRAPPINGS), None)
    if inside is not None and all(name in ABOUT for name, _ in held if name != inside[0]):
        return f"/{inside[0]}", inside[1]
    return "", schema


def properties_of(
    document: Document, schema: Tree, depth: int = 0
) -> Iterator[tuple[str, dict[str, Any]]]:
    """The properties of an object, those of all that it is made of among them."""
    parts = schema.get("allOf")
    if isinstance(parts, list) and depth < DEEPEST:
        for part in parts:
            yield from properties_of(document, followed(document, part), depth + 1)
    own = schema.get("properties")
    for name, each in (own if isinstance(own, dict) else {}).items():
        yield str(name), followed(document, each)


def _fields(
    document: Document, schema: Tree, prefix: str = "", depth: int = 0
) -> Iterator[tuple[str, FieldType]]:
    """The fields of a record: objects inside by path, lists of values; lists of records left."""
    for number, (name, each) in enumerate(properties_of(document, schema)):
        if number >= MOST_FIELDS:
            return
        kind = kind_of(each)
        if kind == "object":
            if depth < DEEPEST_FIELD:
                yield from _fields(document, each, f"{prefix}{name}.", depth + 1)
        elif kind == "array":
            inner = _plain(followed(document, each.get("items")))
            if inner is not None and inner != "picture":
                yield prefix + name, f"list of {inner}"  # type: ignore[misc]
        elif (plain := _plain(each)) is not None:
            yield prefix + name, plain


def _plain(schema: Tree) -> FieldType | None:
    kind, form = kind_of(schema), schema.get("format")
    if kind == "string" and isinstance(form, str) and form in TIMES:
        return TIMES[form]
    if not kind and "enum" in schema:
        return "text"
    return TYPES.get(kind)


def fields_of(document: Document, schema: Tree) -> dict[str, FieldType]:
    """So many fields of a record, its own before those of what it holds."""
    found = islice(_fields(document, schema), 10 * MOST_FIELDS)
    return dict(sorted(found, key=lambda each: each[0].count("."))[:MOST_FIELDS])
