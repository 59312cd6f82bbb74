"""The app before and after a disturbance, with what has changed marked."""

from __future__ import annotations

from typing import Final

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QFont, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from cadena.desktop.document.document import Document
from cadena.desktop.painting.faces import font_of
from cadena.desktop.painting.painter import paint_scene
from cadena.desktop.painting.theme import colour, px
from cadena.runs.keep.run import Run
from cadena.scene.different import different
from cadena.scene.lay_out import lay_out
from cadena.scene.scene import Box, Scene

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
            self._paint(painter, rect, scene, changed)
            painter.setFont(font_of(px(11), QFont.Weight.Normal))
            painter.setPen(colour("soft"))
            words = QRectF(room.x(), room.bottom(), half, px(CAPTION))
            text = "after" if number else "before"
            painter.drawText(words, int(Qt.AlignmentFlag.AlignCenter), text)

    def _paint(
        self, painter: QPainter, rect: QRectF, scene: Scene, changed: tuple[Box, ...]
    ) -> None:
        scale = rect.width() / scene.width
        painter.setPen(QPen(colour("frame"), 4))
        painter.drawRoundedRect(rect.adjusted(-2, -2, 2, 2), 4, 4)
        painter.save()
        painter.setClipRect(rect)
        painter.translate(rect.topLeft())
        painter.scale(scale, scale)
        paint_scene(painter, scene, self.document.pictures)
        painter.restore()
        painter.save()
        painter.setClipRect(rect)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour("broken"), 1.6, Qt.PenStyle.DashLine))
        for box in changed:
            x, y = rect.x() + box.x * scale, rect.y() + box.y * scale
            painter.drawRoundedRect(QRectF(x, y, box.width * scale, box.height * scale), 3, 3)
        painter.restore()


def _placed(room: QRectF, scene: Scene) -> QRectF:
    """A scene as large as fits into a room, in its middle."""
    scale = min(room.width() / scene.width, room.height() / scene.height)
    wide, high = scene.width * scale, scene.height * scale
    return QRectF(
        room.x() + (room.width() - wide) / 2, room.y() + (room.height() - high) / 2, wide, high
    )
