"""The window map is what the engine answers, everywhere."""

from __future__ import annotations

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from builders import small_app, small_records
from cadena.check.fit import fit_findings
from cadena.engine.layout.panes import areas_in, solve_widths
from cadena.engine.rules.display import PLAIN, arrangement_for
from cadena.engine.session import Window, sized
from cadena.engine.wired import WiredApp
from cadena.model.app import Arrangement, NamedWindow, PaneWidth, Range, When
from cadena.model.edits.arrangements import faults_of, moved_breakpoint, split, with_range
from cadena.model.windows import NAMED, fault_of, windows_of, with_window, without_window
from cadena.runs.window_plane import GAP, Plane

SIZES = st.sampled_from([0, 1, 200, 336, 337, 500, 640, 800, 1040])
RANGES = st.builds(Range, least=SIZES, below=st.none() | SIZES)
WHENS = st.builds(
    When,
    width=RANGES,
    height=st.just(Range()) | RANGES,
    shape=st.sampled_from([None, None, "portrait", "landscape"]),
    fold=st.sampled_from([None, None, None, "folded", "flat"]),
)
RULES = st.lists(WHENS, max_size=6).map(
    lambda whens: tuple(Arrangement(id=f"r{n}", when=when) for n, when in enumerate(whens))
)


def answered(rules: tuple[Arrangement, ...], window: Window) -> int:
    """What the engine answers, as the plane says it."""
    app = WiredApp(small_app(arrangements=rules), small_records(1))
    found = arrangement_for(app, window)
    return GAP if found is PLAIN else next(n for n, each in enumerate(rules) if each is found)


def window_of(width: float, height: float, folded: bool) -> Window:
    return Window(width, height, width, folded=True) if folded else sized(width, height)


@given(RULES.filter(bool), st.booleans())
def test_5_1_the_map_and_the_engine_agree_on_a_grid_and_at_both_sides_of_every_edge(
    rules: tuple[Arrangement, ...], folded: bool
) -> None:
    plane = Plane(rules, folded)
    app = WiredApp(small_app(arrangements=rules), small_records(1))
    widths = {*range(50, 1400, 190), *(e + d for e in plane.widths for d in (-0.5, 0, 0.5))}
    heights = {*range(50, 1400, 190), *(e + d for e in plane.heights for d in (-0.5, 0, 0.5))}
    for width, height in itertools.product(widths, heights | widths):
        if width >= 1 and height >= 1:
            found = arrangement_for(app, window_of(width, height, folded))
            at = plane.at(width, height)
            assert (found is PLAIN) if at == GAP else (found is rules[at]), (width, height)


@given(RULES.filter(bool))
def test_only_what_acts_is_drawn(rules: tuple[Arrangement, ...]) -> None:
    """At every stretch of a breakpoint the engine changes; beside every other it does not."""
    plane = Plane(rules)
    acting = {("width", at): [] for at in plane.widths[1:-1]}
    acting |= {("height", at): [] for at in plane.heights[1:-1]}
    for each in plane.breakpoints:
        acting[each.axis, each.at] = list(each.spans)
    for (axis, at), spans in acting.items():
        assert at > 1 or axis == "shape"
        for other in (33.3, 250.7, 420.2, 700.9, 900.1, 1300.3):
            if axis == "shape":
                before, after = (other, other + 0.01), (other + 0.01, other)
            elif axis == "width":
                before, after = (at - 0.01, other), (at, other)
            else:
                before, after = (other, at - 0.01), (other, at)
            changes = plane.at(*before) != plane.at(*after)
            assert changes == any(each.start <= other < each.end for each in spans)


@given(RULES.filter(bool))
def test_regions_are_all_of_the_plane_and_name_what_never_matches(
    rules: tuple[Arrangement, ...],
) -> None:
    plane = Plane(rules)
    regions = plane.regions
    cells = [cell for each in regions for cell in each.cells]
    assert len(cells) == len(set(cells))
    assert {each.arrangement for each in regions} == plane.used
    for n in range(len(rules)):
        size = plane.size_in(n)
        assert (size is None) == (n not in plane.used)
        assert size is None or plane.at(*size) == n


def test_a_rule_behind_another_is_never_reached() -> None:
    rules = (
        Arrangement(id="one", when=When(width=Range(below=640))),
        Arrangement(id="small", when=When(width=Range(below=300))),
        Arrangement(id="two", when=When(width=Range(least=700))),
    )
    plane = Plane(rules)
    assert plane.used == {0, 2, GAP}
    assert plane.idle == (("width", 300.0),)
    assert plane.size_in(GAP) == (640, 1)
    assert [(each.at, each.spans) for each in plane.breakpoints] == [
        (640, ((1, 20000),)),
        (700, ((1, 20000),)),
    ]


def test_a_half_of_a_cell_has_the_corners_of_its_side() -> None:
    plane = Plane((Arrangement(id="p", when=When(shape="portrait")),))
    assert sorted(plane.outline((0, 0, 0), (100, 100))) == [(1, 1), (1, 100), (100, 100)]
    assert sorted(plane.outline((0, 0, 1), (100, 100))) == [(1, 1), (100, 1), (100, 100)]


WIDTHS = st.builds(
    PaneWidth,
    fixed=st.none() | st.floats(0, 900),
    share=st.none() | st.floats(0, 1),
    least=st.floats(0, 400),
    most=st.none() | st.floats(0, 900),
)


@given(st.floats(1, 3000), st.lists(WIDTHS, min_size=1, max_size=4))
def test_widths_add_up_and_keep_to_least_and_most(total: float, widths: list[PaneWidth]) -> None:
    solved = solve_widths(total, widths)
    assert abs(sum(solved) - total) < 1e-6
    assert min(solved) >= -1e-9
    leasts = [each.least for each in widths]
    if sum(leasts) <= total:
        assert all(has >= least - 1e-6 for has, least in zip(solved, leasts, strict=True))
    mosts = [
        max(least, each.fixed if each.fixed is not None else each.most or 9e9)
        if each.fixed is not None or each.most is not None
        else 9e9
        for least, each in zip(leasts, widths, strict=True)
    ]
    if sum(leasts) <= total <= sum(mosts):
        for has, most in list(zip(solved, mosts, strict=True))[:-1]:
            assert has <= most + 1e-6


@given(
    st.integers(1, 3000),
    st.lists(WIDTHS, max_size=3),
    st.integers(1, 3),
    st.sampled_from(["bottom", "rail", "wide rail", "top", "button", "none"]),
    st.sampled_from([1.0, 1.5, 2.0]),
    st.booleans(),
)
def test_panes_and_bar_fill_the_window(
    width: int, widths: list[PaneWidth], panes: int, bar: str, text: float, rtl: bool
) -> None:
    rule = Arrangement(id="r", panes=panes, widths=tuple(widths), bar=bar)  # type: ignore[arg-type]
    window = Window(float(width), 700.0, width / 2, text=text, rtl=rtl)
    areas = areas_in(rule, window, panes)
    assert areas[-1].x + areas[-1].width == pytest.approx(max(window.room[0], areas[0].x))
    if panes == 2 and bar in ("bottom", "top", "button", "none"):
        assert areas[1].x == pytest.approx(window.room[0] / 2)


def test_text_keeps_its_least_and_what_is_fixed_gives_way() -> None:
    widths = [PaneWidth(fixed=300, least=240), PaneWidth(least=320)]
    assert solve_widths(600, widths) == [280, 320]
    assert solve_widths(1000, widths) == [300, 700]
    assert solve_widths(280, widths) == [120, 160]


def test_a_breakpoint_is_moved_wherever_it_is_named_and_never_past_another() -> None:
    app = small_app()
    moved = moved_breakpoint(app, "width", 600, 700)
    assert moved.arrangements[0].when.width == Range(below=700)
    with pytest.raises(ValueError, match="no window is in it"):
        moved_breakpoint(app, "width", 600, 0)
    with pytest.raises(ValueError, match="sizes begin at 0"):
        with_range(app.arrangements[0], "width", -4, None)
    both, below = split(app, "two", "width", 900)
    assert [each.id for each in both.arrangements] == ["one", "two-below", "two"]
    assert below.when.width == Range(below=900)
    with pytest.raises(ValueError, match="no window"):
        split(app, "one", "width", 600)


@pytest.mark.parametrize(
    ("changed", "says"),
    [
        ({"when": When(width=Range(least=600, below=500))}, "no window is in it"),
        ({"panes": 2, "widths": (PaneWidth(share=0.7), PaneWidth(share=0.6))}, "130%"),
        ({"widths": (PaneWidth(least=400, most=300),)}, "least 400 dp is above most 300 dp"),
        ({"widths": (PaneWidth(least=400, fixed=300),)}, "above 300 dp, fixed"),
    ],
)
def test_what_cannot_be_is_said(changed: dict[str, object], says: str) -> None:
    ((_, said),) = faults_of(Arrangement(id="r", **changed))  # type: ignore[arg-type]
    assert says in said


def test_an_app_is_made_for_windows_of_ours_or_its_own() -> None:
    app = small_app()
    assert windows_of(app) == NAMED
    own = with_window(app, NamedWindow(name="Wall", width=1920, height=1080))
    assert [each.name for each in windows_of(own)][-2:] == ["Desk", "Wall"]
    assert len(windows_of(without_window(own, "Wrist"))) == 5
    assert windows_of(replace(app, windows=(NamedWindow(name="None", width=0, height=5),))) == NAMED
    assert fault_of(NamedWindow(name="x", width=100_000, height=5)) is not None
    assert fault_of(NamedWindow(name="x", width=100, height=5, fold=100)) is not None


def test_a_gap_says_the_whole_of_what_it_is_about() -> None:
    """Upright windows alone, where they alone have no rule; and each part of it."""

    def said(*whens: When) -> str:
        rules = tuple(Arrangement(id=f"a{n}", when=when) for n, when in enumerate(whens))
        found = fit_findings(small_app(arrangements=rules))
        return next(e.what for e in found if e.code == "window-without-arrangement")

    assert said(When(shape="landscape")).endswith("that is portrait")
    wide = said(When(width=Range(below=600)), When(width=Range(least=900)))
    assert wide.endswith("that is 600 to below 900 dp wide")
    rest = said(When(shape="landscape"), When(width=Range(below=600)))
    assert rest.endswith("that is from 600 dp wide, portrait")
