"""Doing in a browser what an event says, as a person would: presses, keys, wheel, back, reload."""

from __future__ import annotations

import json
import time
from typing import Any, Final

import msgspec

from cadena.deliver.drive.as_a_person import is_of_head, offers
from cadena.deliver.drive.reading import Reading, read
from cadena.deliver.drive.webdriver import KEYS, Browser, Gone, script
from cadena.engine import events as do
from cadena.engine.form_values import value_in
from cadena.engine.rules.display import display_of
from cadena.engine.rules.dividing import dividers_of
from cadena.engine.rules.lists import across_of, offset_of
from cadena.engine.rules.targets import target_of
from cadena.engine.rules.unsent import asking_write
from cadena.engine.session import Session
from cadena.engine.wired import WiredApp
from cadena.model.values import shown

FIND: Final = script("find")
TELL: Final = "document.dispatchEvent(new CustomEvent('cadena:event', { detail: arguments[0] }))"
PATHS: Final = "return document.documentElement.hasAttribute('data-under')"
MOVES_WITHIN: Final = 1.5
RESTS_WITHIN: Final = 5.0
"""How long what the wheel is turned over may take to move, in seconds."""
TURNS: Final = 4
COMES_WITHIN: Final = 10.0
"""How long an app may take to be there, in seconds."""
FOCUS: Final = "arguments[0].focus({ preventScroll: true })"


FOCUS_LIST: Final = (
    "const row = arguments[0].querySelector('.contents[tabindex=\"0\"]') ?? "
    "arguments[0].querySelector('.contents') ?? arguments[0];"
    "row.focus({ preventScroll: true })"
)
FOCUS_ROW: Final = (
    "(arguments[0].querySelector('.contents') ?? arguments[0]).focus({ preventScroll: true })"
)


class Hand:
    """Drives one app in one browser.

    Args:
        at: the address of the app, with what tells it that it is driven.
    """

    def __init__(self, app: WiredApp, browser: Browser, at: str) -> None:
        self.app = app
        self.browser = browser
        self.at = at

    def leave(self) -> None:
        """Leave the app, and let go of all that it has kept."""
        self.browser.go_to(self.at.split("?")[0].rsplit("/", 1)[0] + "/look.css")
        self.browser.run("localStorage.clear(); sessionStorage.clear();")

    def open(self, width: float, height: float) -> None:
        """The app anew, in a window of this size."""
        self.browser.size(width, height)
        self._come_to(self.at)

    def _come_to(self, address: str) -> None:
        self.browser.go_to(address)
        self._awaited()

    def _awaited(self) -> None:
        """Wait until the app is there: it may bring its records first."""
        until = time.monotonic() + COMES_WITHIN
        while time.monotonic() < until:
            if self.browser.run("return Boolean(document.querySelector('[data-app]'))"):
                self.browser.drawn()
                return
            time.sleep(0.02)

    def find(
        self,
        what: str,
        name: str | None,
        value: str | None = None,
        on: do.On | None = None,
        row: Any = None,
        of: str | None = None,
    ) -> Any:
        """An element by what it says of itself, on a screen and a row.

        Raises:
            Gone: where it is not there.
        """
        screen, entry = (None, None) if on is None else (on.screen, on.entry)
        key = None if row is None else json.dumps(row, ensure_ascii=False)
        return self.browser.element(FIND, what, name, value, screen, entry, of, key)

    def press(self, what: str, name: str, value: str | None = None, **where: Any) -> None:
        self.press_element(self.find(what, name, value, **where))

    def press_element(self, element: Any, free: bool = False) -> None:
        """A press on an element; only where it is in view already, where that is said.

        Raises:
            Gone: where it cannot be pressed.
        """
        if free:
            self.browser.press_where_free(element)
        else:
            self.browser.press(element)

    def read(self) -> Reading | None:
        """What the app shows, or none where it is no app that can be driven."""
        return read(self.browser)

    def faults(self) -> list[str]:
        """What has gone wrong in it, whatever it shows."""
        return self.browser.faults(self.at)

    def picture(self) -> bytes:
        """What it looks like, as PNG."""
        return self.browser.picture()

    def tell(self, event: do.Event) -> None:
        """Let happen what no person can do in the page itself."""
        self.browser.run(TELL, json.loads(msgspec.json.encode(event)))

    def take(self, session: Session, event: do.Event) -> None:
        """Do what an event says, in the state that a session is in.

        Raises:
            Gone: where what is to be pressed is not there.
        """
        try:
            self._take(session, event)
        except Gone:
            asks = asking_write(session, display_of(self.app, session))
            if session.removal is None and session.passing is None and asks is None:
                raise
            # It lies under what is said: a person would wait for that to go, or put it right.
            self.tell(event)

    def _take(self, session: Session, event: do.Event) -> None:
        match event:
            case do.Choose():
                row = self.find("row", None, on=event, of=event.list, row=event.key)
                # While rows are picked there is little room: a row may be taller than that.
                self.press_element(row, self._is_picking(session, event))
            case do.Act():
                self._act(session, event)
            case do.OpenField():
                self.press("open-field", "open-field", event.field, on=event)
            case do.Pick() | do.PickTo() | do.PickAll() | do.LetGo() | do.ActOnPicked():
                self._pick(session, event)
            case do.OpenMenu():
                if event.key is None:
                    self.press("order", "orders", event.list, on=event)
                else:
                    self.press("more", "more", on=event, of=event.list, row=event.key)
            case do.SortBy():
                self._sort(session, event)
            case do.Press():
                self.press("button", "button", event.button, on=event)
            case do.OpenFact():
                self.press("fact", "fact", event.fact, on=event)
            case do.ShowGroup():
                self.press("group", "group", event.title, on=event, of=event.list)
            case do.TurnPage():
                self.press("page", "page", event.to, on=event)
            case do.Scroll():
                self._scroll(session, event)
            case do.Search():
                self._search(session, event)
            case do.Type():
                self._type(session, event)
            case do.Move() | do.Enter():
                name = "enter" if isinstance(event, do.Enter) else event.to
                self._key(session, event, name)
            case do.Neighbour():
                self.press("neighbour", "neighbour", str(event.by), on=event)
            case do.Save():
                self.press("save", "save", on=event)
            case do.Cancel():
                self.press("cancel", "cancel", on=event)
            case do.Retry():
                self.press("retry", "retry", on=event)
            case do.Settle():
                self.press("settle", "settle", f"{event.take} {event.field}".strip(), on=event)
            case _:
                self._of_app(session, event)

    def _of_app(self, session: Session, event: do.Event) -> None:
        """What happens to the app as a whole."""
        match event:
            case do.Back():
                self.browser.back()
            case do.Forward():
                self.browser.forward()
            case do.Decide():
                self.press("answer", "answer", "yes" if event.yes else "no")
            case do.Undo():
                self.press("undo", "undo")
            case do.SendAgain() | do.GiveUp() | do.GoBackTo():
                self.press("unsent", "unsent", str(event.__struct_config__.tag))
            case do.PutAway():
                self.press("put-away", "put-away")
            case do.SlideList():
                self.press("slide", "slide")
            case do.Divide():
                self._divide(session, event)
            case do.OpenSections():
                self.press("sections", "open-sections")
            case do.PressOutside() | do.CloseMenu():
                self._outside(session)
            case do.GoTo() if self._is_in_bar(session, event.section):
                self.press("section", "section", event.section)
            case do.Visit() if self.browser.run(PATHS):
                # Typed, it would be another page: what an app of paths is told is where to go.
                self.tell(event)
            case do.Visit():
                path = event.address if event.address.startswith("/") else f"/{event.address}"
                self.browser.run("location.hash = arguments[0]", path)
            case do.Turn() if session.window.fold is None:
                self.browser.size(session.window.height, session.window.width)
            case do.Turn():
                self.tell(event)
                self.browser.size(session.window.height, session.window.width)
            case do.Resize():
                self._resize(session, event)
            case do.Restore():
                self.browser.reload()
                self._awaited()
            case do.Relaunch():
                self.browser.new_tab()
                self.browser.size(session.window.width, session.window.height)
                self._come_to(self.at)
            case do.Wake() if session.phase == "left":
                self.press("wake", "wake")
            case _:
                self.tell(event)

    def _divide(self, session: Session, event: do.Divide) -> None:
        """Drag a divider by so many whole pixels."""
        display = display_of(self.app, session)
        held = next(e for e in dividers_of(session, display) if e.pane == event.pane)
        is_down = display.arrangement.lie == "down"
        by = round(event.to - held.size) * (-1 if session.window.rtl and not is_down else 1)
        element = self.find("divider", "divider", str(event.pane))
        self.drag(element, *((0, by) if is_down else (by, 0)))

    def drag(self, element: Any, across: int, down: int) -> None:
        self.browser.drag(element, across, down)

    def _is_in_bar(self, session: Session, section: str) -> bool:
        bar = display_of(self.app, session).arrangement.bar
        shows = bar != "none" and (bar != "button" or session.sections_open)
        return shows and any(each.id == section for each in self.app.in_bar)

    def _resize(self, session: Session, event: do.Resize) -> None:
        window = session.window
        is_swapped = (event.width, event.height) == (window.height, window.width)
        if event.fold is not None or window.fold is not None or is_swapped:
            self.tell(event)
        self.browser.size(event.width, event.height)

    def _pick(
        self,
        session: Session,
        event: do.Pick | do.PickTo | do.PickAll | do.LetGo | do.ActOnPicked,
    ) -> None:
        """By its box, where the row shows one, else by the key that picks; several by Shift."""
        where: dict[str, Any] = {"on": event, "of": event.list}
        match event:
            case do.PickTo():
                self.press_holding("shift", self.find("row", None, row=event.key, **where))
            case do.Pick():
                self.pick(self.find("row", None, row=event.key, **where))
            case do.PickAll() if self._is_picking(session, event):
                self.press("pick-all", "pick-all", event.list, on=event)
            case do.PickAll():
                self.key_on(self.find("list", None, **where), "a", "control")
            case do.LetGo():
                self.press("let-go", "let-go", event.list, on=event)
            case do.ActOnPicked():
                self.press("act-on-picked", "act-on-picked", event.action, on=event)

    def press_holding(self, key: str, element: Any) -> None:
        """A press on an element while a key is held down."""
        self.browser.press_holding(key, element)

    def pick(self, row: Any) -> None:
        """Pick a row, or let it go."""
        self.browser.run(FOCUS_ROW, row)
        self.browser.type(KEYS["space"])

    def key_on(self, listed: Any, name: str, *held: str) -> None:
        """A key on a list: on the row that it is at, where that is there."""
        self.browser.run(FOCUS_LIST, listed)
        if held:
            self.browser.type_with_control(name)
        else:
            self.browser.type(KEYS[name])

    def _is_picking(self, session: Session, event: do.On) -> bool:
        return bool(session.entries[event.entry or 0].view.picked)

    def _act(self, session: Session, event: do.Act) -> None:
        part, _ = self.app.actions[event.screen][event.action]
        if session.menu is not None:
            self.press("action", "action", event.action)
        else:
            self.press("action", "action", event.action, on=event, of=part, row=event.key)

    def _sort(self, session: Session, event: do.SortBy) -> None:
        listing = self.app.listings[event.screen][event.list]
        index, area = target_of(self.app, session, display_of(self.app, session), event)
        if session.menu is None and is_of_head(self.app, session, index, area, event):
            self.press("head", "head", event.by[0].field, on=event, of=event.list)
            return
        if not offers(listing, event):
            self.tell(event)
            return
        orders = [(), *(each.sort for each in listing.orders)]
        self.press_element(self.order_at(orders.index(event.by)))

    def order_at(self, at: int) -> Any:
        """One of the orders in the menu of a list.

        Raises:
            Gone: where it is not there.
        """
        find = "return document.querySelectorAll('[data-order]')[arguments[1]] ?? null"
        return self.browser.element(find, "order", at)

    def _scroll(self, session: Session, event: do.Scroll) -> None:
        index, area = target_of(self.app, session, display_of(self.app, session), event)
        is_strip = (
            bool(event.list) and self.app.listings[event.screen][event.list].layout == "strip"
        )
        to = event.to or 0.0
        if is_strip:
            was = across_of(self.app, session, index, area.width, event.list)
            sign = -1 if session.window.rtl else 1
            by = round((to - was) * session.window.text) * sign
            self._wheel(self.find("strip", "across", event.list, on=event), by, 0)
        else:
            was = offset_of(self.app, session, index, area)
            by = round((to - was) * session.window.text)
            self._wheel(self.find("scroll", "scroll", on=event), 0, by)

    def _wheel(self, element: dict[str, str], across: int, down: int) -> None:
        """Turn the wheel until what is under it has gone so far: one turn may be lost, or late."""
        x, y = self._place(element)
        for _ in range(TURNS):
            now = self._place(element)
            left = round(x + across - now[0]), round(y + down - now[1])
            if left == (0, 0):
                return
            self.browser.wheel(element, *left)
            until = time.monotonic() + MOVES_WITHIN
            while self._place(element) == now and time.monotonic() < until:
                time.sleep(0.02)
            self._come_to_rest(element)
        if not self.browser.is_chromium:
            # Some drivers turn the wheel by other steps than they are told: the bar is pulled.
            bar = "arguments[0].scrollTo({ left: arguments[1], top: arguments[2] })"
            self.browser.run(bar, element, x + across, y + down)
            self._come_to_rest(element)

    def _place(self, element: dict[str, str]) -> tuple[float, float]:
        """How far an element is scrolled.

        Raises:
            Gone: where it does not say.
        """
        place = "return [arguments[0].scrollLeft, arguments[0].scrollTop]"
        found = self.browser.run(place, element)
        match found:
            case [int() | float() as across, int() | float() as down]:
                return across, down
        raise Gone("it does not say how far it is scrolled")

    def _come_to_rest(self, element: dict[str, str]) -> None:
        """Wait until nothing scrolls any more: some browsers take a while to come there."""
        now = None
        until = time.monotonic() + RESTS_WITHIN
        while (then := self._place(element)) != now and time.monotonic() < until:
            now = then
            self.browser.drawn()
            if not self.browser.is_chromium:
                time.sleep(0.1)

    def _search(self, session: Session, event: do.Search) -> None:
        field = self.find("search", "search", event.list, on=event)
        before = session.entries[event.entry or 0].view.search.get(event.list, "")
        if before and event.text.startswith(before):
            self.browser.run(FOCUS, field)
            self.browser.type(KEYS["end"] + event.text[len(before) :])
        else:
            self._type_into(field, event.text)

    def _type_into(self, field: dict[str, str], text: str) -> None:
        self.browser.run(FOCUS, field)
        self.browser.type_over(text)

    def _type(self, session: Session, event: do.Type) -> None:
        """Into its field, or by its switch, or one of its choices."""
        text = "" if event.to is None else shown(event.to)
        find = (
            "const pane = [...document.querySelectorAll('[data-pane]')].findLast((each) => "
            "each.dataset.screen === arguments[1]);"
            "const some = [...pane.querySelectorAll('[data-choice]')].filter((each) => "
            "each.dataset.choice === arguments[2]);"
            "return some.find((each) => each.dataset.key === arguments[3]) ?? "
            'pane.querySelector(`[data-field="${CSS.escape(arguments[2])}"]`)'
        )
        key = json.dumps(event.to, ensure_ascii=False)
        found = self.browser.element(find, "field", event.screen, event.field, key)
        kind = self.browser.run(
            "return arguments[0].hasAttribute('data-choice') ? 'choice' : "
            "arguments[0].hasAttribute('data-open-field') ? 'opens' : "
            "arguments[0].getAttribute('role') ?? ''",
            found,
        )
        if kind == "switch" and event.to is self._is_on(session, event):
            # It is so already, or nobody can make it so: a switch goes from one to the other.
            self.tell(event)
        elif kind == "switch" and not isinstance(event.to, bool):
            self.tell(event)
        elif kind == "opens":
            self._empty(event)
        elif kind:
            self.press_element(found)
        else:
            self._type_into(found, text)

    def _empty(self, event: do.Type) -> None:
        """A field that is filled from a list takes nothing else, and is emptied by its button."""
        try:
            if event.to not in (None, ""):
                raise Gone("it is filled from a list")
            self.press("empty", "empty", event.field, on=event)
        except Gone:
            self.tell(event)

    def _is_on(self, session: Session, event: do.Type) -> bool:
        entry = session.entries[event.entry or 0]
        return value_in(self.app, session, entry, event.field) is True

    def _key(self, session: Session, event: do.Move | do.Enter, name: str) -> None:
        listed = self.find("list", None, on=event, of=event.list)
        if session.window.rtl and name in ("left", "right"):
            name = "right" if name == "left" else "left"
        self.key_on(listed, name)

    def _outside(self, session: Session) -> None:
        """Beside what lies over the panes: at the edge of the window that it leaves free."""
        width, height = session.window.size
        places = [(2.0, 2.0), (width - 3, height - 3), (width - 3, 2.0), (2.0, height - 3)]
        find = (
            "const [x, y] = arguments; const there = document.elementFromPoint(x, y);"
            "return Boolean(there?.closest('.scrim, [data-outside]'))"
        )
        for x, y in places:
            if self.browser.run(find, x, y):
                self.browser.press_at(x, y)
                return
        self.tell(do.CloseMenu() if session.menu is not None else do.PressOutside())
