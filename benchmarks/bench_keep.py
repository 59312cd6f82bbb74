"""Keep: the whole matrix, what an edit touches, and restoring a long session."""

from __future__ import annotations

import msgspec
import pytest
from bench_desktop import large_app
from msgspec.structs import replace
from pytest_benchmark.fixture import BenchmarkFixture

from builders import POCKET, demo, small_app, small_records
from cadena.engine import events as do
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.app import App, Keep
from cadena.model.edits.wiring import with_screen
from cadena.runs.keep.matrix import Known, matrix_of, runs


def forty_screens() -> App:
    """The large app with 40 of its screens, and the links between those."""
    app = large_app()
    screens = app.screens[:40]
    names = {each.id for each in screens}
    links = tuple(e for e in app.links if e.to in names and e.trigger.screen in names)
    return replace(app, screens=screens, links=links)


@pytest.mark.benchmark(group="the whole matrix (wanted: demo 0.5 s, 40 screens 10 s)")
@pytest.mark.parametrize("name", ["demo", "40 screens"])
def test_the_whole_matrix(benchmark: BenchmarkFixture, name: str) -> None:
    def measure() -> int:
        if name == "demo":
            app = WiredApp(demo().app, demo().as_read)
        else:
            app = WiredApp(forty_screens(), small_records())
        return len(matrix_of(app))

    assert benchmark.pedantic(measure, rounds=3, warmup_rounds=1) > 100


@pytest.mark.benchmark(group="after an edit (wanted: 200 ms)")
@pytest.mark.parametrize("screen", ["stay-form", "hut"])
def test_after_an_edit(benchmark: BenchmarkFixture, screen: str) -> None:
    known: Known = {}
    list(runs(demo(), known))
    found = next(each for each in demo().app.screens if each.id == screen)
    changed = with_screen(demo().app, replace(found, keep=Keep(page="view")))
    app = WiredApp(changed, demo().as_read)
    assert len(benchmark.pedantic(lambda: list(runs(app, dict(known))), rounds=5)) > 100


@pytest.mark.benchmark(group="restore of 200 entries (wanted: 5 ms; bare: only decoding them)")
@pytest.mark.parametrize("peer", ["bare", "cadena"])
def test_restore_of_200_entries(benchmark: BenchmarkFixture, peer: str) -> None:
    app = WiredApp(small_app(), small_records())
    session, _ = start(app, POCKET)
    session, *_ = step(app, session, do.Choose(key="h1", screen="huts"))
    session, *_ = step(app, session, do.Kill())
    saved = msgspec.json.decode(session.kept)
    entry = {"screen": "hut", "arguments": {"hut": "h1"}, "opened": "push"}
    saved["chains"][0]["entries"] = [saved["chains"][0]["entries"][0], *[entry] * 199]
    text = msgspec.json.encode(saved).decode()
    session = replace(session, kept=text)

    def restore() -> int:
        if peer == "bare":
            return len(msgspec.json.decode(text)["chains"][0]["entries"])
        return len(step(app, session, do.Restore())[0].entries)

    assert benchmark.pedantic(restore, rounds=50, warmup_rounds=3) == 200
