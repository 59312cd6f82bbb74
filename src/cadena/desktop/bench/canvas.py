"""A window of the running app: it paints the scene and turns what a person does into events."""

from __future__ import annotations

from math import floor, log
from typing import Final, Literal

from msgspec.structs import replace
from PySide6.QtCore import QElapsedTimer, QEvent, QPointF, QRect, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import (
    QFocusEvent,
    QFont,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QLineEdit, QWidget

from cadena.desktop.bench.dividing import Held, cursor_over
from cadena.desktop.bench.picking import HELD, after_move, by_key, by_press, can_pick
from cadena.desktop.bench.stops import Stop, Stops
from cadena.desktop.document.bench_windows import do_in, resized
from cadena.desktop.document.document import Document
from cadena.desktop.painting.motion import is_reduced
from cadena.desktop.painting.painter import paint_scene
from cadena.desktop.painting.theme import colour
from cadena.engine.events import (
    Back,
    Divide,
    Enter,
    Event,
    Forward,
    Move,
    Neighbour,
    Pick,
    Scroll,
    Turn,
)
from cadena.engine.rules.display import arrangement_for
from cadena.engine.rules.dividing import divided_while
from cadena.engine.session import Session
from cadena.native.keys import divided_by_key, step_of
from cadena.scene.lay_out import lay_out
from cadena.scene.rows_moved import Gliding
from cadena.scene.scene import TAKES_TEXT, Box, Scene, typed_into
from cadena.scene.transition import Moving, frame_of, moving_for, way_between

FRAME: Final = 8
DRAG_FROM: Final = 6
FRAME_EVERY: Final = 16
SWIPES_FROM: Final = 60
"""How far a swipe goes across at least, in dp."""
AFTER_LIVE: Final = 12
"""Ms that the other windows wait, so that the live one is seen first."""
BESIDE: Final[dict[int, Literal[-1, 1]]] = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}


class Canvas(QWidget):
    """One window of the running app, scaled to fit."""

    def __init__(self, document: Document, parent: QWidget | None = None, index: int = 0) -> None:
        super().__init__(parent)
        self.document = document
        self.index = index
        self._scene = Scene(1, 1, ())
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(60, 60)
        self.setMouseTracking(True)
        self.setAccessibleName("Bench window")
        self._entry = -1
        self._pressed: Box | None = None
        self._from: QPointF | None = None
        self._began = QPointF()
        self._dragging = False
        self._field: Box | None = None
        self._typed: str | None = None
        self._laid: tuple[object, bool, Session] | None = None
        self._moving: Moving | Gliding | None = None
        self._clock = QElapsedTimer()
        self._after = QTimer(self, singleShot=True, interval=AFTER_LIVE)
        self._after.timeout.connect(self.refresh)
        self._frames = QTimer(self, interval=FRAME_EVERY)
        self._frames.timeout.connect(self._next_frame)
        self._held = QTimer(self, singleShot=True, interval=HELD)
        self._held.timeout.connect(self._pick_held)
        self._divider: Held | None = None
        self._corner: tuple[QPointF, tuple[float, float], float] | None = None
        self._edit = QLineEdit(self)
        self._edit.hide()
        self._edit.textEdited.connect(self._type)
        self._edit.installEventFilter(self)
        self._stops = Stops(self)
        self.refresh()

    @property
    def _onward(self) -> int:
        """Which way a strip goes on: to the right, or (-1) to the left."""
        return -1 if self.scene.rtl else 1

    def sizeHint(self) -> QSize:
        return QSize(340, 600)

    @property
    def scale(self) -> float:
        """Px for a unit of the scene: about as large as fits, and never larger than life.

        It goes by small steps: letters that are as large as a moment ago need not be made anew.
        """
        room_x, room_y = self.width() - 2 * FRAME - 4, self.height() - 2 * FRAME - 4
        fits = min(self.scene.text, room_x / self.scene.width, room_y / self.scene.height)
        return 1.02 ** floor(log(fits, 1.02)) if 0.02 < fits < self.scene.text else max(0.02, fits)

    @property
    def origin(self) -> QPointF:
        """Where the scene begins, in px of the widget."""
        left = (self.width() - self.scene.width * self.scale) / 2
        return QPointF(max(FRAME + 2.0, left), FRAME + 2.0)

    @property
    def session(self) -> Session:
        """What this window shows."""
        return self.document.sessions.shown(self.index)

    @property
    def _seen(self) -> Session:
        """The same, with the dividers of its own arrangement alone: no others are to be seen."""
        wired, session = self.document.wired, self.session
        if not session.divided:
            return session
        own = arrangement_for(wired, session.window)
        return divided_while(wired, session, lambda each: each is own)

    @property
    def is_live(self) -> bool:
        return self.index == self.document.sessions.live

    def do(self, event: Event) -> None:
        """Let something happen in this window."""
        do_in(self.document, self.index, event)

    def refresh(self) -> None:
        """Lay out the session anew and show it."""
        self._after.stop()
        if self.is_gone:
            return
        document, session = self.document, self._seen
        before, now = self._laid, (document.wired, self.is_live, session)
        if before == now:
            return
        self._laid = now
        was = self._scene
        self._scene = lay_out(document.wired, session, session.window)
        if before is not None and before[0] is document.wired and before[2] is not session:
            self._begin_moving(was, before[2], session)
        width, height = session.window.size
        self.setAccessibleDescription(f"{document.app.name} at {width:g} by {height:g} dp")
        if self._scene != was or before is None or before[1] is not self.is_live:
            self._place_field()
            self._stops.place(self._scene)
            self.update()

    def refresh_soon(self) -> None:
        """The same, but after the window that somebody is at."""
        if self._laid != (self.document.wired, self.is_live, self._seen):
            self._after.start()

    @property
    def scene(self) -> Scene:
        """What is laid out of the session as it now is."""
        if self._after.isActive() and not self.is_gone:
            self.refresh()
        return self._scene

    @property
    def is_gone(self) -> bool:
        """Whether its window is not on the Bench any more."""
        return self.index >= len(self.document.sessions)

    def _begin_moving(self, was: Scene, before: Session, session: Session) -> None:
        """Let a screen come from its row, or go back to it, where its link says so; and rows go
        to their other places."""
        self._stop_moving()
        if is_reduced():
            return
        moving = way_between(self.document.wired, before, session, was, lambda: self._scene)
        if moving is not None:
            self._moving = moving
            self._clock.start()
            self._frames.start()

    def _next_frame(self) -> None:
        if self._moving is None or self._clock.elapsed() >= self._moving.duration:
            self._stop_moving()
        self.update()

    def _stop_moving(self) -> None:
        self._frames.stop()
        self._moving = None

    @property
    def is_moving(self) -> bool:
        return self._moving is not None

    def shown(self) -> Scene:
        """What is painted: the scene, a frame on the way to it, or one that is scrubbed to."""
        scrubbed = self.document.scrubbed
        if scrubbed is not None and self.is_live:
            link, at = scrubbed
            moving = moving_for(self.document.wired, self.session, link)
            if moving is not None:
                return frame_of(moving, at)
        if self._moving is not None:
            return frame_of(self._moving, self._clock.elapsed())
        return self.scene

    def px_of(self, box: Box) -> QRect:
        """Where a box lies in the widget, in px, with what its clip leaves of it."""
        rect = QRectF(box.x, box.y, box.width, box.height)
        if box.clip is not None:
            rect = rect.intersected(QRectF(*box.clip))
        scale, origin = self.scale, self.origin
        return QRectF(
            origin.x() + rect.x() * scale,
            origin.y() + rect.y() * scale,
            rect.width() * scale,
            rect.height() * scale,
        ).toRect()

    def dp_of(self, point: QPointF) -> QPointF:
        """A point of the widget in dp of the scene."""
        return (point - self.origin) / self.scale

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        scale, origin = self.scale, self.origin
        inner = QRectF(origin.x(), origin.y(), self.scene.width * scale, self.scene.height * scale)
        frame = inner.adjusted(-FRAME / 2, -FRAME / 2, FRAME / 2, FRAME / 2)
        painter.setPen(QPen(colour("frame" if self.is_live else "quiet"), FRAME))
        painter.drawRoundedRect(frame, 10, 10)
        self._paint_corner(painter)
        painter.setClipRect(inner)
        painter.translate(origin)
        painter.scale(scale, scale)
        paint_scene(painter, self.shown(), self.document.pictures)
        painter.resetTransform()
        painter.setClipping(False)
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(colour("brass"), 2))
            painter.drawRoundedRect(frame.adjusted(-4, -4, 4, 4), 13, 13)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._place_field()
        self._stops.place(self.scene)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.update()

    def corner(self) -> QRectF:
        """What is dragged to give the window another size, in px."""
        end = self.origin + QPointF(self.scene.width, self.scene.height) * self.scale
        x = self.origin.x() - FRAME if self.scene.rtl else end.x() - 4
        return QRectF(x, end.y() - 4, FRAME + 4, FRAME + 4)

    def _paint_corner(self, painter: QPainter) -> None:
        painter.setPen(QPen(colour("on_slate" if self.is_live else "ink"), 1.5))
        at = self.corner().center()
        turned = -1 if self.scene.rtl else 1
        for by in (0, 4):
            painter.drawLine(at + QPointF((4 - by) * turned, -2), at + QPointF(-2 * turned, 4 - by))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        self._close_field()
        if self.corner().contains(event.position()):
            per_dp = self.scale / self.scene.text
            self._corner = event.position(), self.session.window.size, per_dp
            return
        at = self.dp_of(event.position())
        self._pressed = self.scene.at(at.x(), at.y())
        if self._pressed is not None and self._pressed.kind == "pane divider":
            self._divider = Held(self._pressed, event.position())
            return
        self._from, self._dragging = event.position(), False
        self._began = event.position()
        self._entry = self.scene.entry_at(at.x(), at.y())
        if self._pressed is not None and can_pick(self.document.wired, self.session, self._pressed):
            self._held.start()

    def _pick_held(self) -> None:
        """A row that is pressed for long is picked, and not opened once it is let go."""
        box, self._pressed = self._pressed, None
        if box is not None and box.key is not None and not self._dragging:
            self.do(Pick(entry=box.entry, list=box.part, key=box.key))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._corner is not None:
            self._drag_corner(event.position())
            return
        if self._divider is not None:
            self._divide(self._divider.moved_to(event.position(), self.scale, self.scene))
            return
        at = self.dp_of(event.position())
        box = self.scene.at(at.x(), at.y())
        self.setCursor(cursor_over(box))
        if self.corner().contains(event.position()):
            self.setCursor(Qt.CursorShape.SizeFDiagCursor)
        if self._from is None:
            return
        moved = event.position() - self._from
        if not self._dragging and moved.manhattanLength() > DRAG_FROM:
            self._dragging = True
            self._held.stop()
        if self._dragging:
            self._from = event.position()
            self._scroll(self._entry, -moved.y() / self.scale)
            self._scroll_strip(at, -moved.x() / self.scale * self._onward)

    def _divide(self, event: Divide | None) -> None:
        if event is not None and self.session.phase == "running":
            self.do(event)

    def _drag_corner(self, at: QPointF) -> None:
        if self._corner is not None:
            start, (width, height), per_dp = self._corner
            moved = (at - start) / per_dp
            across = -moved.x() if self.scene.rtl else moved.x()
            resized(self.document, self.index, width + across, height + moved.y())

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._corner is not None or self._divider is not None:
            self._corner = self._divider = None
            return
        at = self.dp_of(event.position())
        box = self.scene.at(at.x(), at.y())
        was, self._from = self._pressed, None
        self._held.stop()
        if self._dragging:
            self._swipe(event.position() - self._began)
        elif box is not None and was == box:
            picks = by_press(self.document.wired, self.session, box, event.modifiers())
            if picks is not None:
                self.do(picks)
            else:
                self.press(box)

    def _swipe(self, moved: QPointF) -> None:
        """Across a detail that offers its neighbours: on to the next, or back (16)."""
        began = self.dp_of(self._began)
        across, down = abs(moved.x()) / self.scale, abs(moved.y()) / self.scale
        if across < SWIPES_FROM or down > across / 2 or self.scene.strip_at(began.x(), began.y()):
            return
        by: Literal[-1, 1] = 1 if moved.x() * self._onward < 0 else -1
        wanted = [each.does for each in self.scene.boxes if isinstance(each.does, Neighbour)]
        for event in wanted:
            if (event.entry, event.by) == (self._entry, by):
                self.do(event)

    def wheelEvent(self, event: QWheelEvent) -> None:
        at = self.dp_of(event.position())
        steps = event.pixelDelta().y() or event.angleDelta().y() / 120 * 90
        across = event.pixelDelta().x() or event.angleDelta().x() / 120 * 90
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            steps, across = 0, across or steps
        self._scroll_strip(at, -across / self.scale * self._onward)
        self._scroll(self.scene.entry_at(at.x(), at.y()), -steps / self.scale)
        event.accept()

    def _scroll(self, entry: int, by: float) -> None:
        if entry >= 0 and by and self.session.phase == "running":
            self.do(Scroll(entry=entry, by=by))

    def _scroll_strip(self, at: QPointF, by: float) -> None:
        strip = self.scene.strip_at(at.x(), at.y())
        if strip is not None and by and self.session.phase == "running":
            self.do(Scroll(entry=strip.entry, list=strip.part, by=by))

    def press(self, box: Box) -> None:
        """Do what a box does; one that takes text is opened for typing."""
        if box.kind in TAKES_TEXT:
            self._open_field(box)
        elif box.does is not None:
            self.do(box.does)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        if self._picks(key, event.modifiers()):
            return
        stop = self._stops.focused()
        if stop is not None and (divides := divided_by_key(stop.box, key, self.scene.rtl)):
            self._divide(divides)
            return
        if key == Qt.Key.Key_Left and event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self.do(Back())
        elif key == Qt.Key.Key_Right and event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self.do(Forward())
        elif event.modifiers() & Qt.KeyboardModifier.AltModifier and key in BESIDE:
            self.do(Neighbour(by=BESIDE[key]))
        elif (step := step_of(key, self.scene.rtl)) is not None:
            self.do(self._on_list(Move(to=step)))
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.do(self._on_list(Enter()))
        elif key == Qt.Key.Key_T and not event.modifiers():
            self.do(Turn())
        elif key == Qt.Key.Key_Escape and self.session.phase == "running":
            self.do(Back())
        else:
            super().keyPressEvent(event)

    def _picks(self, key: int, modifiers: Qt.KeyboardModifier) -> bool:
        """Whether a key picks rows of the list that keys move along."""
        row = self._list_at()
        if row is None:
            return False
        wired = self.document.wired
        events = tuple(by_key(wired, self.session, row, key, modifiers))
        for event in events:
            self.do(event)
            then = after_move(wired, self.session, row) if isinstance(event, Move) else None
            if then is not None:
                self.do(then)
        return bool(events)

    def _on_list(self, event: Move | Enter) -> Move | Enter:
        """An event for the list that keys move along."""
        box = self._list_at(isinstance(event, Move) and event.to in ("left", "right"))
        return event if box is None else replace(event, entry=box.entry, list=box.part)

    def _list_at(self, across: bool = False) -> Box | None:
        """The list that keys move along: the one used last, else the leftmost."""
        lists = self._stops.lists()
        if not lists:
            return None
        of_kind = [each for each in lists if self._is_strip(each) is across]
        lists = of_kind or lists
        focused = self._stops.focused()
        if focused is not None and focused.box.kind == "row":
            return focused.box
        return next((each for each in lists if each.entry == self._entry), lists[0])

    def _is_strip(self, row: Box) -> bool:
        session = self.session
        screen = session.entries[row.entry].screen if row.entry < len(session.entries) else ""
        listing = self.document.wired.listings.get(screen, {}).get(row.part)
        return listing is not None and listing.layout == "strip"

    def focus_on(self, stop: Stop) -> None:
        """A stop took the focus: keys that move go to its list from now on."""
        self._entry = stop.box.entry
        if stop.box.kind in TAKES_TEXT:
            self._open_field(stop.box)

    def _open_field(self, box: Box) -> None:
        self._field = box
        self._edit.setText("" if "hint" in box.state else box.text)
        self._edit.setPlaceholderText(box.name if box.kind == "search" else "")
        self._typed = None
        self._edit.setAccessibleName(box.name)
        self._place_field()
        self._edit.show()
        self._edit.setFocus()

    def _place_field(self) -> None:
        """Keep the line edit over its box, and gone when its box is."""
        if self._field is None:
            return
        same = (
            box
            for box in self.scene.boxes
            if box.kind == self._field.kind
            and (box.entry, box.part) == (self._field.entry, self._field.part)
        )
        box = next(same, None)
        if box is None:
            self._close_field()
            return
        self._field = box
        font = QFont(self.font())
        font.setPixelSize(max(9, round(14 * self.scale)))
        self._edit.setFont(font)
        self._edit.setGeometry(self.px_of(box))

    def _close_field(self) -> None:
        if self._field is not None:
            field, self._field = self._field, None
            if self._typed is not None:
                self._send(field, self._typed)
                self._typed = None
            had = self._edit.hasFocus()
            self._edit.hide()
            if had:
                self.setFocus()

    def _type(self, text: str) -> None:
        """Searches and drafts follow every key; a record changes once the typing is done."""
        if self._field is None:
            return
        if self._field.kind == "in place":
            self._typed = text
        else:
            self._send(self._field, text)

    def _send(self, box: Box, text: str) -> None:
        event = typed_into(self.document.wired, self.session, box, text)
        if event is not None:
            self.do(event)

    def eventFilter(self, watched: object, event: QEvent) -> bool:
        if watched is self._edit and isinstance(event, QKeyEvent):
            closes = (Qt.Key.Key_Escape, Qt.Key.Key_Return, Qt.Key.Key_Enter)
            if event.type() == QEvent.Type.KeyPress and event.key() in closes:
                if event.key() == Qt.Key.Key_Escape:
                    self._typed = None
                self._close_field()
                return True
            if event.type() == QEvent.Type.KeyPress and event.key() in (
                Qt.Key.Key_Down,
                Qt.Key.Key_Up,
            ):
                self.keyPressEvent(event)
                return True
        if watched is self._edit and event.type() == QEvent.Type.FocusOut:
            self._close_field()
        return False
