"""Where the app first differs: what the engine shows, and what the browser did, side by side."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QImage, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from cadena.desktop.document.document import Document
from cadena.desktop.document.handed import ON_DESKTOP, Came
from cadena.desktop.painting.framed import paint_framed
from cadena.desktop.painting.theme import colour, px
from cadena.desktop.stages.deliver.side_by_side import paint_caption, placed, rooms
from cadena.scene.lay_out import lay_out


class EngineAndBrowser(QWidget):
    """Two pictures: by the one painter, and as the app drew it."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.came: Came | None = None
        self.browser = QImage()
        self.setAccessibleName("the engine, and the app")
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
        left, right = rooms(self)
        inside = placed(left, scene.width, scene.height)
        paint_framed(painter, inside, scene, self.document.pictures)
        painter.setClipping(False)
        inside = placed(right, max(1, self.browser.width()), max(1, self.browser.height()))
        painter.drawImage(inside, self.browser)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour("broken"), 3))
        painter.drawRect(inside)
        paint_caption(painter, left, "the engine")
        where = "on a desktop" if is_on_desktop(self.came) else "in a browser"
        paint_caption(painter, right, f"the app, {where}")


def is_on_desktop(came: Came | None) -> bool:
    return came is not None and came.outcome.plan.walk.endswith(ON_DESKTOP)
