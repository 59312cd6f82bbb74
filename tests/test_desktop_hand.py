"""The hand: jobs done in the real window, the run that is gone back along, walks worked on."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from pathlib import Path

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QFontMetrics
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLabel, QMenu, QPushButton
from pytestqt.qtbot import QtBot

from builders import DEMO
from cadena.desktop.document.selection import (
    AllFindings,
    AllWalks,
    SelectedLink,
    SelectedScreen,
    SelectedSection,
    SelectedTrigger,
    SelectedWalk,
)
from cadena.desktop.document.walks import Held
from cadena.desktop.painting.icons import OFFERED, is_icon, names
from cadena.desktop.painting.theme import Look
from cadena.desktop.shell.keys_page import KeysPage
from cadena.desktop.stages.fit.selected import SelectedArrangement
from cadena.desktop.widgets.strip import Strip
from cadena.engine import events as do
from cadena.engine.rules.display import display_of
from cadena.model.app import FormScreen, FromConstant, Trigger
from cadena.model.edits.wiring import with_argument, with_link
from cadena.model.find import by_id
from cadena.runs.walks.recording import walk_files
from cadena.runs.walks.walk import read_walk
from test_cli import call
from test_desktop import Person, person

__all__ = ["person"]


def typed(person: Person, name: str, text: str) -> None:
    """Type into a line of the strip, and Enter."""
    line = person.field(name)
    line.selectAll()
    person.key(line, Qt.Key.Key_Backspace)
    person.qtbot.keyClicks(line, text)
    person.key(line, Qt.Key.Key_Return)
    QApplication.processEvents()


def form_made_by(person: Person) -> FormScreen:
    link = person.document.wired.links["huts", "action", "edit"]
    form = by_id(person.document.app.screens, link.to)
    assert isinstance(form, FormScreen)
    assert [each.parameter for each in link.arguments] == [form.key]
    return form


def test_a_row_action_to_a_form_that_is_not_there_yet_saved_and_back(person: Person) -> None:
    document = person.document
    document.select(SelectedLink("huts-to-hut"))
    typed(person, "a new row action", "Edit")
    assert document.selection == SelectedTrigger(Trigger(screen="huts", on="action", part="edit"))
    person.picture.refresh()
    person.pull(person.port(document.selection.trigger), person.open_space())
    form = form_made_by(person)
    document.do(do.Act(screen="huts", list="", key="mor", action="edit"))
    assert person.chain == ["huts", form.id]
    document.do(do.Type(screen=form.id, field="name", to="Morenna nuova"))
    document.do(do.Save(screen=form.id))
    assert person.chain == ["huts"]
    assert (document.wired.records(document.session, "huts") or {}) is not None
    assert "Morenna nuova" in person.see("row title")


def test_the_same_by_keys_alone(person: Person) -> None:
    document = person.document
    document.select(SelectedLink("huts-to-hut"))
    typed(person, "a new row action", "Edit")
    person.key(person.picture, Qt.Key.Key_L)
    person.press("a new form")
    form_made_by(person)
    document.undo()
    document.undo()
    assert ("huts", "action", "edit") not in document.wired.links


def test_a_walk_is_kept_replayed_broken_by_an_edit_and_mended(person: Person) -> None:
    document, bench = person.document, person.window.bench
    document.do(do.Choose(screen="huts", key="mor"))
    document.do(do.Choose(screen="hut", list="rooms", key=3))
    document.do(do.Back())
    typed(person, "keep as a walk of this name", "To a room")
    assert document.selection == SelectedWalk("to-a-room")
    folder = Path(str(document.file)).parent
    assert "to-a-room" in [each.stem for each in walk_files(folder)]
    person.press("replay at all windows")
    assert document.own(Held).broken["to-a-room"] == ()
    code, said = call("walk", str(folder), str(folder / "walks" / "to-a-room.json"))
    assert code == 0, said
    # Pushed instead of beside, and the title of the list another: back shows something else.
    huts = document.wired.screens["huts"]
    screens = tuple(
        replace(each, title="Shelters") if each is huts else each for each in document.app.screens
    )
    document.edit("title", replace(document.app, screens=screens))
    document.select(AllWalks())
    person.press("replay walk to-a-room at all windows")
    assert any("back" in each for each in document.own(Held).broken["to-a-room"])
    person.press("show walk to-a-room")
    person.press("expect what happens")
    assert document.own(Held).broken["to-a-room"] == ()
    kept = folder / "walks" / "to-a-room.json"
    steps = read_walk(kept)
    person.press("remove step 1")
    assert read_walk(kept) == (steps[0], *steps[2:])
    typed(person, "name of the walk", "Rooms")
    assert document.selection == SelectedWalk("rooms")
    person.press("remove the walk")
    assert "rooms" not in [each.stem for each in walk_files(folder)]
    assert bench.run.lines.rowCount() == len(document.trace)


def test_the_run_is_gone_back_along_and_nothing_moves(person: Person) -> None:
    document, bench = person.document, person.window.bench
    before = bench.canvas.mapTo(person.window, bench.canvas.rect().topLeft())
    for event in (
        do.Choose(screen="huts", key="mor"),
        do.Choose(screen="hut", list="rooms", key=3),
    ):
        document.do(event)
    document.do(do.Choose(screen="huts", key="nobody"))
    QApplication.processEvents()
    assert bench.canvas.mapTo(person.window, bench.canvas.rect().topLeft()) == before
    assert bench.said.toolTip().startswith("✕")
    index = bench.run.lines.index(2)
    document.peek(bench.run.lines.lines[2][0])
    assert person.see("heading") == ["Morenna"]
    document.peek(None)
    assert person.chain == ["huts", "hut", "room"]
    person.qtbot.mouseClick(
        bench.run.viewport(), Qt.MouseButton.LeftButton, pos=bench.run.visualRect(index).center()
    )
    assert person.chain == ["huts", "hut"]
    document.do(do.Back())
    assert len(document.trace) == 3
    # At large, and in a window of its own, it is the same Bench.
    person.key(person.window, Qt.Key.Key_B)
    assert bench.is_large
    assert person.window.shown.isHidden()
    person.key(person.window, Qt.Key.Key_B)
    assert not bench.is_large
    person.window.bench_apart()
    assert bench.window() is person.window.apart
    person.window.bench_apart()
    QApplication.processEvents()
    assert bench.window() is person.window
    assert len(bench._head._controls._keys) >= 5


def test_anything_is_found_and_what_is_near_is_offered(person: Person) -> None:
    window = person.window
    person.document.select(SelectedLink("huts-to-hut"))
    window.ask()
    ask = window._ask
    for text, wanted in (
        ("go to the screen", "go to the screen"),
        ("huts.beds", "huts.beds"),
        ("walk tour", "Walk tour"),
        ("window slate", "Window Slate 820 × 1180"),
    ):
        ask.field.setText(text)
        assert wanted in [each.text for each in ask.answers], text
    ask.field.setText("tunr")
    assert ask.answers[0].text.startswith("Nothing is called")
    assert len(ask.answers) > 1
    ask.hide()
    window.show_keys()
    (page,) = window.findChildren(KeysPage)
    said = {each.text() for each in page.findChildren(QLabel)}
    assert {"Ctrl+K", "Do anything", "turn the window"} <= said
    page.close()


def test_the_strip_is_as_tall_as_it_needs_and_clips_nothing(person: Person) -> None:
    strip = person.strip
    assert isinstance(strip, Strip)
    person.document.select(SelectedLink("huts-to-hut"))
    QApplication.processEvents()
    tall = strip.height()
    assert tall <= strip.parentWidget().height() // 2 + 1
    pill = next(
        each
        for each in person.window.findChildren(type(person.window.head.ask))
        if each.text() and each.isVisible()
    )
    assert pill.width() >= QFontMetrics(pill.font()).horizontalAdvance(pill.text())


def test_the_first_page_offers_what_can_be_begun_with(qtbot: QtBot, tmp_path: Path) -> None:
    assert call("new", "--to", str(tmp_path / "mine"), "--closed")[0] == 0
    made = Person(qtbot, tmp_path / "mine")
    made.window.remembers = True
    made.window.close_project()
    names = {
        each.accessibleName() for each in made.window.first.findChildren(type(made.window.head.ask))
    }
    assert {"Open the demo, Cresta Huts", "Drop data here, or choose files…"} <= names


def by_mouse(person: Person, name: str) -> None:
    person.press(name)


def by_keys(person: Person, name: str) -> None:
    """Go to the button of that name, and press it by a key."""
    button = person.reach(QPushButton, lambda said: said == name)
    button.setFocus()
    person.key(button, Qt.Key.Key_Space)


def taken_from(person: Person, option: str) -> None:
    """Take an option of the menu that is open, by keys."""
    menu = QApplication.activePopupWidget()
    assert isinstance(menu, QMenu)
    while (active := menu.activeAction()) is None or active.text() != option:
        person.key(menu, Qt.Key.Key_Down)
    person.key(menu, Qt.Key.Key_Return)
    QApplication.processEvents()


@pytest.mark.long
@pytest.mark.parametrize("press", [by_mouse, by_keys])
def test_two_panes_on_wide_windows_with_a_share(
    person: Person, press: Callable[[Person, str], None]
) -> None:
    document = person.document
    arrangement = next(each for each in document.app.arrangements if each.panes == 2)
    person.window.go_to_stage("Fit")
    document.select(SelectedArrangement(arrangement.id))
    press(person, "width of the first pane")
    taken_from(person, "a share")
    typed(person, "share 1", "35")
    made = by_id(document.app.arrangements, arrangement.id)
    assert made is not None
    assert made.widths[0].share == 0.35
    document.resize(820, 1180)
    document.do(do.Choose(screen="huts", key="mor"))
    areas = [each.area for each in display_of(document.wired, document.session).panes]
    assert areas[0].width / sum(each.width for each in areas) == pytest.approx(0.35, abs=0.01)


@pytest.mark.long
@pytest.mark.parametrize("press", [by_mouse, by_keys])
def test_a_draft_that_a_turn_loses_is_found_and_mended(
    qtbot: QtBot, tmp_path: Path, press: Callable[[Person, str], None]
) -> None:
    shutil.copytree(DEMO / "cresta-broken", tmp_path / "broken")
    person = Person(qtbot, tmp_path / "broken")
    document = person.document
    document.check()
    lost = next(each for each in document.findings if each.code == "turn-loses")
    person.window.go_to_stage("Keep")
    document.select(SelectedScreen(lost.screen))
    document.select(AllFindings())
    QApplication.processEvents()
    press(person, f"mend {lost.where}")
    document.check()
    left = [each for each in document.findings if each.code == "turn-loses"]
    assert lost.where not in [each.where for each in left]
    document.undo()
    assert lost.where in [e.where for e in (document.check() or document.findings)]


def test_the_board_is_painted_as_large_as_the_desktops_text(
    person: Person, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(Look, "scale", 1.5)
    person.key(person.picture, Qt.Key.Key_0)
    assert person.picture.zoom == 1.5


def test_a_section_has_an_icon_of_the_open_set(person: Person) -> None:
    document = person.document
    document.select(SelectedSection("saved"))
    person.take("icon of the section", "star")
    section = by_id(document.app.sections, "saved")
    assert section is not None
    assert section.icon == "star"
    typed(person, "name of the icon", "no such thing")
    assert by_id(document.app.sections, "saved").icon == "star"
    typed(person, "name of the icon", "")
    assert by_id(document.app.sections, "saved").icon == ""
    boxes = {each.part: each.icon for each in person.canvas.scene.boxes if each.kind == "section"}
    assert boxes == {"huts": "house-line", "routes": "path", "stays": "calendar-blank", "saved": ""}
    assert is_icon("house-line-fill")
    assert set(OFFERED) <= set(names())
    before = person.canvas.grab().toImage()
    document.edit("icon", replace(document.app, sections=document.app.sections[:1]))
    assert person.canvas.grab().toImage() != before


@pytest.mark.parametrize(
    ("button", "tip"),
    [
        ("turn the app", "turn  T"),
        ("back the app", "back  Alt+Left"),
        ("remove this link", "Delete"),
    ],
)
def test_buttons_say_their_keys(person: Person, button: str, tip: str) -> None:
    person.document.select(SelectedLink("huts-to-hut"))
    QApplication.processEvents()
    found = [e for e in person.window.findChildren(QPushButton) if e.accessibleName() == button]
    assert [each.toolTip() for each in found] == [tip]


def test_a_link_that_is_pointed_at_shows_all_that_it_carries(person: Person) -> None:
    link = with_argument(
        person.document.wired.links["huts", "row", ""],
        FromConstant(parameter="hut", constant="a hut with a name that is too long for a pill"),
    )
    person.document.edit("carry more", with_link(person.document.app, link))
    picture = person.picture
    picture.refresh()
    ribbon = next(each for each in picture.board.ribbons if each.link.id == "huts-to-hut")
    before = picture.grab().toImage()
    at = picture.to_view(*ribbon.label_at).toPoint()
    QTest.mouseMove(picture.viewport(), at + QPoint(2, 0))
    QTest.mouseMove(picture.viewport(), at)
    QApplication.processEvents()
    assert picture._hovered == "huts-to-hut"
    assert picture.grab().toImage() != before
