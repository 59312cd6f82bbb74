"""The window and the board."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

import pytest
from msgspec.structs import replace
from PySide6.QtWidgets import QApplication
from pytest_benchmark.fixture import BenchmarkFixture

from builders import DEMO, small_records
from cadena.engine.session import sized
from cadena.engine.wired import WiredApp
from cadena.model.app import App, FromArgument, FromField, Link, Section, Trigger
from cadena.model.blocks import ActionsBlock, ListBlock
from cadena.model.listing import Button, Listing, Row

BARE = """
from PySide6.QtWidgets import QApplication, QMainWindow
a = QApplication([]); w = QMainWindow(); w.resize(1280, 800); w.show()
while not w.windowHandle().isExposed(): a.processEvents()
a.processEvents()
"""
CADENA = """
from pathlib import Path
from cadena.desktop.shell.application import application, dressed, window_on
from cadena.desktop.shell.settings import Settings
a = application(); dressed(a, Settings())
w = window_on(Path({project!r}), Settings(), remembers=False); w.show()
while not w.windowHandle().isExposed(): a.processEvents()
a.processEvents()
"""


@pytest.mark.benchmark(group="window shown, as whole processes (wanted: at most 3 times bare)")
@pytest.mark.parametrize("peer", ["bare", "cadena"])
def test_window_shown(benchmark: BenchmarkFixture, peer: str) -> None:
    code = BARE if peer == "bare" else CADENA.format(project=str(DEMO / "cresta"))
    run = [sys.executable, "-c", code]
    # As on a person's machine: modules are compiled once, not at every start.
    environment = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}
    benchmark.pedantic(
        lambda: subprocess.run(run, check=True, capture_output=True, env=environment),
        rounds=12,
        warmup_rounds=2,
    )


def large_app() -> App:
    """60 screens and 120 links: a list, and details each with a list and two buttons."""
    from builders import small_app

    base = small_app()
    hut = base.screens[1]
    rooms = Listing(source="rooms", row=Row(title="{name}"), empty="None.")
    screens = [base.screens[0]]
    links = [replace(base.links[0], to="d0")]
    for number in range(59):
        blocks = (
            hut.blocks[0],  # type: ignore[union-attr]
            ListBlock(id="rooms", heading="Rooms", rows=rooms),
            ActionsBlock(
                id="do", buttons=(Button(id="a", label="One"), Button(id="b", label="Two"))
            ),
        )
        screens.append(replace(hut, id=f"d{number}", blocks=blocks))
        for part, on, to in (
            ("a", "button", 2 * number + 1),
            ("b", "button", 2 * number + 2),
            ("rooms", "row", 7 * number + 5),
        ):
            if len(links) < 120 and to % 59 != number:
                argument = FromArgument(parameter="hut", argument="hut")
                trigger = Trigger(screen=f"d{number}", on=on, part=part)  # type: ignore[arg-type]
                given = argument if on == "button" else FromField(parameter="hut", field="hut")
                links.append(
                    Link(id=f"l{len(links)}", trigger=trigger, to=f"d{to % 59}", arguments=(given,))
                )
    section = Section(id="huts", title="Huts", root="huts")
    return replace(base, screens=tuple(screens), links=tuple(links), sections=(section,))


@pytest.mark.parametrize("doing", ["pan", "zoom", "after a step"])
def test_board_of_60_screens(benchmark: BenchmarkFixture, doing: str, tmp_path: Path) -> None:
    """A frame is 16 ms."""
    from cadena.desktop.document.document import Document
    from cadena.desktop.document.sessions import Sessions
    from cadena.desktop.shell.application import application, dressed
    from cadena.desktop.shell.settings import Settings
    from cadena.desktop.stages.link.picture import BoardPicture
    from cadena.engine.events import Choose

    app = application()
    dressed(app, Settings())
    document = Document()
    document.sessions = Sessions(WiredApp(large_app(), small_records()), sized(820, 1180))
    document.sessions.begin(document.wired)
    document.section = "huts"
    picture = BoardPicture(document)
    picture.resize(816, 560)
    picture.show()
    QApplication.processEvents()
    assert len(picture.board.cards) + len(picture.board.ribbons) > 150
    steps = iter(range(10_000))

    def pan() -> None:
        number = next(steps)
        picture.horizontalScrollBar().setValue(number * 23 % 900)
        picture.verticalScrollBar().setValue(number * 31 % 3000)
        picture.viewport().repaint()

    def zoom() -> None:
        picture.set_zoom(0.4 + next(steps) % 20 / 20)
        picture.viewport().repaint()

    def after_a_step() -> None:
        document.do(Choose(key=f"h{next(steps) % 2}", screen="huts"))
        picture.viewport().repaint()

    does = {"pan": pan, "zoom": zoom, "after a step": after_a_step}[doing]
    benchmark.pedantic(does, rounds=60, warmup_rounds=3)
    picture.close()
