"""How large and in which colours an app is shown: the system's own face, text size and palette."""

from __future__ import annotations

from functools import lru_cache
from typing import Final

from PySide6.QtCore import Qt
from PySide6.QtGui import (
    QColor,
    QFont,
    QFontMetricsF,
    QGuiApplication,
    QIcon,
    QPainter,
    QPalette,
    QPixmap,
)

from cadena.engine.layout.measure import break_lines
from cadena.engine.layout.sizes import BOLD, ROWS, SIZES

USUAL: Final = 13.0
"""How large the text of a system is, in px, at which the sizes of the table are its own."""
MOST_TEXT: Final = 3.0
DARKER: Final = 128
SVG: Final = "http://www.w3.org/2000/svg"
NARROWEST: Final = 75
Grounds = dict[str, tuple[str, str, str, str]]
GROUNDS: Final[Grounds] = {
    "good": ("#D6EBE4", "#1F6558", "#1E3B34", "#A9DCCB"),
    "warning": ("#F3E3C3", "#6B480E", "#42351A", "#F0CF8E"),
    "bad": ("#F6DAD3", "#8F2F1D", "#4A241C", "#F4B5A6"),
    "quiet": ("#E4E2DC", "#4A5458", "#33393C", "#C4CACC"),
}
"""By colour: ground and ink in light, and in dark; each ink reads on its ground by 4.5 : 1."""


def text_of_system() -> float:
    """How large the person has text set, 1 where it is as usual."""
    font = QGuiApplication.font()
    px = font.pixelSize() if font.pixelSize() > 0 else font.pointSizeF() * 96 / 72
    return round(min(MOST_TEXT, max(1.0, px / USUAL)), 2)


def is_dark(palette: QPalette) -> bool:
    return palette.color(QPalette.ColorRole.Window).lightness() < DARKER


def px_of(kind: str, state: frozenset[str]) -> int:
    """How large the text of a box is, in dp."""
    density = ROWS["compact" if "compact" in state else "roomy" if "roomy" in state else "regular"]
    if kind == "row title":
        return density.title[0]
    if kind == "row subtitle":
        return density.subtitle[0]
    return density.cell if kind == "cell" else SIZES.get(kind, 14)


def font_of(kind: str, state: frozenset[str], unit: float) -> QFont:
    """The face of the system in the size of a box."""
    font = QFont(QGuiApplication.font())
    font.setPixelSize(max(1, round(px_of(kind, state) * unit)))
    font.setBold(kind in BOLD)
    return font


@lru_cache(maxsize=4096)
def system_measure(text: str, size: float, bold: bool, width: float) -> tuple[str, ...]:
    """The lines of a text in the face of the system, as ``Measure`` has it."""
    font = QFont(QGuiApplication.font())
    font.setPixelSize(max(1, round(size)))
    font.setBold(bold)
    metrics = QFontMetricsF(font)
    return break_lines(text, width, metrics.horizontalAdvance)


def fitted(font: QFont, text: str, width: float) -> QFont:
    """A face that is set a little narrower, where a line that was broken by arithmetic needs it."""
    needs = QFontMetricsF(font).horizontalAdvance(text)
    if needs > width > 0:
        font = QFont(font)
        font.setStretch(max(NARROWEST, int(100 * width / needs)))
    return font


ICONS: Final[dict[str, str]] = {}
"""By name, the outline of an icon: a path of SVG in a box of 1000 by 1000."""


@lru_cache(maxsize=128)
def icon_of(name: str, ink: str, size: int) -> QIcon:
    """An icon in a colour, of a size in px; an empty one where there is none of that name."""
    outline = ICONS.get(name)
    if outline is None:
        return QIcon()
    from PySide6.QtSvg import QSvgRenderer

    drawn = f'<svg xmlns="{SVG}" viewBox="0 0 1000 1000"><path fill="{ink}" d="{outline}"/></svg>'
    pixmap = QPixmap(size, size)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    QSvgRenderer(drawn.encode()).render(painter)
    painter.end()
    return QIcon(pixmap)


def ground_of(state: frozenset[str], palette: QPalette) -> tuple[QColor, QColor] | None:
    """Ground and ink of what stands out, or none."""
    name = next((each for each in GROUNDS if each in state), None)
    if name is None:
        return None
    light_ground, light_ink, dark_ground, dark_ink = GROUNDS[name]
    if is_dark(palette):
        return QColor(dark_ground), QColor(dark_ink)
    return QColor(light_ground), QColor(light_ink)
