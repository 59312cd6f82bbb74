"""The tree of accessible elements of an app, over D-Bus: AT-SPI 2, as the Linux desktop has it."""

from __future__ import annotations

import contextlib
import re
from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, Any, Final, NamedTuple

from cadena.deliver.drive.webdriver import Gone
from cadena.model.problem import Problem

if TYPE_CHECKING:
    from jeepney import Message
    from jeepney.io.blocking import DBusConnection

Ref = tuple[str, str]
"""The name on the bus, and the path, of an element."""
ACCESSIBLE: Final = "org.a11y.atspi.Accessible"
COMPONENT: Final = "org.a11y.atspi.Component"
TEXT: Final = "org.a11y.atspi.Text"
EDITABLE: Final = "org.a11y.atspi.EditableText"
VALUE: Final = "org.a11y.atspi.Value"
TABLED: Final = "org.a11y.atspi.Table"
CONTROLLER: Final = "org.a11y.atspi.DeviceEventController"
REGISTRY: Final = "org.a11y.atspi.Registry"
ROOT: Final = "/org/a11y/atspi/accessible/root"
CHECKED, FOCUSED, SELECTED, SHOWING = 4, 12, 23, 25
"""Bits of a state (AT-SPI 2, StateType)."""
PRESSED, RELEASED, SYMBOL = 0, 1, 3
"""What becomes of a key (AT-SPI 2, KeySynthType)."""
HELD: Final = {"shift": 50, "control": 37, "alt": 64}
"""The codes of keys that are held down, on the keyboard of a virtual display."""
SYMBOLS: Final = {
    "up": 0xFF52,
    "down": 0xFF54,
    "left": 0xFF51,
    "right": 0xFF53,
    "home": 0xFF50,
    "end": 0xFF57,
    "page up": 0xFF55,
    "page down": 0xFF56,
    "enter": 0xFF0D,
    "space": 0x20,
    "escape": 0xFF1B,
}
"""X11 keysyms."""
ANSWERS_WITHIN: Final = 10.0
MANY: Final = 12
"""Children of a list of which not all are read: those in view are looked for."""
AT_ONCE: Final = 12
PROBES: Final = 8
DEEPEST: Final = 60


class Element(NamedTuple):
    """An accessible element: what it says of itself, and where it is on the screen, in px.

    ``told`` is its accessible identifier, or its description where a toolkit gives the items of a
    view none.
    """

    ref: Ref
    parent: Ref
    told: str
    role: int
    states: int
    x: int
    y: int
    width: int
    height: int

    def has(self, state: int) -> bool:
        return bool(self.states >> state & 1)

    @property
    def middle(self) -> tuple[float, float]:
        return self.x + self.width / 2, self.y + self.height / 2

    def holds(self, x: float, y: float) -> bool:
        return self.x <= x < self.x + self.width and self.y <= y < self.y + self.height


TABLE: Final = 55
LISTS: Final = frozenset({31, 98, TABLE})
"""Roles of what has rows: list, list box, table."""
ITEMS: Final = frozenset({32, 56})
LEAVES: Final = frozenset({7, 29, 43, 44, 48, 62, *ITEMS})
"""Roles of what holds nothing that is looked for: items, buttons, boxes, labels, bars."""
FRAMES: Final = frozenset({16, 23, 69, 75})
"""Roles of windows, and of the app itself."""
ORDER: Final = ("Description", "GetState", "GetExtents", "GetChildren")
NAMED: Final = re.compile(r"[a-z-]+(?:[:@]|$)")


class Accessibility:
    """Reads and presses through the accessibility bus.

    Args:
        address: that of the session's bus.
    """

    def __init__(self, address: str) -> None:
        from jeepney import DBusAddress, Properties

        self.session = _connected(address)
        self._roles: dict[Ref, int] = {}
        bus = DBusAddress("/org/a11y/bus", "org.a11y.Bus", "org.a11y.Bus")
        status = DBusAddress("/org/a11y/bus", "org.a11y.Bus", "org.a11y.Status")
        # Toolkits say nothing of themselves as long as nobody listens.
        self._send(self.session, [Properties(status).set("IsEnabled", "b", True)])
        found = self._send(self.session, [self._asks(bus, "GetAddress")])[0]
        if found is None:
            raise Problem("the desktop", "", "nothing is accessible", "at-spi2-core")
        self.bus = _connected(found[0])

    def close(self) -> None:
        for connection in (self.bus, self.session):
            with contextlib.suppress(OSError):
                connection.close()

    # Calls.

    def _asks(self, of: Any, method: str, signature: str | None = None, body: Any = ()) -> Message:
        from jeepney import new_method_call

        made: Message = new_method_call(of, method, signature, body)
        return made

    def _send(self, bus: DBusConnection, messages: Sequence[Message]) -> list[Any]:
        """The answers to some calls, made all at once; none for each that was refused."""
        from jeepney import HeaderFields, MessageType

        serials = [next(bus.outgoing_serial) for _ in messages]
        numbers = {serial: at for at, serial in enumerate(serials)}
        answers: list[Any] = [None] * len(messages)
        try:
            made = zip(messages, serials, strict=True)
            bus.sock.sendall(b"".join(message.serialise(serial) for message, serial in made))
            while numbers:
                came = bus.receive(timeout=ANSWERS_WITHIN)
                at = numbers.pop(came.header.fields.get(HeaderFields.reply_serial, -1), -1)
                if at >= 0 and came.header.message_type == MessageType.method_return:
                    answers[at] = came.body
        except (TimeoutError, OSError, EOFError):
            said = "it does not answer"
            raise Problem("the app", "", said, "an app that can be driven") from None
        return answers

    def ask(self, calls: Sequence[tuple[Ref, str, str, str | None, tuple[Any, ...]]]) -> list[Any]:
        """The answers of elements to some calls: element, interface, method, signature, body."""
        from jeepney import DBusAddress

        messages = [
            self._asks(DBusAddress(ref[1], ref[0], of), method, signature, body)
            for ref, of, method, signature, body in calls
        ]
        return self._send(self.bus, messages)

    def _get(self, ref: Ref, of: str, name: str) -> tuple[Ref, str, str, str, tuple[str, str]]:
        return ref, "org.freedesktop.DBus.Properties", "Get", "ss", (of, name)

    # Reading.

    def apps(self) -> list[Ref]:
        """The apps that say what they show."""
        self._roles.clear()
        found = self.ask([((REGISTRY, ROOT), ACCESSIBLE, "GetChildren", None, ())])[0]
        return [tuple(each) for each in found[0]] if found else []

    def elements(self, root: Ref) -> list[Element]:
        """All that an app shows, each before what is in it; of long lists, the rows in view."""
        inside: dict[Ref, list[Element]] = {}
        level: list[tuple[Ref, Ref]] = [(root, root)]
        for _ in range(DEEPEST):
            if not level:
                break
            read, level = self._read(level)
            for element in read:
                inside.setdefault(element.parent, []).append(element)
                if element.role in LISTS:
                    inside[element.ref] = self._rows_of(element)
        found: list[Element] = []
        todo = [each for each in reversed(inside.get(root, [])) if each.ref == root]
        while todo:
            each = todo.pop()
            found.append(each)
            todo += [e for e in reversed(inside.get(each.ref, [])) if e.ref != each.ref]
        return found

    def _read(self, some: Sequence[tuple[Ref, Ref]]) -> tuple[list[Element], list[tuple[Ref, Ref]]]:
        """What elements say of themselves, and what is in them, each with what it is in.

        Those that are gone by then are left out. Of what nobody has given an identifier, only its
        role is asked for; of a list, nothing that is in it.
        """
        told = self.ask([self._get(ref, ACCESSIBLE, "AccessibleId") for ref, _ in some])
        self._know_roles([ref for ref, _ in some])
        made = [
            Element(ref, parent, _value(name, ""), self._roles[ref], 0, 0, 0, 0, 0)
            for (ref, parent), name in zip(some, told, strict=True)
            if ref in self._roles
        ]
        calls: list[Any] = []
        for element in made:
            calls += self._more_of(element)
        answers = iter(self.ask(calls))
        level: list[tuple[Ref, Ref]] = []
        for at, each in enumerate(made):
            asked = {call[2] if call[2] != "Get" else "Description" for call in self._more_of(each)}
            came = {name: next(answers) for name in ORDER if name in asked}
            if came.get("Description"):
                each = each._replace(told=_value(came["Description"], "") or each.told)
            if came.get("GetState"):
                low, high = came["GetState"][0]
                each = each._replace(states=low | high << 32)
            if came.get("GetExtents"):
                x, y, width, height = came["GetExtents"][0]
                each = each._replace(x=x, y=y, width=width, height=height)
            level += [(tuple(ref), each.ref) for ref in (came.get("GetChildren") or [[]])[0]]
            made[at] = each
        return made, level

    def _know_roles(self, refs: Sequence[Ref]) -> None:
        """What an element is, it stays."""
        new = [each for each in refs if each not in self._roles]
        found = self.ask([(each, ACCESSIBLE, "GetRole", None, ()) for each in new])
        self._roles |= {ref: role[0] for ref, role in zip(new, found, strict=True) if role}

    def _more_of(self, element: Element) -> list[Any]:
        """What else is asked of an element, in the order of ``ORDER``."""
        ref, role = element.ref, element.role
        is_named = NAMED.match(element.told) or role in FRAMES or role in ITEMS
        calls: list[Any] = []
        if role in ITEMS and element.told[:4] != "row:":
            calls.append(self._get(ref, ACCESSIBLE, "Description"))
        if is_named:
            calls.append((ref, ACCESSIBLE, "GetState", None, ()))
            calls.append((ref, COMPONENT, "GetExtents", "u", (0,)))
        if role not in LEAVES | LISTS:
            calls.append((ref, ACCESSIBLE, "GetChildren", None, ()))
        return calls

    def said_of(self, elements: Sequence[Element], name: str = "Name") -> list[Any]:
        """A property of some elements: their names, or how many children they have."""
        found = self.ask([self._get(each.ref, ACCESSIBLE, name) for each in elements])
        return [_value(each, "") for each in found]

    def counts_of(self, lists: Sequence[Element]) -> list[int]:
        """How many rows each of some lists has; those of a table are told by its first cells."""
        found = self.ask([
            self._get(element.ref, TABLED, "NRows")
            if element.role == TABLE
            else self._get(element.ref, ACCESSIBLE, "ChildCount")
            for element in lists
        ])  # fmt: skip
        return [int(_value(each, 0) or 0) for each in found]

    def _rows_of(self, element: Element) -> list[Element]:
        """The rows of a list, of a long one those that can be seen: the first is found by
        halving."""
        count = self.counts_of([element])[0]
        if count <= MANY:
            return self._children(element, range(count))
        low, high = 0, count - 1
        while low < high:
            # Several places at once: each answer takes a while to come.
            tried = sorted({low + (high - low) * n // PROBES for n in range(PROBES)})
            over = self._are_over(element, tried)
            last = next((at for at, each in enumerate(over) if not each), len(tried))
            low, high = (
                tried[last - 1] + 1 if last else low,
                tried[last] if last < len(tried) else high,
            )
        found: list[Element] = []
        while low < count:
            some = self._children(element, range(low, min(count, low + AT_ONCE)))
            seen = [each for each in some if each.y < element.y + element.height]
            found += seen
            if len(seen) < AT_ONCE:
                break
            low += AT_ONCE
        return found

    def _are_over(self, element: Element, indices: Sequence[int]) -> list[bool]:
        """For some rows of a list, whether they lie wholly over its upper edge."""
        rows = [tuple(each[0]) if each else element.ref for each in self._at(element, indices)]
        places = self.ask([(row, COMPONENT, "GetExtents", "u", (0,)) for row in rows])
        return [bool(at) and at[0][1] + at[0][3] <= element.y for at in places]

    def _children(self, element: Element, indices: Sequence[int]) -> list[Element]:
        asked = self._at(element, indices)
        return self._read([(tuple(each[0]), element.ref) for each in asked if each])[0]

    def _at(self, element: Element, indices: Sequence[int]) -> list[Any]:
        if element.role == TABLE:
            return self.ask(
                [(element.ref, TABLED, "GetAccessibleAt", "ii", (each, 0)) for each in indices]
            )
        return self.ask(
            [(element.ref, ACCESSIBLE, "GetChildAtIndex", "i", (each,)) for each in indices]
        )

    def text_of(self, element: Element) -> str:
        """What stands in a field."""
        found = self.ask([(element.ref, TEXT, "GetText", "ii", (0, -1))])[0]
        return found[0] if found else ""

    def value_of(self, element: Element) -> float:
        """How far something is moved, such as the bar of what scrolls."""
        found = self.ask([self._get(element.ref, VALUE, "CurrentValue")])[0]
        return float(_value(found, 0.0))

    # Doing.

    def type_into(self, element: Element, text: str) -> None:
        """Type a text in place of what stands in a field.

        Raises:
            Gone: where it takes none.
        """
        self.focus(element)
        if self.ask([(element.ref, EDITABLE, "SetTextContents", "s", (text,))])[0] is None:
            raise Gone("it takes no text")

    def move_to(self, element: Element, value: float) -> None:
        """Move the bar of what scrolls."""
        body = (VALUE, "CurrentValue", ("d", value))
        of = "org.freedesktop.DBus.Properties"
        self.ask([(element.ref, of, "Set", "ssv", body)])

    def focus(self, element: Element) -> None:
        self.ask([(element.ref, COMPONENT, "GrabFocus", None, ())])

    def _device(self, method: str, signature: str, *body: Any) -> None:
        at = (REGISTRY, "/org/a11y/atspi/registry/deviceeventcontroller")
        self.ask([(at, CONTROLLER, method, signature, body)])

    def mouse(self, x: float, y: float, what: str) -> None:
        """Something that a pointer does: ``b1c`` is a click, ``b1p`` and ``b1r`` its halves, and
        ``abs`` goes there."""
        self._device("GenerateMouseEvent", "iis", round(x), round(y), what)

    def key(self, name: str, *held: str) -> None:
        """Press a key, with others held down."""
        with self.holding(*held):
            symbol = SYMBOLS.get(name) or ord(name)
            self._device("GenerateKeyboardEvent", "isu", symbol, "", SYMBOL)

    @contextlib.contextmanager
    def holding(self, *held: str) -> Iterator[None]:
        """Keys that are held down meanwhile."""
        for key in held:
            self._device("GenerateKeyboardEvent", "isu", HELD[key], "", PRESSED)
        try:
            yield
        finally:
            for key in reversed(held):
                self._device("GenerateKeyboardEvent", "isu", HELD[key], "", RELEASED)

    def call_door(self, method: str, *body: str) -> str | None:
        """Call the door of an app that is driven; none where there is none."""
        from jeepney import DBusAddress

        door = DBusAddress("/driven", "cadena.Driven", "cadena.Driven")
        message = self._asks(door, method, "s" * len(body) or None, body)
        found = self._send(self.session, [message])[0]
        return None if found is None else str(found[0])


def _connected(address: str) -> DBusConnection:
    from jeepney.io.blocking import open_dbus_connection

    try:
        return open_dbus_connection(address)
    except (OSError, ValueError, RuntimeError) as error:
        raise Problem("the desktop", "", f"its bus is not there ({error})", "dbus") from None


def _value(answer: Any, usual: Any) -> Any:
    """The value of a property, or what is usual where there is none."""
    return usual if not answer else answer[0][1]
