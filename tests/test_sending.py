"""Services are written to from here: what is sent, what an answer means, and only when allowed."""

from __future__ import annotations

import json
import os
import random
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any, NamedTuple

import httpx
import pytest
from msgspec.structs import replace

from builders import records_of
from cadena.check.check import check
from cadena.deliver.contract.contract import vectors
from cadena.engine import events as do
from cadena.engine.rules.unsent import NO_ANSWER, NOT_FROM_HERE
from cadena.engine.session import Session, Write, sized
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.source import Service, Source, Writing
from cadena.serve.call_services import Answers, Services
from cadena.serve.sending import faults_in, nested, outcome_of, wait_in
from cadena.serve.serve import Served
from cadena.sources.connection import Answer
from cadena.sources.open_project import open_project
from cadena.sources.scaffold import Wishes, new_project
from other_habits import OtherHabits, description
from small_service import serving
from test_cli import call
from test_web_writing import BOATS, RECORDS

ROUNDS = int(os.environ.get("CADENA_LONG", "1"))


class Harbour(NamedTuple):
    """An app that is made of a service's description, run here, and what it may write to."""

    service: Any
    app: WiredApp
    folder: Path
    answers: Answers

    def run(self, *events: do.Event, then: Session | None = None) -> Session:
        """The session after some events, and all that the service has answered."""
        session = start(self.app, sized(400, 800))[0] if then is None else then
        session = self._answered(session)
        for event in events:
            session = self._answered(step(self.app, session, event).session)
        return session

    def _answered(self, session: Session) -> Session:
        while answers := list(self.answers(session)):
            for answer in answers:
                session = step(self.app, session, answer).session
        return session

    @property
    def there(self) -> list[dict[str, Any]]:
        records = self.service.records["boats"]
        return [dict(records.record(row)) for row in range(len(records))]

    @property
    def asked(self) -> list[str]:
        """The methods and statuses of all that was asked for the newest call."""
        made = self.answers.services.exchanges
        return [f"{each.method} {each.status}" for each in made[max(made)]]


def harbour(service: Any, folder: Path, address: str, raw: bytes, may: bool = True) -> Harbour:
    (folder / "harbour.json").write_bytes(raw)
    new_project(folder / "project", [folder / "harbour.json"], wishes=Wishes())
    opened = open_project(folder / "project")
    app = WiredApp(opened.app, opened.records)
    return Harbour(service, app, folder / "project", Answers(app, app.sources if may else ()))


def stand_in() -> Served:
    return Served("Harbour", {"boats": records_of("boats", RECORDS).said_by(BOATS)})


@pytest.fixture
def boats(tmp_path: Path) -> Iterator[Harbour]:
    """With the stand-in as it is served, that tells versions apart and does nothing twice."""
    service = stand_in()
    with serving(service) as at:
        raw = httpx.get(f"{at}/openapi.json", trust_env=False).content
        yield harbour(service, tmp_path, at, raw)


ADD = (do.Press(screen="boats", button="add"),)
EDIT = (do.Choose(screen="boats", key=2), do.Press(screen="boat", button="edit"))


def typed(field: str, to: Any) -> do.Event:
    return do.Type(screen="boats-form", field=field, to=to)


SAVE = do.Save(screen="boats-form")


def test_a_record_is_made_changed_and_removed(boats: Harbour) -> None:
    session = boats.run(*ADD, typed("name", "Gull"), SAVE)
    assert boats.there[-1] == {"id": 5, "name": "Gull", "berths": None, "quay": None}
    assert (boats.asked, session.writes) == (["POST 201"], ())
    session = boats.run(*EDIT, typed("quay", "West"), SAVE)
    assert (boats.there[2]["quay"], session.entries[-1].screen) == ("West", "boat")
    remove = do.Act(screen="boats", key=3, action="remove")
    session = boats.run(remove, do.Decide(yes=True))
    assert len(boats.there) == 6
    session = boats.run(do.Choose(screen="boats", key=0), then=session)
    assert [each["id"] for each in boats.there] == [0, 1, 2, 4, 5]
    assert session.writes == ()


def test_without_leave_nothing_is_sent_and_it_is_said_what_would_be(boats: Harbour) -> None:
    kept = Harbour(boats.service, boats.app, boats.folder, Answers(boats.app))
    session = kept.run(*EDIT, typed("quay", "West"), SAVE)
    assert [each.why for each in session.writes] == [NOT_FROM_HERE]
    assert kept.there[2]["quay"] == "East"
    (sending,) = kept.answers.not_sent
    text = sending.as_text({"authorization": "Bearer ${CADENA_TOKEN}", "cookie": "secret=1"})
    head, _, body = text.partition("\n\n")
    assert head.splitlines()[0] == "PATCH /boats/2 HTTP/1.1"
    assert "authorization: Bearer ${CADENA_TOKEN}" in head
    assert "cookie: …" in head
    assert "secret" not in text
    assert json.loads(body) == {"quay": "West"}


def test_a_walk_writes_only_when_it_may(boats: Harbour) -> None:
    steps = [
        {"do": "press", "screen": "boats", "button": "add"},
        {"do": "type", "screen": "boats-form", "field": "name", "to": "Gull"},
        {"do": "save", "screen": "boats-form"},
    ]
    (boats.folder / "walk.json").write_text(json.dumps(steps))
    arguments = ["walk", str(boats.folder), str(boats.folder / "walk.json")]
    code, said = call(*arguments, "--call")
    assert code == 0, said
    assert "not sent: POST http://127.0.0.1" in said
    assert len(boats.there) == 5
    code, said = call(*arguments, "--write")
    assert (code, len(boats.there)) == (2, 5)
    code, said = call(*arguments, "--call", "--write")
    assert code == 0, said
    assert "not sent" not in said
    assert [each["name"] for each in boats.there].count("Gull") == 1


def test_what_others_changed_is_asked_of_or_kept(boats: Harbour) -> None:
    session = boats.run(*EDIT, typed("quay", "Mine"))
    boats.service.records["boats"] = records_of(
        "boats", [*RECORDS[:2], {**RECORDS[2], "quay": "Theirs", "berths": 9}, *RECORDS[3:]]
    ).said_by(BOATS)
    session = boats.run(SAVE, then=session)
    assert [each.theirs for each in session.writes] == [{"quay": "Theirs"}]
    assert boats.asked == ["PATCH 412", "GET 200"]
    assert boats.there[2]["quay"] == "Theirs"
    session = boats.run(do.Settle(screen="boats-form", take="mine", field="quay"), then=session)
    assert boats.there[2] == {"id": 2, "name": "Boat 2", "berths": 9, "quay": "Mine"}
    assert session.writes == ()


def test_what_a_service_lists_no_more_is_gone(boats: Harbour) -> None:
    """After a refresh, and after a cold start; what is open is judged by its own call."""
    wide = start(boats.app, sized(1200, 800))[0]
    session = boats.run(do.Choose(screen="boats", key=2), then=wide)
    boats.service.records["boats"] = records_of("boats", RECORDS[:2]).said_by(BOATS)
    session = boats.run(do.Refresh(source="boats"), then=session)
    assert _listed(boats, session) == [0, 1, 2]
    session = boats.run(do.Choose(screen="boats", key=0), do.Refresh(source="boats"), then=session)
    assert _listed(boats, session) == [0, 1]
    boats.service.records["boats"] = records_of("boats", RECORDS[1:3]).said_by(BOATS)
    session = boats.run(do.Search(screen="boats", text="2"), then=session)
    assert _listed(boats, session) == [0, 1, 2]
    session = boats.run(do.Relaunch(), then=session)
    assert _listed(boats, session) == [1, 2]


def _listed(boats: Harbour, session: Session) -> list[Any]:
    records = boats.app.records(session, "boats")
    assert records is not None
    return sorted(records.key_at(row) for row in range(len(records)))


def test_nothing_is_made_twice_where_an_answer_is_lost(boats: Harbour) -> None:
    boats.service.rates["fails_one_in"] = 1
    session = boats.run(*ADD, typed("name", "Gull"), then=_with_list(boats))
    while not boats.there[5:]:
        session = boats.run(SAVE, then=session)
        if session.writes[0].due is not None:
            session = boats.run(do.Wait(ms=2000), then=session)
    assert session.writes[0].state == "unsent"
    boats.service.rates["fails_one_in"] = 0
    session = boats.run(SAVE, then=session)
    assert session.writes == ()
    assert [each["name"] for each in boats.there].count("Gull") == 1


def _with_list(boats: Harbour) -> Session:
    boats.service.rates["fails_one_in"] = 0
    session = boats.run()
    boats.service.rates["fails_one_in"] = 1
    return session


def test_a_service_of_other_habits(tmp_path: Path) -> None:
    """Envelopes, a cursor, PUT of the whole, faults in a list, names that are taken."""
    service = OtherHabits()
    with serving(service) as at:
        made = harbour(service, tmp_path, at, description(at))
        session = made.run(*ADD, typed("name", "Boat 1"), SAVE)
        assert [each.why for each in session.writes] == ["the name is taken"]
        session = made.run(typed("name", "Gull"), typed("quay", "North"), SAVE, then=session)
        assert [each.faults for each in session.writes] == [{"quay": "there is no such quay"}]
        session = made.run(typed("quay", "West"), SAVE, then=session)
        assert (session.writes, service.boats[8]["name"]) == ((), "Gull")
        made.run(*EDIT, typed("quay", "Mine"), SAVE)
        # The whole is sent, with what the app knows nothing of.
        assert service.boats[2] == {"id": 2, "name": "Boat 2", "quay": "Mine", "kept": "k"}
        assert made.asked == ["GET 200", "PUT 200"]


SENT = Write(1, "boats", "change", 2, {"quay": "West"}, {"quay": "East"}, call=3)
NEW = Write(1, "boats", "create", None, {"name": "Gull"}, call=3)
WAY = Writing(method="PATCH", address="http://x/boats/{key}")
OFFERED = Service(
    list="http://x/boats",
    item="http://x/boats/{key}",
    create=Writing(method="POST", address="http://x/boats"),
    change=WAY,
)
SERVED = Source(
    id="boats", key="id", fields=BOATS.fields, served="service", service=OFFERED, label="name"
)


def answer(status: int, body: Any = b"", **headers: str) -> Answer:
    raw = body if isinstance(body, bytes) else json.dumps(body).encode()
    named = {name.replace("_", "-"): value for name, value in headers.items()}
    return Answer(status, httpx.Headers(named), raw, "http://x/boats/2", {})


@pytest.mark.parametrize(
    ("status", "outcome", "why"),
    [
        (200, "done", ""),
        (204, "done", ""),
        (400, "refused", ""),
        (422, "refused", ""),
        (401, "unsent", "it is not allowed"),
        (403, "unsent", "it is not allowed"),
        (404, "gone", ""),
        (410, "gone", ""),
        (409, "quicker", ""),
        (412, "quicker", ""),
        (405, "unsent", "the service refused it"),
        (429, "unsent", "too much was asked of the service"),
        (503, "unsent", "the service does not answer now"),
        (500, "unsent", "the service has failed"),
    ],
)
def test_every_answer_means_something(status: int, outcome: str, why: str) -> None:
    made = outcome_of(SERVED, None, SENT, answer(status))
    assert (made.outcome, made.why, made.request) == (outcome, why, 3)


def test_an_answer_says_when_it_can_be_sent_again_and_where_what_was_made_is() -> None:
    assert outcome_of(SERVED, None, SENT, answer(503, retry_after="2")).after == 2000
    assert outcome_of(SERVED, None, SENT, answer(429, retry_after="2")).outcome == "later"
    assert outcome_of(SERVED, None, SENT, answer(503, retry_after="86400")).outcome == "unsent"
    assert wait_in("Sun, 06 Nov 1994 08:49:37 GMT") == 1
    assert wait_in("soon") is None
    records = records_of("boats", RECORDS)
    made = outcome_of(SERVED, records, NEW, answer(201, location="/boats/41?x=1"))
    assert made.record == {"id": 41}
    made = outcome_of(SERVED, records, NEW, answer(201, {"id": 7, "name": None, "other": 1}))
    assert made.record == {"id": 7, "name": None}
    assert outcome_of(SERVED, records, NEW, answer(409)).outcome == "refused"
    # A gate on the way answers with a page: that is no word of the service.
    page = outcome_of(SERVED, records, NEW, answer(200, b"<html>Log in", content_type="text/html"))
    assert (page.outcome, page.why) == ("unsent", NO_ANSWER)


@pytest.mark.parametrize(
    ("problem", "faults", "why"),
    [
        ({"errors": [{"pointer": "#/a/b", "detail": "x"}], "title": "T"}, {"a.b": "x"}, "T"),
        ({"errors": {"a": ["x", "y"]}}, {"a": "x"}, ""),
        ({"fields": {"a": "x"}, "message": "M"}, {"a": "x"}, "M"),
        ({"detail": [{"loc": ["body", "a"], "msg": "x"}]}, {"a": "x"}, ""),
        ({"detail": "D", "title": "T"}, {}, "D"),
        ({"error": "E"}, {}, "E"),
        (["x"], {}, ""),
        (None, {}, ""),
    ],
)
def test_what_is_said_of_fields_is_found_in_its_shapes(
    problem: Any, faults: dict[str, str], why: str
) -> None:
    assert faults_in(problem) == (faults, why)


def test_fields_by_path_are_sent_as_objects_over_what_is_there() -> None:
    assert nested({"a.b": 1, "c": 2}, {"a": {"d": 3}, "e": 4}) == {
        "a": {"d": 3, "b": 1}, "e": 4, "c": 2}  # fmt: skip
    assert nested({"a.b": 1}, {"a": "text"}) == {"a": {"b": 1}}


def test_a_write_is_not_led_to_another_host_and_a_header_is_filled_as_it_is_sent(
    monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    seen: list[tuple[str, str, str]] = []

    def answers(request: httpx.Request) -> httpx.Response:
        seen.append((request.method, str(request.url), request.headers["authorization"]))
        to = {
            "/boats": (308, "/boats/"),
            "/boats/": (201, "/boats/9"),
            "/boats/2": (307, "http://y/"),
        }
        status, location = to[request.url.path]
        return httpx.Response(status, headers={"location": location})

    monkeypatch.setenv("CADENA_TOKEN", "t")
    app = _app_of(tmp_path, headers={"authorization": "Bearer ${CADENA_TOKEN}"})
    services = Services(httpx.Client(transport=httpx.MockTransport(answers)))
    session = start(app, sized(400, 800))[0]
    made = services.send(app, session, NEW)
    assert (made.outcome, made.record) == ("done", {"id": 9})
    assert seen == [("POST", "http://x/boats", "Bearer t"), ("POST", "http://x/boats/", "Bearer t")]
    led = services.send(app, session, SENT)
    assert (led.outcome, led.why, len(seen)) == ("unsent", NO_ANSWER, 3)
    told = [str(each) for each in services.exchanges[3]]
    assert told[0].startswith("GET http://x/boats/2 → 307, ")
    assert "Bearer" not in "".join(told)


def _app_of(folder: Path, **changed: Any) -> WiredApp:
    """An app of the service of other habits, at a host that is none."""
    made = harbour(None, folder, "", description("http://x")).app
    (source,) = made.app.sources
    assert source.service is not None
    sources = (replace(source, service=replace(source.service, **changed)),)
    return WiredApp(replace(made.app, sources=sources), dict(made.as_read))


STATUSES = [200, 201, 204, 400, 401, 404, 409, 412, 418, 422, 429, 500, 503, 307, 302, 199]
BODIES: list[Callable[[random.Random], bytes]] = [
    lambda chance: b"",
    lambda chance: chance.randbytes(chance.randrange(60)),
    lambda chance: b"[" * chance.randrange(3000),
    lambda chance: json.dumps(_tree(chance, 4)).encode(),
    lambda chance: json.dumps({"errors": _tree(chance, 3), "detail": _tree(chance, 2)}).encode(),
    lambda chance: json.dumps({"id": _tree(chance, 1), "quay": _tree(chance, 2)}).encode(),
    lambda chance: json.dumps({"id": 2, "name": "x"}).encode()[: chance.randrange(20)],
    lambda chance: b'{"id": 1e999, "name": NaN}',
]
HEADS = ["", "7", "0", "-1", "9" * 20, "soon", "/", "//", "/boats/%ff", "http://[", "é"]
NAMES = ["id", "quay", "pointer", "loc", "detail", "msg", "errors", "#/a", ""]


def _tree(chance: random.Random, deep: int) -> Any:
    kind = chance.randrange(8 if deep else 6)
    if kind < 6:
        return [None, True, 2**70, -0.5, "text", "\ud800"[:0]][kind]
    some = range(chance.randrange(4))
    if kind == 6:
        return [_tree(chance, deep - 1) for _ in some]
    return {chance.choice(NAMES): _tree(chance, deep - 1) for _ in some}


@pytest.mark.long
def test_damaged_answers_to_writes_are_messages_only(tmp_path: Path) -> None:
    """Whatever comes: the session goes on, nothing typed is lost, and the run says what came."""
    app, chance = _app_of(tmp_path), random.Random(33)

    def answers(request: httpx.Request) -> httpx.Response:
        names = ["location", "retry-after", "etag", "content-type", "content-encoding"]
        heads = {name: chance.choice(HEADS).encode() for name in names if chance.random() < 0.4}
        if chance.random() < 0.03:
            raise httpx.ReadError("gone")
        body = chance.choice(BODIES)(chance)
        return httpx.Response(chance.choice(STATUSES), headers=heads, stream=_Once(body))

    services = Services(httpx.Client(transport=httpx.MockTransport(answers)))
    begun = start(app, sized(400, 800))[0]
    for event in (*ADD, typed("name", "Gull")):
        begun = step(app, begun, event)[0]
    seen = set()
    for number in range(500 * ROUNDS):
        write = NEW if number % 2 else SENT
        seen.add(services.send(app, begun, write).outcome)
        session = step(app, begun, SAVE).session
        (sent,) = session.writes
        session = step(app, session, services.send(app, session, sent)).session
        is_open = session.entries[-1].screen == "boats-form"
        if is_open:
            assert session.entries[-1].view.draft == {"name": "Gull"}
        assert is_open == bool(session.writes)
    assert seen == {"done", "refused", "quicker", "gone", "later", "unsent"}


class _Once(httpx.SyncByteStream):
    def __init__(self, body: bytes) -> None:
        self.body = body

    def __iter__(self) -> Iterator[bytes]:
        yield self.body


def test_what_a_service_does_not_tell_is_found(tmp_path: Path) -> None:
    """Versions, and what is sent a second time: of a service that tells both nothing is found."""
    codes = {"versions-untold", "repeats-untold"}
    app = _app_of(tmp_path)
    found = {each.code: each for each in check(app.app, app.as_read) if each.code in codes}
    assert set(found) == codes
    assert {each.subject.name for each in found.values()} == {"boats"}
    (tmp_path / "other").mkdir()
    told = _app_of(tmp_path / "other", versions=True, repeats=True)
    assert not codes & {each.code for each in check(told.app, told.as_read)}


def test_vectors_hold_the_requests_expected(tmp_path: Path) -> None:
    app = _app_of(tmp_path)
    (tmp_path / "walks").mkdir()
    record = {"id": 2, "name": "Boat 2", "quay": "East"}
    walk = [
        {"do": "answered", "request": 1, "records": [record]},
        {"do": "choose", "screen": "boats", "key": 2},
        {"do": "answered", "request": 2, "records": [record]},
        {"do": "press", "screen": "boat", "button": "edit"},
        {"do": "answered", "request": 3, "records": [record]},
        {"do": "type", "screen": "boats-form", "field": "quay", "to": "West"},
        {"do": "save", "screen": "boats-form"},
        {"do": "written", "request": 4, "outcome": "done"},
    ]
    (tmp_path / "walks" / "saved.json").write_text(json.dumps(walk))
    for _, raw in vectors(app, tmp_path):
        lines = [json.loads(line) for line in raw.decode().splitlines()]
        told = [each["requests"] for each in lines if "requests" in each]
        assert len(told) == 1
        (request,) = told[0]
        assert (request["method"], request["address"]) == ("PUT", "http://x/boats/2")
        assert request["body"] == {**record, "quay": "West"}
        assert lines[-2]["requests"] == told[0]
