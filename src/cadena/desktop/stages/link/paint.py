"""Painting the board: ribbons under cards, and each card with its live content."""

from __future__ import annotations

from functools import lru_cache
from math import ceil
from typing import Final

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPainterPath, QPen, QPixmap

from cadena.desktop.painting.faces import elided, font_of
from cadena.desktop.painting.painter import Pictures, paint_scene
from cadena.desktop.painting.theme import colour, mono
from cadena.model.app import Screen
from cadena.scene.board.board import CARD, HEAD, INSIDE_SCALE, Card, Port, Socket
from cadena.scene.board.ribbons import Ribbon
from cadena.scene.scene import Scene

BEND: Final = 0.5
LABEL_WIDTH: Final = 90.0
ROUND: Final = 10.0
MIDDLE: Final = int(Qt.AlignmentFlag.AlignCenter)
LEFT: Final = int(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
RIGHT: Final = int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
BOLD: Final = QFont.Weight.Bold
PLAIN: Final = QFont.Weight.Normal


def write(
    painter: QPainter,
    rect: QRectF,
    text: str,
    size: int,
    role: str,
    align: int,
    weight: QFont.Weight = PLAIN,
) -> None:
    """One line of the interface's own face, cut where it is wider than its place."""
    painter.setFont(font_of(size, weight))
    painter.setPen(colour(role))
    painter.drawText(rect, align, elided(text, size, weight, int(rect.width()) + 1))


@lru_cache(maxsize=1024)
def ribbon_path(
    start: tuple[float, float], end: tuple[float, float], lane: float | None
) -> QPainterPath:
    """The way between two points: over one gutter, or along a lane under the cards.

    The same way is the same path: it is not to be changed.
    """
    path = QPainterPath(QPointF(*start))
    if lane is None:
        reach = max(30.0, (end[0] - start[0]) * BEND)
        path.cubicTo(
            QPointF(start[0] + reach, start[1]), QPointF(end[0] - reach, end[1]), QPointF(*end)
        )
        return path
    out, back = start[0] + 26, max(6.0, end[0] - 26)
    radius = min(14.0, end[0] - back)
    towards = 1.0 if back > out else -1.0
    path.lineTo(out - radius, start[1])
    path.quadTo(out, start[1], out, start[1] + radius)
    path.lineTo(out, lane - radius)
    path.quadTo(out, lane, out + radius * towards, lane)
    path.lineTo(back - radius * towards, lane)
    path.quadTo(back, lane, back, lane - radius)
    path.lineTo(back, end[1] + radius)
    path.quadTo(back, end[1], back + radius, end[1])
    path.lineTo(*end)
    return path


def way_of(ribbon: Ribbon) -> QPainterPath:
    """The way of a ribbon up to where its strands fan out."""
    fork = (ribbon.end[0] - 22, ribbon.end[1]) if len(ribbon.strands) > 1 else ribbon.end
    return ribbon_path(ribbon.start, fork, ribbon.lane)


def paint_ribbon(painter: QPainter, ribbon: Ribbon, selected: bool) -> None:
    """A ribbon and, where it fans out, a strand to each socket."""
    role = "broken" if ribbon.broken else "brass" if ribbon.lit else "quiet"
    wash = colour(role)
    wash.setAlpha(70)
    path = way_of(ribbon)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(_pen(wash, 11 if selected else 8))
    painter.drawPath(path)
    line = _pen(colour(role), 2.5 if selected or ribbon.lit else 1.6)
    if ribbon.broken:
        line.setStyle(Qt.PenStyle.DashLine)
    painter.setPen(line)
    painter.drawPath(path)
    if ribbon.to_nowhere:
        at = QPointF(*ribbon.end)
        painter.drawLine(at - QPointF(5, 5), at + QPointF(5, 5))
        painter.drawLine(at - QPointF(5, -5), at + QPointF(5, -5))
    if len(ribbon.strands) > 1:
        end = path.currentPosition()
        fork = (end.x(), end.y())
        for strand in ribbon.strands:
            painter.drawPath(ribbon_path(fork, (ribbon.end[0], strand.y), None))


def _pen(line: QColor, width: float) -> QPen:
    pen = QPen(line, width)
    pen.setCapStyle(Qt.PenCapStyle.RoundCap)
    return pen


def label_rect(ribbon: Ribbon) -> QRectF:
    """Where the labels of a ribbon lie."""
    x, y = ribbon.label_at
    return QRectF(x - LABEL_WIDTH / 2, y - 19, LABEL_WIDTH, 38)


def paint_labels(painter: QPainter, ribbon: Ribbon, selected: bool) -> None:
    """What a ribbon carries, and how it opens."""
    rect = label_rect(ribbon)
    sign = "! " if ribbon.broken else ""
    role = "broken" if ribbon.broken else "brass" if ribbon.lit else "quiet"
    wash = "broken_wash" if ribbon.broken else "brass_wash" if ribbon.lit else "card"
    ink = "broken_ink" if ribbon.broken else "ink"
    painter.setFont(mono(10))
    for number, (text, fill) in enumerate(((sign + ribbon.label, wash), (ribbon.how, "card"))):
        if number:
            painter.setFont(font_of(11, PLAIN))
        metrics = painter.fontMetrics()
        cut = metrics.elidedText(text, Qt.TextElideMode.ElideRight, int(LABEL_WIDTH - 12))
        wide = min(LABEL_WIDTH, metrics.horizontalAdvance(cut) + 14.0)
        pill = QRectF(rect.center().x() - wide / 2, rect.y() + 20 * number, wide, 18)
        painter.setPen(QPen(colour("ink" if selected else role), 2 if selected else 1))
        painter.setBrush(colour(fill))
        painter.drawRoundedRect(pill, 8, 8)
        painter.setPen(colour(ink if not number else "ink"))
        painter.drawText(pill, MIDDLE, cut)


def paint_whole_label(painter: QPainter, ribbon: Ribbon) -> None:
    """All that a ribbon carries, each with where it comes from, as wide as it needs."""
    texts = [each.label for each in ribbon.strands] or [ribbon.label]
    painter.setFont(mono(10))
    wide = max(painter.fontMetrics().horizontalAdvance(each) for each in texts) + 18.0
    x, y = ribbon.label_at
    rect = QRectF(max(4.0, x - wide / 2), y - 19, wide, 18.0 * len(texts))
    painter.setPen(QPen(colour("broken" if ribbon.broken else "ink"), 1.6))
    painter.setBrush(colour("broken_wash" if ribbon.broken else "card"))
    painter.drawRoundedRect(rect, 8, 8)
    painter.setPen(colour("broken_ink" if ribbon.broken else "ink"))
    for number, text in enumerate(texts):
        painter.drawText(QRectF(rect.x(), rect.y() + 18 * number, wide, 18), MIDDLE, text)


def paint_card(
    painter: QPainter, card: Card, inside: QPixmap | None, selected: bool, pictures: Pictures
) -> None:
    """A card: its head, its live content, its sockets and its ports."""
    x, y, width, height = card.area
    rect = QRectF(x, y, width, height)
    lit = card.sample.lit
    shade = QColor(0, 0, 0, 26)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(shade)
    painter.drawRoundedRect(rect.translated(2, 3), ROUND, ROUND)
    painter.setBrush(colour("screen"))
    edge = QPen(colour("brass" if lit else "hairline"), 2 if lit else 1)
    painter.setPen(edge)
    painter.drawRoundedRect(rect, ROUND, ROUND)
    if inside is not None:
        painter.drawPixmap(
            QRectF(x + 2, card.inside_top, width - 4, ceil(card.inside.height * INSIDE_SCALE)),
            inside,
            QRectF(inside.rect()),
        )
    else:
        paint_inside(painter, card, pictures)
    kind, taken = kind_of_card(card.screen, card.title, width - 26)
    write(painter, QRectF(x + 14, y, width - 26 - taken, HEAD), card.title, 14, "ink", LEFT, BOLD)
    write(painter, QRectF(x + width - 12 - taken, y, taken, HEAD), kind, 11, "soft", RIGHT)
    painter.fillRect(QRectF(x + 1, y + HEAD - 1, width - 2, 1), colour("screen_line"))
    if selected:
        painter.setPen(QPen(colour("ink"), 2, Qt.PenStyle.SolidLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(rect.adjusted(-4, -4, 4, 4), ROUND + 4, ROUND + 4)


@lru_cache(maxsize=512)
def kind_of_card(screen: Screen, title: str, room: float) -> tuple[str, float]:
    """What kind of screen a card is, and the room for it beside the title: with its identifier
    where both go in whole."""
    kind = str(screen.__struct_config__.tag)
    wanted = QFontMetricsF(font_of(14, BOLD)).horizontalAdvance(title) + 10
    plain = QFontMetricsF(font_of(11, PLAIN))
    for said in (f"{screen.id} · {kind}", kind):
        wide = plain.horizontalAdvance(said) + 4
        if kind != "list" and wanted + wide <= room:
            return said, wide
    return kind, plain.horizontalAdvance(kind) + 4


def paint_inside(painter: QPainter, card: Card, pictures: Pictures) -> None:
    """The content of a card, with the one painter of every picture of an app."""
    painter.save()
    painter.setClipRect(
        QRectF(card.area.x + 2, card.inside_top, CARD - 4, ceil(card.inside.height * INSIDE_SCALE))
    )
    painter.translate(card.area.x, card.inside_top)
    painter.scale(INSIDE_SCALE, INSIDE_SCALE)
    paint_scene(painter, _unclipped(card.inside), pictures)
    painter.restore()


def _unclipped(scene: Scene) -> Scene:
    """Scenes of cards are short already: their clips would only undo the card's own."""
    return scene._replace(boxes=tuple(box._replace(clip=None) for box in scene.boxes))


def paint_socket(painter: QPainter, card: Card, socket: Socket, filled: bool, wanted: bool) -> None:
    """A parameter: a filled socket, an open one, or one that is open and required."""
    at = QPointF(card.area.x, socket.y)
    is_open = wanted and not filled
    role = "broken" if is_open else "brass" if filled and card.sample.lit else "soft"
    painter.setPen(QPen(colour(role), 2))
    painter.setBrush(colour(role) if filled else colour("card"))
    painter.drawEllipse(at, 6.5, 6.5)
    parameter = socket.parameter
    ink = "broken_ink" if is_open else "ink"
    painter.setFont(mono(11))
    painter.setPen(colour(ink))
    name = painter.fontMetrics().elidedText(parameter.name, Qt.TextElideMode.ElideRight, 84)
    wide = painter.fontMetrics().horizontalAdvance(name)
    rect = QRectF(card.area.x + 14, socket.y - 10, CARD - 24, 20)
    painter.drawText(rect, LEFT, name)
    said = (
        "open"
        if is_open
        else {"required": "needed", "default": "has a default", "none": "or none"}[parameter.need]
    )
    role = "broken_ink" if is_open else "soft"
    write(painter, rect.adjusted(wide + 8, 0, 0, 0), f"{parameter.type} · {said}", 11, role, LEFT)


def paint_new_socket(painter: QPainter, card: Card) -> None:
    """Where one more parameter is added: on the card that is selected."""
    at = QPointF(card.area.x, card.area.y + HEAD / 2)
    painter.setPen(QPen(colour("ink"), 1.5))
    painter.setBrush(colour("card"))
    painter.drawEllipse(at, 8.5, 8.5)
    painter.drawLine(at - QPointF(4, 0), at + QPointF(4, 0))
    painter.drawLine(at - QPointF(0, 4), at + QPointF(0, 4))


def paint_port(
    painter: QPainter, card: Card, port: Port, linked: bool, selected: bool, lit: bool
) -> None:
    """Where a ribbon is pulled from."""
    at = QPointF(card.area.x + card.area.width, port.y)
    if selected:
        area = QRectF(*port.area).adjusted(3, 1, -3, -1)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour("ink"), 2))
        painter.drawRoundedRect(area, 5, 5)
    role = "brass" if lit else "soft"
    painter.setPen(QPen(colour(role), 2))
    painter.setBrush(colour(role) if linked else colour("card"))
    painter.drawEllipse(at, 5.5, 5.5)
    if not linked:
        painter.drawLine(at - QPointF(2.5, 0), at + QPointF(2.5, 0))
        painter.drawLine(at - QPointF(0, 2.5), at + QPointF(0, 2.5))


def paint_ghost(painter: QPainter, at: QPointF, width: float = CARD) -> None:
    """The screen that would be made where a link is let go."""
    rect = QRectF(at.x(), at.y() - 36, width, 72)
    painter.setPen(QPen(colour("brass"), 2, Qt.PenStyle.DashLine))
    painter.setBrush(colour("paper"))
    painter.drawRoundedRect(rect, ROUND, ROUND)
    write(painter, rect.adjusted(8, 12, -8, -34), "let go here", 13, "brass_ink", MIDDLE, BOLD)
    write(painter, rect.adjusted(8, 34, -8, -12), "to make the screen it opens", 11, "soft", MIDDLE)
