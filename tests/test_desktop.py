"""The desktop, driven as a person would: by mouse and by keyboard, in a real window."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from pathlib import Path
from typing import TypeVar

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QKeyEvent, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit, QMenu, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from builders import DEMO
from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import SelectedLink, SelectedScreen, SelectedSection
from cadena.desktop.painting import theme
from cadena.desktop.painting.faces import forget_fonts
from cadena.desktop.process.settings import Settings, read_settings
from cadena.desktop.shell.window import MainWindow
from cadena.desktop.stages.link.hit_test import card_at
from cadena.desktop.widgets.strip import Strip
from cadena.desktop.widgets.words import Sentence, all_of, chips
from cadena.engine import events as do
from cadena.model.app import Trigger
from cadena.model.find import by_id
from cadena.scene.board.board import CARD

LEFT = Qt.MouseButton.LeftButton
Kind = TypeVar("Kind", bound=QWidget)


class Person:
    """Someone at the window."""

    def __init__(self, qtbot: QtBot, folder: Path) -> None:
        application = QApplication.instance()
        assert isinstance(application, QApplication)
        theme.install(application, "light")
        forget_fonts()
        self.qtbot = qtbot
        self.folder = folder
        self.document = Document()
        self.window = MainWindow(self.document, Settings())
        self.document.open(folder)
        qtbot.addWidget(
            self.window, before_close_func=lambda _: setattr(self.document, "file", None)
        )
        self.window.show()
        qtbot.waitExposed(self.window)
        self.picture = self.window.stage.picture
        self.strip = self.window.stage.strip
        self.canvas = self.window.bench.canvas
        self.picture.refresh()

    @property
    def chain(self) -> list[str]:
        return [each.screen for each in self.document.session.entries]

    def tap(self, kind: str, **which: object) -> None:
        """Tap a box on the Bench."""
        for box in reversed(self.canvas.scene.boxes):
            if box.kind == kind and all(
                getattr(box, name) == value for name, value in which.items()
            ):
                self.qtbot.mouseClick(self.canvas, LEFT, pos=self.canvas.px_of(box).center())
                return
        raise AssertionError(f"no {kind} {which} in view")

    def see(self, kind: str) -> list[str]:
        return [box.text for box in self.canvas.scene.boxes if box.kind == kind]

    def reach(self, kind: type[Kind], is_it: Callable[[str], bool]) -> Kind:
        """A control that is in view, else in the editor of a chip of the strip, opened by mouse.

        Raises:
            LookupError: where there is none.
        """
        QApplication.processEvents()
        if (there := self._in_view(kind, is_it)) is not None:
            return there
        strip = self.window.stage.strip
        for chip in [each.name for each in chips(strip.said)]:
            if strip.editor.chip != chip:
                self.open(chip)
            if (there := self._in_view(kind, is_it)) is not None:
                return there
        raise LookupError("no such control")

    def open(self, chip: str) -> None:
        """Open the editor of a chip."""
        pill = self._in_view(QPushButton, lambda name: name == chip)
        assert pill is not None, chip
        self.qtbot.mouseClick(pill, LEFT)
        QApplication.processEvents()
        assert self.window.stage.strip.editor.chip == chip

    def _in_view(self, kind: type[Kind], is_it: Callable[[str], bool]) -> Kind | None:
        for widget in self.window.findChildren(kind):
            if widget.isVisible() and is_it(widget.accessibleName()):
                return widget
        return None

    def press(self, name: str) -> None:
        """Press the button of that name."""
        try:
            button = self.reach(QPushButton, lambda said: said == name)
        except LookupError:
            raise AssertionError(f"no button {name}") from None
        self.qtbot.mouseClick(button, LEFT)

    def take(self, name: str, option: str) -> None:
        """Take an option of the menu of that name."""
        self.press(name)
        menu = QApplication.activePopupWidget()
        assert isinstance(menu, QMenu)
        action = next(each for each in menu.actions() if each.text() == option)
        menu.close()
        action.trigger()
        QApplication.processEvents()

    def key(
        self,
        widget: QWidget,
        key: Qt.Key,
        modifier: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier,
    ) -> None:
        self.qtbot.keyClick(widget, key, modifier)

    def port(self, trigger: Trigger) -> QPoint:
        found = self.picture.board.port(trigger)
        assert found is not None
        card, port = found
        return self.picture.to_view(card.area.x + CARD, port.y).toPoint()

    def pull(self, start: QPoint, end: QPoint) -> None:
        view = self.picture.viewport()
        QTest.mousePress(view, LEFT, Qt.KeyboardModifier.NoModifier, start)
        QTest.mouseMove(view, start + QPoint(12, 4))
        QTest.mouseMove(view, end)
        QTest.mouseRelease(view, LEFT, Qt.KeyboardModifier.NoModifier, end)
        menu = QApplication.activePopupWidget()
        if isinstance(menu, QMenu):
            # In the open it asks for what: Enter takes the likeliest.
            QTest.keyClick(menu, Qt.Key.Key_Return)
            QApplication.processEvents()

    def open_space(self) -> QPoint:
        """A place on the board, in view, where nothing is."""
        view = self.picture.viewport().rect()
        for x in range(view.width() - 20, 20, -30):
            for y in range(view.height() - 20, 20, -30):
                if card_at(self.picture.board, self.picture.to_board(QPointF(x, y))) is None:
                    return QPoint(x, y)
        raise AssertionError("the board is full")

    def field(self, name: str) -> QLineEdit:
        """The text field whose name holds these words."""
        try:
            return self.reach(QLineEdit, lambda said: said.startswith(name))
        except LookupError:
            raise AssertionError(f"no field {name}") from None

    def words(self) -> str:
        """All that the strip says, what is inside its chips too."""
        strip = self.window.stage.strip
        found = [each for one in all_of(strip.said) for each in (one.about, *_said_by(one))]
        return " ".join(found)


def _said_by(sentence: Sentence) -> list[str]:
    return [f"{word.text} ▾" if word.kind == "menu" else word.text for word in sentence.words]


@pytest.fixture
def person(qtbot: QtBot, tmp_path: Path) -> Person:
    shutil.copytree(DEMO / "cresta", tmp_path / "cresta")
    return Person(qtbot, tmp_path / "cresta")


def test_the_bench_runs_the_app(person: Person) -> None:
    """Choose a hut, open a room, go back, turn, kill and restore."""
    person.tap("row", key="bal")
    assert person.chain == ["huts", "hut"]
    assert person.see("back") == ["Huts"]
    person.document.do(do.Scroll(by=400.0))
    room = next(
        box for box in person.canvas.scene.boxes if box.kind == "row" and box.part == "rooms"
    )
    person.tap("row", key=room.key)
    assert person.chain == ["huts", "hut", "room"]
    person.tap("back")
    assert person.chain == ["huts", "hut"]
    person.press("turn the app")
    assert person.see("title")[0] == "Huts"
    chosen = [
        box.key for box in person.canvas.scene.boxes if "chosen" in box.state and box.kind == "row"
    ]
    assert chosen == ["bal"]
    before = person.canvas.scene
    person.press("kill the app")
    assert person.see("off words") == ["The system ended this app"]
    person.press("restore the app")
    assert person.canvas.scene == before


def test_the_bench_by_keyboard(person: Person) -> None:
    canvas = person.canvas
    canvas.setFocus()
    person.key(canvas, Qt.Key.Key_Down)
    person.key(canvas, Qt.Key.Key_Down)
    assert any("marked" in box.state for box in canvas.scene.boxes)
    person.key(canvas, Qt.Key.Key_Return)
    assert person.chain == ["huts", "hut"]
    person.key(canvas, Qt.Key.Key_T)
    assert person.document.session.window.size == (780, 360)
    person.key(canvas, Qt.Key.Key_T)
    person.key(canvas, Qt.Key.Key_Left, Qt.KeyboardModifier.AltModifier)
    assert person.chain == ["huts"]


def test_every_control_of_the_app_is_a_stop_with_a_name(person: Person) -> None:
    stops = person.canvas._stops.in_use()
    names = [each.accessibleName() for each in stops]
    assert "search name, region" in names
    assert "Huts" in names
    assert any(name.startswith("list, ") for name in names)
    routes = next(each for each in stops if each.accessibleName() == "Routes")
    routes.setFocus()
    person.key(routes, Qt.Key.Key_Return)
    assert person.document.session.section == "routes"
    person.canvas.setFocus()
    person.key(person.canvas, Qt.Key.Key_Down)
    assert any("marked: " in each.accessibleName() for each in person.canvas._stops.in_use())


def test_typing_in_a_search_field_is_a_real_line_edit(person: Person) -> None:
    person.tap("search")
    field = person.canvas.findChild(QLineEdit)
    assert field is not None
    assert field.isVisible()
    person.qtbot.keyClicks(field, "mor")
    assert person.document.session.entries[0].view.search == {"": "mor"}
    assert "Morenna" in person.see("row title")
    person.key(field, Qt.Key.Key_Escape)
    assert not field.isVisible()


def test_wheel_and_drag_scroll_the_list_under_them(person: Person) -> None:
    canvas = person.canvas
    middle = QPointF(canvas.rect().center())
    event = QWheelEvent(
        middle,
        canvas.mapToGlobal(middle),
        QPoint(),
        QPoint(0, -240),
        Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    QApplication.sendEvent(canvas, event)
    first = person.document.session.entries[0].view.scroll
    assert first is not None
    at = canvas.rect().center()
    QTest.mousePress(canvas, LEFT, Qt.KeyboardModifier.NoModifier, at)
    QTest.mouseMove(canvas, at - QPoint(0, 40))
    QTest.mouseMove(canvas, at - QPoint(0, 90))
    QTest.mouseRelease(canvas, LEFT, Qt.KeyboardModifier.NoModifier, at - QPoint(0, 90))
    assert person.document.session.entries[0].view.scroll != first
    assert person.chain == ["huts"]


def test_a_link_pulled_into_the_open_makes_the_screen(person: Person) -> None:
    person.document.edit("start", person.document.app)
    person.document.select(SelectedLink("hut-to-room"))
    person.press("remove this link")
    person.document.select(SelectedScreen("room"))
    person.press("remove this screen")
    assert by_id(person.document.app.screens, "room") is None
    person.picture.refresh()
    start = person.port(Trigger(screen="hut", part="rooms"))
    person.pull(start, person.open_space())
    made = by_id(person.document.app.screens, "room")
    assert made is not None
    assert made.title == "{name}"
    assert [(each.name, each.type) for each in made.parameters] == [("room", "whole number")]
    link = next(each for each in person.document.app.links if each.to == "room")
    assert link.trigger == Trigger(screen="hut", part="rooms")
    assert person.document.selection == SelectedLink(link.id)
    assert person.document.findings == ()
    person.document.do(do.Choose(key="fon"))
    person.document.do(do.Choose(key=0, list="rooms"))
    assert person.see("title centred") == ["North bunk"]


def test_a_link_pulled_onto_a_card_opens_that_screen(person: Person) -> None:
    target = person.picture.board.card("warden")
    assert target is not None
    onto = person.picture.to_view(target.area.x + 60, target.area.y + 60).toPoint()
    person.pull(person.port(Trigger(screen="hut", part="rooms")), onto)
    link = person.document.wired.links["hut", "row", "rooms"]
    assert link.to == "warden"
    assert [each.parameter for each in link.arguments] == ["hut"]


def test_what_is_found_meanwhile_does_not_take_the_field_from_who_types(person: Person) -> None:
    picture = person.picture
    picture.setFocus()
    for _ in range(4):
        person.key(picture, Qt.Key.Key_Down)
    person.key(picture, Qt.Key.Key_L)
    field = person.field("screen to open")
    person.qtbot.keyClicks(field, "Be")
    person.document.check()
    assert person.field("screen to open").text() == "Be"
    person.window.bench.canvas.setFocus()
    QApplication.processEvents()
    fields = [each.accessibleName() for each in person.strip.findChildren(QLineEdit)]
    assert "screen to open" not in fields


def test_what_is_asked_stays_when_findings_come(person: Person) -> None:
    person.document.select(SelectedLink("hut-to-room"))
    person.picture.setFocus()
    person.key(person.picture, Qt.Key.Key_L)
    person.document.tell(Change.FINDINGS)
    assert person.field("screen to open").hasFocus()


def test_linking_by_keyboard(person: Person) -> None:
    """Select the trigger, L, type the name of a new screen, Enter."""
    picture = person.picture
    picture.setFocus()
    for _ in range(4):
        person.key(picture, Qt.Key.Key_Down)
    assert person.document.selection == SelectedLink("hut-to-room")
    person.key(picture, Qt.Key.Key_L)
    field = person.field("screen to open")
    assert field.hasFocus()
    person.qtbot.keyClicks(field, "Bunk")
    person.key(field, Qt.Key.Key_Return)
    assert by_id(person.document.app.screens, "bunk") is not None
    assert person.document.wired.links["hut", "row", "rooms"].to == "bunk"
    person.key(person.window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert by_id(person.document.app.screens, "bunk") is None


def test_a_removed_argument_is_seen_found_refused_and_undone(person: Person) -> None:
    person.document.select(SelectedLink("huts-to-hut"))
    person.press("carry nothing to hut")
    assert person.document.wired.links["huts", "row", ""].arguments == ()
    assert "hut requires hut (text), and nothing is carried" in person.words()
    assert person.window.head.findings.text() == "1 open finding so far"
    ribbon = next(each for each in person.picture.board.ribbons if each.link.id == "huts-to-hut")
    assert ribbon.broken
    person.tap("row", key="bal")
    assert person.chain == ["huts"]
    assert "parameter hut is required" in person.window.bench.said.text()
    person.key(person.window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert person.document.findings == ()
    person.tap("row", key="bal")
    assert person.chain == ["huts", "hut"]
    person.key(
        person.window,
        Qt.Key.Key_Z,
        Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier,
    )
    assert len(person.document.findings) == 1
    person.press("mend links[huts-to-hut].arguments[hut]")
    assert person.document.findings == ()


def test_how_it_opens_is_chosen_in_place(person: Person) -> None:
    person.document.select(SelectedLink("hut-to-room"))
    person.press("opens as modal")
    assert person.document.wired.links["hut", "row", "rooms"].how == "modal"
    person.press("opens as modal")
    editor = person.strip.editor
    buttons = [b for b in editor.findChildren(QPushButton) if not b.isHidden()]
    assert [b.text() for b in buttons if b.isChecked()] == ["modal"]
    pills = [b for b in person.strip.findChildren(QPushButton) if not b.isHidden()]
    assert [b.text() for b in pills if b.isChecked()] == ["modal"], "the chip that is open"
    person.key(buttons[0], Qt.Key.Key_Escape)
    assert not editor.isVisible()
    assert QApplication.focusWidget() is next(b for b in pills if b.text() == "modal")
    person.press("the chosen row is left where it was scrolled")
    assert not person.document.wired.listings["hut"]["rooms"].keep_in_view
    person.key(person.window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert person.document.wired.listings["hut"]["rooms"].keep_in_view
    person.key(person.window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert person.document.wired.links["hut", "row", "rooms"].how == "push"


def test_clicking_on_the_board_selects(person: Person) -> None:
    card = person.picture.board.card("hut")
    assert card is not None
    view = person.picture.viewport()
    person.qtbot.mouseClick(
        view, LEFT, pos=person.picture.to_view(card.area.x + 60, card.area.y + 12).toPoint()
    )
    assert person.document.selection == SelectedScreen("hut")
    ribbon = next(each for each in person.picture.board.ribbons if each.link.id == "huts-to-hut")
    person.qtbot.mouseClick(view, LEFT, pos=person.picture.to_view(*ribbon.label_at).toPoint())
    assert person.document.selection == SelectedLink("huts-to-hut")
    person.key(person.picture, Qt.Key.Key_Right)
    assert person.document.selection == SelectedScreen("hut")
    person.key(person.picture, Qt.Key.Key_Left)
    assert isinstance(person.document.selection, SelectedLink)
    person.key(person.picture, Qt.Key.Key_Delete)
    assert by_id(person.document.app.links, "huts-to-hut") is None


def test_sections_are_named_ordered_added_and_left_out(person: Person) -> None:
    person.press("section Routes")
    assert person.document.section == "routes"
    person.press("section left out")
    assert person.see("section") == ["Huts", "Stays", "Saved"]
    person.press("section in the bar")
    person.press("move the section left")
    assert person.see("section") == ["Routes", "Huts", "Stays", "Saved"]
    title = person.field("section title")
    title.selectAll()
    person.qtbot.keyClicks(title, "Ways")
    person.key(title, Qt.Key.Key_Return)
    assert person.see("section") == ["Ways", "Huts", "Stays", "Saved"]
    person.press("remove this section")
    assert person.see("section") == ["Huts", "Stays", "Saved"]
    person.take("add a section", "starting with Routes")
    assert person.see("section") == ["Huts", "Stays", "Saved", "Routes"]
    person.take("add a section", "with a new list of Rooms")
    assert person.see("section") == ["Huts", "Stays", "Saved", "Routes", "Rooms"]
    assert person.see("title") == ["Huts"]
    while person.document.history.undoes:
        person.document.undo()
    assert person.document.is_saved


def test_screens_are_named_and_ordered(person: Person) -> None:
    person.document.select(SelectedScreen("warden"))
    person.press("move the screen up")
    order = (
        [each.screen.id for each in person.picture.board.cards if each.column == 2]
        if not person.picture._stale
        else []
    )
    person.picture.refresh()
    order = [each.screen.id for each in person.picture.board.cards if each.column == 2]
    assert order == ["warden", "room", "route", "stay-form"]
    title = person.field("title")
    title.selectAll()
    person.qtbot.keyClicks(title, "Warden")
    person.key(title, Qt.Key.Key_Return)
    assert by_id(person.document.app.screens, "warden").title == "Warden"  # type: ignore[union-attr]


def test_screens_are_added_by_source(person: Person) -> None:
    person.take("add a screen", "a list of Rooms")
    assert person.document.selection == SelectedScreen("rooms")
    assert "is a list of rooms" in person.words()
    person.take("add a screen", "a detail of Legs")
    made = by_id(person.document.app.screens, "leg")
    assert made is not None
    assert made.parameters[0].key_of == "legs"
    assert {each.code for each in person.document.findings} == {"screen-unreachable"}


def test_a_link_is_led_elsewhere_from_its_menu(person: Person) -> None:
    person.document.select(SelectedLink("hut-to-room"))
    person.take("screen it opens", "Warden")
    assert person.document.wired.links["hut", "row", "rooms"].to == "warden"
    person.document.undo()
    person.document.select(SelectedLink("hut-to-room"))
    person.take("what room carries", "rooms.name")
    assert [each.code for each in person.document.findings] == [
        "argument-unfit",
        "address-without-chain",
    ]


def test_save_close_and_open_again(person: Person) -> None:
    person.document.select(SelectedLink("hut-to-room"))
    person.press("opens as modal")
    assert person.window.head.saved.text() == "not saved"
    person.key(person.window, Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
    assert person.window.head.saved.text() == "saved"
    person.window.close_project()
    assert person.window.pages.currentIndex() == 0
    person.window.taking.open_project(person.folder)
    assert person.document.wired.links["hut", "row", "rooms"].how == "modal"
    assert (person.folder / "cresta.cadena.before").is_file()


def test_a_project_that_cannot_be_used_leaves_all_as_it_is(person: Person, tmp_path: Path) -> None:
    before = person.document.app
    (tmp_path / "bad").mkdir()
    (tmp_path / "bad" / "bad.cadena").write_text("{")
    person.window.taking.open_project(tmp_path / "bad")
    assert person.document.app is before
    assert "it is not JSON" in person.window.said.text()
    assert person.window.said.isVisible()


def test_do_anything_by_typing(person: Person) -> None:
    person.key(person.window, Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier)
    ask = person.window._ask
    assert ask.isVisible()
    person.qtbot.keyClicks(ask.field, "bench turn")
    person.key(ask.field, Qt.Key.Key_Return)
    assert person.document.session.window.size == (780, 360)
    for typed, chain in (("morenna", ["huts", "hut"]),):
        person.window.ask()
        person.qtbot.keyClicks(ask.field, typed)
        assert any("huts mor" in each.about for each in ask.answers)
        person.key(ask.field, Qt.Key.Key_Return)
        assert person.chain == chain
    person.window.ask()
    person.qtbot.keyClicks(ask.field, "warden")
    person.key(ask.field, Qt.Key.Key_Down)
    person.key(ask.field, Qt.Key.Key_Up)
    assert any(each.about == "screen" for each in ask.answers)
    ask.hide()


def test_f6_goes_round_the_parts(person: Person) -> None:
    person.picture.setFocus()
    seen = []
    for _ in range(4):
        person.key(person.window, Qt.Key.Key_F6)
        seen.append(person.window.focusWidget())
    assert person.canvas in seen
    assert person.picture in seen
    assert person.window.chain.links[2] in seen


def test_every_control_has_a_name(person: Person) -> None:
    for selection in (
        SelectedLink("huts-to-hut"),
        SelectedScreen("hut"),
        SelectedSection("huts"),
    ):
        person.document.select(selection)
        for widget in person.window.findChildren(QWidget):
            if (
                widget.isVisible()
                and widget.focusPolicy() & Qt.FocusPolicy.TabFocus
                and widget.isEnabled()
            ):
                assert widget.accessibleName() or widget.metaObject().className().startswith(
                    "QSpl"
                ), widget


@pytest.mark.long
def test_findings_are_listed_shown_and_mended(qtbot: QtBot, tmp_path: Path) -> None:
    shutil.copytree(DEMO / "cresta-broken", tmp_path / "b")
    person = Person(qtbot, tmp_path / "b")
    person.document.check()
    assert person.window.head.findings.text() == "81 open findings"
    person.press("open findings")
    assert "81 open findings" in person.words()
    person.press("mend screens[attic].title")
    assert person.window.head.findings.text().endswith("so far")
    person.document.check()
    assert person.window.head.findings.text() == "80 open findings"
    person.press("show screens[saved].keep.search")
    assert person.document.stage == "Keep"
    person.document.show_stage("Link")
    person.press("show links[hut-to-room].arguments[room]")
    assert person.document.selection == SelectedLink("hut-to-room")


def test_all_walks_are_run(person: Person) -> None:
    person.press("run all walks")
    assert person.window.said.text() == "✓ 5 walks held in 25 runs, at 5 windows."


def test_records_are_added_to_an_empty_project(
    qtbot: QtBot, tmp_path: Path, person: Person
) -> None:
    person.document.make(tmp_path / "mine", "My app")
    assert person.document.app.name == "My app"
    cabins = tmp_path / "cabins.csv"
    cabins.write_text("code,name,beds\na,Alder,4\nb,Birch,0\n")
    person.window.taking.take_records(cabins)
    assert person.see("row title") == ["Alder", "Birch"]
    person.picture.refresh()
    start = person.port(Trigger(screen="cabins"))
    person.pull(start, start + QPoint(150, 60))
    person.tap("row", key="b")
    assert person.see("fact") == ["0"]
    assert person.document.findings == ()
    person.document.resize(820, 1180)
    assert person.see("title")[0] == "Cabins"
    (tmp_path / "bad.json").write_text("{")
    person.window.taking.take_records(tmp_path / "bad.json")
    assert "it is not JSON" in person.window.said.text()
    with pytest.raises(Exception, match="a project in it already"):
        person.document.make(tmp_path / "mine", "Again")


def test_window_sizes_are_chosen_and_typed(person: Person) -> None:
    next(each for each in person.window.commands if each.name.startswith("Window Fold")).trigger()
    assert person.document.session.window.fold == 336
    person.press("fold the app")
    assert person.document.session.window.size == (336, 841)
    size = person.field("window size")
    size.selectAll()
    person.qtbot.keyClicks(size, "500x500")
    person.key(size, Qt.Key.Key_Return)
    assert person.document.session.window.size == (500, 500)
    size = person.field("window size")
    size.selectAll()
    person.qtbot.keyClicks(size, "wide")
    person.key(size, Qt.Key.Key_Return)
    assert person.document.session.window.size == (500, 500)
    assert "WIDTHxHEIGHT" in person.window.bench.said.text()


def test_zoom_and_scroll_of_the_board(person: Person) -> None:
    picture = person.picture
    picture.set_zoom(2.0)
    assert picture.horizontalScrollBar().maximum() > 0
    at = QPointF(200, 200)
    before = picture.to_board(at)
    picture.set_zoom(1.3, at)
    after = picture.to_board(at)
    assert (before - after).manhattanLength() < 2
    picture.fit()
    assert picture.horizontalScrollBar().maximum() == 0
    person.qtbot.wait(250)
    assert picture.zoom <= 1.0


def test_the_theme_changes_everything_at_once(person: Person) -> None:
    before = person.window.grab().toImage().pixelColor(300, 300).lightness()
    person.window.change_theme()
    assert theme.theme().name == "dark"
    after = person.window.grab().toImage().pixelColor(300, 300).lightness()
    person.window.change_theme()
    assert before > 150 > after


def test_the_window_remembers(person: Person) -> None:
    person.document.resize(500, 600)
    person.window.resize(1100, 700)
    strip = person.strip.viewport()
    QTest.mousePress(strip, LEFT, Qt.KeyboardModifier.NoModifier, QPoint(200, 2))
    QTest.mouseMove(strip, QPoint(200, -30))
    QTest.mouseRelease(strip, LEFT, Qt.KeyboardModifier.NoModifier, QPoint(200, -30))
    tall = Strip.tall
    assert tall is not None
    assert person.strip.height() == tall
    person.window.close()
    kept = read_settings()
    assert (kept.strip, len(kept.bench)) == (tall, 2)
    Strip.tall = None
    assert kept.window == (500, 600)
    assert kept.recent == (str(person.folder.resolve()),)
    assert kept.geometry


def test_keys_that_mean_nothing_do_nothing(person: Person) -> None:
    before = person.document.session
    event = QKeyEvent(QEvent.Type.KeyPress, Qt.Key.Key_F9, Qt.KeyboardModifier.NoModifier)
    person.canvas.keyPressEvent(event)
    person.picture.keyPressEvent(event)
    assert person.document.session is before


def test_17_what_back_took_away_is_gone_forward_to_on_the_bench(person: Person) -> None:
    def forward() -> QPushButton | None:
        QApplication.processEvents()
        buttons = person.window.bench.findChildren(QPushButton)
        return next((each for each in buttons if each.accessibleName() == "forward the app"), None)

    def can_be_pressed() -> bool:
        return (button := forward()) is not None and button.isEnabled()

    assert forward() is None, "offered only where the app says so"
    app = person.document.app
    person.document.edit("forward", replace(app, platform=replace(app.platform, forward=True)))
    person.tap("row", key="alp")
    assert not can_be_pressed()
    person.document.do(do.Back())
    assert can_be_pressed()
    person.press("forward the app")
    assert person.chain == ["huts", "hut"]
    assert not can_be_pressed()
    person.document.do(do.Back())
    person.key(person.canvas, Qt.Key.Key_Right, Qt.KeyboardModifier.AltModifier)
    assert person.chain == ["huts", "hut"]


def test_16_the_next_and_the_one_before_on_the_bench(person: Person) -> None:
    person.document.do(do.Choose(screen="huts", key="mor"))
    person.document.do(do.Choose(screen="hut", list="rooms", key=3))
    assert "1 of 2" in person.see("footer")
    person.tap("button", name="the next")
    assert person.document.session.entries[-1].arguments == {"room": 4}
    alt = Qt.KeyboardModifier.AltModifier
    person.key(person.canvas, Qt.Key.Key_Up, alt)
    assert person.document.session.entries[-1].arguments == {"room": 3}
    at = person.canvas.rect().center()
    for onward, room in ((-90, 4), (90, 3)):
        person.qtbot.mousePress(person.canvas, LEFT, pos=at)
        for part in (1, 2, 3):
            person.qtbot.mouseMove(person.canvas, at + QPoint(onward * part // 3, 0))
        person.qtbot.mouseRelease(person.canvas, LEFT, pos=at + QPoint(onward, 0))
        assert person.document.session.entries[-1].arguments == {"room": room}
    person.document.select(SelectedScreen("room"))
    person.press("the next and the one before")
    person.press("the next and the one before")
