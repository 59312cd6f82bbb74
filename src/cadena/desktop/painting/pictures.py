"""The pictures of a project: read from its folder only, and never larger than they are shown."""

from __future__ import annotations

from pathlib import Path
from typing import Final

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QImageReader, QPixmap

from cadena.model.file.disk import inside
from cadena.model.problem import Problem

FORMATS: Final = (b"png", b"jpeg", b"jpg", b"webp", b"gif", b"bmp")
LARGEST: Final = 960


class Pictures:
    """Finds the pixmap of a file in the project folder; one that cannot be shown is none."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._read: dict[str, QPixmap | None] = {}

    def __call__(self, name: str) -> QPixmap | None:
        if name not in self._read:
            if len(self._read) > 512:
                self._read.clear()
            self._read[name] = self._load(name)
        return self._read[name]

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
