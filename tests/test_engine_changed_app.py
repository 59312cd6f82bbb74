"""An app that is changed while it runs keeps all that still fits: rule 8.1."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from builders import POCKET, Run, small_app, with_link, with_screen
from cadena.engine import events as do
from cadena.engine.step import resume
from cadena.engine.wired import WiredApp
from cadena.model.app import App, AppValue, FromConstant, Keep
from stays import stays, stays_app
from test_engine_late import late


def changed(run: Run, app: App, **records: Any) -> Run:
    """The run gone on with an app that has been changed under it."""
    before = run.app
    run.app = WiredApp(app, before.as_read)
    run.session, run.notes = resume(run.app, run.session, before)
    return run


def renamed(run: Run) -> App:
    return replace(run.app.app, name="Another name")


def test_8_1_the_clock_and_the_calls_under_way_go_on() -> None:
    run = late()(do.Wait(ms=100))
    assert len(run.session.requests) == 1
    changed(run, renamed(run))
    assert run.session.clock == 100
    assert [each.number for each in run.session.requests] == [1]
    run(do.Wait(ms=250))
    assert run.session.entries[0].loads[""].brought == 1


def test_8_1_pages_that_have_come_stay() -> None:
    run = late()(do.Wait(ms=400), do.Scroll(to=900.0), do.Wait(ms=400))
    brought = run.session.entries[0].loads[""].brought
    assert brought >= 2
    calls = run.session.calls
    changed(run, renamed(run))
    assert run.session.entries[0].loads[""].brought == brought
    assert run.session.calls == calls


def test_8_1_no_number_of_a_call_is_used_twice() -> None:
    """A late answer for one list is never taken as another's."""
    run = late(served="service").choose("h1")
    assert run.session.calls >= 1
    calls = run.session.calls
    app = run.app.app
    other = replace(app.sources[0], served="file")
    changed(run, replace(app, sources=(other, *app.sources[1:])))
    assert run.session.requests == ()
    assert run.session.calls == calls
    changed(run, app)
    assert all(each.number > calls for each in run.session.requests)
    before = run.session
    run(do.Answered(request=1, records=({"id": "h0", "name": "Late"},)))
    assert run.kinds == ["late"]
    assert run.session.entries == before.entries


def test_8_1_a_question_stays_while_what_it_asks_of_is_there() -> None:
    run = stays()(do.Act(screen="stays", key=3, action="remove"))
    assert run.session.question is not None
    asked = run.session.question.text
    changed(run, renamed(run))
    assert run.session.question is not None
    assert run.session.question.text == asked
    without = replace(stays_app().screens[4].rows, actions=())  # type: ignore[union-attr]
    changed(run, with_screen(stays_app(), "stays", rows=without))
    assert run.session.question is None
    assert not run(do.Choose(screen="stays", key=3)).refused


def test_8_1_so_do_an_open_menu_and_what_can_be_put_back() -> None:
    run = stays()(do.Act(screen="stays", key=3, action="drop"))
    run(do.Press(screen="stays", button="new"), do.Back())
    run(do.Act(screen="stays", key=4, action="remove"), do.Decide(yes=True))
    assert run.session.removal is not None
    changed(run, renamed(run))
    assert run.session.removal is not None
    run(do.Undo(), do.OpenMenu(screen="stays", key=1))
    changed(run, renamed(run))
    assert run.session.menu is not None
    without = replace(stays_app().screens[4].rows, actions=())  # type: ignore[union-attr]
    changed(run, with_screen(stays_app(), "stays", rows=without))
    assert run.session.menu is None


def test_8_1_a_draft_and_where_it_stands_stay() -> None:
    run = stays()(do.Press(button="new"), do.Type(field="guest", to="Ada"))
    before = run.session
    changed(run, renamed(run))
    assert run.session == before


def test_8_1_what_is_stored_of_a_screen_goes_to_no_other_that_is_open() -> None:
    """The same list twice in one chain: one was searched, which is stored, the other was not."""
    app = with_screen(small_app(), "huts", keep=Keep(search="stored"))
    run = Run(with_link(app, "book", to="huts", how="push", arguments=()))
    run(do.Choose(key="h1"), do.Press(button="book"), do.Search(text="Hut 001"))
    was = run.session.entries
    assert [each.view.search for each in was] == [{}, {}, {"": "Hut 001"}]
    changed(run, renamed(run))
    assert run.session.entries == was


def test_8_1_only_what_no_longer_fits_goes() -> None:
    run = Run().choose("h1")(do.Choose(list="rooms", key=2), do.GoTo(section="again")).choose("h2")
    gone = small_app()
    gone = replace(gone, screens=tuple(each for each in gone.screens if each.id != "room"))
    changed(run, gone)
    assert "dropped" in run.kinds
    assert [each.screen for each in run.session.chains["huts"].entries] == ["huts", "hut"]
    assert run.chain == ["huts", "hut"]
    assert run.session.section == "again"


def test_8_1_values_stay_and_new_ones_begin_with_their_default() -> None:
    app = replace(small_app(), values=(AppValue(id="tone", default="low"),))
    run = Run(app)(do.SetValue(value="tone", to=None))
    more = replace(app, values=(*app.values, AppValue(id="more", default="yes")))
    changed(run, more)
    assert run.session.values == {"more": "yes"}
    changed(run, replace(app, values=(AppValue(id="tone", type="number", default=2.0),)))
    assert run.session.values == {}


def test_8_1_a_section_with_another_root_starts_there() -> None:
    run = Run().choose("h1")
    app = small_app()
    marked = replace(app.screens[0], id="others")
    sections = (replace(app.sections[0], root="others"), app.sections[1])
    changed(run, replace(app, screens=(*app.screens, marked), sections=sections))
    assert run.chain == ["others"]


def test_8_1_an_app_that_was_ended_is_not_started_by_an_edit() -> None:
    run = Run(window=POCKET).choose("h1")(do.Kill())
    kept = run.session.kept
    text = FromConstant(parameter="hut", constant="h1")
    changed(run, with_link(small_app(), "open", arguments=(text,)))
    assert run.session.phase == "killed"
    assert run.session.kept == kept
