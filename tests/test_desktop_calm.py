"""The strip says what is so in a sentence of chips; each opens its editor where it stands."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit, QPushButton, QWidget

from cadena.desktop.document.selection import (
    SelectedField,
    SelectedLink,
    SelectedScreen,
    SelectedSection,
    SelectedSource,
    Selection,
)
from cadena.desktop.stages.fit.selected import SelectedArrangement, SelectedWindow
from cadena.desktop.stages.shape.selected import SelectedBlock, SelectedList, SelectedSlot
from cadena.desktop.widgets.words import OFFERS, chips
from cadena.model.app import App, DetailScreen
from cadena.model.screen_parts import listings
from cadena.model.windows import windows_of
from long_form import LONG, PART
from test_desktop import LEFT, Person, person

__all__ = ["person"]

MOST_LINES = 6


def things(app: App, types: dict[str, dict[str, str]]) -> Iterator[tuple[str, Selection]]:
    """All that can be selected in the demo, with the stage that says it."""
    for source in app.sources:
        yield "Gather", SelectedSource(source.id)
        yield from (("Gather", SelectedField(source.id, each)) for each in types[source.id])
    for screen in app.screens:
        yield "Link", SelectedScreen(screen.id)
        yield "Shape", SelectedScreen(screen.id)
        for part in listings(screen):
            yield "Shape", SelectedList(screen.id, part)
            for slot in ("title", "subtitle", "badge", "picture"):
                yield "Shape", SelectedSlot(screen.id, part, slot)
        if isinstance(screen, DetailScreen):
            yield from (("Shape", SelectedBlock(screen.id, e.id)) for e in screen.blocks)
    yield from (("Link", SelectedLink(each.id)) for each in app.links)
    yield from (("Link", SelectedSection(each.id)) for each in app.sections)
    yield from (("Fit", SelectedArrangement(each.id)) for each in app.arrangements)
    yield from (("Fit", SelectedWindow(each.name)) for each in windows_of(app))


@pytest.mark.long
def test_the_work_keeps_two_thirds_and_nothing_has_more_than_six_lines(person: Person) -> None:
    document, window = person.document, person.window
    window.resize(1280, 800)
    types = {name: dict(each) for name, each in document.types.items()}
    tallest = 0
    for stage, selection in list(things(document.app, types))[:: 1 if LONG else PART]:
        document.show_stage(stage)
        document.select(selection)
        QApplication.processEvents()
        strip = window.stage.strip
        assert strip.height() <= window.stage.height() / 3 + 1, selection
        needed = strip.widget().layout().heightForWidth(strip.viewport().width())
        line = QPushButton("x").sizeHint().height() + 12
        assert needed <= MOST_LINES * line + 24, selection
        tallest = max(tallest, needed)
        names = [each.name for each in chips(strip.said)]
        assert len(names) == len(set(names)), "a chip is found by its name"
    assert tallest > 0


def test_an_editor_stands_above_the_strip_and_gives_the_focus_back(person: Person) -> None:
    person.document.select(SelectedLink("huts-to-hut"))
    strip = person.strip
    person.open("how it opens")
    editor = strip.editor
    assert editor.geometry().bottom() < strip.geometry().top(), "the strip stays in view"
    inside = editor.focusWidget()
    assert isinstance(inside, QPushButton)
    assert inside.accessibleName() == "opens as beside", "what is so has the focus"
    person.key(inside, Qt.Key.Key_Escape)
    assert not editor.isVisible()
    chip = QApplication.focusWidget()
    assert chip is not None
    assert chip.accessibleName() == "how it opens"
    person.key(chip, Qt.Key.Key_Space)
    assert editor.isVisible()


def test_tab_goes_through_the_editor_and_on_to_the_next_chip(person: Person) -> None:
    person.document.select(SelectedLink("huts-to-hut"))
    person.open("what fills hut")
    seen: list[str] = []
    for _ in range(6):
        focused = QApplication.focusWidget()
        assert focused is not None
        seen.append(focused.accessibleName())
        QTest.keyClick(focused, Qt.Key.Key_Tab)
    assert seen[:5] == [
        "what hut carries",
        "carry nothing to hut",
        "constant for hut",
        "hut is converted",
        "app-wide values it keeps",
    ]


def test_one_is_open_at_a_time_and_a_press_outside_does_what_it_does(person: Person) -> None:
    person.document.select(SelectedLink("huts-to-hut"))
    person.open("what fills hut")
    person.open("how it opens")
    assert person.strip.editor.chip == "how it opens"
    person.tap("row", key="bal")
    QApplication.processEvents()
    assert not person.strip.editor.isVisible()
    assert person.chain == ["huts", "hut"]


def test_what_is_typed_is_taken_by_enter_and_by_leaving_and_not_by_escape(
    person: Person,
) -> None:
    def title() -> str:
        return person.document.wired.screens["hut"].title

    person.document.select(SelectedScreen("hut"))
    before = title()
    for key, wanted in ((Qt.Key.Key_Escape, before), (Qt.Key.Key_Return, "A hut")):
        line = person.field("title")
        line.selectAll()
        person.qtbot.keyClicks(line, "A hut")
        person.key(line, key)
        assert title() == wanted
    line = person.field("title")
    line.selectAll()
    person.qtbot.keyClicks(line, "Another hut")
    person.qtbot.mouseClick(person.canvas, LEFT)
    QApplication.processEvents()
    assert title() == "Another hut"
    assert not person.strip.editor.isVisible()


def test_what_is_not_so_is_offered_and_becomes_part_of_the_sentence(person: Person) -> None:
    person.document.show_stage("Shape")
    person.document.select(SelectedList("routes"))

    def offers() -> list[str]:
        found = [each for each in person.window.stage.strip.said if each.about == OFFERS]
        return [word.text for each in found for word in each.words]

    assert "+ limit" in offers()
    person.open("limit")
    line = person.window.stage.strip.editor.focusWidget()
    assert isinstance(line, QLineEdit)
    person.qtbot.keyClicks(line, "3")
    person.key(line, Qt.Key.Key_Return)
    assert "+ limit" not in offers()
    first = person.window.stage.strip.said[0]
    assert "at most 3" in " ".join(word.text for word in first.words)
    assert person.window.stage.strip.editor.chip == "limit", "it goes on where it was"


def test_what_was_open_is_closed_when_something_else_is_selected(person: Person) -> None:
    person.document.select(SelectedLink("huts-to-hut"))
    person.open("how it opens")
    person.document.select(SelectedSection("huts"))
    assert not person.strip.editor.isVisible()
    person.document.select(SelectedLink("huts-to-hut"))
    person.open("how it opens")
    person.document.show_stage("Fit")
    assert not person.strip.editor.isVisible()


@pytest.mark.long
@pytest.mark.parametrize("scale", [1.0, 1.5])
def test_every_control_of_every_editor_has_a_name_and_is_whole(
    person: Person, scale: float, monkeypatch: pytest.MonkeyPatch
) -> None:
    from cadena.desktop.painting.theme import Look

    monkeypatch.setattr(Look, "scale", scale)
    document = person.document
    wanted = {
        "Shape": SelectedList("huts"),
        "Link": SelectedLink("huts-to-hut"),
        "Fit": SelectedArrangement(document.app.arrangements[2].id),
        "Gather": SelectedField("huts", "free"),
    }
    for stage, selection in wanted.items():
        document.show_stage(stage)
        document.select(selection)
        strip = person.window.stage.strip
        for name in [each.name for each in chips(strip.said)]:
            strip.toggle(name)
            QApplication.processEvents()
            for each in strip.editor.findChildren(QWidget):
                is_stop = each.focusPolicy() & Qt.FocusPolicy.TabFocus and each.isVisible()
                if is_stop and isinstance(each, QPushButton | QLineEdit):
                    assert each.accessibleName(), (stage, name)
                    assert each.width() >= min(each.sizeHint().width(), 40)
