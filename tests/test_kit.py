"""The kit, a second implementation of the rules: its traces are the engine's, line by line."""

from __future__ import annotations

import json
import os
import subprocess
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

import msgspec
import pytest
from msgspec.structs import replace

from builders import DEMO, demo
from cadena.deliver.described import described, records_of
from cadena.deliver.web_app import web_app
from cadena.engine import events as do
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.app import Pair, Transition
from cadena.runs.walks.trace import to_line, trace_line
from cadena.runs.walks.walk import parse_window, read_walk
from cadena.scene.flights import came_by, comes_by, waits
from kit_traces import KIT, NODE, ROOT, difference, needs_node, traced
from random_runs import random_run

TRACES = ROOT / "spec" / "traces"
EVENTS = int(os.environ.get("CADENA_RANDOM_EVENTS", 2_000))
FIRST = int(os.environ.get("CADENA_FIRST_SEED", 0))
LENGTH = 50
TSC = ROOT / ".venv" / "node" / "node_modules" / ".bin" / "tsc"


def given(name: str) -> dict[str, Any]:
    """A kept trace as a run of the kit: the demo, a window, and the events of a walk."""
    walk, window, _ = name.split(".")
    app, size = demo(), parse_window(window)
    steps = read_walk(DEMO / "cresta" / "walks" / f"{walk}.json")
    events = json.loads(msgspec.json.encode(steps))
    return {
        "app": described(app),
        "records": {source: records_of(each) for source, each in app.as_read.items()},
        "window": {"width": size.width, "height": size.height, "fold": size.fold},
        "events": [each for each in events if "do" in each],
    }


@needs_node
def test_the_kit_gives_the_traces_that_are_kept() -> None:
    names = sorted(each.name for each in TRACES.glob("*.jsonl"))
    for name, lines in zip(names, traced([given(name) for name in names]), strict=True):
        kept = [json.loads(line) for line in (TRACES / name).read_text().splitlines()]
        assert len(kept) == len(lines) > 10
        for number, (wanted, got) in enumerate(zip(kept, lines, strict=True)):
            assert difference(wanted, got) is None, f"{name}, line {number + 1}"


@pytest.mark.long
@needs_node
def test_random_apps_under_random_events_give_the_same_trace() -> None:
    for some in batched(range(FIRST, FIRST + max(1, EVENTS // LENGTH)), 40):
        runs = [random_run(seed, LENGTH) for seed in some]
        given = traced([each.given for each in runs])
        for seed, run, lines in zip(some, runs, given, strict=True):
            for number, (wanted, got) in enumerate(zip(run.expected, lines, strict=True)):
                found = difference(wanted, got)
                assert found is None, f"seed {seed}, step {number}, {wanted['event']}: {found}"


def batched(things: Sequence[int], size: int) -> Iterator[Sequence[int]]:
    return (things[at : at + size] for at in range(0, len(things), size))


@needs_node
def test_an_address_that_is_written_badly_leads_where_the_engine_leads() -> None:
    app, size = demo(), parse_window("360x780")
    events = [do.Visit(address=f"/huts/{each}") for each in ("%", "%zz", "%E0%A4", "mo%72", "%00")]
    session, notes = start(app, size)
    wanted = [json.loads(to_line(trace_line(app, session, None, notes)))]
    for event in events:
        session, notes, _ = step(app, session, event)
        wanted.append(json.loads(to_line(trace_line(app, session, event, notes))))
    run = {**given("tour.360x780.jsonl"), "events": json.loads(msgspec.json.encode(events))}
    (lines,) = traced([run])
    assert [difference(*each) for each in zip(wanted, lines, strict=True)] == [None] * 6


@pytest.mark.long
@needs_node
@pytest.mark.parametrize("size", ["360x780", "1280x800"])
@pytest.mark.parametrize("how", ["push", "beside", "modal", "popover"])
def test_12_the_kit_flies_what_the_engine_flies(size: str, how: Any) -> None:
    """From rows and tiles, into screens and layers, there and back; a long delay included."""
    app = demo().app
    moves = Transition(
        pairs=(Pair(slot="title", element="title"),),
        duration=200,
        fades={"rooms": 90, "name": 900, "title": 0},
    )
    link = replace(next(e for e in app.links if e.id == "huts-to-hut"), how=how, transition=moves)
    saved = replace(next(e for e in app.links if e.trigger.screen == "saved"), transition=moves)
    links = {each.id: each for each in (*app.links, link, saved)}
    links["hut-to-form"] = replace(links["hut-to-form"], comes="from below")
    app = replace(app, links=tuple(links.values()))
    wired, window = WiredApp(app, demo().as_read), parse_window(size)
    events: list[do.Event] = [
        do.Act(screen="huts", key="mor", action="keep"),
        *(do.Choose(screen="huts", key="alp"), do.Back(), do.Turn(), do.Turn()),
        *(do.Choose(screen="huts", key="mor"), do.Press(button="book"), do.Back(), do.Back()),
        *(do.Wake(), do.GoTo(section="saved"), do.Choose(screen="saved", key="mor"), do.Back()),
    ]
    session, _ = start(wired, window)
    wanted: list[Any] = []
    for event in events:
        before = session
        session, *_ = step(wired, session, event)
        came = came_by(wired, before, session)
        told = came and came.link.transition and waits(came.link.transition)
        coming = comes_by(wired, before, session)
        wanted.append(
            [
                came and [came.link.id, came.row and came.row.key, came.at, came.forth, told],
                coming and [coming.link.id, coming.at, coming.forth],
            ]
        )
    run = {
        **{**given(f"tour.{size}.jsonl"), "app": described(wired)},
        "events": json.loads(msgspec.json.encode(events)),
        "flights": True,
    }
    (lines,) = traced([run])
    flown = lines[-len(events) :]
    assert flown == json.loads(msgspec.json.encode(wanted))
    is_beside = size == "1280x800" and how in ("push", "beside")
    assert any(came for came, _ in flown) or is_beside
    assert any(coming for _, coming in flown) or is_beside


@needs_node
def test_a_kit_with_another_rule_is_told_apart(tmp_path: Path) -> None:
    """What the comparison is worth: one number of one rule changed is seen."""
    for file in KIT.glob("*.js"):
        text = file.read_text()
        if file.name == "back.js":
            assert "rule: 3, does: 'remove', length: entries.length - 1" in text
            text = text.replace(
                "rule: 3, does: 'remove', length: entries.length - 1",
                "rule: 3, does: 'remove', length: 1",
            )
        (tmp_path / file.name).write_text(text)
    (tmp_path / "package.json").write_text('{"type": "module"}')
    run = given("tour.360x780.jsonl")
    tracer = ROOT / "tests" / "kit" / "trace.mjs"
    done = subprocess.run(
        [str(NODE), str(tracer), str(tmp_path)],
        input=json.dumps(run) + "\n",
        capture_output=True,
        text=True,
    )
    assert done.returncode == 0, done.stderr
    kept = [json.loads(line) for line in (TRACES / "tour.360x780.jsonl").read_text().splitlines()]
    assert difference(kept, json.loads(done.stdout)) is not None


def test_every_file_of_the_kit_can_be_read_in_one_go() -> None:
    for file in KIT.parent.rglob("*.js"):
        assert len(file.read_text().splitlines()) <= 500, file.name


def test_the_kit_reaches_for_nothing_but_itself_and_the_browser() -> None:
    for file in KIT.rglob("*.js"):
        for line in file.read_text().splitlines():
            if line.startswith(("import ", "} from")) and "from" in line:
                assert "from './" in line or "from '../" in line, f"{file.name}: {line}"
            assert "innerHTML" not in line
            assert "eval(" not in line
    for file in KIT.glob("*.js"):
        text = file.read_text()
        assert "document." not in text, f"{file.name}: the rules know no page"
        assert "Math.random" not in text
        assert "Date.now" not in text


@pytest.mark.long
@needs_node
@pytest.mark.skipif(not TSC.exists(), reason="TypeScript is not there")
def test_a_delivered_app_is_typed(tmp_path: Path) -> None:
    for name, content in web_app(demo(), DEMO / "cresta").items():
        if name.endswith((".js", ".d.ts")):
            (tmp_path / name).parent.mkdir(parents=True, exist_ok=True)
            (tmp_path / name).write_bytes(content)
    options = {
        "allowJs": True,
        "checkJs": True,
        "noEmit": True,
        "strict": True,
        "target": "es2023",
        "lib": ["es2023", "dom", "dom.iterable"],
        "module": "es2022",
        "moduleResolution": "bundler",
        "types": [],
    }
    config = {
        "compilerOptions": options,
        "include": ["**/*.js", "**/*.d.ts"],
        "exclude": ["offline.js"],
    }
    (tmp_path / "tsconfig.json").write_text(json.dumps(config))
    done = subprocess.run(
        [str(TSC), "-p", str(tmp_path)], capture_output=True, text=True, timeout=300
    )
    assert done.returncode == 0, done.stdout[:2000]
