"""How a person picks several rows in a window of the Bench: by keys, and by what is held down
with a press (rules.md, 14)."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, Final

from PySide6.QtCore import Qt

from cadena.engine.events import Event, Move, Pick, PickAll, PickTo, Steps
from cadena.engine.rules.lists import standing
from cadena.engine.session import Session
from cadena.engine.wired import WiredApp
from cadena.scene.scene import Box

HELD: Final = 500
"""How long a press is held until it picks, in ms."""
ALONG: Final[dict[int, Steps]] = {Qt.Key.Key_Up: "up", Qt.Key.Key_Down: "down"}


def can_pick(app: WiredApp, session: Session, box: Box) -> bool:
    """Whether a box is a row of a list of which several can be picked."""
    entries = session.entries
    if box.kind != "row" or box.key is None or not 0 <= box.entry < len(entries):
        return False
    return (entries[box.entry].screen, box.part) in app.with_several


def by_press(
    app: WiredApp, session: Session, box: Box, modifiers: Qt.KeyboardModifier
) -> Event | None:
    """What a press on a row does with Ctrl or Shift held down, where its list takes that."""
    if box.key is None or not can_pick(app, session, box):
        return None
    on: dict[str, Any] = {"entry": box.entry, "list": box.part, "key": box.key}
    if modifiers & Qt.KeyboardModifier.ControlModifier:
        return Pick(**on)
    return PickTo(**on) if modifiers & Qt.KeyboardModifier.ShiftModifier else None


def by_key(
    app: WiredApp, session: Session, row: Box, key: int, modifiers: Qt.KeyboardModifier
) -> Iterator[Event]:
    """What a key does on a list of which several rows can be picked: Space picks the row that the
    list is at, Shift with an arrow picks on the way there, Ctrl+A picks all."""
    if not can_pick(app, session, row):
        return
    on: dict[str, Any] = {"entry": row.entry, "list": row.part}
    here = standing(app, session, row.entry, row.part)
    here = row.key if here is None else here
    control = modifiers & Qt.KeyboardModifier.ControlModifier
    if key == Qt.Key.Key_A and control:
        yield PickAll(**on)
    elif here is None:
        return
    elif key == Qt.Key.Key_Space:
        yield Pick(**on, key=here)
    elif key in ALONG and modifiers & Qt.KeyboardModifier.ShiftModifier:
        if here not in session.entries[row.entry].view.picked.get(row.part, ()):
            yield Pick(**on, key=here)
        yield Move(**on, to=ALONG[key])


def after_move(app: WiredApp, session: Session, row: Box) -> Event | None:
    """What is picked once a key with Shift has moved along a list."""
    here = standing(app, session, row.entry, row.part)
    if here is None or here in session.entries[row.entry].view.picked.get(row.part, ()):
        return None
    return PickTo(entry=row.entry, list=row.part, key=here)
