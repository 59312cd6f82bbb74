"""Sessions, what is measured and history, without a window: what the document joins."""

from __future__ import annotations

from msgspec.structs import replace

from builders import small_app, small_records, with_screen
from cadena.check.check import Reading, read_through
from cadena.desktop.document.measured import Measured
from cadena.desktop.document.sessions import MOST_WINDOWS, Sessions
from cadena.engine.events import Choose, Turn
from cadena.engine.session import sized
from cadena.engine.wired import WiredApp
from cadena.model.app import App

RECORDS = small_records()


def sessions_of(app: App | None = None) -> Sessions:
    wired = WiredApp(app or small_app(), RECORDS)
    made = Sessions(wired, sized(360, 780))
    made.begin(wired)
    return made


def test_what_happens_is_traced_and_a_refusal_changes_nothing() -> None:
    made = sessions_of()
    made.do(Choose(key="h2"))
    assert [each.screen for each in made.session.entries] == ["huts", "hut"]
    before = made.session
    made.do(Choose(key="nobody", screen="huts"))
    assert made.session is before
    assert [each.refused for each in made.trace] == [False, False, True]
    made.go_back_to(0)
    assert [each.screen for each in made.session.entries] == ["huts"]
    assert len(made.trace) == 3
    made.do(Choose(key="h3"))
    assert [each.event for each in made.trace] == [None, Choose(key="h3")]
    assert made.run() == (sized(360, 780), (Choose(key="h3"),))


def test_windows_show_one_session_until_each_has_its_own() -> None:
    made = sessions_of()
    assert made.add(sized(820, 1180))
    made.do(Choose(key="h2"))
    assert [each.screen for each in made.shown(1).entries] == ["huts", "hut"]
    made.set_apart(True)
    made.do(Choose(key="h3", screen="huts"))
    made.do(Turn())
    assert made.shown(1).entries[1].arguments == {"hut": "h2"}
    made.make_live(1)
    assert made.session.window == sized(820, 1180)
    made.remove(0)
    assert (len(made), made.live) == (1, 0)


def test_there_is_room_for_so_many_windows() -> None:
    made = sessions_of()
    found = [made.add(sized(300 + number, 600)) for number in range(MOST_WINDOWS)]
    assert found == [True] * (MOST_WINDOWS - 1) + [False]


def test_an_edit_reads_again_only_what_it_touched() -> None:
    app = small_app()
    reading = Reading()
    before = reading.read(WiredApp(app, RECORDS), RECORDS)
    edited = with_screen(app, "room", title="")
    after = reading.read(WiredApp(edited, RECORDS), RECORDS)
    assert after == read_through(edited, RECORDS)
    assert {each.code for each in set(after) - set(before)} == {"title-missing"}
    # What the edit has not touched is the very finding that was found before.
    known = {id(each) for each in before}
    same = [each for each in after if each in before and each.screen]
    assert all(id(each) in known for each in same)


def test_what_was_found_is_never_told_of_another_app() -> None:
    app = with_screen(small_app(), "room", title="")
    measured = Measured(WiredApp(app, RECORDS))
    measured.go_on_with(WiredApp(app, RECORDS), RECORDS)
    assert not measured.findings
    assert measured.read()
    assert "title-missing" in [each.code for each in measured.findings]
    other = replace(app, name="Other")
    measured.go_on_with(WiredApp(other, RECORDS), RECORDS)
    assert not measured.findings
    assert not measured.is_read
