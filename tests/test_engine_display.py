"""What is on display, and going back (rules.md, 3 and 4)."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from builders import DESK, POCKET, SLATE, Run, small_app, with_arrangement, with_link, with_screen
from cadena.engine import events as do
from cadena.engine.layout.panes import solve_widths
from cadena.engine.rules.back import back_label, plan_back
from cadena.engine.rules.display import display_of
from cadena.engine.session import sized
from cadena.model.app import Arrangement, PaneWidth, Platform, Range, When


def three_panes(**changed: object) -> Run:
    """Huts, hut and room each beside the one before, with three panes from 1200 dp."""
    app = with_link(small_app(), "room", how="beside")
    wide = Arrangement(id="three", when=When(width=Range(least=1200)), panes=3, **changed)  # type: ignore[arg-type]
    return Run(replace(app, arrangements=(wide, *app.arrangements)), DESK)


def test_3_1_each_run_shows_its_last_entry() -> None:
    run = Run(window=SLATE).choose("h1").choose(2, "hut", "rooms")
    assert run.shown == ["huts", "room"]


def test_3_2_fewer_panes_than_runs_show_the_last() -> None:
    run = three_panes().choose("h1").choose(2, "hut", "rooms")
    assert run.shown == ["huts", "hut", "room"]
    assert run.resize(SLATE).shown == ["hut", "room"]
    assert run.resize(POCKET).shown == ["room"]
    assert run.resize(DESK).shown == ["huts", "hut", "room"]


def test_3_2_the_list_may_stay() -> None:
    app = with_arrangement(with_link(small_app(), "room", how="beside"), "two", first="stays")
    run = Run(app, SLATE).choose("h1").choose(2, "hut", "rooms")
    assert run.shown == ["huts", "room"]


def test_3_2_more_panes_than_runs_say_that_nothing_is_chosen() -> None:
    assert Run(window=SLATE).shown == ["huts", "-"]
    assert three_panes().shown == ["huts", "-"]
    run = Run(with_link(small_app(), "open", how="push"), SLATE)
    assert run.shown == ["huts"]
    assert display_of(run.app, run.session).panes[0].area.width == 820


def test_3_3_a_list_slides_over() -> None:
    run = Run(with_arrangement(small_app(), "one", over=True)).choose("h1")
    assert run(do.SlideList()).shown == ["hut", "huts"]
    assert plan_back(run.app, run.session).rule == 1
    assert back_label(run.app, run.session) == "Hut 001"
    assert run(do.Back()).shown == ["hut"]
    run(do.SlideList()).choose("h2")
    assert run.shown == ["hut"]
    assert run.arguments == {"hut": "h2"}
    assert run(do.SlideList(), do.PressOutside()).shown == ["hut"]
    assert run(do.SlideList()).resize(SLATE).shown == ["huts", "hut"]
    assert Run()(do.SlideList()).kinds == ["refused"]


def test_3_4_only_the_last_entry_of_a_layer_is_shown() -> None:
    run = Run(window=SLATE).choose("h1")(do.Press(button="book"))
    display = display_of(run.app, run.session)
    assert display.layer_as == "modal"
    assert [each.entry for each in display.panes] == [0, 1]


def test_3_4_inside_a_modal_beside_opens_as_push() -> None:
    app = with_link(with_link(small_app(), "book", to="hut"), "room", how="beside")
    run = Run(app, SLATE).choose("h1")(do.Press(button="book"))
    run.choose(2, "hut", "rooms")
    assert [each.opened for each in run.session.entries] == ["root", "beside", "modal", "push"]
    assert run.shown == ["huts", "hut", "room"]


def test_3_4_a_popover_in_a_narrow_window_is_shown_as_a_modal() -> None:
    run = Run(window=SLATE).choose("h1")(do.Press(button="ask"))
    assert display_of(run.app, run.session).layer_as == "popover"
    before = run.session.entries
    run.resize(POCKET)
    assert display_of(run.app, run.session).layer_as == "modal"
    assert run.session.entries == before


def test_3_5_the_back_label_is_the_title_that_back_would_show() -> None:
    run = Run().choose("h1")(do.Press(button="book"))
    while (label := back_label(run.app, run.session)) is not None:
        run(do.Back())
        assert run.app.title_of(run.session, run.session.entries[-1]) == label
    assert plan_back(run.app, run.session).does == "leave"


def test_4_2_back_closes_a_layer_first() -> None:
    run = Run(window=SLATE).choose("h1").choose(2, "hut", "rooms")
    run(do.Back())
    assert run.chain == ["huts", "hut"]
    run(do.Press(button="book"), do.Back())
    assert run.chain == ["huts", "hut"]


def test_4_3_back_inside_a_pane() -> None:
    run = Run(window=SLATE).choose("h1").choose(2, "hut", "rooms")
    assert plan_back(run.app, run.session).rule == 3
    assert run(do.Back()).chain == ["huts", "hut"]


def test_4_4_back_with_more_runs_than_panes() -> None:
    run = Run().choose("h1")
    assert plan_back(run.app, run.session).rule == 4
    assert run(do.Back()).chain == ["huts"]


def test_4_5_back_with_both_in_view_leaves() -> None:
    run = Run(window=SLATE).choose("h1")
    before = run.session.entries
    run(do.Back())
    assert run.session.phase == "left"
    assert run.session.entries == before
    assert run(do.Back()).kinds == ["refused"]
    assert run(do.Wake()).shown == ["huts", "hut"]


def test_4_5_or_closes_where_the_arrangement_says_so() -> None:
    app = with_arrangement(small_app(), "two", back="close")
    run = Run(app, SLATE).choose("h1")
    assert back_label(run.app, run.session) == "Huts"
    assert run(do.Back()).shown == ["huts", "-"]
    reopens = with_screen(app, "huts", nothing_chosen="open first")
    assert Run(reopens, SLATE)(do.Back()).session.phase == "left"


def test_4_6_back_may_lead_to_the_start_section() -> None:
    app = small_app(platform=Platform(back_to_start=True))
    run = Run(app)(do.GoTo(section="again"), do.Back())
    assert run.session.section == "huts"
    assert run(do.Back()).session.phase == "left"


def test_removing_an_entry_leaves_the_one_below_as_it_was() -> None:
    run = Run()(do.Scroll(by=300.0), do.Search(text="hut"), do.Scroll(by=200.0))
    before = run.session.entries[0].view
    run.choose("h9")
    run(do.Back())
    after = run.session.entries[0].view
    assert after.last == {"": "h9"}
    assert replace(after, last={}, scroll=None) == replace(before, scroll=None)


WIDTHS = st.builds(
    PaneWidth,
    fixed=st.none() | st.floats(1, 900),
    share=st.none() | st.floats(0, 1),
    least=st.floats(0, 400),
    most=st.none() | st.floats(0, 900),
)


@given(st.floats(1, 3000), st.lists(WIDTHS, min_size=1, max_size=5))
def test_widths_always_add_up(total: float, widths: list[PaneWidth]) -> None:
    solved = solve_widths(total, widths)
    assert sum(solved) == pytest.approx(total)
    assert min(solved) > -1e-6


@given(st.floats(600, 3000), st.floats(100, 200), st.floats(250, 400))
def test_widths_respect_least_and_most_where_that_is_possible(
    total: float, least: float, most: float
) -> None:
    solved = solve_widths(total, [PaneWidth(least=least, most=most), PaneWidth(least=200)])
    assert least - 1e-6 <= solved[0] <= most + 1e-6
    assert solved[1] >= 200 - 1e-6


def test_widths_of_the_usual_kinds() -> None:
    assert solve_widths(1000, [PaneWidth(fixed=300), PaneWidth()]) == [300, 700]
    assert solve_widths(1000, [PaneWidth(share=0.4), PaneWidth()]) == [400, 600]
    assert solve_widths(1000, [PaneWidth(least=280, most=360), PaneWidth()]) == [360, 640]
    assert np.allclose(solve_widths(200, [PaneWidth(fixed=300), PaneWidth(fixed=100)]), [150, 50])
    assert solve_widths(100, []) == []


def test_5_6_a_fold_is_where_the_panes_meet() -> None:
    run = Run(window=sized(673, 841, 336)).choose("h1")
    assert [each.area.width for each in display_of(run.app, run.session).panes] == [336, 337]
    run(do.Fold())
    assert run.shown == ["hut"]
    assert run.session.window.size == (336, 841)
    assert run(do.Unfold()).shown == ["huts", "hut"]
    assert Run()(do.Fold()).kinds == ["refused"]
