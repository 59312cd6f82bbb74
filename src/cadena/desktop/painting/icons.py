"""Icons of one open set (Phosphor, MIT), as the package that brings their font has them.

The font is only loaded once an icon is painted: most apps, and most starts, have none.
"""

from __future__ import annotations

from functools import lru_cache
from typing import Final

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QFont, QFontDatabase, QIcon, QPainter, QPainterPath, QPixmap

from cadena.deliver.icons import font_file, glyphs, letter_of
from cadena.desktop.painting.theme import colour

STYLES: Final = ("-bold", "-fill", "-light", "-thin", "-duotone")
OFFERED: Final = (
    *("house", "list-bullets", "map-pin", "path", "calendar-blank", "bookmark-simple"),
    *("users", "user", "gear", "magnifying-glass", "heart", "star", "bell", "envelope"),
    *("chat-circle", "camera", "image", "book-open", "shopping-cart", "package", "truck"),
    *(
        "chart-bar",
        "clock",
        "folder",
        "file-text",
        "tag",
        "wrench",
        "leaf",
        "tree-evergreen",
        "globe",
    ),
)
"""Those that are offered first; any name of the set can be typed."""


@lru_cache
def _family() -> str:
    file = font_file()
    number = -1 if file is None else QFontDatabase.addApplicationFont(str(file))
    families = QFontDatabase.applicationFontFamilies(number) if number >= 0 else []
    return families[0] if families else ""


def is_icon(name: str) -> bool:
    """Whether the set has an icon of that name."""
    return name in glyphs()


def names() -> list[str]:
    """The icons there are, without their other weights."""
    return sorted(each for each in glyphs() if not each.endswith(STYLES))


def paint_icon(painter: QPainter, rect: QRectF, name: str, ink: QColor) -> bool:
    """Paint an icon in the middle of a place, as large as that; whether there is one."""
    glyph = letter_of(name)
    if glyph is None or not _family():
        return False
    outline = _outline(glyph, max(1, round(min(rect.width(), rect.height()))))
    middle = outline.boundingRect().center()
    # As an outline, so that a picture of it needs no font where it is looked at.
    painter.fillPath(outline.translated(rect.center() - middle), ink)
    return True


@lru_cache(maxsize=256)
def _outline(glyph: str, size: int) -> QPainterPath:
    font = QFont(_family())
    font.setPixelSize(size)
    path = QPainterPath()
    path.addText(0, 0, font, glyph)
    return path


def icon(name: str, size: int, role: str = "ink") -> QIcon:
    """An icon for a control, in a colour of the theme."""
    pixmap = QPixmap(size * 2, size * 2)
    pixmap.setDevicePixelRatio(2)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    paint_icon(painter, QRectF(0, 0, size, size), name, colour(role))
    painter.end()
    return QIcon(pixmap)
