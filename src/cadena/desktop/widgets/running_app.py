"""An app that runs by itself, as a small picture: from the engine, by the one painter."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Final, NamedTuple

from PySide6.QtCore import QRectF, Qt, QTimer
from PySide6.QtGui import QHideEvent, QPainter, QPaintEvent, QPen, QShowEvent
from PySide6.QtWidgets import QPushButton

from cadena.desktop.painting.framed import paint_framed
from cadena.desktop.painting.motion import is_reduced
from cadena.desktop.painting.pictures import Pictures
from cadena.desktop.painting.theme import colour, px
from cadena.engine.events import Event
from cadena.engine.session import Session, Window
from cadena.engine.step import seen_in, start, step
from cadena.engine.wired import WiredApp
from cadena.model.problem import Problem
from cadena.scene.lay_out import lay_out

EACH: Final = 1400
"""Ms between one thing that happens and the next."""
SOON: Final = 120
GAP, CAPTION = 18, 24


class Happening(NamedTuple):
    """Something that happens, and what is said of it."""

    event: Event
    said: str = ""


class Loaded(NamedTuple):
    """An app to run, with its pictures."""

    app: WiredApp
    pictures: Pictures


class RunningApp(QPushButton):
    """Shows one session in windows side by side, and lets it go on, over and over.

    Nothing is read before it is shown. Where no motion is wanted it stands still, after all that
    happens has happened.

    Args:
        load: gives the app; a ``Problem`` leaves the windows empty.
        windows: all of one height, in dp.
        happen: what happens; the first at once.
        caption: what is said while nothing else is.
    """

    def __init__(
        self,
        load: Callable[[], Loaded],
        windows: tuple[Window, ...],
        happen: tuple[Happening, ...],
        caption: str = "",
    ) -> None:
        super().__init__()
        self._load, self._windows, self._happen = load, windows, happen
        self._caption = self.said = caption
        self.session: Session | None = None
        self._loaded: Loaded | None = None
        self._run: Iterator[Happening] = iter(())
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.go_on)

    @property
    def is_running(self) -> bool:
        """Whether anything will happen by itself."""
        return self._timer.isActive()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._timer.start(SOON if self._loaded is None else EACH)

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._timer.stop()

    def go_on(self) -> None:
        """Read the app, or let the next thing happen in it."""
        if self._loaded is None:
            self._begin()
        elif is_reduced():
            while self._next():
                pass
            self._timer.stop()
        elif not self._next():
            self._start(self._loaded.app)
        self.update()

    def _begin(self) -> None:
        self._timer.setInterval(EACH)
        try:
            self._loaded = self._load()
        except Problem:
            # Where it cannot be read, opening it says why.
            self._timer.stop()
            return
        self._start(self._loaded.app)

    def _start(self, app: WiredApp) -> None:
        self._run = iter(self._happen)
        self.session, *_ = start(app, self._windows[0])
        self.said = self._caption
        self._next()

    def _next(self) -> bool:
        """Let the next thing happen, if there is one."""
        happening = next(self._run, None)
        if happening is None or self._loaded is None or self.session is None:
            return False
        self.session, *_ = step(self._loaded.app, self.session, happening.event)
        self.said = happening.said or self._caption
        self.setAccessibleDescription(self.said)
        return True

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        around = QRectF(self.rect()).adjusted(2, 2, -2, -2)
        painter.setPen(QPen(colour("ink" if self.hasFocus() else "hairline"), 2))
        painter.setBrush(colour("bench"))
        painter.drawRoundedRect(around, 12, 12)
        wide = sum(window.size[0] for window in self._windows)
        caption = px(CAPTION)
        room = around.adjusted(GAP, GAP, -GAP, -GAP - caption)
        gaps = GAP * (len(self._windows) - 1)
        high = self._windows[0].size[1]
        scale = min((room.width() - gaps) / wide, room.height() / high)
        x = room.x() + (room.width() - gaps - scale * wide) / 2
        for window in self._windows:
            width, height = (each * scale for each in window.size)
            y = room.y() + (room.height() - height) / 2
            self._paint_window(painter, window, QRectF(x, y, width, height))
            x += width + GAP
        painter.setPen(colour("soft"))
        below = QRectF(around.x(), around.bottom() - caption - 8, around.width(), caption)
        painter.drawText(below, Qt.AlignmentFlag.AlignCenter, self.said)

    def _paint_window(self, painter: QPainter, window: Window, at: QRectF) -> None:
        if self._loaded is None or self.session is None:
            painter.fillRect(at, colour("card"))
            return
        session = seen_in(self._loaded.app, self.session, window)
        scene = lay_out(self._loaded.app, session, window)
        paint_framed(painter, at, scene, self._loaded.pictures)
