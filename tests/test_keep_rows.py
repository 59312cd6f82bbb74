"""Rows in view: every list through the hard cases, each by a run that the picture agrees with."""

from __future__ import annotations

import json
from functools import lru_cache

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from builders import demo, small_app, small_records, with_screen
from cadena.engine import events as do
from cadena.engine.rules.window_change import window_of
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.app import App, Keep
from cadena.model.edits.wiring import with_screen as put
from cadena.model.find import by_id
from cadena.model.listing import Row
from cadena.runs.keep.hard_cases import CASES
from cadena.runs.keep.marks_in_words import TABLES, in_words, pieces_in, steps_of, table_of, to_json
from cadena.runs.keep.matrix import matrix_of, runs
from cadena.runs.keep.rows_in_view import KINDS, in_view
from cadena.runs.keep.run import Matrix, Run
from long_form import examples
from stays import stays_app, stays_records
from test_engine_random import apps


@lru_cache
def of_demo() -> Matrix:
    return matrix_of(demo())


def run_of(matrix: Matrix, name: str, case: str) -> Run:
    return next(r for (piece, d), r in matrix.items() if (piece.name, d) == (name, case))


def small(**changed: object) -> Matrix:
    """The marks of the small app with its list of huts changed."""
    app = small_app()
    screen = by_id(app.screens, "huts")
    rows = {k: v for k, v in changed.items() if k != "keep"}
    keep = changed.get("keep", screen.keep)
    app = put(app, replace(screen, rows=replace(screen.rows, **rows), keep=keep))
    return matrix_of(WiredApp(app, small_records(30)))


@pytest.mark.parametrize(
    ("name", "case", "mark"),
    [
        ("routes · first in view", "other heights", "nothing to keep here"),
        ("hut · rooms · first in view", "other heights", "kept"),
        ("stays · first in view", "group closed", "kept"),
        ("stays · chosen in view", "group closed", "kept"),
        ("huts · first in view", "while away", "kept"),
        ("huts · first in view", "other order", "kept"),
        ("huts · chosen in view", "other order", "kept"),
        ("huts · first in view", "first gone", "moved on as asked"),
        ("huts · first in view", "choice made", "moved on as asked"),
        ("huts · regions · first in view", "choice made", "kept"),
        ("huts · regions · chosen in view", "other width", "kept"),
        ("route · legs · first in view", "restored", "kept"),
        ("stays · first in view", "restored", "kept"),
    ],
)
def test_7_the_hard_cases_of_the_demo(name: str, case: str, mark: str) -> None:
    assert run_of(of_demo(), name, case).mark == mark


def test_9_a_list_that_comes_page_by_page_loads_as_far_as_its_anchor() -> None:
    run = run_of(of_demo(), "stays · first in view", "restored")
    listed = demo().listed(run.before, run.before.entries[run.place], "")
    page = demo().late["stays"].stand_in.page
    assert listed is not None
    assert listed.rows.index_of(run.had[0]) > page
    session = run.before
    for event in run.disturbing[:2]:
        session, *_ = step(demo(), session, event)
    begun = demo().listed(session, session.entries[run.place], "")
    assert begun is None or begun.rows.index_of(run.had[0]) is None
    assert run.has == run.had


def test_the_lists_of_the_demo_are_all_there_and_none_is_lost() -> None:
    names = {each.name for each in pieces_in(of_demo(), CASES)}
    every = {(screen, part) for screen, lists in demo().listings.items() for part in lists}
    there = {(piece.of, piece.part) for piece in pieces_in(of_demo(), CASES)}
    # The notices of the first hut are none.
    assert every - there <= {("hut", "notices")}
    assert "huts · regions · first in view" in names
    assert not [each for each in of_demo().values() if each.is_broken]


def test_7_3_a_list_that_leaves_its_chosen_row_where_it_was_lets_it_go() -> None:
    kept = run_of(small(), "huts · chosen in view", "other order")
    assert (kept.mark, kept.has) == ("kept", kept.had)
    left = run_of(small(keep_in_view=False), "huts · chosen in view", "other order")
    assert (left.mark, left.has) == ("let go as asked", None)
    assert steps_of(left)[-1].endswith("the chosen row is not in view")


@pytest.mark.parametrize(
    ("life", "restored", "width"),
    [
        ("view", "let go as asked", "let go as asked"),
        ("entry", "let go as asked", "kept"),
        ("saved", "kept", "kept"),
    ],
)
def test_6_the_first_row_in_view_lives_as_long_as_its_scroll(
    life: str, restored: str, width: str
) -> None:
    matrix = small(keep=Keep(scroll=life))
    assert run_of(matrix, "huts · first in view", "restored").mark == restored
    assert run_of(matrix, "huts · first in view", "other width").mark == width


def test_groups_above_close_and_what_is_in_view_stays() -> None:
    app: App = stays_app()
    screen = by_id(app.screens, "stays")
    app = put(app, replace(screen, rows=replace(screen.rows, groups_start="open")))
    matrix = matrix_of(WiredApp(app, stays_records(60)))
    run = run_of(matrix, "stays · first in view", "group closed")
    assert run.disturbing[-1] == do.ShowGroup(screen="stays", entry=0, title="Due", open=False)
    assert (run.mark, run.has) == ("kept", run.had)
    assert "group Due is closed" in " ".join(steps_of(run))
    assert run_of(matrix, "stays · groups", "kill").mark == "kept"
    assert run_of(matrix, "stays · groups", "relaunch").mark == "let go as asked"


def test_groups_that_are_closed_at_first_are_opened_to_have_something_to_lose() -> None:
    app = stays_app()
    screen = by_id(app.screens, "stays")
    app = put(app, replace(screen, rows=replace(screen.rows, groups_start="closed")))
    matrix = matrix_of(WiredApp(app, stays_records(60)))
    run = run_of(matrix, "stays · first in view", "restored")
    assert [e.title for e in run.events if isinstance(e, do.ShowGroup)] == ["Due", "Arrived"]
    assert (run.mark, run.has) == ("kept", run.had)
    assert not [each for each in matrix.values() if each.is_broken]


def test_a_list_that_fits_its_window_has_nothing_to_keep() -> None:
    matrix = matrix_of(WiredApp(small_app(), small_records(1)))
    found = {r.mark for (piece, _), r in matrix.items() if piece.name == "huts · first in view"}
    assert found == {"nothing to keep here"}


def test_what_is_in_view_off_display_or_of_no_list_is_nothing() -> None:
    app = WiredApp(small_app(), small_records(9))
    session, _ = start(app, window_of(named("Pocket")))
    assert in_view(app, session, 0, "rooms") is None
    opened, *_ = step(app, session, do.Choose(key="h1"))
    assert in_view(app, opened, 0, "") is None
    assert in_view(app, opened, 7, "") is None
    ended, *_ = step(app, opened, do.Kill())
    assert in_view(app, ended, 0, "") is None


def test_7_a_subtitle_that_goes_keeps_the_first_row_in_view() -> None:
    marks = small(row=Row(title="{name}", subtitle="{note}"), where=(), groups=(), group_by="")
    assert run_of(marks, "huts · first in view", "other heights").mark == "kept"


def named(name: str) -> object:
    from cadena.model.windows import windows_of

    return next(each for each in windows_of(small_app()) if each.name == name)


def test_they_are_told_in_a_table_of_their_own_and_as_json() -> None:
    text = in_words("Cresta", of_demo())
    first, rows = text.split("rows in view")
    assert "turn" in first
    assert "other heights" in rows.splitlines()[0]
    assert "huts · scroll" not in rows
    run = run_of(of_demo(), "huts · first in view", "first gone")
    assert TABLES[table_of(run)][0] == "rows in view"
    made = json.loads(to_json(of_demo()))
    mine = [each for each in made if each["piece"] == "first in view"]
    assert {each["disturbance"] for each in mine} == {each.name for each in CASES}


def test_a_detail_that_lengthens_above_its_list_is_no_loss_of_the_chosen_row() -> None:
    app = with_screen(small_app(), "hut", keep=Keep(scroll="saved"))
    matrix = matrix_of(WiredApp(app, small_records(30)))
    assert not [each for each in matrix.values() if each.is_broken]


@settings(max_examples=examples(40))
@given(apps(), st.sampled_from([6, 30]))
def test_7_rows_in_view_are_lost_by_nothing_but_the_end_of_a_chain(app: App, count: int) -> None:
    """Rules 7.2 and 7.3, on random apps in every window that matters."""
    for run in runs(WiredApp(app, small_records(count))):
        if run.piece.kind in KINDS and run.is_broken:
            lives = {each.keep for each in app.sections}
            assert run.disturbance == "restored", steps_of(run)
            assert lives & {"view", "entry"}


@pytest.mark.parametrize("count", [1, 6, 60])
def test_an_app_of_grids_strips_and_groups_loses_nothing(count: int) -> None:
    matrix = matrix_of(WiredApp(stays_app(), stays_records(count)))
    assert [steps_of(each) for each in matrix.values() if each.is_broken] == []
