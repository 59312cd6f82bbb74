"""In the window: a service is written to only once that was said of it, and the run tells all."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest
from PySide6.QtGui import QGuiApplication
from pytestqt.qtbot import QtBot

from cadena.desktop.bench.run_list import RunModel
from cadena.desktop.document.new_sources import propose, take_picked
from cadena.desktop.document.selection import SelectedSource
from cadena.engine import events as do
from cadena.model.app import FormScreen
from cadena.sources.openapi import proposals
from cadena.sources.scaffold import new_project
from other_habits import description
from small_service import serving
from test_desktop import Person
from test_sending import Harbour, harbour, stand_in

EDIT = (do.Choose(screen="boats", key=2), do.Press(screen="boat", button="edit"))


@pytest.fixture
def boats(tmp_path: Path) -> Iterator[Harbour]:
    service = stand_in()
    with serving(service) as at:
        raw = httpx.get(f"{at}/openapi.json", trust_env=False).content
        yield harbour(service, tmp_path, at, raw)


@pytest.fixture
def person(qtbot: QtBot, boats: Harbour) -> Person:
    return Person(qtbot, boats.folder)


def edited(person: Person) -> None:
    """The form of boat 2, with what was typed sent as far as may be."""
    person.press("call the service")
    person.qtbot.waitUntil(lambda: "Boat 2" in person.see("row title"), timeout=5000)
    for event in EDIT:
        person.document.do(event)
    person.document.do(do.Type(screen="boats-form", field="quay", to="West"))
    person.qtbot.waitUntil(lambda: not person.document.session.requests, timeout=5000)
    person.document.do(do.Save(screen="boats-form"))
    person.qtbot.waitUntil(
        lambda: all(each.state != "sending" for each in person.document.session.writes),
        timeout=5000,
    )


def test_a_save_says_that_it_was_not_sent_and_to_whom(person: Person, boats: Harbour) -> None:
    edited(person)
    assert boats.there[2]["quay"] == "East"
    said = "It was not sent: nothing is sent to a service from here"
    assert said in [box.text for box in person.canvas.scene.boxes]
    person.press("copy the request to boats")
    text = QGuiApplication.clipboard().text()
    assert text.startswith("PATCH /boats/2 HTTP/1.1\nhost: 127.0.0.1:")
    assert text.endswith('\n\n{"quay":"West"}')
    assert boats.there[2]["quay"] == "East"
    person.press("let boats be written to")
    assert boats.there[2]["quay"] == "East"
    person.document.do(do.Save(screen="boats-form"))
    person.qtbot.waitUntil(lambda: boats.there[2]["quay"] == "West", timeout=5000)
    person.qtbot.waitUntil(lambda: person.chain == ["boats", "boat"], timeout=5000)
    lines = RunModel(person.document)
    lines.refresh()
    told = [str(lines.data(lines.index(row))) for row in range(lines.rowCount())]
    assert any("GET http://127.0.0.1" in line and "→ 200, " in line for line in told)
    assert any("written" in line and "/boats/2 → 200, " in line for line in told)


def test_it_is_allowed_in_gather_for_as_long_as_the_project_is_open(
    person: Person, boats: Harbour
) -> None:
    person.document.show_stage("Gather")
    person.document.select(SelectedSource("boats"))
    person.press("boats is written to while this is open")
    assert person.document.may_write == {"boats"}
    edited(person)
    person.qtbot.waitUntil(lambda: boats.there[2]["quay"] == "West", timeout=5000)
    person.press("boats is written to not from here")
    assert not person.document.may_write
    person.press("boats is written to while this is open")
    person.document.open(boats.folder)
    assert not person.document.may_write


def test_what_is_picked_of_a_description_has_the_form_that_it_describes(
    qtbot: QtBot, tmp_path: Path
) -> None:
    """Its required fields, and none that are read only: as the request's schema says."""
    new_project(tmp_path / "empty", [])
    person = Person(qtbot, tmp_path / "empty")
    raw = description("http://x")
    propose(person.document, proposals(raw, "harbour.json", "http://x"))
    take_picked(person.document)
    (form,) = (each for each in person.document.app.screens if isinstance(each, FormScreen))
    assert [(each.field, each.required) for each in form.fields] == [
        ("name", True),
        ("quay", False),
    ]
    triggers = {(each.trigger.on, each.trigger.part) for each in person.document.app.links}
    assert {("button", "add"), ("button", "edit")} <= triggers
