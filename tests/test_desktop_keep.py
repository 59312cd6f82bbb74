"""Keep, driven as a person would, in a real window."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLabel, QPlainTextEdit
from pytestqt.qtbot import QtBot

from builders import DEMO
from cadena.desktop.bench.stops import REST, Stop
from cadena.desktop.document.selection import Selection
from cadena.desktop.document.simulated_store import session_file
from cadena.desktop.stages.keep.before_after import different
from cadena.desktop.stages.keep.marks import Marks
from cadena.desktop.stages.keep.selected import SelectedMark
from cadena.desktop.stages.keep.sentences import run_selected
from cadena.engine import events as do
from cadena.model.app import FromField
from cadena.model.find import by_id
from cadena.runs.keep.disturbances import DISTURBANCES
from cadena.scene.lay_out import lay_out
from test_desktop import LEFT, Person

LOST = SelectedMark("stay-form · draft", "turn")


@pytest.fixture
def broken(qtbot: QtBot, tmp_path: Path) -> Person:
    shutil.copytree(DEMO / "cresta-broken", tmp_path / "b")
    person = Person(qtbot, tmp_path / "b")
    person.document.keeping.finish()
    person.document.show_stage("Keep")
    person.picture, person.strip = person.window.stage.picture, person.window.stage.strip
    return person


def click(person: Person, piece: str, disturbance: str) -> None:
    """Click the mark of a piece."""
    marks: Marks = person.picture
    row = [each.name for each in marks.marks.pieces].index(piece)
    column = [each.name for each in marks.marks.columns].index(disturbance)
    index = marks.marks.index(row, column)
    marks.scrollTo(index)
    at = marks.visualRect(index).center()
    QTest.mouseClick(marks.viewport(), LEFT, Qt.KeyboardModifier.NoModifier, at)


@pytest.mark.long
def test_a_mark_is_chosen_told_played_and_mended(broken: Person) -> None:
    assert "8 marks are lost or wrong" in broken.words()
    click(broken, "stay-form · draft", "turn")
    assert broken.document.selection == LOST
    said = broken.words()
    assert "✕ lost" in said
    assert "it holds guest = Ilva" in said
    assert "nothing is there" in said
    assert "16 bytes if saved" in said
    broken.press("Play this run on the Bench")
    assert broken.chain[-1] == "stay-form"
    assert broken.document.session.entries[-1].view.draft == {}
    assert isinstance(broken.document.trace[-1].event, do.Turn)
    broken.press("keep it from now on")
    form = by_id(broken.document.app.screens, "stay-form")
    assert form is not None
    assert form.keep.draft == "saved"
    assert not broken.document.keeping.is_done
    assert not broken.picture.marks.is_fresh
    broken.press("measure now")
    assert broken.picture.marks.is_fresh
    run = run_selected(broken.document)
    assert run is not None
    assert run.mark == "kept"
    broken.document.undo()
    assert by_id(broken.document.app.screens, "stay-form").keep.draft == "view"


@pytest.mark.long
def test_the_strip_is_as_tall_as_its_words_beside_the_pictures(broken: Person) -> None:
    broken.document.select(LOST)
    for width in range(1100, 1120):
        broken.window.resize(width, 800)
        QApplication.processEvents()
        lines = broken.strip.widget()
        assert lines.height() >= lines.layout().heightForWidth(lines.width()), width


def test_the_marks_by_keyboard_and_in_words(broken: Person) -> None:
    click(broken, "huts · scroll", "turn")
    broken.key(broken.picture, Qt.Key.Key_Right)
    assert broken.document.selection == SelectedMark("huts · scroll", "over an edge")
    broken.key(broken.picture, Qt.Key.Key_Return)
    assert isinstance(broken.document.trace[-1].event, do.Resize)
    model = broken.picture.marks
    index = broken.picture.currentIndex()
    said = model.data(index, Qt.ItemDataRole.AccessibleTextRole)
    assert said == "huts · scroll, over an edge: kept"
    head = model.headerData(0, Qt.Orientation.Vertical)
    assert head.startswith("huts · scroll")
    assert model.headerData(5, Qt.Orientation.Horizontal, Qt.ItemDataRole.ToolTipRole)


@pytest.mark.long
def test_the_lifetime_is_a_choice_and_marks_are_never_stale_as_fresh(
    broken: Person, qtbot: QtBot
) -> None:
    broken.document.select(SelectedMark("huts · search", "kill"))
    broken.press("lives view")
    huts = by_id(broken.document.app.screens, "huts")
    assert huts.keep.search == "view"
    assert "outlined marks are from before" in " ".join(
        each.text() for each in broken.window.stage.findChildren(QLabel)
    )
    qtbot.waitUntil(lambda: broken.document.keeping.is_done, timeout=90_000)
    run = run_selected(broken.document)
    assert run is not None
    assert run.mark == "let go as asked"


def test_before_and_after_mark_what_has_changed(broken: Person) -> None:
    broken.document.select(LOST)
    run = broken.window.stage.pictures.run
    assert run is not None
    app = broken.document.wired
    before, after = (lay_out(app, each, each.window) for each in (run.before, run.after))
    assert "input" in [each.kind for each in different(after, before)]
    assert different(before, before) == ()
    broken.window.stage.pictures.grab()
    link = next(each for each in broken.window.chain.links if each.name == "Keep")
    assert link.open == 11


@pytest.mark.long
def test_the_saved_state_is_read_with_its_sizes_and_a_limit_of_ones_own(broken: Person) -> None:
    broken.document.do(do.GoTo(section="routes"))
    broken.document.do(do.Choose(key="r02", screen="routes"))
    broken.press("the saved state")
    said = broken.words()
    assert "Saved state now:" in said
    assert "routes › route · carried 15;" in said
    text = broken.strip.findChild(QPlainTextEdit).toPlainText()
    assert '"chains": [' in text
    field = broken.field("warn over")
    field.setText("100")
    field.setModified(True)
    field.editingFinished.emit()
    assert broken.document.app.platform.saved_most == 100
    shown = " ".join(e.text() for e in broken.window.stage.findChildren(QLabel))
    assert "✕ over 100 bytes" in shown
    field = broken.field("warn over")
    field.setText("few")
    field.setModified(True)
    field.editingFinished.emit()
    assert "not a number of bytes" in broken.window.said.text()


@pytest.mark.long
@pytest.mark.parametrize(
    ("damage", "chain"),
    [
        (lambda text: text, ["huts", "hut"]),
        (lambda text: text[: len(text) // 2], ["huts"]),
        (lambda text: "", ["huts"]),
        (lambda text: "[" * 100_000, ["huts"]),
        (lambda text: text.replace('"alp"', "3"), ["huts"]),
        (lambda text: text.replace('"hut"', '"gone"'), ["huts"]),
        (lambda text: " " * 9_000_000, ["huts"]),
    ],
)
def test_a_killed_app_is_restored_from_the_disk_whatever_is_there(
    qtbot: QtBot, tmp_path: Path, damage: Callable[[str], str], chain: list[str]
) -> None:
    shutil.copytree(DEMO / "cresta", tmp_path / "c")
    person = Person(qtbot, tmp_path / "c")
    person.document.do(do.Choose(key="alp", screen="huts"))
    person.press("kill the app")
    assert person.document.file is not None
    file = session_file(person.document.file)
    file.write_text(damage(file.read_text()))
    person.press("restore the app")
    assert person.chain == chain
    dropped = [e.kind for e in person.document.trace[-1].notes if e.kind == "dropped"]
    assert bool(dropped) == (chain == ["huts"])
    file.unlink()
    person.document.do(do.Kill())
    file.unlink()
    person.press("restore the app")
    assert person.chain == chain


def test_what_is_stored_comes_from_the_disk_when_the_app_is_started_cold(
    qtbot: QtBot, tmp_path: Path
) -> None:
    shutil.copytree(DEMO / "cresta", tmp_path / "c")
    person = Person(qtbot, tmp_path / "c")
    document = person.document
    document.do(do.SetValue(value="saved", to=("mor",)))
    person.press("relaunch the app")
    assert document.session.values["saved"] == ("mor",)
    assert document.file is not None
    file = session_file(document.file)
    assert '"mor"' in file.read_text()
    document.do(do.Kill())
    file.write_text(file.read_text().replace('"mor"', '"alp"'))
    person.press("relaunch the app")
    assert document.session.values["saved"] == ("alp",)
    assert document.session.phase == "running"


def rows_in_view(person: Person, piece: str, case: str) -> None:
    """Turn to the table of rows in view, and click a mark there."""
    person.press("rows in view")
    click(person, piece, case)


@pytest.mark.long
def test_rows_in_view_are_a_table_of_their_own_with_settings_and_runs(broken: Person) -> None:
    rows_in_view(broken, "stays · first in view", "group closed")
    said = broken.words()
    assert "first in view is row" in said
    assert "group Due is closed" in said
    assert "rows, the whole of stays; stays come page by page" in said
    broken.press("Play this run on the Bench")
    assert isinstance(broken.document.trace[-1].event, do.ShowGroup)
    broken.press("groups are always open")
    assert by_id(broken.document.app.screens, "stays").rows.groups_start == "fixed"
    broken.press("measure now")
    run = run_selected(broken.document)
    assert run is not None
    assert run.mark == "nothing to keep here"
    broken.document.undo()
    broken.press("pieces of state")
    assert broken.document.selection == Selection()
    assert broken.picture.marks.columns is DISTURBANCES


@pytest.mark.long
def test_whether_a_chosen_row_is_kept_in_view_is_set_and_seen(broken: Person) -> None:
    rows_in_view(broken, "cabins · first in view", "other order")
    rows_in_view(broken, "stays · chosen in view", "restored")
    assert "row" in broken.words()
    broken.press("the chosen row is left where it was scrolled")
    assert not by_id(broken.document.app.screens, "stays").rows.keep_in_view
    broken.press("the chosen row is kept in view")
    assert by_id(broken.document.app.screens, "stays").rows.keep_in_view
    rows_in_view(broken, "hut · rooms · first in view", "restored")
    broken.press("lives entry")
    assert by_id(broken.document.app.screens, "hut").keep.scroll == "entry"


@pytest.mark.long
def test_what_is_wrong_is_mended_by_carrying_the_key(broken: Person) -> None:
    click(broken, "stay · carried", "row moved")
    assert "it would be opened with stay" in broken.words()
    broken.press("carry the key from now on")
    link = by_id(broken.document.app.links, "stays-to-stay")
    assert link is not None
    assert link.arguments == (FromField(parameter="stay", field="id"),)
    broken.press("measure now")
    run = run_selected(broken.document)
    assert run is not None
    assert run.mark == "kept"


def test_a_group_is_closed_by_a_press_and_opened_by_a_key(qtbot: QtBot, tmp_path: Path) -> None:
    shutil.copytree(DEMO / "cresta", tmp_path / "c")
    person = Person(qtbot, tmp_path / "c")
    person.document.do(do.GoTo(section="stays"))
    person.document.do(do.Wait(ms=5_000))
    title = next(each for each in person.see("group") if each.startswith("Due"))
    person.tap("group", text=title)
    assert person.document.session.entries[0].view.groups == {"": ("Due",)}
    qtbot.wait(3 * REST)
    assert group_stop(person).accessibleName().endswith("closed")
    stop = group_stop(person)
    stop.setFocus()
    person.key(stop, Qt.Key.Key_Space)
    assert person.document.session.entries[0].view.groups == {}


def group_stop(person: Person) -> Stop:
    """What stands for the title of the group of stays that are due, for the keyboard."""
    person.canvas.grab()
    stops = person.canvas.findChildren(Stop)
    return next(each for each in stops if each.accessibleName().startswith("Due"))
