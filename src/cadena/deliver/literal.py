"""Plain values as JavaScript, the way that a person would write them."""

from __future__ import annotations

import json
import re
from collections.abc import Sequence
from typing import Any, Final

WIDTH: Final = 100
PLAIN_NAME: Final = re.compile(r"[A-Za-z_$][A-Za-z0-9_$]*")
RESERVED: Final = frozenset(
    {
        *("arguments", "await", "break", "case", "catch", "class", "const", "continue"),
        *("debugger", "default", "delete", "do", "else", "enum", "eval", "export", "extends"),
        *("false", "finally", "for", "function", "if", "implements", "import", "in"),
        *("instanceof", "interface", "let", "new", "null", "package", "private", "protected"),
        *("public", "return", "static", "super", "switch", "this", "throw", "true", "try"),
        *("typeof", "var", "void", "while", "with", "yield"),
    }
)


def literal(value: Any, indent: int = 0, taken: int = 0) -> str:
    """A value as a JavaScript literal: in one line where there is room, else a part a line.

    Args:
        indent: how far in the lines after the first begin, in spaces.
        taken: how much of the first line is taken before it.
    """
    line = _in_line(value)
    if len(line) + indent + taken <= WIDTH or not isinstance(value, dict | list) or not value:
        return line
    inner, pad = indent + 2, " " * (indent + 2)
    if isinstance(value, list):
        parts = [literal(each, inner) for each in value]
        opening, closing = "[", "]"
        if all(not isinstance(each, dict | list) for each in value):
            return f"[\n{_wrapped(parts, pad)}\n{' ' * indent}]"
    else:
        parts = [
            f"{_name(name)}: {literal(each, inner, len(_name(name)) + 2)}"
            for name, each in value.items()
        ]
        opening, closing = "{", "}"
    lines = "".join(f"{pad}{part},\n" for part in parts)
    return f"{opening}\n{lines}{' ' * indent}{closing}"


def _wrapped(parts: Sequence[str], pad: str) -> str:
    """Short values side by side, as many as there is room for in a line."""
    lines, line = [], pad
    for part in parts:
        if len(line) + len(part) + 2 > WIDTH and line.strip():
            lines.append(line.rstrip())
            line = pad
        line += f"{part}, "
    return "\n".join([*lines, line.rstrip()])


def _in_line(value: Any) -> str:
    if isinstance(value, dict):
        inside = ", ".join(f"{_name(name)}: {_in_line(each)}" for name, each in value.items())
        return f"{{ {inside} }}" if inside else "{}"
    if isinstance(value, list | tuple):
        return f"[{', '.join(map(_in_line, value))}]"
    if isinstance(value, str):
        return text(value)
    if isinstance(value, float) and value.is_integer() and abs(value) < 2**53:
        return str(int(value))
    return json.dumps(value)


def text(value: str) -> str:
    """A text in single quotes; what a reader could not see, or a page could trip over, escaped."""
    body = json.dumps(value, ensure_ascii=False)[1:-1].replace('\\"', '"').replace("'", "\\'")
    hidden = re.sub(
        r"[\u007f-\u009f\u00ad\u200b-\u200f\u2028-\u202e\u2066-\u2069\ufeff\ud800-\udfff]",
        lambda found: f"\\u{ord(found[0]):04x}",
        body,
    )
    return f"'{hidden.replace('</', '<' + chr(92) + '/')}'"


def _name(name: str) -> str:
    # A plain __proto__ would set what the object inherits from, and not hold a value.
    if name == "__proto__":
        return "['__proto__']"
    return name if PLAIN_NAME.fullmatch(name) else text(name)


def identifier(name: str, taken: set[str]) -> str:
    """A name that JavaScript takes for a constant, and that is not taken; it is then.

    What no identifier can hold is left out; where nothing is left it is called ``screen``.
    """
    words = [word for word in re.split(r"[^A-Za-z0-9]+", name) if word]
    made = "".join(
        word if not number else word[0].upper() + word[1:] for number, word in enumerate(words)
    )
    made = made[:1].lower() + made[1:] if made else "screen"
    if made[0].isdigit():
        made = f"screen{made}"
    if made in RESERVED or made in taken:
        made = f"{made}Screen"
    found, number = made, 2
    while found.lower() in {each.lower() for each in taken}:
        found, number = f"{made}{number}", number + 1
    taken.add(found)
    return found
