"""The worked example of rules.md, line by line."""

from __future__ import annotations

from builders import DEMO, POCKET, SLATE, Run, small_app
from cadena.engine import events as do
from cadena.engine.rules.back import back_label
from cadena.engine.rules.lists import chosen_row, offset_of
from cadena.engine.session import from_json, to_json
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.sources.open_project import open_project


def test_the_worked_example() -> None:
    run = Run(window=POCKET)
    assert run.shown == ["huts"]
    run.choose("h2")
    assert run.shown == ["hut"]
    assert back_label(run.app, run.session) == "Huts"
    run.choose(4, "hut", "rooms")
    assert run.shown == ["room"]
    assert back_label(run.app, run.session) == "Hut 002"
    run.resize(SLATE)
    assert run.shown == ["huts", "room"]
    assert chosen_row(run.session, 0).key == "h2"  # type: ignore[union-attr]
    run.choose("h5")
    assert run.shown == ["huts", "hut"]
    run(do.Press(button="book"))
    assert run.shown == ["huts", "hut", "book"]
    assert run.arguments == {"hut": "h5"}
    before = run.session.entries
    run.resize(POCKET)
    assert run.session.entries == before
    assert run.shown == ["hut", "book"]
    run(do.Back())
    assert run.shown == ["hut"]
    run(do.Kill(), do.Restore())
    assert run.shown == ["hut"]
    run(do.Back())
    assert run.shown == ["huts"]
    assert run.session.entries[0].view.last == {"": "h5"}
    run.resize(SLATE)
    assert run.shown == ["huts", "-"]


def test_a_killed_app_comes_back_scrolled_where_it_was() -> None:
    run = Run(window=SLATE).choose("h2")(do.Scroll(screen="huts", by=333.0))
    area = run.app.arrangements[1]
    assert area.panes == 2
    from cadena.engine.rules.display import display_of

    place = display_of(run.app, run.session).area_of(0)
    assert place is not None
    before = offset_of(run.app, run.session, 0, place)
    run(do.Kill(), do.Restore())
    assert offset_of(run.app, run.session, 0, place) == before > 0


def test_the_engine_is_pure() -> None:
    """The same events on another app object, and through JSON, give the same session."""
    project = open_project(DEMO / "cresta")
    events = [
        do.Choose(key="mor"),
        do.Turn(),
        do.Kill(),
        do.Restore(),
        do.Back(),
        do.Remove(source="huts", key="mor"),
    ]
    sessions = []
    for through_json in (False, True):
        app = WiredApp(project.app, project.records)
        session, _ = start(app, POCKET)
        for event in events:
            before = to_json(session)
            session, *_ = step(app, from_json(before) if through_json else session, event)
        sessions.append(to_json(session))
    assert sessions[0] == sessions[1]


def test_a_session_is_plain_json() -> None:
    run = Run().choose("h2")(
        do.Search(screen="hut", text="x"), do.Scroll(by=100.0), do.SetValue(value="x")
    )
    assert from_json(to_json(run.session)) == run.session
    assert small_app().start == run.session.section
