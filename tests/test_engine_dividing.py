"""Panes that lie down, shares, and dividers that people drag (rules.md, 3.2 and 5.6)."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from builders import DESK, POCKET, SLATE, Run, small_app, small_records, with_arrangement
from cadena.check.check import check
from cadena.check.mend import mended
from cadena.engine import events as do
from cadena.engine.layout.panes import areas_in, divided_at, dividers_in
from cadena.engine.rules.display import display_of
from cadena.engine.rules.dividing import dividers_of
from cadena.engine.session import Window, from_json, sized, to_json
from cadena.model.app import App, Arrangement, PaneWidth, Range, When
from cadena.model.edits.arrangements import never_divided, words_of
from cadena.runs.keep.matrix import matrix_of
from cadena.runs.possible import possible
from cadena.words.notes import in_words
from kit_traces import kit_differs, needs_node

HALVES = (PaneWidth(share=0.3, least=120), PaneWidth(share=0.7, least=200))


def app_of(**changed: Any) -> App:
    """Huts and hut with two panes from 600 dp, whose dividers are the person's."""
    return with_arrangement(small_app(), "two", **{"dividers": "the person's", **changed})


def sizes(run: Run, along: str = "width") -> list[float]:
    panes = display_of(run.app, run.session).panes
    return [round(getattr(each.area, along), 6) for each in panes]


def rule(*widths: PaneWidth, **changed: Any) -> Arrangement:
    return Arrangement(id="some", panes=max(2, len(widths)), widths=widths, bar="none", **changed)


def test_3_2_panes_lie_down_one_above_the_other() -> None:
    run = Run(app_of(lie="down", widths=HALVES), SLATE).choose("h1")
    assert run.shown == ["huts", "hut"]
    above, below = (each.area for each in display_of(run.app, run.session).panes)
    assert (above.x, above.width) == (below.x, below.width)
    assert above.y + above.height == below.y
    room = above.height + below.height
    assert (above.height / room, below.height / room) == pytest.approx((0.3, 0.7))


@given(
    st.lists(st.integers(1, 98), min_size=1, max_size=3),
    st.floats(60, 20_000),
    st.sampled_from(["across", "down"]),
)
def test_3_2_shares_are_given_exactly_where_nothing_stands_against_it(
    percents: list[int], size: float, lie: Any
) -> None:
    asked = [each / (sum(percents) + 1) for each in percents]
    widths = tuple(PaneWidth(share=each) for each in (*asked, 1 - sum(asked)))
    window = sized(size, size)
    areas = areas_in(rule(*widths, lie=lie), window, len(widths))
    given = [(each.height if lie == "down" else each.width) / size for each in areas]
    assert given == pytest.approx([each.share for each in widths])


def test_3_2_a_share_stays_what_was_asked_for_where_another_pane_can_take_the_rest() -> None:
    areas = areas_in(rule(PaneWidth(share=0.3), PaneWidth(share=0.5)), sized(1000, 500), 2)
    assert [each.width for each in areas] == [300, 700]
    capped = (PaneWidth(share=0.3), PaneWidth(share=0.5, most=600))
    assert [each.width for each in areas_in(rule(*capped), sized(1000, 500), 2)] == [400, 600]


def test_3_2_what_came_in_place_of_shares_is_said() -> None:
    widths = (PaneWidth(share=0.3, least=300), PaneWidth(share=0.7))
    run = Run(app_of(widths=widths, bar="none"), POCKET).resize(sized(600, 900))
    note = next(each for each in run.notes if each.kind == "shares")
    assert (
        in_words(note)
        == "30 % and 70 % of the room were asked for, and 50 % and 50 % came (rule 3.2)"
    )
    assert "shares" not in run.resize(sized(1000, 900)).kinds


def test_3_2_a_divider_moves_within_least_and_most() -> None:
    widths = (PaneWidth(fixed=300, least=200, most=500), PaneWidth(least=250))
    run = Run(app_of(widths=widths, bar="none"), SLATE).choose("h1")
    assert sizes(run(do.Divide(pane=0, to=410))) == [410, 410]
    assert sizes(run(do.Divide(pane=0, to=9000))) == [500, 320]
    assert sizes(run(do.Divide(pane=0, to=-5))) == [200, 620]
    assert in_words(run.notes[0]) == "pane 1 to 200 dp (rule 3.2)"
    assert run.shown == ["huts", "hut"]
    assert run.chain == ["huts", "hut"]


def test_3_2_a_pane_keeps_so_much_that_its_divider_can_be_taken_again() -> None:
    run = Run(app_of(bar="none"), SLATE).choose("h1")
    assert sizes(run(do.Divide(pane=0, to=0)))[0] == 96
    assert sizes(run(do.Divide(pane=0, to=5000)))[1] == 96


def test_3_2_a_divider_that_is_fixed_is_not_moved() -> None:
    run = Run(with_arrangement(small_app(), "two"), SLATE)
    assert run(do.Divide(pane=0, to=400)).kinds == ["refused"]
    assert "stay where they are" in run.said
    alone = Run(app_of(), SLATE)
    for pane, to in ((1, 300.0), (-1, 300.0), (0, float("nan"))):
        assert alone(do.Divide(pane=pane, to=to)).kinds == ["refused"]
    assert Run(app_of(), POCKET)(do.Divide(pane=0, to=100)).kinds == ["refused"]


def test_3_2_nothing_is_moved_under_what_lies_over_the_panes() -> None:
    run = Run(app_of(), SLATE).choose("h1")
    run(do.Press(button="ask"))
    assert display_of(run.app, run.session).layer is not None
    assert run(do.Divide(pane=0, to=400)).kinds == ["refused"]
    assert not dividers_of(run.session, display_of(run.app, run.session))


WIDTHS = st.builds(
    PaneWidth,
    fixed=st.sampled_from([None, None, 150.0, 320.0]),
    least=st.sampled_from([0.0, 100.0, 140.0]),
    most=st.sampled_from([None, None, 420.0]),
).filter(lambda each: each.fixed is None or each.fixed >= each.least)


@given(
    st.lists(WIDTHS, min_size=2, max_size=4),
    st.integers(0, 2),
    st.floats(-100, 2_000),
    st.floats(500, 1_800),
    st.sampled_from(["across", "down"]),
)
def test_3_2_moving_a_divider_changes_the_panes_on_its_two_sides_and_no_other(
    widths: list[PaneWidth], pane: int, to: float, size: float, lie: Any
) -> None:
    some, window = rule(*widths, lie=lie, dividers="the person's"), sized(size, size)
    count = len(widths)
    found = {each.pane: each for each in dividers_in(some, window, count)}
    if pane not in found:
        return
    held = found[pane]
    to = min(max(to, held.least), held.most)
    divided = divided_at(some, window, count, (), pane, to)
    along = 3 if lie == "down" else 2
    before = [each[along] for each in areas_in(some, window, count)]
    after = [each[along] for each in areas_in(some, window, count, divided)]
    assert after[pane] == pytest.approx(to)
    assert after[pane] + after[pane + 1] == pytest.approx(before[pane] + before[pane + 1])
    others = [at for at in range(count) if at not in (pane, pane + 1)]
    assert [after[at] for at in others] == pytest.approx([before[at] for at in others])
    assert sum(after) == pytest.approx(size)
    again = {each.pane: each for each in dividers_in(some, window, count, divided)}
    assert again[pane].size == pytest.approx(to)


def test_3_2_what_was_left_gives_way_in_less_room_and_comes_back_in_more() -> None:
    widths = (PaneWidth(fixed=300, least=200), PaneWidth(least=300))
    run = Run(app_of(widths=widths, bar="none"), DESK).choose("h1")
    run(do.Divide(pane=0, to=600))
    assert sizes(run.resize(sized(640, 900))) == [340, 300]
    assert sizes(run.resize(DESK))[0] == 600


def test_3_2_dividers_are_kept_for_each_arrangement() -> None:
    wide = Arrangement(
        id="wide", when=When(width=Range(least=1100)), panes=2, dividers="the person's"
    )
    app = app_of(bar="none")
    run = Run(replace(app, arrangements=(wide, *app.arrangements)), SLATE).choose("h1")
    run(do.Divide(pane=0, to=300)).resize(DESK)
    assert sizes(run)[0] != 300
    run(do.Divide(pane=0, to=700))
    assert sizes(run.resize(SLATE))[0] == 300
    assert sizes(run.resize(DESK))[0] == 700


@pytest.mark.parametrize(
    ("keep", "stays"),
    [
        ("view", {"sleep"}),
        ("entry", {"sleep", "resize"}),
        ("saved", {"sleep", "resize", "kill"}),
        ("stored", {"sleep", "resize", "kill", "relaunch"}),
    ],
)
def test_6_dividers_live_as_long_as_is_said(keep: Any, stays: set[str]) -> None:
    there = {
        "sleep": (do.Sleep(), do.Wake()),
        "resize": (do.Resize(width=360, height=780), do.Resize(width=820, height=1180)),
        "kill": (do.Kill(), do.Restore()),
        "relaunch": (do.Relaunch(),),
    }
    for name, events in there.items():
        run = Run(app_of(keep=keep), SLATE)(do.Divide(pane=0, to=333), *events)
        assert (run.session.divided == {"two": (333.0, None)}) is (name in stays), name
        assert from_json(to_json(run.session)) == run.session


def test_6_what_cannot_be_of_saved_dividers_is_not_taken() -> None:
    run = Run(app_of(), SLATE)(do.Divide(pane=0, to=333), do.Kill())
    kept = run.session.kept
    for text in ('"two":["x"]', '"two":[true]', '"two":7', '"two":[-1.0]', '"gone":[5.0]'):
        odd = kept.replace('"two":[333.0,null]', text)
        assert odd != kept
        run.session = replace(run.session, kept=odd)
        assert run(do.Restore()).session.divided == {}
        run(do.Kill())
    run.session = replace(run.session, kept=kept.replace('{"two":[333.0,null]}', "5"))
    assert run(do.Restore()).session.divided == {}
    assert "where dividers were left" in run.said


def test_5_6_panes_that_lie_down_meet_on_a_fold_that_lies() -> None:
    window = Window(673, 841, 400, fold_across=True)
    run = Run(app_of(lie="down", widths=HALVES), window).choose("h1")
    above, below = (each.area for each in display_of(run.app, run.session).panes)
    assert above.y + above.height == below.y == 400
    assert run(do.Divide(pane=0, to=300)).kinds == ["refused"]
    upright = Run(app_of(lie="down", widths=HALVES), replace(window, fold_across=False))
    assert display_of(upright.app, upright.session).panes[1].area.y != 400


def test_3_2_what_can_be_moved_is_possible_and_nothing_else() -> None:
    run = Run(app_of(), SLATE)
    events = [each.event for each in possible(run.app, run.session)]
    moves = [each for each in events if isinstance(each, do.Divide)]
    assert len(moves) == 2
    for each in moves:
        assert Run(app_of(), SLATE)(each).kinds == ["divided"]
    none = [each.event for each in possible(run.app, Run(app_of(), POCKET).session)]
    assert not [each for each in none if isinstance(each, do.Divide)]


def test_6_keep_measures_dividers() -> None:
    for keep, sign in (("stored", "kept"), ("entry", "let go as asked")):
        run = Run(app_of(keep=keep), SLATE)
        marks = {
            name: each.mark
            for (piece, name), each in matrix_of(run.app).items()
            if piece.kind == "dividers"
        }
        assert marks["relaunch"] == sign
        assert marks["over an edge"] == "kept"
        assert set(marks.values()) <= {"kept", "let go as asked", "nothing to keep here"}


def test_3_2_a_divider_that_can_never_be_moved_is_found_and_mended() -> None:
    stuck = app_of(widths=(PaneWidth(least=300, most=300),))
    found = [each for each in check(stuck, small_records()) if each.code == "divider-never"]
    assert [each.where for each in found] == ["arrangements[two].dividers"]
    app = mended(stuck, small_records(), found[0])
    assert app is not None
    assert not [each for each in check(app, small_records()) if each.code == "divider-never"]
    for widths, never in (
        ((), False),
        ((PaneWidth(fixed=300),), False),
        ((PaneWidth(), PaneWidth(most=80)), True),
    ):
        assert never_divided(rule(*widths, dividers="the person's")) is never
    assert never_divided(Arrangement(id="one", dividers="the person's"))


def test_3_2_a_pane_that_lies_down_has_its_least_height() -> None:
    low = app_of(lie="down", widths=(PaneWidth(least=300), PaneWidth(least=500)))
    found = [each for each in check(low, small_records()) if each.code == "pane-under-least"]
    assert "dp high" in found[0].what
    app = mended(low, small_records(), found[0])
    assert app is not None
    assert not [each for each in check(app, small_records()) if each.code == "pane-under-least"]
    assert words_of(low.arrangements[-1]).startswith("two panes down")


@needs_node
@pytest.mark.parametrize("lie", ["across", "down"])
def test_3_2_the_kit_does_the_same(lie: Any) -> None:
    app = Run(app_of(lie=lie, widths=HALVES), SLATE).app
    events = [
        *(do.Divide(pane=0, to=410.25), do.Choose(key="h1"), do.Scroll(screen="huts", by=300)),
        *(do.Divide(pane=0, to=7), do.SetText(size=1.5), do.ReadFrom(side="right")),
        *(do.Divide(pane=0, to=350), do.Resize(width=1280, height=640), do.Kill(), do.Restore()),
        *(do.Resize(width=360, height=780), do.Divide(pane=0, to=9), do.Relaunch()),
        *(do.Resize(width=820, height=1180), do.Divide(pane=1, to=9)),
    ]
    assert kit_differs(app, SLATE, events) == [None] * (len(events) + 1)


def test_3_2_a_pane_keeps_room_for_what_can_be_pressed_in_it() -> None:
    """Below the bars of a list that lies above a detail there is a row, however it is divided."""
    window = Window(width=800, height=1200)
    across = Arrangement(id="a", title="a", panes=2, dividers="the person's")
    for each, keeps in ((across, 96.0), (replace(across, lie="down"), 240.0)):
        (divider,) = dividers_in(each, window, 2)
        assert divider.least == keeps


def test_3_2_where_no_pane_leaves_the_other_room_there_is_no_divider() -> None:
    """However the sizes are rounded: both are less than what a divider leaves of them."""
    widths = PaneWidth(share=0.3, most=300), PaneWidth(fixed=260, least=100)
    flat = Arrangement(
        id="flat", panes=2, lie="down", bar="rail", dividers="the person's", widths=widths
    )
    for height in range(150, 240):
        assert dividers_in(flat, sized(242, height), 2) == ()
    assert len(dividers_in(flat, sized(242, 900), 2)) == 1
