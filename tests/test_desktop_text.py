"""No text of the window is cut, at the usual size of text and at one and a half."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QFontInfo, QFontMetrics
from PySide6.QtWidgets import QApplication, QHeaderView, QLabel, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import Selection
from cadena.desktop.document.stages import stages
from cadena.desktop.painting.faces import forget_fonts
from cadena.desktop.painting.theme import FACE, Look, px
from cadena.desktop.process.settings import Settings
from cadena.desktop.shell.window import MainWindow
from test_desktop import Person, person

__all__ = ["person"]

SIZES = ((1280, 800), (1920, 1080))


@pytest.fixture
def scale(request: pytest.FixtureRequest) -> Iterator[float]:
    """The interface at a size of text, and as it was afterwards."""
    application = QApplication.instance()
    assert isinstance(application, QApplication)
    before, font = Look.scale, application.font()
    Look.scale = request.param
    larger = application.font()
    larger.setPixelSize(px(13))
    application.setFont(larger)
    forget_fonts()
    yield request.param
    Look.scale = before
    application.setFont(font)
    forget_fonts()


def cut(window: QWidget) -> Iterator[str]:
    """The texts in view that have less room than they need."""
    for each in window.findChildren(QWidget):
        if not each.isVisible() or each.width() == 0:
            continue
        if isinstance(each, QPushButton):
            words = each.text().replace("&&", "&")
            room = each.width()
        elif isinstance(each, QLabel) and not each.wordWrap():
            words, room = each.text(), each.width() + 1
        else:
            continue
        lines = words.split("\n")
        needed = max(each.fontMetrics().horizontalAdvance(line) for line in lines)
        if needed > room:
            yield f"{type(each).__name__} “{words}” needs {needed}, has {room}"
    for head in window.findChildren(QHeaderView):
        if head.isVisible() and head.orientation() == Qt.Orientation.Horizontal:
            yield from _cut_heads(head)


def _cut_heads(head: QHeaderView) -> Iterator[str]:
    metrics = QFontMetrics(head.font())
    model = head.model()
    for at in range(head.count()):
        words = str(model.headerData(at, Qt.Orientation.Horizontal) or "")
        longest = max((metrics.horizontalAdvance(word) for word in words.split("\n")), default=0)
        if longest > head.sectionSize(at):
            yield f"head “{words}” needs {longest}, has {head.sectionSize(at)}"


@pytest.mark.long
@pytest.mark.parametrize("scale", [1.0, 1.5], indirect=True)
def test_no_text_is_cut_in_any_stage(person: Person, qtbot: QtBot, scale: float) -> None:
    window = MainWindow(person.document, Settings())
    qtbot.addWidget(window)
    window.show()
    for size in SIZES:
        window.resize(*size)
        for stage in stages():
            person.document.show_stage(stage.name)
            person.document.select(Selection())
            if stage.name == "Keep":
                stage.ready(person.document)
            QApplication.processEvents()
            found = list(cut(window))
            assert not found, f"{stage.name} at {size}, {scale:.0%}: {found}"
    person.document.file, kept = None, person.document.file
    window.close()
    person.document.file = kept


@pytest.mark.parametrize("scale", [1.0, 1.5], indirect=True)
def test_no_text_is_cut_on_the_first_page(qtbot: QtBot, person: Person, scale: float) -> None:
    window = MainWindow(Document(), Settings())
    qtbot.addWidget(window)
    window.resize(1280, 800)
    window.show()
    QApplication.processEvents()
    assert not list(cut(window))


def test_the_face_comes_with_cadena(person: Person) -> None:
    assert QFontInfo(person.window.font()).family() == FACE
