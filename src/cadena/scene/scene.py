"""A picture of an app as values: boxes in dp, what each shows and what it does."""

from __future__ import annotations

from contextlib import suppress
from typing import NamedTuple

from msgspec.structs import replace

from cadena.engine.events import Edit, Event, Search, Type
from cadena.engine.layout.forms import key_called
from cadena.engine.layout.panes import Area
from cadena.engine.session import Session
from cadena.engine.wired import WiredApp
from cadena.model.app import FormScreen
from cadena.model.values import Scalar, Unfit, Value, carry


class Box(NamedTuple):
    """One box of a scene, over those before it.

    ``kind`` says how it looks, ``state`` how it stands (chosen, marked, current…);
    ``picture`` is a file in the project folder; ``does`` is the event that a press
    sends; ``name`` is what assistive technology says, where it is not the text.
    ``clip`` cuts it, ``entry``, ``part`` and ``key`` say what of the app it belongs to;
    ``fade`` is how much of it can be seen, 0 to 1; ``icon`` is one of the set, by name.
    """

    kind: str
    x: float
    y: float
    width: float
    height: float
    text: str = ""
    state: frozenset[str] = frozenset()
    does: Event | None = None
    picture: str = ""
    name: str = ""
    clip: Area | None = None
    entry: int = -1
    part: str = ""
    key: Scalar | None = None
    fade: float = 1.0
    icon: str = ""

    def holds(self, x: float, y: float) -> bool:
        """Whether a point in dp lies in the box and in what its clip leaves of it."""
        if self.clip is not None:
            left, top, width, height = self.clip
            if not (left <= x < left + width and top <= y < top + height):
                return False
        return self.x <= x < self.x + self.width and self.y <= y < self.y + self.height


class Scene(NamedTuple):
    """A scene, ``width`` by ``height`` units; later boxes lie over earlier ones.

    A unit is ``text`` dp: 1, or more where larger text is set. ``rtl`` scenes are read from
    the right; their boxes lie so already, and only what is in a box is still to be turned.
    """

    width: float
    height: float
    boxes: tuple[Box, ...]
    text: float = 1.0
    rtl: bool = False

    def at(self, x: float, y: float) -> Box | None:
        """The topmost box that does something under a point in dp, or none.

        A box that covers without doing anything (``covers``) hides what lies below it.
        """
        for box in reversed(self.boxes):
            if box.holds(x, y) and (box.does is not None or box.kind in COVERS):
                return box if box.does is not None else None
        return None

    def entry_at(self, x: float, y: float) -> int:
        """The entry whose area a point lies in, or -1."""
        for box in reversed(self.boxes):
            if box.kind in ("screen", "scrim") and box.holds(x, y):
                return box.entry
        return -1

    def strip_at(self, x: float, y: float) -> Box | None:
        """The strip across that a point lies in, or none."""
        found = (each for each in reversed(self.boxes) if each.kind in ("strip", "scrim"))
        box = next((each for each in found if each.holds(x, y)), None)
        return box if box is not None and box.kind == "strip" else None


TAKES_TEXT = frozenset({"search", "input", "in place"})
COVERS = frozenset(
    {"screen", "scrim", "search", "title bar", "section bar", "bottom bar", "question", "menu"}
)


def typed_into(app: WiredApp, session: Session, box: Box, text: str) -> Event | None:
    """The event of a text typed into a box that takes one.

    What is typed into a field in place has the type of the field, as far as it fits; a field
    that refers to records takes the label of one as well as its key.
    """
    match box.does:
        case Search() as event:
            return replace(event, text=text)
        case Type() as event:
            return replace(event, to=_referred(app, session, event, text) if text else None)
        case Edit() as event:
            name = next(iter(event.fields))
            kind = app.type_of(event.source, name) or "text"
            value: Value | None = text or None
            with suppress(Unfit):
                value = carry(text, kind, convert=True) if text else None
            to = app.records(session, app.chosen_among.get(event.source, {}).get(name, ""))
            if to is not None and value is not None and to.row_of(value) is None:
                key = key_called(app, to, text)
                value = value if key is None else key
            return replace(event, fields={name: value})
    return None


def _referred(app: WiredApp, session: Session, event: Type, text: str) -> Value:
    """What is typed into a field that refers to records: the key of the one that is called so."""
    screen = app.screens.get(event.screen)
    fields = screen.fields if isinstance(screen, FormScreen) else ()
    field = next((each for each in fields if each.field == event.field), None)
    among = None if field is None else app.records(session, field.choices_from)
    key = None if among is None else key_called(app, among, text)
    return text if among is None or key is None or among.row_of(text) is not None else key
