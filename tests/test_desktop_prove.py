"""Prove, driven as a person would, in a real window."""

from __future__ import annotations

from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from builders import small_app, small_records, with_link
from cadena.desktop.document.lit import Lit
from cadena.desktop.document.proven import Proven
from cadena.desktop.document.proving import proving_of
from cadena.desktop.document.selection import SelectedLink, SelectedWalk
from cadena.desktop.stages.prove.selected import SelectedClaim, SelectedReach
from cadena.desktop.widgets.answers import AnswerTable, in_lines
from cadena.engine import events as do
from cadena.model.app import App
from cadena.model.file.project_file import encode
from cadena.model.find import by_id
from cadena.runs.walks.walk import read_walk
from test_desktop import LEFT, Person


def project(folder: Path, app: App) -> Path:
    """A small project on disk."""
    folder.mkdir()
    (folder / "small.cadena").write_text(encode(app))
    for name, records in small_records(6).items():
        records.frame.write_json(folder / f"{name}.json")
    return folder


@pytest.fixture
def proved(qtbot: QtBot, tmp_path: Path) -> Person:
    """Somebody in Prove, with an app whose button opens its own screen again."""
    person = Person(
        qtbot, project(tmp_path / "p", with_link(small_app(), "book", to="hut", how="push"))
    )
    person.window.go_to_stage("Prove")
    proving_of(person.document).finish()
    person.picture, person.strip = person.window.stage.picture, person.window.stage.strip
    return person


def click(person: Person, claim: str, column: str) -> None:
    """Click the answer of a claim in an arrangement."""
    table: AnswerTable = person.picture
    row = [each.about for each in table.answers.lines].index(claim)
    index = table.answers.index(row, table.answers.columns.index(column))
    table.scrollTo(index)
    at = table.visualRect(index).center()
    QTest.mouseClick(table.viewport(), LEFT, Qt.KeyboardModifier.NoModifier, at)


def write(person: Person, name: str, text: str) -> None:
    """Write into a field of that name, and press Enter."""
    field = person.field(name)
    field.selectAll()
    person.qtbot.keyClicks(field, text)
    person.key(field, Qt.Key.Key_Return)


def answer(person: Person, claim: str) -> str:
    proof = person.document.own(Proven).proof
    assert proof is not None
    return next(each.answer for each in proof.claims if each.claim.name == claim)


def test_a_broken_claim_is_shown_played_kept_and_mended(proved: Person) -> None:
    click(proved, "copy", "one")
    assert proved.document.selection == SelectedClaim("copy", "links[book]")
    said = proved.words()
    assert "hut lies on itself, for the same hut h0" in said
    assert "in every window; 2 events" in said
    film = proved.window.stage.film.film
    assert [each.link for each in film.frames] == ["", "choose h0", "press book"]
    assert 'expected ["huts","hut"], got ["huts","hut","hut"]' in film.frames[-1].said
    film.grab()
    proved.press("play the walk")
    assert proved.chain == ["huts", "hut", "hut"]
    proved.press("keep it as a walk")
    assert proved.document.selection == SelectedWalk("copy-book")
    steps = read_walk(proved.document.file.parent / "walks" / "copy-book.json")
    assert isinstance(steps[0], do.Resize)
    click(proved, "copy", "one")
    proved.press("go back to hut where it is open")
    link = by_id(proved.document.app.links, "book")
    assert link is not None
    assert link.if_open == "go back to it"
    assert not proved.picture.answers.is_fresh
    assert not proving_of(proved.document).work.is_done
    proved.press("look now")
    assert proved.picture.answers.is_fresh
    assert answer(proved, "copy") == answer(proved, "grows") == "holds everywhere"
    proved.document.undo()
    assert not proved.picture.answers.is_fresh


def test_the_answers_by_keyboard_and_in_words(proved: Person) -> None:
    click(proved, "copy", "one")
    proved.key(proved.picture, Qt.Key.Key_Right)
    assert proved.document.selection == SelectedClaim("copy", "links[book]")
    proved.key(proved.picture, Qt.Key.Key_Return)
    assert proved.chain == ["huts", "hut", "hut"]
    index = proved.picture.currentIndex()
    said = proved.picture.answers.data(index, Qt.ItemDataRole.AccessibleTextRole)
    assert said.startswith("No screen lies on a copy of itself, two: hut lies on itself")
    link = next(each for each in proved.window.chain.links if each.name == "Prove")
    assert link.open == 2
    assert in_lines("list beside detail") == "list beside\ndetail"


def test_what_is_not_claimed_somewhere_is_set_aside_with_why(proved: Person) -> None:
    click(proved, "copy", "one")
    write(proved, "why it is not claimed here", "twins are meant")
    assert proved.document.app.aside[0].why == "twins are meant"
    proving_of(proved.document).finish()
    assert answer(proved, "copy") != "broken"
    assert "not claimed at links[book]: twins are meant" in proved.words()
    proved.press("claim it again at links[book]")
    assert proved.document.app.aside == ()


def test_a_claim_of_ones_own_is_said_in_a_sentence(proved: Person) -> None:
    proved.document.select(SelectedClaim(""))
    proved.press("a claim of your own")
    assert proved.document.app.claims[0].id == "claim"
    proved.press("never")
    proved.take("ask for more", "it shows Hut")
    assert proved.document.app.claims[0].so.shows == ("hut",)
    proving_of(proved.document).finish()
    assert answer(proved, "claim") == "broken"
    assert "Never hut on display" in proved.words()
    proved.press("do not ask for shows hut")
    proved.press("always")
    proved.take("ask for more", "it takes at most 3 backs to leave")
    write(proved, "how many backs", "nine")
    assert proved.document.app.claims[0].so.backs == 3
    write(proved, "how many backs", "9")
    assert proved.document.app.claims[0].so.backs == 9
    proved.press("remove this claim")
    assert proved.document.app.claims == ()


def test_what_was_reached_lights_the_board(proved: Person) -> None:
    proved.press("what was reached")
    assert [each.words for each in proved.picture.answers.lines][:2] == [
        "screen  Huts",
        "screen  Hut",
    ]
    row = [each.about for each in proved.picture.answers.lines].index("links[ask]")
    proved.picture.chosen.emit(row, 0)
    assert proved.document.selection == SelectedReach("links[ask]")
    assert "is reached in one, two" in proved.words()
    proved.press("light the board for two")
    lit = proved.document.own(Lit)
    assert lit.is_on
    assert {"huts", "hut", "room", "book"} <= lit.screens
    assert proved.document.stage == "Link"
    proved.window.stage.picture.grab()
    proved.press("light all of the board")
    assert not lit.is_on


def test_recorded_walks_stand_against_windows(proved: Person) -> None:
    click(proved, "grows", "two")
    proved.press("keep it as a walk")
    proved.press("walks")
    lines = proved.picture.answers.lines
    assert [each.about for each in lines] == ["grows-book"]
    assert {each.tone for each in lines[0].cells} == {"broken"}
    assert len(lines[0].cells) == 5


def test_it_looks_by_itself_and_can_be_stopped(proved: Person, qtbot: QtBot) -> None:
    proved.document.edit("name", with_link(proved.document.app, "ask", how="push"))
    assert not proved.document.own(Proven).is_fresh
    proved.press("stop looking")
    assert proved.document.own(Proven).is_fresh
    assert "no more time" in " ".join(
        each.unfinished for each in proved.document.own(Proven).proof.reached
    )
    proved.document.undo()
    qtbot.waitUntil(lambda: proved.document.own(Proven).is_fresh, timeout=60_000)
    assert answer(proved, "label") == "holds everywhere"


def test_the_link_of_a_cause_is_shown_on_the_board(proved: Person) -> None:
    click(proved, "copy", "one")
    proved.press("show it on the board")
    assert proved.document.stage == "Link"
    assert proved.document.selection == SelectedLink("book")
    proved.strip = proved.window.stage.strip
    assert "go back to it" in proved.words()
