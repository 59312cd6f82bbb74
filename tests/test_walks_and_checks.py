"""Walks, traces, checks and mending."""

from __future__ import annotations

import json
import re
from functools import lru_cache, partial
from pathlib import Path

import jsonschema
import pytest

from builders import DEMO, POCKET, demo, small_app, small_records, with_link
from cadena.check.check import breaks, check, read_through
from cadena.check.finding import Finding, mistakes
from cadena.check.laid_out import Tried, tried_windows
from cadena.check.mend import MENDS, mended
from cadena.desktop.document.stages import stages
from cadena.engine import events as do
from cadena.engine.wired import WiredApp
from cadena.model.app import App, FromField, FromPosition
from cadena.model.problem import Problem
from cadena.runs.walks.trace import to_line
from cadena.runs.walks.walk import Expectation, Expected, parse_window, read_walk, replay, schema
from cadena.sources.pictures_beside import pictures_named

TOUR = DEMO / "cresta" / "walks" / "tour.json"
CHECKS_PAGE = (Path(__file__).parents[1] / "docs" / "checks.md").read_text()
CODES = set(re.findall(r"^\| `([a-z-]+)`", CHECKS_PAGE, flags=re.MULTILINE))
"""Every finding that the documentation names."""


MEASURED = {"page-scrolls", "state-lost", "text-cut", "turn-loses"}


@pytest.mark.parametrize("tried", tried_windows(demo()), ids=lambda each: each.name)
@pytest.mark.parametrize("walk", ["tour", "lists", "stays", "fit", "groups"])
def test_the_demo_walks_hold_at_every_named_window_turned_and_not(walk: str, tried: Tried) -> None:
    for each in replay(demo(), read_walk(TOUR.with_name(f"{walk}.json")), tried.window):
        assert not each.failures, str(each.failures[0])


def test_the_same_walk_gives_the_same_trace_byte_for_byte() -> None:
    def trace() -> list[str]:
        app = WiredApp(demo().app, demo().as_read)
        return [to_line(e.line) for e in replay(app, read_walk(TOUR), POCKET) if e.line is not None]

    assert trace() == trace()


def test_the_docs_tell_of_every_kind_of_mistake_what_its_table_says() -> None:
    rows = {
        code: tuple(map(str.strip, cells.split("|")[:4]))
        for code, cells in re.findall(r"^\| `([a-z-]+)` \| (.*)$", CHECKS_PAGE, re.MULTILINE)
    }
    assert rows == {
        code: (
            kind.weight,
            re.sub("{(.*?)}", r"*\1*", kind.why),
            kind.stage,
            "✓" if code in MENDS else "",
        )
        for code, kind in mistakes().items()
    }
    assert {kind.stage for kind in mistakes().values()} <= {each.name for each in stages()}


def test_walks_and_traces_are_as_their_schema_says() -> None:
    kept = json.loads((DEMO.parents[2] / "docs" / "walk.schema.json").read_text())
    assert kept == json.loads(json.dumps(schema()))
    jsonschema.validate(json.loads(TOUR.read_text()), kept)
    line_schema = {"$ref": "#/$defs/TraceLine", "$defs": kept["$defs"]}
    lines = jsonschema.validators.validator_for(line_schema)(line_schema)
    for each in replay(demo(), read_walk(TOUR), POCKET):
        if each.line is not None:
            lines.validate(json.loads(to_line(each.line)))
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate([{"do": "fly"}], kept)


@pytest.mark.parametrize(
    ("expected", "says"),
    [
        (Expected(display=("hut",)), 'display: expected ["hut"], got ["huts"]'),
        (Expected(chain=("huts", "hut")), 'chain: expected ["huts","hut"], got ["huts"]'),
        (Expected(chosen={"huts": "h1"}), 'chosen of huts: expected "h1", got null'),
        (Expected(chosen={"hut": "h1"}), 'got "not on display"'),
        (Expected(first_row={"huts": "h1"}), 'first_row of huts: expected "h1", got "h0"'),
        (Expected(back="Huts"), 'back: expected "Huts", got null'),
        (Expected(arguments={"hut": 1}), "arguments"),
        (Expected(title="Hut"), 'title: expected "Hut", got "Huts"'),
        (Expected(phase="left"), 'phase: expected "left", got "running"'),
        (Expected(note="refused"), 'note: expected "refused", got []'),
    ],
)
def test_an_expectation_that_does_not_hold_says_what_and_how(expected: Expected, says: str) -> None:
    app = WiredApp(small_app(), small_records())
    steps = list(
        replay(app, (do.Turn(), do.Turn(), do.Scroll(by=0.0), Expectation(expected)), POCKET)
    )
    assert len(steps[-1].failures) == 1
    assert says in str(steps[-1].failures[0])
    assert str(steps[-1].failures[0]).startswith("step 3: ")


def test_a_nothing_chosen_pane_and_null_can_be_expected() -> None:
    app = WiredApp(small_app(), small_records())
    fine = Expectation(
        Expected(display=("huts", "nothing chosen"), chosen={"huts": None}, back=None)
    )
    assert not list(replay(app, (fine,), parse_window("820x1180")))[-1].failures


@pytest.mark.parametrize(
    ("raw", "says"),
    [
        ("", "it is not a walk"),
        ("{}", "it is not a walk"),
        ('[{"do": "fly"}]', "step 0"),
        ('[{"do": "back"}, {"do": "choose"}]', "step 1"),
        ('[{"expect": {"colour": "red"}}]', "step 0"),
        ("[3]", "step 0"),
    ],
)
def test_a_walk_that_cannot_be_used(tmp_path: Path, raw: str, says: str) -> None:
    (tmp_path / "w.json").write_text(raw)
    with pytest.raises(Problem) as caught:
        read_walk(tmp_path / "w.json")
    assert says in str(caught.value)
    with pytest.raises(Problem, match="cannot be read"):
        read_walk(tmp_path / "gone.json")


@pytest.mark.parametrize(
    "text", ["", "360", "axb", "0x10", "360x-1", "99999x1", "300x300@400", "nanx1", "infx5"]
)
def test_windows_that_are_none(text: str) -> None:
    with pytest.raises(Problem, match="WIDTHxHEIGHT"):
        parse_window(text)


@lru_cache
def found_in(name: str) -> tuple[Finding, ...]:
    """What is found in a demo project, found once."""
    return check(demo(name).app, demo(name).as_read, partial(pictures_named, DEMO / name))


def test_the_demo_is_clean() -> None:
    assert found_in("cresta") == ()


@pytest.mark.parametrize("code", sorted(CODES))
def test_each_mistake_of_the_broken_demo_is_found(code: str) -> None:
    found = [each for each in found_in("cresta-broken") if each.code == code]
    assert len(found) == 1
    finding = found[0]
    assert finding.what
    assert finding.why
    assert finding.mend
    assert finding.where


def test_nothing_else_is_found_in_the_broken_demo() -> None:
    found = found_in("cresta-broken")
    assert {each.code for each in found} == CODES
    assert breaks(found)


@pytest.mark.parametrize(
    "code",
    [
        "action-field-missing",
        "leads-nowhere",
        "control-idle",
        "marks-lost",
        "root-replaced",
        "argument-missing",
        "argument-unfit",
        "argument-surplus",
        "trigger-missing",
        "screen-missing",
        "title-missing",
        "empty-words-missing",
        "screen-unreachable",
        "start-missing",
        "position-carried",
        "record-carried",
        "after-save-returns",
        "form-field-missing",
        "form-misses-required",
        "limit-without-words",
        "row-says-twice",
        "secret-in-project",
        "value-missing",
        "pair-missing",
        "chain-dropped",
        "stored-without-limit",
        "arrangement-unreachable",
        "list-hidden",
        "pane-under-least",
        "screen-asks-window",
        "state-lost",
        "turn-loses",
        "window-cannot-be",
        "window-without-arrangement",
    ],
)
def test_what_can_be_mended_is_gone_once_it_is(code: str) -> None:
    broken = demo("cresta-broken")
    types = {name: records.types for name, records in broken.as_read.items()}
    finding = next(each for each in found_in("cresta-broken") if each.code == code)
    app = mended(broken.app, types, finding)
    assert app is not None
    # What needs no run is found by reading alone.
    again = check if code in MEASURED else read_through
    assert finding.where not in [
        each.where for each in again(app, broken.as_read) if each.code == code
    ]


def test_a_position_is_mended_by_carrying_the_key() -> None:
    app = with_link(small_app(), "open", arguments=(FromPosition(parameter="hut"),))
    records = small_records()
    finding = next(each for each in check(app, records) if each.code == "position-carried")
    made = mended(app, {name: each.types for name, each in records.items()}, finding)
    assert made is not None
    assert made.links[0].arguments == (FromField(parameter="hut", field="id"),)


def test_what_a_check_finds_the_engine_refuses() -> None:
    """An argument that is said to be missing or unfit is one that the engine does not take."""
    from builders import Run

    for link in ("open",):
        app = with_link(small_app(), link, arguments=())
        assert [each.code for each in check(app, small_records())] == ["argument-missing"]
        assert Run(app).choose("h1").kinds == ["refused"]


def test_an_empty_app_has_no_findings() -> None:
    assert check(App(), {}) == ()
