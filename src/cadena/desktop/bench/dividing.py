"""Moving the divider between two panes, by dragging it (rules.md, 3.2)."""

from __future__ import annotations

from typing import NamedTuple

from PySide6.QtCore import QPointF, Qt

from cadena.engine.events import Divide
from cadena.native.keys import divided_by
from cadena.scene.scene import Box, Scene


class Held(NamedTuple):
    """A divider that is held: its box, and where in the widget it was taken hold of."""

    box: Box
    at: QPointF

    def moved_to(self, point: QPointF, scale: float, scene: Scene) -> Divide | None:
        """The divider where the pointer is; ``scale`` is px for a unit of the scene."""
        moved = (point - self.at) / scale * scene.text
        by = moved.y() if "down" in self.box.state else moved.x() * _onward(scene)
        return divided_by(self.box, by)


def cursor_over(box: Box | None) -> Qt.CursorShape:
    """What the pointer looks like over what can be pressed, or dragged."""
    if box is None:
        return Qt.CursorShape.ArrowCursor
    if box.kind != "pane divider":
        return Qt.CursorShape.PointingHandCursor
    is_down = "down" in box.state
    return Qt.CursorShape.SplitVCursor if is_down else Qt.CursorShape.SplitHCursor


def _onward(scene: Scene) -> int:
    return -1 if scene.rtl else 1
