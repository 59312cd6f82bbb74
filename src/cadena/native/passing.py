"""A screen comes from its row, from a side or by fading, and rows go to their other places
(rules.md, 12): the pictures of what was and of what is, over the widgets that are there already."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Final

from PySide6.QtCore import QElapsedTimer, QRect, QRectF, Qt, QTimer
from PySide6.QtGui import QPainter, QPalette, QPixmap, QRegion
from PySide6.QtWidgets import QWidget

from cadena.engine.layout.panes import Area
from cadena.native.pictures import Pictures, draw_picture
from cadena.scene.rows_moved import Gliding
from cadena.scene.scene import Box, Scene
from cadena.scene.transition import (
    Flight,
    Moving,
    between,
    coming_in,
    element_of,
    off_by,
    way_at,
)

if TYPE_CHECKING:
    from PySide6.QtGui import QPaintEvent


A_FRAME: Final = 16


class Passing(QWidget):
    """Lies over what is shown until all is where it belongs; whatever is pressed goes below it."""

    def __init__(self, pictures: Pictures, parent: QWidget) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.moving: Moving | Gliding | None = None
        self._was = self._now = QPixmap()
        self._pictures = pictures
        self._clock = QElapsedTimer()
        self._frames = QTimer(self, interval=A_FRAME)
        self._frames.timeout.connect(self._next)
        self.hide()

    def begin(self, moving: Moving | Gliding, was: QPixmap, now: QPixmap, place: QRect) -> None:
        """Go from what was shown to what is shown by now."""
        self.moving, self._was, self._now = moving, was, now
        self.setGeometry(place)
        self._clock.start()
        self._frames.start()
        self.show()
        self.raise_()

    def end(self) -> None:
        """All is where it belongs."""
        self._frames.stop()
        self.hide()
        self.moving = None
        self._was = self._now = QPixmap()

    def _next(self) -> None:
        if self.moving is None or self._clock.elapsed() >= self.moving.duration:
            self.end()
        else:
            self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        self.paint_at(painter, self._clock.elapsed())

    def paint_at(self, painter: QPainter, at: float) -> None:
        """What is seen ``at`` ms after it began."""
        moving = self.moving
        if moving is None:
            return
        way = way_at(moving, at)
        if isinstance(moving, Gliding):
            self._paint_rows(painter, moving, way)
        elif moving.comes is None:
            self._paint_flights(painter, moving, at, way)
        else:
            self._paint_coming(painter, moving, 1 - way if moving.back else way)

    def _paint_coming(self, painter: QPainter, moving: Moving, way: float) -> None:
        """So much of a screen is there that comes in a way of its own."""
        there, under = (self._was, self._now) if moving.back else (self._now, self._was)
        scene = moving.there
        ground = self._px(moving.ground or Box("", 0, 0, scene.width, scene.height), scene)
        painter.drawPixmap(0, 0, under)
        painter.setOpacity(way)
        if moving.comes == "by fading":
            painter.drawPixmap(0, 0, there)
            return
        # What comes with it, such as the ground of a layer, does not wander.
        painter.save()
        painter.setClipRegion(QRegion(self.rect()).subtracted(QRegion(ground.toAlignedRect())))
        painter.drawPixmap(0, 0, there)
        painter.restore()
        painter.setOpacity(1.0)
        x, y = off_by(moving, way)
        _paint_cut(painter, there, ground, ground.translated(x * scene.text, y * scene.text))

    def _paint_flights(self, painter: QPainter, moving: Moving, at: float, way: float) -> None:
        """All fades but what flies, and what waits comes in by itself."""
        screen, rows = (self._was, self._now) if moving.back else (self._now, self._was)
        elements = [self._px(each.element, moving.there) for each in moving.flights]
        coming = coming_in(moving, at)
        late = [
            (self._px(box, moving.there), coming[name])
            for box in moving.there.boxes
            if (name := element_of(moving, box)) in coming
        ]
        bare = self._without(screen, [*elements, *(each for each, _ in late)])
        places = [self._px(each.row, moving.under) for each in moving.flights]
        left = self._without(rows, places)
        painter.drawPixmap(0, 0, bare if moving.back else left)
        painter.setOpacity(way)
        painter.drawPixmap(0, 0, left if moving.back else bare)
        for rect, seen in late:
            painter.setOpacity(seen)
            _paint_cut(painter, screen, rect, rect)
        gone = 1 - way if moving.back else way
        for flight, place, element in zip(moving.flights, places, elements, strict=True):
            self._paint_flight(painter, flight, (rows, place), (screen, element), gone)

    def _paint_flight(
        self,
        painter: QPainter,
        flight: Flight,
        row: tuple[QPixmap, QRectF],
        element: tuple[QPixmap, QRectF],
        way: float,
    ) -> None:
        one, other = (Area(e.x(), e.y(), e.width(), e.height()) for _, e in (row, element))
        area = QRectF(*between(one, other, way))
        painter.setOpacity(1.0)
        if flight.row.kind == "thumb":
            picture = flight.element.picture
            pixmap = self._pictures(picture) if picture else QPixmap()
            draw_picture(painter, area, pixmap, flight.element.state, self.palette())
            return
        for (pixmap, rect), seen in ((row, 1 - way), (element, way)):
            painter.setOpacity(seen)
            _paint_cut(painter, pixmap, rect, QRectF(area.topLeft(), rect.size()))

    def _paint_rows(self, painter: QPainter, moving: Gliding, way: float) -> None:
        scene = moving.end
        rows = [
            (box, self._px(box, scene), moving.by[at])
            for box in scene.boxes
            if box.kind == "row" and (at := (box.entry, box.part, box.key)) in moving.by
        ]
        painter.drawPixmap(0, 0, self._without(self._now, [rect for _, rect, _ in rows]))
        for box, rect, by in rows:
            clip = box.clip
            if clip is not None:
                painter.setClipRect(self._px(Box("", *clip), scene))
            x, y = (each * (1 - way) * scene.text for each in by)
            _paint_cut(painter, self._now, rect, rect.translated(x, y))

    def _without(self, pixmap: QPixmap, gone: Sequence[QRectF]) -> QPixmap:
        """A picture in which some places are bare."""
        made = QPixmap(pixmap)
        painter = QPainter(made)
        for rect in gone:
            painter.fillRect(rect, self.palette().color(QPalette.ColorRole.Base))
        painter.end()
        return made

    def _px(self, box: Box, scene: Scene) -> QRectF:
        """Where a box lies in the window, in px, with what its clip leaves of it."""
        rect = QRectF(box.x, box.y, box.width, box.height)
        if box.clip is not None:
            rect = rect.intersected(QRectF(*box.clip))
        unit = scene.text
        return QRectF(rect.x() * unit, rect.y() * unit, rect.width() * unit, rect.height() * unit)


def _paint_cut(painter: QPainter, pixmap: QPixmap, cut: QRectF, to: QRectF) -> None:
    """A piece of a picture, at another place."""
    scale = pixmap.devicePixelRatio()
    source = QRectF(cut.x() * scale, cut.y() * scale, cut.width() * scale, cut.height() * scale)
    painter.drawPixmap(to, pixmap, source)
