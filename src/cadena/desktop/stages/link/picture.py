"""The board: the picture of the Link stage, worked on directly by mouse and by keyboard."""

from __future__ import annotations

from math import ceil
from typing import Final

from PySide6.QtCore import QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import (
    QAccessible,
    QAccessibleEvent,
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QAbstractScrollArea

from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.document.lit import Lit
from cadena.desktop.document.selection import (
    SelectedLink,
    SelectedScreen,
    SelectedTrigger,
    Selection,
)
from cadena.desktop.painting.theme import Look, colour, theme
from cadena.desktop.stages.link import hit_test as under
from cadena.desktop.stages.link import paint, stepping
from cadena.desktop.stages.link.about_parameters import chip_of
from cadena.desktop.stages.link.tiles import RENDER, Tiles
from cadena.desktop.widgets.polish import with_own_viewport
from cadena.model.app import Trigger
from cadena.scene.board.board import (
    CARD,
    HEAD,
    INSIDE_SCALE,
    TOP,
    Board,
    Card,
    lay_out_board,
    shown_of,
)

ZOOMS: Final = (0.25, 3.0)
PULL_FROM: Final = 6
DIM: Final = 0.22
"""How much is seen of what is not reached."""
AFTER_BENCH: Final = 30
"""Ms that the board waits before it shows what happens on the Bench."""
SETTLE_AFTER: Final = 180


class BoardPicture(QAbstractScrollArea):
    """The board of a section, with zoom and scroll."""

    pulled = Signal(object, str)
    wants_removal = Signal()

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.board = Board((), (), (), 1, 1)
        # At its usual zoom, what is painted is as large as the desktop's text.
        self.zoom = Look.scale
        self._sharp: dict[str, tuple[object, QPixmap]] = {}
        self._tiles = self._no_tiles()
        self._hovered = ""
        self._pull: Trigger | None = None
        self._pressed: Trigger | None = None
        self._from: QPointF | None = None
        self._pan: QPointF | None = None
        self._at = QPointF()
        self.setFrameShape(self.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("board")
        with_own_viewport(self)
        self.viewport().setMouseTracking(True)
        self._after = QTimer(self, singleShot=True, interval=AFTER_BENCH)
        self._after.timeout.connect(self.viewport().update)
        self._settle = QTimer(self, singleShot=True, interval=SETTLE_AFTER)
        self._settle.timeout.connect(self._sharpen)
        self._stale = True
        self._shown: object = None
        document.watch(Change.APP, self.mark_stale)
        document.watch(Change.SECTION | Change.LIT, self.mark_stale)
        document.watch(Change.SESSION, self._follow)
        document.watch(Change.SELECTION | Change.STAGE, self._selected)

    def mark_stale(self) -> None:
        """Something it shows has changed; it is laid out again when it is next painted."""
        self._stale = True
        self.viewport().update()

    def _follow(self) -> None:
        """Follow the running app; what only scrolls changes nothing here."""
        shown = shown_of(self.document.session)
        if shown != self._shown:
            self._shown = shown
            self._stale = True
            # The Bench shows first what has happened; the board comes after it.
            self._after.start()

    def refresh(self) -> None:
        """Lay the board out anew, if anything it shows has changed."""
        if self._stale:
            document = self.document
            self.board = lay_out_board(
                document.wired, document.session, document.section, self.board
            )
            self._stale = False
            self._tiles = self._no_tiles()
            self._fit_bars()

    def set_zoom(self, zoom: float, about: QPointF | None = None) -> None:
        """Zoom about a point of the view, the middle if none is given."""
        zoom = min(max(zoom, ZOOMS[0]), ZOOMS[1])
        about = about or QPointF(self.viewport().rect().center())
        at = self.to_board(about)
        self.zoom = zoom
        self._fit_bars()
        self.horizontalScrollBar().setValue(round(at.x() * zoom - about.x()))
        self.verticalScrollBar().setValue(round(at.y() * zoom - about.y()))
        self._settle.start()
        self.viewport().update()

    def fit(self) -> None:
        """Zoom so that the whole board is in view."""
        self.refresh()
        view, board = self.viewport().size(), self.board
        self.set_zoom(min(Look.scale, view.width() / board.width, view.height() / board.height))

    def to_board(self, point: QPointF) -> QPointF:
        """A point of the view in px of the board at 100 %."""
        return (point + self._offset()) / self.zoom

    def to_view(self, x: float, y: float) -> QPointF:
        """A point of the board in px of the view."""
        return QPointF(x, y) * self.zoom - self._offset()

    def _offset(self) -> QPointF:
        return QPointF(self.horizontalScrollBar().value(), self.verticalScrollBar().value())

    def _fit_bars(self) -> None:
        view = self.viewport().size()
        extents = (
            (self.horizontalScrollBar(), self.board.width, view.width()),
            (self.verticalScrollBar(), self.board.height, view.height()),
        )
        for bar, extent, seen in extents:
            bar.setRange(0, max(0, round(extent * self.zoom) - seen))
            bar.setPageStep(seen)
            bar.setSingleStep(40)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit_bars()

    def scrollContentsBy(self, dx: int, dy: int) -> None:
        self.viewport().update()

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.viewport().update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.viewport().update()

    def paintEvent(self, _: QPaintEvent) -> None:
        self.refresh()
        painter = QPainter(self.viewport())
        painter.fillRect(self.viewport().rect(), colour("ground"))
        painter.setRenderHints(RENDER)
        self._paint_tiles(painter)
        painter.translate(-self._offset())
        painter.scale(self.zoom, self.zoom)
        self._paint_whole_labels(painter)
        if self._pull is not None:
            self._paint_pull(painter)
        painter.resetTransform()
        if self.hasFocus():
            painter.setPen(QPen(colour("brass"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.viewport().rect().adjusted(1, 1, -1, -1))

    def _paint_tiles(self, painter: QPainter) -> None:
        """Draw the board; while zooming, what was painted before is only scaled."""
        corner = -self._offset()
        if self._tiles.theme != theme().name:
            self._tiles = self._no_tiles()
        if self._tiles.zoom != self.zoom:
            if self._settle.isActive() and not self._tiles.is_empty:
                self._tiles.draw_scaled(painter, self.zoom, corner)
                return
            self._tiles = self._no_tiles()
        at = self.to_board(QPointF(0, 0))
        view = self.viewport().size()
        seen = QRectF(at.x(), at.y(), view.width() / self.zoom, view.height() / self.zoom)
        self._tiles.draw(painter, seen, corner)

    def _paint_whole_labels(self, painter: QPainter) -> None:
        """What the link carries that is pointed at, or selected: with both its ends."""
        selection = self.document.selection
        chosen = selection.link if isinstance(selection, SelectedLink) else ""
        for ribbon in self.board.ribbons:
            if ribbon.link.id in (self._hovered, chosen):
                paint.paint_whole_label(painter, ribbon)

    def _no_tiles(self) -> Tiles:
        return Tiles(self.zoom, self.devicePixelRatioF(), self._paint_board)

    def _paint_board(self, painter: QPainter, seen: QRectF) -> None:
        board, selection, lit = self.board, self.document.selection, self.document.own(Lit)
        for head, x in board.columns:
            paint.write(painter, QRectF(x, 8, CARD, 18), head, 11, "soft", paint.LEFT)
        chosen = selection.link if isinstance(selection, SelectedLink) else ""
        for ribbon in sorted(board.ribbons, key=lambda each: (each.lit, each.link.id == chosen)):
            if paint.way_of(ribbon).boundingRect().adjusted(-9, -9, 9, 9).intersects(seen):
                painter.setOpacity(DIM if lit.dims_link(ribbon.link.id) else 1.0)
                paint.paint_ribbon(painter, ribbon, ribbon.link.id == chosen)
        for card in board.cards:
            if QRectF(*card.area).adjusted(-8, -8, 8, 8).intersects(seen):
                painter.setOpacity(DIM if lit.dims_screen(card.screen.id) else 1.0)
                self._paint_card(painter, card)
        painter.setOpacity(1.0)
        for ribbon in board.ribbons:
            is_seen = paint.label_rect(ribbon).intersects(seen)
            if is_seen and not lit.dims_link(ribbon.link.id):
                paint.paint_labels(painter, ribbon, ribbon.link.id == chosen)
        if not board.cards:
            words = "No screens yet: say below what the first list shows, or add records."
            paint.write(painter, QRectF(20, 60, 700, 30), words, 14, "soft", paint.LEFT)

    def _paint_card(self, painter: QPainter, card: Card) -> None:
        selection = self.document.selection
        selected = isinstance(selection, SelectedScreen) and selection.screen == card.screen.id
        pixmap = self._pixmap(card)
        paint.paint_card(painter, card, pixmap, selected, self.document.pictures)
        into = [each for each in self.board.ribbons if each.link.to == card.screen.id]
        for socket in card.sockets:
            name = socket.parameter.name
            ends = [any(s.parameter == name for s in each.strands) for each in into]
            wanted = socket.parameter.need == "required" and bool(ends)
            paint.paint_socket(painter, card, socket, bool(ends) and all(ends), wanted)
        if selected:
            paint.paint_new_socket(painter, card)
        for port in card.ports:
            linked = next(
                (each for each in self.board.ribbons if each.link.trigger == port.trigger), None
            )
            has_link = self.document.wired.link_from(port.trigger) is not None
            is_selected = selection == SelectedTrigger(port.trigger)
            paint.paint_port(
                painter, card, port, has_link, is_selected, linked is not None and linked.lit
            )

    def _pixmap(self, card: Card) -> QPixmap:
        """The content of a card, painted once for as long as it stays the same."""
        key = (card.inside, theme().name)
        known = self._sharp.get(card.screen.id)
        if known is not None and known[0] == key:
            return known[1]
        pixmap = self._paint_pixmap(card)
        self._sharp[card.screen.id] = (key, pixmap)
        return pixmap

    def _paint_pixmap(self, card: Card) -> QPixmap:
        ratio = self.devicePixelRatioF() * max(0.5, self.zoom)
        height = ceil(card.inside.height * INSIDE_SCALE)
        pixmap = QPixmap(max(1, round((CARD - 4) * ratio)), max(1, round(height * ratio)))
        pixmap.fill(colour("screen"))
        painter = QPainter(pixmap)
        painter.scale(ratio, ratio)
        painter.translate(-card.area.x - 2, -card.inside_top)
        paint.paint_inside(painter, card, self.document.pictures)
        painter.end()
        return pixmap

    def _sharpen(self) -> None:
        """After zooming, paint the cards anew at their size."""
        self._sharp.clear()
        self._tiles = self._no_tiles()
        self.viewport().update()

    def _paint_pull(self, painter: QPainter) -> None:
        found = self.board.port(self._pull) if self._pull is not None else None
        if found is None:
            return
        card, port = found
        start = (card.area.x + card.area.width, port.y)
        at = self.to_board(self._at)
        target = under.card_at(self.board, at)
        pen = QPen(colour("brass"), 3)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(paint.ribbon_path(start, (at.x(), at.y()), None))
        if target is None:
            paint.paint_ghost(painter, at)
        else:
            rect = QRectF(*target.area).adjusted(-4, -4, 4, 4)
            painter.drawRoundedRect(rect, paint.ROUND + 4, paint.ROUND + 4)

    @property
    def _card_selected(self) -> str:
        """The screen whose card is selected, or nothing."""
        selection = self.document.selection
        return selection.screen if isinstance(selection, SelectedScreen) else ""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        at = self.to_board(event.position())
        self._from, self._at = event.position(), event.position()
        port = under.port_at(self.board, at)
        self._pressed = port.trigger if port is not None else None
        if self._pressed is not None:
            return
        socket = under.socket_at(self.board, at, self._card_selected)
        if socket is not None:
            card, parameter = socket
            self.document.select(SelectedScreen(card.screen.id))
            self.document.wants_editor.emit(chip_of(parameter))
            return
        over = under.card_at(self.board, at)
        ribbon = None if over is not None else under.ribbon_at(self.board, at)
        if ribbon is not None:
            self.document.select(SelectedLink(ribbon.link.id))
        elif over is not None:
            self.document.select(SelectedScreen(over.screen.id))
        else:
            self.document.select(Selection())
            self._pan = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._at = event.position()
        if self._pan is not None:
            moved = event.position() - self._pan
            self._pan = event.position()
            self.horizontalScrollBar().setValue(
                self.horizontalScrollBar().value() - round(moved.x())
            )
            self.verticalScrollBar().setValue(self.verticalScrollBar().value() - round(moved.y()))
        elif self._from is not None and self._pressed is not None:
            if (event.position() - self._from).manhattanLength() > PULL_FROM:
                self._pull = self._pressed
        else:
            at = self.to_board(event.position())
            over = (
                under.port_at(self.board, at)
                or under.socket_at(self.board, at, self._card_selected)
                or under.card_at(self.board, at)
            )
            ribbon = None if over else under.ribbon_at(self.board, at)
            can = over or ribbon
            hovered = "" if ribbon is None else ribbon.link.id
            if hovered != self._hovered:
                self._hovered = hovered
                self.viewport().update()
            shape = Qt.CursorShape.PointingHandCursor if can else Qt.CursorShape.ArrowCursor
            self.viewport().setCursor(shape)
        if self._pull is not None:
            self.viewport().update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        pull, pressed = self._pull, self._pressed
        self._pull = self._pressed = self._from = self._pan = None
        self.viewport().update()
        if pull is not None:
            card = under.card_at(self.board, self.to_board(event.position()))
            self.pulled.emit(pull, card.screen.id if card is not None else "")
        elif pressed is not None:
            self.document.select(stepping.of_trigger(self.document, pressed))

    def wheelEvent(self, event: QWheelEvent) -> None:
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            steps = event.angleDelta().y() / 120
            self.set_zoom(self.zoom * 1.15**steps, event.position())
        else:
            super().wheelEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        self.refresh()
        if key == Qt.Key.Key_Escape and self._pull is not None:
            self._pull = self._pressed = None
            self.viewport().update()
        elif key in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            by = 1 if key == Qt.Key.Key_Down else -1
            self.document.select(stepping.stepped(self.document, self.board, by))
        elif key == Qt.Key.Key_Right:
            self.document.select(stepping.forward(self.document, self.board))
        elif key == Qt.Key.Key_Left:
            self.document.select(stepping.backward(self.document))
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.wants_removal.emit()
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal, Qt.Key.Key_Minus):
            self.set_zoom(self.zoom * (1 / 1.15 if key == Qt.Key.Key_Minus else 1.15))
        elif key == Qt.Key.Key_0:
            self.set_zoom(Look.scale)
        else:
            super().keyPressEvent(event)

    def _selected(self) -> None:
        """Bring what is selected into view, and tell assistive technology."""
        self._tiles = self._no_tiles()
        if self.document.stage != "Link":
            return
        self.refresh()
        selection = self.document.selection
        card = self.board.card(selection.screen) if isinstance(selection, SelectedScreen) else None
        if card is not None:
            self._bring(QRectF(card.area.x, card.area.y, CARD, min(card.area.height, HEAD * 4)))
        elif isinstance(selection, SelectedLink):
            ribbon = next(
                (each for each in self.board.ribbons if each.link.id == selection.link), None
            )
            if ribbon is not None:
                self._bring(paint.label_rect(ribbon))
        self.setAccessibleDescription(stepping.described(self.document, selection))
        QAccessible.updateAccessibility(
            QAccessibleEvent(self, QAccessible.Event.DescriptionChanged)
        )
        self.viewport().update()

    def _bring(self, rect: QRectF) -> None:
        view = self.viewport().size()
        for bar, low, high, seen in (
            (self.horizontalScrollBar(), rect.left(), rect.right(), view.width()),
            (self.verticalScrollBar(), rect.top(), rect.bottom(), view.height()),
        ):
            low, high = low * self.zoom - 12, high * self.zoom + 12
            if high > bar.value() + seen:
                bar.setValue(round(high - seen))
            if low < bar.value():
                bar.setValue(round(max(0.0, low if low > TOP else 0.0)))
