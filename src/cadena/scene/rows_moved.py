"""Rows that have another group, or another place, go there from where they were (rules.md, 12)."""

from __future__ import annotations

from collections.abc import Hashable
from typing import Final, NamedTuple

from cadena.engine.session import Session
from cadena.scene.scene import Box, Scene

GLIDES: Final = 250
"""Ms that a row takes to its other place."""

RowAt = tuple[int, str, Hashable]
"""The entry, the part and the key of a row."""


class Gliding(NamedTuple):
    """Rows on their way: how far from its place in ``end`` each of them was."""

    end: Scene
    by: dict[RowAt, tuple[float, float]]

    @property
    def duration(self) -> int:
        """In ms."""
        return GLIDES


def is_otherwise_ordered(before: Session, after: Session) -> bool:
    """Whether records, or the order of a list, are others, so that rows may have moved."""
    if (before.window, before.section) != (after.window, after.section):
        return False
    if before.changes is not after.changes:
        return True
    entries = zip(before.entries, after.entries, strict=False)
    return any(was.view.sort is not now.view.sort for was, now in entries)


def rows_moved(before: Scene, after: Scene) -> Gliding | None:
    """The rows in view in both scenes that lie elsewhere now, or none where there are none."""
    were = {_row_of(box): (box.x, box.y) for box in before.boxes if box.kind == "row"}
    by: dict[RowAt, tuple[float, float]] = {}
    for box in after.boxes:
        was = were.get(_row_of(box)) if box.kind == "row" else None
        if was is not None and was != (box.x, box.y):
            by[_row_of(box)] = was[0] - box.x, was[1] - box.y
    return Gliding(after, by) if by else None


def gliding_at(gliding: Gliding, way: float) -> Scene:
    """The scene once so much of the way is gone, from 0 to 1."""

    def moved(box: Box) -> Box:
        by = gliding.by.get(_row_of(box))
        if by is None:
            return box
        return box._replace(x=box.x + by[0] * (1 - way), y=box.y + by[1] * (1 - way))

    return gliding.end._replace(boxes=tuple(map(moved, gliding.end.boxes)))


def _row_of(box: Box) -> RowAt:
    return box.entry, box.part, box.key
