"""A film strip: the shortest walk to what breaks a claim, a frame for each step."""

from __future__ import annotations

from typing import Final, NamedTuple

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QFont, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QFrame, QScrollArea, QWidget

from cadena.desktop.document.document import Document
from cadena.desktop.painting.faces import elided, font_of
from cadena.desktop.painting.framed import paint_framed
from cadena.desktop.painting.theme import colour, px
from cadena.engine import events as do
from cadena.engine.session import Window
from cadena.runs.prove.causes import Cause
from cadena.runs.walks.in_words import event_in_words
from cadena.runs.walks.walk import replay
from cadena.scene.different import different
from cadena.scene.lay_out import lay_out
from cadena.scene.scene import Box, Scene

HIGH: Final = 212
LOWEST, SHARE = 130, 0.28
"""How tall a film is at least, and how much of the stage it takes at most."""
GAP: Final = 92
MARGIN: Final = 20
CAPTION: Final = 20
NARROWEST: Final = 72
LEAST: Final = 0.55
"""Of the tallest frame, how tall the smallest is painted as."""
MOST: Final = 24
"""Frames of a walk that are painted; of a longer one the first and the last."""


class Frame(NamedTuple):
    """The app after a step; ``link`` is what happened before it."""

    link: str
    scene: Scene
    said: str = ""
    changed: tuple[Box, ...] = ()


def frames_of(document: Document, cause: Cause) -> list[Frame]:
    """A cause as frames, the last one with what is other than it should be."""
    app = document.wired
    frames: list[Frame] = []
    link, said = "", ""
    for at in replay(app, cause.walk, cause.window or Window(360.0, 780.0)):
        if at.line is None:
            said = "; ".join(map(str, at.failures))
            continue
        scene = lay_out(app, at.session, at.session.window)
        if isinstance(at.line.event, do.Wait) and frames:
            frames[-1] = frames[-1]._replace(scene=scene)
            continue
        link = _link_words(at.line.event)
        frames.append(Frame(link, scene))
    if len(frames) > MOST:
        half = MOST // 2
        frames = [*frames[:half], *frames[-half:]]
    if frames:
        last = frames[-1]
        # The steps that only lead there are those before the app was as it should be.
        before = frames[min(cause.begins, len(frames) - 2)].scene if len(frames) > 1 else None
        changed = () if before is None else different(last.scene, before)
        frames[-1] = last._replace(said=said, changed=changed)
    return frames


def _link_words(event: do.Event | None) -> str:
    """What happens between two frames; another window is seen in the next."""
    if isinstance(event, do.Resize):
        return f"{event.width:g} × {event.height:g}"
    return "" if event is None else event_in_words(event)


class Film(QWidget):
    """The frames of a cause, side by side, joined by what happens between them."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.frames: list[Frame] = []
        self.setAccessibleName("the walk as a film strip")
        self.setFixedHeight(HIGH)

    def show_cause(self, cause: Cause | None) -> None:
        """Show another cause, or none."""
        self.frames = [] if cause is None or not cause.walk else frames_of(self.document, cause)
        steps = [each.link for each in self.frames if each.link]
        last = self.frames[-1].said if self.frames else ""
        self.setAccessibleDescription(", then ".join(steps) + (f": {last}" if last else ""))
        self.update()

    def sizeHint(self) -> QSize:
        wide = sum(self._width(each) for each in self.frames)
        return QSize(
            round(2 * MARGIN + wide + px(GAP) * max(0, len(self.frames) - 1)), self.height()
        )

    def _high(self) -> float:
        return self.height() - px(CAPTION) - 22

    def _scale(self, frame: Frame) -> float:
        """All frames are as large beside each other as their windows, but for the smallest."""
        tallest = max(each.scene.height for each in self.frames)
        high = max(frame.scene.height, LEAST * tallest)
        scale = self._high() / high
        return float(min(scale, self._high() * 1.9 / frame.scene.width))

    def _width(self, frame: Frame) -> float:
        return max(px(NARROWEST), frame.scene.width * self._scale(frame))

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), colour("paper"))
        x = float(MARGIN)
        for number, frame in enumerate(self.frames):
            wide = self._width(frame)
            if number:
                self._paint_link(painter, x - px(GAP), frame.link)
            self._paint_frame(painter, QRectF(x, 12, wide, self._high()), frame, number)
            x += wide + px(GAP)

    def _paint_link(self, painter: QPainter, x: float, text: str) -> None:
        middle = 12 + self._high() / 2
        painter.setPen(QPen(colour("brass"), 4))
        painter.drawLine(int(x + 6), int(middle), int(x + px(GAP) - 6), int(middle))
        size = px(11)
        text = elided(text, size, QFont.Weight.Normal, px(GAP) - 18)
        painter.setFont(font_of(size, QFont.Weight.Normal))
        wide = painter.fontMetrics().horizontalAdvance(text) + 14
        rect = QRectF(x + (px(GAP) - wide) / 2, middle - px(12), wide, px(24))
        painter.setPen(QPen(colour("brass"), 1))
        painter.setBrush(colour("brass_wash"))
        painter.drawRoundedRect(rect, px(12), px(12))
        painter.setPen(colour("brass_ink"))
        painter.drawText(rect, int(Qt.AlignmentFlag.AlignCenter), text)

    def _paint_frame(self, painter: QPainter, rect: QRectF, frame: Frame, number: int) -> None:
        is_last = number == len(self.frames) - 1
        scene = frame.scene
        scale = self._scale(frame)
        wide, high = scene.width * scale, scene.height * scale
        inside = QRectF(
            rect.x() + (rect.width() - wide) / 2, rect.y() + (rect.height() - high) / 2, wide, high
        )
        edge = "broken" if is_last else "frame"
        paint_framed(painter, inside, scene, self.document.pictures, frame.changed, edge)
        painter.setPen(colour("broken_ink" if is_last else "soft"))
        painter.setFont(font_of(px(11), QFont.Weight.Normal))
        text = "start" if number == 0 else f"{number}"
        caption = QRectF(rect.x(), rect.bottom() + 6, rect.width(), px(CAPTION))
        painter.drawText(caption, int(Qt.AlignmentFlag.AlignLeft), text)


class FilmStrip(QScrollArea):
    """A film that is longer than its place scrolls."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.film = Film(document)
        self.setWidget(self.film)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFixedHeight(HIGH + 10)
        self.setAccessibleName("the walk step by step")
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)

    def stand_in(self, room: int) -> None:
        """Take a part of the room that the stage has, so that the answers keep theirs."""
        high = max(LOWEST, min(HIGH, round(room * SHARE)))
        if high != self.film.height():
            self.film.setFixedHeight(high)
            self.setFixedHeight(high + 10)
            self._fit()

    def _fit(self) -> None:
        """The film is as long as its frames, and never shorter than its place."""
        self.film.setFixedWidth(max(self.film.sizeHint().width(), self.viewport().width()))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def show_cause(self, cause: Cause | None) -> None:
        """Show the walk of a cause, or nothing."""
        self.film.show_cause(cause)
        self._fit()
        self.setVisible(bool(self.film.frames))
        bar = self.horizontalScrollBar()
        bar.setValue(bar.maximum())
