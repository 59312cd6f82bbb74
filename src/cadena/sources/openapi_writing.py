"""How a service is written to, and what a form of it holds, from an OpenAPI document."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Final, Literal, NamedTuple

from cadena.model.blocks import FormField
from cadena.model.source import Kind, Writing
from cadena.model.values import FieldType, Unfit, Value, carry
from cadena.sources.schemas import (
    Document,
    Tree,
    answer_of,
    answered,
    followed,
    object_in,
    parameters_of,
    properties_of,
)

MERGE: Final = "application/merge-patch+json"
LONG: Final = 200
"""Letters from which a text is typed in lines."""
LINES: Final = 4
DONE: Final = ("200", 200, "201", 201, "2XX", "default")
"""The statuses of what was written."""


class Written(NamedTuple):
    """How a service takes what is written: its ways, what its forms hold, and what it knows."""

    ways: Mapping[Kind, Writing]
    fields: tuple[FormField, ...] = ()
    versions: bool = False
    repeats: bool = False


def written_by(
    document: Document,
    base: str,
    paths: tuple[str, str],
    fields: Mapping[str, FieldType],
    key: str,
) -> Written:
    """How the records of a list are written to: POST at the list, PATCH or PUT and DELETE at one.

    Args:
        paths: of the list, and of one record, if there is one.
        fields: the fields of the records, by which those of a form are known.
        key: the field of the key, which is for the service to give where it is not required.
    """
    list_path, item_path = paths
    ways: dict[Kind, Writing] = {}
    at_list = _methods(document, list_path)
    at_item = _methods(document, item_path) if item_path else {}
    item = base + _keyed(item_path)
    body: Tree = {}
    if (post := at_list.get("post")) is not None and (asked := _body(document, post)) is not None:
        body = asked[1]
        ways["create"] = Writing(
            method="POST", address=base + list_path, record=_record_at(document, post)
        )
    change = next((each for each in ("patch", "put") if each in at_item), "")
    if change and (asked := _body(document, at_item[change])) is not None:
        method: Literal["PATCH", "PUT"] = "PATCH" if change == "patch" else "PUT"
        ways["change"] = Writing(
            method=method,
            address=item,
            sends="changed" if change == "patch" else "whole",
            media=MERGE if asked[0] == MERGE else "application/json",
            record=_record_at(document, at_item[change]),
        )
        body = body or asked[1]
    if "delete" in at_item:
        ways["remove"] = Writing(method="DELETE", address=item)
    headers = answer_of(document, item_path).headers if item_path else ()
    known = parameters_of(document, [at_list.get("post", {})], "header")
    return Written(
        ways,
        tuple(_form(document, body, fields, key)),
        "etag" in map(str.lower, headers),
        "idempotency-key" in map(str.lower, known),
    )


def _methods(document: Document, path: str) -> dict[str, dict[str, Any]]:
    paths = document.get("paths")
    node = followed(document, paths.get(path)) if isinstance(paths, dict) else {}
    return {str(name).lower(): followed(document, each) for name, each in node.items()
            if isinstance(each, dict)}  # fmt: skip


def _keyed(path: str) -> str:
    """An item path with ``{key}`` in place of its last variable."""
    begin = path.rfind("{")
    return f"{path[:begin]}{{key}}" if begin >= 0 else path


def _body(document: Document, method: Tree) -> tuple[str, Tree] | None:
    """The media type and the schema of what a method is sent; none where that is no JSON."""
    content = followed(document, method.get("requestBody")).get("content")
    held = content if isinstance(content, dict) else {}
    for media in sorted(held, key=lambda each: str(each) == MERGE):
        if "json" in str(media):
            schema = followed(document, followed(document, held[media]).get("schema"))
            pointer, inside = object_in(document, schema)
            if inside is not None and not pointer:
                return str(media), inside
    return None


def _record_at(document: Document, method: Tree) -> str:
    """Where in the answer the record stands."""
    schema, _ = answered(document, method, DONE)
    return "" if schema is None else object_in(document, schema)[0]


def _form(
    document: Document, body: Tree, fields: Mapping[str, FieldType], key: str
) -> list[FormField]:
    """The fields of a form: those that may be sent, with what their schemas ask of them."""
    told = body.get("required")
    required = {str(each) for each in told} if isinstance(told, list) else set()
    found = []
    for name, schema in properties_of(document, body):
        kind = fields.get(name)
        is_given = schema.get("readOnly") is True or (name == key and name not in required)
        if kind is None or kind.startswith("list of") or is_given:
            continue
        least, most = _bounds(schema, kind)
        long = kind == "text" and most is not None and most >= LONG
        found.append(
            FormField(
                field=name,
                required=name in required,
                choices=_choices(schema, kind),
                least=least,
                most=most,
                default=_fitting(schema.get("default"), kind),
                lines=LINES if long else 1,
            )
        )
    return found


def _bounds(schema: Tree, kind: FieldType) -> tuple[float | None, float | None]:
    names = ("minLength", "maxLength") if kind == "text" else ("minimum", "maximum")
    if kind not in ("text", "whole number", "number"):
        return None, None
    least, most = (_number(schema.get(each)) for each in names)
    return least, most


def _number(value: Any) -> float | None:
    is_number = isinstance(value, int | float) and not isinstance(value, bool)
    return float(value) if is_number and abs(value) < 1e15 else None


def _choices(schema: Tree, kind: FieldType) -> tuple[Value, ...]:
    enum = schema.get("enum")
    some = (_fitting(each, kind) for each in enum) if isinstance(enum, list) else ()
    return tuple(each for each in some if each is not None)


def _fitting(value: Any, kind: FieldType) -> Value | None:
    try:
        return None if value is None else carry(value, kind)
    except Unfit:
        return None
