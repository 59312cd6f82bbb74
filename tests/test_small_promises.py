"""Promises that hang on one line each: copies, keys written otherwise, pages, focus, windows."""

from __future__ import annotations

from types import SimpleNamespace
from typing import Any

import polars as pl
import pytest
from msgspec.structs import replace

from builders import DESK, POCKET, SLATE, Run, small_app, small_records, with_screen
from cadena.deliver.drive.as_a_person import as_a_person
from cadena.deliver.drive.driving import differences
from cadena.deliver.drive.reading import Reading, ReadPane, ReadRow
from cadena.desktop.document.bench_windows import remove_window
from cadena.desktop.document.sessions import Sessions
from cadena.engine import events as do
from cadena.engine.layout.sizes import TWO_LINES
from cadena.engine.session import Question
from cadena.engine.wired import WiredApp
from cadena.model.app import Link, Trigger
from cadena.model.blocks import PageBlock
from cadena.model.edits.shaping import copied
from cadena.model.find import by_id
from cadena.model.listing import Button, SetField
from cadena.model.source import Source
from cadena.records.records import Records
from cadena.runs.walks.trace import trace_line
from cadena.sources.read_file import typed


def test_a_copy_of_a_screen_has_links_of_its_own() -> None:
    app = small_app()
    again = Link(id="again", trigger=Trigger(screen="hut", on="button", part="ask"), to="hut")
    app = replace(app, links=(*app.links[:3], again))
    hut = by_id(app.screens, "hut")
    assert hut is not None
    made, copy = copied(app, hut)
    of = [each for each in made.links if each.trigger.screen == copy.id]
    assert [(each.trigger.on, each.trigger.part, each.to) for each in of] == [
        ("row", "rooms", "room"),
        ("button", "book", "book"),
        ("button", "ask", copy.id),
    ]
    assert len({each.id for each in made.links}) == len(made.links) == 7
    assert [each for each in made.links if each.trigger.screen == "hut"] == list(app.links[1:])


@pytest.mark.parametrize("count", [3, 5_000])
def test_a_date_and_time_as_key_is_found_however_it_is_written(count: int) -> None:
    """Of few records and of many: the same moment is the same key."""
    start = pl.datetime(2026, 1, 7, 9, 30)
    frame = pl.select(when=pl.datetime_range(start, start + pl.duration(minutes=count - 1), "1m"))
    records: Records = typed(Source(id="at", file="at.csv", key="when"), frame)
    assert records.types["when"] == "date and time"
    for told in ("2026-01-07T09:31:00Z", "2026-01-07T09:31:00+00:00", "2026-01-07T10:31:00+01:00"):
        assert records.row_of(told) == 1, told
    assert records.row_of("2026-01-07T09:31:30Z") is None


def test_a_person_turns_to_the_page_that_has_the_row() -> None:
    hut = by_id(small_app().screens, "hut")
    assert hut is not None
    heading, rooms, actions = hut.blocks  # type: ignore[union-attr]
    acts = (Button(id="full", label="Full", does=SetField(field="name", to="Full")),)
    rooms = replace(rooms, rows=replace(rooms.rows, actions=acts))
    first, second = PageBlock(id="one", title="One"), PageBlock(id="two", title="Two")
    app = with_screen(small_app(), "hut", blocks=(first, heading, second, rooms, actions))
    run = Run(app, POCKET).choose("h1")
    act = do.Act(screen="hut", entry=1, list="rooms", key=3, action="full")
    events = [type(each) for each in as_a_person(run.app, run.session, act)]
    assert events[0] is do.TurnPage
    run(do.TurnPage(screen="hut", entry=1, to="two"))
    events = [type(each) for each in as_a_person(run.app, run.session, act)]
    assert do.TurnPage not in events


def test_the_focus_is_compared_but_for_what_lies_over_all() -> None:
    run = Run(small_app(), SLATE).choose("h1")
    line = trace_line(run.app, run.session, None, ())
    panes = tuple(ReadPane(e.place, e.screen, e.x, e.width) for e in line.display)
    reading = Reading(phase="running", section="huts", panes=panes, focus="elsewhere")

    def compared(session: Any) -> set[str]:
        return {each.what for each in differences(run.app, session, line, reading)}

    asked = Question("Sure?", "Yes", "No", do.Back())
    assert "focus" in compared(run.session)
    assert "focus" not in compared(replace(run.session, question=asked))
    assert "focus" not in compared(replace(run.session, sections_open=True))


def first_differs(offset: float, row: str, above: float) -> bool:
    """Whether a page that shows so is told, of a list that is scrolled so far."""
    run = Run(small_app(), POCKET, count=40)(do.Scroll(screen="huts", to=offset))
    line = trace_line(run.app, run.session, None, ())
    (pane,) = line.display
    first = ReadRow(list="", key=row)
    read = ReadPane(
        pane.place, pane.screen, pane.x, pane.width, first=first, first_part="", above=above
    )
    reading = Reading(phase="running", section="huts", panes=(read,))
    found = differences(run.app, run.session, line, reading)
    return any(each.what.startswith(("first row", "above the edge")) for each in found)


def test_what_ends_within_a_pixel_of_the_edge_may_be_first_in_view_or_not() -> None:
    # h11 begins at 640, and h10 is as high as two lines.
    assert not first_differs(639.6, "h10", TWO_LINES - 0.4)
    assert not first_differs(639.6, "h11", 0.0)
    assert first_differs(636, "h11", 0.0)
    assert first_differs(639.6, "h12", 0.0)
    assert first_differs(639.6, "h10", TWO_LINES - 4)


def sessions(*windows: Any) -> Sessions:
    made = Sessions(WiredApp(small_app(), small_records(4)), POCKET)
    made.begin(made.wired)
    for each in windows:
        made.add(each)
    return made


def test_an_edit_that_takes_something_of_the_run_away_is_a_line_of_it() -> None:
    made = sessions()
    made.do(do.Choose(key="h1", screen="huts"))
    lines = len(made.trace)
    made.go_on_with(WiredApp(small_app(name="Other"), small_records(4)))
    assert len(made.trace) == lines
    without = replace(small_app(), screens=tuple(e for e in small_app().screens if e.id != "hut"))
    made.go_on_with(WiredApp(without, small_records(4)))
    assert len(made.trace) == lines + 1
    assert made.trace[-1].event is None
    assert made.trace[-1].notes
    assert [each.screen for each in made.session.entries] == ["huts"]


@pytest.mark.parametrize("apart", [False, True])
def test_a_window_before_the_live_one_is_removed_and_it_stays_live(apart: bool) -> None:
    made = sessions(SLATE, DESK)
    made.set_apart(apart)
    made.make_live(2)
    made.do(do.Choose(key="h1", screen="huts"))
    before = made.session
    made.remove(0)
    assert (made.live, len(made)) == (1, 2)
    assert made.shown(made.live) == before
    made.make_live(0)
    assert made.session.window == SLATE


@pytest.mark.parametrize("apart", [False, True])
@pytest.mark.parametrize("live", [0, 1, 2])
def test_the_live_window_is_removed_and_another_goes_on_with_its_session(
    apart: bool, live: int
) -> None:
    made = sessions(SLATE, DESK)
    made.set_apart(apart)
    made.make_live(live)
    made.do(do.Choose(key="h1", screen="huts"))
    document: Any = SimpleNamespace(sessions=made, tell=lambda _: None)
    remove_window(document, live)
    assert len(made) == 2
    assert made.live < 2
    windows = [POCKET, SLATE, DESK]
    del windows[live]
    assert [made.window(each) for each in range(2)] == windows
    assert made.session.window == windows[made.live]
    assert (len(made.session.entries) == 2) is not apart
    remove_window(document, 1)
    remove_window(document, 0)
    assert len(made) == 1
