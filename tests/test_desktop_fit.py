"""Fit and the Bench with several windows, driven as a person would, in a real window."""

from __future__ import annotations

import shutil
from pathlib import Path

import pytest
from msgspec import structs
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QToolTip
from pytestqt.qtbot import QtBot

from builders import DEMO
from cadena.desktop.bench.places import places
from cadena.desktop.document.bench_windows import add_window, remove_window
from cadena.desktop.document.change import Change
from cadena.desktop.document.selection import SelectedLink, SelectedScreen, SelectedSection
from cadena.desktop.painting.motion import Motion
from cadena.desktop.process.settings import Settings
from cadena.desktop.shell.application import window_on
from cadena.desktop.stages.fit.paint import pill_of
from cadena.desktop.stages.fit.selected import (
    Gap,
    SelectedArrangement,
    SelectedBreakpoint,
    SelectedWindow,
)
from cadena.desktop.stages.link.time_line import TimeLine
from cadena.engine import events as do
from cadena.engine.rules.display import arrangement_for, focus_of
from cadena.engine.session import Window, sized
from cadena.model.find import by_id
from cadena.model.windows import windows_of
from cadena.scene.transition import frame_of
from test_desktop import LEFT, Person


@pytest.fixture
def person(qtbot: QtBot, tmp_path: Path) -> Person:
    shutil.copytree(DEMO / "cresta", tmp_path / "cresta")
    made = Person(qtbot, tmp_path / "cresta")
    made.document.show_stage("Fit")
    made.picture = made.window.stage.picture
    made.strip = made.window.stage.strip
    QApplication.processEvents()
    return made


def drag(person: Person, start: QPointF, *ways: QPointF) -> None:
    """Press on the map, go along some points, and let go."""
    map_ = person.picture
    QTest.mousePress(map_, LEFT, Qt.KeyboardModifier.NoModifier, start.toPoint())
    for each in ways:
        QTest.mouseMove(map_, each.toPoint())
        QApplication.processEvents()
    QTest.mouseRelease(map_, LEFT, Qt.KeyboardModifier.NoModifier, ways[-1].toPoint())
    QApplication.processEvents()


def pill(person: Person, at: float) -> QPointF:
    map_ = person.picture
    each = next(each for each in map_.plane().breakpoints if each.at == at)
    rect = pill_of(map_.frame, each)
    assert rect is not None
    return rect.center()


def test_the_live_window_is_dragged_and_the_bench_follows(person: Person) -> None:
    person.document.do(do.Choose(key="mor", screen="huts"))
    frame = person.picture.frame
    seen = []
    person.document.watch(
        Change.SESSION,
        lambda: seen.append((person.document.session.window.size, person.canvas.scene.width)),
    )
    ways = [frame.to_view(width, 780) for width in (500, 700, 900, 1200)]
    drag(person, frame.to_view(360, 780), *ways)
    assert len(seen) == 4
    assert all(size[0] == width for size, width in seen)
    assert person.document.session.window.size[0] == pytest.approx(1200, abs=2)
    assert person.chain == ["huts", "hut"]
    assert [each.id for each in (arrangement_for(person.document.wired, sized(1200, 780)),)] == [
        "wide"
    ]
    titles = [box.text for box in person.canvas.scene.boxes if box.kind == "title"]
    assert titles == ["Huts", "Morenna"]
    resizes = [each for each in person.document.trace if isinstance(each.event, do.Resize)]
    assert len(resizes) == 4


def test_a_breakpoint_is_dragged_snaps_and_is_one_step_of_undo(person: Person) -> None:
    frame = person.picture.frame
    start = pill(person, 640)
    near_slate = frame.to_view(823, 1300)
    drag(person, start, near_slate)
    assert by_id(person.document.app.arrangements, "two").when.width.least == 820
    assert by_id(person.document.app.arrangements, "one").when.width.below == 820
    assert person.document.history.undoes.startswith("move breakpoint")
    assert person.document.selection == SelectedBreakpoint("width", 820.0)
    assert "Breakpoint" in person.words()
    person.document.undo()
    assert by_id(person.document.app.arrangements, "two").when.width.least == 640


def test_a_breakpoint_stays_where_it_was_last_good(person: Person) -> None:
    frame = person.picture.frame
    drag(person, pill(person, 640), frame.to_view(900, 1300), frame.to_view(1200, 1300))
    assert by_id(person.document.app.arrangements, "two").when.width.least == 900
    assert "no window is in it" in QToolTip.text() or person.picture.fault == ""


def test_the_map_by_keyboard(person: Person) -> None:
    map_ = person.picture
    map_.setFocus()
    person.key(map_, Qt.Key.Key_Right)
    assert person.document.session.window.size == (370, 780)
    person.key(map_, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    assert person.document.session.window.size == (370, 781)
    kinds = set()
    for _ in range(12):
        person.key(map_, Qt.Key.Key_PageDown)
        kinds.add(type(person.document.selection))
    assert kinds == {SelectedArrangement, SelectedBreakpoint, SelectedWindow}
    person.document.select(SelectedBreakpoint("width", 640.0))
    person.key(map_, Qt.Key.Key_Plus)
    assert person.document.selection == SelectedBreakpoint("width", 650.0)
    person.key(map_, Qt.Key.Key_Minus, Qt.KeyboardModifier.ShiftModifier)
    assert by_id(person.document.app.arrangements, "two").when.width.least == 649
    assert "breakpoints width 280, width 649" in map_.accessibleDescription()


def test_the_strip_says_what_a_breakpoint_does_and_plays_it(person: Person, qtbot: QtBot) -> None:
    person.document.do(do.Choose(key="mor", screen="huts"))
    person.document.select(SelectedBreakpoint("width", 640.0))
    said = person.words()
    assert "Huts: off display → pane 1, 300 dp" in said
    assert "Morenna: pane 2, 340 dp → alone, 639 dp" in said
    assert "mor is chosen, in view" in said
    assert "focus is on Huts" in said
    assert "nothing is lost" in said
    before = person.document.session.entries
    Motion.reduced = True
    try:
        person.press("play wider")
        qtbot.waitUntil(lambda: not person.window.stage_of("Fit").playing.is_playing)
    finally:
        Motion.reduced = None
    assert person.document.session.window.size == (709, 780)
    assert [each.screen for each in before] == person.chain


@pytest.mark.long
def test_an_arrangement_is_changed_in_its_sentences(person: Person) -> None:
    document = person.document
    document.select(SelectedArrangement("two"))
    document.resize(820, 1180)
    person.press("three panes")
    assert by_id(document.app.arrangements, "two").panes == 3
    person.press("section bar wide rail")
    assert "section" in [box.kind for box in person.canvas.scene.boxes]
    assert any("wide rail" in box.state for box in person.canvas.scene.boxes)
    person.press("list stays")
    assert by_id(document.app.arrangements, "two").first == "stays"
    field = person.field("below width")
    field.setText("600")
    field.setModified(True)
    field.editingFinished.emit()
    assert by_id(document.app.arrangements, "two").when.width.below == 1040
    assert "no window is in it" in person.window.said.text()
    assert person.field("below width").text() == "1040"
    for name, text, says in (
        ("least 1", "-4", "not a size"),
        ("least 1", "wide", "not a size in dp"),
        ("most 1", "100000000", "not a size"),
    ):
        field = person.field(name)
        field.setText(text)
        field.setModified(True)
        field.editingFinished.emit()
        assert says in person.window.said.text()
    field = person.field("split at this width")
    field.setText("900")
    field.setModified(True)
    field.editingFinished.emit()
    assert len(document.app.arrangements) == 6
    assert any(each.at == 900 for each in person.picture.plane().breakpoints)


def test_shares_over_all_there_is_are_refused_at_once(person: Person) -> None:
    person.document.select(SelectedArrangement("two"))
    person.take("width of the first pane", "a share")
    person.take("width of the second pane", "a share")
    field = person.field("share 1")
    field.setText("70 %")
    field.setModified(True)
    field.editingFinished.emit()
    assert "the shares add up to 110%" in person.window.said.text()
    two = by_id(person.document.app.arrangements, "two")
    assert [each.share for each in two.widths] == [0.4, 0.4]


def test_named_windows_are_said_measured_and_made(person: Person) -> None:
    frame = person.picture.frame
    drag(person, frame.to_view(820, 1180), frame.to_view(820, 1180))
    assert person.document.selection == SelectedWindow("Slate")
    assert "crosses width 1040" in person.words()
    person.press("give the Bench this window")
    assert person.document.session.window == sized(820, 1180)
    person.document.resize(500, 900)
    person.press("name this window")
    assert windows_of(person.document.app)[-1].name == "Own 1"
    field = person.field("its size in dp")
    field.setText("512x900@256")
    field.setModified(True)
    field.editingFinished.emit()
    assert windows_of(person.document.app)[-1].fold == 256
    field = person.field("its size in dp")
    field.setText("0x900")
    field.setModified(True)
    field.editingFinished.emit()
    assert "WIDTHxHEIGHT" in person.window.said.text()
    assert windows_of(person.document.app)[-1].width == 512
    person.press("the app is not made for this window")
    assert len(windows_of(person.document.app)) == 5


@pytest.mark.long
def test_a_gap_is_filled_and_a_rule_that_never_matches_is_shown(
    qtbot: QtBot, tmp_path: Path
) -> None:
    shutil.copytree(DEMO / "cresta-broken", tmp_path / "b")
    broken = Person(qtbot, tmp_path / "b")
    broken.document.show_stage("Fit")
    broken.picture, broken.strip = broken.window.stage.picture, broken.window.stage.strip
    broken.press("✕ hand-held never matches")
    assert "it can never match" in broken.words()
    frame = broken.picture.frame
    at = frame.to_view(1100, 500).toPoint()
    QTest.mouseClick(broken.picture, LEFT, Qt.KeyboardModifier.NoModifier, at)
    assert broken.document.selection == Gap()
    broken.press("add a rule for the rest")
    assert broken.document.app.arrangements[-1].title == "any other window"
    broken.document.check()
    run = next(each.run for each in broken.document.findings if each.code == "turn-loses")
    broken.document.play(run)
    assert broken.document.session.entries[-1].view.draft == {}
    assert isinstance(broken.document.trace[-1].event, do.Turn)


def test_windows_of_one_session_show_what_is_chosen_in_any(person: Person) -> None:
    add_window(person.document, sized(820, 1180))
    add_window(person.document, Window(360.0, 780.0, text=2.0, rtl=True))
    QApplication.processEvents()
    pocket, slate, large = person.window.bench.windows.canvases
    row = next(box for box in slate.scene.boxes if box.kind == "row" and box.key == "alp")
    person.qtbot.mouseClick(slate, LEFT, pos=slate.px_of(row).center())
    assert slate.is_live
    assert person.document.session.window == sized(820, 1180)
    assert [e.text for e in slate.scene.boxes if e.kind == "title"] == ["Huts", "Alpe Ghiara"]
    assert [e.text for e in pocket.scene.boxes if e.kind == "title centred"] == ["Alpe Ghiara"]
    assert large.scene.rtl
    assert large.scene.width == 180
    back = next(box for box in large.scene.boxes if box.kind == "back")
    assert back.x > large.scene.width / 2
    person.qtbot.mouseClick(large, LEFT, pos=large.px_of(back).center())
    assert person.chain == ["huts"]
    assert [each.text for each in slate.scene.boxes if each.kind == "nothing chosen"]
    person.press("remove window 2")
    assert len(person.window.bench.windows.canvases) == 2


def test_windows_with_sessions_of_their_own_are_compared(person: Person) -> None:
    add_window(person.document, sized(820, 1180))
    person.press("each its own")
    first, second = person.window.bench.windows.canvases
    row = next(box for box in second.scene.boxes if box.kind == "row" and box.key == "alp")
    person.qtbot.mouseClick(second, LEFT, pos=second.px_of(row).center())
    assert person.chain == ["huts", "hut"]
    assert [each.text for each in first.scene.boxes if each.kind == "title"] == ["Huts"]
    person.document.edit("name", structs.replace(person.document.app, name="x"))
    assert [each.text for each in first.scene.boxes if each.kind == "title"] == ["Huts"]
    person.press("one session")
    assert [e.text for e in first.scene.boxes if e.kind == "title centred"] == ["Alpe Ghiara"]


def test_a_corner_is_dragged_text_is_set_and_reading_turned(person: Person) -> None:
    canvas = person.canvas
    corner = canvas.corner().center().toPoint()
    per_dp = canvas.scale
    QTest.mousePress(canvas, LEFT, Qt.KeyboardModifier.NoModifier, corner)
    QTest.mouseMove(canvas, corner + QPoint(round(100 * per_dp), 0))
    QTest.mouseRelease(canvas, LEFT, Qt.KeyboardModifier.NoModifier, corner)
    width, height = person.document.session.window.size
    assert width == pytest.approx(460, abs=3)
    assert height == 780
    person.take("text size", "200%")
    assert person.document.session.window.text == 2.0
    person.take("text size", "read from the right")
    assert person.canvas.scene.rtl
    person.document.do(do.SetText(size=4.0))
    assert "56 % to 300 %" in person.window.bench.said.text()
    for index in range(8):
        add_window(person.document, sized(300 + index, 300))
    assert len(person.document.sessions) == 6
    assert "at most" in person.window.said.text()


def test_the_section_bar_behind_a_button(person: Person) -> None:
    person.document.resize(198, 242)
    assert "section" not in [box.kind for box in person.canvas.scene.boxes]
    person.tap("sections")
    assert person.see("section") == ["Huts", "Routes", "Stays", "Saved"]
    person.tap("section", text="Routes")
    assert person.document.session.section == "routes"
    assert "section" not in [box.kind for box in person.canvas.scene.boxes]
    assert focus_of(person.document.wired, person.document.session) == 0


def test_windows_stand_each_as_large_as_may_be() -> None:
    for sizes in ([(360, 780)], [(906, 560), (360, 780), (820, 1180)], [(100, 100)] * 6):
        made = places(sizes, 352, 460)
        assert len(made) == len(sizes)
        for each in made:
            assert each.x >= 0
            assert each.x + each.width <= 352.01
            assert each.y + each.height <= 460.01
    wide, *rest = places([(906, 560), (360, 780), (820, 1180)], 352, 460)
    assert all(each.y > wide.y for each in rest)


def test_a_transition_is_set_and_scrubbed_in_the_strip(person: Person) -> None:
    document = person.document
    document.show_stage("Link")
    person.strip = person.window.stage.strip
    link = document.wired.links["huts", "row", ""]
    document.select(SelectedLink(link.id))
    QApplication.processEvents()
    person.open("what moves")
    line = person.strip.editor.findChild(TimeLine)
    assert line is not None
    at = QPoint(round(line.x_of(160)), 6)
    QTest.mousePress(line, LEFT, Qt.KeyboardModifier.NoModifier, at)
    assert document.scrubbed is not None
    assert document.scrubbed[1] == pytest.approx(160, abs=4)
    assert person.canvas.shown() != person.canvas.scene
    QTest.mouseRelease(line, LEFT, Qt.KeyboardModifier.NoModifier, at)
    assert document.scrubbed is None
    assert person.canvas.shown() is person.canvas.scene
    end = QPoint(round(line.x_of(320)), 6)
    QTest.mousePress(line, LEFT, Qt.KeyboardModifier.NoModifier, end)
    QTest.mouseMove(line, QPoint(round(line.x_of(200)), 6))
    QTest.mouseRelease(line, LEFT, Qt.KeyboardModifier.NoModifier, end)
    changed = document.wired.links["huts", "row", ""].transition
    assert changed is not None
    assert changed.duration == pytest.approx(200, abs=10)
    person.press("do not pair picture → photo")
    changed = document.wired.links["huts", "row", ""].transition
    assert changed is not None
    assert [each.slot for each in changed.pairs] == ["title"]
    field = person.field("how long it takes")
    field.setText("soon")
    field.setModified(True)
    field.editingFinished.emit()
    assert "is not a time" in person.window.said.text()
    document.resize(1280, 800)
    document.tell(Change.SELECTION)
    assert "nothing flies" in person.words()


def test_a_transition_runs_on_the_bench_and_not_where_no_motion_is_wanted(
    person: Person, qtbot: QtBot
) -> None:
    person.document.do(do.Choose(key="alp", screen="huts"))
    canvas = person.canvas
    assert canvas.is_moving
    moving = canvas._moving
    assert moving is not None
    assert frame_of(moving, 100) != canvas.scene
    qtbot.waitUntil(lambda: not canvas.is_moving)
    assert canvas.shown() is canvas.scene
    Motion.reduced = True
    try:
        person.document.do(do.Back())
        assert not canvas.is_moving
    finally:
        Motion.reduced = None


@pytest.mark.long
def test_blocks_stand_side_by_side_by_the_room_of_their_screen(person: Person) -> None:
    document = person.document
    document.resize(1280, 800)
    document.do(do.Choose(key="mor", screen="huts"))
    document.select(SelectedArrangement("wide"))

    def left_of(part: str) -> float:
        boxes = person.canvas.scene.boxes
        return next(each.x for each in boxes if each.entry == 1 and each.part == part)

    assert left_of("rooms") > left_of("photo") + 300
    field = person.field("hut: side by side from")
    field.setText("900")
    field.setModified(True)
    field.editingFinished.emit()
    assert by_id(document.app.screens, "hut").side.least == 900
    document.do(do.Scroll(screen="hut", to=500.0))
    xs = {each.x for each in person.canvas.scene.boxes if each.kind == "list heading"}
    assert len(xs) == 1
    person.take("hut: measured by", "the window")
    assert "screen-asks-window" in [each.code for each in document.findings]
    document.do(do.Scroll(screen="hut", to=0.0))
    assert left_of("rooms") > left_of("photo") + 300
    person.press("hut: rooms beside the others")
    assert "rooms" not in by_id(document.app.screens, "hut").side.blocks
    person.press("hut: one under another")
    assert by_id(document.app.screens, "hut").side is None
    person.take("blocks side by side", "Hut")
    assert by_id(document.app.screens, "hut").side.blocks == ("rooms", "passing", "notices")
    field = person.field("hut: side by side from")
    field.setText("much")
    field.setModified(True)
    field.editingFinished.emit()
    assert "not a size in dp" in person.window.said.text()


def test_an_address_is_shown_visited_copied_and_set(person: Person) -> None:
    document, bench = person.document, person.window.bench
    document.do(do.Choose(key="mor", screen="huts"))
    assert bench.address.text() == "/huts/mor"
    person.press("copy the address")
    assert QApplication.clipboard().text() == "/huts/mor"
    add_window(document, sized(820, 1180))
    QApplication.processEvents()
    other = bench.windows.bars[1]
    assert other.line.text() == "/huts/mor"
    other.line.setFocus()
    other.line.setText("/routes/r02")
    person.key(other.line, Qt.Key.Key_Return)
    assert document.session.window == sized(820, 1180)
    assert [bar.line.text() for bar in bench.windows.bars] == ["/routes/r02"] * 2
    remove_window(document, 1)
    bench.address.setFocus()
    bench.address.setText("/rooms/3")
    person.key(bench.address, Qt.Key.Key_Return)
    assert person.chain == ["huts", "hut", "room"]
    assert bench.address.text() == "/rooms/3"
    bench.address.setText("/rooms/none")
    person.key(bench.address, Qt.Key.Key_Return)
    assert person.chain == ["huts"]
    assert "whole number" in bench.run.lines.data(bench.run.lines.index(0))
    document.show_stage("Link")
    person.strip = person.window.stage.strip
    document.select(SelectedScreen("warden"))
    person.press("the usual address")
    assert by_id(document.app.screens, "warden").address == "/huts/{hut}"
    assert "address-ambiguous" in [each.code for each in document.findings]
    field = person.field("address, an RFC")
    field.setText("/wardens/{hut")
    field.setModified(True)
    field.editingFinished.emit()
    assert "cannot be its address" in person.window.said.text()
    assert by_id(document.app.screens, "warden").address == "/huts/{hut}"
    document.select(SelectedSection("routes"))
    person.press("the fallback for addresses")
    assert document.app.fallback == "routes"
    document.do(do.Visit(address="/nothing"))
    assert document.session.section == "routes"


def test_an_address_that_is_being_typed_is_left_alone(person: Person) -> None:
    document, bar = person.document, person.window.bench.address
    bar.setFocus()
    assert bar.text() == "/huts"
    document.do(do.Choose(key="mor", screen="huts"))
    assert bar.text() == "/huts/mor"
    bar.selectAll()
    person.qtbot.keyClicks(bar, "/rou")
    document.do(do.Scroll(screen="hut", to=40.0))
    assert bar.text() == "/rou"
    person.qtbot.keyClicks(bar, "tes/r02")
    person.key(bar, Qt.Key.Key_Return)
    assert person.chain == ["routes", "route"]
    assert bar.text() == "/routes/r02"


def test_a_window_on_a_project_that_is_open_shows_its_address(qtbot: QtBot, tmp_path: Path) -> None:
    shutil.copytree(DEMO / "cresta", tmp_path / "c")
    window = window_on(tmp_path / "c", Settings(), remembers=False)
    qtbot.addWidget(window)
    assert window.bench.address.text() == "/huts"
