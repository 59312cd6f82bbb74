"""A session in the widgets of the toolkit: what is laid out stands in widgets that live on."""

from __future__ import annotations

from collections.abc import Hashable, Iterator
from typing import TYPE_CHECKING, Any, Final, NamedTuple

from PySide6.QtCore import QRect, QSignalBlocker, Qt, Signal
from PySide6.QtGui import QPalette
from PySide6.QtWidgets import QScrollBar, QWidget

from cadena.engine import events as do
from cadena.engine.layout.column import bars_of, column_of
from cadena.engine.layout.panes import Area
from cadena.engine.layout.sizes import EDGE, TILE_GAP
from cadena.engine.layout.table_columns import columns_shown
from cadena.engine.rules.back import back_label
from cadena.engine.rules.display import display_of, focus_of
from cadena.engine.rules.lists import across_of, offset_of, standing, strip_width, view_of
from cadena.engine.session import Session
from cadena.engine.wired import WiredApp
from cadena.native.pictures import Pictures
from cadena.native.rows import PAINTED, ColumnsView, Rows, RowsView, Shows
from cadena.native.widgets import Divider, Pressed, widget_of
from cadena.scene.identifiers import identifier, identifier_of
from cadena.scene.lay_out import lay_out
from cadena.scene.scene import Box, Scene, typed_into

if TYPE_CHECKING:
    from PySide6.QtGui import QHideEvent, QWheelEvent


AT_ROOT: Final = frozenset({
    "ground", "pane edge", "pane divider", "section bar", "section", "scrim", "layer", "menu",
    "menu item", "removed", "undo", "put away", "question", "off", "off words", "asleep"
})  # fmt: skip
"""What lies beside or over the screens, and is of none of them."""
IN_OVER: Final = frozenset({"menu item", "undo", "put away"})
HOLDS: Final = frozenset({"menu", "question", "removed"})
"""What lies over the screens, and holds what comes after it."""
BAR: Final = 12
"""How broad a scroll bar is, in px: it lies in the room that every screen leaves at its edge."""
BESIDE: Final = 7
"""How broad a divider is beside its edge, in px."""
A_STEP: Final = 90.0
"""How far one step of a wheel scrolls, in dp."""


class Placed(NamedTuple):
    """A box with the widget it stands in, and what tells it there."""

    box: Box
    holder: QWidget
    at: tuple[float, float]
    key: Hashable


class Pane(QWidget):
    """A screen: what stands still of it, and what it scrolls."""

    scrolled = Signal(int, float)

    def __init__(self, place: str, parent: QWidget) -> None:
        super().__init__(parent)
        self.place = place
        self.entry = -1
        self.top = 0.0
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setAutoFillBackground(True)
        self.setBackgroundRole(QPalette.ColorRole.Base)
        self.body = Body(self)
        self.bar = QScrollBar(Qt.Orientation.Vertical, self)
        self.bar.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.bar.valueChanged.connect(self._moved)
        self._unit = 1.0

    def accessible_kind(self) -> str:
        return self.place

    def wheelEvent(self, event: QWheelEvent) -> None:
        by = event.pixelDelta().y() / self._unit or event.angleDelta().y() / 120 * A_STEP
        if self.bar.isVisible() and by:
            self.bar.setValue(self.bar.value() - round(by * self._unit))
        event.accept()

    def _moved(self, value: int) -> None:
        self.scrolled.emit(self.entry, value / self._unit)

    def show_scroll(
        self, area: QRect, offset: float, total: float, height: float, unit: float
    ) -> None:
        self._unit = unit
        show_scroll(self.bar, area, offset, total, height, unit)


def show_scroll(
    bar: QScrollBar, area: QRect, offset: float, total: float, seen: float, unit: float
) -> None:
    """How far something is scrolled, of how much; all in dp but for the place of the bar, in
    px."""
    bar.setVisible(total > seen > 0)
    bar.setGeometry(area)
    with QSignalBlocker(bar):
        bar.setRange(0, max(0, round((total - seen) * unit)))
        bar.setPageStep(max(1, round(seen * unit)))
        bar.setSingleStep(round(40 * unit))
        bar.setValue(round(offset * unit))


class Body(QWidget):
    """What of a screen scrolls: it cuts what it holds."""


class Strip(RowsView):
    """Tiles side by side, that scroll across."""

    scrolled = Signal(str, float)

    def __init__(self, pictures: Pictures, parent: QWidget) -> None:
        super().__init__(pictures, parent)
        self.bar = QScrollBar(Qt.Orientation.Horizontal, parent)
        self.bar.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.bar.valueChanged.connect(self._moved)
        self.destroyed.connect(self.bar.deleteLater)

    def show_scroll(self, offset: float, total: float, width: float) -> None:
        """How far it is scrolled, of how much, in dp; its bar lies under it."""
        shows = self.rows.shows
        if shows is not None:
            place = self.geometry()
            area = QRect(place.left(), place.bottom() + 1, place.width(), BAR)
            self.bar.setAccessibleIdentifier(identifier("scroll", shows.part))
            show_scroll(self.bar, area, offset, total, width, shows.unit)

    def _moved(self, value: int) -> None:
        shows = self.rows.shows
        if shows is not None:
            self.scrolled.emit(shows.part, value / shows.unit)

    def hideEvent(self, event: QHideEvent) -> None:
        self.bar.hide()

    def wheelEvent(self, event: QWheelEvent) -> None:
        delta = event.angleDelta()
        has_shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        across = delta.x() or (delta.y() if has_shift else 0)
        shows = self.rows.shows
        if not across or shows is None:
            super().wheelEvent(event)
            return
        by = -across / 120 * A_STEP * shows.unit * (-1 if shows.rtl else 1)
        self.bar.setValue(self.bar.value() + round(by))


class Shown(QWidget):
    """All of an app in one widget. ``did`` says each event that a person lets happen."""

    did = Signal(object)

    def __init__(self, pictures: Pictures, driven: bool, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.pictures = pictures
        self.driven = driven
        self.app: WiredApp | None = None
        self.session: Session | None = None
        self.scene = Scene(1, 1, ())
        self._widgets: dict[Hashable, Any] = {}
        self._panes: dict[str, Pane] = {}
        self._order: list[Any] = []
        self._is_showing = False

    def show_session(self, app: WiredApp, session: Session) -> None:
        """Show what is so now."""
        self.app, self.session = app, session
        is_dividing = isinstance(self.focusWidget(), Divider)
        self.scene = lay_out(app, session, session.window)
        way = Qt.LayoutDirection
        turned = way.RightToLeft if session.window.rtl else way.LeftToRight
        if self.layoutDirection() != turned:
            self.setLayoutDirection(turned)
        self._is_showing = True
        kept: dict[Hashable, Any] = {}
        order: list[Any] = []
        rows: dict[tuple[Pane, str, tuple[float, float]], dict[Any, list[Box]]] = {}
        shown: dict[str, Pane] = {}
        for placed in self._placed(shown, rows, order, kept):
            self._show_box(placed, kept, order)
        for (pane, part, origin), boxes in rows.items():
            self._show_rows(pane, part, origin, boxes, kept, order)
        for key, widget in self._widgets.items():
            if key not in kept:
                widget.hide()
                widget.deleteLater()
        for name, pane in self._panes.items():
            if name not in shown:
                pane.hide()
                pane.deleteLater()
        is_same = order == self._order and shown.keys() == self._panes.keys()
        self._widgets, self._panes, self._order = kept, shown, order
        if not is_same:
            self._stack()
        self._is_showing = False
        self._focus_there(is_dividing)

    def lists(self) -> list[Rows]:
        """The lists that are shown, in order."""
        return [each for each in self._order if isinstance(each, Rows)]

    # Where boxes stand.

    def _placed(
        self,
        shown: dict[str, Pane],
        rows: dict[tuple[Pane, str, tuple[float, float]], dict[Any, list[Box]]],
        order: list[Any],
        made: dict[Hashable, Any],
    ) -> Iterator[Placed]:
        """Each box with what it stands in, and its screen in the order before it; those of rows
        are gathered by their list. What has been yielded before is ``made`` by then."""
        pane: Pane | None = None
        over: Placed | None = None
        place, numbers = "pane", dict[Hashable, int]()
        origin = (0.0, 0.0)
        for box in self.scene.boxes:
            if box.kind == "screen":
                pane = self._pane(box, place, shown)
                order.append(pane)
                origin, place, over = (box.x, box.y), "pane", None
                continue
            is_at_root = box.kind in AT_ROOT
            if is_at_root:
                if box.kind == "layer":
                    place = next(iter(box.state), "modal")
                pane = None if box.kind != "pane edge" else pane
                if box.kind not in IN_OVER:
                    over = None
            if is_at_root or pane is None:
                holder: QWidget = self if over is None else made[over.key]
                at = (0.0, 0.0) if over is None else (over.box.x, over.box.y)
            elif box.clip is not None:
                if box.kind == "divider":
                    continue
                holder, at = pane.body, (origin[0], origin[1] + pane.top)
                if box.key is not None and (box.kind == "row" or box.kind in PAINTED):
                    of = rows.setdefault((pane, box.part, at), {})
                    of.setdefault(box.key, []).append(box)
                    continue
            elif box.kind == "strip":
                continue
            else:
                holder, at = pane, origin
            told = (id(holder), box.kind, box.entry, box.part, box.key, identifier_of(box))
            number = numbers[told] = numbers.get(told, -1) + 1
            placed = Placed(box, holder, at, (*told, number))
            yield placed
            if box.kind in HOLDS:
                over = placed

    def _pane(self, box: Box, place: str, shown: dict[str, Pane]) -> Pane:
        assert self.app is not None
        assert self.session is not None
        name = f"{place} {len(shown)}" if place == "pane" else place
        pane = self._panes.get(name)
        if pane is None:
            pane = Pane(place, self)
            pane.scrolled.connect(self._scroll)
        shown[name] = pane
        pane.entry = box.entry
        self._place(pane, box, (0.0, 0.0))
        pane.setAccessibleName(box.name)
        session, entries = self.session, self.session.entries
        screen = entries[box.entry].screen if 0 <= box.entry < len(entries) else ""
        told = f"{screen}:{box.entry}" if screen else ""
        pane.setAccessibleIdentifier(identifier(place, told))
        if screen:
            self._place_scroll(pane, box, self.app, session)
        else:
            pane.bar.hide()
        pane.show()
        return pane

    def _place_scroll(self, pane: Pane, box: Box, app: WiredApp, session: Session) -> None:
        """The bar of a screen that scrolls, at its edge."""
        entry, unit = session.entries[box.entry], self.scene.text
        area = Area(0.0, 0.0, box.width, box.height)
        width, height = view_of(app, entry, area)
        column = column_of(app, session, entry, width)
        top = bars_of(app.screens.get(entry.screen), box.width, bool(entry.view.picked)).top
        x = 0.0 if session.window.rtl else box.width - BAR / unit
        at = QRect(round(x * unit), round(top * unit), BAR, max(0, round(height * unit)))
        pane.top = top
        self._place(pane.body, Box("", 0.0, top, box.width, height), (0.0, 0.0))
        real = display_of(app, session).area_of(box.entry) or area
        offset = offset_of(app, session, box.entry, real, column)
        pane.bar.setAccessibleIdentifier(identifier("scroll"))
        pane.show_scroll(at, offset, column.total, height, unit)

    def _place(self, widget: QWidget, box: Box, origin: tuple[float, float]) -> None:
        unit = self.scene.text
        left, top = round((box.x - origin[0]) * unit), round((box.y - origin[1]) * unit)
        right = round((box.x + box.width - origin[0]) * unit)
        bottom = round((box.y + box.height - origin[1]) * unit)
        widget.setGeometry(left, top, max(0, right - left), max(0, bottom - top))

    def _show_box(self, placed: Placed, kept: dict[Hashable, Any], order: list[Any]) -> None:
        box, holder, at, key = placed
        widget = self._widgets.get(key)
        if widget is None:
            widget = widget_of(box, self._do, self._type, self.pictures, holder)
            if widget is None:
                return
        kept[key] = widget
        order.append(widget)
        told = box, self.scene.text, self.scene.rtl
        if getattr(widget, "shown_as", None) != told:
            widget.show_box(box, self.scene.text)
            widget.shown_as = told
        if box.kind == "back" and self.app is not None and self.session is not None:
            label = back_label(self.app, self.session) or ""
            widget.setAccessibleIdentifier(identifier("back", label))
        elif box.kind.startswith("title") and box.entry >= 0:
            # What stands before it says what its ground says, to who does not see that.
            widget.setAccessibleName(self._title_of(box.entry) or box.text)
        self._place(widget, box, at)
        if isinstance(widget, Divider) and "across" in box.state:
            # Beside the bar that the screen before it scrolls by, and not over it.
            edge = round((box.x + box.width / 2 - at[0]) * self.scene.text)
            left = edge - BESIDE if self.scene.rtl else edge
            widget.setGeometry(left, widget.y(), BESIDE, widget.height())
        widget.show()

    def _title_of(self, index: int) -> str:
        if self.app is None or self.session is None or index >= len(self.session.entries):
            return ""
        return self.app.title_of(self.session, self.session.entries[index])

    # Rows.

    def _show_rows(
        self,
        pane: Pane,
        part: str,
        origin: tuple[float, float],
        boxes: dict[Any, list[Box]],
        kept: dict[Hashable, Any],
        order: list[Any],
    ) -> None:
        """One list of a screen, from the boxes of its rows in view."""
        app, session = self.app, self.session
        assert app is not None
        assert session is not None
        index, entry = pane.entry, session.entries[pane.entry]
        listed = app.listed(session, entry, part)
        if listed is None:
            return
        first = next(iter(boxes.values()))[0]
        clip = first.clip or Area(first.x, first.y, first.width, first.height)
        is_strip = listed.listing.layout == "strip"
        is_picking = bool(entry.view.picked.get(part))
        columns = tuple(columns_shown(listed.listing, clip.width, is_picking))
        kind = Strip if is_strip else ColumnsView if columns else RowsView
        key = ("rows", id(pane), index, entry.screen, part, kind)
        view = self._widgets.get(key)
        if view is None:
            view = kind(self.pictures, pane.body)
            view.did.connect(self._do)
            view.wheeled.connect(pane.wheelEvent)
            if isinstance(view, Strip):
                view.scrolled.connect(lambda of, to, at=pane: self._scroll_across(at, of, to))
        kept[key] = view
        last = max((n for n, e in enumerate(order) if pane.isAncestorOf(e)), default=-1)
        order.insert(last + 1, view)
        top = min(max(clip.y, each[0].y) for each in boxes.values())
        bottom = max(each[0].y + each[0].height for each in boxes.values())
        inner = Box("", clip.x, top, clip.width, min(bottom, clip.y + clip.height) - top)
        self._place(view, inner, origin)
        here = standing(app, session, index, part)
        at = None if here is None else listed.rows.index_of(here)
        shows = Shows(
            index, entry.screen, part, listed, app.say(listed.listing.source), boxes,
            (inner.x, inner.y), self.scene.text,
            self._rect_of_row(app, session, index, part, inner, clip), columns,
            at, (entry.screen, part) in app.with_several, bool(listed.listing.actions),
            session.window.rtl, self.driven,
        )  # fmt: skip
        view.setAccessibleName(listed.listing.source)
        view.setAccessibleIdentifier(identifier("list", part) if part else "list:")
        view.show_rows(shows)
        view.show()
        if isinstance(view, Strip):
            offset = across_of(app, session, index, clip.width, part)
            view.show_scroll(offset, strip_width(listed), clip.width)

    def _rect_of_row(
        self, app: WiredApp, session: Session, index: int, part: str, inner: Box, clip: Area
    ) -> Any:
        """Where any row of a list lies in its view, in px."""
        entry, unit = session.entries[index], self.scene.text
        area = display_of(app, session).area_of(index) or clip
        # Of two columns side by side, what is cut is narrower than all that is laid out.
        column = column_of(app, session, entry, view_of(app, entry, area)[0])
        segment = column.lists[part]
        offset = offset_of(app, session, index, area, column)
        above = clip.y + segment.top - offset - inner.y
        listed, stack, rtl = segment.listed, segment.stack, session.window.rtl

        def rect(at: int) -> QRect:
            if listed is None:
                return QRect()
            if stack is not None:
                place = stack.place(at, clip.width)
                x, y, width, height = place.x, place.y, place.width, place.height
            else:
                each = listed.listing.tile + TILE_GAP
                x = EDGE + at * each - across_of(app, session, index, clip.width, part)
                y, width, height = 0.0, listed.listing.tile, segment.height - TILE_GAP
            x = clip.width - x - width if rtl else x
            return QRect(
                round(x * unit),
                round((above + y) * unit),
                round(width * unit),
                round(height * unit),
            )

        return rect

    # What a person does.

    def _do(self, event: do.Event) -> None:
        if not self._is_showing:
            self.did.emit(event)

    def _type(self, box: Box, text: str) -> None:
        if self.app is None or self.session is None or self._is_showing:
            return
        event = typed_into(self.app, self.session, box, text)
        if event is not None:
            self.did.emit(event)

    def _scroll(self, entry: int, to: float) -> None:
        if self.session is not None and entry < len(self.session.entries):
            screen = self.session.entries[entry].screen
            self._do(do.Scroll(screen=screen, entry=entry, to=to))

    def _scroll_across(self, pane: Pane, part: str, to: float) -> None:
        if self.session is not None and pane.entry < len(self.session.entries):
            screen = self.session.entries[pane.entry].screen
            self._do(do.Scroll(screen=screen, entry=pane.entry, list=part, to=to))

    # Order and focus.

    def _stack(self) -> None:
        """What comes later lies over what comes before; the keyboard goes along in that order."""
        for widget in self._order:
            if isinstance(widget, Rows):
                widget.lower()
            else:
                widget.raise_()
        for pane in self._panes.values():
            pane.bar.raise_()
        before: QWidget | None = None
        for widget in self._order:
            if _is_stop(widget):
                if before is not None:
                    QWidget.setTabOrder(before, widget)
                before = widget

    def _focus_there(self, is_dividing: bool) -> None:
        """The focus is on the screen that has it, or on what lies over it."""
        if self.app is None or self.session is None:
            return
        now = self.focusWidget()
        asks = self.session.menu is not None or self.session.question is not None
        over = [e for e in self._order if asks and (_is_in_menu(e) or self._answers(e))]
        if over:
            if now not in over:
                over[0].setFocus()
            return
        index = focus_of(self.app, self.session)
        pane = next((e for e in reversed(self._panes.values()) if e.entry == index), None)
        if pane is None:
            return
        is_there = now is not None and now.isVisible() and now.isEnabled()
        if now is not None and is_there and (pane.isAncestorOf(now) or is_dividing):
            return
        inside = [e for e in self._order if pane.isAncestorOf(e) and _is_stop(e)]
        lists = [each for each in inside if isinstance(each, Rows)]
        lists.sort(key=lambda each: each.accessibleIdentifier() != "list:")
        wanted = next(iter(lists), None) or next((e for e in inside if e.isEnabled()), None)
        (pane if wanted is None else wanted).setFocus()

    @staticmethod
    def _answers(widget: Any) -> bool:
        return isinstance(widget, Pressed) and isinstance(widget.box.does, do.Decide)


def _is_stop(widget: QWidget) -> bool:
    """Whether the keyboard goes there."""
    return bool(widget.focusPolicy() & Qt.FocusPolicy.TabFocus)


def _is_in_menu(widget: QWidget) -> bool:
    return isinstance(widget, Pressed) and widget.box.kind == "menu item"
