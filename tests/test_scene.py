"""The scene and the board: boxes in dp, by arithmetic."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from builders import (
    DESK,
    POCKET,
    SLATE,
    Run,
    demo,
    session_of,
    small_app,
    small_records,
    with_arrangement,
    with_link,
    with_screen,
)
from cadena.engine import events as do
from cadena.engine.layout.measure import plain_measure
from cadena.engine.session import sized
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.app import AppValue, FromConstant, Parameter, Trigger
from cadena.model.listing import Button, Mark, RemoveRecord
from cadena.model.screen_depths import steps_in, unreached
from cadena.scene.board.board import lay_out_board
from cadena.scene.lay_out import lay_out
from cadena.scene.scene import Box, Scene


def scene_of(run: Run) -> Scene:
    return lay_out(run.app, run.session, run.session.window)


def texts(scene: Scene, kind: str) -> list[str]:
    return [box.text for box in scene.boxes if box.kind == kind]


def test_a_list_shows_the_rows_in_view_and_no_others() -> None:
    scene = scene_of(Run())
    rows = [box for box in scene.boxes if box.kind == "row"]
    assert [box.key for box in rows][:3] == ["h0", "h1", "h2"]
    assert len(rows) < 15
    assert texts(scene, "title") == ["Huts"]
    assert texts(scene, "section") == ["Huts", "Again"]
    assert all(box.clip is not None for box in rows)


def test_what_is_under_a_point_does_what_it_says() -> None:
    run = Run()
    scene = scene_of(run)
    row = next(box for box in scene.boxes if box.key == "h2")
    found = scene.at(row.x + 100, row.y + 10)
    assert found == row
    assert found.does == do.Choose(screen="huts", entry=0, key="h2")
    run(found.does)
    assert run.chain == ["huts", "hut"]
    scene = scene_of(run)
    assert texts(scene, "back") == ["Huts"]
    button = next(box for box in scene.boxes if box.kind == "button")
    assert scene.at(button.x + 5, button.y + 5) == button


def test_rows_scrolled_under_the_bar_cannot_be_pressed() -> None:
    run = Run()(do.Scroll(by=30.0))
    scene = scene_of(run)
    row = next(box for box in scene.boxes if box.kind == "row")
    assert row.y < row.clip.y  # type: ignore[union-attr]
    under = scene.at(row.x + 100, row.y + 2)
    assert under is None or under.kind != "row"


def test_2_5_under_a_layer_nothing_can_be_pressed() -> None:
    run = Run(window=SLATE).choose("h1")(do.Press(button="book"))
    scene = scene_of(run)
    assert scene.at(100, 200) is None
    run(do.Back(), do.Press(button="ask"))
    outside = scene_of(run).at(100, 200)
    assert outside is not None
    assert outside.does == do.PressOutside()


def test_every_pane_has_its_place() -> None:
    run = Run(window=SLATE).choose("h1")
    screens = [box for box in scene_of(run).boxes if box.kind == "screen"]
    assert [(box.x, box.width) for box in screens] == [(0, 260), (260, 560)]
    chosen = [box for box in scene_of(run).boxes if box.kind == "row" and "chosen" in box.state]
    assert [box.key for box in chosen] == ["h1"]
    assert texts(scene_of(Run(window=SLATE)), "nothing chosen") == ["Nothing chosen"]


def test_an_app_that_is_not_running_says_so_and_offers_a_way_back() -> None:
    run = Run()(do.Kill())
    assert texts(scene_of(run), "button") == ["Restore", "Relaunch cold"]
    assert texts(scene_of(Run()(do.Back())), "button") == ["Come back", "Relaunch cold"]
    assert texts(scene_of(Run()(do.Sleep())), "asleep") == ["asleep"]


def test_empty_and_not_found_say_different_things() -> None:
    assert texts(scene_of(Run(count=1)(do.Remove(source="huts", key="h0"))), "words") == [
        "No huts."
    ]
    assert texts(scene_of(Run()(do.Search(text="zzz"))), "words") == ['Nothing found for "zzz".']


def test_a_limit_says_shown_found_and_all() -> None:
    rows = replace(small_app().screens[0].rows, limit=3)  # type: ignore[union-attr]
    scene = scene_of(Run(with_screen(small_app(), "huts", rows=rows)))
    assert texts(scene, "footer") == ["3 shown, 30 found, 30 in all"]


def test_a_button_without_a_link_looks_unlinked() -> None:
    scene = scene_of(Run(small_app(links=small_app().links[:1])).choose("h1"))
    assert all("unlinked" in box.state for box in scene.boxes if box.kind == "button")


def test_a_screen_never_asks_how_wide_the_window_is() -> None:
    """The same pane in windows of two widths holds the same boxes."""
    app = replace(small_app(), arrangements=(replace(small_app().arrangements[1], bar="none"),))
    scenes = [scene_of(Run(app, sized(width, 700))) for width in (700, 1100)]
    lists = [[box for box in scene.boxes if box.kind == "row"] for scene in scenes]
    assert lists[0] == lists[1]


@pytest.mark.parametrize(
    "window", [POCKET, SLATE, DESK, sized(198, 242), sized(60, 60), sized(3000, 90)]
)
@pytest.mark.parametrize("name", ["cresta", "cresta-broken"])
def test_any_window_can_be_laid_out(window: object, name: str) -> None:
    app = demo(name)
    session = session_of(window, app)  # type: ignore[arg-type]
    for event in (
        do.Choose(key="mor"),
        do.Press(button="ask"),
        do.Back(),
        do.GoTo(section="routes"),
        do.GoTo(section="maps"),
    ):
        session, *_ = step(app, session, event)
        scene = lay_out(app, session, session.window)
        for box in scene.boxes:
            assert isinstance(box, Box)
            assert box.width >= 0
            assert box.height >= 0


@given(st.text(max_size=300), st.floats(20, 600))
def test_running_text_is_broken_and_nothing_is_lost(text: str, width: float) -> None:
    lines = plain_measure(text, 15, False, width)
    assert len(lines) >= 1
    assert "".join(lines).replace(" ", "") == text.replace("\n", "").replace(" ", "")


def test_the_board_has_columns_by_steps_in() -> None:
    app = demo()
    board = lay_out_board(app, session_of(POCKET, app), "huts")
    columns = {card.screen.id: card.column for card in board.cards}
    two_in = {"room": 2, "warden": 2, "route": 2, "stay-form": 2}
    assert columns == {"huts": 0, "hut": 1, **two_in, "stay": 3, "choose-hut": 3}
    heads = ["START", "ONE STEP IN", "TWO STEPS IN", "THREE STEPS IN"]
    assert [head for head, _ in board.columns] == heads
    for card in board.cards:
        assert card.inside.boxes
        for other in board.cards:
            if card is not other and card.column == other.column:
                assert (
                    card.area.y + card.area.height <= other.area.y
                    or other.area.y + other.area.height <= card.area.y
                )


def test_ribbons_lead_from_ports_to_sockets() -> None:
    app = demo()
    board = lay_out_board(app, session_of(POCKET, app), "huts")
    ribbon = next(each for each in board.ribbons if each.link.id == "huts-to-hut")
    hut = board.card("hut")
    assert hut is not None
    assert ribbon.end == (hut.area.x, hut.sockets[0].y)
    assert ribbon.label == "id → hut"
    found = board.port(Trigger(screen="huts"))
    assert found is not None
    assert ribbon.start[1] == found[1].y
    back = next(each for each in board.ribbons if each.link.id == "route-to-hut")
    assert back.lane is not None
    assert back.lane > max(card.area.y + card.area.height for card in board.cards)


def test_the_path_that_is_open_is_lit() -> None:
    run = Run().choose("h4")
    board = lay_out_board(run.app, run.session, "huts")
    assert [card.screen.id for card in board.cards if card.sample.lit] == ["huts", "hut"]
    assert [each.link.id for each in board.ribbons if each.lit] == ["open"]
    assert board.card("hut").sample.entry.arguments == {"hut": "h4"}  # type: ignore[union-attr]


def test_a_broken_link_is_seen_on_the_board() -> None:
    app = with_link(small_app(), "open", arguments=())
    app = with_link(app, "room", arguments=(FromConstant(parameter="room", constant="x"),))
    app = with_link(app, "book", to="gone")
    wired = WiredApp(app, small_records())
    board = lay_out_board(wired, start(wired, POCKET)[0], "huts")
    broken = {each.link.id: each.label for each in board.ribbons if each.broken}
    assert broken == {"open": "nothing", "room": "x → room", "book": "no gone"}


def test_strands_fan_out_one_for_each_argument() -> None:
    parameters = (*small_app().screens[1].parameters, Parameter(name="tone", need="none"))
    app = with_screen(small_app(), "hut", parameters=parameters)
    more = (*app.links[0].arguments, FromConstant(parameter="tone", constant="calm"))
    wired = WiredApp(with_link(app, "open", arguments=more), small_records())
    ribbon = lay_out_board(wired, start(wired, POCKET)[0], "huts").ribbons[0]
    assert [each.label for each in ribbon.strands] == ["id → hut", "calm → tone"]
    assert ribbon.label == "id → hut +1"


def test_screens_that_nothing_leads_to_stand_apart() -> None:
    app = small_app(links=small_app().links[:1])
    assert steps_in(app, "huts") == {"huts": 0, "hut": 1}
    assert unreached(app) == ("room", "book")
    wired = WiredApp(app, small_records())
    board = lay_out_board(wired, start(wired, POCKET)[0], "huts")
    assert board.columns[-1][0] == "NOT REACHED"
    assert steps_in(app, "nowhere") == {}


def test_a_title_too_long_for_the_middle_takes_the_room_that_is_free() -> None:
    wide = {}
    for title in ("Short", "Engine service log of the year"):
        wired = WiredApp(with_screen(small_app(), "hut", title=title), small_records())
        session, *_ = step(wired, start(wired, POCKET)[0], do.Choose(key="h1"))
        boxes = lay_out(wired, session, POCKET).boxes
        (box,) = [each for each in boxes if each.kind == "title centred"]
        wide[box.text] = box.width
    assert wide["Engine service log of the year"] > wide["Short"]


def test_3_3_a_list_over_the_detail_has_a_control_that_slides_it() -> None:
    run = Run(with_arrangement(small_app(), "one", over=True)).choose("h1")
    (slide,) = [box for box in scene_of(run).boxes if box.kind == "slide"]
    assert slide.name == "Show the list"
    assert slide.does is not None
    scene = scene_of(run(slide.does))
    assert run.session.slid
    assert not [box for box in scene.boxes if box.kind == "slide"]
    assert not [box for box in scene_of(Run().choose("h1")).boxes if box.kind == "slide"]


@pytest.mark.parametrize("layout", ["grid", "strip"])
@pytest.mark.parametrize("picture", ["", "picture"])
def test_the_actions_of_a_row_are_offered_on_tiles_as_well(layout: Any, picture: str) -> None:
    rows = small_app().screens[0].rows
    made = replace(rows, layout=layout, row=replace(rows.row, picture=picture))
    marks = (
        Button(id="keep", label="Keep", does=Mark(value="kept"), on_row=True),
        Button(id="drop", label="Drop", does=RemoveRecord()),
    )
    app = with_screen(small_app(), "huts", rows=replace(made, actions=marks))
    run = Run(replace(app, values=(AppValue(id="kept", type="list of text"),)))
    more = [box for box in scene_of(run).boxes if box.kind == "more"]
    assert [box.key for box in more][:2] == ["h0", "h1"]
    opens = more[1].does
    assert opens is not None
    assert texts(scene_of(run(opens)), "menu item") == ["Keep", "Drop"]
    assert run(do.Act(screen="huts", key="h1", action="keep")).session.values == {"kept": ("h1",)}
