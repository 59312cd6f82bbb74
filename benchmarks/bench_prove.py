"""Exploring apps and proving claims, beside a model checker where it is there.

The peer is SPIN, on a model of the same small app written by hand (``MODEL``).
"""

from __future__ import annotations

import re
import shutil
import subprocess
import time
import tracemalloc
from pathlib import Path

import pytest
from msgspec.structs import replace
from pytest_benchmark.fixture import BenchmarkFixture

from builders import demo, records_of, small_app, small_records, with_link
from cadena.engine.wired import Listed, WiredApp
from cadena.model.app import App, FromArgument, FromField, Link, ListScreen, Section, Trigger
from cadena.model.values import Scalar
from cadena.runs.prove.explore import Explored, Limits
from cadena.runs.prove.prove import at_once, proof_of, prove, reached_slowly
from cadena.runs.prove.row_classes import RowClasses


def generated(screens: int) -> WiredApp:
    """Two sections of lists, and details that lead on to others: two buttons, a nested list."""
    base = small_app()
    hut, count = base.screens[1], screens - 2
    lists = [replace(base.screens[0], id=f"list{number}") for number in (0, 1)]
    details = [replace(hut, id=f"d{number}") for number in range(count)]
    argument = FromArgument(parameter="hut", argument="hut")
    links = [replace(base.links[0], id=e.id, trigger=Trigger(screen=e.id), to="d0") for e in lists]
    for number in range(count):
        for part, on, to, given in (
            ("book", "button", 2 * number + 1, argument),
            ("ask", "button", 2 * number + 2, argument),
            ("rooms", "row", 3 * number + 4, FromField(parameter="hut", field="hut")),
        ):
            if to < count:
                trigger = Trigger(screen=f"d{number}", on=on, part=part)  # type: ignore[arg-type]
                how = "modal" if (number + to) % 5 == 0 else "push"
                link = Link(
                    id=f"l{len(links)}",
                    trigger=trigger,
                    to=f"d{to}",
                    how=how,  # type: ignore[arg-type]
                    arguments=(given,),
                )
                links.append(link)
    sections = tuple(Section(id=e.id, title=e.id, root=e.id) for e in lists)
    app = replace(
        base, screens=(*lists, *details), links=tuple(links), sections=sections, start="list0"
    )
    return WiredApp(app, small_records(30))


@pytest.mark.parametrize("name", ["cresta", "cresta-broken"])
def test_prove_the_demo(benchmark: BenchmarkFixture, name: str) -> None:
    """All claims of the demo: 3 s of one core are wanted."""
    app = demo(name)
    proof = benchmark.pedantic(lambda: prove(app), rounds=3)
    benchmark.extra_info["states"], benchmark.extra_info["steps"] = proof.states, proof.steps
    print(f"\n{name}: {proof.states:,} states, {proof.steps:,} steps")


@pytest.mark.parametrize("screens", [10, 20, 40])
def test_prove_generated_screens(benchmark: BenchmarkFixture, screens: int) -> None:
    """10, 20 and 40 screens: 1, 6 and 25 s are wanted."""
    app = generated(screens)
    proof = benchmark.pedantic(lambda: prove(app), rounds=1)
    print(f"\n{screens} screens: {proof.states:,} states, {proof.steps:,} steps")


def test_memory_of_a_state() -> None:
    """400 bytes a state are wanted."""
    app = at_once(demo())
    tracemalloc.start()
    made, before = [], tracemalloc.get_traced_memory()[0]
    for section in app.sections:
        explored = Explored(app, section)
        list(explored.explore(Limits()))
        made.append(explored)
    app.forget()
    now = tracemalloc.get_traced_memory()[0]
    tracemalloc.stop()
    states = sum(map(len, made))
    print(f"\n{(now - before) / states:,.0f} bytes a state, of {states:,} states")


def test_after_an_edit_of_one_link(benchmark: BenchmarkFixture) -> None:
    """What it touches, within a second."""
    wired = demo()
    known = {}
    list(reached_slowly(wired, known, Limits()))
    app = with_link(wired.app, "saved-to-hut", how="push")
    again = WiredApp(app, wired.as_read, like=wired)

    def after() -> None:
        proof_of(again, [e for e in reached_slowly(again, dict(known), Limits()) if e])

    benchmark.pedantic(after, rounds=3)


class AllRows(RowClasses):
    """Every row for itself."""

    def _classify(self, screen: str, part: str, listed: Listed) -> tuple[Scalar, ...]:
        return tuple(listed.rows.key_at(at) for at in range(len(listed.rows)))


def tables(app: WiredApp) -> list[Explored]:
    """Both sections of the small app, row by row, without changes of the records."""
    made = []
    for section in app.sections:
        explored = Explored(app, section)
        explored.classes = explored.moves.classes = AllRows(app)
        explored.moves._gone = lambda _: iter(())  # type: ignore[method-assign]
        list(explored.explore(Limits()))
        made.append(explored)
    return made


OWN = """
  :: d_step {{ a == {s} && k{s} <= 2 && (k{s} == 0 || w == 1)
     -> k{s} = 1; h{s} = {h}; r{s} = 0 }}"""
ROOM = """
  :: d_step {{ a == {s} && k{s} == 1 -> k{s} = 2; r{s} = {r} }}"""
MODEL = """
/* The small app by hand: w is the window (360 dp, 673 dp flat, folded), a the section shown;
   k is the deepest screen: 0 huts, 1 hut, 2 room, 3 book, 4 ask, for hut h and room r. */
byte w = 0; byte a = 0;
byte k0, h0, r0, k1, h1, r1;
active proctype app() {{
  do
  :: d_step {{ w == 0 -> w = 1 }}
  :: d_step {{ w == 1 -> w = 0 }}
  :: d_step {{ w == 1 -> w = 2 }}
  :: d_step {{ w == 2 -> w = 1 }}
  :: d_step {{ w == 2 -> w = 0 }}
  :: d_step {{ a == 0 && k0 < 3 -> a = 1 }}
  :: d_step {{ a == 1 && k1 < 3 -> a = 0 }}{moves}
  od
}}
"""
SECTION = """
  :: d_step {{ a == {s} && k{s} < 3 -> k{s} = 0; h{s} = 0; r{s} = 0 }}
  :: d_step {{ a == {s} && k{s} == 1 -> k{s} = 3 }}
  :: d_step {{ a == {s} && k{s} == 1 -> k{s} = 4 }}
  :: d_step {{ a == {s} && k{s} >= 2 -> k{s} = 1; r{s} = 0 }}
  :: d_step {{ a == {s} && k{s} == 1 && w != 1 -> k{s} = 0; h{s} = 0 }}"""


def model(huts: int) -> str:
    """The model of an app of so many huts, each with two rooms."""
    moves = ""
    for section in (0, 1):
        moves += SECTION.format(s=section)
        for hut in range(1, huts + 1):
            moves += OWN.format(s=section, h=hut)
        for room in (1, 2):
            moves += ROOM.format(s=section, r=room)
    return MODEL.format(moves=moves)


def checked_by_spin(folder: Path, huts: int) -> tuple[int, int, float]:
    """The states and transitions that SPIN counts, and the seconds of its best of three runs."""
    (folder / "model.pml").write_text(model(huts))
    run = {"cwd": folder, "check": True, "capture_output": True, "text": True}
    subprocess.run(["spin", "-a", "-o2", "model.pml"], **run)  # type: ignore[call-overload]
    flags = ["-O2", "-DSAFETY", "-DNOREDUCE", "-DVECTORSZ=256", "-o", "pan", "pan.c"]
    subprocess.run(["gcc", *flags], **run)  # type: ignore[call-overload]
    best, text = float("inf"), ""
    for _ in range(3):
        began = time.perf_counter()
        text = subprocess.run(["./pan", "-m9000000"], **run).stdout  # type: ignore[call-overload]
        best = min(best, time.perf_counter() - began)
    states, transitions = (
        int(re.search(rf"(\d+) {what}", text)[1])  # type: ignore[index]
        for what in ("states, stored", "transitions")
    )
    return states, transitions, best


@pytest.mark.skipif(
    not (shutil.which("spin") and shutil.which("gcc")), reason="SPIN and gcc are not there"
)
@pytest.mark.parametrize("huts", [10, 60])
def test_stepping_beside_a_model_checker(tmp_path: Path, huts: int) -> None:
    """Stepping within 60 times of its transitions a second."""
    _, transitions, seconds = checked_by_spin(tmp_path, huts)
    app = at_once(WiredApp(small_app(), small_records(huts)))
    began = time.perf_counter()
    stepping = sum(each.steps for each in tables(app)) / (time.perf_counter() - began)
    peer = transitions / seconds
    print(f"\nSPIN {peer:,.0f} transitions a second (process and all),")
    print(f"stepping 1 / {peer / stepping:.1f}")


def test_the_app_is_what_it_says() -> None:
    app: App = generated(20).app
    assert len(app.screens) == 20
    assert isinstance(app.screens[0], ListScreen)
    assert records_of("x", [{"id": 1}])
