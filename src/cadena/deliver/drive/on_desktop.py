"""Doing on the desktop what an event says, as a person would, and reading what an app shows."""

from __future__ import annotations

import base64
import json
import time
from typing import Any, Final

import msgspec
from msgspec import UNSET

from cadena.deliver.drive.accessibility import (
    CHECKED,
    FOCUSED,
    ITEMS,
    SELECTED,
    SHOWING,
    Element,
)
from cadena.deliver.drive.desktop_place import Place
from cadena.deliver.drive.gestures import Hand
from cadena.deliver.drive.reading import Reading, ReadPane, ReadRow
from cadena.deliver.drive.webdriver import Gone
from cadena.engine import events as do
from cadena.engine.session import Session
from cadena.engine.wired import WiredApp
from cadena.model.values import shown
from cadena.scene.identifiers import identifier

PANES: Final = ("pane", "slid", "modal", "popover")
WINDOWS: Final = frozenset({16, 23, 69})
"""Roles of windows: dialog, frame, window."""
CHECK_BOX: Final = 7
COMES_WITHIN: Final = 10.0
FOUND_WITHIN: Final = 1.0
PARTS: Final = (0.5, 0.25, 0.1, 0.75, 0.9)


class DesktopHand(Hand):
    """Drives one app on one desktop."""

    def __init__(self, app: WiredApp, place: Place) -> None:
        self.app = app
        self.place = place
        self.reads = place.listens
        self._size = (0.0, 0.0)
        self._seen: list[Element] = []

    # What it shows.

    def elements(self) -> list[Element]:
        """All elements that the app shows now."""
        self._seen = [] if self.place.app is None else self.reads.elements(self.place.app)
        return self._seen

    def read(self) -> Reading | None:
        if not self.place.is_running or self.place.app is None:
            return Reading(phase="killed")
        elements = self.elements()
        if not elements:
            return None
        said = self.reads.call_door("State")
        state: dict[str, Any] = json.loads(said) if said else {}
        window = window_of(elements)
        section = "" if window is None else window.told.partition(":")[2]
        panes = tuple(self._panes(elements, bool(state.get("rtl"))))
        question, passing = (
            next(iter(self.reads.said_of([e for e in elements if e.told == told])), None)
            for told in ("question", "passing")
        )
        focused = [e for e in elements if e.has(FOCUSED) and e.role not in ITEMS]
        return Reading(
            state.get("phase", "running"),
            state.get("section", section),
            state.get("address", UNSET),
            panes,
            question,
            passing or "",
            self._screen_with(elements, focused),
        )

    def faults(self) -> list[str]:
        """What the app says of itself where something goes wrong in it."""
        said = (self.place.folder / "said").read_text("utf-8", "replace")
        return [each for each in said.splitlines()[-1:] if "Traceback (most" in said]

    def picture(self) -> bytes:
        """What it looks like, as PNG; nothing of an app that has no door to say it by."""
        return base64.b64decode(self.reads.call_door("Picture") or "")

    def _screen_with(self, elements: list[Element], focused: list[Element]) -> str | None:
        """The screen in which an element is that has the focus."""
        by_ref = {each.ref: each for each in elements}
        for each in reversed(focused):
            at: Element | None = each
            while at is not None:
                name, _, rest = at.told.partition(":")
                if name in PANES and rest:
                    return rest.rpartition(":")[0]
                at = by_ref.get(at.parent) if at.parent != at.ref else None
        return None

    def _panes(self, elements: list[Element], rtl: bool) -> list[ReadPane]:
        edge = window_of(elements) or elements[0]
        made: list[ReadPane] = []
        for element in elements:
            place, _, rest = element.told.partition(":")
            if place in PANES and element.has(SHOWING):
                screen = rest.rpartition(":")[0] or None
                inside = inside_of(elements, element)
                right = edge.x + edge.width - element.x - element.width
                made.append(
                    ReadPane(
                        place,
                        screen,
                        float(right if rtl else element.x - edge.x),
                        float(element.width),
                        y=float(element.y - edge.y),
                        height=float(element.height),
                        **self._inside(element, inside),
                    )
                )
        return sorted(made, key=lambda each: (PANES.index(each.place), each.x, each.y))

    def _inside(self, pane: Element, inside: list[Element]) -> dict[str, Any]:
        lists = [each for each in inside if each.told.split(":")[0] == "list"]
        rows = {each.ref: [e for e in inside if e.parent == each.ref] for each in lists}
        seen = [
            (ReadRow(_part(part), row.told.partition(":")[2]), row)
            for part in lists
            for row in rows[part.ref]
            if row.told.startswith("row:") and _is_in(row, part)
        ]
        # In place of its title a screen may say something else: then its name is its title.
        titles = [e for e in inside if e.told == "title"] or [pane]
        back = next((e for e in inside if e.told.split(":")[0] == "back"), None)
        scroll = next((e for e in inside if e.told == "scroll"), None)
        fields = {
            element.told.partition(":")[2]: self._field(element)
            for element in inside
            if element.told.startswith("field:")
        }
        return {
            "title": next(iter(self.reads.said_of(titles)), ""),
            "back": None if back is None else back.told.partition(":")[2],
            "chosen": tuple(row for row, at in seen if at.has(SELECTED)),
            "picked": tuple(row for row, at in seen if at.has(CHECKED)),
            "shown": tuple(row for row, _ in seen),
            "rows": {
                _part(each): float(count)
                for each, count in zip(lists, self.reads.counts_of(lists), strict=True)
            },
            "fields": fields,
            "scrolled": None if scroll is None else self._scrolled(scroll),
        }

    def _scrolled(self, scroll: Element) -> float:
        return self.reads.value_of(scroll) if scroll.has(SHOWING) else 0.0

    def _field(self, field: Element) -> str:
        if field.role == CHECK_BOX:
            return "yes" if field.has(CHECKED) else "no"
        return self.reads.text_of(field)

    # Its life.

    def leave(self) -> None:
        self.place.kill()
        self.place.forget()

    def open(self, width: float, height: float) -> None:
        self._size = (width, height)
        self.place.start(width, height)
        self._awaited()

    def _awaited(self) -> None:
        until = time.monotonic() + COMES_WITHIN
        while time.monotonic() < until:
            if any(each.told.split(":")[0] in PANES for each in self.elements()):
                return
            time.sleep(0.02)

    # What is pressed.

    def find(
        self,
        what: str,
        name: str | None,
        value: str | None = None,
        on: do.On | None = None,
        row: Any = None,
        of: str | None = None,
    ) -> Any:
        """An element by its identifier, on a screen and a row; it may take a while to come.

        Raises:
            Gone: where it is not there.
        """
        until = time.monotonic() + FOUND_WITHIN
        # What was read when the last step was held against the engine is there still.
        elements = self._seen or self.elements()
        while True:
            try:
                return self._found(elements, what, name, value, on, row, of)
            except Gone:
                if time.monotonic() > until:
                    raise
                time.sleep(0.02)
                elements = self.elements()

    def _found(
        self,
        elements: list[Element],
        what: str,
        name: str | None,
        value: str | None,
        on: do.On | None = None,
        row: Any = None,
        of: Any = None,
    ) -> Element:
        inside = elements
        if on is not None:
            panes = [e for e in elements if e.told.partition(":")[2] == f"{on.screen}:{on.entry}"]
            inside = [] if not panes else inside_of(elements, panes[-1])
        inside = [each for each in inside if each.has(SHOWING)]
        if what in ("row", "list"):
            told = "list:" + (of or "")
            listed = next((e for e in inside if e.told in (told, told.rstrip(":"))), None)
            if what == "row" and listed is not None:
                told = f"row:{json.dumps(row, ensure_ascii=False)}"
                rows = (e for e in inside if e.parent == listed.ref and e.told == told)
                listed = next(rows, None)
            if listed is None:
                raise Gone(f"{told} is not there")
            return listed
        which = "" if value is None else value
        told = identifier(name or what, which, of, row)
        found = next((e for e in reversed(inside) if e.told == told), None)
        if found is None:
            raise Gone(f"{told} is not there")
        return found

    def press_element(self, element: Any, free: bool = False, *held: str) -> None:
        """A press in the middle of an element, or elsewhere in it where something lies over it.

        Raises:
            Gone: where all of it is covered.
        """
        elements = self._seen
        passing = [e for e in elements if e.told in ("passing", "undo", "put-away")]
        around = next((e for e in elements if e.ref == element.parent), element)
        x = element.x + element.width / 2
        for part in PARTS:
            y = element.y + element.height * part
            is_covered = element not in passing and any(e.holds(x, y) for e in passing)
            is_out = element.told.startswith("row:") and not around.holds(x, y)
            if not is_covered and not is_out:
                with self.reads.holding(*held):
                    self.reads.mouse(x, y, "b1c")
                return
        raise Gone("it is covered")

    def _press_key(self, name: str, *held: str) -> None:
        """A key of the keyboard, which goes to the window that is in front."""
        window = window_of(self._seen or self.elements())
        if window is not None:
            self.reads.focus(window)
        self.reads.key(name, *held)

    def tell(self, event: do.Event) -> None:
        text = msgspec.json.encode(event).decode()
        if self.reads.call_door("Tell", text) is None:
            raise Gone("the app takes no events")

    def _of_app(self, session: Session, event: do.Event) -> None:
        match event:
            case do.Back():
                self._press_key("right" if session.window.rtl else "left", "alt")
            case do.Forward():
                self._press_key("left" if session.window.rtl else "right", "alt")
            case do.Visit() | do.Turn():
                self.tell(event)
            case do.Kill():
                self.place.kill()
            case do.Restore():
                self.place.start(*self._size)
                self._awaited()
            case do.Relaunch():
                is_cold = self.place.is_running
                self.place.end()
                self.place.start(*session.window.size, *(() if is_cold else ("--cold",)))
                self._awaited()
            case _:
                super()._of_app(session, event)

    def _resize(self, session: Session, event: do.Resize) -> None:
        self.tell(event)

    def drag(self, element: Any, across: int, down: int) -> None:
        x, y = element.middle
        self.reads.mouse(x, y, "b1p")
        self.reads.mouse(x + across, y + down, "abs")
        self.reads.mouse(x + across, y + down, "b1r")

    def press_holding(self, key: str, element: Any) -> None:
        self.press_element(element, False, key)

    def pick(self, row: Any) -> None:
        self.press_holding("control", row)

    def key_on(self, listed: Any, name: str, *held: str) -> None:
        self.reads.focus(listed)
        self._press_key(name, *held)

    def order_at(self, at: int) -> Element:
        found = [each for each in self.elements() if each.told.startswith("order:")]
        if at >= len(found):
            raise Gone("the order is not there")
        return found[at]

    def _scroll(self, session: Session, event: do.Scroll) -> None:
        """By its bar, as assistive technology does; what scrolls across may have none."""
        is_across = (
            bool(event.list) and self.app.listings[event.screen][event.list].layout == "strip"
        )
        try:
            bar = self.find("scroll", "scroll", event.list if is_across else None, on=event)
        except Gone:
            if not is_across:
                raise
            self.tell(event)
            return
        self.reads.move_to(bar, round((event.to or 0.0) * session.window.text))

    def _search(self, session: Session, event: do.Search) -> None:
        self.reads.type_into(self.find("search", "search", event.list, on=event), event.text)

    def _type(self, session: Session, event: do.Type) -> None:
        text = "" if event.to is None else shown(event.to)
        key = json.dumps(event.to, ensure_ascii=False)
        try:
            told = f"{event.field}:{key}"
            choice = self._found(self.elements(), "choice", "choice", told, event)
        except Gone:
            pass
        else:
            self.press_element(choice)
            return
        try:
            field = self.find("field", "field", event.field, on=event)
        except Gone:
            self._empty(event)
            return
        if field.role != CHECK_BOX:
            self.reads.type_into(field, text)
        elif isinstance(event.to, bool) and event.to is not self._is_on(session, event):
            self.press_element(field)
        else:
            self.tell(event)

    def _outside(self, session: Session) -> None:
        """Beside what lies over the panes: at the edge of the window that it leaves free."""
        elements = self.elements()
        over = [
            element
            for element in elements
            if element.told.split(":")[0] in (*PANES[1:], "action", "order", "section")
        ]
        width, height = session.window.size
        for x, y in [(2.0, 2.0), (width - 3, height - 3), (width - 3, 2.0), (2.0, height - 3)]:
            if not any(each.holds(x, y) for each in over):
                self.reads.mouse(x, y, "b1c")
                return
        self.tell(do.CloseMenu() if session.menu is not None else do.PressOutside())


def window_of(elements: list[Element]) -> Element | None:
    """The window of an app: what says that it is one, or has the role of one."""
    is_one = (e for e in elements if e.told.split(":")[0] == "window" or e.role in WINDOWS)
    return next(is_one, None)


def inside_of(elements: list[Element], pane: Element) -> list[Element]:
    """All that is in an element."""
    refs = {pane.ref}
    found: list[Element] = []
    for element in elements:
        if element.parent in refs and element.ref not in refs:
            refs.add(element.ref)
            found.append(element)
    return found


def _part(listed: Element) -> str:
    return listed.told.partition(":")[2]


def _is_in(row: Element, listed: Element) -> bool:
    """Whether something of a row can be seen of its list."""
    across = row.x < listed.x + listed.width and row.x + row.width > listed.x
    down = row.y < listed.y + listed.height and row.y + row.height > listed.y
    return across and down and row.height > 0
