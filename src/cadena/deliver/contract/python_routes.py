"""Typed routes in Python: dataclasses, and no framework."""

from __future__ import annotations

from cadena.deliver.contract.fixed import fixed
from cadena.deliver.contract.names import PYTHON, snake_name
from cadena.deliver.contract.screens import RouteScreen, addresses_of, screens_of, typed
from cadena.engine.wired import WiredApp

SCALARS = {"text": "str", "whole number": "int", "number": "float", "yes/no": "bool"}
HEAD = '''\
"""What each screen is opened with, and its address; see routes.json. Written by Cadena."""

from __future__ import annotations

import json
from dataclasses import dataclass, field
from typing import Any, ClassVar, Union

from address import checked, read, told, value_of, word

Fields = tuple[tuple[str, str, str, bool], ...]
"""For each parameter the attribute, its own name, its type, and whether it is required."""

'''


def python_routes(app: WiredApp) -> str:
    """The source of ``routes.py``."""
    screens = screens_of(app, lambda name: snake_name(name, PYTHON))
    classes = "\n\n".join(map(_class, screens))
    union = "".join(f"    {each.called},\n" for each in screens)
    known = "".join(f"    {each.name!a}: {each.called},\n" for each in screens)
    templates = "".join(
        f"    ({template!a}, {screen!a}),\n" for template, screen in addresses_of(app)
    )
    end = fixed("routes_tail.py")
    return (
        f"{HEAD}\n{classes}\n\nRoute = Union[\n{union}]\n"
        f"SCREENS: dict[str, type[Any]] = {{\n{known}}}\n"
        f"ADDRESSES: tuple[tuple[str, str], ...] = (\n{templates})\n{end}"
    )


def _class(screen: RouteScreen) -> str:
    lines = ["@dataclass(frozen=True)", f"class {screen.called}:"]
    for field in screen.fields:
        kind = typed(field.kind, SCALARS, "tuple[{}, ...]")
        lines.append(
            f"    {field.called}: {kind}"
            if field.is_required
            else f"    {field.called}: {kind} | None = None"
        )
    lines.append(f"    SCREEN: ClassVar[str] = {screen.name!a}")
    fields = "".join(
        f"        ({field.called!a}, {field.name!a}, {field.kind!a}, {field.is_required}),\n"
        for field in screen.fields
    )
    lines.append(f"    FIELDS: ClassVar[Fields] = (\n{fields}    )")
    return "\n".join(lines) + "\n"
