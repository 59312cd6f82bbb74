"""The demo running in two windows at once, as a picture to press."""

from __future__ import annotations

from typing import Final

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QSizePolicy

from cadena.desktop.painting.pictures import Pictures
from cadena.desktop.painting.theme import px
from cadena.desktop.shell.demo import DEMO
from cadena.desktop.widgets.running_app import Happening, Loaded, RunningApp
from cadena.engine.events import Back, Choose, GoTo, Scroll
from cadena.engine.session import sized
from cadena.engine.wired import WiredApp

WINDOWS: Final = (sized(360, 640), sized(860, 640))
WORDS: Final = "Cresta Huts, the demo, running in two windows: press to open it"
NAME: Final = "Open the demo, Cresta Huts"
RUN: Final = tuple(
    Happening(event)
    for event in (
        Choose(screen="huts", key="mor"),
        Scroll(screen="hut", by=260.0),
        Choose(screen="hut", list="rooms", key=3),
        Back(),
        Back(),
        Scroll(screen="huts", by=300.0),
        Choose(screen="huts", key="bus"),
        GoTo(section="routes"),
        Choose(screen="routes", key="r02"),
        GoTo(section="huts"),
        Back(),
    )
)


def _demo() -> Loaded:
    from cadena.desktop.painting.faces import measure
    from cadena.sources.open_project import open_project

    project = open_project(DEMO / "cresta")
    app = WiredApp(project.app, project.records, measure)
    return Loaded(app, Pictures(project.folder))


class LiveDemo(RunningApp):
    """The demo, which opens where it is pressed."""

    def __init__(self) -> None:
        super().__init__(_demo, WINDOWS, RUN, WORDS)
        self.setAccessibleName(NAME)
        self.setToolTip(NAME)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setMinimumSize(px(420), px(250))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
