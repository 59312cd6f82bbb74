"""Deliver, driven as a person would, in a real window; and the app in a real browser."""

from __future__ import annotations

import json
import shutil
import threading
from pathlib import Path
from typing import get_args

import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from pytestqt.qtbot import QtBot

from builders import small_app, small_records
from cadena.deliver.delivery import State
from cadena.deliver.drive.desktop_place import LISTENER, NEEDED
from cadena.deliver.wishes import WebWishes
from cadena.desktop.document.handed import HandOver
from cadena.desktop.document.handing import handing_of
from cadena.desktop.document.selection import Selection
from cadena.desktop.jobs.comparing import comparing_of
from cadena.desktop.jobs.driving import driving_of
from cadena.desktop.jobs.reporting import reporting_of
from cadena.desktop.stages.deliver.compared import is_on_desktop
from cadena.desktop.stages.deliver.files import STATES, said_of
from cadena.desktop.stages.deliver.selected import SelectedDriven, SelectedFile, SelectedForm
from cadena.desktop.stages.deliver.stage import DeliverStage
from cadena.engine import events as do
from cadena.model.app import App, FromRecord, NamedWindow
from cadena.model.file.project_file import encode
from test_desktop import LEFT, Person
from test_drive import _is_there

WALK = [
    {"do": "choose", "screen": "huts", "key": "h1"},
    {"do": "back"},
    {"do": "choose", "screen": "huts", "key": "h2"},
]


def project(folder: Path, app: App) -> Path:
    """A small project on disk, with one walk, for two windows."""
    windows = (
        NamedWindow(name="Pocket", width=360, height=780),
        NamedWindow(name="Slate", width=820, height=1180),
    )
    (folder / "walks").mkdir(parents=True)
    (folder / "small.cadena").write_text(encode(replace(app, windows=windows)))
    (folder / "walks" / "one.json").write_text(json.dumps(WALK))
    for name, records in small_records(6).items():
        records.frame.write_json(folder / f"{name}.json")
    return folder


HAS_DESKTOP = all(map(shutil.which, NEEDED)) and Path(LISTENER).exists()


@pytest.fixture
def delivering(qtbot: QtBot, tmp_path: Path) -> Person:
    """Somebody in Deliver."""
    person = Person(qtbot, project(tmp_path / "p", small_app()))
    person.window.go_to_stage("Deliver")
    person.picture, person.strip = person.window.stage.picture, person.window.stage.strip
    made(person)
    return person


def stage(person: Person) -> DeliverStage:
    found: DeliverStage = person.window.stage
    return found


def made(person: Person) -> None:
    """Wait until what would be handed over is made."""
    handing = handing_of(person.document)
    form = person.document.own(HandOver).form
    person.qtbot.waitUntil(lambda: handing.made(form) is not None, timeout=20_000)


def click(person: Person, column: str) -> None:
    """Click what came of the walk in a window."""
    table = stage(person).picture
    index = table.answers.index(0, table.answers.columns.index(column))
    at = table.visualRect(index).center()
    QTest.mouseClick(table.viewport(), LEFT, Qt.KeyboardModifier.NoModifier, at)


@pytest.mark.long
def test_files_are_shown_written_and_kept_where_they_were_changed(delivering: Person) -> None:
    files = stage(delivering).files
    paths = [each.path for each in files.names.handed]
    assert paths[0] == "app.js"
    assert "screens/hut.js" in paths
    index = files.names.index(paths.index("screens/hut.js"))
    files.list.setCurrentIndex(index)
    assert delivering.document.selection == SelectedFile("screens/hut.js")
    assert "export const hut = {" in files.text.toPlainText()
    delivering.press("write it")
    made(delivering)
    to = delivering.document.file.parent / "delivered" / "web"
    assert (to / "index.html").is_file()
    assert "written as it is now" in delivering.words()
    (to / "screens" / "hut.js").write_text("// mine\n")
    handing_of(delivering.document).state.made.clear()
    stage(delivering).refresh()
    made(delivering)
    state = {each.path: each.state for each in files.names.handed}
    assert state["screens/hut.js"] == "yours"
    delivering.document.select(SelectedFile("screens/hut.js"))
    assert "was changed by hand: yours, left as it is" in delivering.words()


@pytest.mark.long
def test_each_form_shows_what_it_holds(delivering: Person, qtbot: QtBot) -> None:
    cards = stage(delivering).cards
    qtbot.mouseClick(cards["contract"], LEFT)
    made(delivering)
    assert delivering.document.selection == SelectedForm("contract")
    paths = [each.path for each in stage(delivering).files.names.handed]
    assert {"routes.json", "typescript/routes.ts", "java/Routes.java"} <= set(paths)
    qtbot.mouseClick(cards["diagrams"], LEFT)
    made(delivering)
    assert "flowchart" in stage(delivering).files.files["board.mmd"].decode()
    qtbot.mouseClick(cards["report"], LEFT)
    delivering.press("write the report")
    assert "being written…" in delivering.words()
    qtbot.waitUntil(lambda: "being written…" not in delivering.words(), timeout=60_000)
    report = delivering.document.file.parent / "delivered" / "report" / "report.html"
    assert "<html" in report.read_text()
    qtbot.mouseClick(cards["web"], LEFT)
    delivering.press("Copy the command")
    said = QGuiApplication.clipboard().text()
    assert said.startswith("cadena deliver")
    assert "cadena drive" in said


@pytest.mark.long
def test_what_is_under_way_ends_with_the_window(delivering: Person) -> None:
    reporting = reporting_of(delivering.document)
    reporting.begin()
    assert reporting.is_at_work
    delivering.window.close()
    reporting.wait(0)
    assert not any(each.name == "reporting" for each in threading.enumerate())


def test_what_cannot_be_carried_is_said(qtbot: QtBot, tmp_path: Path) -> None:
    app = small_app()
    links = tuple(replace(each, arguments=(FromRecord(parameter="hut"),)) for each in app.links[:1])
    person = Person(qtbot, project(tmp_path / "p", replace(app, links=links)))
    person.window.go_to_stage("Deliver")
    person.picture, person.strip = person.window.stage.picture, person.window.stage.strip
    made(person)
    assert "It cannot be carried over" in person.words()
    assert "whole record" in person.words()
    assert stage(person).cards["web"].accessibleName().endswith("cannot be carried over")


@pytest.mark.long
@pytest.mark.skipif(not _is_there(), reason="Chromium and its driver are not there")
def test_walks_are_driven_and_a_difference_is_shown(delivering: Person) -> None:
    document = delivering.document
    delivering.press("drive all walks")
    assert document.own(HandOver).is_driving
    delivering.qtbot.waitUntil(lambda: not document.own(HandOver).is_driving, timeout=60_000)
    cells = stage(delivering).picture.answers.lines[0].cells
    assert [each.text for each in cells] == ["✓", "✓"]
    click(delivering, "Slate")
    assert document.selection == SelectedDriven("one", "Slate")
    assert "as wired" in delivering.words()
    assert not stage(delivering).compared.isVisible()
    delivering.press("drive all walks again")
    driving_of(document).stop()
    delivering.qtbot.waitUntil(lambda: not document.own(HandOver).is_driving, timeout=60_000)
    document.select(Selection())
    handing_of(document).write("web")
    made(delivering)
    routes = document.file.parent / "delivered" / "web" / "routes.js"
    text = routes.read_text()
    assert "how: 'beside'" in text
    routes.write_text(text.replace("how: 'beside'", "how: 'modal'"))
    delivering.press("drive all walks")
    delivering.qtbot.waitUntil(lambda: not document.own(HandOver).is_driving, timeout=60_000)
    cells = stage(delivering).picture.answers.lines[0].cells
    assert [each.text for each in cells] == ["✕", "✕"]
    click(delivering, "Pocket")
    assert "on display" in delivering.words()
    assert stage(delivering).compared.isVisible()
    assert not stage(delivering).compared.browser.isNull()
    stage(delivering).compared.grab()
    delivering.press("Show the step")
    assert delivering.chain == ["huts", "hut"]
    document.edit("another start", replace(document.app, name="Other"))
    assert not stage(delivering).picture.answers.is_fresh


@pytest.mark.long
def test_what_has_changed_is_compared(delivering: Person) -> None:
    document = delivering.document
    delivering.qtbot.mouseClick(stage(delivering).cards["changes"], LEFT)
    assert "since" in delivering.words()
    links = tuple(replace(each, how="modal") for each in document.app.links)
    document.edit("all over", replace(document.app, links=links))
    delivering.press("compare the versions")
    delivering.qtbot.waitUntil(lambda: not comparing_of(document).is_at_work, timeout=60_000)
    text = stage(delivering).files.text.toPlainText()
    assert "modal" in text
    assert "<html" in stage(delivering).files.files["page.html"].decode()
    assert stage(delivering).cards["changes"].accessibleName().endswith("compared")
    versions = stage(delivering).versions
    assert versions.isVisible()
    document.do(do.Choose(screen="huts", key="h1"))
    assert versions.session is not None
    assert [each.opened for each in versions.session.entries] == ["root", "beside"]
    assert [each.opened for each in document.session.entries] == ["root", "modal"]
    assert versions.accessibleDescription() == "before: huts › hut; now: huts › hut"
    versions.grab()
    document.own(HandOver).since = "no-such-revision"
    with delivering.qtbot.waitSignal(document.failed, timeout=30_000) as said:
        delivering.press("compare the versions")
    assert "no-such-revision" in said.args[0] or "repository" in said.args[0]


def test_what_is_no_text_is_said_so() -> None:
    assert said_of("a.png", b"\x89PNG\xff") == "a.png: 5 bytes that are no text"
    assert said_of("a.js", b"x" * 300_000).endswith("100,000 letters more")
    assert said_of("a.js", None) == ""
    assert {*STATES, "as it was"} == {*get_args(State)}


@pytest.mark.long
@pytest.mark.skipif(not HAS_DESKTOP, reason="Xvfb, D-Bus or AT-SPI are not there")
def test_the_form_whose_card_is_chosen_is_driven_and_both_are_shown(delivering: Person) -> None:
    document = delivering.document
    document.select(SelectedForm("desktop"))
    delivering.qtbot.waitUntil(lambda: handing_of(document).made("desktop") is not None)
    handing_of(document).write("desktop")
    (routes,) = (document.file.parent / "delivered" / "desktop").glob("*/routes.py")
    routes.write_text(routes.read_text().replace('how="beside"', 'how="modal"'))
    delivering.press("drive all walks")
    delivering.qtbot.waitUntil(lambda: not document.own(HandOver).is_driving, timeout=90_000)
    lines = stage(delivering).picture.answers.lines
    assert [each.about for each in lines] == ["one", "one · desktop"]
    assert [each.text for each in lines[1].cells] == ["✕", "✕"]
    document.select(SelectedDriven("one · desktop", "Slate"))
    assert stage(delivering).compared.isVisible()
    assert not stage(delivering).compared.browser.isNull()
    assert is_on_desktop(stage(delivering).compared.came)


@pytest.mark.long
def test_how_the_web_app_is_delivered_is_chosen_and_kept(delivering: Person) -> None:
    delivering.document.select(SelectedForm("web"))
    handing = handing_of(delivering.document)
    handing.finish("web")
    delivering.press("what the page takes")
    delivering.press("one script and one style")
    delivering.press("addresses of the app")
    delivering.press("as paths")
    handing.finish("web")
    made = handing.made("web")
    assert made is not None
    assert "bundle.js" in made.files
    assert b'data-under="/"' in made.files["index.html"]
    handing.write("web")
    delivering.document.own(HandOver).wishes = None
    assert handing.wishes() == WebWishes(bundled=True, addresses="path")
