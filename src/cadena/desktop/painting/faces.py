"""The faces of texts: how the text of each kind of box is set, measured and cut."""

from __future__ import annotations

from functools import lru_cache
from typing import Final, NamedTuple

from PySide6.QtCore import Qt
from PySide6.QtGui import QFont, QFontMetricsF

from cadena.engine.layout.measure import break_lines
from cadena.engine.layout.sizes import SIZES

ABSOLUTE: Final = Qt.AlignmentFlag.AlignAbsolute | Qt.AlignmentFlag.AlignVCenter
LEFT: Final = int(Qt.AlignmentFlag.AlignLeft | ABSOLUTE)
RIGHT: Final = int(Qt.AlignmentFlag.AlignRight | ABSOLUTE)
CENTRE: Final = int(Qt.AlignmentFlag.AlignCenter)
WRAPPED: Final = int(Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap)


class Style(NamedTuple):
    """How the text of a kind of box is set: size in dp, weight, colour role, alignment."""

    size: int
    weight: QFont.Weight = QFont.Weight.Normal
    role: str = "ink"
    align: int = LEFT


STYLES: Final = {
    "title": Style(SIZES["title"], QFont.Weight.Bold),
    "title centred": Style(SIZES["title centred"], QFont.Weight.DemiBold, align=CENTRE),
    "back": Style(SIZES["back"], role="screen_link"),
    "row title": Style(SIZES["row title"], QFont.Weight.Medium),
    "row subtitle": Style(SIZES["row subtitle"], role="screen_soft"),
    "cell": Style(SIZES["cell"]),
    "head": Style(SIZES["head"], QFont.Weight.DemiBold, "screen_soft"),
    "badge": Style(SIZES["badge"], QFont.Weight.Medium, align=CENTRE),
    "heading": Style(SIZES["heading"], QFont.Weight.Bold),
    "body": Style(SIZES["body"]),
    "fact label": Style(SIZES["fact label"], role="screen_soft"),
    "fact": Style(SIZES["fact"]),
    "list heading": Style(SIZES["list heading"], QFont.Weight.DemiBold),
    "button": Style(SIZES["button"], QFont.Weight.Medium, align=CENTRE),
    "search": Style(SIZES["search"]),
    "words": Style(SIZES["words"], role="screen_soft", align=WRAPPED),
    "footer": Style(SIZES["footer"], role="screen_soft", align=CENTRE),
    "nothing chosen": Style(SIZES["nothing chosen"], role="screen_soft", align=WRAPPED),
    "section": Style(SIZES["section"], role="screen_soft", align=CENTRE),
    "off words": Style(SIZES["off words"], QFont.Weight.DemiBold, align=CENTRE),
    "asleep": Style(SIZES["asleep"], QFont.Weight.DemiBold, align=CENTRE),
    "picture": Style(SIZES["picture"], role="screen_soft", align=CENTRE),
    "group": Style(SIZES["group"], QFont.Weight.DemiBold, "screen_soft"),
    "more": Style(SIZES["more"], QFont.Weight.Bold, "screen_soft", CENTRE),
    "row action": Style(SIZES["row action"], QFont.Weight.Medium, align=CENTRE),
    "page": Style(SIZES["page"], role="screen_soft", align=CENTRE),
    "loading": Style(SIZES["loading"], role="screen_soft", align=CENTRE),
    "form label": Style(SIZES["form label"], role="screen_soft"),
    "input": Style(SIZES["input"]),
    "in place": Style(SIZES["in place"]),
    "switch": Style(SIZES["switch"]),
    "option": Style(SIZES["option"]),
    "chooser": Style(SIZES["chooser"]),
    "picked": Style(SIZES["title centred"], QFont.Weight.DemiBold),
    "held": Style(SIZES["held"], QFont.Weight.Bold, "holds_ink", CENTRE),
    "fault": Style(SIZES["fault"], QFont.Weight.Medium, "broken_ink"),
    "frame": Style(SIZES["address"], role="screen_soft", align=CENTRE),
    "address": Style(SIZES["address"], role="screen_link"),
    "removed": Style(SIZES["removed"], role="on_slate"),
    "undo": Style(SIZES["undo"], QFont.Weight.Bold, "on_slate", CENTRE),
    "put away": Style(SIZES["undo"], QFont.Weight.Bold, "on_slate", CENTRE),
    "menu item": Style(SIZES["menu item"]),
    "action": Style(SIZES["action"], align=CENTRE),
    "saved": Style(SIZES["saved"], align=CENTRE),
}
RULED: Final = {
    "good": ("holds_wash", "holds_ink"),
    "warning": ("brass_wash", "brass_ink"),
    "bad": ("broken_wash", "broken_ink"),
    "quiet": ("screen_tile", "screen_soft"),
}
"""The ground and the ink of what stands out."""


@lru_cache(maxsize=64)
def font_of(size: int, weight: QFont.Weight) -> QFont:
    """The face of the app on the Bench: the interface's own, at a size in dp."""
    font = QFont()
    font.setPixelSize(size)
    font.setWeight(weight)
    return font


@lru_cache(maxsize=8192)
def elided(text: str, size: int, weight: QFont.Weight, width: int) -> str:
    """A text cut with an ellipsis where it is wider than its box."""
    metrics = QFontMetricsF(font_of(size, weight))
    return metrics.elidedText(text, Qt.TextElideMode.ElideRight, width)


@lru_cache(maxsize=4096)
def measure(text: str, size: float, bold: bool, width: float) -> tuple[str, ...]:
    """Lines of running text in the very face they are drawn in (see ``engine.measure``)."""
    weight = QFont.Weight.Bold if bold else QFont.Weight.Normal
    metrics = QFontMetricsF(font_of(round(size), weight))
    return break_lines(text, width, metrics.horizontalAdvance)


def forget_fonts() -> None:
    """After the interface's face has changed, nothing measured before holds."""
    for known in (font_of, elided, measure):
        known.cache_clear()
