"""Lists, and records that change under you (rules.md, 7 and 8)."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from builders import POCKET, SLATE, Run, small_app, small_records, with_screen
from cadena.check.check import read_through
from cadena.engine import events as do
from cadena.engine.layout.column import column_of
from cadena.engine.rules.display import display_of
from cadena.engine.rules.lists import chosen_row, offset_of, view_of
from cadena.engine.session import sized
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.app import ListScreen
from cadena.model.listing import Order, Sort
from cadena.records.changes import Change
from cadena.scene.lay_out import lay_out
from cadena.scene.scene import Box


def top(run: Run, index: int = 0) -> tuple[object, float]:
    """The first row in view of an entry, and how much of it is above the edge."""
    area = display_of(run.app, run.session).area_of(index)
    assert area is not None
    entry = run.session.entries[index]
    column = column_of(run.app, run.session, entry, area.width)
    first = column.first_in_view(offset_of(run.app, run.session, index, area, column))
    assert first is not None
    return first.key, first.above


def is_wholly_visible(run: Run, key: str, index: int = 0) -> bool:
    area = display_of(run.app, run.session).area_of(index)
    assert area is not None
    entry = run.session.entries[index]
    column = column_of(run.app, run.session, entry, area.width)
    offset = offset_of(run.app, run.session, index, area, column)
    extent = column.extent_of("", key)
    height = view_of(run.app, entry, area)[1]
    return extent is not None and offset - 1e-6 <= extent[0] and extent[1] <= offset + height + 1e-6


def test_rows_have_heights_by_their_template() -> None:
    run = Run()
    listed = run.app.listed(run.session, run.session.entries[0], "")
    assert listed is not None
    assert [listed.stack(360).height(n) for n in range(4)] == [48, 64, 64, 48]
    assert listed.stack(360).total == sum(48 if n % 3 == 0 else 64 for n in range(30))
    assert [listed.stack(360).at(y) for y in (-5, 0, 47.9, 48, 1e9)] == [0, 0, 0, 1, 29]


def test_7_2_scroll_is_an_anchor_and_is_restored_in_any_order() -> None:
    run = Run()(do.Scroll(row="h10"), do.Scroll(by=20.0))
    assert top(run) == ("h10", 20)
    run(do.SortBy(by=(Sort(field="name", descending=True),)))
    assert top(run) == ("h10", 20)
    run(do.SortBy(by=()))
    assert top(run) == ("h10", 20)


def test_7_2_in_a_window_of_another_size_the_same_row_is_first() -> None:
    run = Run()(do.Scroll(row="h10"))
    run.resize(sized(340, 500))
    assert top(run) == ("h10", 0)
    run.resize(POCKET)
    assert top(run) == ("h10", 0)


def test_7_2_a_row_that_is_gone_leaves_its_index() -> None:
    run = Run()(do.Scroll(row="h10"), do.Remove(source="huts", key="h10"))
    assert top(run) == ("h11", 0)


def test_7_2_never_beyond_what_there_is() -> None:
    run = Run()(do.Scroll(to=1e9))
    assert top(run)[0] != "h29"
    assert is_wholly_visible(run, "h29")
    run(do.Scroll(by=-1e9))
    assert top(run) == ("h0", 0)
    run = Run(count=2)(do.Scroll(by=500.0))
    assert top(run) == ("h0", 0)


def test_7_3_a_resize_shows_the_chosen_row_by_the_least() -> None:
    run = Run(window=SLATE).choose("h15")
    assert is_wholly_visible(run, "h15")
    run.resize(sized(820, 400))
    assert is_wholly_visible(run, "h15")
    run.resize(SLATE)
    assert top(run) == ("h0", 0)


def test_7_3_a_scroll_by_hand_is_left_alone_until_the_view_changes() -> None:
    run = Run(window=sized(820, 400)).choose("h1")(do.Scroll(screen="huts", by=700.0))
    assert not is_wholly_visible(run, "h1")
    before = top(run)
    run(do.Kill(), do.Restore())
    assert top(run) == before
    run(do.SortBy(screen="huts", by=(Sort(field="name"),)))
    assert is_wholly_visible(run, "h1")


def test_7_3_a_list_may_leave_its_chosen_row_be() -> None:
    rows = replace(small_app().screens[0].rows, keep_in_view=False)  # type: ignore[union-attr]
    run = Run(with_screen(small_app(), "huts", rows=rows), sized(820, 800)).choose("h12")
    run(do.Scroll(screen="huts", to=0.0)).resize(sized(820, 400))
    assert not is_wholly_visible(run, "h12")


def test_7_3_a_search_starts_at_the_top_unless_the_chosen_row_is_found() -> None:
    run = Run(window=sized(820, 400))(
        do.Scroll(screen="huts", by=500.0), do.Search(screen="huts", text="s")
    )
    assert top(run)[1] == 0
    run = Run(window=sized(820, 400)).choose("h25")(do.Search(screen="huts", text="hut"))
    assert is_wholly_visible(run, "h25")


def test_7_4_up_and_down_choose_the_neighbour_beside_a_detail() -> None:
    run = Run(window=SLATE).choose("h3")(do.Move(to="down", screen="huts"))
    assert run.arguments == {"hut": "h4"}
    run(do.Move(to="up", screen="huts"), do.Move(to="up", screen="huts"))
    assert run.arguments == {"hut": "h2"}
    run(do.Move(to="end", screen="huts"))
    assert run.arguments == {"hut": "h29"}
    assert is_wholly_visible(run, "h29")
    run(do.Move(to="home", screen="huts"))
    assert is_wholly_visible(run, "h0")


def test_7_4_and_only_move_the_marker_where_there_is_none() -> None:
    run = Run()(do.Move(to="down"), do.Move(to="down"))
    assert run.chain == ["huts"]
    assert run.session.entries[0].view.marker == {"": "h1"}
    run(do.Enter())
    assert run.arguments == {"hut": "h1"}
    run(do.Back(), do.Move(to="down"))
    assert run.session.entries[0].view.marker == {"": "h2"}


def test_7_4_pages_move_by_what_is_in_view() -> None:
    run = Run()(do.Move(to="home"), do.Move(to="page down"))
    first = run.session.entries[0].view.marker[""]
    assert is_wholly_visible(run, str(first))
    assert 5 < int(str(first)[1:]) < 13
    run(do.Move(to="page up"))
    assert run.session.entries[0].view.marker == {"": "h0"}
    assert Run()(do.Enter()).kinds == ["refused"]
    assert Run()(do.Search(text="zzz"), do.Move(to="down")).kinds == ["refused"]


def test_search_and_sort_need_something_to_work_on() -> None:
    run = Run().choose("h1")
    assert run(do.Search(screen="hut", list="rooms", text="x")).kinds == ["refused"]
    assert Run()(do.SortBy(by=(Sort(field="colour"),))).kinds == ["refused"]
    assert Run()(do.Scroll()).kinds == ["refused"]
    assert Run()(do.Scroll(row="zz")).kinds == ["refused"]


def test_a_detail_scrolls_by_its_blocks_and_nested_rows() -> None:
    run = Run(window=sized(360, 260)).choose("h1")(do.Scroll(by=30.0))
    anchor = run.session.entries[1].view.scroll
    assert anchor is not None
    assert anchor.key is None
    run(do.Scroll(row=2, list="rooms"))
    assert run.session.entries[1].view.scroll is not None
    assert run.session.entries[1].view.scroll.part in ("rooms", "do")


def test_a_nested_list_shows_its_chosen_row() -> None:
    from builders import with_link

    run = Run(with_link(small_app(), "room", how="beside"), sized(820, 300)).choose("h1")
    run.choose(3, "hut", "rooms")
    assert chosen_row(run.session, 1).key == 3  # type: ignore[union-attr]


def test_8_a_change_shows_everywhere_at_once() -> None:
    run = Run(window=SLATE).choose("h1")(do.Edit(source="huts", key="h1", fields={"name": "Zeta"}))
    assert run.app.title_of(run.session, run.session.entries[1]) == "Zeta"
    listed = run.app.listed(run.session, run.session.entries[0], "")
    assert listed is not None
    assert listed.rows.index_of("h1") == 29
    assert chosen_row(run.session, 0).key == "h1"  # type: ignore[union-attr]


@pytest.mark.parametrize(
    ("when_gone", "chain", "arguments"),
    [
        ("say so", ["huts", "hut", "room"], {"room": 8}),
        ("close", ["huts"], {}),
        ("next", ["huts", "hut"], {"hut": "h5"}),
    ],
)
def test_8_when_the_record_is_gone(when_gone: str, chain: list[str], arguments: dict) -> None:
    run = (
        Run(with_screen(small_app(), "hut", when_gone=when_gone))
        .choose("h4")
        .choose(8, "hut", "rooms")
    )
    run(do.Refresh(source="huts", gone=("h4",)))
    assert run.chain == chain
    assert run.arguments == arguments
    if when_gone == "next":
        assert chosen_row(run.session, 0).key == "h5"  # type: ignore[union-attr]


def test_8_next_is_the_one_before_at_the_end_and_closed_where_there_is_none() -> None:
    app = with_screen(small_app(), "hut", when_gone="next")
    run = Run(app).choose("h29")(do.Remove(source="huts", key="h29"))
    assert run.arguments == {"hut": "h28"}
    run = Run(app, count=1).choose("h0")(do.Remove(source="huts", key="h0"))
    assert run.chain == ["huts"]


def test_8_a_refresh_brings_changed_moved_and_new_records() -> None:
    run = Run()(do.Scroll(row="h10"))
    run(
        do.Refresh(
            source="huts",
            changed=(Change("h0", {"name": "Zz"}),),
            added=({"id": "new", "name": "Aa"}, {"name": "no key"}, {"id": 7}),
        )
    )
    assert top(run) == ("h10", 0)
    listed = run.app.listed(run.session, run.session.entries[0], "")
    assert listed is not None
    assert listed.rows.index_of("new") == 0
    assert listed.rows.index_of("h0") == 30


@pytest.mark.parametrize(
    "event",
    [
        do.Remove(source="huts", key="zz"),
        do.Remove(source="gone", key="h1"),
        do.Refresh(source="gone"),
        do.Edit(source="huts", key="h1", fields={"colour": "red"}),
        do.Edit(source="huts", key="h1", fields={"id": "h2"}),
        do.Edit(source="huts", key="h1", fields={"name": 3}),
    ],
)
def test_8_what_is_not_there_cannot_change(event: do.Event) -> None:
    run = Run()
    before = run.session
    assert run(event).kinds == ["refused"]
    assert run.session is before


def test_7_7_orders_are_offered_in_a_menu_taken_and_live_as_the_sort_does() -> None:
    app = small_app()
    huts = app.screens[0]
    assert isinstance(huts, ListScreen)
    orders = (Order(name="Last first", sort=(Sort(field="name", descending=True),)),)
    huts = replace(huts, rows=replace(huts.rows, orders=orders))
    wired = WiredApp(replace(app, screens=(huts, *app.screens[1:])), small_records())
    session, _ = start(wired, sized(360, 780))

    def buttons(text: str) -> list[Box]:
        return [b for b in lay_out(wired, session, session.window).boxes if b.text.startswith(text)]

    (button,) = buttons("Usual")
    assert button.does is not None
    session, *_ = step(wired, session, button.does)
    (item,) = buttons("Last first")
    assert item.does is not None
    session, *_ = step(wired, session, item.does)
    assert session.menu is None
    assert buttons("Last first")
    listed = wired.listed(session, session.entries[0], "")
    assert listed is not None
    assert listed.rows.key_at(0) == "h29"
    assert [e for e in read_through(wired.app, small_records()) if e.weight == "breaks"] == []
    _, notes, refused = step(wired, session, do.OpenMenu(screen="huts", list="", key=None))
    assert not refused, notes
