"""Sources that descriptions of services offer."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import msgspec
import pytest

from cadena.check.check import check
from cadena.model.app import FormScreen, ListScreen
from cadena.model.listing import Sort
from cadena.model.problem import Problem
from cadena.model.service_order import sort_asked
from cadena.model.source import Paging, Source, has_key
from cadena.sources.import_file import described
from cadena.sources.openapi import offered as offered_by
from cadena.sources.openapi import proposals
from cadena.sources.scaffold import Wishes, decided, new_project

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


def paths(made: dict[str, Any], **schemas: Any) -> bytes:
    """A document of whole paths."""
    return msgspec.json.encode(
        {
            "openapi": "3.0.3",
            "info": {"title": "Huts", "version": "1"},
            "servers": [{"url": "https://huts.example"}],
            "paths": made,
            "components": {"schemas": {"Hut": HUT, "Place": PLACE, **schemas}},
        }
    )


def getting(schema: Any, parameters: Any = (), headers: Any = None) -> Any:
    """A path that answers GET so."""
    answer = {"content": {"application/json": {"schema": schema}}, "headers": headers or {}}
    queries = [{"name": name, "in": "query", "schema": said} for name, said in parameters]
    return {"get": {"parameters": queries, "responses": {"200": answer}}}


def source_of(raw: bytes) -> Source:
    (one,) = proposals(raw, "api")
    return one.source


def kind_of(**fields: str) -> Any:
    return {"type": "object", "properties": {name: {"type": kind} for name, kind in fields.items()}}


def many_of(kind: Any) -> Any:
    return getting({"type": "array", "items": kind})


@pytest.mark.parametrize(
    ("variable", "fields", "key"),
    [
        ("stationCode", ("name", "code"), "code"),
        ("number", ("name", "hut_number"), "hut_number"),
        ("slug", ("slug", "name"), "slug"),
        ("uid", ("name", "size"), ""),
    ],
)
def test_the_key_is_a_field_that_records_have(variable: str, fields: Any, key: str) -> None:
    kind = kind_of(**dict.fromkeys(fields, "string"))
    made = {"/huts": many_of(kind), f"/huts/{{{variable}}}": getting(kind)}
    source = source_of(paths(made))
    assert has_key(source) is bool(key)
    assert not key or source.key == key


def test_a_key_that_nothing_says_is_asked_for_and_told(tmp_path: Path) -> None:
    (tmp_path / "api.json").write_bytes(paths({"/huts": many_of(kind_of(name="string"))}))
    app, made = new_project(tmp_path / "p", [tmp_path / "api.json"])
    assert any("choose one with --key" in line for line in decided(app, made))
    found = check(app, {each.source.id: each.records for each in made})
    assert "key-unsaid" in {each.code for each in found}
    wishes = Wishes(keys={"huts": ("name",)})
    app, made = new_project(tmp_path / "q", [tmp_path / "api.json"], wishes=wishes)
    assert (made[0].source.key, made[0].why_key) == ("name", "you said so")


def test_what_is_made_of_plain_parts_is_plain() -> None:
    state = {"type": "string", "enum": ["open", "shut"]}
    kind = kind_of(id="integer")
    kind["properties"]["state"] = {"allOf": [{"$ref": "#/components/schemas/State"}]}
    made = {"/huts": many_of(kind), "/huts/{id}": getting(kind)}
    fields = {each.name: each.type for each in source_of(paths(made, State=state)).fields}
    assert fields == {"id": "whole number", "state": "text"}


def test_a_record_in_an_envelope_is_reached() -> None:
    whole = kind_of(status="string", meta="object")
    whole["properties"]["data"] = REF
    service = source_of(paths({"/huts": getting(MANY), "/huts/{hutId}": getting(whole)})).service
    assert service is not None
    assert service.record == "/data"


@pytest.mark.parametrize(
    ("beside", "parameters", "headers", "paging"),
    [
        (kind_of(next_cursor="string"), [("cursor", {"type": "string"})], None,
         Paging(by="cursor", parameter="cursor", next="/next_cursor")),
        ({"properties": {"meta": kind_of(next="string")}}, [], None,
         Paging(by="cursor", next="/meta/next")),
        (kind_of(), [("after", {"type": "string"})], {"X-Next-Cursor": {}},
         Paging(by="cursor", parameter="after", next="X-Next-Cursor")),
        (kind_of(), [("page", {"type": "integer", "default": 0})], None,
         Paging(by="page", parameter="page", first=0)),
        (kind_of(), [("page", {"type": "integer", "minimum": 1})], None,
         Paging(by="page", parameter="page", first=1)),
        (kind_of(total="integer"), [], None, Paging(by="link")),
    ],
)  # fmt: skip
def test_pages_are_found(beside: Any, parameters: Any, headers: Any, paging: Paging) -> None:
    answer = {"type": "object", "properties": {"items": MANY, **beside["properties"]}}
    service = source_of(paths({"/huts": getting(answer, parameters, headers)})).service
    assert service is not None
    assert service.paging == paging


def test_an_order_is_asked_for_in_the_words_that_are_taken() -> None:
    words = {"enum": ["Ascending", "Descending"]}
    said = [("sort", {"enum": ["name", "height"]}), ("order", words)]
    service = source_of(paths({"/huts": getting(MANY, said)})).service
    assert service is not None
    assert sort_asked(service, (Sort(field="name", descending=True),)) == {
        "sort": "name",
        "order": "Descending",
    }
    assert sort_asked(service, (Sort(field="region"),)) == {}


def test_what_a_service_asks_for_is_said() -> None:
    raw = msgspec.json.decode(document({"/huts": MANY}))
    raw["components"]["securitySchemes"] = {
        "login": {"type": "http", "scheme": "bearer"},
        "key": {"type": "apiKey", "in": "header", "name": "X-Key"},
    }
    token, key = offered_by(msgspec.json.encode(raw), "api").security
    assert token.endswith("give the source the header Authorization: Bearer ${CADENA_TOKEN}")
    assert key == "it asks for a key (key): give the source the header X-Key: ${CADENA_KEY}"


def test_of_many_lists_those_come_first_that_others_refer_to(tmp_path: Path) -> None:
    made: dict[str, Any] = {
        f"/logs{number}": many_of(kind_of(id="integer", **{f"n{number}": "string"}))
        for number in range(9)
    }
    order = kind_of(id="integer", hut_id="integer")
    made |= {"/orders": many_of(order), "/orders/{orderId}": getting(order)}
    made |= {"/huts": getting(MANY), "/huts/{hutId}": getting(REF)}
    (tmp_path / "api.json").write_bytes(paths(made))
    app, _ = new_project(tmp_path / "p", [tmp_path / "api.json"])
    sources = [each.id for each in app.sources]
    assert len(sources) == 8
    assert {"huts", "orders"} <= set(sources)


def test_a_record_is_called_by_what_the_list_brings() -> None:
    short = kind_of(id="integer", code="string")
    made = {"/huts": many_of(short), "/huts/{hutId}": getting(REF)}
    assert source_of(paths(made)).label == "code"


BOAT = {
    "type": "object",
    "required": ["name", "kind"],
    "properties": {
        "id": {"type": "integer", "readOnly": True},
        "name": {"type": "string", "minLength": 2, "maxLength": 40},
        "kind": {"type": "string", "enum": ["sail", "oar"]},
        "berths": {"type": "integer", "minimum": 0, "maximum": 12, "default": 2},
        "about": {"type": "string", "maxLength": 2000},
        "marks": {"type": "array", "items": {"type": "string"}},
    },
}
MERGE = "application/merge-patch+json"


def written(schema: Any = BOAT, **ways: Any) -> dict[str, Any]:
    """Boats by a list and an item, with the methods of ``ways``: name of a method, and its media
    type; those that change a record stand at the item."""
    at_list, at_item = getting({"type": "array", "items": schema}), getting(schema)
    for method, media in ways.items():
        body = {"requestBody": {"content": {media: {"schema": schema}}}} if media else {}
        (at_list if method == "post" else at_item)[method] = {
            **body,
            "responses": {"201": {"content": {"application/json": {"schema": kind_in(schema)}}}},
        }
    return {"/boats": at_list, "/boats/{id}": at_item}


def kind_in(schema: Any) -> Any:
    return {"type": "object", "properties": {"data": schema}}


def test_how_a_service_is_written_to_is_read() -> None:
    made = written(post="application/json", patch=MERGE, put="application/json", delete="")
    made["/boats"]["post"]["parameters"] = [{"name": "Idempotency-Key", "in": "header"}]
    made["/boats/{id}"]["get"]["responses"]["200"]["headers"] = {"ETag": {}}
    proposal = proposals(paths(made), "api")[0]
    service = proposal.source.service
    assert service is not None
    assert service.create is not None
    assert service.change is not None
    assert service.remove is not None
    assert (service.create.method, service.create.record) == ("POST", "/data")
    assert service.create.address == service.list
    assert (service.change.method, service.change.sends, service.change.media) == (
        "PATCH",
        "changed",
        MERGE,
    )
    assert service.change.address == service.remove.address == service.item
    assert service.versions
    assert service.repeats
    form = {each.field: each for each in proposal.form}
    assert list(form) == ["name", "kind", "berths", "about"]
    assert (form["name"].required, form["name"].least, form["name"].most) == (True, 2, 40)
    assert form["kind"].choices == ("sail", "oar")
    assert (form["berths"].least, form["berths"].most, form["berths"].default) == (0, 12, 2)
    assert (form["name"].lines, form["about"].lines) == (1, 4)


def test_a_put_sends_the_whole_record_and_says_nothing_of_versions() -> None:
    service = source_of(paths(written(put="application/json"))).service
    assert service is not None
    assert service.change is not None
    assert (service.change.method, service.change.sends) == ("PUT", "whole")
    assert (service.create, service.remove, service.versions) == (None, None, False)


WAYS = {"post": "application/json", "patch": MERGE, "delete": ""}


@pytest.mark.parametrize("ways", [(), ("post",), ("patch",), ("delete",), ("post", "delete"),
                                  ("post", "patch", "delete")])  # fmt: skip
def test_screens_are_made_of_what_a_service_takes_and_no_more(
    tmp_path: Path, ways: tuple[str, ...]
) -> None:
    made = written(**{each: WAYS[each] for each in ways})
    (tmp_path / "api.json").write_bytes(paths(made))
    app, adopted = new_project(tmp_path / "p", [tmp_path / "api.json"])
    found = check(app, {each.source.id: each.records for each in adopted})
    assert not [each for each in found if each.weight == "breaks"]
    forms = [each for each in app.screens if isinstance(each, FormScreen)]
    assert bool(forms) is bool({"post", "patch"} & set(ways))
    opened = {each.trigger.part for each in app.links if forms and each.to == forms[0].id}
    assert opened == {part for part, way in (("add", "post"), ("edit", "patch")) if way in ways}
    listed = next(each for each in app.screens if isinstance(each, ListScreen))
    assert [each.id for each in listed.rows.actions] == ["remove"] * ("delete" in ways)


@pytest.mark.parametrize(
    ("key", "said"),
    [
        ("required", 7), ("required", [{}]), ("properties", []), ("properties", {"name": 3}),
        ("properties", {"name": {"type": "string", "enum": [[], {}, None, 1e999]}}),
        ("properties", {"name": {"type": "string", "minLength": "x", "maxLength": -(10**400)}}),
        ("properties", {"n": {"type": "integer", "default": [], "minimum": 9, "maximum": 1}}),
        ("allOf", [{"$ref": "#/components/schemas/Nowhere"}]),
    ],
)  # fmt: skip
def test_a_body_that_says_what_it_may_not_is_read_for_what_it_says(
    tmp_path: Path, key: str, said: Any
) -> None:
    made = written(**WAYS)
    broken = {**BOAT, key: said}
    body = {"content": {"application/json": {"schema": broken}}}
    made["/boats"]["post"]["requestBody"] = body
    (tmp_path / "api.json").write_bytes(paths(made))
    app, adopted = new_project(tmp_path / "p", [tmp_path / "api.json"])
    found = check(app, {each.source.id: each.records for each in adopted})
    assert all(each.what for each in found)
