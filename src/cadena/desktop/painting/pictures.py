"""The pictures of a project: read from its folder only, and never larger than they are shown."""

from __future__ import annotations

from collections import OrderedDict
from pathlib import Path
from typing import Final

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QImageReader, QPixmap

from cadena.model.file.disk import inside
from cadena.model.problem import Problem

FORMATS: Final = (b"png", b"jpeg", b"jpg", b"webp", b"gif", b"bmp")
LARGEST: Final = 960
MOST: Final = 2000
MOST_BYTES: Final = 64 * 1024 * 1024
"""Of pictures that are kept; of more, those not shown for longest are read again."""


class Pictures:
    """Finds the pixmap of a file in the project folder; one that cannot be shown is none."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._read: OrderedDict[str, QPixmap | None] = OrderedDict()
        self._held = 0

    def __call__(self, name: str) -> QPixmap | None:
        if name in self._read:
            self._read.move_to_end(name)
            return self._read[name]
        pixmap = self._read[name] = self._load(name)
        self._held += _weight(pixmap)
        while len(self._read) > 1 and (self._held > MOST_BYTES or len(self._read) > MOST):
            self._held -= _weight(self._read.popitem(last=False)[1])
        return pixmap

    def _load(self, name: str) -> QPixmap | None:
        try:
            path = inside(self.folder, name)
        except Problem:
            return None
        reader = QImageReader(str(path))
        reader.setDecideFormatFromContent(True)
        if bytes(reader.format().data()).lower() not in FORMATS:
            return None
        size = reader.size()
        if max(size.width(), size.height()) > LARGEST:
            reader.setScaledSize(
                size.scaled(QSize(LARGEST, LARGEST), Qt.AspectRatioMode.KeepAspectRatio)
            )
        image = reader.read()
        return None if image.isNull() else QPixmap.fromImage(image)


def _weight(pixmap: QPixmap | None) -> int:
    """How many bytes a picture takes, about; one that is none takes few."""
    return 100 if pixmap is None else pixmap.width() * pixmap.height() * 4
