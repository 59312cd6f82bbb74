"""Before anything is open: what can be begun with, at once, and saved somewhere later."""

from __future__ import annotations

import csv
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QFileDialog, QLabel, QLineEdit, QMessageBox, QPushButton
from pytestqt.qtbot import QtBot

from cadena.desktop.document.document import Document
from cadena.desktop.document.stages import stages
from cadena.desktop.painting import theme
from cadena.desktop.painting.motion import Motion
from cadena.desktop.process import drafts
from cadena.desktop.process.settings import Settings
from cadena.desktop.shell.window import MainWindow
from cadena.sources.open_project import open_project

YES = QMessageBox.StandardButton


def shown(qtbot: QtBot) -> MainWindow:
    """A window on the first page."""
    application = QApplication.instance()
    assert isinstance(application, QApplication)
    theme.install(application, "light")
    window = MainWindow(Document(), Settings())
    qtbot.addWidget(window, before_close_func=_as_if_ended)
    window.show()
    qtbot.waitExposed(window)
    return window


def _as_if_ended(window: MainWindow) -> None:
    """As a process that ends: its locks are let go, and nothing is asked."""
    if window.document._held is not None:
        window.document._held.close()
    window.document.file = None


def begun(qtbot: QtBot, what: str = "concerts") -> MainWindow:
    """A window in which somebody has said what the first list shows."""
    window = shown(qtbot)
    line = window.first.findChild(QLineEdit)
    assert line is not None
    qtbot.keyClicks(line, what)
    qtbot.keyClick(line, Qt.Key.Key_Return)
    return window


def answer(monkeypatch: pytest.MonkeyPatch, button: QMessageBox.StandardButton) -> list[str]:
    """Answer what is asked when something is left; what was asked."""
    asked: list[str] = []

    def question(_: object, __: str, text: str, *___: object) -> QMessageBox.StandardButton:
        asked.append(text)
        return button

    monkeypatch.setattr(QMessageBox, "question", question)
    return asked


def save_as(monkeypatch: pytest.MonkeyPatch, to: Path | None) -> None:
    """Say where, in the dialog that asks."""
    name = "" if to is None else str(to)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **__: (name, ""))


def test_what_the_first_list_shows_makes_a_running_app_without_a_dialog(qtbot: QtBot) -> None:
    window = begun(qtbot)
    document = window.document
    assert document.app.name == "Concerts"
    assert document.session.entries[-1].screen == "concerts"
    assert window.head.saved.text() == "not saved yet"
    assert not document.is_saved
    assert drafts.is_draft(document.file)
    assert window.settings.recent == ()


def test_files_make_a_project_at_once(
    qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    answer(monkeypatch, YES.Discard)
    file = tmp_path / "boat_yard.csv"
    with file.open("w", newline="") as out:
        csv.writer(out).writerows([("id", "name"), (0, "Ilva"), (1, "Bora")])
    window = shown(qtbot)
    window.taking.take_dropped(file)
    assert window.document.app.name == "Boat Yard"
    assert window.document.is_draft
    assert len(window.document.records["boat-yard"]) == 2
    bad = tmp_path / "bad.json"
    bad.write_text("{")
    window.taking.make_of(bad)
    assert [each.name for each in drafts.drafts_folder().iterdir()] == ["boat-yard"], "nothing left"


def test_saving_asks_where_and_goes_on_there(
    qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window = begun(qtbot)
    document = window.document
    draft = document.file
    assert draft is not None
    save_as(monkeypatch, None)
    window.save()
    assert document.file == draft, "leaving the dialog leaves all as it is"
    to = tmp_path / "deep" / "My concerts"
    save_as(monkeypatch, to)
    window.save()
    assert document.file == to / "my-concerts.cadena"
    assert document.is_saved
    assert window.head.saved.text() == "saved"
    assert not draft.parent.exists()
    assert window.settings.recent == (str(to),)
    project = open_project(to)
    assert project.app == document.app
    assert len(project.records["concerts"]) == 3
    document.undo()
    assert not document.app.sources, "undo goes on over the save"
    document.redo()
    window.save()
    assert document.is_saved
    assert open_project(to).app == document.app


def test_a_place_that_is_taken_is_said_and_nothing_is_lost(
    qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    window = begun(qtbot)
    taken = tmp_path / "taken"
    taken.mkdir()
    (taken / "mine.txt").write_text("mine")
    save_as(monkeypatch, taken)
    window.save()
    assert "something is there already" in window.said.text()
    assert [each.name for each in taken.iterdir()] == ["mine.txt"]
    assert window.document.is_draft
    blocked = tmp_path / "file"
    blocked.write_text("")
    save_as(monkeypatch, blocked / "below")
    window.save()
    assert window.document.is_draft
    assert len(window.document.records["concerts"]) == 3


@pytest.mark.parametrize(
    ("button", "stays"), [(YES.Cancel, True), (YES.Discard, False), (YES.Save, False)]
)
def test_leaving_a_draft_asks(
    qtbot: QtBot,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    button: QMessageBox.StandardButton,
    stays: bool,
) -> None:
    window = begun(qtbot)
    asked = answer(monkeypatch, button)
    save_as(monkeypatch, tmp_path / "kept")
    window.close_project()
    assert asked == ["Concerts is saved nowhere yet."]
    assert window.document.is_open is stays
    left = [each.name for each in drafts.drafts_folder().iterdir()]
    assert left == (["concerts"] if stays else [])
    assert (tmp_path / "kept").exists() is (button == YES.Save)


def test_one_with_nothing_in_it_goes_without_a_word(
    qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    window = shown(qtbot)
    asked = answer(monkeypatch, YES.Cancel)
    window.make_project()
    assert window.document.is_draft
    window.close_project()
    assert asked == []
    assert not list(drafts.drafts_folder().iterdir())


def test_a_draft_is_there_again_after_a_crash(qtbot: QtBot) -> None:
    first = begun(qtbot)
    second = shown(qtbot)
    assert not [b for b in names(second) if b.startswith("open concerts")], "a window shows it"
    first.document.unsaved.keep()
    _as_if_ended(first)
    if first.document.disk.rescue is not None and first.document.disk.rescue._lock is not None:
        first.document.disk.rescue._lock.close()
    second.refresh()
    assert "open concerts" in names(second)
    card = next(
        each
        for each in second.first.findChildren(QPushButton)
        if each.accessibleName() == "open concerts"
    )
    assert "not saved yet" in card.text()
    qtbot.mouseClick(card, Qt.MouseButton.LeftButton)
    assert len(second.document.records["concerts"]) == 3
    assert second.document.is_draft


def names(window: MainWindow) -> list[str]:
    """What the first page offers."""
    return [each.accessibleName() for each in window.first.findChildren(QPushButton)]


def test_the_first_page_says_what_the_stages_are_and_shows_the_demo_running(
    qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(Motion, "reduced", False)
    window = shown(qtbot)
    said = " ".join(each.text() for each in window.first.findChildren(QLabel))
    assert all(f"{each.number} {each.name}" in said and each.about in said for each in stages())
    demo = window.first.demo
    assert demo is not None
    qtbot.waitUntil(lambda: demo.session is not None, timeout=4000)
    seen = set()
    for _ in range(30):
        demo.go_on()
        assert demo.session is not None
        seen.add(tuple(each.screen for each in demo.session.entries))
    assert len(seen) > 3, "it goes on, and begins again"
    monkeypatch.setattr(Motion, "reduced", True)
    demo.go_on()
    before = demo.session
    demo.go_on()
    assert demo.session is before
    assert not demo.is_running
    qtbot.mouseClick(demo, Qt.MouseButton.LeftButton)
    assert window.document.app.name == "Cresta Huts"
    monkeypatch.setattr(Motion, "reduced", False)
    assert not demo.is_running, "it stands still where nobody sees it"
