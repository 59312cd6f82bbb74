"""Walks are read and edited as sentences, and recorded by doing."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication

from builders import DEMO, demo
from cadena.desktop.document import walks
from cadena.desktop.document.selection import SelectedWalk
from cadena.desktop.widgets.struct_editor import Known, struct_sentences, value_typed
from cadena.engine import events as do
from cadena.runs.walks.in_words import step_in_words
from cadena.runs.walks.recording import write_walk
from cadena.runs.walks.walk import Expectation, Expected, Walk, read_walk
from test_desktop import Person, person
from test_desktop_hand import typed

__all__ = ["person"]

STEPS: Walk = (
    do.Resize(width=360, height=780),
    do.Choose(screen="huts", key="mor"),
    Expectation(expect=Expected(display=("hut",), chosen={"huts": "mor"}, back="Huts")),
    do.Back(),
)


@pytest.fixture
def file(person: Person) -> Path:
    """A walk of four steps, selected."""
    folder = walks.folder_of(person.document)
    assert folder is not None
    made = write_walk(folder, "Look", STEPS)
    person.document.select(SelectedWalk("look"))
    QApplication.processEvents()
    return made


@pytest.mark.parametrize(
    ("step", "words"),
    [
        (do.Choose(screen="huts", key="mor"), "choose Morenna in Huts"),
        (do.Choose(screen="hut", list="rooms", key=0), "choose North bunk in rooms of hut"),
        (do.Choose(screen="huts", key="none"), "choose none in Huts"),
        (do.Type(screen="stay-form", field="guest", to="Ada"), "type Ada into guest in stay-form"),
        (do.Back(), "back"),
        (do.Resize(width=360, height=780), "resize to 360 × 780"),
        (
            Expectation(expect=Expected(display=("huts", "hut"), back=None)),
            "expect Huts and hut on display · back leaves the app",
        ),
        (
            Expectation(expect=Expected(chosen={"huts": "mor", "routes": None})),
            "expect Morenna chosen in Huts · nothing chosen in Routes",
        ),
        (
            Expectation(expect=Expected(never=Expected(section="huts"))),
            "expect never (section huts)",
        ),
    ],
)
def test_a_step_is_said_as_a_person_would(step: Any, words: str) -> None:
    assert step_in_words(demo(), step) == words


def test_every_step_of_the_walks_of_the_demo_is_said_without_json() -> None:
    app = demo()
    for each in sorted((DEMO / "cresta" / "walks").glob("*.json")):
        for step in read_walk(each):
            said = step_in_words(app, step)
            assert said
            assert "{" not in said, said


def test_a_walk_is_read_and_changed_chip_by_chip(person: Person, file: Path) -> None:
    assert "choose Morenna in Huts" in person.words()
    person.open("step 1")
    typed(person, "key", "bal")
    assert read_walk(file)[1] == do.Choose(screen="huts", key="bal")
    person.take("screen", "Routes")
    assert read_walk(file)[1] == do.Choose(screen="routes", key="bal")
    person.take("key", "Crow's Ladder")
    assert read_walk(file)[1] == do.Choose(screen="routes", key="r02")
    person.open("step 2")
    person.press("no back")
    changed = read_walk(file)[2]
    assert isinstance(changed, Expectation)
    assert changed.expect == Expected(display=("hut",), chosen={"huts": "mor"})
    person.press("Huts in display")
    assert read_walk(file)[2].expect.display == ("hut", "huts")  # type: ignore[union-attr]
    typed(person, "huts in chosen", "")
    assert read_walk(file)[2].expect.chosen == {"huts": None}  # type: ignore[union-attr]
    person.press("remove step 2")
    assert len(read_walk(file)) == 3


def test_what_is_expected_is_picked_from_what_is_so_now(person: Person, file: Path) -> None:
    person.document.do(do.Choose(screen="huts", key="mor"))
    person.document.tell(walks.Change.SELECTION)
    person.open("a step more")
    person.take("expect what is so now", "expect hut on display")
    assert read_walk(file)[-1] == Expectation(expect=Expected(display=("hut",)))
    person.open("step 2")
    person.take("more that is so", "section: huts")
    assert read_walk(file)[2].expect.section == "huts"  # type: ignore[union-attr]
    person.open("a step more")
    person.take("do what could be done now", "back")
    assert read_walk(file)[-1] == do.Back()


def test_a_walk_that_records_gets_what_is_done_on_the_bench(person: Person, file: Path) -> None:
    person.press("record what is done on the Bench")
    assert person.chain == ["huts"]
    assert read_walk(file) == STEPS, "playing it is no step of it"
    person.tap("row", key="mor")
    step = read_walk(file)[-1]
    assert isinstance(step, do.Choose)
    assert step.key == "mor"
    person.key(person.canvas, Qt.Key.Key_T)
    assert isinstance(read_walk(file)[-1], do.Turn | do.Resize)
    person.press("record what is done on the Bench")
    count = len(read_walk(file))
    person.document.do(do.Back())
    assert len(read_walk(file)) == count


def test_the_editor_of_any_value_is_made_from_its_types() -> None:
    made: list[Any] = []
    refused: list[str] = []

    def take(_: str, value: Any) -> None:
        made.append(value)

    known = Known({"section": [("a", "A"), ("b", "B")]}, {"title": "Huts"})
    expected = Expected(clock=3, section="a", phase="running", values={"x": 1})
    said = struct_sentences(expected, take, refused.append, known)
    assert [each.about for each in said] == ["values", "clock", "section", "phase", ""]
    clock = said[1].words[0]
    clock.does("soon")
    assert refused == ['"soon" came, a whole number was wanted']
    clock.does("5")
    assert made[-1].clock == 5
    dict(said[2].words[0].options)["B"]()
    assert made[-1].section == "b"
    said[0].words[1].does("yes")
    assert made[-1].values == {"x": True}
    offered = dict(said[-1].words[0].options)
    offered["title: Huts"]()
    assert made[-1].title == "Huts"
    assert value_typed("") is None
