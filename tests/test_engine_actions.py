"""Row actions, buttons that do something, marks, groups, pages, grids and strips."""

from __future__ import annotations

from typing import Any

import pytest
from msgspec.structs import replace

from builders import POCKET, SLATE, Run, small_app, with_screen
from cadena.engine import events as do
from cadena.engine.layout.column import column_of
from cadena.engine.rules.back import back_label
from cadena.engine.rules.lists import across_of, chosen_row
from cadena.engine.session import Window, sized
from cadena.engine.step import step
from cadena.model.app import AppValue, FromArgument, FromValue, Link, Trigger
from cadena.model.blocks import HeadingBlock, PageBlock
from cadena.scene.lay_out import lay_out
from stays import stays, stays_app

BOTH = pytest.mark.parametrize("window", [POCKET, SLATE], ids=["pocket", "slate"])


def texts(run: Run, kind: str) -> list[str]:
    scene = lay_out(run.app, run.session, run.session.window)
    return [box.text for box in scene.boxes if box.kind == kind]


def keys(run: Run, part: str = "", index: int = 0) -> list[Any]:
    listed = run.app.listed(run.session, run.session.entries[index], part)
    assert listed is not None
    return [listed.rows.key_at(at) for at in range(len(listed.rows))]


@BOTH
def test_7_6_a_row_that_moves_to_another_group_stays_chosen(window: Window) -> None:
    run = stays(window=window).choose(0, "stays")
    assert keys(run) == [0, 1, 3, 4, 2, 5]
    if window is SLATE:
        run(do.Act(key=0, action="arrive"))
    else:
        run(do.Edit(source="stays", key=0, fields={"arrived": True}))
    assert keys(run) == [1, 3, 4, 0, 2, 5]
    row = chosen_row(run.session, 0)
    assert row is not None
    assert row.key == 0


def test_groups_stand_under_their_titles_and_rows_keep_their_places() -> None:
    run = stays()
    assert texts(run, "group") == ["Due", "Arrived"]
    column = column_of(run.app, run.session, run.session.entries[0], 360)
    rows = column.rows("")
    assert rows is not None
    assert rows.stack is not None
    # Four due rows under a title of 36 dp, then two more under another.
    assert [rows.stack.top(at) for at in range(7)] == [0, 84, 132, 180, 228, 312, 360]
    assert [rows.stack.at(y) for y in (0, 83, 84, 300, 359)] == [0, 0, 1, 4, 5]


@BOTH
def test_removing_asks_and_can_be_undone(window: Window) -> None:
    run = stays(window=window)(do.Act(key=1, action="remove"))
    assert run.session.question is not None
    assert run.session.question.text == "Remove Guest 1?"
    assert run(do.Decide(yes=False)).session.changes == {}
    run(do.Act(key=1, action="remove"), do.Decide(yes=True))
    assert 1 not in keys(run)
    assert texts(run, "removed") == ["Guest 1 removed"]
    run(do.Undo())
    assert keys(run) == [0, 1, 3, 4, 2, 5]
    assert run(do.Undo()).kinds == ["refused"]


def test_what_is_removed_for_good_offers_no_way_back() -> None:
    run = stays()(do.Act(key=1, action="drop"))
    assert run.session.removal is None
    assert 1 not in keys(run)


@BOTH
def test_removed_from_its_own_detail_the_detail_closes(window: Window) -> None:
    run = stays(window=window).choose(1, "stays")(do.Press(button="gone"))
    assert run.chain == ["stays"]
    assert run(do.Undo()).kinds[0] == "put back"


def test_marks_are_shared_by_sections() -> None:
    run = stays()(do.Act(key=0, action="star"), do.Act(key=4, action="star"))
    assert run.session.values == {"marks": (0, 4)}
    run(do.GoTo(section="marked"))
    assert keys(run) == [0, 4]
    run(do.GoTo(section="stays"), do.Act(key=0, action="star"), do.GoTo(section="marked"))
    assert keys(run) == [4]
    assert run(do.Kill(), do.Restore()).session.values == {"marks": (4,)}


def test_a_chosen_record_is_shared_by_sections() -> None:
    app = small_app()
    opens = replace(app.links[0], sets={"current": "hut"})
    here = Link(
        id="here",
        trigger=Trigger(screen="hut", on="button", part="ask"),
        to="book",
        arguments=(FromValue(parameter="hut", value="current"),),
    )
    app = replace(app, values=(AppValue(id="current"),), links=(opens, *app.links[1:3], here))
    run = Run(app).choose("h3")
    assert run.session.values == {"current": "h3"}
    run(do.GoTo(section="again")).choose("h5")(do.GoTo(section="huts"), do.Press(button="ask"))
    assert run.arguments == {"hut": "h5"}


def test_the_menu_of_a_row_closes_with_whatever_is_done_next() -> None:
    run = stays()(do.OpenMenu(key=1))
    assert texts(run, "menu item") == ["Change", "Remove", "Drop", "Mark"]
    assert len(texts(run(do.Wait(ms=10)), "menu item")) == 4
    assert texts(run(do.Scroll(by=0)), "menu item") == []


@pytest.mark.parametrize("closes", [do.Back(), do.PressOutside(), do.CloseMenu()])
def test_an_open_menu_closes_first_and_nothing_else_happens(closes: do.Event) -> None:
    """Rule 4.0."""
    run = stays()
    before = run.session
    run(do.OpenMenu(key=1), closes)
    assert run.session == replace(before, focus=run.session.focus)
    assert run.session.phase == "running"
    assert run(do.Back()).session.phase == "left"


def test_what_back_says_is_told_as_if_no_menu_were_open() -> None:
    """Rule 4.0."""
    run = Run(small_app(), POCKET).choose("h1")
    said = back_label(run.app, run.session)
    opened = replace(run.session, sections_open=True)
    assert said == back_label(run.app, opened) == "Huts"
    assert step(run.app, opened, do.Back()).session == run.session


def test_rows_are_handed_out_with_a_note() -> None:
    run = stays()(do.Press(button="csv"))
    assert run.kinds == ["handed out"]
    assert "6 rows of stays as CSV" in run.said


@BOTH
def test_7_5_a_grid_fills_the_width_and_arrows_go_along_it(window: Window) -> None:
    run = stays(window=window)(do.GoTo(section="tiles"))
    entry = run.session.entries[0]
    stack = run.app.listed(run.session, entry, "").stack(window.width)  # type: ignore[union-attr]
    columns = 2 if window is POCKET else 4
    assert stack.columns == columns
    places = [stack.place(at, window.width) for at in range(columns)]
    assert places[-1].x + places[-1].width == pytest.approx(window.width - 12)
    assert len({place.y for place in places}) == 1
    run(do.Move(to="right", list=""), do.Move(to="right", list=""), do.Move(to="down", list=""))
    marked = run.session.entries[0].view.marker[""]
    assert marked == (3 if columns == 2 else 5)


def test_7_5_choosing_in_a_strip_filters_the_list_below() -> None:
    run = stays()(do.GoTo(section="tiles"), do.Choose(key="h2", list="pick"))
    assert run.chain == ["tiles"]
    assert keys(run) == [2]
    run(do.Choose(key="h2", list="pick"))
    assert keys(run) == [0, 1, 2, 3, 4, 5]
    run(do.Choose(key="h7", list="pick"))
    assert texts(run, "words") == ["No stays."]
    assert run(do.Kill(), do.Restore()).session.entries[0].view.choice == {"pick": "h7"}


def test_7_2_a_strip_is_scrolled_by_its_own_anchor() -> None:
    run = stays()(do.GoTo(section="tiles"), do.Scroll(list="pick", by=250.0))
    assert across_of(run.app, run.session, 0, 360, "pick") == 250
    anchor = run.session.entries[0].view.across["pick"]
    assert (anchor.key, anchor.above) == ("h2", 26)
    run(do.Remove(source="huts", key="h0"))
    assert across_of(run.app, run.session, 0, 360, "pick") == 250 - 112


def test_7_3_after_a_refresh_a_strip_brings_its_chosen_tile_into_view() -> None:
    run = stays()(do.GoTo(section="tiles"), do.Choose(key="h5", list="pick"))
    run(do.Scroll(list="pick", by=10.0), do.Scroll(list="pick", row="h4"))
    run(do.Scroll(list="pick", by=10.0))
    run(do.Refresh(source="huts", gone=("h4",)))
    assert across_of(run.app, run.session, 0, 360, "pick") == 4 * 112
    run(do.Refresh(source="rooms"))
    assert across_of(run.app, run.session, 0, 360, "pick") == 4 * 112


def test_a_page_is_scrolled_as_it_was_left() -> None:
    many = tuple(HeadingBlock(id=f"b{n}", text="{name}") for n in range(40))
    blocks = (PageBlock(id="one", title="One"), *many, PageBlock(id="two", title="Two"), *many[:1])
    app = with_screen(small_app(), "hut", blocks=blocks)
    run = Run(app).choose("h1")(do.Scroll(by=300.0))
    before = run.session.entries[1].view.scroll
    run(do.TurnPage(to="two"))
    assert run.session.entries[1].view.scroll is None
    assert texts(run, "page") == ["One", "Two"]
    run(do.TurnPage(to="one"))
    assert run.session.entries[1].view.scroll == before
    assert run(do.TurnPage(to="three")).kinds == ["refused"]


def test_what_stands_out_has_a_sign_a_word_and_a_colour() -> None:
    run = stays()
    scene = lay_out(run.app, run.session, run.session.window)
    badges = {box.text: box.state for box in scene.boxes if box.kind == "badge"}
    assert "warning" in badges["! 6 nights"]
    assert "warning" not in badges["5 nights"]
    names = [box.name for box in scene.boxes if box.kind == "row"]
    assert "Guest 5, ! 6 nights, long" in names
    run.choose(5, "stays")
    facts = [box for box in lay_out(run.app, run.session, POCKET).boxes if box.kind == "in place"]
    assert facts[0].state == {"warning"}
    assert "long" in facts[0].name


def test_a_field_is_changed_in_place_and_shows_everywhere() -> None:
    run = stays(window=SLATE).choose(1, "stays")
    run(do.Edit(source="stays", key=1, fields={"nights": 9}))
    assert "! 9 nights" in texts(run, "badge")


def test_an_action_link_carries_the_rows_own_fields() -> None:
    app = stays_app()
    link = next(each for each in app.links if each.id == "change")
    wrong = replace(link, arguments=(FromArgument(parameter="stay", argument="none"),))
    app = replace(app, links=tuple(wrong if e.id == "change" else e for e in app.links))
    run = stays(app, sized(360, 780))(do.Act(key=3, action="change"))
    assert run.arguments == {}
