"""The one painter of every picture of an app: it draws a scene at any scale."""

from __future__ import annotations

from collections.abc import Callable
from typing import Final

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import (
    QBrush,
    QFont,
    QPainter,
    QPen,
    QPixmap,
)

from cadena.desktop.painting.faces import (
    CENTRE,
    LEFT,
    RIGHT,
    STYLES,
    WRAPPED,
    Style,
    elided,
    font_of,
)
from cadena.desktop.painting.grounds import GROUNDS, button_ink, rect_of, rounded, ruled
from cadena.desktop.painting.theme import colour
from cadena.engine.layout.sizes import ROWS
from cadena.scene.scene import Box, Scene

Pictures = Callable[[str], QPixmap | None]
OF_ROWS: Final = ("row title", "row subtitle", "cell")

INSETS: Final = {
    "back": (26, 0, 0, 0),
    "input": (12, 0, -10, 0),
    "in place": (12, 0, -10, 0),
    "menu item": (12, 0, -10, 0),
    "removed": (12, 0, -10, 0),
    "option": (38, 0, -10, 0),
    "chooser": (12, 0, -34, 0),
    "switch": (58, 0, 0, 0),
    "search": (34, 0, -10, 0),
}
"""How far inside its box a text stands, in dp: left, top, right, bottom."""


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


def _set(box: Box, style: Style) -> tuple[QRectF, Style]:
    """Where the text of a box stands, and how it is set in the state that the box is in."""
    rect, state = QRectF(box.x, box.y, box.width, box.height), box.state
    if box.kind in INSETS:
        rect.adjust(*INSETS[box.kind])
    match box.kind:
        case "group" if box.does is not None:
            rect.adjust(22, 0, 0, 0)
        case "section":
            if "rail" in state or (box.icon and not {"wide rail", "list"} & state):
                rect.setTop(rect.bottom() - 22)
            elif {"wide rail", "list"} & state:
                is_marked = "wide rail" in state or box.icon
                rect.adjust(56 if is_marked else 16, 0, -8, 0)
                style = style._replace(align=LEFT)
            if "current" in state:
                style = style._replace(role="ink", weight=QFont.Weight.Bold)
        case "row title" if "chosen" in state:
            style = style._replace(weight=QFont.Weight.Bold)
        case "head" if "current" in state:
            style = style._replace(role="ink")
        case "button" | "action" | "saved":
            style = style._replace(role=button_ink(box))
        case "badge" | "fact" | "cell" if (roles := ruled(box)) is not None:
            style = style._replace(role=roles[1], weight=QFont.Weight.Medium)
        case "fact" if "opens" in state:
            style = style._replace(role="screen_link")
        case "page" if "current" in state:
            style = style._replace(role="ink", weight=QFont.Weight.Bold)
        case "row action" if "on" in state:
            style = style._replace(role="holds_ink")
        case "option" if "chosen" in state:
            style = style._replace(weight=QFont.Weight.DemiBold)
        case "search" | "input" | "in place" | "chooser" if "hint" in state:
            style = style._replace(role="screen_soft")
    if box.kind in OF_ROWS and (density := {"compact", "roomy"} & state):
        sizes = ROWS[next(iter(density))]
        own = {"row title": sizes.title[0], "row subtitle": sizes.subtitle[0]}
        style = style._replace(size=own.get(box.kind, sizes.cell))
    if box.kind in ("cell", "head", "row title") and "end" in state:
        style = style._replace(align=RIGHT)
    return rect, style


def _paint_text(painter: QPainter, box: Box, style: Style, rtl: bool) -> None:
    rect, style = _set(box, style)
    align = style.align
    if rtl:
        rect.moveLeft(2 * box.x + box.width - rect.right())
        align = {LEFT: RIGHT, RIGHT: LEFT}.get(align, align)
    painter.setFont(font_of(style.size, style.weight))
    painter.setPen(colour(style.role))
    text = box.text
    if "lines" in box.state:
        top = rect.adjusted(0, 10, 0, -6)
        side = Qt.AlignmentFlag.AlignRight if rtl else Qt.AlignmentFlag.AlignLeft
        flags = int(side | Qt.AlignmentFlag.AlignAbsolute | Qt.TextFlag.TextWordWrap)
        painter.drawText(top, flags, text)
        return
    if align != WRAPPED:
        text = elided(text, style.size, style.weight, int(rect.width()) + 1)
    painter.drawText(rect, align, text)
    if box.kind == "section" and (box.icon or {"rail", "wide rail"} & box.state):
        _section_mark(painter, box, rtl)


def _section_mark(painter: QPainter, box: Box, rtl: bool) -> None:
    """A section's icon; on a rail, without one, its first letter in a ring: filled where one
    is now."""
    is_wide = bool({"wide rail", "list"} & box.state)
    middle = box.x + (28 if is_wide else box.width / 2)
    if rtl and is_wide:
        middle = box.x + box.width - 28
    ring = QRectF(middle - 14, box.y + (box.height / 2 - 14 if is_wide else 4), 28, 28)
    current = "current" in box.state
    if box.icon and _icon_painted(painter, box, ring, current):
        return
    if not {"rail", "wide rail"} & box.state:
        return
    painter.setPen(QPen(colour("ink" if current else "quiet"), 1.5))
    painter.setBrush(QBrush(colour("ink" if current else "screen")))
    painter.drawEllipse(ring)
    painter.setFont(font_of(14, QFont.Weight.DemiBold))
    painter.setPen(colour("screen" if current else "screen_soft"))
    painter.drawText(ring, CENTRE, box.text[:1])


def _icon_painted(painter: QPainter, box: Box, ring: QRectF, current: bool) -> bool:
    """The icon of a section, where there is one of that name; where one is now it is filled."""
    from cadena.desktop.painting.icons import is_icon, paint_icon

    name = f"{box.icon}-fill" if current and is_icon(f"{box.icon}-fill") else box.icon
    inside = ring.adjusted(2, 2, -2, -2) if {"rail", "wide rail", "list"} & box.state else ring
    if not {"rail", "wide rail", "list"} & box.state:
        inside = QRectF(ring.x() + 3, box.y + 11, 22, 22)
    return paint_icon(painter, inside, name, colour("ink" if current else "screen_soft"))


def _paint_picture(painter: QPainter, box: Box, pixmap: QPixmap | None) -> None:
    """A picture fills its box and is cut, or is whole and leaves some; it is never stretched."""
    rect = rect_of(box)
    if pixmap is None:
        rounded(painter, rect, 8, colour("screen_tile"), None)
        return
    if "whole" in box.state:
        rounded(painter, rect, 8, colour("screen_tile"), None)
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
