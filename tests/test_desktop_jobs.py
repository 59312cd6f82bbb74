"""What people come to do, by mouse and by keys alone, with the acts that it takes."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QLineEdit, QMenu, QPushButton, QWidget

from cadena.desktop.document.selection import (
    SelectedField,
    SelectedLink,
    SelectedScreen,
    SelectedSection,
    SelectedTrigger,
    Selection,
)
from cadena.desktop.stages.fit.selected import SelectedArrangement
from cadena.desktop.stages.shape.selected import SelectedBlock
from cadena.engine import events as do
from cadena.engine.rules.display import display_of
from cadena.model.app import FormScreen
from cadena.model.field_uses import uses
from cadena.model.find import by_id
from cadena.model.listing import Mark
from test_desktop import LEFT, Person, person

__all__ = ["person"]


class Hands:
    """Somebody who does one thing after another, and how many acts that took.

    An act is what a person would count as one: a press, an option taken from a menu that was
    opened, a line that is typed and entered.
    """

    def __init__(self, person: Person, by_keys: bool) -> None:
        self.person, self.by_keys, self.acts = person, by_keys, 0

    def select(self, stage: str, selection: Selection) -> None:
        """Select something, as a press on it does."""
        self.acts += 1
        self.person.document.show_stage(stage)
        self.person.document.select(selection)
        QApplication.processEvents()

    def press(self, name: str) -> None:
        self.acts += 1
        self._press(self._named(QPushButton, lambda said: said == name, name))

    def take(self, name: str, option: str) -> None:
        """Open a menu, and take an option from it: one act."""
        self.press(name)
        menu = QApplication.activePopupWidget()
        assert isinstance(menu, QMenu), name
        while (active := menu.activeAction()) is None or active.text() != option:
            self.person.key(menu, Qt.Key.Key_Down)
        self.person.key(menu, Qt.Key.Key_Return)
        QApplication.processEvents()

    def type(self, name: str, text: str) -> None:
        """Type into a line that is in view, and enter it."""
        self.acts += 1
        line = self._named(QLineEdit, lambda said: said.startswith(name), name)
        assert isinstance(line, QLineEdit)
        line.setFocus()
        line.selectAll()
        self.person.qtbot.keyClicks(line, text)
        self.person.key(line, Qt.Key.Key_Return)
        QApplication.processEvents()

    def _named(self, kind: type[QWidget], is_it: Callable[[str], bool], name: str) -> QWidget:
        """Only what is in view can be pressed: what is inside a chip takes an act to open it."""
        QApplication.processEvents()
        for each in self.person.window.findChildren(kind):
            if each.isVisible() and is_it(each.accessibleName()):
                return each
        raise AssertionError(f"{name} is not in view")

    def _press(self, button: QWidget) -> None:
        if self.by_keys:
            button.setFocus()
            self.person.key(button, Qt.Key.Key_Space)
        else:
            self.person.qtbot.mouseClick(button, LEFT)
        QApplication.processEvents()


@pytest.fixture(params=["by mouse", "by keys"])
def hands(request: pytest.FixtureRequest, person: Person) -> Hands:
    return Hands(person, request.param == "by keys")


def test_a_form_reached_from_a_row_action(hands: Hands) -> None:
    document = hands.person.document
    hands.select("Link", SelectedLink("huts-to-hut"))
    hands.press("another thing to do with a row")
    hands.type("a new row action", "Edit")
    hands.press("make the screen it opens")
    document.do(do.Act(screen="huts", list="", key="mor", action="edit"))
    form = document.wired.screens[document.session.entries[-1].screen]
    assert isinstance(form, FormScreen)
    assert document.session.entries[-1].arguments[form.key] == "mor"
    assert hands.acts <= 5


def test_adding_here_on_the_list_of_a_detail(hands: Hands) -> None:
    document = hands.person.document
    hands.select("Shape", SelectedBlock("hut", "actions"))
    hands.press("+ detail button")
    hands.press(_last_chip(hands.person))
    hands.type("label", "Add a room")
    hut = document.wired.screens["hut"]
    button = next(
        each for each in document.wired.buttons["hut"].values() if each.label == "Add a room"
    )
    from cadena.model.app import Trigger

    hands.select("Link", SelectedTrigger(Trigger(screen="hut", on="button", part=button.id)))
    hands.press("make the screen it opens")
    assert hut is not None
    document.do(do.Choose(screen="huts", key="mor"))
    document.do(do.Press(screen="hut", button=button.id))
    form = document.session.entries[-1].screen
    document.do(do.Type(screen=form, field="name", to="Loft"))
    document.do(do.Save(screen=form))
    records = document.wired.records(document.session, "rooms")
    assert records is not None
    assert records.record(len(records) - 1)["hut"] == "mor"
    assert hands.acts <= 6


def _last_chip(person: Person) -> str:
    """The name of the chip that has come last among those of buttons."""
    said = person.window.stage.strip.said
    names = [w.name for each in said for w in each.words if w.name.startswith("detail button")]
    return names[-1]


def test_an_optional_parameter_with_a_default(hands: Hands) -> None:
    document = hands.person.document
    document.show_stage("Link")
    document.select(SelectedScreen("warden"))
    hands.press("another parameter")
    hands.type("name of the new parameter", "greeting")
    hands.press("else it is")
    hands.type("greeting else", "hello")
    made = document.wired.screens["warden"].parameters[-1]
    assert (made.name, made.need, made.default) == ("greeting", "default", "hello")
    assert not [each for each in document.findings if each.screen == "warden"]
    assert hands.acts <= 4


def test_two_panes_of_30_and_70(hands: Hands) -> None:
    document = hands.person.document
    rule = next(each for each in document.app.arrangements if each.panes == 2)
    hands.select("Fit", SelectedArrangement(rule.id))
    hands.press("panes")
    hands.type("shares of the panes", "30/70")
    made = by_id(document.app.arrangements, rule.id)
    assert made is not None
    assert [each.share for each in made.widths] == [0.3, 0.7]
    document.resize(820, 1180)
    document.do(do.Choose(screen="huts", key="mor"))
    areas = [each.area.width for each in display_of(document.wired, document.session).panes]
    assert areas == pytest.approx([246, 574])
    assert hands.acts <= 3


def test_an_app_that_opens_again_where_one_was(hands: Hands) -> None:
    document = hands.person.document
    document.show_stage("Link")
    document.select(SelectedSection("huts"))
    hands.press("life of its chain")
    hands.take("how long its chain lives", "stored: it is there on every later start")
    document.do(do.Choose(screen="huts", key="mor"))
    document.do(do.Kill())
    document.do(do.Relaunch())
    assert [each.screen for each in document.session.entries] == ["huts", "hut"]
    assert hands.acts <= 2


@pytest.mark.long
def test_sections_that_share_a_value_and_favourites_that_outlive_a_restart(hands: Hands) -> None:
    from cadena.desktop.stages.shape.selected import SelectedList

    document = hands.person.document
    hands.select("Link", SelectedLink("routes-to-route"))
    hands.press("app-wide values it keeps")
    hands.take("keep a value", "route as current-route")
    hands.select("Shape", SelectedList("routes"))
    hands.press("+ row action")
    said = hands.person.window.stage.strip.said
    hands.press(
        next(w.name for each in said for w in each.words if w.name.startswith("row action 1"))
    )
    hands.take("row action 1 does", "marks it in a new list")
    listing = document.wired.listings["routes"][""]
    does = listing.actions[0].does
    assert isinstance(does, Mark)
    document.do(do.GoTo(section="routes"))
    document.do(do.Act(screen="routes", list="", key="r02", action=listing.actions[0].id))
    document.do(do.Choose(screen="routes", key="r02"))
    assert document.session.values["current-route"] == "r02"
    document.do(do.Kill())
    document.do(do.Relaunch())
    assert document.session.values[does.value] == ("r02",)
    assert hands.acts <= 8


@pytest.mark.long
def test_a_field_that_is_used_in_ten_places_is_called_otherwise(hands: Hands) -> None:
    document = hands.person.document
    assert len(uses(document.app, "huts", "name")) >= 4
    document.show_stage("Gather")
    document.select(SelectedField("huts", "name"))
    before = len(uses(document.app, "huts", "name"))
    hands.press("name of the field")
    hands.type("field name", "called")
    assert len(uses(document.app, "huts", "called")) == before
    assert not uses(document.app, "huts", "name")
    document.check()
    assert not [each for each in document.findings if each.code == "field-missing"]
    assert hands.acts <= 2


@pytest.mark.long
def test_two_details_of_one_list_by_kind_of_row(hands: Hands) -> None:
    document = hands.person.document
    hands.select("Link", SelectedLink("routes-to-route"))
    hands.press("another screen for some rows")
    hands.take("kind with a screen of its own", "grade is hard")
    document.do(do.GoTo(section="routes"))
    hard = document.wired.as_read["routes"]
    for key in hard.keys.to_list():
        document.do(do.Choose(screen="routes", key=key))
        record = hard.by_key(key)
        assert record is not None
        to = document.session.entries[-1].screen
        assert to == ("hard" if record["grade"] == "hard" else "route")
        document.do(do.Back())
    document.check()
    assert not [each for each in document.findings if each.weight == "breaks"]
    assert hands.acts <= 6
