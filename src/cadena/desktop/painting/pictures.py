"""The pictures of a project: read from its folder, or brought from where they lie once that is
allowed, and never larger than they are shown."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from pathlib import Path
from typing import Final

from PySide6.QtCore import QBuffer, QSize, Qt
from PySide6.QtGui import QImageReader, QPixmap

from cadena.model.file.disk import inside
from cadena.model.problem import Problem
from cadena.sources.pictures_beside import is_remote

FORMATS: Final = (b"png", b"jpeg", b"jpg", b"webp", b"gif", b"bmp")
LARGEST: Final = 960
MOST: Final = 2000
MOST_BYTES: Final = 64 * 1024 * 1024
"""Of pictures that are kept; of more, those not shown for longest are read again."""


class Pictures:
    """Finds the pixmap of a file in the project folder; one that cannot be shown is none.

    ``wanted`` are the web addresses of pictures that nobody has asked for yet; ``failed`` says why
    others cannot be shown.

    Args:
        asks: told each time that one more is wanted.
    """

    def __init__(self, folder: Path, asks: Callable[[], object] = lambda: None) -> None:
        self.folder, self._asks = folder, asks
        self.wanted: set[str] = set()
        self.failed: dict[str, str] = {}
        self.brought = 0
        self._known: set[str] = set()
        self._read: OrderedDict[str, QPixmap | None] = OrderedDict()
        self._held = 0

    def __call__(self, name: str) -> QPixmap | None:
        if name in self._read:
            self._read.move_to_end(name)
            return self._read[name]
        if is_remote(name):
            if name not in self._known:
                self._known.add(name)
                self.wanted.add(name)
                self._asks()
            return None
        return self._hold(name, self._load(name))

    def keep(self, address: str, raw: bytes, why: str) -> None:
        """Keep what came from a web address, or why nothing did."""
        self.brought += 1
        buffer = QBuffer()
        buffer.setData(raw)
        pixmap = _read(QImageReader(buffer)) if buffer.open(QBuffer.OpenModeFlag.ReadOnly) else None
        if pixmap is None:
            self.failed[address] = why or "it is no picture"
        else:
            self._hold(address, pixmap)

    def _hold(self, name: str, pixmap: QPixmap | None) -> QPixmap | None:
        self._read[name] = pixmap
        self._held += _weight(pixmap)
        while len(self._read) > 1 and (self._held > MOST_BYTES or len(self._read) > MOST):
            gone, old = self._read.popitem(last=False)
            self._held -= _weight(old)
            # One that was brought is brought again where it is shown once more.
            self._known.discard(gone)
        return pixmap

    def _load(self, name: str) -> QPixmap | None:
        try:
            path = inside(self.folder, name)
        except Problem:
            return None
        return _read(QImageReader(str(path)))


def _read(reader: QImageReader) -> QPixmap | None:
    """The pixmap of a picture, no larger than is shown; none of what is no picture."""
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
