"""A large picture kept as tiles: painted when first seen, and only blitted after that."""

from __future__ import annotations

from collections.abc import Callable
from math import ceil, floor
from typing import Final

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter, QPixmap

from cadena.desktop.painting.theme import colour, theme

TILE: Final = 512
MOST: Final = 48
"""Tiles that are kept, 1 MB each: three times what fills a large window."""
RENDER: Final = QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform
Paint = Callable[[QPainter, QRectF], None]


class Tiles:
    """The tiles of a picture at one zoom.

    Args:
        zoom: px of a tile for 1 unit of the picture.
        ratio: px of the device for 1 px.
        paint: paints a rectangle of the picture, in its own units.
    """

    def __init__(self, zoom: float, ratio: float, paint: Paint) -> None:
        self.zoom = zoom
        self.theme = theme().name
        self._ratio = ratio
        self._paint = paint
        self._tiles: dict[tuple[int, int], QPixmap] = {}

    @property
    def is_empty(self) -> bool:
        return not self._tiles

    def draw(self, painter: QPainter, seen: QRectF, corner: QPointF) -> None:
        """Draw what is seen, painting the tiles that have not been yet.

        Args:
            seen: the part of the picture in view, in its own units.
            corner: where the picture begins, in px of the painter.
        """
        side = TILE / self.zoom
        for column in range(max(0, floor(seen.left() / side)), ceil(seen.right() / side)):
            for row in range(max(0, floor(seen.top() / side)), ceil(seen.bottom() / side)):
                at = corner + QPointF(column * TILE, row * TILE)
                painter.drawPixmap(at, self._tile(column, row))

    def draw_scaled(self, painter: QPainter, zoom: float, corner: QPointF) -> None:
        """Draw the tiles there are at another zoom, for as long as that is passing."""
        side = TILE * zoom / self.zoom
        for (column, row), tile in self._tiles.items():
            target = QRectF(corner.x() + column * side, corner.y() + row * side, side, side)
            painter.drawPixmap(target, tile, QRectF(tile.rect()))

    def _tile(self, column: int, row: int) -> QPixmap:
        known = self._tiles.get((column, row))
        if known is not None:
            return known
        if len(self._tiles) >= MOST:
            self._tiles.clear()
        pixmap = QPixmap(round(TILE * self._ratio), round(TILE * self._ratio))
        pixmap.setDevicePixelRatio(self._ratio)
        pixmap.fill(colour("ground"))
        side = TILE / self.zoom
        area = QRectF(column * side, row * side, side, side)
        painter = QPainter(pixmap)
        painter.setRenderHints(RENDER)
        painter.scale(self.zoom, self.zoom)
        painter.translate(-area.topLeft())
        self._paint(painter, area)
        painter.end()
        self._tiles[column, row] = pixmap
        return pixmap
