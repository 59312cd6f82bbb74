"""The first ten minutes in the real window: from nothing, then on a file, then on a service."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from threading import Thread

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QGuiApplication
from pytestqt.qtbot import QtBot

from builders import records_of
from cadena.desktop.document.selection import SelectedField, SelectedSection, SelectedSource
from cadena.desktop.stages.gather.stage import GatherStage
from cadena.model.app import Trigger
from cadena.model.find import by_id
from cadena.serve.serve import Served, server
from test_cli import call
from test_desktop import Person

CONCERTS = [
    {"code": "c1", "title": "Night of strings", "hall": "North", "seats": 80},
    {"code": "c2", "title": "Brass at noon", "hall": "South", "seats": 0},
]


@pytest.fixture
def beginner(qtbot: QtBot, tmp_path: Path) -> Person:
    """Somebody with an empty project."""
    assert call("new", "--to", str(tmp_path / "mine"), "--closed")[0] == 0
    return Person(qtbot, tmp_path / "mine")


@pytest.fixture
def address() -> Iterator[str]:
    """A service of concerts on this machine."""
    running = server(Served("Concerts", {"concerts": records_of("concerts", SERVED)}, delay=0))
    Thread(target=running.serve_forever, daemon=True).start()
    yield f"http://127.0.0.1:{running.server_port}"
    running.shutdown()
    running.server_close()


SERVED = [{"id": n, "title": f"Served {n}", "hall": "West", "seats": n} for n in range(30)]


@pytest.mark.long
def test_from_nothing_to_three_wired_screens_then_a_file_then_a_service(
    beginner: Person, tmp_path: Path, address: str
) -> None:
    person, document = beginner, beginner.document
    # What does the first list show?
    line = person.field("what the first list shows")
    person.qtbot.keyClicks(line, "concerts")
    person.key(line, Qt.Key.Key_Return)
    assert person.see("row title") == ["Concert 1", "Concert 2", "Concert 3"]
    document.select(SelectedSection("concerts"))
    assert "Choose a row on the Bench" in person.words()
    person.tap("row", key=2)
    assert person.see("heading")[-1] == "Concert 2"
    assert "Turn the window with T" in person.words()
    person.press("no next steps")
    assert "Turn the window" not in person.words()
    # A field more, made up, and one record typed.
    document.select(SelectedSource("concerts"))
    document.show_stage("Gather")
    person.press("add a field")
    line = person.field("field name")
    line.selectAll()
    person.qtbot.keyClicks(line, "hall")
    person.key(line, Qt.Key.Key_Return)
    assert document.selection == SelectedField("concerts", "hall")
    person.take("made up as", "a place")
    person.press("add a record")
    gather = person.window.stage_of("Gather")
    assert isinstance(gather, GatherStage)
    QGuiApplication.clipboard().setText("Opening night\tthe big one\n")
    gather.picture.setCurrentIndex(gather.picture.model().index(3, 1))
    gather.paste()
    assert document.records["concerts"].record(3)["name"] == "Opening night"
    document.select(SelectedSource("concerts"))
    line = person.field("how many")
    line.selectAll()
    person.qtbot.keyClicks(line, "12")
    person.key(line, Qt.Key.Key_Return)
    assert len(document.records["concerts"]) == 12
    # A third screen: a list of something new, whose row is pulled into the open.
    document.show_stage("Link")
    person.take("add a screen", "a list of something new")
    person.take("add a section", "starting with Things")
    person.picture.refresh()
    start = person.port(Trigger(screen="things"))
    person.pull(start, start + QPoint(150, 60))
    link = document.wired.links["things", "row", ""]
    assert [each.parameter for each in link.arguments] == ["thing"]
    assert not [each for each in document.findings if each.weight == "breaks"]
    document.save()
    # The same screens on a file.
    (tmp_path / "real.json").write_text(json.dumps(CONCERTS))
    person.window.taking.exchange_for("concerts", tmp_path / "real.json")
    document.show_section("concerts")
    assert sorted(person.see("row title")) == ["Brass at noon", "Night of strings"]
    person.tap("row", key="c2")
    assert person.see("heading")[-1] == "Brass at noon"
    source = by_id(document.app.sources, "concerts")
    assert source is not None
    assert (source.key, source.title, source.made_up) == ("code", "Concerts", None)
    assert not [each for each in document.findings if each.weight == "breaks"]
    # And on a service.
    document.show_stage("Gather")
    document.select(SelectedSource("concerts"))
    line = person.field("exchange for a service")
    person.qtbot.keyClicks(line, f"{address}/concerts")
    person.key(line, Qt.Key.Key_Return)
    person.qtbot.waitUntil(lambda: len(document.records["concerts"]) == 20, timeout=5000)
    source = by_id(document.app.sources, "concerts")
    assert source is not None
    assert source.service is not None
    assert person.see("row title")[:2] == ["Served 0", "Served 1"]
    assert not [each for each in document.findings if each.weight == "breaks"]
    document.save()
    for _ in range(2):
        document.undo()
    assert len(document.records["concerts"]) == 12
