"""Values of the model as Python that makes them: typed, and laid out as a formatter would."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, Final

import msgspec
from msgspec import Struct

WIDTH: Final = 99
INDENT: Final = "    "


def python_text(node: Any, taken: int = 0, depth: int = 0) -> str:
    """A value as an expression.

    Args:
        taken: letters that stand before it on its line, and one after it.
        depth: how far its line is indented, in steps.
    """
    opens, closes, parts = _parts(node)
    if parts is None:
        return opens
    plain = [f"{lead}{python_text(each)}" for lead, each in parts]
    comma = "," if isinstance(node, tuple) and len(parts) == 1 else ""
    line = f"{opens}{', '.join(plain)}{comma}{closes}"
    if (len(line) + taken <= WIDTH and "\n" not in line) or not parts:
        return line
    inner = INDENT * (depth + 1)
    said = (
        f"{inner}{lead}{python_text(each, len(inner) + len(lead) + 1, depth + 1)},\n"
        for lead, each in parts
    )
    return f"{opens}\n{''.join(said)}{INDENT * depth}{closes}"


def _parts(node: Any) -> tuple[str, str, list[tuple[str, Any]] | None]:
    """What opens and closes a value, and what stands in it; without that, all of it."""
    if isinstance(node, Struct):
        return f"{type(node).__name__}(", ")", [(f"{n}=", v) for n, v in spoken(node)]
    if isinstance(node, dict):
        return "{", "}", [(f"{_text(name)}: ", value) for name, value in node.items()]
    if isinstance(node, tuple):
        return "(", ")", [("", each) for each in node]
    if isinstance(node, list):
        return "[", "]", [("", each) for each in node]
    return (_text(node) if isinstance(node, str) else repr(node)), "", None


def _text(text: str) -> str:
    """A text between double quotes, where those need not be escaped more often."""
    said = repr(text)
    if said[0] == "'" and '"' not in text:
        inner = said[1:-1].replace("\\'", "'")
        return f'"{inner}"'
    return said


def spoken(node: Struct) -> Iterator[tuple[str, Any]]:
    """The fields of a value that are not as they are by default."""
    for field in msgspec.structs.fields(node):
        value = getattr(node, field.name)
        usual = field.default
        if usual is msgspec.NODEFAULT and field.default_factory is not msgspec.NODEFAULT:
            usual = field.default_factory()
        if value != usual or type(value) is not type(usual):
            yield field.name, value


def types_in(node: Any) -> set[type]:
    """The types that a value is made of."""
    if isinstance(node, Struct):
        return {type(node)}.union(*(types_in(value) for _, value in spoken(node)))
    if isinstance(node, dict):
        return set[type]().union(*map(types_in, node.values()))
    if isinstance(node, tuple | list):
        return set[type]().union(*map(types_in, node))
    return set()
