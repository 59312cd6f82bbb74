"""The windows of the Bench side by side, each scaled, with its name under it."""

from __future__ import annotations

from functools import partial
from math import log2
from typing import Final

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QFont, QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QWidget

from cadena.desktop.bench.address_bar import AddressBar
from cadena.desktop.bench.canvas import Canvas
from cadena.desktop.bench.places import Place, places
from cadena.desktop.document.bench_windows import remove_window
from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.document.sessions import name_of
from cadena.desktop.painting.faces import elided, font_of
from cadena.desktop.painting.theme import colour, px
from cadena.desktop.widgets.controls import choice
from cadena.model.address import addressed

CAPTION: Final = 20
BAR: Final = 30


class BenchWindows(QWidget):
    """As many canvases as there are windows."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.setMinimumSize(180, 180)
        self.canvases = [Canvas(document, self)]
        self.bars = [AddressBar(document, self, 0)]
        self._removes: list[QWidget] = []
        self._placed: object = None
        self._places: list[Place] = []
        self._captions: list[tuple[str, bool]] = []
        document.watch(Change.WINDOWS, self.remake)
        document.watch(Change.SCRUBBED, lambda: self.live.update())
        document.watch(Change.PICTURES, self._repaint)
        document.watch(Change.SESSION | Change.APP | Change.PEEKED, self.refresh)
        self.refresh()

    def sizeHint(self) -> QSize:
        return QSize(340, 600)

    @property
    def _has_addresses(self) -> bool:
        return bool(addressed(self.document.app))

    @property
    def live(self) -> Canvas:
        """The canvas that things happen in."""
        return self.canvases[min(self.document.sessions.live, len(self.canvases) - 1)]

    def remake(self) -> None:
        """As many canvases as there are windows now, and a way to remove each."""
        several = self.document.sessions
        while len(self.canvases) < len(several):
            made = Canvas(self.document, self, len(self.canvases))
            self.canvases.append(made)
            made.show()
            self.bars.append(AddressBar(self.document, self, len(self.bars)))
        for gone in (*self.canvases[len(several) :], *self.bars[len(several) :]):
            gone.hide()
            gone.deleteLater()
        del self.canvases[len(several) :]
        del self.bars[len(several) :]
        for old in self._removes:
            old.hide()
            old.deleteLater()
        self._removes = []
        for index in range(len(several) if len(several) > 1 else 0):
            name = f"remove window {index + 1}"
            made_remove = choice(
                "✕", partial(remove_window, self.document, index), None, name, "section"
            )
            made_remove.setParent(self)
            made_remove.show()
            self._removes.append(made_remove)
        self._placed = None
        self.refresh()

    def refresh(self) -> None:
        """Show every window as it now is."""
        for canvas in self.canvases:
            canvas.refresh() if canvas.is_live else canvas.refresh_soon()
        self._place()
        if self._has_addresses:
            for bar in self.bars:
                bar.refresh()
        said = [self._caption_of(canvas) for canvas in self.canvases]
        if said != self._captions:
            self._captions = said
            for at in self._places:
                self.update(self._caption(at).toRect())

    def _repaint(self) -> None:
        for canvas in self.canvases:
            canvas.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._place()

    def _place(self) -> None:
        sizes = [_coarse(each.session.window.size) for each in self.canvases]
        caption = px(CAPTION) if len(sizes) > 1 else 0
        bar_high = px(BAR) if self._has_addresses else 0
        wanted = (sizes, self.size(), caption, bar_high)
        if wanted == self._placed:
            return
        self._placed = wanted
        self._places = (
            places(sizes, self.width(), self.height(), 8)
            if len(sizes) > 1
            else [Place(0, 0, self.width(), self.height())]
        )
        for canvas, at in zip(self.canvases, self._places, strict=True):
            high = max(1, int(at.height - caption - bar_high))
            canvas.setGeometry(round(at.x), round(at.y) + bar_high, max(1, int(at.width)), high)
        for bar, at in zip(self.bars, self._places, strict=True):
            bar.setGeometry(round(at.x), round(at.y), max(1, int(at.width)), max(1, bar_high - 2))
            bar.setVisible(bar_high > 0)
        for remove, at in zip(self._removes, self._places, strict=False):
            remove.adjustSize()
            remove.move(round(at.x + at.width - remove.width()), round(at.y + at.height - caption))
            remove.setFixedHeight(caption)

    def _caption_of(self, canvas: Canvas) -> tuple[str, bool]:
        """What stands under a window, and whether it is the live one."""
        window = canvas.session.window
        width, height = window.size
        said = f"{name_of(self.document.app, window)} {width:g} × {height:g}"
        if window.text != 1:
            said += f" · text {window.text:.0%}"
        return said, canvas.is_live

    def _caption(self, at: Place) -> QRectF:
        caption = px(CAPTION)
        return QRectF(at.x + 4, at.y + at.height - caption, at.width - 34, caption)

    def paintEvent(self, _: QPaintEvent) -> None:
        if len(self.canvases) < 2:
            return
        painter = QPainter(self)
        for canvas, at in zip(self.canvases, self._places, strict=True):
            said, is_live = self._caption_of(canvas)
            weight = QFont.Weight.Bold if is_live else QFont.Weight.Normal
            rect = self._caption(at)
            painter.setFont(font_of(px(12), weight))
            painter.setPen(colour("ink" if is_live else "soft"))
            cut = elided(said, px(12), weight, int(rect.width()))
            painter.drawText(rect, int(Qt.AlignmentFlag.AlignVCenter), cut)


def _coarse(size: tuple[float, float]) -> tuple[float, float]:
    """A size about as broad: so that windows stand still while one is dragged a little."""
    ratio = 2 ** (round(log2(max(size[0], 1.0) / max(size[1], 1.0)) * 2) / 2)
    return 600 * ratio**0.5, 600 / ratio**0.5
