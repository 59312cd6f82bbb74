"""The window and the disk: crashes, other windows, other programs, and errors nobody expects."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt, QTimer, qCritical, qWarning
from PySide6.QtWidgets import QApplication, QDialog, QPlainTextEdit, QPushButton
from pytestqt.qtbot import QtBot

from builders import DEMO
from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import (
    AllFindings,
    SelectedScreen,
    SelectedSection,
    SelectedSource,
)
from cadena.desktop.document.typing import type_cell
from cadena.desktop.jobs.work import Work
from cadena.desktop.process.crash import Reports
from cadena.desktop.process.log import log_file
from cadena.desktop.process.settings import Settings, read_settings, state_folder, with_recent
from cadena.desktop.shell.application import window_on
from cadena.desktop.shell.choose_version import difference
from cadena.model.file.project_file import encode, read_app, write_app
from cadena.model.problem import Problem
from cadena.sources.open_project import open_project
from test_desktop import Person

CADENA = [sys.executable, "-m", "cadena"]
DIES = """
import os, sys
from pathlib import Path
from msgspec.structs import replace
from cadena.desktop.shell.application import application
from cadena.desktop.document.document import Document
application()
document = Document()
document.open(Path(sys.argv[1]))
document.edit("rename", replace(document.app, name="Never saved"))
document.unsaved.keep()
os._exit(9)
"""


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    shutil.copytree(DEMO / "cresta", tmp_path / "cresta")
    return tmp_path / "cresta"


@pytest.fixture
def person(qtbot: QtBot, folder: Path) -> Person:
    return Person(qtbot, folder)


def crash(folder: Path) -> None:
    """A window that changes the project, and is ended before it is saved."""
    done = subprocess.run([sys.executable, "-c", DIES, str(folder)], check=False)
    assert done.returncode == 9


def edited(document: Document, name: str) -> None:
    document.edit("rename", replace(document.app, name=name))


def test_what_was_not_saved_is_back_after_a_crash(person: Person, folder: Path) -> None:
    crash(folder)
    again = Document()
    again.open(folder)
    assert again.unsaved.is_back
    assert again.app.name == "Never saved"
    assert read_app(folder / "cresta.cadena") != again.app
    again.undo()
    assert again.is_saved
    again.redo()
    again.save()
    assert not list((state_folder() / "unsaved").glob("*.cadena"))


def test_a_window_that_lives_keeps_its_own_and_nobody_takes_it(
    person: Person, folder: Path
) -> None:
    edited(person.document, "Mine")
    person.document.unsaved.keep()
    other = Document()
    other.open(folder)
    assert not other.unsaved.is_back
    edited(other, "Others")
    other.unsaved.keep()
    other.close()
    assert len(list((state_folder() / "unsaved").glob("*.cadena"))) == 1
    person.document.close()
    assert not list((state_folder() / "unsaved").glob("*.cadena"))


@pytest.mark.long
def test_what_is_older_than_the_file_is_offered_and_not_shown(
    qtbot: QtBot, person: Person, folder: Path
) -> None:
    crash(folder)
    file = folder / "cresta.cadena"
    ahead = time.time() + 60
    os.utime(file, (ahead, ahead))
    again = Person(qtbot, folder)
    assert not again.document.unsaved.is_back
    assert again.document.is_saved
    assert "older than the saved project" in again.window.said.text()
    again.press("Show them")
    assert again.document.app.name == "Never saved"
    again.document.undo()
    assert again.document.is_saved
    assert not again.window.said.isVisible()


@pytest.mark.long
def test_what_is_older_can_be_forgotten(qtbot: QtBot, folder: Path) -> None:
    crash(folder)
    ahead = time.time() + 60
    os.utime(folder / "cresta.cadena", (ahead, ahead))
    again = Person(qtbot, folder)
    again.press("Forget them")
    assert not list((state_folder() / "unsaved").glob("*.cadena"))


def saved_elsewhere(folder: Path, name: str) -> None:
    file = folder / "cresta.cadena"
    write_app(replace(read_app(file), name=name), file)


def answering(*names: str) -> Callable[[], None]:
    """Presses these buttons of the dialog that is open, one after another."""

    def answer() -> None:
        dialog = next(e for e in QApplication.topLevelWidgets() if isinstance(e, QDialog))
        for name in names:
            button = next(e for e in dialog.findChildren(QPushButton) if e.accessibleName() == name)
            button.click()
            shown = dialog.findChild(QPlainTextEdit)
            if name == "compare" and isinstance(shown, QPlainTextEdit):
                assert shown.isVisible()
                assert '-  "name": "Theirs"' in shown.toPlainText()

    return answer


@pytest.mark.parametrize(
    ("answer", "here", "there"),
    [
        (["take theirs"], "Theirs", "Theirs"),
        (["compare", "keep mine"], "Mine", "Mine"),
        (["do nothing"], "Mine", "Theirs"),
    ],
)
def test_a_save_never_writes_over_what_somebody_else_has_saved(
    person: Person, folder: Path, answer: list[str], here: str, there: str
) -> None:
    edited(person.document, "Mine")
    saved_elsewhere(folder, "Theirs")
    QTimer.singleShot(50, answering(*answer))
    person.window.save()
    assert person.document.app.name == here
    assert read_app(folder / "cresta.cadena").name == there
    assert person.document.is_saved == (here == there)
    if here == "Theirs":
        person.document.undo()
        assert person.document.app.name == "Mine"


def test_a_change_on_disk_is_read_again_where_all_is_saved(person: Person, folder: Path) -> None:
    person.qtbot.wait(50)
    saved_elsewhere(folder, "Theirs")
    person.qtbot.waitUntil(lambda: person.document.app.name == "Theirs", timeout=5000)
    assert person.document.is_saved
    assert "read again" in person.window.said.text()
    saved_elsewhere(folder, "Theirs, twice")
    person.qtbot.waitUntil(lambda: person.document.app.name == "Theirs, twice", timeout=5000)
    edited(person.document, "Mine")
    saved_elsewhere(folder, "Theirs, too")
    person.qtbot.waitUntil(lambda: "Saving will ask" in person.window.said.text(), timeout=5000)
    assert person.document.app.name == "Mine"


def test_its_own_save_is_no_change_on_disk(person: Person) -> None:
    person.qtbot.wait(50)
    edited(person.document, "Mine")
    person.window.save()
    person.qtbot.wait(500)
    assert not person.window.said.isVisible()
    edited(person.document, "Mine again")
    person.window.save()
    assert person.document.is_saved


def test_what_differs_is_said_line_by_line() -> None:
    app = read_app(DEMO / "cresta" / "cresta.cadena")
    told = difference(encode(replace(app, name="A")), encode(replace(app, name="B")))
    assert '-  "name": "B",' in told
    assert '+  "name": "A",' in told
    assert "same" in difference("a", "a")


# The state folder


def test_a_state_folder_that_cannot_be_made_is_said_once(
    person: Person, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "flat").write_text("no folder")
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "flat"))
    other = Document()
    said: list[str] = []
    other.failed.connect(said.append)
    other.open(person.folder)
    for name in ("Mine", "Mine again"):
        edited(other, name)
        other.unsaved.keep()
    assert len(said) == 1
    assert "lost in a crash" in said[0]
    assert read_settings() == Settings()


def test_a_demo_that_cannot_be_laid_out_is_a_message(
    qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "flat").write_text("no folder")
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "flat"))
    window = window_on(None, Settings(), remembers=False)
    qtbot.addWidget(window)
    window.open_demo()
    assert "cannot be made" in window.said.text()


@pytest.mark.long
@pytest.mark.parametrize(
    "text",
    [
        '{"widths": [99999999999999, 4]}',
        '{"widths": [9223372036854775807, -5], "zoom": 1e308, "window": [1e300, 5]}',
        '{"zoom": 0, "window": [0, 0], "geometry": "////"}',
        "[" * 5000,
        '{"recent": ["\\ud800"]}',
    ],
)
def test_settings_never_keep_the_window_from_starting(
    qtbot: QtBot, folder: Path, text: str
) -> None:
    state_folder().mkdir(parents=True)
    (state_folder() / "settings.json").write_text(text)
    window = window_on(folder, read_settings())
    qtbot.addWidget(window, before_close_func=lambda _: setattr(window.document, "file", None))
    window.show()
    qtbot.waitExposed(window)
    assert window.document.is_open


def test_a_path_that_is_no_utf8_opens_and_is_not_remembered(qtbot: QtBot, folder: Path) -> None:
    strange = Path(os.fsdecode(os.fsencode(folder.parent) + b"/h\xfctte"))
    os.rename(folder, strange)
    assert with_recent(Settings(), strange).recent == ()
    window = window_on(strange, Settings())
    qtbot.addWidget(window, before_close_func=lambda _: setattr(window.document, "file", None))
    edited(window.document, "Mine")
    window.document.unsaved.keep()
    window.save()
    assert window.document.is_saved


# The command line


def cadena(*words: str, **where: Any) -> subprocess.CompletedProcess[bytes]:
    return subprocess.run([*CADENA, *words], check=False, stderr=subprocess.PIPE, **where)


@pytest.mark.long
@pytest.mark.parametrize("words", [["check"], ["check", "--json"], ["keep"]])
def test_a_full_disk_under_the_output_is_one_message(folder: Path, words: list[str]) -> None:
    with open("/dev/full", "wb") as full:
        done = cadena(words[0], str(folder), *words[1:], stdout=full)
    assert done.returncode == 2
    lines = done.stderr.decode().splitlines()
    assert len(lines) == 1
    assert "cannot be written" in lines[0]


def test_a_reader_that_has_had_enough_is_no_error(folder: Path) -> None:
    walk = str(folder / "walks" / "tour.json")
    reads, writes = os.pipe()
    os.close(reads)
    with open(writes, "wb") as gone:
        done = cadena("walk", str(folder), walk, "--trace", stdout=gone)
    assert done.stderr == b""


def test_paths_that_are_no_utf8_are_said_as_far_as_they_can_be(tmp_path: Path) -> None:
    strange = os.fsencode(tmp_path) + b"/h\xfctte"
    done = subprocess.run([*CADENA, "check", strange], check=False, capture_output=True)
    assert done.returncode == 2
    assert b"Traceback" not in done.stderr
    os.mkdir(strange)
    shutil.copy(DEMO / "cresta" / "huts.json", strange + b"/h\xfcts.json")
    made = subprocess.run(
        [*CADENA, "new", strange + b"/h\xfcts.json", "--closed", "--to", strange + b"/made"],
        check=False,
        capture_output=True,
    )
    assert b"Traceback" not in made.stderr


# Errors nobody expects


@pytest.fixture
def installed(monkeypatch: pytest.MonkeyPatch) -> tuple[Reports, list[str]]:
    """The place for unexpected errors, with Python's own hooks put back afterwards."""
    for module, name in ((sys, "excepthook"), (threading, "excepthook"), (sys, "unraisablehook")):
        monkeypatch.setattr(module, name, getattr(module, name))
    made, said = Reports(), list[str]()
    made.happened.connect(lambda text, _: said.append(text))
    made.install()
    return made, said


def raising(text: str) -> None:
    raise ValueError(text)


def test_every_error_that_nobody_takes_is_written_and_said(
    installed: tuple[Reports, list[str]], qtbot: QtBot
) -> None:
    _, said = installed
    try:
        raising("in the main thread")
    except ValueError as error:
        sys.excepthook(ValueError, error, error.__traceback__)
    thread = threading.Thread(target=raising, args=("in a thread",), name="the one at work")
    thread.start()
    thread.join()
    qWarning("a warning of the toolkit")
    qCritical("a grave word of the toolkit")
    qtbot.waitUntil(lambda: len(said) == 3)
    assert sorted(said) == [
        "ValueError: in a thread",
        "ValueError: in the main thread",
        "a grave word of the toolkit",
    ]
    text = log_file().read_text()
    for part in (*said, "raising(", "the one at work", "a warning of the toolkit", "Cadena 0."):
        assert part.removeprefix("ValueError: ") in text


def test_the_window_says_it_offers_the_report_and_goes_on(person: Person) -> None:
    person.window.tell_error("ValueError: x", "the whole report")
    assert "Something went wrong in Cadena (ValueError: x)" in person.window.said.text()
    person.press("Copy the report")
    assert QApplication.clipboard().text() == "the whole report"
    assert not person.window.said.isVisible()
    person.tap("row", key="alp")
    assert person.chain == ["huts", "hut"]


def test_work_off_the_main_thread_that_fails_says_so_and_ends(qtbot: QtBot) -> None:
    work = Work()
    said: list[str] = []
    ended: list[bool] = []
    work.failed.connect(said.append)
    work.ended.connect(lambda: ended.append(True))
    for does in (
        lambda _: raising("no luck"),
        lambda _: (_ for _ in ()).throw(MemoryError),
        lambda _: (_ for _ in ()).throw(Problem("a", "", "b", "c")),
    ):
        work.start("Reading", does, lambda made: None)
        qtbot.waitUntil(lambda: not work.is_busy)
    assert "it went wrong in Cadena (ValueError: no luck)" in said[0]
    assert "not enough memory" in said[1]
    assert len(said) == len(ended) == 3


# A press is never lost


def test_a_press_after_typing_in_a_line_is_taken_and_so_is_what_was_typed(person: Person) -> None:
    person.document.select(SelectedScreen("hut"))
    line = person.field("title")
    line.setFocus()
    line.selectAll()
    person.qtbot.keyClicks(line, "A hut called {name}, and a title that goes on and on and on")
    QApplication.processEvents()
    button = next(
        each
        for each in person.strip.findChildren(QPushButton)
        if each.isVisible() and each.accessibleName() == "record gone"
    )
    before = person.document.app
    person.qtbot.mousePress(button, Qt.MouseButton.LeftButton)
    QApplication.processEvents()
    person.qtbot.mouseRelease(button, Qt.MouseButton.LeftButton)
    QApplication.processEvents()
    screen = next(each for each in person.document.app.screens if each.id == "hut")
    assert screen.title.startswith("A hut called")
    assert person.strip.editor.chip == "record gone"
    person.press("record gone, close")
    screen = next(each for each in person.document.app.screens if each.id == "hut")
    assert screen.when_gone == "close"
    assert person.field("title").text() == screen.title
    person.document.undo()
    screen = next(each for each in person.document.app.screens if each.id == "hut")
    assert (screen.title[:6], screen.when_gone) == ("A hut ", "next")
    person.document.undo()
    assert person.document.app == before


def test_pictures_that_are_kept_are_bounded_by_their_weight(
    qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    from PySide6.QtGui import QImage

    from cadena.desktop.painting import pictures

    monkeypatch.setattr(pictures, "MOST_BYTES", 4 * 100 * 100 * 4)
    image = QImage(100, 100, QImage.Format.Format_RGB32)
    image.fill(0)
    for number in range(12):
        image.save(str(tmp_path / f"{number}.png"))
    shown = pictures.Pictures(tmp_path)
    for number in range(12):
        assert shown(f"{number}.png") is not None
    assert shown("gone.png") is None
    assert len(shown._read) <= 5
    assert shown("0.png") is not None


@pytest.mark.long
@pytest.mark.parametrize("stage", ["Gather", "Shape", "Link", "Fit", "Keep"])
def test_no_text_makes_the_window_wider(person: Person, stage: str) -> None:
    document = person.document
    long = "wide " * 400 + "w" * 2000
    source = replace(document.app.sources[0], title=long)
    screen = replace(document.app.screens[0], title=long)
    section = replace(document.app.sections[0], title=long)
    person.window.resize(1280, 800)
    person.document.show_stage(stage)
    document.edit(
        "make it long",
        replace(
            document.app,
            name=long,
            sources=(source, *document.app.sources[1:]),
            screens=(screen, *document.app.screens[1:]),
            sections=(section, *document.app.sections[1:]),
        ),
    )
    for selection in (
        SelectedSection(section.id),
        SelectedScreen(screen.id),
        SelectedSource(source.id),
        AllFindings(),
    ):
        document.select(selection)
        QApplication.processEvents()
        person.qtbot.wait(1)
        assert person.window.width() == 1280, selection


def both_have_changed(person: Person) -> Path:
    """Two huts are typed into, and another program has changed them as well."""
    document = person.document
    file = next(person.folder / each.file for each in document.app.sources if each.id == "huts")
    rows = json.loads(file.read_text())
    for row, beds in ((0, "7"), (1, "9")):
        type_cell(document, "huts", row, "beds", beds)
    type_cell(document, "huts", 2, "name", "Mine alone")
    for row in rows[:2]:
        row["beds"] = 50
    rows[4]["name"] = "Theirs alone"
    file.write_text(json.dumps(rows))
    person.window.save()
    return file


def test_what_others_have_changed_as_well_is_asked_one_by_one(person: Person) -> None:
    file = both_have_changed(person)
    rows = json.loads(file.read_text())
    said = person.window.said.text()
    assert f'beds of "{rows[0]["name"]}" is 7 here and 50 there' in said
    assert [each["beds"] for each in rows[:2]] == [50, 50]
    person.press("One by one")
    assert "(1 more)" in person.window.said.text()
    person.press("Keep mine")
    assert f'beds of "{rows[1]["name"]}" is 9 here and 50 there.' in person.window.said.text()
    person.press("Take theirs")
    assert person.document.is_saved
    rows = json.loads(file.read_text())
    assert [each["beds"] for each in rows[:2]] == [7, 50]
    assert (rows[2]["name"], rows[4]["name"]) == ("Mine alone", "Theirs alone")
    # What is shown is what is there.
    assert person.document.records["huts"].record(1)["beds"] == 50
    assert person.document.records["huts"].record(4)["name"] == "Theirs alone"


@pytest.mark.long
@pytest.mark.parametrize(("answer", "beds"), [("Keep mine", [7, 9]), ("Take theirs", [50, 50])])
def test_what_others_have_changed_as_well_is_asked_at_once(
    person: Person, answer: str, beds: list[int]
) -> None:
    file = both_have_changed(person)
    person.press(answer)
    assert person.document.is_saved
    assert [each["beds"] for each in json.loads(file.read_text())[:2]] == beds


def test_records_without_a_file_are_kept_in_one_of_their_own(person: Person) -> None:
    document = person.document
    file = next(person.folder / each.file for each in document.app.sources if each.id == "huts")
    type_cell(document, "huts", 0, "name", "Kept")
    file.unlink()
    person.window.save()
    assert "there is no such file" in person.window.said.text()
    assert not document.is_saved
    person.press("Keep them in a file of their own")
    assert document.is_saved
    assert open_project(person.folder).records["huts"].record(0)["name"] == "Kept"
