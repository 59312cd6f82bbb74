"""Dividers on the Bench, by mouse and by keys, and what Fit says of them (rules.md, 3.2)."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from cadena.desktop.stages.fit.selected import SelectedArrangement
from cadena.engine import events as do
from cadena.model.app import PaneWidth
from cadena.model.edits.arrangements import with_arrangement
from cadena.model.find import by_id
from cadena.scene.scene import Box
from test_desktop import LEFT, Person, person

__all__ = ["person"]
NONE = Qt.KeyboardModifier.NoModifier


def divider(person: Person) -> Box:
    person.canvas.refresh()
    return next(box for box in person.canvas.scene.boxes if box.kind == "pane divider")


def at(person: Person, width: float, height: float, side: Any = "left") -> Box:
    person.document.do(do.Resize(width=width, height=height))
    person.document.do(do.ReadFrom(side=side))
    return divider(person)


def drag(person: Person, box: Box, by: QPoint) -> None:
    begins = person.canvas.px_of(box).center()
    QTest.mousePress(person.canvas, LEFT, NONE, begins)
    for part in (0.5, 1.0):
        QTest.mouseMove(person.canvas, begins + by * part)
    QTest.mouseRelease(person.canvas, LEFT, NONE, begins + by)


def size(box: Box) -> float:
    assert isinstance(box.does, do.Divide)
    return box.does.to


def test_3_2_a_divider_is_dragged(person: Person) -> None:
    for side, onward in (("left", 1), ("right", -1)):
        box = at(person, 1280, 800, side)
        before, by = size(box), QPoint(20 * onward, 0)
        drag(person, box, by)
        assert size(divider(person)) == before + abs(by.x()) / person.canvas.scale
        assert person.chain == ["huts"]
    box = at(person, 1200, 1920)
    before, told = size(box), len(person.document.sessions.trace)
    drag(person, box, QPoint(0, 30))
    assert size(divider(person)) == before + 30 / person.canvas.scale
    assert "Room for Huts" in box.name
    assert len(person.document.sessions.trace) == told + 1, "a drag is told once"


def test_3_2_a_divider_is_moved_by_keys(person: Person) -> None:
    at(person, 1280, 800)
    stops = person.canvas._stops
    stop = next(each for each in stops.in_use() if each.box.kind == "pane divider")
    stop.setFocus()
    for key, wanted in (
        (Qt.Key.Key_Right, 376),
        (Qt.Key.Key_Left, 360),
        (Qt.Key.Key_End, 640),
        (Qt.Key.Key_Home, 280),
    ):
        QTest.keyClick(stop, key)
        assert size(divider(person)) == wanted
        stops.settle()
    assert "280 dp, 280 to 640" in stop.accessibleName()
    QTest.keyClick(stop, Qt.Key.Key_Return)
    assert size(divider(person)) == 280


def test_3_2_fit_says_how_panes_lie_and_what_comes_of_shares(person: Person) -> None:
    document = person.document
    document.show_stage("Fit")
    document.select(SelectedArrangement("two"))
    person.press("dividers that people drag")
    person.press("panes lie one above the other")
    rule = by_id(document.app.arrangements, "two")
    assert rule is not None
    assert (rule.lie, rule.dividers, rule.keep) == ("down", "the person's", "stored")
    shares = (PaneWidth(share=0.2, least=300), PaneWidth(share=0.8))
    document.edit("shares", with_arrangement(document.app, replace(rule, widths=shares)))
    assert "which comes as" in person.words()
    assert "%" in person.words()
