"""Someone who presses anything at all: nothing may break, and undo leads all the way back."""

from __future__ import annotations

import random
import shutil
from pathlib import Path

import pytest
from PySide6.QtCore import QEvent, QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractScrollArea,
    QApplication,
    QFileDialog,
    QLineEdit,
    QPushButton,
    QWidget,
)
from pytestqt.qtbot import QtBot

from builders import DEMO
from cadena.desktop.document.selection import SelectedField, SelectedScreen
from cadena.desktop.document.stages import stages
from cadena.desktop.stages.fit.selected import SelectedArrangement
from cadena.desktop.stages.shape.selected import SelectedList
from test_desktop import LEFT, Person

KEYS = [
    Qt.Key.Key_Up,
    Qt.Key.Key_Down,
    Qt.Key.Key_Left,
    Qt.Key.Key_Right,
    Qt.Key.Key_Return,
    Qt.Key.Key_Delete,
    Qt.Key.Key_L,
    Qt.Key.Key_T,
    Qt.Key.Key_Escape,
    Qt.Key.Key_Plus,
    Qt.Key.Key_PageDown,
    Qt.Key.Key_Home,
    Qt.Key.Key_Tab,
    Qt.Key.Key_0,
]
STEPS = 60


@pytest.mark.long
@pytest.mark.parametrize("seed", [1, 2])
@pytest.mark.parametrize("name", ["cresta", "cresta-broken"])
def test_anything_may_be_pressed(
    qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, name: str, seed: int
) -> None:
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: ("", ""))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: ("", ""))
    shutil.copytree(DEMO / name, tmp_path / name)
    person = Person(qtbot, tmp_path / name)
    before = person.document.app
    chance = random.Random(seed)
    for _ in range(STEPS):
        act(person, chance)
    while person.document.history.undoes:
        person.document.undo()
        QApplication.processEvents()
    assert person.document.app == before


def act(person: Person, chance: random.Random) -> None:
    """Do any one thing; measuring goes on meanwhile, as long as it is let."""
    some = [click, click, drag, press_key, press_button, press_button, type_text, follow]
    chance.choice([*some, another_stage])(person, chance)
    QApplication.processEvents()
    # Without a loop of its own around it, what is let go would stay.
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)
    if popup := QApplication.activePopupWidget():
        popup.close()
    if not person.document.is_open:
        raise AssertionError("the project was closed")


def another_stage(person: Person, chance: random.Random) -> None:
    """To any stage, to something that can be selected in it."""
    stage = chance.choice(stages()).name
    person.document.show_stage(stage)
    names = [each.id for each in person.document.app.screens]
    sources = list(person.document.app.sources)
    if stage == "Fit" and person.document.app.arrangements:
        arrangement = chance.choice(person.document.app.arrangements)
        person.document.select(SelectedArrangement(arrangement.id))
    if stage == "Shape" and names:
        kind = chance.choice([SelectedScreen, SelectedList])
        person.document.select(kind(chance.choice(names)))
    elif stage == "Gather" and sources:
        source = chance.choice(sources)
        field = chance.choice(list(person.document.types[source.id]))
        person.document.select(SelectedField(source.id, field))


def some_point(widget: QWidget, chance: random.Random) -> QPoint:
    return QPoint(
        chance.randrange(max(1, widget.width())), chance.randrange(max(1, widget.height()))
    )


def work_of(person: Person) -> QWidget:
    """What is worked on in the stage that is shown."""
    picture = person.window.stage.picture
    return picture.viewport() if isinstance(picture, QAbstractScrollArea) else picture


def click(person: Person, chance: random.Random) -> None:
    widget = chance.choice([person.canvas, work_of(person)])
    person.qtbot.mouseClick(widget, LEFT, pos=some_point(widget, chance))


def drag(person: Person, chance: random.Random) -> None:
    widget = chance.choice([person.canvas, work_of(person)])
    start, end = some_point(widget, chance), some_point(widget, chance)
    found = [port for card in person.picture.board.cards for port in card.ports]
    if widget is person.picture.viewport() and found:
        start = person.port(chance.choice(found).trigger)
    QTest.mousePress(widget, LEFT, Qt.KeyboardModifier.NoModifier, start)
    QTest.mouseMove(widget, start + QPoint(9, 9))
    QTest.mouseMove(widget, end)
    QTest.mouseRelease(widget, LEFT, Qt.KeyboardModifier.NoModifier, end)


def press_key(person: Person, chance: random.Random) -> None:
    widget = chance.choice([person.canvas, person.window.stage.picture])
    person.qtbot.keyClick(widget, chance.choice(KEYS))


def press_button(person: Person, chance: random.Random) -> None:
    parts: list[QWidget] = [person.window.stage, person.window.bench]
    buttons = [
        each
        for part in parts
        for each in part.findChildren(QPushButton)
        if each.isVisible() and each.isEnabled() and "…" not in each.text()
    ]
    person.qtbot.mouseClick(chance.choice(buttons), LEFT)


def follow(person: Person, chance: random.Random) -> None:
    """Take something from a menu of the strip or of the board's head."""
    menus = [
        each
        for each in person.window.stage.findChildren(QPushButton)
        if each.isVisible() and each.text().endswith("▾")
    ]
    if not menus:
        return
    person.qtbot.mouseClick(chance.choice(menus), LEFT)
    menu = QApplication.activePopupWidget()
    if menu is not None and menu.actions():
        action = chance.choice(menu.actions())
        menu.close()
        action.trigger()


def type_text(person: Person, chance: random.Random) -> None:
    fields = [each for each in person.window.findChildren(QLineEdit) if each.isVisible()]
    if fields:
        field = chance.choice(fields)
        person.qtbot.keyClicks(field, chance.choice(["hut", "", "{name}", "360x600", "a b"]))
        person.qtbot.keyClick(field, Qt.Key.Key_Return)
