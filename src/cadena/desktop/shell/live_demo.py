"""The demo running in two windows at once, as a picture to press."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from PySide6.QtCore import QEvent, QRectF, Qt, QTimer
from PySide6.QtGui import QHideEvent, QPainter, QPaintEvent, QPen, QShowEvent
from PySide6.QtWidgets import QPushButton, QSizePolicy

from cadena.desktop.painting.framed import paint_framed
from cadena.desktop.painting.motion import is_reduced
from cadena.desktop.painting.pictures import Pictures
from cadena.desktop.painting.theme import colour, px
from cadena.desktop.shell.demo import DEMO
from cadena.engine.events import Back, Choose, Event, GoTo, Scroll
from cadena.engine.session import Session, Window, sized
from cadena.engine.step import seen_in, start, step
from cadena.engine.wired import WiredApp
from cadena.model.problem import Problem
from cadena.scene.lay_out import lay_out

WINDOWS: Final = (sized(360, 640), sized(860, 640))
EACH: Final = 1400
"""Ms between one thing that happens and the next."""
SOON: Final = 120
GAP, CAPTION = 18, 24
WORDS: Final = "Cresta Huts, the demo, running in two windows: press to open it"
RUN: Final[tuple[Event, ...]] = (
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


class LiveDemo(QPushButton):
    """Shows one session of the demo in a narrow and in a wide window, and lets it go on.

    Nothing is read before it is shown; where no motion is wanted it stands still.
    """

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Open the demo, Cresta Huts")
        self.setToolTip("Open the demo, Cresta Huts")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setMinimumSize(px(420), px(250))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.app: WiredApp | None = None
        self.session: Session | None = None
        self._pictures: Pictures | None = None
        self._run: Iterator[Event] = iter(())
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.go_on)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._timer.start(SOON if self.app is None else EACH)

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._timer.stop()

    def go_on(self) -> None:
        """Read the demo, or let the next thing happen in it."""
        if self.app is None:
            self._begin()
        elif is_reduced():
            self._timer.stop()
        elif self.session is not None:
            event = next(self._run, None)
            if event is None:
                self._start(self.app)
            else:
                self.session, *_ = step(self.app, self.session, event)
        self.update()

    def _begin(self) -> None:
        from cadena.desktop.painting.faces import measure
        from cadena.sources.open_project import open_project

        self._timer.setInterval(EACH)
        try:
            project = open_project(DEMO / "cresta")
        except Problem:
            # Where it cannot be read, pressing it says why.
            self._timer.stop()
            return
        self._pictures = Pictures(project.folder)
        self.app = WiredApp(project.app, project.records, measure)
        self._start(self.app)

    def _start(self, app: WiredApp) -> None:
        self._run = iter(RUN)
        self.session, *_ = start(app, WINDOWS[0])
        # A list beside nothing says little: it begins with something chosen.
        self.session, *_ = step(app, self.session, next(self._run))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        around = QRectF(self.rect()).adjusted(2, 2, -2, -2)
        painter.setPen(QPen(colour("ink" if self.hasFocus() else "hairline"), 2))
        painter.setBrush(colour("bench"))
        painter.drawRoundedRect(around, 12, 12)
        wide = sum(window.size[0] for window in WINDOWS)
        room = around.adjusted(GAP, GAP, -GAP, -GAP - CAPTION)
        scale = min((room.width() - GAP) / wide, room.height() / WINDOWS[0].size[1])
        x = room.x() + (room.width() - GAP - scale * wide) / 2
        for window in WINDOWS:
            width, height = (each * scale for each in window.size)
            y = room.y() + (room.height() - height) / 2
            self._paint_window(painter, window, QRectF(x, y, width, height))
            x += width + GAP
        painter.setPen(colour("soft"))
        below = QRectF(around.x(), around.bottom() - CAPTION - 8, around.width(), CAPTION)
        painter.drawText(below, Qt.AlignmentFlag.AlignCenter, WORDS)

    def _paint_window(self, painter: QPainter, window: Window, at: QRectF) -> None:
        if self.app is None or self.session is None or self._pictures is None:
            painter.fillRect(at, colour("card"))
            return
        session = seen_in(self.app, self.session, window)
        paint_framed(painter, at, lay_out(self.app, session, window), self._pictures)

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        self.update()
