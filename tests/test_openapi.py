"""Sources that descriptions of services offer."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import msgspec
import pytest

from cadena.model.problem import Problem
from cadena.sources.import_file import described
from cadena.sources.openapi import proposals

HUT = {
    "type": "object",
    "required": ["id"],
    "properties": {
        "id": {"type": "integer"},
        "name": {"type": ["string", "null"]},
        "opened": {"anyOf": [{"type": "null"}, {"type": "string", "format": "date"}]},
        "at": {"oneOf": [{"$ref": "#/components/schemas/Place"}, {"type": "null"}]},
    },
}
PLACE = {"type": "object", "properties": {"valley": {"type": "string", "nullable": True}}}


def answers(schema: Any) -> Any:
    return {"get": {"responses": {"200": {"content": {"application/json": {"schema": schema}}}}}}


def document(paths: dict[str, Any], version: str = "3.1.0", **schemas: Any) -> bytes:
    made = {
        "openapi": version,
        "info": {"title": "Huts", "version": "1"},
        "servers": [{"url": "https://huts.example/v1"}],
        "paths": {path: answers(schema) for path, schema in paths.items()},
        "components": {"schemas": {"Hut": HUT, "Place": PLACE, **schemas}},
    }
    return msgspec.json.encode(made)


REF = {"$ref": "#/components/schemas/Hut"}
MANY = {"type": "array", "items": REF}


def offered(raw: bytes) -> list[tuple[str, str, str]]:
    return [(each.source.id, each.list_path, each.item_path) for each in proposals(raw, "api")]


@pytest.mark.parametrize("version", ["3.0.3", "3.1.0"])
def test_a_list_and_its_item_by_path(version: str) -> None:
    (one,) = proposals(document({"/huts": MANY, "/huts/{hutId}": REF}, version), "api")
    service = one.source.service
    assert service is not None
    assert (service.list, service.item) == (
        "https://huts.example/v1/huts",
        "https://huts.example/v1/huts/{key}",
    )
    assert {each.name: each.type for each in one.source.fields} == {
        "id": "whole number",
        "name": "text",
        "opened": "date",
        "at.valley": "text",
    }
    assert (one.source.key, one.source.fields[0].required) == ("id", True)


def test_a_list_belongs_to_an_item_of_the_same_schema_and_is_offered_once() -> None:
    paths = {"/hut/free": MANY, "/hut/closed": MANY, "/hut/{hutId}": REF}
    assert offered(document(paths)) == [("hut", "/hut/free", "/hut/{hutId}")]


def test_a_list_without_an_item_path_is_offered_all_the_same() -> None:
    (one,) = proposals(document({"/huts": MANY}), "api")
    assert (one.source.id, one.source.key, one.item_path) == ("huts", "id", "")
    assert one.source.service is not None
    assert one.source.service.item == ""


@pytest.mark.parametrize(
    ("schema", "pointer"),
    [
        ({"type": "object", "properties": {"huts": MANY}}, "/huts"),
        (
            {
                "type": "object",
                "properties": {"data": {"type": "object", "properties": {"all": MANY}}},
            },
            "/data/all",
        ),
        (
            {
                "allOf": [
                    {
                        "type": "object",
                        "properties": {"data": {"type": "array", "items": {"type": "object"}}},
                    },
                    {"properties": {"data": MANY}},
                ]
            },
            "/data",
        ),
    ],
)
def test_the_list_may_be_wrapped(schema: Any, pointer: str) -> None:
    (one,) = proposals(document({"/huts": schema, "/huts/{id}": REF}), "api")
    assert one.source.service is not None
    assert one.source.service.records == pointer
    assert "at.valley" in [each.name for each in one.source.fields]


def test_schemas_that_hold_each_other_end() -> None:
    leg = {
        "type": "object",
        "properties": {
            "id": {"type": "string"},
            "next": {"$ref": "#/components/schemas/Leg"},
            "all": {"type": "array", "items": {"$ref": "#/components/schemas/Leg"}},
        },
    }
    of = {"type": "array", "items": {"$ref": "#/components/schemas/Leg"}}
    (one,) = proposals(document({"/legs": of}, Leg=leg), "api")
    assert len(one.source.fields) <= 6


@pytest.mark.parametrize(
    ("raw", "says"),
    [
        (b'{"swagger": "2.0", "paths": {}}', "it is Swagger 2.0, the format before OpenAPI 3"),
        (b'{"openapi": "4.0.0"}', "it says openapi 4.0.0"),
        (document({"/huts/{hutId}": REF}), "no path lists records"),
        (document({"/status": {"type": "object"}}), "no path lists records"),
    ],
)
def test_what_offers_nothing_is_said(raw: bytes, says: str) -> None:
    with pytest.raises(Problem, match=says):
        proposals(raw, "api")


def test_a_document_is_never_taken_for_a_data_file(tmp_path: Path) -> None:
    """Whatever stands before its version, and whatever marks its order of bytes."""
    raw = document({"/huts": MANY})
    late = b'{"info": {"description": "' + b"long " * 2000 + b'"}, ' + raw[1:]
    (tmp_path / "late.json").write_bytes(late)
    (tmp_path / "marked.json").write_bytes(b"\xef\xbb\xbf" + raw)
    for name in ("late.json", "marked.json"):
        assert [each.source.id for each in described(tmp_path / name)] == ["huts"]
    (tmp_path / "data.json").write_text('[{"id": 1, "openapi": "3.0"}]')
    assert described(tmp_path / "data.json") == ()
