"""What of a board lies under a point, in px of the board."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainterPathStroker

from cadena.desktop.stages.link import paint
from cadena.scene.board.board import CARD, HEAD, Board, Card, Port
from cadena.scene.board.ribbons import Ribbon

NEAR = 14


def card_at(board: Board, at: QPointF) -> Card | None:
    """The card under a point."""
    return next((each for each in board.cards if QRectF(*each.area).contains(at)), None)


def port_at(board: Board, at: QPointF) -> Port | None:
    """The trigger under a point: its row or button, or the port beside it."""
    for card in board.cards:
        for port in card.ports:
            away = QPointF(card.area.x + card.area.width, port.y) - at
            if away.manhattanLength() < NEAR or QRectF(*port.area).contains(at):
                return port
    return None


def socket_at(board: Board, at: QPointF, selected: str) -> tuple[Card, str] | None:
    """The card and the parameter whose socket is under a point; no name for a new one.

    A new one has its place at the head of the card that is selected.
    """
    for card in board.cards:
        for socket in card.sockets:
            if QRectF(card.area.x - NEAR, socket.y - 11, CARD + NEAR, 22).contains(at):
                return card, socket.parameter.name
        away = QPointF(card.area.x, card.area.y + HEAD / 2) - at
        if card.screen.id == selected and away.manhattanLength() < NEAR:
            return card, ""
    return None


def ribbon_at(board: Board, at: QPointF) -> Ribbon | None:
    """The ribbon under a point, or whose labels are."""
    for ribbon in board.ribbons:
        if paint.label_rect(ribbon).contains(at):
            return ribbon
    stroker = QPainterPathStroker()
    stroker.setWidth(12)
    for ribbon in board.ribbons:
        path = paint.ribbon_path(ribbon.start, ribbon.end, ribbon.lane)
        if stroker.createStroke(path).contains(at):
            return ribbon
    return None
