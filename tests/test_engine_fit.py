"""Every window: focus, the bar behind a button, large text, right to left, blocks side by side."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from builders import DESK, POCKET, SLATE, Run, demo, small_app, with_arrangement, with_screen
from cadena.engine import events as do
from cadena.engine.layout.column import column_of
from cadena.engine.rules.display import display_of, focus_of
from cadena.engine.rules.lists import offset_of
from cadena.engine.session import Window, sized
from cadena.engine.step import seen_in, start, step
from cadena.model.app import Keep, Side
from cadena.runs.shortest_walks import ways
from cadena.runs.walks.trace import trace_line
from cadena.runs.window_crossing import going
from cadena.scene.lay_out import lay_out

TINY = sized(150, 240)


def focus(run: Run) -> str:
    at = focus_of(run.app, run.session)
    return "" if at is None else run.session.entries[at].screen


def test_3_2_the_screen_used_last_has_the_focus_while_it_is_shown() -> None:
    run = Run(window=SLATE)
    assert focus(run) == "huts"
    assert focus(run.choose("h1")) == "huts"
    assert focus(run(do.Scroll(screen="hut", to=10.0))) == "hut"
    assert focus(run.resize(POCKET)) == "hut"
    assert focus(run.resize(SLATE)) == "hut"
    assert focus(run(do.Scroll(screen="huts", to=10.0)).resize(POCKET)) == "hut"
    assert focus(run.resize(SLATE)) == "huts"


def test_3_2_what_lies_over_the_rest_has_the_focus() -> None:
    run = Run(window=SLATE).choose("h1")(do.Press(button="book"))
    assert focus(run) == "book"
    assert focus(run(do.Back())) == "hut"
    assert focus(run(do.GoTo(section="again"))) == "huts"
    assert trace_line(run.app, run.session, None, ()).focus == "huts"


def test_5_1_the_section_bar_opens_from_its_button_and_closes_with_what_is_done() -> None:
    run = Run(with_arrangement(small_app(), "one", bar="button"))

    def shown() -> list[str]:
        scene = lay_out(run.app, run.session, run.session.window)
        return [box.text for box in scene.boxes if box.kind == "section"]

    assert shown() == []
    run(do.OpenSections())
    assert shown() == ["Huts", "Again"]
    run(do.Wait(ms=5))
    assert shown() == ["Huts", "Again"]
    assert run(do.PressOutside()).kinds == ["closed"]
    assert shown() == []
    run(do.OpenSections(), do.GoTo(section="again"))
    assert run.session.section == "again"
    assert shown() == []
    run.choose("h1")(do.Press(button="book"))
    assert run(do.OpenSections()).kinds == ["refused"]
    assert Run()(do.OpenSections()).kinds == ["refused"]


@pytest.mark.parametrize("bar", ["bottom", "top", "rail", "wide rail", "button", "none"])
def test_5_1_every_bar_leaves_the_rest_to_the_panes(bar: str) -> None:
    run = Run(with_arrangement(small_app(), "two", bar=bar), SLATE)
    scene = lay_out(run.app, run.session, SLATE)
    bars = [box for box in scene.boxes if box.kind == "section bar"]
    screens = [box for box in scene.boxes if box.kind == "screen"]
    assert len(bars) == (0 if bar in ("button", "none") else 1)
    covered = sum(box.width * box.height for box in (*bars, *screens))
    assert covered == pytest.approx(SLATE.width * SLATE.height)
    assert ("sections" in [box.kind for box in scene.boxes]) is (bar == "button")


def test_5_1_large_text_leaves_half_as_much_room_and_the_widths_in_dp() -> None:
    run = Run(window=SLATE).choose("h1")
    before = trace_line(run.app, run.session, None, ())
    run(do.SetText(size=2.0))
    after = trace_line(run.app, run.session, None, ())
    assert [(e.x, e.width) for e in after.display] == [(e.x, e.width) for e in before.display]
    scene = lay_out(run.app, run.session, run.session.window)
    assert (scene.width, scene.text) == (410, 2.0)
    assert run.chain == ["huts", "hut"]
    for size in (0.5, 3.1, float("nan")):
        assert run(do.SetText(size=size)).kinds == ["refused"]
    assert run.session.window.text == 2.0


def test_5_1_reading_from_the_right_mirrors_the_window_and_keeps_its_state() -> None:
    run = Run(window=SLATE).choose("h1")
    left = lay_out(run.app, run.session, run.session.window)
    run(do.ReadFrom(side="right"))
    right = lay_out(run.app, run.session, run.session.window)
    assert right.rtl
    for one, other in zip(left.boxes, right.boxes, strict=True):
        assert one.x + one.width + other.x == pytest.approx(SLATE.width)
        assert (one.y, one.text, one.does) == (other.y, other.text, other.does)
    row = next(box for box in right.boxes if box.kind == "row")
    assert right.at(row.x + 5, row.y + 5) == row


def test_5_6_the_fold_stays_where_it_is_when_one_reads_from_the_right() -> None:
    window = Window(673.0, 841.0, 336.0, rtl=True)
    run = Run(window=window).choose("h1")
    panes = display_of(run.app, run.session).panes
    assert [pane.area.width for pane in panes] == [673 - 336, 336]


def test_5_1_a_screen_goes_by_its_own_room() -> None:
    """Rooms stand beside from 500 dp: in a pane of 560 they do, beside a list in 400 not."""
    app = with_screen(small_app(), "hut", side=Side(blocks=("rooms",), least=500))

    def lefts(window: Window) -> set[float]:
        run = Run(app, window).choose("h1")
        area = display_of(run.app, run.session).area_of(1)
        assert area is not None
        column = column_of(run.app, run.session, run.session.entries[1], area.width)
        return {segment.left for segment in column.segments}

    assert lefts(SLATE) == {0.0, 280.0}
    assert lefts(sized(640, 800)) == {0.0}
    assert lefts(sized(599, 800)) == {0.0, 299.5}
    by_window = with_screen(
        small_app(), "hut", side=Side(blocks=("rooms",), least=500, measured="window")
    )
    run = Run(by_window, sized(640, 800)).choose("h1")
    column = column_of(run.app, run.session, run.session.entries[1], 380)
    assert {segment.left for segment in column.segments} == {0.0, 190.0}


def test_7_2_an_anchor_holds_where_blocks_go_side_by_side() -> None:
    app = with_screen(small_app(), "hut", side=Side(blocks=("rooms",), least=500))
    run = Run(app, sized(400, 300)).choose("h1")(do.Scroll(screen="hut", list="rooms", row=3))
    anchor = run.session.entries[1].view.scroll
    assert anchor is not None
    assert anchor.part == "rooms"
    run.resize(sized(900, 200))
    area = display_of(run.app, run.session).area_of(1)
    assert area is not None
    assert offset_of(run.app, run.session, 1, area) >= 0
    run.resize(sized(400, 300))
    assert run.session.entries[1].view.scroll == anchor


def test_5_1_narrow_rows_lose_nothing_but_their_picture() -> None:
    session, _ = start(demo(), TINY)
    narrow = lay_out(demo(), session, TINY)
    kinds = {box.kind for box in narrow.boxes}
    assert {"row title", "row subtitle", "badge", "more"} <= kinds
    assert "thumb" not in kinds
    titles = [e for e in narrow.boxes if e.kind == "row title" and "tile" not in e.state]
    assert all(box.width > 120 for box in titles)
    wide = lay_out(demo(), start(demo(), POCKET)[0], POCKET)
    assert "thumb" in {box.kind for box in wide.boxes}


def test_5_1_a_narrow_form_is_saved_at_its_end() -> None:
    session, _ = start(demo(), TINY)
    for event in (do.GoTo(section="stays"), do.Press(button="new")):
        session, *_ = step(demo(), session, event)
    session, *_ = step(demo(), session, do.Scroll(screen="stay-form", to=9_999.0))
    scene = lay_out(demo(), session, TINY)
    buttons = {box.text for box in scene.boxes if box.kind == "button"}
    assert {"Save stay", "Cancel"} <= buttons
    assert "bottom bar" not in {box.kind for box in scene.boxes}


def test_a_session_is_seen_in_another_window_with_what_rules_open_there() -> None:
    app = with_screen(small_app(), "huts", nothing_chosen="open first", keep=Keep(scroll="view"))
    run = Run(app)(do.Scroll(to=100.0))
    seen = seen_in(run.app, run.session, SLATE)
    assert [each.screen for each in seen.entries] == ["huts", "hut"]
    assert seen.entries[0].view.scroll == run.session.entries[0].view.scroll
    assert run.chain == ["huts"]
    assert seen_in(run.app, run.session, POCKET) == run.session
    killed = run(do.Kill()).session
    assert seen_in(run.app, killed, SLATE).phase == "killed"


def test_going_over_a_breakpoint_is_told_from_a_real_run() -> None:
    app = with_screen(small_app(), "hut", keep=Keep(scroll="view"))
    run = Run(app, SLATE).choose("h9")(do.Scroll(screen="hut", to=20.0))
    found = going(run.app, run.session, do.Resize(width=500.0, height=300.0))
    assert "Huts: pane 1, 260 dp → off display" in found.lines
    assert "Hut 009: pane 2, 560 dp → alone, 500 dp" in found.lines
    assert found.lost == ("where it was scrolled in hut",)
    back = going(run.app, found.after, do.Resize(width=820.0, height=1180.0))
    assert "h9 is chosen, in view" in back.lines
    assert back.lines[-1] == "focus is on Hut 009"
    assert back.lost == ()


def test_ways_lead_to_every_screen_that_can_be_opened() -> None:
    for window in (POCKET, DESK, TINY):
        found = ways(demo(), window)
        assert set(found) >= {"huts", "hut", "room", "warden", "route", "stay-form"}
        for screen, way in found.items():
            session, _ = start(demo(), window)
            for event in way.events:
                session, *_ = step(demo(), session, event)
            assert session == way.session
            assert session.entries[way.entry].screen == screen


@pytest.mark.parametrize("size", [1, 2, 40, 19_999, 20_000])
def test_the_smallest_and_the_largest_windows_are_laid_out(size: int) -> None:
    for window in (sized(size, 300), sized(300, size), replace(sized(size, size), text=2.0)):
        run = Run(window=window).choose("h1")(do.Press(button="book"))
        scene = lay_out(run.app, run.session, run.session.window)
        assert scene.boxes
        assert all(box.width >= -1e-6 or box.clip is not None for box in scene.boxes[:3])
