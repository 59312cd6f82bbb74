"""Calling services: the stand-in over loopback, and answers that are not as they should be."""

from __future__ import annotations

import gzip
import itertools
import json
import socket
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from functools import partial
from pathlib import Path
from threading import Event, Thread
from typing import Any

import httpx
import polars as pl
import pytest
from msgspec.structs import replace

from builders import small_records
from cadena.engine import events as do
from cadena.engine.session import Request, Session, sized
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.file.project_file import write_app
from cadena.model.listing import Sort
from cadena.model.problem import Problem
from cadena.model.source import Csv, Paging, Refers, Service, Source, StandIn, service_at
from cadena.records.reading import Stopped
from cadena.serve.call_services import Answers, Services
from cadena.serve.serve import Served, server
from cadena.serve.taking import version_of
from cadena.sources import openapi, schemas
from cadena.sources.bring_records import bring, brought
from cadena.sources.fetch import Asked, Caller
from cadena.sources.import_file import Adopted
from cadena.sources.open_project import open_project
from cadena.sources.openapi import proposals
from cadena.sources.read_file import read_records, typed
from cadena.sources.scaffold import app_of
from small_service import answering, serving
from test_cli import call

Answer = Callable[[httpx.Request], httpx.Response]


def caller(answer: Answer, **service: Any) -> Caller:
    made = Service(**{"list": "http://x/huts", "item": "http://x/huts/{key}", **service})
    return Caller(made, httpx.Client(transport=httpx.MockTransport(answer)), longest=0.5)


def source(**changed: Any) -> Source:
    return Source(**{"id": "huts", "key": "id", **changed})


def paged(count: int, size: int) -> Answer:
    def answer(request: httpx.Request) -> httpx.Response:
        page = int(request.url.params.get("page", 1))
        first = (page - 1) * size
        return httpx.Response(200, json=[{"id": n} for n in range(first, min(first + size, count))])

    return answer


def test_pages_are_asked_for_until_one_is_short() -> None:
    paging = Paging(by="page", parameter="page", size_parameter="size", size=10)
    reading, records = bring(source(), caller(paged(25, 10), paging=paging))
    assert len(records) == 25
    assert reading.frame["id"].to_list() == list(range(25))
    assert not reading.faults


def test_an_offset_and_a_link_lead_on_too() -> None:
    def by_offset(request: httpx.Request) -> httpx.Response:
        at = int(request.url.params["from"])
        return httpx.Response(200, json={"data": [{"id": n} for n in range(at, min(at + 4, 9))]})

    paging = Paging(by="offset", parameter="from")
    _, records = bring(source(), caller(by_offset, paging=paging, records="/data"))
    assert len(records) == 9

    def by_link(request: httpx.Request) -> httpx.Response:
        at = int(request.url.params.get("at", 0))
        link = {"link": f'</huts?at={at + 1}>; rel="next"'} if at < 3 else {}
        return httpx.Response(200, json=[{"id": at}], headers=link)

    _, records = bring(source(), caller(by_link, paging=Paging(by="link")))
    assert [each["id"] for each in records] == [0, 1, 2, 3]


def test_a_page_that_repeats_ends_it_and_is_said() -> None:
    def answer(_: httpx.Request) -> httpx.Response:
        return httpx.Response(200, json=[{"id": 1}])

    reading, records = bring(source(), caller(answer, paging=Paging(by="page", parameter="page")))
    assert len(records) == 1
    assert "page repeats one before it" in str(reading.faults[0])


def test_a_failure_after_the_first_page_keeps_what_came() -> None:
    def answer(request: httpx.Request) -> httpx.Response:
        page = int(request.url.params["page"])
        return httpx.Response(200, json=[{"id": page}]) if page < 3 else httpx.Response(500)

    reading, records = bring(source(), caller(answer, paging=Paging(by="page", parameter="page")))
    assert len(records) == 2
    assert "it answers 500" in str(reading.faults[0])


def _endless() -> Iterator[bytes]:
    while True:
        yield b" " * 65536


@pytest.mark.parametrize(
    ("answer", "says"),
    [
        (lambda r: httpx.Response(200, html="<html>login</html>"), "it answers with text/html"),
        (lambda r: httpx.Response(200, text="{"), "it is not JSON"),
        (lambda r: httpx.Response(200, json={"a": 1}), "it holds an object"),
        (lambda r: httpx.Response(503), "it answers 503"),
        (lambda r: httpx.Response(302, headers={"location": "/huts"}), "it leads on 5 times"),
        (lambda r: httpx.Response(302, headers={"location": "http://y/"}), "it leads to y"),
        (lambda r: httpx.Response(200, content=_endless()), "the answer"),
    ],
)
def test_answers_that_cannot_be_used_are_worded(answer: Answer, says: str) -> None:
    with pytest.raises(Problem, match=says):
        caller(answer).page()


def test_a_service_that_is_gone_and_an_address_that_is_none() -> None:
    def gone(_: httpx.Request) -> httpx.Response:
        raise httpx.ConnectError("refused")

    with pytest.raises(Problem, match="it does not answer"):
        caller(gone).page()
    with pytest.raises(Problem, match="no web address"):
        caller(gone, list="file:///etc/passwd").page()
    with pytest.raises(Problem, match="no web address"):
        caller(gone, list="huts").page()


def test_items_and_keys_from_their_address() -> None:
    def answer(request: httpx.Request) -> httpx.Response:
        if request.url.path == "/huts/gone":
            return httpx.Response(404)
        if request.url.path == "/huts":
            return httpx.Response(200, json=[{"self": "http://x/huts/mor", "name": "M"}])
        return httpx.Response(200, json={"hut": {"name": request.url.path}})

    made = caller(answer, record="/hut", key_from_address="self")
    assert made.item("gone") is None
    assert made.item("a b/c") == {"key": "", "name": "/huts/a b/c"}
    assert made.page().records[0]["key"] == "mor"


def test_bringing_can_be_stopped() -> None:
    def stop(_: float) -> None:
        raise Stopped

    with pytest.raises(Stopped):
        bring(source(), caller(paged(100, 10), paging=Paging(by="page", parameter="page")), stop)


@pytest.fixture
def address() -> Iterator[str]:
    records = small_records(50)
    huts = replace(records["huts"].source, list_brings=("name",))
    records["huts"] = records["huts"].said_by(huts)
    with serving(Served("Small", records)) as at:
        yield at


def test_the_stand_in_lists_makes_changes_and_removes(address: str) -> None:
    with httpx.Client(base_url=address, trust_env=False) as client:
        page = client.get("/huts", params={"size": 20})
        assert len(page.json()) == 20
        assert page.json()[0] == {"id": "h0", "name": "Hut 000"}
        assert page.headers["x-total-count"] == "50"
        assert "page=2" in page.links["next"]["url"]
        assert client.get("/rooms", params={"hut": "h3"}).json()[0]["id"] == 6
        assert len(client.get("/huts", params={"q": "hut 01"}).json()) == 11
        assert client.get("/huts/h1").json()["note"] == "x"
        assert client.get("/rooms/0").json()["name"] == "Room 0"
        assert client.get("/huts/zz").status_code == 404
        assert client.get("/nothing").status_code == 404
        made = client.post("/huts", json={"name": "New"})
        assert made.status_code == 201
        key = made.json()["id"]
        assert client.patch(f"/huts/{key}", json={"note": "changed"}).json()["note"] == "changed"
        assert client.delete(f"/huts/{key}").status_code == 204
        assert client.get(f"/huts/{key}").status_code == 404
        wrong = client.post("/rooms", json={"id": "x", "colour": 1})
        assert wrong.status_code == 422
        assert {each["pointer"] for each in wrong.json()["errors"]} == {"#/id", "#/colour"}
        as_json = {"content-type": "application/json"}
        assert client.post("/huts", content=b"{", headers=as_json).status_code == 400
        assert client.post("/huts", json={"id": "h1"}).status_code == 422
        assert client.get("/huts", headers={"host": "elsewhere.example"}).status_code == 400


def test_a_source_proposed_from_its_description_brings_all_records(address: str) -> None:
    raw = httpx.get(f"{address}/openapi.json", trust_env=False).content
    made = proposals(raw, "openapi.json", address)
    assert [(each.list_path, each.item_path) for each in made] == [
        ("/huts", "/huts/{id}"),
        ("/rooms", "/rooms/{id}"),
    ]
    huts = made[0].source
    assert huts.list_brings == ("id", "name")
    assert {each.name: each.type for each in made[1].source.fields}["id"] == "whole number"
    assert huts.service is not None
    calls = Caller(huts.service)
    reading, _ = bring(huts, calls)
    assert reading.frame.height == 50
    assert (calls.item("h7") or {})["region"] == "S"
    assert calls.item("h99") is None
    calls.close()


def test_the_stand_in_can_be_slow_and_fail() -> None:
    records = small_records(3)
    stand_in = replace(
        records["huts"].source, served="stand-in", stand_in=StandIn(delay=30, fails_one_in=1)
    )
    records["huts"] = records["huts"].said_by(stand_in)
    running = server(Served("Small", records))
    Thread(target=running.serve_forever, daemon=True).start()
    with httpx.Client(
        base_url=f"http://127.0.0.1:{running.server_port}", trust_env=False
    ) as client:
        slow = client.get("/huts")
        assert slow.status_code == 503
        assert slow.elapsed.total_seconds() >= 0.03
        assert client.get("/rooms").status_code == 200
    running.shutdown()
    running.server_close()


YAML = b"""
openapi: 3.0.3
servers: [{url: "{at}/v1", variables: {at: {default: "https://huts.example"}}}]
paths:
  /huts:
    get:
      parameters: [{name: limit, in: query}, {name: page, in: query}]
      responses:
        "200": {content: {application/json: {schema: {$ref: "#/components/schemas/Page"}}}}
  /huts/{hutId}:
    get:
      responses:
        "200": {content: {application/json: {schema: {$ref: "#/components/schemas/Hut"}}}}
  /alone: {get: {responses: {"200": {description: nothing}}}}
components:
  schemas:
    Page:
      type: object
      properties: {rows: {type: array, items: {$ref: "#/components/schemas/Brief"}}}
    Brief: {type: object, properties: {id: {type: integer}, name: {type: string}}}
    Hut:
      allOf:
        - $ref: "#/components/schemas/Brief"
        - type: object
          properties:
            built: {type: string, format: date}
            tags: {type: array, items: {type: string}}
            owner:
              type: object
              properties: {name: {type: string}, parent: {$ref: "#/components/schemas/Hut"}}
            round: {$ref: "#/components/schemas/Round"}
    Round: {$ref: "#/components/schemas/Round"}
"""


def test_a_description_in_yaml_with_circles() -> None:
    (made,) = proposals(YAML, "huts.yaml")
    fields = {each.name: each.type for each in made.source.fields}
    assert made.source.service is not None
    assert made.source.service.list == "https://huts.example/v1/huts"
    assert made.source.service.records == "/rows"
    assert made.source.service.paging == Paging(by="page", parameter="page", size_parameter="limit")
    assert made.source.key == "id"
    assert fields["built"] == "date"
    assert fields["tags"] == "list of text"
    assert fields["owner.name"] == "text"
    assert len(fields) < schemas.MOST_FIELDS


@pytest.mark.parametrize(
    "raw",
    [
        b"",
        b"{",
        b"[]",
        b'{"openapi": "2.0"}',
        b'{"openapi": "3.1.0"}',
        b'{"openapi": "3.1.0", "paths": {"/a": 1, "/a/{b}": []}}',
        b"a: &a [*a, *a]",
        b"!!python/object/apply:os.system ['true']",
        json.dumps({"openapi": "3.0.0", "paths": {"/a/{b}": {"get": {"$ref": "#/x"}}}}).encode(),
    ],
)
def test_a_description_that_is_none_is_worded(raw: bytes) -> None:
    with pytest.raises(Problem):
        proposals(raw, "x.yaml")


def test_the_next_page_stays_on_its_host_and_so_do_the_headers() -> None:
    seen: list[str] = []

    def answer(request: httpx.Request) -> httpx.Response:
        seen.append(request.url.host)
        link = {"link": '<http://elsewhere/huts?at=2>; rel="next"'}
        return httpx.Response(200, json=[{"id": len(seen)}], headers=link)

    calls = caller(answer, paging=Paging(by="link"), headers={"x-key": "made up"})
    reading, _ = bring(source(), calls)
    assert seen == ["x"]
    assert "it leads to elsewhere" in str(reading.faults[0])


def test_a_header_may_name_the_environment_and_nothing_else_of_it(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    seen: list[str] = []

    def answer(request: httpx.Request) -> httpx.Response:
        seen.append(request.headers["authorization"])
        return httpx.Response(200, json=[])

    calls = caller(answer, headers={"Authorization": "Bearer ${CADENA_TOKEN} ${HOME}"})
    with pytest.raises(Problem, match="names CADENA_TOKEN, which is not set"):
        calls.page()
    monkeypatch.setenv("CADENA_TOKEN", "made up")
    calls.page()
    assert seen == ["Bearer made up ${HOME}"]
    for name, value in (("x y", "1"), ("x", "a\nb"), ("x", "é\u2603")):
        with pytest.raises(Problem, match="HTTP has no such header"):
            caller(answer, headers={name: value}).page()


@pytest.mark.parametrize("address", ["http://[::1", "http://a:b/", "http:///huts", "//x/huts"])
def test_addresses_that_are_none_are_said_to_be(address: str) -> None:
    def answer(request: httpx.Request) -> httpx.Response:
        return httpx.Response(200, json=[], headers={"location": "http://[::1"})

    with pytest.raises(Problem, match="no web address"):
        caller(answer, list=address).page()
    with pytest.raises(Problem, match="Invalid URL"):
        caller(lambda r: httpx.Response(302, headers={"location": "http://[::1"})).page()


def _answering(*pieces: bytes, every: float = 0.0, ends: bool = True) -> Iterator[str]:
    """A server on loopback that answers in these pieces, a while apart."""
    listening = socket.create_server(("127.0.0.1", 0))
    over = Event()

    def serve() -> None:
        taken, _ = listening.accept()
        with taken, suppress(OSError):
            taken.recv(65536)
            for number in itertools.count():
                if over.is_set() or (ends and number >= len(pieces)):
                    return
                taken.sendall(pieces[min(number, len(pieces) - 1)])
                over.wait(every)

    Thread(target=serve, daemon=True).start()
    try:
        yield f"http://127.0.0.1:{listening.getsockname()[1]}/huts"
    finally:
        over.set()
        listening.close()


HEAD = b"HTTP/1.1 200 OK\r\ncontent-type: application/json\r\n"
EMPTY_BLOCK = b"\x00\x00\x00\xff\xff"


@pytest.mark.parametrize(
    "pieces",
    [
        [b"HTTP/1.1 200 OK\r\n", b"x: y\r\n"],
        [HEAD + b"content-encoding: gzip\r\n\r\n" + gzip.compress(b"")[:10], EMPTY_BLOCK],
        [HEAD + b"transfer-encoding: chunked\r\n\r\n", b"1\r\n \r\n"],
    ],
    ids=["a head that drips", "packed blocks with nothing in them", "blanks without end"],
)
def test_no_answer_takes_longer_than_it_may(pieces: list[bytes]) -> None:
    for address in _answering(*pieces, every=0.02, ends=False):
        calls = Caller(Service(list=address), patience=5, longest=0.4)
        began = time.monotonic()
        with pytest.raises(Problem, match=r"over 0\.4 s"):
            calls.page()
        assert time.monotonic() - began < 3
        calls.close()


def test_packed_answers_are_unpacked_and_no_more_than_may_be() -> None:
    body = gzip.compress(b'[{"id": 1}]')
    head = HEAD + b"content-encoding: gzip\r\ncontent-length: %d\r\n\r\n" % len(body)
    for address in _answering(head + body):
        assert Caller(Service(list=address)).page().records == [{"id": 1}]
    large = gzip.compress(b" " * (40 << 20))
    head = HEAD + b"content-encoding: gzip\r\ncontent-length: %d\r\n\r\n" % len(large)
    for address in _answering(head + large):
        with pytest.raises(Problem, match="over 32 MiB"):
            Caller(Service(list=address)).page()
    for address in _answering(HEAD + b"content-encoding: br\r\n\r\nx"):
        with pytest.raises(Problem, match="packed as br"):
            Caller(Service(list=address)).page()


def test_no_web_page_of_another_host_changes_records(address: str) -> None:
    with httpx.Client(base_url=address, trust_env=False) as client:
        for headers in (
            {"origin": "http://elsewhere.example"},
            {"origin": "null"},
            {"sec-fetch-site": "cross-site"},
        ):
            assert client.post("/huts", json={"id": "n"}, headers=headers).status_code == 403
            assert client.delete("/huts/h1", headers=headers).status_code == 403
            assert client.get("/huts/h1", headers=headers).status_code == 200
        form = client.post("/huts", data={"id": "n"})
        assert form.status_code == 415
        assert (
            client.post("/huts", json={"id": "n"}, headers={"origin": address}).status_code == 201
        )


def test_after_the_largest_key_no_key_is_made(address: str) -> None:
    with httpx.Client(base_url=address, trust_env=False) as client:
        largest = 2**63 - 1
        assert client.post("/rooms", json={"id": largest}).status_code == 201
        answer = client.post("/rooms", json={"name": "One more"})
        assert answer.status_code == 422
        assert "no next one" in answer.json()["errors"][0]["detail"]
        assert client.post("/huts", json={"id": ""}).json() is not None


def test_a_key_may_be_nothing_much(address: str) -> None:
    with httpx.Client(base_url=address, trust_env=False) as client:
        assert client.delete("/rooms/0").status_code == 204
        assert client.post("/rooms", json={"id": 0, "name": "Zero"}).json()["id"] == 0


@pytest.mark.parametrize("kind", ["csv", "inside"])
def test_bringing_writes_over_no_file_that_was_there(
    address: str, tmp_path: Path, kind: str
) -> None:
    """A CSV file, and an array inside a larger document, stay as they are."""
    name, text = {
        "csv": ("huts.csv", "id;name\nh0;Mine\n"),
        "inside": ("huts.json", '{"about": "mine", "rows": [{"id": "h0", "name": "Mine"}]}'),
    }[kind]
    (tmp_path / name).write_text(text)
    service = Service(list=f"{address}/huts", paging=Paging(by="link"))
    mine = source(
        file=name,
        at="/rows" if kind == "inside" else "",
        csv=Csv(delimiter=";"),
        service=service,
    )
    assert len(read_records(tmp_path, mine)) == 1
    made = brought(tmp_path, mine, lambda _: None)
    assert isinstance(made, Adopted)
    assert (tmp_path / name).read_text() == text
    assert made.source.file == "huts-brought.json"
    assert len(read_records(tmp_path, made.source)) == 50
    again = brought(tmp_path, made.source, lambda _: None)
    assert isinstance(again, Adopted)
    assert again.source.file == "huts-brought-2.json"
    assert (tmp_path / "huts-brought.json").is_file()
    assert len(read_records(tmp_path, mine)) == 1


@pytest.fixture
def wrapped() -> Iterator[str]:
    """A service whose answers are wrapped, in one array or in one of two."""
    answers = {
        "/boats": {"count": 2, "items": [{"name": "Nebbia"}, {"name": "Brina"}]},
        "/both": {"new": [{"id": 1}, {"id": 2}], "old items": [{"id": 0}, {"id": 3}]},
        "/none": {"count": 0},
        "/numbered": [{"url": f"http://x/boats/{n}/", "name": f"Boat {n}"} for n in (0, 7)],
        "/named": [{"url": f"http://x/boats/{n}", "name": f"Boat {n}"} for n in ("07", "8")],
    }
    with answering(answers) as at:
        yield at


def test_a_wrapped_answer_is_taken_or_asked_about(wrapped: str, tmp_path: Path) -> None:
    made = brought(tmp_path, source(service=service_at(f" {wrapped}/boats ")), lambda _: None)
    assert isinstance(made, Adopted)
    assert made.source.service is not None
    assert made.source.service.records == "/items"
    assert len(made.records) == 2
    with pytest.raises(Problem) as caught:
        brought(tmp_path, source(service=service_at(f"{wrapped}/both")), lambda _: None)
    assert f"/new or /old items: say which, as in {wrapped}/both#/new" in str(caught.value)
    said = service_at(f"{wrapped}/both#/old%20items")
    assert said.item == f"{wrapped}/both/{{key}}"
    made = brought(tmp_path, source(service=said), lambda _: None)
    assert isinstance(made, Adopted)
    assert [made.records.key_at(row) for row in range(2)] == [0, 3]
    for other in ("none", "both#/elsewhere", "boats#/count"):
        with pytest.raises(Problem):
            brought(tmp_path, source(service=service_at(f"{wrapped}/{other}")), lambda _: None)
    with pytest.raises(Problem, match="no web address"):
        service_at("file:///etc/hosts")


@pytest.mark.parametrize(
    ("at", "keys", "kind"), [("numbered", [0, 7], "whole number"), ("named", ["07", "8"], "text")]
)
def test_a_key_from_an_address_has_the_type_of_a_key(
    wrapped: str, tmp_path: Path, at: str, keys: list[Any], kind: str
) -> None:
    """A number where all are, so that what carries it and what asks for it find the record."""
    service = Service(list=f"{wrapped}/{at}", key_from_address="url")
    made = brought(tmp_path, source(service=service, key="key"), lambda _: None)
    assert isinstance(made, Adopted)
    assert made.source.key == "key"
    assert (made.records.keys.to_list(), made.records.types["key"]) == (keys, kind)
    again = read_records(tmp_path, made.source)
    assert again.keys.to_list() == keys
    served = replace(made.source, served="service")
    answered = Services().answer(served, Request(1, served.id, "huts", "huts", ""))
    assert [each["key"] for each in answered.records] == keys


def test_a_walk_calls_services_only_when_it_may(address: str, tmp_path: Path) -> None:
    (huts, _) = proposals(
        httpx.get(f"{address}/openapi.json", trust_env=False).content, "openapi.json", address
    )
    app = app_of("Served", [Adopted(huts.source, typed(huts.source, pl.DataFrame()))])
    write_app(app, tmp_path / "served.cadena")
    steps = [
        {"expect": {"rows": {"huts": 40}}},
        {"do": "scroll", "screen": "huts", "to": 100000},
        {"expect": {"rows": {"huts": 50}}},
        {"do": "choose", "screen": "huts", "key": "h7"},
        {"expect": {"chain": ["huts", "hut"], "note": "answered"}},
    ]
    (tmp_path / "walk.json").write_text(json.dumps(steps))
    arguments = ["walk", str(tmp_path / "served.cadena"), str(tmp_path / "walk.json")]
    code, said = call(*arguments)
    assert code == 1
    assert "rows of huts: expected 40, got 0" in said
    code, said = call(*arguments, "--call")
    assert code == 0, said


DESCRIBED = {
    "openapi": "3.1.0",
    "servers": [{"url": "http://x/v1"}],
    "paths": {
        "/huts": {"get": {"responses": {"200": {"content": {"application/json": {"schema": {
            "type": "array", "items": {"$ref": "#/components/schemas/Hut"}}}}}}}},
        "/huts/{hutId}": {"get": {"responses": {"200": {"content": {"application/json": {"schema": {
            "$ref": "#/components/schemas/Hut"}}}}}}},
        "/huts/{hutId}/stays": {
            "parameters": [
                {"name": each, "in": "query"} for each in ("q", "sort", "order", "kind")],
            "get": {"responses": {"200": {"content": {"application/json": {"schema": {
                "type": "array", "items": {"$ref": "#/components/schemas/Stay"}}}}}}}},
        "/firms/{firm}/guides/search": {"get": {"responses": {"200": {"content": {
            "application/json": {"schema": {"type": "array", "items": {
                "type": "object", "properties": {"id": {"type": "integer"}}}}}}}}}},
        "/ping": {"get": {"responses": {"200": {"description": "pong"}}}},
    },
    "components": {"schemas": {
        "Hut": {"type": "object", "properties": {
            "id": {"type": "integer"}, "name": {"type": "string"}}},
        "Stay": {"type": "object", "properties": {
            "id": {"type": "integer"}, "kind": {"type": "string"},
            "at": {"type": "string", "format": "date-time"}}},
    }},
}  # fmt: skip


def test_a_description_says_how_lists_are_asked_and_what_belongs_to_what() -> None:
    offered = openapi.offered(json.dumps(DESCRIBED).encode(), "d.json")
    huts, stays, guides = (each.source for each in offered.proposals)
    assert stays.service is not None
    assert guides.service is not None
    assert stays.service.keeps == {"kind": "kind", "hut_id": "hutId"}
    assert (stays.service.search, stays.service.sort, stays.service.order) == ("q", "sort", "order")
    held = next(each for each in stays.fields if each.name == "hut_id")
    assert (held.type, held.refers) == ("whole number", Refers(to="huts"))
    assert (guides.id, guides.service.given) == ("guides", {"firm": ""})
    assert [each.path for each in offered.skipped] == ["/ping"]
    app = app_of("Huts", [Adopted(each, typed(each, pl.DataFrame())) for each in (huts, stays)])
    assert any(link.trigger.part == "stays" for link in app.links)

    asked_for: list[str] = []

    def answer(request: httpx.Request) -> httpx.Response:
        asked_for.append(str(request.url))
        lines = '{"id": 1}\n{"id": 2}\n'
        return httpx.Response(200, text=lines, headers={"content-type": "application/x-ndjson"})

    calls = Caller(stays.service, httpx.Client(transport=httpx.MockTransport(answer)))
    asked = Asked("ann", (Sort(field="at", descending=True),), {"hut_id": 7, "kind": "x"})
    page = calls.page(None, asked)
    assert page.records == [{"hut_id": 7, "kind": "x", "id": n} for n in (1, 2)]
    assert asked_for == ["http://x/v1/huts/7/stays?kind=x&q=ann&sort=at&order=desc"]
    with pytest.raises(Problem, match="hutId is not known"):
        calls.page()


def test_a_nested_list_of_a_service_asks_for_its_own_rows_alone(tmp_path: Path) -> None:
    records = small_records(200)
    served = Served("Small", records, delay=0)
    running = server(served)
    Thread(target=running.serve_forever, daemon=True).start()
    address = f"http://127.0.0.1:{running.server_port}"
    try:
        with httpx.Client() as client:
            (tmp_path / "d.json").write_bytes(client.get(f"{address}/openapi.json").content)
        made = call("new", str(tmp_path / "d.json"), "--to", str(tmp_path / "p"), "--closed")
        assert made[0] == 0
        project = open_project(tmp_path / "p")
        app = WiredApp(project.app, project.records)
        session, _ = start(app, sized(360, 780))
        answers = Answers(app)
        before = served.calls

        def settle(session: Session) -> Session:
            while found := list(answers(session)):
                for each in found:
                    session, *_ = step(app, session, each)
            return session

        session = settle(session)
        session, *_ = step(app, session, do.Choose(screen="huts", key="h7"))
        session = settle(session)
        entry = session.entries[-1]
        listed = app.listed(session, entry, "rooms")
        assert listed is not None
        assert [listed.rows.record_at(n)["id"] for n in range(len(listed.rows))] == [14, 15]
        assert served.calls - before < 7
        # The word is looked for at the service, where it says how.
        session, *_ = step(app, session, do.Back())
        session, *_ = step(app, session, do.Search(screen="huts", text="Hut 150"))
        session = settle(session)
        found = app.listed(session, session.entries[-1], "")
        assert found is not None
        assert [found.rows.record_at(n)["id"] for n in range(len(found.rows))] == ["h150"]
    finally:
        running.shutdown()
        running.server_close()


def test_the_stand_in_tells_versions_apart_and_does_nothing_twice(address: str) -> None:
    with httpx.Client(base_url=address, trust_env=False) as client:
        first = client.get("/huts/h1").headers["etag"]
        changed = client.patch("/huts/h1", json={"name": "A"}, headers={"if-match": first})
        assert changed.status_code == 200
        assert changed.headers["etag"] == client.get("/huts/h1").headers["etag"] != first
        for send in (client.patch, client.put):
            late = send("/huts/h1", json={"name": "B"}, headers={"if-match": first})
            assert late.status_code == 412
            assert late.headers["content-type"] == "application/problem+json"
            assert late.json()["detail"] == "Somebody else has changed it meanwhile."
        assert client.delete("/huts/h1", headers={"if-match": first}).status_code == 412
        assert client.get("/huts/h1").json()["name"] == "A"
        assert client.patch("/huts/h1", json={}, headers={"if-match": "*"}).status_code == 200
        named = {"idempotency-key": "n1"}
        made = client.post("/rooms", json={"name": "One"}, headers=named)
        again = client.post("/rooms", json={"name": "One"}, headers=named)
        assert (made.status_code, made.json()) == (again.status_code, again.json())
        assert again.status_code == 201
        other = client.post("/rooms", json={"name": "Two"}, headers=named)
        assert other.status_code == 422
        with ThreadPoolExecutor(8) as many:
            named = {"idempotency-key": "n2"}
            post = partial(client.post, "/rooms", json={"name": "Three"}, headers=named)
            made = [each.result().json()["id"] for each in [many.submit(post) for _ in range(40)]]
        assert len(set(made)) == 1
        assert client.get("/rooms", params={"size": 1}).headers["x-total-count"] == "102"


def test_a_page_on_this_machine_may_write_and_no_other(address: str) -> None:
    asks = {"access-control-request-method": "PATCH"}
    with httpx.Client(base_url=address, trust_env=False) as client:
        for origin, may in (("http://127.0.0.1:9", True), ("http://127.0.0.1.example", False)):
            named = {"origin": origin, "sec-fetch-site": "same-site"}
            asked = client.options("/huts/h1", headers={**named, **asks})
            assert asked.headers.get("access-control-allow-origin") == (origin if may else None)
            sent = client.patch("/huts/h1", json={"name": "A"}, headers=named)
            assert sent.status_code == (200 if may else 403)


@pytest.mark.long
@pytest.mark.parametrize("rate", ["fails_one_in", "refuses_one_in", "quicker_one_in"])
def test_what_goes_wrong_goes_wrong_at_its_rate(rate: str) -> None:
    """Half of what fails is done before; what is refused is not; who was quicker is seen."""
    served = Served("Small", small_records(50), **{rate: 2})
    found: dict[int, list[bool]] = {}
    with serving(served) as at, httpx.Client(base_url=at, trust_env=False) as client:
        for number in range(60):
            there = served.records["huts"]
            version = version_of(there.by_key("h1") or {})
            answer = client.patch(
                "/huts/h1", json={"note": f"n{number}"}, headers={"if-match": f'"{version}"'}
            )
            now = served.records["huts"].by_key("h1") or {}
            found.setdefault(answer.status_code, []).append(now["note"] == f"n{number}")
    assert 15 < len(found[200]) < 45
    assert all(found.pop(200))
    wrong = {"fails_one_in": {503, 504}, "refuses_one_in": {422}, "quicker_one_in": {412}}[rate]
    assert set(found) == wrong
    assert all(done is (status == 504) for status, every in found.items() for done in every)
