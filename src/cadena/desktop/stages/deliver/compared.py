"""Where the app first differs: what the engine shows, and what the browser did, side by side."""

from __future__ import annotations

from typing import Final

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QFont, QImage, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from cadena.desktop.document.document import Document
from cadena.desktop.document.handed import Came
from cadena.desktop.painting.faces import font_of
from cadena.desktop.painting.framed import paint_framed
from cadena.desktop.painting.theme import colour, px
from cadena.scene.lay_out import lay_out

CAPTION: Final = 20


class EngineAndBrowser(QWidget):
    """Two pictures: by the one painter, and as the browser drew it."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.came: Came | None = None
        self.browser = QImage()
        self.setAccessibleName("the engine, and the app in a browser")
        self.setFixedWidth(px(300))

    def show_came(self, came: Came | None) -> None:
        """Show what came of driving a walk; nothing where it does as it is wired."""
        differs = None if came is None else came.outcome.differs
        if came is not self.came:
            self.came = came
            self.browser = QImage() if came is None else QImage.fromData(came.picture)
        said = "" if differs is None else "; ".join(map(str, differs.differences))
        self.setAccessibleDescription(said)
        self.setVisible(differs is not None)
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        differs = None if self.came is None else self.came.outcome.differs
        if differs is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        scene = lay_out(self.document.wired, differs.session, differs.session.window)
        half = (self.width() - 28) / 2
        room = QRectF(6, 8, half, self.height() - 16 - px(CAPTION))
        left = placed(room, scene.width, scene.height)
        paint_framed(painter, left, scene, self.document.pictures)
        right = placed(
            room.translated(half + 16, 0),
            max(1, self.browser.width()),
            max(1, self.browser.height()),
        )
        painter.setClipping(False)
        painter.drawImage(right, self.browser)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour("broken"), 3))
        painter.drawRect(right)
        painter.setFont(font_of(px(11), QFont.Weight.Normal))
        painter.setPen(colour("soft"))
        for at, text in ((6.0, "the engine"), (half + 22, "the app, in a browser")):
            words = QRectF(at, room.bottom() + 2, half, px(CAPTION))
            painter.drawText(words, int(Qt.AlignmentFlag.AlignCenter), text)


def placed(room: QRectF, width: float, height: float) -> QRectF:
    """Something as large as fits into a room, in its middle."""
    scale = min(room.width() / width, room.height() / height)
    wide, high = width * scale, height * scale
    return QRectF(
        room.x() + (room.width() - wide) / 2, room.y() + (room.height() - high) / 2, wide, high
    )
