"""The window map: width across, height up; regions, breakpoints and windows to work on."""

from __future__ import annotations

from typing import Final

from PySide6.QtCore import QPointF, QRect, QRectF, QSize, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap
from PySide6.QtWidgets import QToolTip, QWidget

from cadena.desktop.document.bench_windows import resized
from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import Selection
from cadena.desktop.painting.theme import colour, theme
from cadena.desktop.stages.fit.paint import (
    Dot,
    Frame,
    dots_of,
    live_point,
    live_rect,
    paint_axes,
    paint_breakpoint,
    paint_live,
    paint_regions,
    paint_windows,
    paint_words,
    pill_of,
)
from cadena.desktop.stages.fit.selected import (
    Gap,
    SelectedArrangement,
    SelectedBreakpoint,
    SelectedWindow,
)
from cadena.model.app import App, NamedWindow
from cadena.model.edits.arrangements import Axis, moved_breakpoint, snapped
from cadena.model.windows import LARGEST, windows_of
from cadena.runs.window_plane import GAP, Breakpoint, Plane, plane_of

MOST: Final = (1400.0, 1300.0)
NEAR: Final = 6.0
SNAP: Final = 5.0
STEP: Final = 10.0
KEYS: Final = {
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Down: (0, -1),
    Qt.Key.Key_Up: (0, 1),
}


class WindowMap(QWidget):
    """Shows the plane of windows, and what a person drags on it."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setMinimumSize(320, 240)
        self.setAccessibleName("window map")
        self.folded = False
        self._ground: tuple[object, QPixmap] | None = None
        self._held: Breakpoint | None = None
        self._tried: App | None = None
        self._live = False
        self._shown_at = QRect()
        self._frame: tuple[object, Frame] | None = None
        self.fault = ""

    def sizeHint(self) -> QSize:
        return QSize(760, 520)

    @property
    def app(self) -> App:
        """The app as it is, or as it would be with the breakpoint that is being dragged."""
        return self._tried or self.document.app

    def plane(self, folded: bool | None = None) -> Plane:
        """The plane of the app's rules."""
        return plane_of(self.app.arrangements, self.folded if folded is None else folded)

    @property
    def frame(self) -> Frame:
        """Where the plane lies."""
        key = (self.app.windows, self.width(), self.height())
        if self._frame is None or self._frame[0] != key:
            self._frame = (key, self._framed())
        return self._frame[1]

    def _framed(self) -> Frame:
        sizes = [each.size for each in dots_of(windows_of(self.app))]
        most = tuple(
            max(least, *(size[n] * 1.06 for size in sizes)) for n, least in enumerate(MOST)
        )
        rect = QRectF(66, 28, max(80, self.width() - 66 - 56), max(80, self.height() - 28 - 42))
        return Frame(rect, (most[0], most[1]))

    def refresh(self) -> None:
        """Show the rules and the live window as they now are."""
        self.describe()
        self.update()

    def follow(self) -> None:
        """Show the live window where it is now; nothing else has changed."""
        now = live_rect(self.frame, self.document.session.window.size, self._live).toAlignedRect()
        self.update(now)
        self.update(self._shown_at)
        self._shown_at = now

    def describe(self) -> None:
        """Tell assistive technology where the live window is."""
        self.setAccessibleDescription(self._description())

    def _description(self) -> str:
        width, height = self.document.session.window.size
        plane = self.plane()
        at = plane.at(width, height)
        rule = "no arrangement" if at == GAP else plane.rules[at].title or plane.rules[at].id
        found = plane.breakpoints
        sizes = ", ".join(f"{e.axis} {e.at:g}" for e in found if e.axis != "shape")
        return (
            f"live window {width:g} by {height:g}, {rule}; breakpoints {sizes or 'none'}; "
            "arrows move the window, Page Up and Page Down select, plus and minus move a breakpoint"
        )

    @property
    def chosen(self) -> Selection:
        return self.document.selection

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        ratio = self.devicePixelRatioF()
        key = (self.app, self.folded, self.size(), self.chosen, theme().name, ratio)
        if self._ground is None or self._ground[0] != key:
            self._ground = (key, self._painted(ratio))
        painter.drawPixmap(0, 0, self._ground[1])
        size = self.document.session.window.size
        self._shown_at = live_rect(self.frame, size, self._live).toAlignedRect()
        paint_live(painter, self.frame, size, self._live)
        if self.hasFocus():
            painter.setPen(QPen(colour("ink"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(self.frame.rect.adjusted(-3, -3, 3, 3), 4, 4)

    def _painted(self, ratio: float) -> QPixmap:
        made = QPixmap(self.size() * ratio)
        made.setDevicePixelRatio(ratio)
        made.fill(colour("ground"))
        painter = QPainter(made)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        frame, plane = self.frame, self.plane()
        selected = self.chosen
        rules = [SelectedArrangement(each.id) for each in plane.rules]
        chosen = rules.index(selected) if selected in rules else None
        painter.setClipRect(frame.rect.adjusted(-1, -1, 1, 1))
        paint_regions(painter, frame, plane, chosen)
        painter.setClipping(False)
        paint_axes(painter, frame)
        taken: list[QRectF] = []
        dots = dots_of(windows_of(self.app))
        for dot in dots:
            at = frame.to_view(*dot.size)
            taken.append(QRectF(at.x() - 10, at.y() - 12, 96, 24))
        known = len(taken)
        live = live_rect(frame, self.document.session.window.size, False)
        taken.append(live)
        for region in plane.regions:
            paint_words(painter, frame, plane, region, taken)
        for breakpoint in plane.breakpoints:
            paint_breakpoint(
                painter, frame, breakpoint, SelectedBreakpoint.of(breakpoint) == selected
            )
        planes = (self.plane(folded=False), self.plane(folded=True))
        window = selected.window if isinstance(selected, SelectedWindow) else ""
        paint_windows(painter, frame, planes, dots, window, taken[known:])
        painter.end()
        return made

    def breakpoint_at(self, at: QPointF) -> Breakpoint | None:
        """The breakpoint whose pill or line lies under a point."""
        frame = self.frame
        for breakpoint in self.plane().breakpoints:
            pill = pill_of(frame, breakpoint)
            if pill is not None and pill.contains(at):
                return breakpoint
        width, height = frame.to_size(at)
        per_dp = frame.rect.width() / frame.most[0], frame.rect.height() / frame.most[1]
        for breakpoint in self.plane().breakpoints:
            n, other = (0, height) if breakpoint.axis == "width" else (1, width)
            away = abs((width, height)[n] - breakpoint.at) * per_dp[n]
            acts = any(span.start <= other < span.end for span in breakpoint.spans)
            if breakpoint.axis != "shape" and away < NEAR and acts and frame.rect.contains(at):
                return breakpoint
        return None

    def dot_at(self, at: QPointF) -> Dot | None:
        """The window whose dot lies under a point."""
        for dot in dots_of(windows_of(self.app)):
            if (self.frame.to_view(*dot.size) - at).manhattanLength() < 11:
                return dot
        return None

    def is_on_live(self, at: QPointF) -> bool:
        """Whether a point lies on the live window's point."""
        live = live_point(self.frame, self.document.session.window.size)
        return (live - at).manhattanLength() < 18

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        if self.is_on_live(at):
            self._live = True
            return
        dot = self.dot_at(at)
        if dot is not None:
            self.document.select(SelectedWindow(dot.of))
            return
        held = self.breakpoint_at(at)
        if held is not None:
            self._held = held
            self.document.select(SelectedBreakpoint.of(held))
            return
        if self.frame.rect.contains(at):
            found = self.plane().at(*self.frame.to_size(at))
            if found != GAP:
                rule = self.plane().rules[found]
                self.document.select(SelectedArrangement(rule.id))
            else:
                self.document.select(Gap())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._live:
            width, height = self.frame.to_size(at)
            self.drag_to(width, height)
        elif self._held is not None:
            self._drag_breakpoint(at, bool(event.modifiers() & Qt.KeyboardModifier.AltModifier))
        else:
            self._point_at(at)

    def _point_at(self, at: QPointF) -> None:
        each = self.breakpoint_at(at)
        shape = Qt.CursorShape.ArrowCursor
        if self.is_on_live(at) or self.dot_at(at) is not None:
            shape = Qt.CursorShape.PointingHandCursor
        elif each is not None:
            across = Qt.CursorShape.SizeHorCursor
            shape = across if each.axis == "width" else Qt.CursorShape.SizeVerCursor
        self.setCursor(shape)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._live = False
        held, tried = self._held, self._tried
        self._held = self._tried = None
        if held is not None and tried is not None and tried != self.document.app:
            at = self._ended_at
            self.document.edit(
                f"move breakpoint {held.at:g} to {at:g}",
                tried,
                SelectedBreakpoint(held.axis, at),
            )
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """A named window goes to the Bench."""
        dot = self.dot_at(event.position())
        if dot is not None:
            self.drag_to(*dot.size)

    def drag_to(self, width: float, height: float) -> None:
        """The live window has another size; the Bench follows."""
        several = self.document.sessions
        width, height = (min(each, float(LARGEST)) for each in (width, height))
        resized(self.document, several.live, width, height)

    def _drag_breakpoint(self, at: QPointF, freely: bool) -> None:
        held = self._held
        if held is None or held.axis == "shape":
            return
        n = 0 if held.axis == "width" else 1
        value = self.frame.to_size(at)[n]
        self.move_breakpoint(held, float(round(value)) if freely else self.snapped(held, value))
        if self.fault:
            QToolTip.showText(self.mapToGlobal(at.toPoint()), self.fault, self)

    def snapped(self, held: Breakpoint, value: float) -> float:
        """A size moved to a window's, to another breakpoint's, or to a whole ten."""
        n = 0 if held.axis == "width" else 1
        near = [each.size[n] for each in dots_of(windows_of(self.app))]
        near += [e.at for e in self.plane().breakpoints if e.axis == held.axis and e.at != held.at]
        frame = self.frame
        side = (frame.rect.width(), frame.rect.height())[n]
        return snapped(value, near, SNAP * frame.most[n] / side)

    def move_breakpoint(self, held: Breakpoint, to: float) -> None:
        """Try a breakpoint elsewhere; where that cannot be, the last good place holds."""
        axis: Axis = "width" if held.axis == "width" else "height"
        try:
            self._tried = moved_breakpoint(self.document.app, axis, held.at, to)
            self._ended_at, self.fault = to, ""
        except ValueError as error:
            self.fault = str(error)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        fine = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if key in KEYS:
            width, height = self.document.session.window.size
            step = 1.0 if fine else STEP
            dx, dy = KEYS[Qt.Key(key)]
            self.drag_to(max(1.0, width + dx * step), max(1.0, height + dy * step))
        elif key in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            self._step(1 if key == Qt.Key.Key_PageDown else -1)
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Minus):
            self._nudge((1 if key == Qt.Key.Key_Plus else -1) * (1.0 if fine else STEP))
        else:
            super().keyPressEvent(event)

    def things(self) -> list[Selection]:
        """Everything that can be selected: arrangements, breakpoints, windows."""
        found: list[Selection] = [SelectedArrangement(each.id) for each in self.app.arrangements]
        found += [SelectedBreakpoint.of(each) for each in self.plane().breakpoints]
        return found + [SelectedWindow(each.name) for each in windows_of(self.app)]

    def _step(self, by: int) -> None:
        things, now = self.things(), self.document.selection
        if things:
            at = things.index(now) + by if now in things else 0
            self.document.select(things[at % len(things)])

    def _nudge(self, by: float) -> None:
        held = breakpoint_selected(self.plane(), self.chosen)
        if held is None or held.axis == "shape":
            return
        self.move_breakpoint(held, held.at + by)
        tried, self._tried = self._tried, None
        if self.fault:
            self.document.failed.emit(self.fault)
        elif tried is not None:
            selection = SelectedBreakpoint(held.axis, held.at + by)
            self.document.edit(f"move breakpoint {held.at:g}", tried, selection)


def breakpoint_selected(plane: Plane, selection: Selection) -> Breakpoint | None:
    found = (each for each in plane.breakpoints if SelectedBreakpoint.of(each) == selection)
    return next(found, None)


def own_window(app: App, size: tuple[float, float]) -> NamedWindow:
    """A window of the person's own, under a name that is free."""
    taken = {each.name for each in windows_of(app)}
    number = next(n for n in range(1, 1000) if f"Own {n}" not in taken)
    return NamedWindow(name=f"Own {number}", width=size[0], height=size[1])
