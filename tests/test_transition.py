"""Transitions (rules.md, 12): what flies, and when nothing may."""

from __future__ import annotations

from typing import Any

import pytest
from msgspec.structs import replace

from builders import (
    DESK,
    POCKET,
    Run,
    demo,
    small_app,
    small_records,
    with_link,
    with_screen,
)
from cadena.check.check import check
from cadena.check.mend import mended
from cadena.engine import events as do
from cadena.engine.session import Session, Window
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.app import App, FromField, Link, Pair, Transition, Trigger
from cadena.model.blocks import FactsBlock
from cadena.model.find import by_id
from cadena.model.listing import Sort
from cadena.scene.flights import waits
from cadena.scene.lay_out import lay_out
from cadena.scene.rows_moved import GLIDES, Gliding, is_otherwise_ordered, rows_moved
from cadena.scene.scene import Box, Scene
from cadena.scene.transition import Moving, element_box, frame_of, moving_between, moving_for
from kit_traces import kit_differs, needs_node

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


def of_a_fact(**changed: Any) -> App:
    """A room whose hut is a fact that opens it."""
    app = small_app()
    facts = FactsBlock(id="about", fields=("id", "hut"), opens=("hut",))
    app = with_screen(app, "room", blocks=(facts,))
    link = Link(
        id="to-hut",
        trigger=Trigger(screen="room", on="fact", part="hut"),
        to="hut",
        arguments=(FromField(parameter="hut", field="hut"),),
        if_open="open again",
        transition=Transition(pairs=(Pair(slot="title", element="title"),), duration=200),
    )
    return replace(app, links=(*app.links, replace(link, **changed)))


def test_12_what_a_fact_says_flies_to_the_screen_it_opens_and_back() -> None:
    run = Run(of_a_fact()).choose("h1").choose(2, "hut", "rooms")
    at_room = run.session
    before, after = run.session, run(do.OpenFact(screen="room", fact="hut")).session
    moving = moving_between(run.app, before, after)
    assert moving is not None
    assert [(e.row.kind, e.row.part, e.pair.slot) for e in moving.flights] == [
        ("fact", "hut", "title")
    ]
    fact, title = moving.flights[0].row, moving.flights[0].element
    heights = [min(e.y for e in flown_of(frame_of(moving, at), moving)) for at in (1, 60, 150)]
    assert fact.y > heights[0] > heights[1] > heights[2] > title.y
    back = moving_between(run.app, after, run(do.Back()).session)
    assert back is not None
    assert back.back
    assert moving_for(run.app, at_room, run.app.links["room", "fact", "hut"]) is not None


def flown_of(scene: Scene, moving: Moving) -> list[Box]:
    ends = [*moving.start.boxes, *moving.end.boxes]
    return [
        e for e in scene.boxes if e.kind in ("fact", "title", "title centred") and e not in ends
    ]


def test_12_what_a_fact_does_not_have_is_found_and_mended() -> None:
    pairs = (Pair(slot="title", element="title"), Pair(slot="badge", element="title"))
    app = of_a_fact(transition=Transition(pairs=pairs), comes="from below")
    records = Run(app).app.as_read
    types = {name: each.types for name, each in records.items()}
    codes = ("pair-missing", "comes-never")
    for _ in codes:
        found = [each for each in check(app, records) if each.code in codes]
        made = mended(app, types, found[0])
        assert made is not None
        app = made
    assert not [each for each in check(app, records) if each.code in codes]
    link = by_id(app.links, "to-hut")
    assert link is not None
    assert link.transition is not None
    assert (link.comes, len(link.transition.pairs)) == ("at once", 1)


@needs_node
def test_12_the_kit_flies_from_facts_as_well() -> None:
    app = WiredApp(of_a_fact(), small_records())
    events = [
        *(do.Choose(screen="huts", key="h1"), do.Choose(screen="hut", list="rooms", key=2)),
        *(do.OpenFact(screen="room", fact="hut"), do.Back()),
    ]
    assert kit_differs(app, POCKET, events) == [None] * 5


def glided(*events: do.Event, sort: tuple[Sort, ...] = ()) -> Gliding | None:
    """How rows move by the last of some events in the small app."""
    app = small_app()
    listing = replace(app.screens[0].rows, where=(), groups=(), group_by="", sort=sort)  # type: ignore[union-attr]
    run = Run(with_screen(app, "huts", rows=listing))
    run(*events[:-1])
    before = run.session
    run(events[-1])
    if not is_otherwise_ordered(before, run.session):
        return None
    scenes = (lay_out(run.app, each, POCKET) for each in (before, run.session))
    return rows_moved(*scenes)


def test_12_rows_go_to_their_other_place_from_where_they_were() -> None:
    gliding = glided(do.Remove(source="huts", key="h1"))
    assert gliding is not None
    moved = {key for _, _, key in gliding.by}
    assert "h0" not in moved
    assert {"h2", "h3"} <= moved
    (tall,) = set(gliding.by.values())
    assert tall[0] == 0
    assert tall[1] > 0

    def top(at: float) -> float:
        scene = frame_of(gliding, at)
        return next(e.y for e in scene.boxes if e.kind == "row" and e.key == "h2")

    places = [top(at) for at in (0, 60, 120, 249)]
    assert places == sorted(places, reverse=True)
    assert places[0] - top(GLIDES) == tall[1]
    assert frame_of(gliding, GLIDES) is gliding.end


def test_12_an_other_order_moves_rows_and_what_is_searched_or_scrolled_does_not() -> None:
    by = (Sort(field="id", descending=True),)
    sorted_again = glided(do.Scroll(to=10_000), do.SortBy(by=by), do.SortBy(by=()))
    assert sorted_again is None, "none of what is in view at the top was in view at the end"
    renamed = do.Edit(source="huts", key="h1", fields={"name": "Hut 0025"})
    assert glided(renamed) is None
    gliding = glided(renamed, sort=(Sort(field="name"),))
    assert gliding is not None
    assert {by[1] for _, by in gliding.by.items()} != {0}
    for event in (do.Scroll(by=100), do.Search(text="hut 2"), do.Turn(), do.Choose(key="h1")):
        assert glided(event) is None
