"""The pictures that records name, of the folder that an app lies in."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from pathlib import Path
from typing import Final

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QImageReader, QPainter, QPalette, QPixmap

Pictures = Callable[[str], QPixmap]
MOST_HELD: Final = 128
LARGEST: Final = 1600
"""How large a picture is read at most, in px across."""


class PicturesOf:
    """The pictures of a folder: each is read once it is shown, and the last of them are held.

    What leads out of the folder, or is no picture, shows as none.
    """

    def __init__(self, folder: Path) -> None:
        self.folder = folder.resolve()
        self._held: OrderedDict[str, QPixmap] = OrderedDict()

    def __call__(self, name: str) -> QPixmap:
        found = self._held.get(name)
        if found is None:
            found = self._held[name] = self._read(name)
        self._held.move_to_end(name)
        while len(self._held) > MOST_HELD:
            self._held.popitem(last=False)
        return found

    def _read(self, name: str) -> QPixmap:
        try:
            place = (self.folder / name).resolve()
            is_here = place.is_relative_to(self.folder) and place.is_file()
        except (OSError, ValueError):
            return QPixmap()
        if not is_here:
            return QPixmap()
        reader = QImageReader(str(place))
        reader.setAutoTransform(True)
        size = reader.size()
        if size.isValid() and max(size.width(), size.height()) > LARGEST:
            size.scale(LARGEST, LARGEST, Qt.AspectRatioMode.KeepAspectRatio)
            reader.setScaledSize(size)
        return QPixmap.fromImage(reader.read())


def draw_picture(
    painter: QPainter, rect: QRectF, pixmap: QPixmap, state: frozenset[str], palette: QPalette
) -> None:
    """A picture fills its place and is cut, or is whole and leaves some; it is never stretched."""
    painter.fillRect(rect, palette.color(QPalette.ColorRole.Midlight))
    if pixmap.isNull() or rect.isEmpty():
        return
    across, down = rect.width() / pixmap.width(), rect.height() / pixmap.height()
    scale = min(across, down) if "whole" in state else max(across, down)
    width, height = rect.width() / scale, rect.height() / scale
    source = QRectF((pixmap.width() - width) / 2, (pixmap.height() - height) / 2, width, height)
    target = rect
    if "whole" in state:
        source = QRectF(pixmap.rect())
        target = QRectF(0, 0, pixmap.width() * scale, pixmap.height() * scale)
        target.moveCenter(rect.center())
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    painter.drawPixmap(target, pixmap, source)
