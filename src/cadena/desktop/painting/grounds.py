"""What each kind of box is drawn on: its ground, its frame, its sign."""

from __future__ import annotations

from collections.abc import Callable
from typing import Final

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen

from cadena.desktop.painting.faces import RULED
from cadena.desktop.painting.theme import colour
from cadena.scene.scene import Box


def rect_of(box: Box) -> QRectF:
    return QRectF(box.x, box.y, box.width, box.height)


def ruled(box: Box) -> tuple[str, str] | None:
    """The roles of a rule by which something stands out, if one does."""
    return next((roles for state, roles in RULED.items() if state in box.state), None)


def button_ink(box: Box) -> str:
    if "unlinked" in box.state:
        return "screen_soft"
    if "in bar" in box.state:
        return "screen_link"
    return "ink" if "plain" in box.state or "on" in box.state else "on_holds"


def _fill(role: str) -> Callable[[QPainter, Box], None]:
    def fill(painter: QPainter, box: Box) -> None:
        painter.fillRect(rect_of(box), colour(role))

    return fill


def _bar(painter: QPainter, box: Box) -> None:
    painter.fillRect(rect_of(box), colour("screen"))
    line = QRectF(box.x, box.y + box.height - 1, box.width, 1)
    if box.kind == "bottom bar":
        line = QRectF(box.x, box.y, box.width, 1)
    if box.kind == "section bar":
        if {"rail", "wide rail"} & box.state:
            line = QRectF(box.x + box.width - 1, box.y, 1, box.height)
        elif "bottom" in box.state:
            line = QRectF(box.x, box.y, box.width, 1)
    painter.fillRect(line, colour("screen_line"))


def _light(wash: QColor) -> QColor:
    """A wash as the ground of a whole row: lighter than that of the one that is chosen."""
    light = QColor(wash)
    light.setAlphaF(0.45)
    return light


def _tile(painter: QPainter, box: Box) -> None:
    chosen = "chosen" in box.state
    fill, line = ("brass_wash", "brass") if chosen else ("screen", "screen_line")
    ground = colour(fill)
    if "on ground" in box.state and not chosen and (roles := ruled(box)) is not None:
        ground = _light(colour(roles[0]))
    if "picked" in box.state:
        ground, line = colour("screen_tile"), "ink"
    rounded(painter, rect_of(box), 8, ground, colour(line))
    if chosen:
        painter.fillRect(
            QRectF(box.x + 8, box.y + box.height - 4, box.width - 16, 3), colour("brass")
        )


def _row(painter: QPainter, box: Box) -> None:
    if "tile" in box.state:
        _tile(painter, box)
        if "marked" not in box.state:
            return
    elif "chosen" in box.state:
        painter.fillRect(rect_of(box), colour("brass_wash"))
        painter.fillRect(QRectF(box.x, box.y, 4, box.height), colour("brass"))
    elif "picked" in box.state:
        painter.fillRect(rect_of(box), colour("screen_tile"))
    elif "on ground" in box.state and (roles := ruled(box)) is not None:
        painter.fillRect(rect_of(box), _light(colour(roles[0])))
    elif "last" in box.state:
        painter.fillRect(QRectF(box.x, box.y + 6, 3, box.height - 12), colour("quiet"))
    if "marked" in box.state:
        pen = QPen(colour("ink"), 1.5, Qt.PenStyle.DashLine)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(rect_of(box).adjusted(5, 3, -5, -3), 6, 6)


def rounded(
    painter: QPainter, rect: QRectF, radius: float, fill: QColor, line: QColor | None
) -> None:
    painter.setPen(QPen(line, 1) if line is not None else Qt.PenStyle.NoPen)
    painter.setBrush(QBrush(fill))
    painter.drawRoundedRect(rect, radius, radius)


def _badge(painter: QPainter, box: Box) -> None:
    roles = ruled(box)
    rounded(painter, rect_of(box), 12, colour("screen_tile" if roles is None else roles[0]), None)


def _button(painter: QPainter, box: Box) -> None:
    if "in bar" in box.state and "on" not in box.state:
        return
    if {"unlinked", "plain", "on"} & box.state:
        fill = "holds_wash" if "on" in box.state else "screen"
        line = "holds" if "on" in box.state else "quiet"
        rounded(painter, rect_of(box), 10, colour(fill), colour(line))
        return
    fill = "broken" if "bad" in box.state else "holds"
    rounded(painter, rect_of(box), 10, colour(fill), None)


def _row_action(painter: QPainter, box: Box) -> None:
    on = "on" in box.state
    line = colour("holds" if on else "quiet")
    rounded(painter, rect_of(box), 10, colour("holds_wash" if on else "screen"), line)


def _input(painter: QPainter, box: Box) -> None:
    line = "broken" if "wrong" in box.state else "quiet"
    rounded(painter, rect_of(box), 8, colour("paper"), colour(line))


def _switch(painter: QPainter, box: Box) -> None:
    on = "on" in box.state
    y = box.y + box.height / 2
    track = QRectF(box.x, y - 12, 44, 24)
    rounded(painter, track, 12, colour("holds" if on else "screen_tile"), colour("quiet"))
    x = track.right() - 22 if on else track.left() + 2
    rounded(painter, QRectF(x, y - 10, 20, 20), 10, colour("screen"), colour("quiet"))


def _option(painter: QPainter, box: Box) -> None:
    chosen = "chosen" in box.state
    line = colour("brass" if chosen else "screen_line")
    rounded(painter, rect_of(box), 8, colour("brass_wash" if chosen else "screen"), line)
    y = box.y + box.height / 2
    painter.setPen(QPen(colour("brass" if chosen else "quiet"), 2))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawEllipse(QRectF(box.x + 12, y - 8, 16, 16))
    if chosen:
        painter.setBrush(QBrush(colour("brass")))
        painter.drawEllipse(QRectF(box.x + 16, y - 4, 8, 8))


def _chooser(painter: QPainter, box: Box) -> None:
    """A field that opens a list: an arrow to it stands at its end."""
    _input(painter, box)
    painter.setPen(QPen(colour("screen_link"), 2, c=Qt.PenCapStyle.RoundCap))
    x, y = box.x + box.width - 18, box.y + box.height / 2
    painter.drawLine(QPointF(x - 3, y - 5), QPointF(x + 2, y))
    painter.drawLine(QPointF(x + 2, y), QPointF(x - 3, y + 5))


def _pick(painter: QPainter, box: Box) -> None:
    """The box that a row is picked by: ticked where it is."""
    on = "on" in box.state
    x, y = box.x + box.width / 2, box.y + box.height / 2
    square = QRectF(x - 10, y - 10, 20, 20)
    rounded(painter, square, 5, colour("slate" if on else "screen"), colour("quiet"))
    if on:
        painter.setPen(QPen(colour("on_slate"), 2, c=Qt.PenCapStyle.RoundCap))
        painter.drawLine(QPointF(x - 5, y), QPointF(x - 1, y + 4))
        painter.drawLine(QPointF(x - 1, y + 4), QPointF(x + 5, y - 4))


def _page(painter: QPainter, box: Box) -> None:
    painter.fillRect(rect_of(box), colour("screen"))
    current = "current" in box.state
    tall = 3 if current else 1
    line = QRectF(box.x, box.y + box.height - tall, box.width, tall)
    painter.fillRect(line, colour("ink" if current else "screen_line"))


def _removed(painter: QPainter, box: Box) -> None:
    rounded(painter, rect_of(box), 8, colour("slate"), colour("quiet"))


def _card(painter: QPainter, box: Box) -> None:
    rounded(painter, rect_of(box), 12, colour("screen"), colour("quiet"))


def _loading(painter: QPainter, box: Box) -> None:
    """Three dots of different weight: it waits, and nothing has to move to say so."""
    middle = box.x + box.width / 2
    painter.setPen(Qt.PenStyle.NoPen)
    for number, role in enumerate(("quiet", "screen_line", "screen_line")):
        painter.setBrush(QBrush(colour(role)))
        painter.drawEllipse(QRectF(middle - 22 + 18 * number, box.y + box.height - 14, 7, 7))


def _search(painter: QPainter, box: Box) -> None:
    rounded(painter, rect_of(box), 8, colour("paper"), colour("screen_line"))
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


def _slide(painter: QPainter, box: Box) -> None:
    """The button that slides the list over its detail: a page with a column filled at its side."""
    painter.setPen(QPen(colour("screen_link"), 1.6))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    page = QRectF(box.x + box.width / 2 - 10, box.y + box.height / 2 - 8, 20, 16)
    painter.drawRoundedRect(page, 3, 3)
    painter.fillRect(QRectF(page.x(), page.y() + 2, 7, 12), colour("screen_link"))


def _more(painter: QPainter, box: Box) -> None:
    """Over the picture of a tile, what opens the menu has a ground of its own."""
    if "tile" in box.state:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour("screen_tile"))
        painter.drawEllipse(QRectF(box.x + 6, box.y + 6, box.width - 12, box.height - 12))


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
    painter.fillRect(rect_of(box), shade)


def _page_ground(painter: QPainter, box: Box) -> None:
    roles = ruled(box)
    if roles is not None:
        painter.fillRect(rect_of(box), _light(colour(roles[0])))


def _frame(painter: QPainter, box: Box) -> None:
    """What is shown from elsewhere, told apart from what is the app's own."""
    painter.setBrush(QBrush(colour("screen_tile")))
    painter.setPen(QPen(colour("quiet"), 1, Qt.PenStyle.DashLine))
    painter.drawRoundedRect(rect_of(box), 6, 6)


def _pane_divider(painter: QPainter, box: Box) -> None:
    """The grip in the middle of an edge that a person can move."""
    long, thin = (40.0, 4.0) if "down" in box.state else (4.0, 40.0)
    x, y = box.x + (box.width - long) / 2, box.y + (box.height - thin) / 2
    rounded(painter, QRectF(x, y, long, thin), 2, colour("quiet"), None)


def _layer(painter: QPainter, box: Box) -> None:
    rounded(painter, rect_of(box).adjusted(-1, -1, 1, 1), 4, colour("screen"), colour("quiet"))


def _thumb_of_scroll(painter: QPainter, box: Box) -> None:
    rounded(painter, rect_of(box), 2, colour("quiet"), None)


def _asleep(painter: QPainter, box: Box) -> None:
    painter.fillRect(rect_of(box), QColor(20, 28, 32, 120))
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
    "pane divider": _pane_divider,
    "page ground": _page_ground,
    "frame": _frame,
    "row": _row,
    "badge": _badge,
    "button": _button,
    "search": _search,
    "back": _back,
    "section": _section,
    "group": _group,
    "sections": _sections,
    "slide": _slide,
    "more": _more,
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
    "chooser": _chooser,
    "pick": _pick,
    "bottom bar": _bar,
    "heads": _bar,
    "removed": _removed,
    "action": _button,
    "saved": _button,
    "menu": _card,
    "question": _card,
    "loading": _loading,
}
