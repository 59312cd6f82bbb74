"""A mark of Keep is what a plain run shows: on random apps, run by run, with nothing refused."""

from __future__ import annotations

import random
from typing import Any

import pytest
from msgspec import json
from msgspec.structs import replace

from builders import small_app, small_records, with_arrangement, with_link, with_screen
from cadena.check.check import check
from cadena.check.mend import mended
from cadena.engine import events as do
from cadena.engine.session import Window
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.app import AppValue, FromField
from cadena.model.listing import Button, Mark, Order
from cadena.runs.keep.disturbances import DISTURBANCES
from cadena.runs.keep.matrix import runs
from cadena.runs.keep.pieces import value_of
from cadena.runs.keep.rows_in_view import KINDS
from cadena.runs.keep.run import Run
from random_small_apps import an_app
from slow_claims import PRESSED
from slow_prover import REFUSED, Everything, TooMany

NUMBERS = (0, 1, 6, 8, 10, 12, 71, 80, 122, 220)
VERSIONS = {each.name for each in DISTURBANCES if each.version is not None}


def played(app: WiredApp, run: Run) -> None:
    """The run once more, by plain steps: it comes to the same, and nothing of it is refused."""
    session, _ = start(app, run.window)
    for event in run.events:
        session, _, refused = step(app, session, event)
        assert not refused, (run.piece, event)
    assert session == run.before
    if run.mark == "nothing to keep here" or run.disturbance in VERSIONS:
        return
    for event in run.disturbing:
        session, _, refused = step(app, session, event)
        assert not refused, (run.piece, event)
    assert session == run.after
    if run.piece.kind not in KINDS and run.piece.lifetime != "stored" and run.instead is None:
        has = value_of(session, run.piece, run.before.section, run.place)
        if run.piece.kind not in ("value", "chain"):
            assert has == run.has
        assert (run.mark == "kept") == (run.has == run.had)


@pytest.mark.long
@pytest.mark.parametrize("number", NUMBERS)
def test_every_mark_is_what_a_plain_run_shows(number: int) -> None:
    app = an_app(random.Random(number))
    looked = 0
    for run in runs(app):
        played(app, run)
        looked += run.mark != "nothing to keep here"
    assert looked > 100


@pytest.mark.long
@pytest.mark.parametrize("count", [1, 2, 3, 6])
@pytest.mark.parametrize("first", ["no", "open first", "open last"])
@pytest.mark.parametrize("grouped", ["", "region"])
def test_of_an_app_that_keeps_all_nothing_is_told_lost_or_wrong(
    count: int, first: Any, grouped: str
) -> None:
    """A detail that is opened first, and a short list of which the last row goes, among others."""
    app = small_app()
    rows = replace(app.screens[0].rows, group_by=grouped, sort=())
    app = with_arrangement(with_screen(app, "huts", rows=rows), "one", detail_first=first)
    wired = WiredApp(app, small_records(count))
    made = list(runs(wired))
    for run in made:
        played(wired, run)
    assert [(e.piece.name, e.disturbance) for e in made if e.is_broken] == []
    assert any(e.piece.kind == "chosen row" and e.mark == "kept" for e in made)


@pytest.mark.parametrize("number", NUMBERS)
def test_no_finding_has_a_run_that_is_refused(number: int) -> None:
    app = an_app(random.Random(number))
    for finding in check(app.app, app.as_read):
        if finding.run:
            walk = json.decode(finding.run, type=tuple[do.Event, ...])
            session, _ = start(app, Window(360.0, 780.0))
            for event in walk:
                session, _, refused = step(app, session, event)
                assert not refused, (finding, event)


@pytest.mark.long
@pytest.mark.parametrize("number", NUMBERS)
def test_what_a_plain_run_refuses_is_a_finding(number: int) -> None:
    """Each link that is refused, somewhere, is found: by reading it, or by its data."""
    app = an_app(random.Random(number))
    try:
        ways = Everything(app, 1_500).ways
    except TooMany:
        pytest.skip("there are too many")
    pressed = [each for each in ways if each.to == REFUSED and isinstance(each.events[0], PRESSED)]
    refused = {each.link.id for each in pressed if each.link is not None}
    found = {each.link for each in check(app.app, app.as_read) if each.weight == "breaks"}
    assert refused <= found


def test_what_cannot_be_converted_is_found_with_some_of_it() -> None:
    app = with_link(
        small_app(),
        "room",
        arguments=(FromField(parameter="room", field="name", convert=True),),
    )
    found = [each for each in check(app, small_records(3)) if each.code == "argument-unfit"]
    assert [each.where for each in found] == ["links[room].arguments[room]"]
    assert "such as Room 0" in found[0].what


def test_marks_that_a_cold_start_takes_are_found_and_mended() -> None:
    kept = AppValue(id="kept", type="list of text")
    marks = (Button(id="keep", label="Keep", does=Mark(value="kept")),)
    rows = replace(small_app().screens[0].rows, actions=marks)
    app = replace(with_screen(small_app(), "huts", rows=rows), values=(kept,))
    (found,) = [each for each in check(app, small_records(3)) if each.code == "marks-lost"]
    wired = WiredApp(app, small_records(3))
    lost = [run for run in runs(wired) if run.piece.of == "kept" and run.disturbance == "relaunch"]
    assert lost
    assert all(run.has is None for run in lost)
    better = mended(app, {}, found)
    assert better is not None
    assert better.values[0].keep == "stored"
    assert "marks-lost" not in {each.code for each in check(better, small_records(3))}


def test_what_looks_alike_or_does_nothing_is_found() -> None:
    rows = replace(small_app().screens[0].rows, orders=(Order(name="Newest", sort=()),))
    app = with_screen(small_app(), "huts", rows=rows)
    sections = tuple(replace(each, title="Huts") for each in app.sections)
    found = {e.code: e for e in check(replace(app, sections=sections), small_records(3))}
    assert found["order-empty"].what.startswith("Newest is offered")
    assert found["title-twice"].what.startswith('2 sections of the bar are titled "Huts"')
    plain = [each.code for each in check(small_app(), small_records(3))]
    assert not {"order-empty", "title-twice"} & set(plain)
