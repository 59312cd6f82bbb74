"""Moving the divider between two panes, by dragging it and by keys (rules.md, 3.2)."""

from __future__ import annotations

from typing import Final, NamedTuple

from PySide6.QtCore import QPointF, Qt

from cadena.engine.events import Divide
from cadena.scene.scene import Box, Scene

BY: Final = 16.0
"""How far a key moves a divider, in dp."""
FAR: Final = 1e6
ALONG: Final = {
    "across": {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1},
    "down": {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1},
}
ENDS: Final = {Qt.Key.Key_Home: 0.0, Qt.Key.Key_End: FAR}


class Held(NamedTuple):
    """A divider that is held: its box, and where in the widget it was taken hold of."""

    box: Box
    at: QPointF

    def moved_to(self, point: QPointF, scale: float, scene: Scene) -> Divide | None:
        """The divider where the pointer is; ``scale`` is px for a unit of the scene."""
        moved = (point - self.at) / scale * scene.text
        by = moved.y() if "down" in self.box.state else moved.x() * _onward(scene)
        return _by(self.box, by)


def divided_by_key(box: Box, key: int, scene: Scene) -> Divide | None:
    """What a key does to the divider that has the focus, or none."""
    if not isinstance(box.does, Divide):
        return None
    if key in ENDS:
        return Divide(pane=box.does.pane, to=ENDS[Qt.Key(key)])
    lie = "down" if "down" in box.state else "across"
    step = ALONG[lie].get(Qt.Key(key))
    onward = 1 if lie == "down" else _onward(scene)
    return None if step is None else _by(box, step * onward * BY)


def cursor_over(box: Box | None) -> Qt.CursorShape:
    """What the pointer looks like over what can be pressed, or dragged."""
    if box is None:
        return Qt.CursorShape.ArrowCursor
    if box.kind != "pane divider":
        return Qt.CursorShape.PointingHandCursor
    is_down = "down" in box.state
    return Qt.CursorShape.SplitVCursor if is_down else Qt.CursorShape.SplitHCursor


def _by(box: Box, by: float) -> Divide | None:
    does = box.does
    return Divide(pane=does.pane, to=does.to + by) if isinstance(does, Divide) else None


def _onward(scene: Scene) -> int:
    return -1 if scene.rtl else 1
