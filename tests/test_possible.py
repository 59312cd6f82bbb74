"""What can happen now, and the one search."""

from __future__ import annotations

from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from builders import POCKET, SLATE, Run, with_arrangement
from cadena.engine import events as do
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.app import App
from cadena.model.search import nearest_first
from cadena.runs.possible import possible
from long_form import examples
from stays import stays
from test_engine_late import late
from test_engine_random import EVENTS, RECORDS, apps, assert_sound, small_app


def test_the_nearest_come_first_and_each_key_once() -> None:
    near = {"a": "bc", "b": "ad", "c": "d", "d": "a"}
    assert list(nearest_first("a", lambda node: near[node], str)) == ["a", "b", "c", "d"]
    assert list(nearest_first([1], lambda n: [n + 1, n * 2], lambda n: n % 7)) == [
        1,
        2,
        3,
        4,
        6,
        5,
        7,
    ]
    assert list(nearest_first([], lambda node: near[node], str)) == []


@given(apps(), st.lists(EVENTS, max_size=12), st.lists(st.integers(0, 1000), max_size=8))
@settings(max_examples=examples(120))
def test_what_is_offered_is_refused_by_nothing_but_its_link(
    model: App, events: list[Any], picks: list[int]
) -> None:
    app = WiredApp(model, RECORDS)
    session, _ = start(app, SLATE)
    for event in events:
        session, *_ = step(app, session, event)
    for pick in picks:
        offered = list(possible(app, session))
        assert offered
        for each in offered:
            _, notes, refused = step(app, session, each.event)
            if refused:
                assert each.link is not None, each.event
                assert notes[0].where.startswith(f"links[{each.link.id}]"), notes
        session, *_ = step(app, session, offered[pick % len(offered)].event)
        assert_sound(app, session)


def kinds(run: Run) -> set[str]:
    return {type(each.event).__name__ for each in possible(run.app, run.session)}


def test_forms_offer_what_can_be_typed_and_a_question_its_answers() -> None:
    run = stays()(do.Press(button="new"))
    assert kinds(run) >= {"Type", "Save", "Cancel", "Back"}
    assert "GoTo" not in kinds(run)
    run(do.Type(field="guest", to="Ada"), do.Cancel())
    assert kinds(run) == {"Decide"}


def test_what_is_covered_is_not_offered() -> None:
    run = Run(window=SLATE).choose("h1")(do.Press(button="book"))
    screens = {getattr(each.event, "screen", "") for each in possible(run.app, run.session)}
    assert screens == {""}
    over = Run(with_arrangement(small_app(), "one", over=True), POCKET).choose("h1")
    assert "SlideList" in kinds(over)
    over(do.SlideList())
    screens = {getattr(each.event, "screen", "") for each in possible(over.app, over.session)}
    assert screens == {"", "huts"}
    assert "PressOutside" in kinds(over)


def test_an_app_that_is_not_running_offers_ways_back() -> None:
    run = Run()(do.Kill())
    assert kinds(run) == {"Restore", "Relaunch"}
    assert kinds(run(do.Restore(), do.Sleep())) == {"Wake", "Kill", "Relaunch"}
    assert "Wait" in kinds(late())
    failed = late(fails_one_in=1)(do.Wait(ms=400))
    assert "Retry" in kinds(failed)


def test_rows_can_be_picked_otherwise() -> None:
    run = Run()
    last = [
        each.event.key
        for each in possible(run.app, run.session, lambda listed: [listed.rows.key_at(29)])
        if isinstance(each.event, do.Choose)
    ]
    assert last == ["h29"]
