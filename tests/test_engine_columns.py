"""A list in columns: what has room, heads that stay in view and take an order (rules.md, 7.5)."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from builders import POCKET, Run, small_app, small_records, with_screen
from cadena.check.check import check
from cadena.check.mend import mended
from cadena.engine import events as do
from cadena.engine.layout.sizes import COLUMN_GAP, EDGE, HEADS, HIDDEN, ONE_LINE
from cadena.engine.layout.table_columns import columns_shown, widths
from cadena.engine.session import Window, sized
from cadena.engine.step import start
from cadena.engine.wired import WiredApp
from cadena.model.app import App, Keep
from cadena.model.edits.renaming import with_field_renamed
from cadena.model.listing import Button as Act
from cadena.model.listing import ForSeveral, Listing, RemoveRecord, Row, Sort, TableColumn
from cadena.runs.keep.matrix import matrix_of
from cadena.runs.possible import possible
from cadena.runs.walks.trace import trace_line
from cadena.scene.lay_out import lay_out
from cadena.scene.scene import Box
from kit_traces import kit_differs, needs_node
from long_form import examples
from test_engine_references import sources

COLUMNS = (
    TableColumn(shows="name", least=120, share=2),
    TableColumn(shows="{region} ({note})", head="Where", least=100),
    TableColumn(shows="id", least=80, side="end"),
    TableColumn(shows="note", least=90),
)
LEAST = sum(each.least for each in COLUMNS) + 3 * COLUMN_GAP + 2 * EDGE
WIDE = sized(LEAST + 40, 600)
FOUR, THREE = LEAST, LEAST - 90 - COLUMN_GAP + HIDDEN


def app_of(**rows: Any) -> App:
    """The small app on one pane, its huts in columns."""
    app = replace(small_app(), arrangements=())
    row = Row(title="{name}", subtitle="{region}")
    listing = Listing(source="huts", row=row, layout="columns", columns=COLUMNS)
    return with_screen(app, "huts", rows=replace(listing, **rows))


def boxes(run: Run, kind: str, window: Window = WIDE) -> list[Box]:
    return [each for each in lay_out(run.app, run.session, window).boxes if each.kind == kind]


def test_7_5_columns_give_way_from_the_last_and_to_rows_where_not_even_two_fit() -> None:
    listing = app_of().screens[0].rows  # type: ignore[union-attr]
    counts = [len(columns_shown(listing, width)) for width in (FOUR, FOUR - 1, THREE, THREE - 1)]
    assert counts == [4, 3, 3, 2]
    two = 120 + 100 + COLUMN_GAP + 2 * EDGE + HIDDEN
    assert [len(columns_shown(listing, width)) for width in (two, two - 1)] == [2, 0]
    narrow = Run(app_of(), sized(two - 1, 600))
    assert not boxes(narrow, "heads", sized(two - 1, 600))
    subtitles = boxes(narrow, "row subtitle", sized(two - 1, 600))
    assert subtitles[0].text == "N"


def test_7_5_it_says_how_many_are_hidden_and_which() -> None:
    window = sized(THREE - 1, 600)
    *heads, more = boxes(Run(app_of(), window), "head", window)
    assert [each.text for each in heads] == ["name", "Where"]
    assert (more.text, more.name, more.does) == ("+2", "Not shown here: id, note", None)
    assert len(boxes(Run(app_of(), WIDE), "head")) == 4


@given(
    st.lists(
        st.tuples(st.integers(24, 300), st.floats(0.1, 9)).map(
            lambda each: TableColumn(shows="name", least=each[0], share=each[1])
        ),
        min_size=2,
        max_size=7,
    ),
    st.floats(0, 900),
)
@settings(max_examples=examples(300))
def test_7_5_shares_fill_the_room_and_none_is_under_its_least(
    columns: list[TableColumn], spare: float
) -> None:
    room = sum(each.least for each in columns) + spare
    made = widths(columns, room)
    assert sum(made) == pytest.approx(room)
    assert all(wide >= each.least - 1e-6 for wide, each in zip(made, columns, strict=True))
    # What is wider than its least has its share: as much for each as for any other.
    each_share = {
        round(wide / each.share, 3)
        for wide, each in zip(made, columns, strict=True)
        if wide > each.least + 1e-6
    }
    assert len(each_share) <= 1 or max(each_share) - min(each_share) < 0.01


def test_7_5_a_row_says_its_columns_in_words_and_numbers_stand_at_their_end() -> None:
    run = Run(app_of(), WIDE)
    row = boxes(run, "row")[1]
    assert row.name == "Hut 001, Where: S (x), id: h1, note: x"
    assert row.height == ONE_LINE
    cells = [each for each in boxes(run, "cell") if each.key == "h1"]
    assert [each.text for each in cells] == ["S (x)", "h1", "x"]
    assert "end" in cells[1].state
    heads = boxes(run, "head")
    assert [each.x for each in heads[1:]] == [each.x for each in cells]


def test_7_5_a_head_takes_its_order_and_once_more_the_other_way_round() -> None:
    run = Run(app_of(), WIDE)
    press = boxes(run, "head")[2].does
    assert press == do.SortBy(screen="huts", entry=0, by=(Sort(field="id"),))
    run(press)
    head = boxes(run, "head")[2]
    assert (head.text, head.name) == ("id ↑", "Order: id, ascending")
    run(head.does)
    assert boxes(run, "row")[0].key == "h9"
    assert boxes(run, "head")[2].name == "Order: id, descending"
    # A text of several fields sorts by the first.
    assert boxes(run, "head")[1].does.by == (Sort(field="region"),)  # type: ignore[union-attr]
    offered = {each.event.by[0].field for each in possible(run.app, run.session)
               if isinstance(each.event, do.SortBy)}  # fmt: skip
    assert offered == {"name", "region", "id", "note"}


def test_7_5_heads_stay_in_view_and_rows_are_brought_under_none_of_them() -> None:
    run = Run(app_of(), WIDE)
    top = boxes(run, "heads")[0].y
    run(do.Scroll(screen="huts", to=500))
    assert boxes(run, "heads")[0].y == top
    line = trace_line(run.app, run.session, None, ())
    first = line.display[0].anchor
    assert first is not None
    # What lies at the lower edge of the heads: 500 dp down, of rows of 48.
    assert (first.key, first.above) == ("h10", 20.0)
    assert line.display[0].first_row == "h10"
    run(do.Move(screen="huts", to="home"))
    assert boxes(run, "row")[0].y == top + HEADS
    for to in ("end", *["up"] * 20):
        run(do.Move(screen="huts", to=to))  # type: ignore[arg-type]
    marked = next(each for each in boxes(run, "row") if "marked" in each.state)
    assert marked.y >= top + HEADS - 0.01


def test_7_5_an_anchor_holds_where_columns_come_and_go() -> None:
    run = Run(app_of(), WIDE)(do.Scroll(screen="huts", to=500))
    run(do.Resize(width=360, height=600))
    assert trace_line(run.app, run.session, None, ()).display[0].first_row == "h10"
    run(do.Resize(width=WIDE.width, height=600))
    anchor = trace_line(run.app, run.session, None, ()).display[0].anchor
    assert anchor is not None
    assert (anchor.key, anchor.above) == ("h10", 20.0)


def test_7_5_groups_picking_and_actions_work_as_in_rows() -> None:
    drop = Act(id="drop", label="Drop", does=RemoveRecord(), on_row=True, several=ForSeveral())
    run = Run(app_of(group_by="region", several="yes", actions=(drop,)), WIDE)
    assert [each.text for each in boxes(run, "group")] == ["N"]
    assert not boxes(run, "row action")
    assert boxes(run, "more")
    before = [(each.text, each.width) for each in boxes(run, "head")]
    run(do.Pick(screen="huts", key="h0"))
    assert len(boxes(run, "head")) == len(before)
    assert not boxes(run, "more")
    box = next(each for each in boxes(run, "pick") if each.key == "h0")
    title = next(each for each in boxes(run, "row title") if each.key == "h0")
    assert box.x + box.width - 8 <= title.x


def test_an_order_by_a_path_is_there_again_after_the_process_was_ended() -> None:

    of = sources()
    app = replace(app_of(), sources=tuple(each.source for each in of.values()))
    columns = (TableColumn(shows="name"), TableColumn(shows="region.name"))
    app = with_screen(
        app, "huts", rows=replace(app.screens[0].rows, columns=columns),  # type: ignore[union-attr]
        keep=Keep(search="saved"),
    )  # fmt: skip
    run = Run(app, WIDE)
    run.app = WiredApp(app, of)
    run.session, _ = start(run.app, WIDE)
    by = (Sort(field="region.name", descending=True),)
    run(do.SortBy(screen="huts", by=by), do.Kill(), do.Restore())
    assert run.session.entries[0].view.sort == {"": by}
    marks = {(piece.name, how): each.mark for (piece, how), each in matrix_of(run.app).items()}
    assert marks["huts · sort", "kill"] == "kept"


def test_columns_that_never_fit_are_found_and_mended() -> None:
    wide = (TableColumn(shows="name", least=9_000), TableColumn(shows="id"))
    app = app_of(columns=wide)
    found = [each for each in check(app, small_records()) if each.code == "columns-never"]
    assert len(found) == 1
    types = {name: each.types for name, each in small_records().items()}
    made = mended(app, types, found[0])
    assert made is not None
    assert made.screens[0].rows.layout == "rows"  # type: ignore[union-attr]


def test_a_field_renamed_is_renamed_in_its_columns() -> None:
    types = {name: each.types for name, each in small_records().items()}
    made = with_field_renamed(app_of(), types, "huts", "note", "remark")
    columns = made.screens[0].rows.columns  # type: ignore[union-attr]
    assert [each.shows for each in columns] == ["name", "{region} ({remark})", "id", "remark"]


@needs_node
@pytest.mark.parametrize("width", [LEAST + 40, THREE - 1, 360])
def test_7_5_the_kit_lays_them_out_as_well(width: float) -> None:
    app, of = app_of(group_by="region", groups_start="open"), small_records(30)
    wired, window = WiredApp(app, of), sized(width, 500)
    events = [
        do.Scroll(to=333), do.SortBy(by=(Sort(field="id", descending=True),)),
        do.Move(to="page down"), do.Move(to="up"), do.Resize(width=360, height=500),
        do.Resize(width=width, height=500), do.Kill(), do.Restore(), do.Move(to="end"),
    ]  # fmt: skip
    assert kit_differs(wired, window, events) == [None] * 10


def test_the_small_app_is_as_it_was() -> None:
    """A list that has columns and is laid out otherwise shows none."""
    rows = Run(with_screen(app_of(), "huts", rows=replace(
        app_of().screens[0].rows, layout="rows")), POCKET)  # type: ignore[union-attr]  # fmt: skip
    assert not boxes(rows, "heads", POCKET)
