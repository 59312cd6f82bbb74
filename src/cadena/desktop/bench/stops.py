"""What of a painted app the keyboard and assistive technology can reach.

Each stop is an invisible control over its box: it takes the focus with Tab, has a name
and a role, and lets the mouse through to the picture.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Final

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QAccessible, QAccessibleEvent, QFocusEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton

from cadena.desktop.painting.theme import colour
from cadena.scene.scene import Box, Scene

if TYPE_CHECKING:
    from cadena.desktop.bench.canvas import Canvas

REST: Final = 50
"""Ms in which nothing is placed anew: an eye does not follow the focus in less."""

KINDS: Final = (
    "back",
    "section",
    "sections",
    "slide",
    "button",
    "search",
    "asleep",
    "more",
    "row action",
    "page",
    "group",
    "head",
    "input",
    "in place",
    "switch",
    "option",
    "chooser",
    "menu item",
    "undo",
    "put away",
    "pane divider",
)


class Stop(QAbstractButton):
    """One stop, over a box of the canvas."""

    def __init__(self, canvas: Canvas) -> None:
        super().__init__(canvas)
        self.canvas = canvas
        self.box = Box("", 0, 0, 0, 0)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.clicked.connect(lambda: canvas.press(self.box))

    def show_box(self, box: Box, name: str) -> None:
        """Stand for a box from now on."""
        self.box = box
        if self.accessibleName() != name:
            self.setAccessibleName(name)
            QAccessible.updateAccessibility(QAccessibleEvent(self, QAccessible.Event.NameChanged))
        self.setGeometry(self.canvas.px_of(box))
        self.show()

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.canvas.focus_on(self)

    def keyPressEvent(self, event: object) -> None:
        key = event.key()  # type: ignore[attr-defined]
        if self.box.kind != "row" and key in (
            Qt.Key.Key_Return,
            Qt.Key.Key_Enter,
            Qt.Key.Key_Space,
        ):
            self.canvas.press(self.box)
        else:
            self.canvas.keyPressEvent(event)  # type: ignore[arg-type]

    def paintEvent(self, _: QPaintEvent) -> None:
        if self.hasFocus():
            painter = QPainter(self)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(colour("ink"), 2))
            painter.drawRoundedRect(self.rect().adjusted(1, 1, -2, -2), 5, 5)


class Stops:
    """The stops of a canvas: made once, and moved to where they are needed."""

    def __init__(self, canvas: Canvas) -> None:
        self.canvas = canvas
        self._stops: list[Stop] = []
        self._used = 0
        self._lists: list[Box] = []
        self._waiting: Scene | None = None
        self._rest = QTimer(canvas, singleShot=True, interval=REST)
        self._rest.timeout.connect(self.settle)

    def place(self, scene: Scene) -> None:
        """Put a stop over every box that does something, soon: not at every frame of a drag."""
        if self._waiting is None:
            self._rest.start(0 if self._used == 0 else REST)
        self._waiting = scene

    def settle(self) -> None:
        """Put the stops where they belong now."""
        scene, self._waiting = self._waiting, None
        if scene is not None:
            self._rest.stop()
            self._place(scene)

    def _place(self, scene: Scene) -> None:
        covered = max(
            (number for number, box in enumerate(scene.boxes) if box.kind == "scrim"), default=-1
        )
        wanted: list[tuple[Box, str]] = []
        lists: dict[tuple[int, str], Box] = {}
        for box in scene.boxes[covered + 1 :]:
            if box.kind in KINDS:
                wanted.append((box, box.name or box.text))
            elif box.kind == "row":
                at = (box.entry, box.part)
                if at not in lists:
                    lists[at] = box
                    wanted.append((box, self._list_name(scene, box)))
        self._lists = list(lists.values())
        while len(self._stops) < len(wanted):
            self._stops.append(Stop(self.canvas))
        for stop, (box, name) in zip(self._stops, wanted, strict=False):
            if box.kind == "row" and box.clip is not None:
                left, top, width, height = box.clip
                box = box._replace(x=left, y=top, width=width, height=height)
            stop.show_box(box, name)
        for stop in self._stops[len(wanted) :]:
            stop.hide()
        self._used = len(wanted)

    def _list_name(self, scene: Scene, first: Box) -> str:
        """The list, and the row in it that is marked or chosen."""
        rows = [
            box
            for box in scene.boxes
            if box.kind == "row" and (box.entry, box.part) == (first.entry, first.part)
        ]
        picked = sum("picked" in row.state for row in rows)
        many = f", {picked} picked in view" if picked else ""
        for state in ("marked", "chosen"):
            for row in rows:
                if state in row.state:
                    it = ", picked" if "picked" in row.state else ""
                    return f"list, {state}: {row.name}{it}{many}"
        return f"list, {len(rows)} rows in view, first: {rows[0].name}{many}"

    def lists(self) -> list[Box]:
        """The first row in view of every list that can be moved along."""
        self.settle()
        return self._lists

    def focused(self) -> Stop | None:
        self.settle()
        return next((each for each in self._stops[: self._used] if each.hasFocus()), None)

    def in_use(self) -> list[Stop]:
        """The stops there are now, in Tab order."""
        self.settle()
        return self._stops[: self._used]
