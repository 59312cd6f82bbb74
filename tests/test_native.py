"""What shows an app with the toolkit's widgets: pressed, typed and scrolled as a person does."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import (
    QAccessible,
    QColor,
    QGuiApplication,
    QImage,
    QPainter,
    QPalette,
    QPixmap,
    QWheelEvent,
)
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QScrollBar, QWidget
from pytestqt.qtbot import QtBot

from builders import demo
from cadena.desktop.shell.demo import DEMO
from cadena.engine import events as do
from cadena.engine.wired import WiredApp
from cadena.model.app import Comes
from cadena.model.listing import Sort
from cadena.native.look import GROUNDS, ICONS, fitted, font_of, icon_of, system_measure
from cadena.native.pictures import PicturesOf
from cadena.native.rows import ColumnsView, RowsView
from cadena.native.running import Running
from cadena.native.store import FILE, Kept, Store
from cadena.native.widgets import Line
from cadena.scene.identifiers import identifier_of
from cadena.scene.rows_moved import Gliding
from cadena.scene.transition import Moving
from test_drive import boats

CRESTA = DEMO / "cresta"
Opens = Callable[..., Running]


@pytest.fixture
def opened(qtbot: QtBot, tmp_path: Path) -> Opens:
    """Opens an app in a window that is shown, and lets go of it in the end."""

    def make(
        app: WiredApp | None = None, width: int = 1000, height: int = 700, **more: Any
    ) -> Running:
        store = Store(tmp_path / "kept")
        window = Running(app or demo(), CRESTA, store, size=(width, height), **more)
        qtbot.addWidget(window)
        window.show()
        window.activateWindow()
        qtbot.waitUntil(window.isActiveWindow)
        return window

    return make


def chain(window: Running) -> list[str]:
    return [each.screen for each in window.session.entries]


def element(window: Running, name: str, screen: str = "") -> QWidget:
    """What is shown under an identifier, the last of them."""
    panes = [e for e in window.findChildren(QWidget) if f":{screen}:" in e.accessibleIdentifier()]
    inside = panes[-1] if screen else window
    found = [
        e
        for e in inside.findChildren(QWidget)
        if e.accessibleIdentifier() == name and e.isVisible()
    ]
    assert found, f"{name} is not shown"
    return found[-1]


def rows(window: Running, part: str = "", screen: str = "huts") -> RowsView:
    view = element(window, f"list:{part}", screen)
    assert isinstance(view, RowsView)
    return view


def press_row(
    window: Running, key: Any, part: str = "", screen: str = "huts", held: Any = None
) -> None:
    view = rows(window, part, screen)
    shows = view.rows.shows
    assert shows is not None
    at = shows.listed.rows.index_of(key)
    assert at is not None
    place = view.visualRect(view.rows.index(at, 0)).center()
    QTest.mouseClick(
        view.viewport(), Qt.MouseButton.LeftButton, held or Qt.KeyboardModifier.NoModifier, place
    )


def press(window: Running, name: str, screen: str = "") -> None:
    QTest.mouseClick(element(window, name, screen), Qt.MouseButton.LeftButton)


def test_a_row_opens_its_detail_and_back_closes_it(opened: Opens) -> None:
    window = opened(width=360, height=780)
    press_row(window, "bal")
    assert chain(window) == ["huts", "hut"]
    assert element(window, "title").accessibleName() == "Balma Tersa"
    press(window, "back:Huts")
    assert chain(window) == ["huts"]
    press_row(window, "bal")
    QTest.keyClick(window, Qt.Key.Key_Left, Qt.KeyboardModifier.AltModifier)
    assert chain(window) == ["huts"]


def test_the_chosen_row_is_selected_and_said(opened: Opens) -> None:
    window = opened()
    press_row(window, "bal")
    view = rows(window)
    (index,) = view.selectedIndexes()
    assert view.rows.data(index).startswith("Balma Tersa")
    assert view.rows.rowCount() == 40


def test_keys_move_along_a_list_and_open(opened: Opens) -> None:
    window = opened(width=360, height=780)
    view = rows(window)
    view.setFocus()
    QTest.keyClick(view, Qt.Key.Key_Down)
    QTest.keyClick(view, Qt.Key.Key_Down)
    assert view.currentIndex().row() == 1
    QTest.keyClick(view, Qt.Key.Key_Return)
    assert chain(window) == ["huts", "hut"]


def test_a_search_follows_every_letter(opened: Opens) -> None:
    window = opened()
    QTest.keyClick(window, Qt.Key.Key_F, Qt.KeyboardModifier.ControlModifier)
    field = QApplication.focusWidget() or element(window, "search")
    QTest.keyClicks(element(window, "search"), "gola")
    assert isinstance(field, Line)
    assert rows(window).rows.rowCount() == 1


def test_what_can_be_done_with_a_row_is_in_its_menu(opened: Opens) -> None:
    window = opened()
    press(window, 'more@:"bal"', "huts")
    assert window.session.menu is not None
    press(window, "action:keep")
    assert window.session.values["saved"] == ("bal",)
    press(window, 'more@:"bal"', "huts")
    QTest.keyClick(window, Qt.Key.Key_Escape)
    assert window.session.menu is None


def test_a_section_is_gone_to_and_the_rows_come_in_time(opened: Opens, qtbot: QtBot) -> None:
    window = opened()
    press(window, "section:stays")
    qtbot.waitUntil(lambda: rows(window, "", "stays").rows.rowCount() > 0, timeout=5_000)


def test_a_form_is_typed_in_and_a_fault_is_said_at_its_field(opened: Opens, qtbot: QtBot) -> None:
    window = opened(driven=True)
    press(window, "section:stays")
    window.take(do.Wait(ms=3_000))
    press(window, "button:new", "stays")
    QTest.keyClicks(element(window, "field:guest"), "Ada")
    assert window.session.entries[-1].view.draft["guest"] == "Ada"
    press(window, "save")
    said = [e.box.text for e in window.shown.findChildren(QWidget) if _is_fault(e)]
    assert said
    press(window, "cancel")
    assert window.session.question is not None
    assert element(window, "question").accessibleName() == window.session.question.text
    press(window, "answer:yes")
    assert chain(window) == ["stays"]


def _is_fault(widget: QWidget) -> bool:
    return getattr(getattr(widget, "box", None), "kind", "") == "fault"


def test_the_bar_and_the_wheel_scroll(opened: Opens) -> None:
    window = opened()
    bar = element(window, "scroll", "huts")
    bar.setValue(300)  # type: ignore[attr-defined]
    scroll = window.session.entries[0].view.scroll
    assert scroll is not None
    assert scroll.key in rows(window).rows.shows.boxes  # type: ignore[union-attr]
    turn = QWheelEvent(
        QPointF(20, 20), QPointF(20, 20), QPoint(), QPoint(0, 120), Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(rows(window).viewport(), turn)
    assert bar.value() < 300  # type: ignore[attr-defined]


def test_a_window_of_another_size_is_another_window(opened: Opens) -> None:
    window = opened(width=360, height=780)
    press_row(window, "bal")
    panes = lambda: [e for e in window.shown._panes.values() if e.isVisible()]  # noqa: E731
    assert len(panes()) == 1
    window.resize(1000, 700)
    assert window.session.window.size == (1000, 700)
    assert len(panes()) == 2


def test_several_rows_are_picked_with_control_and_shift(opened: Opens) -> None:
    window = opened(driven=True)
    window.take(do.GoTo(section="stays"))
    window.take(do.Wait(ms=3_000))
    listed = rows(window, "", "stays").rows.shows
    assert listed is not None
    keys = [listed.listed.rows.key_at(each) for each in range(4)]
    press_row(window, keys[0], "", "stays", Qt.KeyboardModifier.ControlModifier)
    press_row(window, keys[2], "", "stays", Qt.KeyboardModifier.ShiftModifier)
    assert set(window.session.entries[0].view.picked[""]) == set(keys[:3])
    QTest.keyClick(window, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
    assert len(QGuiApplication.clipboard().text().splitlines()) == 3


def test_what_was_open_is_there_again_and_who_left_begins_cold(opened: Opens) -> None:
    window = opened(driven=True)
    press_row(window, "bal")
    window.take(do.Act(screen="huts", entry=0, key="bal", action="keep"))
    window.keep()
    again = opened(driven=True)
    assert chain(again) == ["huts", "hut"]
    assert again.session.values == window.session.values
    again.close()
    cold = opened(driven=True)
    assert chain(cold) == ["huts"]
    assert cold.session.values["saved"] == ("bal",)


def test_what_a_person_changed_is_kept(opened: Opens) -> None:
    window = opened(driven=True)
    window.take(do.Edit(source="huts", key="bal", fields={"free": 3}))
    window.take(do.Remove(source="huts", key="alp"))
    window.keep()
    again = opened(driven=True)
    records = again.app.records(again.session, "huts")
    assert records is not None
    assert records.by_key("bal")["free"] == 3  # type: ignore[index]
    assert records.row_of("alp") is None


@pytest.mark.parametrize(
    "text",
    [
        "", "nonsense", "[]", "{", '{"killed": 3}', '{"changes": {"huts": 3, "x": {}}}',
        '{"place": "there", "clock": -9, "left": "no"}', '{"killed": "{\\"chains\\": 3}"}',
        '{"changes": {"huts": {"changed": [{"key": "bal", "fields": {"free": "many"}}]}}}',
        '{"changes": {"huts": {"gone": ["nowhere"], "added": [{"name": 4}]}}}', "\x00\xff",
    ],
)  # fmt: skip
def test_garbage_costs_nothing_but_itself(opened: Opens, tmp_path: Path, text: str) -> None:
    (tmp_path / "kept").mkdir()
    (tmp_path / "kept" / FILE).write_text(text)
    assert chain(opened(driven=True)) == ["huts"]


def test_part_of_garbage_is_read(tmp_path: Path) -> None:
    good = {"killed": "{}", "changes": {"a": {"gone": ["x"]}, "b": 3}, "clock": "late"}
    (tmp_path / FILE).write_text(json.dumps(good))
    kept = Store(tmp_path).read()
    assert kept is not None
    assert (list(kept.changes), kept.killed, kept.clock) == (["a"], "{}", 0)


def test_a_disk_that_takes_nothing_is_said(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("")
    assert Store(tmp_path / "file").keep(Kept()) != ""


def test_every_control_has_a_name(opened: Opens) -> None:
    window = opened()
    press_row(window, "bal")
    for each in window.shown._order:
        can_be_reached = each.focusPolicy() & Qt.FocusPolicy.TabFocus
        if each.isVisible() and can_be_reached:
            assert each.accessibleName(), each


def test_the_keyboard_goes_from_screen_to_screen_in_order(opened: Opens) -> None:
    window = opened()
    press_row(window, "bal")
    stops = [e for e in window.shown._order if e.focusPolicy() & Qt.FocusPolicy.TabFocus]
    first, found = stops[0], []
    at: QWidget = first
    for _ in range(200):
        if at in stops:
            found.append(at)
        at = at.nextInFocusChain()
        if at is first:
            break
    assert found == stops


@pytest.mark.parametrize("colour", GROUNDS)
def test_inks_read_on_their_grounds(colour: str) -> None:
    def light(name: str) -> float:
        parts = [QColor(name).redF(), QColor(name).greenF(), QColor(name).blueF()]
        linear = [e / 12.92 if e <= 0.04045 else ((e + 0.055) / 1.055) ** 2.4 for e in parts]
        return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]

    for ground, ink in (GROUNDS[colour][:2], GROUNDS[colour][2:]):
        one, other = sorted((light(ground), light(ink)))
        assert (other + 0.05) / (one + 0.05) >= 4.5


def test_lines_fit_where_they_are_broken_for(qtbot: QtBot) -> None:
    text = "On the flat shoulder, three hours from the last road, bread is baked on Saturdays. " * 3
    lines = system_measure(text, 15, False, 200)
    assert " ".join(lines).split() == text.split()
    font = fitted(font_of("body", frozenset(), 1.0), text[:60], 200)
    assert font.stretch() < 100


def test_a_picture_outside_the_folder_is_none(tmp_path: Path, qtbot: QtBot) -> None:
    inside = tmp_path / "app"
    inside.mkdir()
    (tmp_path / "out.png").write_bytes((CRESTA / "pictures" / "mor.png").read_bytes())
    pictures = PicturesOf(inside)
    assert pictures("../out.png").isNull()
    assert pictures("\x00").isNull()
    assert not PicturesOf(CRESTA)("pictures/mor.png").isNull()


def test_from_the_right_all_is_the_other_way_round(opened: Opens) -> None:
    window = opened(driven=True)
    before = element(window, "title", "huts").x()
    window.take(do.ReadFrom(side="right"))
    assert window.shown.layoutDirection() == Qt.LayoutDirection.RightToLeft
    assert element(window, "title", "huts").x() != before
    view = rows(window)
    assert view.visualRect(view.rows.index(0, 0)).isValid()


def test_large_text_is_larger(opened: Opens) -> None:
    window = opened(width=2000, height=1400, driven=True)
    before = rows(window).visualRect(rows(window).rows.index(0, 0)).height()
    window.take(do.SetText(size=1.5))
    assert rows(window).visualRect(rows(window).rows.index(0, 0)).height() == round(before * 1.5)


def test_a_hundred_thousand_rows_are_not_asked_for(opened: Opens) -> None:
    app = boats()
    asked: list[int] = []
    window = opened(replace_records(app, 100_000))
    model = rows(window, "", "boats").rows
    assert model.rowCount() == 100_000
    plain = model.data
    model.data = lambda index, role=0: (asked.append(index.row()), plain(index, role))[1]  # type: ignore[method-assign]
    element(window, "scroll", "boats").setValue(2_000_000)  # type: ignore[attr-defined]
    QApplication.processEvents()
    assert len(set(asked)) < 100


def replace_records(app: WiredApp, count: int) -> WiredApp:
    from builders import records_of

    made = [{"id": n, "name": f"Boat {n:06}", "length": n % 9} for n in range(count)]
    return WiredApp(app.app, {"boats": records_of("boats", made)})


def test_identifiers_tell_all_that_can_be_pressed_apart(opened: Opens) -> None:
    window = opened(width=1280, height=800)
    press_row(window, "mor")
    told = [
        (e.entry, identifier_of(e))
        for e in window.shown.scene.boxes
        if e.does and e.kind != "scrim"
    ]
    strip_rows = [e for e in told if e[1].startswith("row:")]
    rest = [e for e in told if e not in strip_rows]
    assert len(rest) == len(set(rest))
    assert replace(do.Back()) is not None


def test_sections_show_their_icons(opened: Opens, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setitem(ICONS, "house", "M0,0L1000,0L1000,1000L0,1000Z")
    icon = icon_of("house", "#123456", 18)
    assert icon.pixmap(18, 18).toImage().pixelColor(9, 9).name() == "#123456"
    assert icon_of("no such icon", "#123456", 18).isNull()
    icon_of.cache_clear()


def test_the_focus_stays_on_a_divider_only_while_it_is_moved(opened: Opens) -> None:
    window = opened(width=1280, height=800)
    divider = element(window, "divider:0")
    divider.setFocus()
    QTest.keyClick(divider, Qt.Key.Key_Right)
    assert window.session.divided
    assert divider.hasFocus()
    press(window, "section:saved")
    press(window, "section:huts")
    assert rows(window).hasFocus()
    bar, edge = element(window, "scroll", "huts"), element(window, "divider:0")
    assert not bar.rect().translated(bar.mapTo(window, QPoint())).intersects(edge.geometry())


def test_a_screen_comes_from_its_row_and_what_is_pressed_meanwhile_counts(
    opened: Opens, qtbot: QtBot
) -> None:
    window = opened(width=360, height=780)
    press_row(window, "bal")
    passing = window.passing
    assert passing is not None
    assert isinstance(passing.moving, Moving)
    assert len(passing.moving.flights) == 2
    assert passing.isVisible()
    frames = []
    for at in (0, 150, 320):
        made = QPixmap(window.size())
        painter = QPainter(made)
        passing.paint_at(painter, at)
        painter.end()
        frames.append(made.toImage())
    assert frames[0] != frames[1] != frames[2]
    press(window, "back:Huts")
    assert chain(window) == ["huts"]
    qtbot.waitUntil(lambda: not passing.isVisible())
    assert passing.moving is None


@pytest.mark.parametrize("comes", ["from the side", "from below", "by fading"])
def test_a_screen_comes_in_a_way_of_its_own(opened: Opens, comes: Comes) -> None:
    plain = demo().app
    links = tuple(
        replace(each, transition=None, comes=comes) if each.id == "huts-to-hut" else each
        for each in plain.links
    )
    window = opened(WiredApp(replace(plain, links=links), demo().as_read), width=360, height=780)
    press_row(window, "bal")
    assert window.passing is not None
    assert isinstance(window.passing.moving, Moving)
    made = QPixmap(window.size())
    painter = QPainter(made)
    window.passing.paint_at(painter, window.passing.moving.duration)
    painter.end()
    rgb = QImage.Format.Format_RGB32
    seen = window.shown.grab().toImage().convertToFormat(rgb)
    assert made.toImage().convertToFormat(rgb) == seen


def test_rows_go_to_their_other_places(opened: Opens) -> None:
    window = opened(width=360, height=780)
    window.take(do.SortBy(screen="huts", by=(Sort(field="altitude", descending=True),)))
    assert window.passing is not None
    assert isinstance(window.passing.moving, Gliding)
    window.passing.grab()


def test_nothing_moves_for_who_drives_it_or_wants_no_motion(
    opened: Opens, monkeypatch: pytest.MonkeyPatch
) -> None:
    driven = opened(width=360, height=780, driven=True)
    press_row(driven, "bal")
    assert driven.passing is None
    style = QApplication.style()
    monkeypatch.setattr(type(style), "styleHint", lambda *_: 0)
    still = opened(width=360, height=780)
    still.take(do.Choose(screen="huts", key="mor"))
    assert still.passing is None


def test_columns_are_a_table_to_who_does_not_see_them(opened: Opens) -> None:
    window = opened(driven=True)
    for event in (
        *(do.GoTo(section="routes"), do.Wait(ms=3000)),
        *(do.Choose(screen="routes", key="r04"), do.Wait(ms=3000)),
        do.TurnPage(screen="route", to="page-legs"),
    ):
        window.take(event)
    view = element(window, "list:legs", "route")
    assert isinstance(view, ColumnsView)
    told = QAccessible.queryAccessibleInterface(view)
    assert told.role() == QAccessible.Role.Table
    heads = [view.rows.headerData(at, Qt.Orientation.Horizontal) for at in range(4)]
    assert heads == ["hut", "leg", "walk", "up"]
    row = [view.rows.data(view.rows.index(0, at)) for at in range(4)]
    assert all(row)
    assert view.rows.said(0) == "\t".join(row)
    lefts = [view.visualRect(view.rows.index(0, at)).left() for at in range(4)]
    assert lefts == sorted(set(lefts))
    QTest.mouseClick(view.viewport(), Qt.MouseButton.LeftButton, pos=QPoint(lefts[2] + 5, 10))
    assert chain(window)[-1] == "hut"
    window.take(do.ReadFrom(side="right"))


def test_layers_menus_and_questions_are_told_as_such_and_hold_what_is_in_them(
    opened: Opens,
) -> None:
    def role(widget: QWidget) -> QAccessible.Role:
        return QAccessible.queryAccessibleInterface(widget).role()

    window = opened(width=1280)
    assert role(element(window, "divider:0")) == QAccessible.Role.Splitter
    window.take(do.OpenMenu(screen="huts", key="bal"))
    item = element(window, "action:keep")
    assert role(item.parentWidget()) == QAccessible.Role.PopupMenu
    window.take(do.CloseMenu())
    window.take(do.Choose(screen="huts", key="bal"))
    window.take(do.Press(screen="hut", button="book"))
    form = element(window, "field:guest")
    window.take(do.Type(screen="stay-form", field="guest", to="Ida"))
    assert role(form.parentWidget().parentWidget()) == QAccessible.Role.Dialog
    window.take(do.Back())
    asked = element(window, "answer:no").parentWidget()
    assert role(asked) == QAccessible.Role.Dialog


def test_tiles_across_are_scrolled_by_their_bar(opened: Opens) -> None:
    window = opened(width=360, height=780)
    bar = element(window, "scroll:regions", "huts")
    assert isinstance(bar, QScrollBar)
    bar.setValue(100)
    assert window.session.entries[0].view.across["regions"] is not None
    assert bar.value() == 100
    view = element(window, "list:regions", "huts")
    wheel = QWheelEvent(
        QPointF(20, 20), QPointF(20, 20), QPoint(), QPoint(-120, 0), Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(view.viewport(), wheel)
    assert bar.value() == 190


@pytest.mark.parametrize("count", [0, 1])
def test_no_record_and_one(opened: Opens, count: int) -> None:
    window = opened(width=360, height=780)
    keys = demo().as_read["huts"].keys.to_list()
    window.take(do.Refresh(source="huts", gone=tuple(keys[count:])))
    if count:
        press_row(window, keys[0])
        assert chain(window) == ["huts", "hut"]
    else:
        assert [each.accessibleIdentifier() for each in window.shown.lists()] == ["list:regions"]


def test_dark_is_followed(opened: Opens) -> None:
    window = opened()
    palette = QPalette(QColor("#20262a"))
    window.setPalette(palette)
    assert element(window, "title", "huts").palette().color(
        QPalette.ColorRole.Window
    ) == palette.color(QPalette.ColorRole.Window)
