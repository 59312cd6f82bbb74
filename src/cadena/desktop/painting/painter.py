"""The one painter of every picture of an app: it draws a scene at any scale."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache
from typing import Final, NamedTuple

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import (
    QBrush,
    QColor,
    QFont,
    QFontMetricsF,
    QPainter,
    QPainterPath,
    QPen,
    QPixmap,
)

from cadena.desktop.painting.theme import colour
from cadena.engine.layout.measure import break_lines
from cadena.scene.scene import Box, Scene
from cadena.scene.text import SIZES

Pictures = Callable[[str], QPixmap | None]
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
    "fault": Style(SIZES["fault"], QFont.Weight.Medium, "broken_ink"),
    "address": Style(SIZES["address"], role="screen_link"),
    "removed": Style(SIZES["removed"], role="on_slate"),
    "undo": Style(SIZES["undo"], QFont.Weight.Bold, "on_slate", CENTRE),
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
    for each in (font_of, elided, measure):
        each.cache_clear()


def paint_scene(painter: QPainter, scene: Scene, pictures: Pictures) -> None:
    """Draw a scene with the painter's own scale; 1 unit is 1 dp.

    Args:
        pictures: gives the pixmap of a file in the project, or none.
    """
    painter.setRenderHints(
        QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform
    )
    clip = None
    # A text goes by its own letters; only where it stands goes by the window.
    painter.setLayoutDirection(Qt.LayoutDirection.LayoutDirectionAuto)
    for box in scene.boxes:
        if box.clip != clip:
            if box.clip is None:
                painter.setClipping(False)
            else:
                painter.setClipRect(QRectF(*box.clip))
            clip = box.clip
        if box.fade < 1:
            painter.setOpacity(box.fade)
        _paint(painter, box, pictures, scene.rtl)
        if box.fade < 1:
            painter.setOpacity(1.0)
    painter.setClipping(False)


def _rect(box: Box) -> QRectF:
    return QRectF(box.x, box.y, box.width, box.height)


def _paint(painter: QPainter, box: Box, pictures: Pictures, rtl: bool) -> None:
    ground = GROUNDS.get(box.kind)
    if ground is not None and rtl:
        painter.save()
        painter.translate(2 * box.x + box.width, 0)
        painter.scale(-1, 1)
        ground(painter, box)
        painter.restore()
    elif ground is not None:
        ground(painter, box)
    elif box.kind in ("thumb", "picture"):
        _paint_picture(painter, box, pictures(box.picture) if box.picture else None)
    style = STYLES.get(box.kind)
    if style is not None and box.text:
        _paint_text(painter, box, style, rtl)


def _paint_text(painter: QPainter, box: Box, style: Style, rtl: bool) -> None:
    role, weight, rect, align = style.role, style.weight, _rect(box), style.align
    match box.kind:
        case "back":
            rect.adjust(26, 0, 0, 0)
        case "input" | "in place" | "menu item" | "removed":
            rect.adjust(12, 0, -10, 0)
            role = "screen_soft" if "hint" in box.state else role
        case "option":
            rect.adjust(38, 0, -10, 0)
        case "group" if box.does is not None:
            rect.adjust(22, 0, 0, 0)
        case "switch":
            rect.adjust(58, 0, 0, 0)
        case "search":
            rect.adjust(34, 0, -10, 0)
            role = "screen_soft" if "hint" in box.state else "ink"
        case "section":
            if "current" in box.state:
                role, weight = "ink", QFont.Weight.Bold
            if "rail" in box.state:
                rect.setTop(rect.bottom() - 22)
            elif {"wide rail", "list"} & box.state:
                rect.adjust(56 if "wide rail" in box.state else 16, 0, -8, 0)
                align = LEFT
        case "row title" if "chosen" in box.state:
            weight = QFont.Weight.Bold
        case "button" | "action" | "saved":
            role = _button_ink(box)
        case "badge" | "fact" | "in place" | "menu item" if (ruled := _ruled(box)) is not None:
            role, weight = ruled[1], QFont.Weight.Medium
        case "page" if "current" in box.state:
            role, weight = "ink", QFont.Weight.Bold
        case "row action" if "on" in box.state:
            role = "holds_ink"
        case "option" if "chosen" in box.state:
            weight = QFont.Weight.DemiBold
    if rtl:
        rect.moveLeft(2 * box.x + box.width - rect.right())
        align = RIGHT if align == LEFT else align
    painter.setFont(font_of(style.size, weight))
    painter.setPen(colour(role))
    text = box.text
    if "lines" in box.state:
        top = rect.adjusted(0, 10, 0, -6)
        side = Qt.AlignmentFlag.AlignRight if rtl else Qt.AlignmentFlag.AlignLeft
        flags = int(side | Qt.AlignmentFlag.AlignAbsolute | Qt.TextFlag.TextWordWrap)
        painter.drawText(top, flags, text)
        return
    if align != WRAPPED:
        text = elided(text, style.size, weight, int(rect.width()) + 1)
    painter.drawText(rect, align, text)
    if box.kind == "section" and {"rail", "wide rail"} & box.state:
        _section_mark(painter, box, rtl)


def _section_mark(painter: QPainter, box: Box, rtl: bool) -> None:
    """On a rail each section has its first letter in a ring: filled where one is now."""
    is_wide = "wide rail" in box.state
    middle = box.x + (28 if is_wide else box.width / 2)
    if rtl and is_wide:
        middle = box.x + box.width - 28
    ring = QRectF(middle - 14, box.y + (box.height / 2 - 14 if is_wide else 4), 28, 28)
    current = "current" in box.state
    painter.setPen(QPen(colour("ink" if current else "quiet"), 1.5))
    painter.setBrush(QBrush(colour("ink" if current else "screen")))
    painter.drawEllipse(ring)
    painter.setFont(font_of(14, QFont.Weight.DemiBold))
    painter.setPen(colour("screen" if current else "screen_soft"))
    painter.drawText(ring, CENTRE, box.text[:1])


def _ruled(box: Box) -> tuple[str, str] | None:
    """The roles of a rule by which something stands out, if one does."""
    return next((roles for state, roles in RULED.items() if state in box.state), None)


def _button_ink(box: Box) -> str:
    if "unlinked" in box.state:
        return "screen_soft"
    if "in bar" in box.state:
        return "screen_link"
    return "ink" if "plain" in box.state or "on" in box.state else "on_holds"


def _fill(role: str) -> Callable[[QPainter, Box], None]:
    def fill(painter: QPainter, box: Box) -> None:
        painter.fillRect(_rect(box), colour(role))

    return fill


def _bar(painter: QPainter, box: Box) -> None:
    painter.fillRect(_rect(box), colour("screen"))
    line = QRectF(box.x, box.y + box.height - 1, box.width, 1)
    if box.kind == "bottom bar":
        line = QRectF(box.x, box.y, box.width, 1)
    if box.kind == "section bar":
        if {"rail", "wide rail"} & box.state:
            line = QRectF(box.x + box.width - 1, box.y, 1, box.height)
        elif "bottom" in box.state:
            line = QRectF(box.x, box.y, box.width, 1)
    painter.fillRect(line, colour("screen_line"))


def _tile(painter: QPainter, box: Box) -> None:
    chosen = "chosen" in box.state
    fill, line = ("brass_wash", "brass") if chosen else ("screen", "screen_line")
    _rounded(painter, _rect(box), 8, colour(fill), colour(line))
    if chosen:
        painter.fillRect(
            QRectF(box.x + 8, box.y + box.height - 4, box.width - 16, 3), colour("brass")
        )


def _row(painter: QPainter, box: Box) -> None:
    if "tile" in box.state:
        _tile(painter, box)
        if "marked" not in box.state:
            return
    if "chosen" in box.state:
        painter.fillRect(_rect(box), colour("brass_wash"))
        painter.fillRect(QRectF(box.x, box.y, 4, box.height), colour("brass"))
    elif "last" in box.state:
        painter.fillRect(QRectF(box.x, box.y + 6, 3, box.height - 12), colour("quiet"))
    if "marked" in box.state:
        pen = QPen(colour("ink"), 1.5, Qt.PenStyle.DashLine)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(_rect(box).adjusted(5, 3, -5, -3), 6, 6)


def _rounded(
    painter: QPainter, rect: QRectF, radius: float, fill: QColor, line: QColor | None
) -> None:
    painter.setPen(QPen(line, 1) if line is not None else Qt.PenStyle.NoPen)
    painter.setBrush(QBrush(fill))
    painter.drawRoundedRect(rect, radius, radius)


def _badge(painter: QPainter, box: Box) -> None:
    ruled = _ruled(box)
    _rounded(painter, _rect(box), 12, colour("screen_tile" if ruled is None else ruled[0]), None)


def _button(painter: QPainter, box: Box) -> None:
    if "in bar" in box.state and "on" not in box.state:
        return
    if {"unlinked", "plain", "on"} & box.state:
        fill = "holds_wash" if "on" in box.state else "screen"
        line = "holds" if "on" in box.state else "quiet"
        _rounded(painter, _rect(box), 10, colour(fill), colour(line))
        return
    fill = "broken" if "bad" in box.state else "holds"
    _rounded(painter, _rect(box), 10, colour(fill), None)


def _row_action(painter: QPainter, box: Box) -> None:
    on = "on" in box.state
    line = colour("holds" if on else "quiet")
    _rounded(painter, _rect(box), 10, colour("holds_wash" if on else "screen"), line)


def _input(painter: QPainter, box: Box) -> None:
    line = "broken" if "wrong" in box.state else "quiet"
    _rounded(painter, _rect(box), 8, colour("paper"), colour(line))


def _switch(painter: QPainter, box: Box) -> None:
    on = "on" in box.state
    y = box.y + box.height / 2
    track = QRectF(box.x, y - 12, 44, 24)
    _rounded(painter, track, 12, colour("holds" if on else "screen_tile"), colour("quiet"))
    x = track.right() - 22 if on else track.left() + 2
    _rounded(painter, QRectF(x, y - 10, 20, 20), 10, colour("screen"), colour("quiet"))


def _option(painter: QPainter, box: Box) -> None:
    chosen = "chosen" in box.state
    line = colour("brass" if chosen else "screen_line")
    _rounded(painter, _rect(box), 8, colour("brass_wash" if chosen else "screen"), line)
    y = box.y + box.height / 2
    painter.setPen(QPen(colour("brass" if chosen else "quiet"), 2))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawEllipse(QRectF(box.x + 12, y - 8, 16, 16))
    if chosen:
        painter.setBrush(QBrush(colour("brass")))
        painter.drawEllipse(QRectF(box.x + 16, y - 4, 8, 8))


def _page(painter: QPainter, box: Box) -> None:
    painter.fillRect(_rect(box), colour("screen"))
    current = "current" in box.state
    tall = 3 if current else 1
    line = QRectF(box.x, box.y + box.height - tall, box.width, tall)
    painter.fillRect(line, colour("ink" if current else "screen_line"))


def _removed(painter: QPainter, box: Box) -> None:
    _rounded(painter, _rect(box), 8, colour("slate"), colour("quiet"))


def _card(painter: QPainter, box: Box) -> None:
    _rounded(painter, _rect(box), 12, colour("screen"), colour("quiet"))


def _loading(painter: QPainter, box: Box) -> None:
    """Three dots of different weight: it waits, and nothing has to move to say so."""
    middle = box.x + box.width / 2
    painter.setPen(Qt.PenStyle.NoPen)
    for number, role in enumerate(("quiet", "screen_line", "screen_line")):
        painter.setBrush(QBrush(colour(role)))
        painter.drawEllipse(QRectF(middle - 22 + 18 * number, box.y + box.height - 14, 7, 7))


def _search(painter: QPainter, box: Box) -> None:
    _rounded(painter, _rect(box), 8, colour("paper"), colour("screen_line"))
    painter.setPen(QPen(colour("screen_soft"), 1.6))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    x, y = box.x + 16, box.y + box.height / 2 - 1
    painter.drawEllipse(QRectF(x - 5, y - 5, 9, 9))
    painter.drawLine(int(x + 4), int(y + 4), int(x + 8), int(y + 8))


def _back(painter: QPainter, box: Box) -> None:
    painter.setPen(QPen(colour("screen_link"), 2, c=Qt.PenCapStyle.RoundCap))
    x, y = box.x + 13, box.y + box.height / 2
    path = QPainterPath()
    path.moveTo(x + 5, y - 6)
    path.lineTo(x - 1, y)
    path.lineTo(x + 5, y + 6)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPath(path)


def _group(painter: QPainter, box: Box) -> None:
    """A group that opens and closes has a hook before its title: down when it is open.

    One that is closed over the chosen row has the lit edge of that row.
    """
    if box.does is None:
        return
    if {"closed", "chosen"} <= box.state:
        painter.fillRect(QRectF(box.x - 16, box.y + 4, 4, box.height - 8), colour("brass"))
    painter.setPen(QPen(colour("screen_soft"), 2, c=Qt.PenCapStyle.RoundCap))
    x, y = box.x + 7, box.y + box.height / 2
    across, down = (0.0, 1.0) if "open" in box.state else (1.0, 0.0)
    tip = QPointF(x + 3 * across, y + 3 * down)
    for side in (-1, 1):
        end = QPointF(x - 2 * across + 5 * side * down, y - 2 * down + 5 * side * across)
        painter.drawLine(tip, end)


def _sections(painter: QPainter, box: Box) -> None:
    """The button that the section bar is behind: three lines, the last one short."""
    painter.setPen(QPen(colour("screen_link"), 2, c=Qt.PenCapStyle.RoundCap))
    x, y = box.x + box.width / 2, box.y + box.height / 2
    for number, long in enumerate((18.0, 18.0, 11.0)):
        top = y + (number - 1) * 6
        painter.drawLine(QPointF(x - 9, top), QPointF(x - 9 + long, top))


def _section(painter: QPainter, box: Box) -> None:
    if {"rail", "wide rail"} & box.state:
        return
    if "list" in box.state:
        if "current" in box.state:
            painter.fillRect(QRectF(box.x, box.y + 6, 4, box.height - 12), colour("ink"))
        return
    if "current" in box.state:
        middle = box.x + box.width / 2
        painter.fillRect(QRectF(middle - 14, box.y + 6, 28, 3), colour("ink"))


def _scrim(painter: QPainter, box: Box) -> None:
    shade = QColor(20, 28, 32, 70 if "popover" in box.state else 120)
    painter.fillRect(_rect(box), shade)


def _layer(painter: QPainter, box: Box) -> None:
    _rounded(painter, _rect(box).adjusted(-1, -1, 1, 1), 4, colour("screen"), colour("quiet"))


def _thumb_of_scroll(painter: QPainter, box: Box) -> None:
    _rounded(painter, _rect(box), 2, colour("quiet"), None)


def _asleep(painter: QPainter, box: Box) -> None:
    painter.fillRect(_rect(box), QColor(20, 28, 32, 120))
    middle = QRectF(box.x, box.y + box.height / 2 - 24, box.width, 48)
    painter.fillRect(middle, colour("screen"))


GROUNDS: Final[dict[str, Callable[[QPainter, Box], None]]] = {
    "ground": _fill("screen"),
    "screen": _fill("screen"),
    "off": _fill("paper"),
    "nothing chosen": _fill("paper"),
    "title bar": _bar,
    "section bar": _bar,
    "divider": _fill("screen_line"),
    "pane edge": _fill("hairline"),
    "row": _row,
    "badge": _badge,
    "button": _button,
    "search": _search,
    "back": _back,
    "section": _section,
    "group": _group,
    "sections": _sections,
    "scrim": _scrim,
    "layer": _layer,
    "thumb of scroll": _thumb_of_scroll,
    "asleep": _asleep,
    "row action": _row_action,
    "page": _page,
    "input": _input,
    "in place": _input,
    "switch": _switch,
    "option": _option,
    "bottom bar": _bar,
    "removed": _removed,
    "action": _button,
    "saved": _button,
    "menu": _card,
    "question": _card,
    "loading": _loading,
}


def _paint_picture(painter: QPainter, box: Box, pixmap: QPixmap | None) -> None:
    """A picture fills its box and is cut, or is whole and leaves some; it is never stretched."""
    rect = _rect(box)
    if pixmap is None:
        _rounded(painter, rect, 8, colour("screen_tile"), None)
        return
    if "whole" in box.state:
        _rounded(painter, rect, 8, colour("screen_tile"), None)
        ratio = min(rect.width() / pixmap.width(), rect.height() / pixmap.height())
        wide, high = pixmap.width() * ratio, pixmap.height() * ratio
        left, top = (rect.width() - wide) / 2, (rect.height() - high) / 2
        inner = QRectF(rect.x() + left, rect.y() + top, wide, high)
        painter.drawPixmap(inner, pixmap, QRectF(pixmap.rect()))
        return
    ratio = max(rect.width() / pixmap.width(), rect.height() / pixmap.height())
    wide, high = rect.width() / ratio, rect.height() / ratio
    source = QRectF((pixmap.width() - wide) / 2, (pixmap.height() - high) / 2, wide, high)
    painter.drawPixmap(rect, pixmap, source)
