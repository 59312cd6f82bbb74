"""What a press on a row does (rules.md, 7.8)."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from builders import POCKET, SLATE, Run, small_app, with_screen
from cadena.engine import events as do
from cadena.model.app import App, AppValue
from cadena.model.listing import Mark, SetValue, TakeMarker
from cadena.runs.possible import possible
from cadena.scene.lay_out import lay_out

VALUES = (
    AppValue(id="own", shown_on="huts"),
    AppValue(id="kept", type="list of text", shown_on="huts"),
    AppValue(id="count", type="whole number"),
)


def pressing(press: Any, window: Any = POCKET) -> Run:
    app: App = replace(small_app(), values=VALUES)
    rows = next(e for e in app.screens if e.id == "huts").rows  # type: ignore[union-attr]
    return Run(with_screen(app, "huts", rows=replace(rows, press=press)), window)


def held(run: Run) -> list[Any]:
    boxes = lay_out(run.app, run.session, run.session.window).boxes
    return [box.key for box in boxes if box.kind == "held"]


def test_7_8_a_press_sets_an_app_wide_value_to_the_rows_key() -> None:
    run = pressing(SetValue(value="own")).choose("h2")
    assert (run.session.values["own"], run.chain) == ("h2", ["huts"])
    assert run.choose("h3").session.values["own"] == "h3"
    assert held(run) == ["h3"]


def test_7_8_a_press_marks_the_row_and_takes_it_out_again() -> None:
    run = pressing(Mark(value="kept")).choose("h2").choose("h0")
    assert run.session.values["kept"] == ("h2", "h0")
    assert held(run) == ["h0", "h2"]
    assert run.choose("h2").session.values["kept"] == ("h0",)


def test_7_8_a_press_only_takes_the_marker() -> None:
    run = pressing(TakeMarker(), SLATE).choose("h2")
    assert (run.chain, run.session.entries[0].view.marker) == (["huts"], {"": "h2"})
    assert run(do.Move(to="down")).session.entries[0].view.marker == {"": "h3"}
    assert run.chain == ["huts"]


def test_7_8_what_does_not_fit_is_refused() -> None:
    assert pressing(SetValue(value="count")).choose("h2").refused
    assert pressing(SetValue(value="nowhere")).choose("h2").refused
    assert pressing(Mark(value="own")).choose("h2").refused


def test_7_8_rows_of_every_list_of_that_source_show_what_is_held() -> None:
    run = pressing(SetValue(value="own")).choose("h1")(do.GoTo(section="again"))
    assert held(run) == ["h1"]
    (row,) = [b for b in lay_out(run.app, run.session, POCKET).boxes
              if b.kind == "row" and "held" in b.state]  # fmt: skip
    assert row.name.endswith(", chosen")


def test_7_8_what_a_press_does_is_offered_and_follows_no_link() -> None:
    run = pressing(SetValue(value="own"))
    offered = [each for each in possible(run.app, run.session) if isinstance(each.event, do.Choose)]
    assert offered
    assert {each.link for each in offered} == {None}
