"""What has not changed is not asked again, and what is known is what would be found anew."""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator
from functools import partial
from statistics import median
from types import FrameType
from typing import Any

import pytest
from msgspec.structs import replace
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from builders import POCKET, demo
from cadena.check.check import Reading, read_through
from cadena.check.mend import mended
from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import SelectedLink
from cadena.desktop.painting.motion import Motion
from cadena.engine import events as do
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.app import App, PaneWidth
from cadena.model.edits.wiring import with_link
from cadena.model.find import by_id
from cadena.model.once import once
from cadena.scene.board.board import Board, lay_out_board
from test_desktop import Person, person

__all__ = ["person"]


def edited(app: App, types: Any) -> Iterator[App]:
    """An app after each of many edits, of links, windows and rules, and of every mend there is."""
    for link in app.links:
        for how in ("modal", "beside", "replace", "push"):
            yield (app := with_link(app, replace(link, how=how)))
        yield (app := replace(app, links=tuple(e for e in app.links if e.id != link.id)))
        yield (app := replace(app, links=(*app.links, link)))
    yield (app := replace(app, windows=app.windows[:1]))
    yield (app := replace(app, platform=replace(app.platform, frames_from=("maps.invalid",))))
    for rule in app.arrangements:
        wide = replace(rule, widths=(PaneWidth(least=900), *rule.widths[1:]))
        rules = tuple(wide if e is rule else e for e in app.arrangements)
        yield (app := replace(app, arrangements=rules))
    for screen in app.screens:
        others = tuple(e for e in app.screens if e is not screen)
        yield replace(app, screens=others)
        yield (app := replace(app, screens=(*others, screen)))
    for finding in read_through(app, demo("cresta-broken").as_read):
        made = mended(app, types, finding)
        if made is not None:
            yield (app := made)


@pytest.mark.long
def test_an_app_that_is_read_again_has_the_findings_of_one_read_at_first() -> None:
    broken = demo("cresta-broken")
    types = {name: each.types for name, each in broken.as_read.items()}
    reading, read = Reading(), 0
    for app in edited(broken.app, types):
        wired = WiredApp(app, broken.as_read)
        assert reading.read(wired, broken.as_read) == read_through(app, broken.as_read)
        read += 1
    assert read > 100


@pytest.mark.long
def test_a_board_that_is_laid_out_again_is_one_laid_out_at_first() -> None:
    broken = demo("cresta-broken")
    types = {name: each.types for name, each in broken.as_read.items()}
    before: dict[str, Board] = {}
    for app in edited(broken.app, types):
        wired = WiredApp(app, broken.as_read)
        session = start(wired, POCKET)[0]
        for event in (None, do.Choose(key="mor")):
            session = session if event is None else step(wired, session, event).session
            for section in ("huts", "saved"):
                anew = lay_out_board(wired, session, section)
                before[section] = lay_out_board(wired, session, section, before.get(section))
                assert before[section] == anew


def test_a_value_is_asked_once_and_another_like_it_is_another() -> None:
    asked: list[list[int]] = []

    @once
    def total(some: list[int]) -> int:
        asked.append(some)
        return sum(some)

    one, other = [1, 2], [1, 2]
    assert (total(one), total(one), total(other)) == (3, 3, 3)
    assert len(asked) == 2
    # However many there are, and whatever becomes of them.
    assert all(total([number]) == number for number in range(5_000))


def calls(does: Callable[[], object]) -> int:
    """How many functions of Python are called until the window has painted what was done."""
    made = 0

    def count(frame: FrameType, event: str, arg: object) -> None:
        nonlocal made
        made += event == "call"

    sys.setprofile(count)
    try:
        does()
        QApplication.processEvents()
    finally:
        sys.setprofile(None)
    return made


def settle(document: Document, qtbot: QtBot) -> None:
    """Wait until nothing moves, and all is known that is measured by and by."""
    document.check()
    qtbot.wait(200)


@pytest.mark.long
@pytest.mark.skipif(sys.gettrace() is not None, reason="a tracer counts too")
def test_a_tap_and_an_edit_ask_little(
    person: Person, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    # How many frames of a transition are due meanwhile hangs on how busy the machine is.
    monkeypatch.setattr(Motion, "reduced", True)
    document = person.document
    person.window.resize(1280, 800)
    taps = []
    for key in ("mor", "bal", "alp", "mor"):
        settle(document, qtbot)
        taps.append(calls(partial(document.do, do.Choose(screen="huts", key=key))))
        document.do(do.Back())
    assert median(taps[1:]) <= 2_500
    document.show_stage("Link")
    document.select(SelectedLink("huts-to-hut"))
    edits = []
    for how in ("push", "beside", "push", "beside"):
        link = by_id(document.app.links, "huts-to-hut")
        assert link is not None
        made = with_link(document.app, replace(link, how=how))
        settle(document, qtbot)
        edits.append(calls(partial(document.edit, "open otherwise", made)))
    assert median(edits[1:]) <= 12_000
