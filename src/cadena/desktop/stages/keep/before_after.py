"""The app before and after a disturbance, with what has changed marked."""

from __future__ import annotations

from typing import Final

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QFont, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from cadena.desktop.document.document import Document
from cadena.desktop.painting.faces import font_of
from cadena.desktop.painting.framed import paint_framed
from cadena.desktop.painting.theme import colour, px
from cadena.runs.keep.run import Run
from cadena.scene.different import different
from cadena.scene.lay_out import lay_out
from cadena.scene.scene import Scene

CAPTION: Final = 18


class BeforeAfter(QWidget):
    """Two small pictures of the app, by the one painter."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.run: Run | None = None
        self.setAccessibleName("before and after")
        self.setFixedWidth(px(270))

    def show_run(self, run: Run | None) -> None:
        """Show the app before and after a run."""
        self.run = run
        said = "" if run is None else f"before and after {run.disturbance}: {run.mark}"
        self.setAccessibleDescription(said)
        self.setVisible(run is not None)
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), colour("paper"))
        painter.fillRect(0, 0, self.width(), 1, colour("hairline"))
        run = self.run
        if run is None:
            return
        app = self.document.wired
        sessions = (run.before, run.after)
        scenes = [lay_out(app, each, each.window) for each in sessions]
        half = (self.width() - 24) / 2
        for number, (scene, other) in enumerate(zip(scenes, reversed(scenes), strict=True)):
            room = QRectF(8 + number * (half + 8), 8, half, self.height() - 16 - px(CAPTION))
            rect = _placed(room, scene)
            changed = different(scene, other) if number else ()
            paint_framed(painter, rect, scene, self.document.pictures, changed)
            painter.setFont(font_of(px(11), QFont.Weight.Normal))
            painter.setPen(colour("soft"))
            words = QRectF(room.x(), room.bottom(), half, px(CAPTION))
            text = "after" if number else "before"
            painter.drawText(words, int(Qt.AlignmentFlag.AlignCenter), text)


def _placed(room: QRectF, scene: Scene) -> QRectF:
    """A scene as large as fits into a room, in its middle."""
    scale = min(room.width() / scene.width, room.height() / scene.height)
    wide, high = scene.width * scale, scene.height * scale
    return QRectF(
        room.x() + (room.width() - wide) / 2, room.y() + (room.height() - high) / 2, wide, high
    )
