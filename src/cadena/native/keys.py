"""What keys do in a running app, here and on the Bench: along a list, and to a divider."""

from __future__ import annotations

from typing import Final

from PySide6.QtCore import Qt

from cadena.engine.events import Divide, Steps
from cadena.scene.scene import Box

STEPS: Final[dict[int, Steps]] = {
    Qt.Key.Key_Up: "up",
    Qt.Key.Key_Left: "left",
    Qt.Key.Key_Right: "right",
    Qt.Key.Key_Down: "down",
    Qt.Key.Key_Home: "home",
    Qt.Key.Key_End: "end",
    Qt.Key.Key_PageUp: "page up",
    Qt.Key.Key_PageDown: "page down",
}
TURNED: Final[dict[str, Steps]] = {"left": "right", "right": "left"}
"""What lies to the sides, read from the right."""
BY: Final = 16.0
"""How far a key moves a divider, in dp."""
FAR: Final = 1e6
ALONG: Final = {
    "across": {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1},
    "down": {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1},
}
ENDS: Final = {Qt.Key.Key_Home: 0.0, Qt.Key.Key_End: FAR}


def step_of(key: int, rtl: bool) -> Steps | None:
    """Which way a key goes along a list, or none."""
    step = STEPS.get(key)
    return TURNED.get(step, step) if rtl and step is not None else step


def divided_by(box: Box, by: float) -> Divide | None:
    """A divider moved by so many dp; none of a box that is none."""
    does = box.does
    return Divide(pane=does.pane, to=does.to + by) if isinstance(does, Divide) else None


def divided_by_key(box: Box, key: int, rtl: bool) -> Divide | None:
    """What a key does to the divider that has the focus, or none."""
    if not isinstance(box.does, Divide):
        return None
    if key in ENDS:
        return Divide(pane=box.does.pane, to=ENDS[Qt.Key(key)])
    lie = "down" if "down" in box.state else "across"
    step = ALONG[lie].get(Qt.Key(key))
    onward = -1 if rtl and lie == "across" else 1
    return None if step is None else divided_by(box, step * onward * BY)
