"""The OpenAPI 3.1 document of the stand-in service."""

from __future__ import annotations

from collections.abc import Mapping
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


def described(name: str, all_records: Mapping[str, Records], address: str) -> dict[str, Any]:
    """What the service answers, as OpenAPI 3.1: a list path and an item path for each source."""
    schemas: dict[str, Any] = {}
    paths: dict[str, Any] = {}
    for source, records in all_records.items():
        fields = {field: _schema(kind) for field, kind in records.types.items()}
        whole = singular(source).capitalize()
        schemas[whole] = {"type": "object", "properties": fields}
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


def _held(name: str, is_list: bool = False) -> dict[str, Any]:
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
            "responses": {"200": {"description": "a page", "content": _held(listed, True)}},
        },
        "post": {
            "requestBody": {"content": _held(whole)},
            "responses": {
                "201": {"description": "made", "content": _held(whole)},
                "422": {"description": "fields that do not fit"},
            },
        },
    }


def _item_path(key: str, kind: str, whole: str) -> dict[str, Any]:
    gone = {"404": {"description": "there is no such record"}}
    found = {"200": {"description": "the record", "content": _held(whole)}}
    return {
        "parameters": [
            {"name": key, "in": "path", "required": True, "schema": dict(SCHEMAS[kind])}
        ],
        "get": {"responses": {**found, **gone}},
        "patch": {"requestBody": {"content": _held(whole)}, "responses": {**found, **gone}},
        "delete": {"responses": {"204": {"description": "removed"}, **gone}},
    }
