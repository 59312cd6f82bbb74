"""Transitions (rules.md, 12): what flies, and when nothing may."""

from __future__ import annotations

from typing import Any

import pytest
from msgspec.structs import replace

from builders import DESK, POCKET, Run, demo, small_app, with_link, with_screen
from cadena.engine import events as do
from cadena.engine.session import Session, Window
from cadena.engine.step import start, step
from cadena.model.app import Pair, Transition
from cadena.scene.flights import waits
from cadena.scene.scene import Box, Scene
from cadena.scene.transition import Moving, element_box, frame_of, moving_between, moving_for

MOVES = Transition(
    pairs=(Pair(slot="title", element="title"),), duration=300, fades={"rooms": 100, "name": 0}
)


def moved(*events: do.Event, window: Window = POCKET) -> Moving | None:
    """The transition of the last of some events in the small app."""
    run = Run(with_link(small_app(), "open", transition=MOVES), window)
    run(*events[:-1])
    before = run.session
    run(events[-1])
    return moving_between(run.app, before, run.session)


def flying(scene: Scene, moving: Moving) -> list[Box]:
    ends = [*moving.start.boxes, *moving.end.boxes]
    kinds = ("row title", "title", "title centred")
    return [e for e in scene.boxes if e.kind in kinds and e not in ends and e.clip is None]


OPEN = do.Choose(key="h1", screen="huts")


def test_12_the_row_flies_to_the_screen_it_opens() -> None:
    moving = moved(OPEN)
    assert moving is not None
    assert [each.pair.slot for each in moving.flights] == ["title"]
    row, title = moving.flights[0].row, moving.flights[0].element
    assert row.key == "h1"
    ys = [min(e.y for e in flying(frame_of(moving, at), moving)) for at in (1, 100, 200, 299)]
    assert row.y > ys[0] > ys[1] > ys[2] > ys[3] >= title.y
    assert frame_of(moving, 300) is moving.end
    assert frame_of(moving, 9_999) is moving.end


def test_12_what_is_to_come_later_comes_later() -> None:
    moving = moved(OPEN)
    assert moving is not None

    def seen(at: float, part: str) -> float:
        box = element_box(frame_of(moving, at), 1, part)
        return 0.0 if box is None else box.fade

    assert seen(50, "rooms") == 0
    assert seen(100, "rooms") == 0
    assert 0 < seen(200, "rooms") < seen(290, "rooms") < 1
    assert seen(50, "name") > 0


def test_12_back_is_the_same_way_back() -> None:
    moving = moved(OPEN, do.Back())
    assert moving is not None
    assert moving.back
    ys = [min(e.y for e in flying(frame_of(moving, at), moving)) for at in (1, 150, 299)]
    assert ys == sorted(ys)


def test_12_a_row_out_of_view_fades_instead() -> None:
    app = with_link(small_app(), "open", transition=MOVES)
    run = Run(app)(OPEN)
    before = run.session.with_view(0, search={"": "Hut 029"})
    after, *_ = step(run.app, before, do.Back())
    lost = moving_between(run.app, before, after)
    assert lost is not None
    assert lost.flights == ()
    halfway = frame_of(lost, 100)
    assert len(halfway.boxes) == len(lost.start.boxes) + len(lost.end.boxes)
    assert {box.fade for box in halfway.boxes} > {1.0}


COMES = ("from the side", "from below", "by fading")


@pytest.mark.parametrize("comes", COMES)
@pytest.mark.parametrize("rtl", [False, True])
def test_12_a_screen_comes_in_a_way_of_its_own_and_goes_back_so(comes: Any, rtl: bool) -> None:
    window = replace(POCKET, rtl=rtl)
    app = with_link(small_app(), "book", comes=comes, how="modal")
    run = Run(app, window)(OPEN)
    before = run.session
    after = run(do.Press(button="book", screen="hut")).session
    back = run(do.Back()).session
    forth, home = moving_between(run.app, before, after), moving_between(run.app, after, back)
    assert forth is not None
    assert home is not None
    assert (forth.duration, home.duration) == (250, 250)
    assert frame_of(forth, 250) is forth.end
    assert frame_of(home, 250) is home.end

    def ground(scene: Scene) -> Box:
        return next(e for e in scene.boxes if e.kind == "screen" and e.entry == 2)

    there = ground(forth.end)
    for moving, times in ((forth, (10, 100, 200, 249)), (home, (249, 150, 60, 10))):
        boxes = [ground(frame_of(moving, at)) for at in times]
        sides = [abs(each.x - there.x) for each in boxes]
        downs = [each.y - there.y for each in boxes]
        fades = [1 - each.fade for each in boxes]
        moves = {"from the side": sides, "from below": downs, "by fading": fades}
        for way, far in moves.items():
            if way == comes:
                assert far == sorted(far, reverse=True)
                assert far[0] > far[-1] >= 0
            else:
                assert far == [0] * 4
    if comes == "from the side":
        x = ground(frame_of(forth, 1)).x - there.x
        assert (x < 0) is rtl
    # What it lies over stays where it is.
    still = [each for each in frame_of(forth, 100).boxes if each.entry == 1]
    assert still == [each for each in forth.start.boxes if each.entry == 1]


def test_12_at_once_is_at_once_and_beside_a_list_nothing_comes() -> None:
    app = with_link(small_app(), "open", comes="from the side")
    for window, comes in ((POCKET, True), (DESK, False)):
        run = Run(app, window)
        before = run.session
        assert (moving_between(run.app, before, run(OPEN).session) is not None) is comes
    run = Run(small_app(), POCKET)
    before = run.session
    assert moving_between(run.app, before, run(OPEN).session) is None


def test_12_beside_a_list_nothing_flies() -> None:
    assert moved(OPEN, window=DESK) is None
    assert moved(OPEN, do.Choose(key="h2", screen="huts"), window=DESK) is None


@pytest.mark.parametrize(
    "event",
    [do.Press(button="book", screen="hut"), do.GoTo(section="again"), do.Turn(), do.Kill()],
)
def test_12_only_rows_fly(event: do.Event) -> None:
    assert moved(OPEN, event) is None


def test_12_a_transition_can_be_looked_at_without_being_run() -> None:
    """Of the row that is open, or of the first; and never beside."""
    app = demo()
    link = app.links["huts", "row", ""]

    def session(*events: do.Event, window: Window = POCKET) -> Session:
        now = start(app, window)[0]
        for event in events:
            now, *_ = step(app, now, event)
        return now

    first = moving_for(app, session(), link)
    assert first is not None
    assert [each.pair.slot for each in first.flights] == ["picture", "title"]
    chosen = moving_for(app, session(do.Choose(key="bal", screen="huts")), link)
    assert chosen is not None
    assert chosen.flights[0].row.key == "bal"
    assert moving_for(app, session(window=DESK), link) is None
    assert moving_for(app, session(do.GoTo(section="routes")), link) is None


@pytest.mark.parametrize("how", ["push", "modal", "popover"])
@pytest.mark.parametrize("layout", ["rows", "grid"])
def test_12_rows_and_tiles_fly_into_screens_and_layers(how: Any, layout: Any) -> None:
    app = with_link(small_app(), "open", transition=MOVES, how=how)
    app = with_screen(app, "huts", rows=replace(app.screens[0].rows, layout=layout))
    for window in (POCKET, DESK):
        run = Run(app, window)
        before = run.session
        moving = moving_between(run.app, before, run(OPEN).session)
        assert moving is not None
        assert [each.pair.slot for each in moving.flights] == ["title"]


def test_12_what_waits_beyond_the_end_comes_in_after_it_and_does_not_pop() -> None:
    late = Transition(duration=200, fades={"rooms": 900})
    assert waits(late) == {"rooms": (200, 320)}
    run = Run(with_link(small_app(), "open", transition=late), POCKET)
    before = run.session
    moving = moving_between(run.app, before, run(OPEN).session)
    assert moving is not None
    assert moving.duration == 320
    box = element_box(frame_of(moving, 260), 1, "rooms")
    assert box is not None
    assert box.fade == pytest.approx(0.5)
