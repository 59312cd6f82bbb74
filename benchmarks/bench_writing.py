"""A write against a read: what the engine takes for the answer to what was sent to a service, until
the changed record shows, beside the answer to what was asked of it."""

from __future__ import annotations

import pytest
from msgspec.structs import replace
from pytest_benchmark.fixture import BenchmarkFixture

from builders import POCKET
from cadena.engine import events as do
from cadena.engine.session import Session
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.source import Service, Writing
from stays import stays_app, stays_records
from written import written_app

AT = "http://x/stays/{key}"
SERVICE = Service(
    list="http://x/stays",
    item=AT,
    create=Writing(method="POST", address="http://x/stays"),
    change=Writing(method="PATCH", address=AT, sends="changed"),
)


def app_of_service() -> WiredApp:
    app = written_app()
    sources = tuple(
        replace(each, served="service", service=SERVICE) if each.id == "stays" else each
        for each in app.sources
    )
    links = tuple(each for each in stays_app().links if each.trigger.on != "saved")
    return WiredApp(replace(app, sources=sources, links=links), stays_records(2_000))


def taken(app: WiredApp, session: Session, events: tuple[do.Event, ...]) -> Session:
    for event in events:
        session, notes, refused = step(app, session, event)
        assert not refused, notes
    return session


@pytest.mark.parametrize("peer", ["read", "write"])
def test_a_write_costs_no_more_than_a_read(benchmark: BenchmarkFixture, peer: str) -> None:
    app = app_of_service()
    session = start(app, POCKET)[0]
    records = stays_records(2_000)["stays"]
    first = tuple(records.record(row) for row in range(2_000))
    session = taken(app, session, (do.Answered(request=session.calls, records=first),))
    listed = app.listed(session, session.entries[0], "")
    assert listed is not None
    key = listed.rows.key_at(0)
    was = records.by_key(key) or {}
    record = {**was, "guest": "Ilva"}
    opening = do.Act(screen="stays", key=key, action="change")
    opened = taken(app, session, (opening,))
    read = do.Answered(request=opened.calls, records=(record,))
    here = taken(app, opened, (do.Answered(request=opened.calls, records=(was,)),))
    here = taken(app, here, (do.Type(screen="form", field="guest", to="Ilva"),))
    sent = taken(app, here, (do.Save(screen="form"),))
    write = do.Written(request=sent.calls, record=record)
    after = benchmark(taken, app, *((opened, (read,)) if peer == "read" else (sent, (write,))))
    now = app.records(after, "stays")
    assert now is not None
    assert (now.by_key(key) or {})["guest"] == "Ilva"
