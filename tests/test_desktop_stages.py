"""Gather and Shape as a person drives them, by mouse and by keyboard."""

from __future__ import annotations

import json
import shutil
from pathlib import Path
from threading import Thread
from typing import Any

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QApplication, QFileDialog, QPushButton, QSlider, QWidget
from pytestqt.qtbot import QtBot

from builders import DEMO, small_records
from cadena.desktop.document.change import Change
from cadena.desktop.document.new_sources import take_in
from cadena.desktop.document.selection import (
    NewSource,
    SelectedField,
    SelectedLink,
    SelectedScreen,
    SelectedSource,
)
from cadena.desktop.jobs.work import Work
from cadena.desktop.stages.shape.fields import FIELD, NAME
from cadena.desktop.stages.shape.selected import SelectedBlock, SelectedList
from cadena.engine import events as do
from cadena.model.app import DetailScreen, FormScreen, ListScreen, Screen
from cadena.model.blocks import FactsBlock
from cadena.model.edits.shaping import with_source
from cadena.model.file.project_file import decode, encode
from cadena.model.find import by_id
from cadena.model.listing import Mark
from cadena.model.problem import Problem
from cadena.model.source import Service
from cadena.serve.description import described as describe
from cadena.serve.serve import Served, server
from cadena.sources.import_file import adopt
from cadena.sources.open_project import open_project
from test_desktop import Person

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def person(qtbot: QtBot, tmp_path: Path) -> Person:
    shutil.copytree(DEMO / "cresta", tmp_path / "cresta")
    return Person(qtbot, tmp_path / "cresta")


def words(person: Person) -> str:
    return person.words()


def screen(person: Person, name: str) -> Any:
    found: Screen | None = by_id(person.document.app.screens, name)
    assert found is not None
    return found


def go(person: Person, stage: str) -> None:
    key = {"Gather": Qt.Key.Key_1, "Shape": Qt.Key.Key_2, "Link": Qt.Key.Key_3}[stage]
    person.key(person.window, key, Qt.KeyboardModifier.ControlModifier)
    assert person.document.stage == stage


def drop(widget: QWidget, held: QMimeData) -> None:
    at = QPointF(20, 20)
    copy, none = Qt.DropAction.CopyAction, Qt.KeyboardModifier.NoModifier
    entering = QDragEnterEvent(at.toPoint(), copy, held, LEFT, none)
    QApplication.sendEvent(widget, entering)
    QApplication.sendEvent(widget, QDropEvent(at, copy, held, LEFT, none))


def field(name: str) -> QMimeData:
    held = QMimeData()
    held.setData(FIELD, name.encode())
    return held


def test_stages_by_mouse_and_by_key(person: Person) -> None:
    person.qtbot.mouseClick(person.window.chain.links[0], LEFT)
    assert person.document.stage == "Gather"
    go(person, "Shape")
    assert person.window.shown.currentWidget() is person.window.stage_of("Shape")
    go(person, "Link")


def test_gather_shows_the_records_under_their_heads(person: Person) -> None:
    go(person, "Gather")
    table = person.window.stage_of("Gather").picture
    assert table.model().rowCount() == 48
    assert table.heads.heads["about"].filled == 40
    assert table.heads.badges["id"][0] == "key"
    person.press("source Rooms")
    assert table.model().rowCount() == 131
    assert table.heads.badges["hut"][0] == "→ huts"
    table.setFocus()
    person.key(table, Qt.Key.Key_Right)
    person.key(table, Qt.Key.Key_Right)
    assert isinstance(person.document.selection, SelectedField)
    assert "rooms." in words(person)


def test_a_field_is_told_read_otherwise_and_said_otherwise(person: Person) -> None:
    go(person, "Gather")
    person.document.select(SelectedField("huts", "about"))
    assert "83% filled: 8 of 48 records have none" in words(person)
    assert "hut · body" in words(person)
    assert "whole number, 40 lost" in words(person)
    person.document.select(SelectedField("huts", "beds"))
    person.press("read as text")
    assert person.document.records["huts"].types["beds"] == "text"
    person.document.undo()
    assert person.document.records["huts"].types["beds"] == "whole number"
    person.document.select(SelectedField("huts", "altitude"))
    unit = person.field("unit")
    unit.selectAll()
    person.qtbot.keyClicks(unit, "metres")
    person.key(unit, Qt.Key.Key_Return)
    assert any("metres" in each for each in person.see("row subtitle"))
    person.take("use another field when empty", "region")
    assert person.document.app.sources[0].fields[3].when_empty == "{region}"


def test_a_rule_makes_values_stand_out_on_row_and_detail(person: Person) -> None:
    go(person, "Gather")
    person.document.select(SelectedField("rooms", "beds"))
    person.press("add a rule")
    person.take("test", "over")
    value = person.field("value that stands out")
    value.selectAll()
    person.qtbot.keyClicks(value, "7")
    person.key(value, Qt.Key.Key_Return)
    rule = by_id(person.document.app.sources, "rooms").stands_out[0]  # type: ignore[union-attr]
    assert (rule.test, rule.constant, rule.sign) == ("over", 7, "!")
    person.document.do(do.Choose(screen="huts", key="alp"))
    assert any(each.startswith("! 8") for each in person.see("badge"))
    person.press("remove rule 1")
    assert not any(each.startswith("! 8") for each in person.see("badge"))


def test_the_key_is_chosen_checked_and_made_of_others(person: Person) -> None:
    go(person, "Gather")
    person.document.select(SelectedField("rooms", "hut"))
    assert "no key: 83 are shared" in words(person)
    person.document.select(SelectedSource("rooms"))
    person.take("join the key with another field", "hut")
    rooms = by_id(person.document.app.sources, "rooms")
    assert rooms is not None
    assert (rooms.key, rooms.key_from) == ("key", ("id", "hut"))
    assert person.document.records["rooms"].key_at(0) == "0-fon"
    person.document.undo()
    assert person.document.records["rooms"].key_at(0) == 0


def test_a_field_is_said_to_refer_to_another_source(person: Person) -> None:
    """The nested legs of a route show their hut by its label, or by its key."""
    go(person, "Gather")
    person.document.do(do.GoTo(section="routes"))
    person.document.do(do.Choose(screen="routes", key="r01"))
    person.document.do(do.TurnPage(screen="route", to="page-legs"))
    assert "Punta Sarnia" in person.see("row title")
    person.document.select(SelectedField("legs", "hut"))
    person.take("what it refers to", "nothing")
    assert "pun" in person.see("row title")
    person.take("what it refers to", "the key of huts")
    assert "Punta Sarnia" in person.see("row title")
    person.document.select(SelectedSource("huts"))
    person.press("what names its records")
    person.document.undo()
    assert "pun" in person.see("row title")


def test_what_names_records_is_chosen_with_the_runners_up_first(person: Person) -> None:
    go(person, "Gather")
    person.document.select(SelectedSource("huts"))
    person.take("what names its records", "warden · 75% different")
    assert by_id(person.document.app.sources, "huts").label == "warden"
    person.take("key", "the number of the row")
    huts = by_id(person.document.app.sources, "huts")
    assert (huts.key, huts.numbered) == ("row", True)
    assert person.document.records["huts"].key_at(0) == 1


def test_the_stand_in_answers_late_on_the_bench(person: Person) -> None:
    go(person, "Gather")
    person.press("source Huts")
    person.press("served by the stand-in")
    assert person.see("loading") == ["Loading…"]
    person.qtbot.waitUntil(lambda: len(person.see("row title")) > 3, timeout=3000)
    person.press("the list call brings altitude")
    huts = by_id(person.document.app.sources, "huts")
    assert huts is not None
    assert "altitude" not in huts.list_brings
    codes = [each.code for each in person.document.findings]
    assert "row-needs-item-call" in codes
    slider = next(
        each
        for each in person.window.stage_of("Gather").findChildren(QSlider)
        if each.accessibleName() == "stand-in fails"
    )
    slider.setFocus()
    person.key(slider, Qt.Key.Key_End)
    huts = by_id(person.document.app.sources, "huts")
    assert huts is not None
    assert huts.stand_in.fails_one_in == 1
    person.press("relaunch the app")
    person.qtbot.waitUntil(lambda: "Try again" in person.see("button"), timeout=3000)
    person.tap("button", text="Try again")
    assert person.see("loading") == ["Loading…"]


def test_files_dropped_on_the_window_become_records(person: Person, tmp_path: Path) -> None:
    file = tmp_path / "guides.csv"
    file.write_text("code;name;hut\na;Ada;mor\nb;Bo;fon\nc;Cy\n")
    held = QMimeData()
    held.setUrls([QUrl.fromLocalFile(str(file))])
    drop(person.window, held)
    guides = by_id(person.document.app.sources, "guides")
    assert guides is not None
    assert guides.csv.delimiter == ";"
    assert guides.key == "code"
    assert "records-left-out" in [each.code for each in person.document.findings]
    hut = screen(person, "hut")
    assert "guides" in [each.id for each in hut.blocks]
    go(person, "Gather")
    person.press("source Guides")
    assert "1 row left out" in words(person)


def test_a_description_offers_sources_and_a_service_is_called_only_when_allowed(
    person: Person, tmp_path: Path
) -> None:
    served = Served("Small", small_records(25))
    running = server(served)
    Thread(target=running.serve_forever, daemon=True).start()
    address = f"http://127.0.0.1:{running.server_port}"
    try:
        go(person, "Gather")
        person.document.select(NewSource())
        line = person.field("address of a service")
        person.qtbot.keyClicks(line, f"{address}/rooms")
        person.key(line, Qt.Key.Key_Return)
        person.qtbot.waitUntil(
            lambda: by_id(person.document.app.sources, "rooms-2") is not None, timeout=5000
        )
        made = by_id(person.document.app.sources, "rooms-2")
        assert made is not None
        assert (made.key, made.file) == ("id", "rooms-2.json")
        assert len(person.document.records["rooms-2"]) == 20
        person.document.select(SelectedSource("rooms-2"))
        calls = served.calls
        assert calls
        person.press("served by the service")
        person.document.do(do.GoTo(section="rooms-2"))
        assert person.see("loading") == ["Loading…"]
        assert served.calls == calls
        person.press("call the service")
        person.qtbot.waitUntil(lambda: len(person.see("row title")) > 3, timeout=5000)
        assert served.calls > calls
    finally:
        running.shutdown()
        running.server_close()


def test_shape_shows_the_row_at_its_worst(person: Person) -> None:
    go(person, "Shape")
    shape = person.window.stage_of("Shape")
    shown = shape.row.accessibleDescription()
    assert "Rifugetto della Cresta di Sopra" in shown.split("; ")[1]
    person.press("longest record")
    values = [shape.picture.item(at).data(NAME) for at in range(shape.picture.count())]
    assert values[:3] == ["id", "name", "region"]
    shape.row.setFocus()
    person.key(shape.row, Qt.Key.Key_Down)
    assert shape.case == 2
    person.qtbot.mouseClick(shape.row, LEFT, pos=QPoint(30, 40))
    assert shape.case == 0


def test_a_field_is_moved_by_key_and_by_dragging(person: Person) -> None:
    go(person, "Shape")
    shape = person.window.stage_of("Shape")
    names = [shape.picture.item(at).data(NAME) for at in range(shape.picture.count())]
    shape.picture.setCurrentRow(names.index("beds"))
    shape.picture.setFocus()
    person.key(shape.picture, Qt.Key.Key_R)
    assert screen(person, "huts").rows.row.subtitle == "{altitude} · {region} · {beds}"
    assert "32" in person.see("row subtitle")[0] or person.see("row subtitle")[0].count("·") == 2
    person.key(shape.picture, Qt.Key.Key_R)
    assert screen(person, "huts").rows.row.subtitle == "{altitude} · {region}"
    drop(shape.row, field("warden"))
    assert "{warden}" in screen(person, "huts").rows.row.subtitle
    drop(shape.blocks.viewport(), field("beds"))
    facts = next(each for each in screen(person, "hut").blocks if isinstance(each, FactsBlock))
    assert "beds" in facts.fields
    person.key(shape.picture, Qt.Key.Key_D)
    facts = next(each for each in screen(person, "hut").blocks if isinstance(each, FactsBlock))
    assert "beds" not in facts.fields


def test_slots_blocks_and_lists_are_changed_in_place(person: Person) -> None:
    go(person, "Shape")
    shape = person.window.stage_of("Shape")
    title = person.field("title of the row")
    title.selectAll()
    person.qtbot.keyClicks(title, "Hut {name}")
    person.key(title, Qt.Key.Key_Return)
    assert "Hut Alpe Ghiara" in person.see("row title")
    person.press("slot badge")
    assert "Row · badge" in words(person)
    person.document.select(SelectedList("huts"))
    person.press("laid out as a grid")
    assert screen(person, "huts").rows.layout == "grid"
    person.take("grouped", "by region")
    assert person.see("group")[0] == "Alta Brenva"
    person.press("groups are closed at first")
    assert "Hut Alpe Ghiara" not in person.see("row title")
    assert person.see("group")[0].startswith("Alta Brenva · ")
    person.press("groups are always open")
    person.press("turn order 1")
    assert screen(person, "huts").rows.sort[0].descending
    limit = person.field("limit")
    limit.selectAll()
    person.qtbot.keyClicks(limit, "none")
    person.key(limit, Qt.Key.Key_Return)
    assert "a whole number from 1 was wanted" in person.window.said.text()
    shape.blocks.setFocus()
    shape.blocks.setCurrentRow(1)
    assert person.document.selection == SelectedBlock("hut", "name")
    person.key(shape.blocks, Qt.Key.Key_Up, Qt.KeyboardModifier.AltModifier)
    assert screen(person, "hut").blocks[0].id == "name"
    shape.blocks.setCurrentRow(0)
    person.key(shape.blocks, Qt.Key.Key_Delete)
    assert "name" not in [each.id for each in screen(person, "hut").blocks]
    person.take("add a block", "a page")
    assert "titled" in words(person)
    assert "its page is not the last" not in words(person)
    while person.document.history.undoes:
        person.document.undo()
    assert person.document.is_saved


def test_a_form_is_made_filled_and_used(person: Person) -> None:
    go(person, "Shape")
    person.take("add a form", "Rooms")
    form = screen(person, "rooms-form")
    assert isinstance(form, FormScreen)
    assert [each.field for each in form.fields] == ["hut", "name", "beds", "price", "window"]
    person.press("name required")
    person.press("copy this form")
    copy = screen(person, "rooms-form-2")
    assert copy.fields == screen(person, "rooms-form").fields
    person.press("take window off the form")
    assert len(screen(person, "rooms-form").fields) == 5
    assert len(screen(person, "rooms-form-2").fields) == 4


def test_booking_on_the_bench_by_mouse_and_keyboard(person: Person) -> None:
    canvas = person.canvas
    person.document.do(do.Choose(screen="huts", key="mor"))
    person.tap("button", text="Book a bed")
    person.tap("button", text="Save stay")
    assert person.see("fault")[0] == "✕ guest is required"
    person.tap("input", part="guest")
    edit = canvas._edit
    person.qtbot.keyClicks(edit, "Ilva")
    person.key(edit, Qt.Key.Key_Return)
    assert person.document.session.entries[-1].view.draft == {"guest": "Ilva"}
    person.tap("button", text="Cancel")
    assert "is not saved" in (person.document.session.question or do).text  # type: ignore[union-attr]
    person.tap("button", text="Keep")
    person.document.do(do.Type(field="begins", to="2027-07-07"))
    person.tap("button", text="Save stay")
    assert person.chain == ["huts", "hut", "stay"]


def test_rows_menus_undo_and_saving_rows(
    person: Person, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    person.tap("more", key="alp")
    assert person.see("menu item") == ["Save", "Close all beds", "Take out"]
    person.tap("menu item", text="Take out")
    person.tap("button", text="Take out")
    assert person.see("removed") == ["Alpe Ghiara removed"]
    person.tap("undo")
    assert "Alpe Ghiara" in person.see("row title")
    out = tmp_path / "out.csv"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(out), ""))
    person.tap("button", text="CSV")
    assert out.read_text().splitlines()[1].startswith("alp,Alpe Ghiara")


@pytest.mark.long
def test_the_same_pair_again_for_another_source(person: Person) -> None:
    go(person, "Shape")
    person.document.select(SelectedList("huts"))
    person.take("source of the same pair", "Routes")
    assert "No match for" in words(person)
    person.take("region in routes", "grade")
    person.press("Make the pair")
    made = screen(person, "routes-2")
    assert isinstance(made, ListScreen)
    assert made.rows.row.title == "{name}"
    detail = screen(person, "routes-detail")
    assert isinstance(detail, DetailScreen)
    person.document.do(do.GoTo(section="routes-2"))
    person.document.do(do.Move(to="down", screen="routes-2"))
    person.document.do(do.Enter(screen="routes-2"))
    assert person.chain == ["routes-2", "routes-detail"]


def test_work_can_be_stopped_and_fails_in_words(qtbot: QtBot) -> None:
    work, got, said = Work(), [], []
    work.failed.connect(said.append)

    def endless(progress: Any) -> None:
        while True:
            progress(0.5)

    work.start("reading", endless, got.append)
    assert work.is_busy
    work.stop()
    assert not work.is_busy

    def fails(progress: Any) -> None:
        raise Problem("a.csv", "", "it is broken", "better")

    work.start("reading", fails, got.append)
    qtbot.waitUntil(lambda: bool(said))
    assert "it is broken" in said[0]
    work.start("reading", lambda progress: 7, got.append)
    qtbot.waitUntil(lambda: got == [7])


def test_every_control_of_the_new_stages_has_a_name(person: Person) -> None:
    for stage, selections in (
        ("Gather", (SelectedSource("stays"), SelectedField("huts", "free"))),
        (
            "Shape",
            (
                SelectedList("stays"),
                SelectedScreen("stay-form"),
                SelectedBlock("hut", "bar"),
            ),
        ),
    ):
        go(person, stage)
        for selection in selections:
            person.document.select(selection)
            QApplication.processEvents()
            for button in person.window.stage.findChildren(QPushButton):
                if button.isVisible():
                    assert button.accessibleName().strip(" ▾"), button.text()


def test_a_late_answer_over_http_for_a_row_left_behind_never_shows(person: Person) -> None:
    served = Served("Small", small_records(25), delay=250)
    running = server(served)
    Thread(target=running.serve_forever, daemon=True).start()
    document = person.document
    try:
        huts = by_id(document.app.sources, "huts")
        assert huts is not None
        service = Service(
            list=f"http://127.0.0.1:{running.server_port}/huts",
            item=f"http://127.0.0.1:{running.server_port}/huts/{{key}}",
        )
        served_by = replace(huts, served="service", service=service, list_brings=("name",))
        document.edit("serve huts", with_source(document.app, served_by))
        document.restart()
        assert document.session.requests
        person.qtbot.wait(300)
        assert served.calls == 0
        document.allow_calls()
        person.qtbot.waitUntil(lambda: len(person.see("row title")) > 3, timeout=5000)
        document.do(do.Choose(screen="huts", key="h1"))
        document.do(do.Back())
        document.do(do.Choose(screen="huts", key="h2"))
        seen: list[str] = []
        document.watch(Change.SESSION, lambda: seen.extend(person.see("heading")))
        kinds = lambda: {note.kind for each in document.trace for note in each.notes}  # noqa: E731
        person.qtbot.waitUntil(lambda: "late" in kinds(), timeout=5000)
        person.qtbot.waitUntil(
            lambda: document.session.entries[-1].loads["*"].state == "shown", timeout=5000
        )
        assert "Hut 002" in seen
        assert "Hut 001" not in seen
    finally:
        running.shutdown()
        running.server_close()


def test_a_dropped_description_lets_the_person_pick(person: Person, tmp_path: Path) -> None:
    file = tmp_path / "service.json"
    described = Served("Small", small_records(2))
    file.write_text(json.dumps(describe("Small", described.records, "http://127.0.0.1:9")))
    held = QMimeData()
    held.setUrls([QUrl.fromLocalFile(str(file))])
    drop(person.window, held)
    assert person.document.stage == "Gather"
    QApplication.processEvents()
    person.press("pick huts")
    person.press("add those picked")
    assert by_id(person.document.app.sources, "rooms-2") is not None
    assert by_id(person.document.app.sources, "huts-2") is None
    assert by_id(person.document.app.screens, "rooms-2") is not None


def test_marks_and_shared_values_are_made_where_they_are_used(person: Person) -> None:
    go(person, "Shape")
    person.document.select(SelectedList("routes"))
    person.press("+ row action")
    person.take("row action 1 does", "marks it in a new list")
    assert by_id(person.document.app.values, "marks") is not None
    routes = screen(person, "routes")
    assert routes.rows.actions[0].does == Mark(value="marks")
    person.document.show_stage("Link")
    person.document.select(SelectedLink("routes-to-route"))
    person.take("keep a value", "route as current-route")
    link = by_id(person.document.app.links, "routes-to-route")
    assert link is not None
    assert link.sets == {"current-route": "route"}


def test_shape_settles_once_it_is_drawn(person: Person) -> None:
    go(person, "Shape")
    for selection in (SelectedList("huts"), SelectedScreen("stay-form")):
        person.document.select(selection)
        person.qtbot.wait(150)
        drawn = person.window.stage_of("Shape").blocks.shown
        person.qtbot.wait(150)
        assert person.window.stage_of("Shape").blocks.shown is drawn


def test_the_locale_of_the_app_is_set_and_doubted(person: Person) -> None:
    go(person, "Gather")
    person.document.select(SelectedSource("huts"))
    for typed, locale, said in (("de", "de", "1.890 m"), ("nowhere!", "de", "1.890 m")):
        line = person.field("locale")
        line.selectAll()
        person.qtbot.keyClicks(line, typed)
        person.key(line, Qt.Key.Key_Return)
        assert person.document.app.locale == locale
        assert said in person.see("row subtitle")[0]
    assert "a locale such as en-GB" in person.window.said.text()


def test_two_files_of_one_name_become_two_sources(person: Person, tmp_path: Path) -> None:
    (tmp_path / "guides.csv").write_text("code,name\na,Ada\n")
    folder = person.folder
    first = adopt(folder, tmp_path / "guides.csv", [])
    second = adopt(folder, tmp_path / "guides.csv", [])
    take_in(person.document, first)
    take_in(person.document, second)
    names = [each.id for each in person.document.app.sources]
    assert names[-2:] == ["guides", "guides-2"]
    assert decode(encode(person.document.app).encode(), "x") == person.document.app


def test_an_empty_project_begins_with_a_list_of_three_made_up_rows(
    person: Person, tmp_path: Path
) -> None:
    """From nothing to a wired list and detail: one word, and Enter."""
    document = person.document
    document.make(tmp_path / "mine", "Mine")
    line = person.field("what the first list shows")
    person.qtbot.keyClicks(line, "  mountain huts ")
    person.key(line, Qt.Key.Key_Return)
    assert [each.id for each in document.app.sections] == ["mountain-huts"]
    assert person.see("row title") == ["Mountain hut 1", "Mountain hut 2", "Mountain hut 3"]
    document.do(do.Choose(screen="mountain-huts", key=2))
    assert [each.screen for each in document.session.entries] == ["mountain-huts", "mountain-hut"]
    document.check()
    assert not [each for each in document.findings if each.weight == "breaks"]
    document.save()
    again = open_project(tmp_path / "mine")
    assert len(again.records["mountain-huts"]) == 3
    document.undo()
    assert not document.app.sections


def test_what_is_no_name_for_a_list_is_said(person: Person, tmp_path: Path) -> None:
    person.document.make(tmp_path / "mine", "Mine")
    line = person.field("what the first list shows")
    person.qtbot.keyClicks(line, "?!")
    person.key(line, Qt.Key.Key_Return)
    assert "what it shows, such as huts" in person.window.said.text()
    assert not person.document.app.sources
