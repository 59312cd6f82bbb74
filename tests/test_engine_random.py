"""The engine's promises, on random small apps under random events."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from builders import (
    POCKET,
    SLATE,
    small_app,
    small_records,
    with_arrangement,
    with_link,
    with_screen,
)
from cadena.engine import events as do
from cadena.engine.rules.display import base_length, display_of
from cadena.engine.session import LAYERS, Session, Window, from_json, to_json
from cadena.engine.step import seen_in, start, step
from cadena.engine.wired import WiredApp
from cadena.model.app import App, Arrangement, Keep, Range, Side, When
from cadena.model.listing import Sort
from cadena.runs.walks.trace import to_line, trace_line
from cadena.scene.lay_out import lay_out
from long_form import examples

HOWS = st.sampled_from(["push", "beside", "replace", "modal", "popover"])
LIVES = st.sampled_from(["view", "entry", "saved", "stored"])
WISHES = st.sampled_from(["say so", "open first", "open last"])
RECORDS = small_records(6)


@st.composite
def apps(draw: st.DrawFn) -> App:
    """The small app with its links, lists and arrangements wired anyhow."""
    app = small_app()
    for link in app.links:
        app = with_link(app, link.id, how=draw(HOWS))
    app = with_screen(
        app, "huts", nothing_chosen=draw(WISHES), keep=Keep(scroll=draw(LIVES), search=draw(LIVES))
    )
    groups = draw(st.sampled_from(["fixed", "open", "closed"]))
    rows = replace(app.screens[0].rows, group_by=draw(st.sampled_from(["", "note"])))
    app = with_screen(app, "huts", rows=replace(rows, groups_start=groups))
    app = with_screen(app, "hut", when_gone=draw(st.sampled_from(["say so", "close", "next"])))
    app = with_arrangement(
        app,
        "one",
        over=draw(st.booleans()),
        detail_first=draw(st.sampled_from(["no", "open first", "open last"])),
        bar=draw(st.sampled_from(["bottom", "button", "top", "none"])),
    )
    side = Side(blocks=("rooms",), least=draw(st.sampled_from([200, 640])))
    app = with_screen(app, "hut", side=draw(st.none() | st.just(side)))
    back = draw(st.sampled_from(["leave", "close"]))
    app = with_arrangement(app, "two", back=back, panes=draw(st.sampled_from([2, 3])))
    wide = Arrangement(
        id="wide",
        when=When(width=Range(least=1100)),
        panes=3,
        bar=draw(st.sampled_from(["rail", "wide rail"])),
        first=draw(st.sampled_from(["scrolls", "stays"])),
    )
    sections = tuple(replace(each, keep=draw(LIVES)) for each in app.sections)
    return replace(app, arrangements=(wide, *app.arrangements), sections=sections)


HUT_KEYS = st.sampled_from([f"h{n}" for n in range(7)])
ROOM_KEYS = st.integers(0, 12)
SCREENS = st.sampled_from(["", "huts", "hut", "room", "book"])
SIZES = st.sampled_from([(360, 780), (780, 360), (820, 1180), (1280, 800), (198, 242), (640, 300)])
GROUPS = st.sampled_from(
    ["–", *sorted({e["note"] or "–" for e in RECORDS["huts"].frame.to_dicts()})]
)
EVENTS = st.one_of(
    st.builds(do.Choose, key=HUT_KEYS, screen=SCREENS),
    st.builds(do.Choose, key=ROOM_KEYS, list=st.just("rooms")),
    st.builds(do.Press, button=st.sampled_from(["book", "ask", "gone"])),
    st.builds(do.Scroll, by=st.floats(-600, 600), screen=SCREENS),
    st.builds(do.Search, text=st.sampled_from(["", "hut", "0 n", "zz"]), screen=SCREENS),
    st.builds(do.ShowGroup, title=GROUPS, open=st.booleans(), screen=st.just("huts")),
    st.builds(do.SortBy, by=st.just((Sort(field="name", descending=True),))),
    st.builds(do.Move, to=st.sampled_from(["up", "down", "home", "end", "page up", "page down"])),
    st.builds(do.GoTo, section=st.sampled_from(["huts", "again"])),
    st.builds(lambda size: do.Resize(width=size[0], height=size[1]), SIZES),
    st.builds(do.SetText, size=st.sampled_from([1.0, 1.5, 2.0, 2.5])),
    st.builds(do.ReadFrom, side=st.sampled_from(["left", "right"])),
    st.builds(do.Remove, source=st.just("huts"), key=HUT_KEYS),
    st.builds(
        do.Edit, source=st.just("huts"), key=HUT_KEYS, fields=st.just({"name": "A", "note": None})
    ),
    *(
        st.just(each())
        for each in (
            do.Enter,
            do.Back,
            do.Back,
            do.Turn,
            do.Sleep,
            do.Wake,
            do.Kill,
            do.Restore,
            do.Relaunch,
            do.PressOutside,
            do.SlideList,
            do.OpenSections,
        )
    ),
)


@given(apps(), st.lists(EVENTS, max_size=30))
@settings(max_examples=examples(150))
def test_random_events_keep_the_promises(model: App, events: list[Any]) -> None:
    app = WiredApp(model, RECORDS)
    session, _ = start(app, POCKET)
    for event in events:
        before = session
        session, notes, _ = step(app, before, event)
        if notes and notes[0].kind == "refused":
            assert session is before
        assert from_json(to_json(session)) == session
        assert_sound(app, session)


def assert_sound(app: WiredApp, session: Session) -> None:
    """What must hold of every session, whatever has happened."""
    if session.phase == "killed":
        assert session.entries == ()
        return
    for chain in session.chains.values():
        assert chain.entries
        assert chain.entries[0].opened == "root"
        base = base_length(chain.entries)
        for index, entry in enumerate(chain.entries):
            assert (entry.opened == "root") == (index == 0)
            assert entry.opened != "beside" or index < base
            required = [
                each.name
                for each in app.screens[entry.screen].parameters
                if each.need == "required"
            ]
            assert set(required) <= set(entry.arguments)
    display = display_of(app, session)
    width = session.window.room[0]
    assert 1 <= len(display.panes) <= display.arrangement.panes
    assert (
        abs(sum(each.area.width for each in display.panes) + display.panes[0].area.x - width) < 1e-6
    )
    assert (display.layer is not None) == any(each.opened in LAYERS for each in session.entries)
    trace_line(app, session, None, ())


@given(apps(), st.lists(EVENTS, max_size=20))
@settings(max_examples=examples(100))
def test_from_everywhere_finitely_many_backs_leave(model: App, events: list[Any]) -> None:
    app = WiredApp(model, RECORDS)
    session, _ = start(app, SLATE)
    for event in events:
        session, *_ = step(app, session, event)
    for wakes in (do.Wake(), do.Restore(), do.Wake()):
        session, *_ = step(app, session, wakes)
    length = sum(len(each.entries) for each in session.chains.values())
    for _ in range(2 * length + 4):
        if session.phase == "left":
            return
        session, *_ = step(app, session, do.Back())
    raise AssertionError(f"still here after {2 * length + 4} backs: {to_json(session)}")


@given(apps(), st.lists(EVENTS, max_size=20), SIZES)
@settings(max_examples=examples(100))
def test_resizing_there_and_back_changes_no_entry_opened_by_hand(
    model: App, events: list[Any], size: tuple[int, int]
) -> None:
    model = replace(model, platform=replace(model.platform, rebuilds=()))
    model = with_screen(model, "huts", keep=Keep(scroll="saved", search="saved"))
    app = WiredApp(model, RECORDS)
    session, _ = start(app, SLATE)
    for event in events:
        session, *_ = step(app, session, event)
    if session.phase == "killed":
        return
    width, height = session.window.size
    there, *_ = step(app, session, do.Resize(width=size[0], height=size[1]))
    back, *_ = step(app, there, do.Resize(width=width, height=height))
    for name, chain in session.chains.items():
        by_hand = [each for each in chain.entries if each.by == "hand"]
        for now in (there, back):
            assert [each for each in now.chains[name].entries if each.by == "hand"] == by_hand
    if not session.slid:
        assert back.entries == session.entries


@given(apps(), st.lists(EVENTS, max_size=15))
@settings(max_examples=examples(50))
def test_the_same_walk_gives_the_same_trace(model: App, events: list[Any]) -> None:
    traces = []
    for _ in range(2):
        app = WiredApp(model, small_records(6))
        session, notes = start(app, POCKET)
        lines = [to_line(trace_line(app, session, None, notes))]
        for event in events:
            session, notes, _ = step(app, session, event)
            lines.append(to_line(trace_line(app, session, event, notes)))
        traces.append("\n".join(lines))
    assert traces[0] == traces[1]


@given(apps(), st.lists(EVENTS, max_size=15), SIZES, st.sampled_from([1.0, 2.0]), st.booleans())
def test_a_session_seen_in_another_window_loses_nothing(
    app: App, events: list[do.Event], size: tuple[float, float], text: float, rtl: bool
) -> None:
    wired = WiredApp(app, RECORDS)
    session, _ = start(wired, POCKET)
    for event in events:
        session, *_ = step(wired, session, event)
    window = Window(float(size[0]), float(size[1]), text=text, rtl=rtl)
    seen = seen_in(wired, session, window)
    scene = lay_out(wired, seen, window)
    assert (scene.width * text, scene.height * text) == pytest.approx(window.size)
    for name, chain in session.chains.items():
        kept = [each for each in chain.entries if each.by == "hand"]
        assert [each for each in seen.chains[name].entries if each.by == "hand"] == kept
    assert all(box.x >= -1 or box.clip is not None for box in scene.boxes if box.kind == "screen")
