"""From a detail to the rows beside its own (rules.md, 16)."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from builders import POCKET, SLATE, Run, small_app, with_link, with_screen
from cadena.engine import events as do
from cadena.engine.rules.neighbours import place_of
from cadena.engine.session import Window
from cadena.model.app import App
from cadena.model.source import StandIn
from cadena.runs.possible import possible
from cadena.scene.lay_out import lay_out
from stays import stays, stays_app

NEXT, BEFORE = do.Neighbour(by=1), do.Neighbour(by=-1)


def going(window: Window = POCKET, app: App | None = None, **changed: Any) -> Run:
    return Run(with_screen(app or small_app(), "hut", neighbours=True, **changed), window)


def offered(run: Run) -> list[int]:
    return [e.event.by for e in possible(run.app, run.session) if isinstance(e.event, do.Neighbour)]


def test_16_the_next_and_the_one_before_are_the_rows_beside() -> None:
    run = going().choose("h3")(NEXT)
    assert (run.chain, run.arguments) == (["huts", "hut"], {"hut": "h4"})
    assert run(BEFORE, BEFORE).arguments == {"hut": "h2"}
    assert run(do.Back()).session.entries[0].view.last == {"": "h2"}


def test_16_they_are_those_of_the_list_as_it_now_is() -> None:
    run = going()(do.Search(text="Hut 01", screen="huts")).choose("h19")
    assert offered(run) == [-1]
    assert run(NEXT).refused
    assert run(BEFORE).arguments == {"hut": "h18"}
    assert going().choose("h0")(BEFORE).refused


def test_16_it_says_its_place() -> None:
    run = going().choose("h3")
    said = [box.text for box in lay_out(run.app, run.session, POCKET).boxes]
    assert "4 of 30" in said
    names = [box.name for box in lay_out(run.app, run.session, POCKET).boxes]
    assert {"the one before", "the next"} <= {*names}
    run = going().choose("h29")
    names = [box.name for box in lay_out(run.app, run.session, POCKET).boxes]
    assert "the next" not in names


def test_16_beside_its_list_the_row_is_chosen_and_in_view() -> None:
    run = going(SLATE).choose("h3")
    for _ in range(20):
        run(NEXT)
    assert run.arguments == {"hut": "h23"}
    boxes = lay_out(run.app, run.session, SLATE).boxes
    (row,) = [box for box in boxes if box.kind == "row" and box.key == "h23" and box.entry == 0]
    assert "chosen" in row.state
    assert 0 <= row.y < SLATE.height - row.height


def test_16_what_lay_over_the_detail_goes_as_if_the_row_were_chosen() -> None:
    run = going().choose("h3").choose(6, "hut", "rooms")(do.Back(), NEXT)
    assert run.arguments == {"hut": "h4"}
    modal = with_link(small_app(), "open", how="modal")
    run = going(app=modal).choose("h3")(NEXT)
    assert (run.chain, run.arguments) == (["huts", "hut"], {"hut": "h4"})


def test_16_where_no_row_opened_it_nothing_is_offered() -> None:
    app = with_screen(small_app(), "book", neighbours=True)
    run = Run(app).choose("h3")(do.Press(button="book"))
    assert offered(run) == []
    assert run(NEXT).refused
    run = going().choose("h3")(do.Remove(source="huts", key="h3"))
    assert place_of(run.app, run.session, 1) is None


def test_16_a_screen_that_offers_none_takes_none() -> None:
    run = Run().choose("h3")
    assert run(NEXT).refused
    assert run.said == "a screen that can take this is not on display"


def test_16_a_draft_asks_first() -> None:
    app = with_screen(stays_app(), "stay", neighbours=True)
    run = stays(app, SLATE).choose(0, "stays")(do.Press(button="edit", screen="stay"))
    assert run.chain[-1] == "form"
    run(do.Type(field="guest", to="Ada"))
    assert run(NEXT).refused, "the form covers it"
    assert run(do.Back()).session.question is not None


def test_16_of_a_late_source_the_next_page_is_asked_for_in_time() -> None:
    sources = tuple(
        replace(each, served="stand-in", stand_in=StandIn(page=4, delay=100))
        for each in small_app().sources
    )
    run = going(app=replace(small_app(), sources=sources))
    wait = do.Wait(ms=100)
    for _ in range(8):
        run(wait)
    run.choose("h0")
    for at in range(1, 12):
        run(wait, wait, NEXT)
        assert run.arguments == {"hut": f"h{at}"}, run.said


def test_16_rows_of_a_closed_group_are_passed_over() -> None:
    huts = small_app().screens[0]
    rows = replace(huts.rows, group_by="region", groups_start="open")  # type: ignore[union-attr]
    app = with_screen(small_app(), "huts", rows=rows)
    run = going(app=app).choose("h28")
    assert run(NEXT).arguments == {"hut": "h1"}
    run(BEFORE, do.Back(), do.ShowGroup(title="S", open=False, screen="huts"))
    assert run.choose("h28")(NEXT).refused
