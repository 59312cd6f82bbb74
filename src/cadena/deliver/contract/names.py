"""Names that a language takes, made of names that may be anything."""

from __future__ import annotations

import keyword
import re
from collections.abc import Collection, Iterable
from typing import Final

JAVA: Final = frozenset(
    {
        *("abstract", "assert", "boolean", "break", "byte", "case", "catch", "char", "class"),
        *("const", "continue", "default", "do", "double", "else", "enum", "extends", "false"),
        *("final", "finally", "float", "for", "goto", "if", "implements", "import", "instanceof"),
        *("int", "interface", "long", "native", "new", "null", "package", "private", "protected"),
        *("public", "return", "short", "static", "strictfp", "super", "switch", "synchronized"),
        *("this", "throw", "throws", "transient", "true", "try", "void", "volatile", "while"),
        *("record", "sealed", "permits", "var", "yield", "_"),
        # What every record has already.
        *("clone", "finalize", "getClass", "hashCode", "notify", "notifyAll", "toString", "wait"),
        *("screen", "arguments"),
    }
)
KOTLIN: Final = frozenset(
    {
        *("as", "break", "class", "continue", "do", "else", "false", "for", "fun", "if", "in"),
        *("interface", "is", "null", "object", "package", "return", "super", "this", "throw"),
        *("true", "try", "typealias", "typeof", "val", "var", "when", "while", "_"),
        *("screen", "arguments", "given"),
    }
)
PYTHON: Final = frozenset({*keyword.kwlist, *keyword.softkwlist, "self", "SCREEN", "FIELDS"})
TYPES: Final = frozenset(
    {
        *("route", "routes", "entry", "chain", "savedstate", "address", "json", "words", "any"),
        *("string", "object", "list", "map", "record", "optional", "long", "double", "boolean"),
        *("number", "array", "promise", "error", "class", "integer", "system", "math", "set"),
        *("none", "true", "false", "classvar", "literal", "union", "override", "linkedhashmap"),
        *("arraylist", "symbol", "function", "date", "arguments", "screens", "process", "thread"),
    }
)
"""Names of types that mean something already, in one of the languages or in what is written."""


def words_of(name: str) -> list[str]:
    """The words of a name that any language takes: of letters and digits of ASCII."""
    split = re.sub(r"([a-z0-9])([A-Z])", r"\1 \2", name)
    return [word for word in re.split(r"[^A-Za-z0-9]+", split) if word]


def type_name(name: str) -> str:
    """A name for a type: stay-form is StayForm."""
    made = "".join(word[0].upper() + word[1:] for word in words_of(name)) or "Screen"
    if made[0].isdigit() or made.lower() in TYPES:
        made = f"Screen{made}" if made[0].isdigit() else f"{made}Screen"
    return made


def camel_name(name: str, reserved: Collection[str]) -> str:
    """A name for a value: first-hut is firstHut."""
    words = words_of(name) or ["value"]
    first = words[0][0].lower() + words[0][1:]
    made = first + "".join(word[0].upper() + word[1:] for word in words[1:])
    return _usable(made, reserved)


def snake_name(name: str, reserved: Collection[str]) -> str:
    """A name for a value in Python: firstHut is first_hut."""
    return _usable("_".join(word.lower() for word in words_of(name)) or "value", reserved)


def _usable(made: str, reserved: Collection[str]) -> str:
    if made[0].isdigit():
        made = f"value{made}"
    return f"{made}_" if made in reserved else made


def each_its_own(names: Iterable[str]) -> list[str]:
    """Names of which no two are one, whatever the case of their letters."""
    taken: set[str] = set()
    made = []
    for name in names:
        found, number = name, 2
        while found.lower() in taken:
            found, number = f"{name}{number}", number + 1
        taken.add(found.lower())
        made.append(found)
    return made
