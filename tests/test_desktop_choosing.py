"""Ways to choose on the Bench and in the strip: by mouse, by touch and by keys."""

from __future__ import annotations

from typing import Any

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from cadena.desktop.bench.picking import HELD
from cadena.desktop.document.selection import SelectedLink, SelectedScreen, SelectedTrigger
from cadena.desktop.stages.shape.selected import SelectedList
from cadena.engine import events as do
from cadena.engine.form_values import value_in
from cadena.model.app import Brings, FormScreen, Trigger
from cadena.model.edits.wiring import link_to
from cadena.model.find import by_id
from cadena.model.listing import ForSeveral, SetValue
from test_desktop import LEFT, Person, person

__all__ = ["person"]

CONTROL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
NONE = Qt.KeyboardModifier.NoModifier


def at_stays(person: Person) -> Person:
    person.document.do(do.GoTo(section="stays"))
    person.document.do(do.Wait(ms=400))
    person.canvas.refresh()
    return person


def picked(person: Person) -> tuple[Any, ...]:
    return person.document.session.entries[0].view.picked.get("", ())


def rows(person: Person) -> list[Any]:
    return [box for box in person.canvas.scene.boxes if box.kind == "row"]


def place(person: Person, number: int) -> QPoint:
    return person.canvas.px_of(rows(person)[number]).center()


def test_14_rows_are_picked_with_ctrl_and_shift_and_by_a_long_press(person: Person) -> None:
    at_stays(person)
    keys = [box.key for box in rows(person)]
    QTest.mouseClick(person.canvas, LEFT, CONTROL, place(person, 1))
    QTest.mouseClick(person.canvas, LEFT, SHIFT, place(person, 3))
    assert picked(person) == tuple(keys[1:4])
    QTest.mouseClick(person.canvas, LEFT, NONE, place(person, 2))
    assert picked(person) == (keys[1], keys[3])
    assert person.see("picked") == ["2 picked"]
    QTest.keyClick(person.canvas, Qt.Key.Key_Escape)
    assert picked(person) == ()
    QTest.mousePress(person.canvas, LEFT, NONE, place(person, 0))
    person.qtbot.wait(HELD + 100)
    QTest.mouseRelease(person.canvas, LEFT, NONE, place(person, 0))
    assert (picked(person), person.chain) == ((keys[0],), ["stays"])


def test_14_rows_are_picked_by_keys(person: Person) -> None:
    at_stays(person)
    keys = [box.key for box in rows(person)]
    person.canvas.setFocus()
    QTest.keyClick(person.canvas, Qt.Key.Key_Space)
    assert picked(person) == (keys[0],)
    QTest.keyClick(person.canvas, Qt.Key.Key_Down, SHIFT)
    QTest.keyClick(person.canvas, Qt.Key.Key_Down, SHIFT)
    assert picked(person) == tuple(keys[:3])
    QTest.keyClick(person.canvas, Qt.Key.Key_A, CONTROL)
    assert len(picked(person)) == 20
    names = [each.accessibleName() for each in person.canvas._stops.in_use()]
    assert any("picked in view" in each for each in names)
    assert "Let go" in names
    person.tap("button", name="Let go")
    assert picked(person) == ()


def test_14_a_box_picks_and_an_action_is_done_to_all(person: Person) -> None:
    at_stays(person)
    QTest.mouseClick(person.canvas, LEFT, CONTROL, place(person, 0))
    person.tap("pick", key=rows(person)[2].key)
    assert len(picked(person)) == 2
    person.tap("button", text="Cancel 2")
    assert person.document.session.question is not None
    assert person.document.session.question.text == "Cancel 2 stays?"
    person.tap("button", text="Cancel 2")
    assert person.document.session.removal is not None


def test_15_a_field_is_filled_from_a_list(person: Person) -> None:
    at_stays(person)
    person.document.do(do.Press(button="new"))
    person.canvas.refresh()
    person.tap("chooser", part="hut")
    assert person.chain == ["stays", "stay-form", "choose-hut"]
    first = next(box for box in rows(person) if box.entry == 2)
    QTest.mouseClick(person.canvas, LEFT, NONE, person.canvas.px_of(first).center())
    session = person.document.session
    held = value_in(person.document.wired, session, session.entries[-1], "hut")
    assert (person.chain, held) == (["stays", "stay-form"], first.key)
    assert any(first.name.startswith(text) for text in person.see("chooser"))


def test_15_a_link_from_a_field_brings_the_key_home_by_itself(person: Person) -> None:
    document = person.document
    app = document.app
    trigger = Trigger(screen="stay-form", on="field", part="guest")
    made, link = link_to(app, document.types, trigger, "choose-hut")
    form = by_id(made.screens, "stay-form")
    assert isinstance(form, FormScreen)
    assert link.brings == Brings()
    assert next(each for each in form.fields if each.field == "guest").opens
    document.select(SelectedLink("form-choose-hut"))
    assert "bringing back" in person.words()
    assert "the key of its row" in person.words()


def test_15_a_field_that_is_one_of_the_records_can_be_pulled_from_on_the_board(
    person: Person,
) -> None:
    document = person.document
    form = by_id(document.app.screens, "stay-form")
    assert isinstance(form, FormScreen)
    document.select(SelectedScreen("stay-form"))
    ports = {
        port.trigger.part
        for card in person.picture.board.cards
        if card.screen.id == "stay-form"
        for port in card.ports
    }
    assert "hut" in ports
    document.select(SelectedTrigger(Trigger(screen="stay-form", on="field", part="hut")))
    assert person.words()


@pytest.mark.long
def test_14_and_7_8_are_said_in_the_strip(person: Person) -> None:
    document = person.document
    document.show_stage("Shape")
    document.select(SelectedList("routes", ""))
    person.press("rows: several rows be picked")
    routes = by_id(document.app.screens, "routes")
    assert routes is not None
    assert routes.rows.several == "yes"  # type: ignore[union-attr]
    person.take("a press on a row", "sets app-wide current to its key")
    routes = by_id(document.app.screens, "routes")
    assert routes.rows.press == SetValue(value="current")  # type: ignore[union-attr]
    document.select(SelectedList("huts", ""))
    person.press("row action 1 for several")
    huts = by_id(document.app.screens, "huts")
    assert huts.rows.actions[0].several == ForSeveral()  # type: ignore[union-attr]
