"""The OpenAPI 3.1 document of the stand-in service."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import Any, Final

from cadena.model.naming import singular
from cadena.model.values import LIST
from cadena.records.records import Records

SCHEMAS: Final[dict[str, dict[str, str]]] = {
    "text": {"type": "string"},
    "picture": {"type": "string"},
    "whole number": {"type": "integer", "format": "int64"},
    "number": {"type": "number"},
    "yes/no": {"type": "boolean"},
    "date": {"type": "string", "format": "date"},
    "date and time": {"type": "string", "format": "date-time"},
}

MERGE_PATCH: Final = "application/merge-patch+json"
REPEATED: Final = {"name": "Idempotency-Key", "in": "header", "schema": {"type": "string"}}


def _problem(description: str) -> dict[str, Any]:
    """An answer that is a problem (RFC 9457)."""
    schema = {"type": "object"}
    return {"description": description, "content": {"application/problem+json": {"schema": schema}}}


WRITES: Final = ("post", "put", "patch", "delete")


def described(
    name: str,
    all_records: Mapping[str, Records],
    address: str,
    only_read: Collection[str] = (),
) -> dict[str, Any]:
    """What the service answers, as OpenAPI 3.1: a list path and an item path for each source.

    Args:
        only_read: the sources that are not written to.
    """
    schemas: dict[str, Any] = {}
    paths: dict[str, Any] = {}
    for source, records in all_records.items():
        fields = {field: _schema(kind) for field, kind in records.types.items()}
        whole = singular(source).capitalize()
        required = [each.name for each in records.source.fields if each.required]
        schemas[whole] = {"type": "object", "properties": fields}
        if required:
            schemas[whole]["required"] = required
        brings = records.source.list_brings
        listed = whole
        if brings:
            listed = f"{whole}InList"
            kept = {
                field: fields[field] for field in (records.source.key, *brings) if field in fields
            }
            schemas[listed] = {"type": "object", "properties": kept}
        key = records.types.get(records.source.key, "text")
        paths[f"/{source}"] = _list_path(whole, listed, records)
        paths[f"/{source}/{{{records.source.key}}}"] = _item_path(records.source.key, key, whole)
        for path in (paths[f"/{source}"], paths[f"/{source}/{{{records.source.key}}}"]):
            for method in WRITES if source in only_read else ():
                path.pop(method, None)
    return {
        "openapi": "3.1.0",
        "info": {"title": f"{name}, stand-in", "version": "1"},
        "servers": [{"url": address}],
        "paths": paths,
        "components": {"schemas": schemas},
    }


def _schema(kind: str) -> dict[str, Any]:
    if kind.startswith(LIST):
        return {"type": ["array", "null"], "items": SCHEMAS[kind[len(LIST) :]]}
    schema: dict[str, Any] = dict(SCHEMAS[kind])
    schema["type"] = [schema["type"], "null"]
    return schema


def _json_content(name: str, is_list: bool = False) -> dict[str, Any]:
    one: dict[str, Any] = {"$ref": f"#/components/schemas/{name}"}
    schema = {"type": "array", "items": one} if is_list else one
    return {"application/json": {"schema": schema}}


def _list_path(whole: str, listed: str, records: Records) -> dict[str, Any]:
    own = {"page": "integer", "size": "integer", "q": "string", "sort": "string", "order": "string"}
    asked: dict[str, dict[str, str]] = {name: {"type": kind} for name, kind in own.items()}
    asked |= {
        name: dict(SCHEMAS[kind])
        for name, kind in records.types.items()
        if not kind.startswith(LIST) and name not in own and name != records.source.key
    }
    query = [{"name": name, "in": "query", "schema": kind} for name, kind in asked.items()]
    return {
        "get": {
            "parameters": query,
            "responses": {"200": {"description": "a page", "content": _json_content(listed, True)}},
        },
        "post": {
            "parameters": [REPEATED],
            "requestBody": {"content": _json_content(whole)},
            "responses": {
                "201": {"description": "made", "content": _json_content(whole)},
                "422": _problem("fields that do not fit"),
            },
        },
    }


def _item_path(key: str, kind: str, whole: str) -> dict[str, Any]:
    gone = {"404": _problem("there is no such record")}
    version = {"ETag": {"schema": {"type": "string"}}}
    found = {
        "200": {"description": "the record", "headers": version, "content": _json_content(whole)}
    }
    other = {"412": _problem("it is another version than the one that is meant")}
    fits = {"422": _problem("fields that do not fit")}
    changed = {**_json_content(whole), MERGE_PATCH: _json_content(whole)["application/json"]}
    asked = [{"name": "If-Match", "in": "header", "schema": {"type": "string"}}, REPEATED]
    return {
        "parameters": [
            {"name": key, "in": "path", "required": True, "schema": dict(SCHEMAS[kind])}
        ],
        "get": {"responses": {**found, **gone}},
        "patch": {
            "parameters": asked,
            "requestBody": {"content": changed},
            "responses": {**found, **gone, **other, **fits},
        },
        "delete": {
            "parameters": asked,
            "responses": {"204": {"description": "removed"}, **gone, **other},
        },
    }
