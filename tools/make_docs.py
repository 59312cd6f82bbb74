"""Writes the docs that are tables: the kinds of mistakes, and what things have.

``make schemas`` runs it.
"""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import msgspec
from msgspec import inspect

from cadena.check.finding import mistakes
from cadena.check.mend import MENDS
from cadena.model.app import App
from cadena.model.properties import structures, things

DOCS = Path(__file__).parents[1] / "docs"
HEAD = "| code | | why it matters | stage | mends |\n| --- | --- | --- | --- | --- |\n"
PROPERTIES = (
    "# What things have\n\n"
    "Every property of a [project](project.md), as the strips of its stage say it and as the "
    "[JSON Schema](cadena.schema.json) describes it. What is left out is as told under "
    "*unless said*.\n"
)


def table() -> str:
    """Every kind of mistake, one in a line; what differs from one to another is in italics."""
    rows = []
    for code, kind in sorted(mistakes().items()):
        why = re.sub(r"{(.*?)}", r"*\1*", kind.why)
        mends = "✓" if code in MENDS else ""
        rows.append(f"| `{code}` | {kind.weight} | {why} | {kind.stage} | {mends} |\n")
    return HEAD + "".join(rows)


def with_table(text: str) -> str:
    """The page with its table made anew."""
    return re.sub(r"(?:^\|.*\n)+", lambda _: table(), text, count=1, flags=re.MULTILINE)


def properties_page() -> str:
    """Every property of every thing, with what it can be."""
    return PROPERTIES + "".join(map(_of_thing, structures(App)))


def _of_thing(kind: inspect.StructType) -> str:
    thing = things()[kind.cls.__name__]
    tag = f", `{kind.tag_field}: {kind.tag}`" if kind.tag else ""
    title = f"\n## {thing.called[0].upper()}{thing.called[1:]}\n\n{thing.stage}{tag}\n"
    rows = [
        f"| `{each.name}` | {thing.has[each.name].about} | {_words(each.type)} | {_usual(each)} |\n"
        for each in kind.fields
    ]
    if not rows:
        return f"{title}\nIt has none.\n"
    head = "| property | what it is | | unless said |\n| --- | --- | --- | --- |\n"
    return f"{title}\n{head}{''.join(rows)}"


def _words(kind: inspect.Type) -> str:
    match kind:
        case inspect.StructType():
            called = things()[kind.cls.__name__].called
            return f"[{called}](#{called.lower().replace(' ', '-')})"
        case inspect.UnionType():
            plain = [each for each in kind.types if not isinstance(each, inspect.NoneType)]
            said = " or ".join(dict.fromkeys(map(_words, plain)))
            return said if len(plain) == len(kind.types) else f"{said}, or none"
        case inspect.LiteralType():
            return ", ".join(f"`{each}`" for each in kind.values)
        case inspect.VarTupleType():
            return f"several: {_words(kind.item_type)}"
        case inspect.TupleType():
            return " and ".join(map(_words, kind.item_types))
        case inspect.DictType():
            return f"by name: {_words(kind.value_type)}"
        case inspect.IntType():
            return f"whole number{_bounds(kind)}"
        case inspect.FloatType():
            return f"number{_bounds(kind)}"
        case inspect.BoolType():
            return "yes or no"
    return "text" if isinstance(kind, inspect.StrType) else "value"


def _bounds(kind: inspect.IntType | inspect.FloatType) -> str:
    over = "" if kind.gt is None else f" over {kind.gt:,}"
    least = "" if kind.ge is None else f" from {kind.ge:,}"
    return over + least + ("" if kind.le is None else f" to {kind.le:,}")


def _usual(field: inspect.Field) -> str:
    usual: Any = field.default
    if field.required:
        return "*always said*"
    if usual is msgspec.NODEFAULT:
        usual = field.default_factory()
    written = msgspec.json.encode(usual).decode()
    return "" if written in ('""', "null", "[]", "{}") else f"`{written}`"


if __name__ == "__main__":
    checks = DOCS / "checks.md"
    checks.write_text(with_table(checks.read_text("utf-8")), "utf-8")
    (DOCS / "properties.md").write_text(properties_page(), "utf-8")
