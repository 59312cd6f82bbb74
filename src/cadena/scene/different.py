"""What of a scene is not in another one: for pictures of before and after."""

from __future__ import annotations

from typing import Final

from cadena.scene.scene import Box, Scene

SAYS: Final = frozenset(
    {
        "row",
        "row title",
        "title",
        "title centred",
        "heading",
        "input",
        "search",
        "page",
        "words",
        "off words",
        "section",
        "option",
        "switch",
    }
)
MOST_MARKED: Final = 8


def different(scene: Scene, other: Scene) -> tuple[Box, ...]:
    """The boxes of a scene that say something and are not in the other one."""
    there = {_identity(each) for each in other.boxes}
    found = [e for e in scene.boxes if e.kind in SAYS and _identity(e) not in there]
    return tuple(found[:MOST_MARKED])


def _identity(box: Box) -> tuple[object, ...]:
    return box.kind, box.text, box.state, box.part, box.key
