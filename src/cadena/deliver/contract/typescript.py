"""Typed routes in TypeScript: plain source, and no framework."""

from __future__ import annotations

import json

from cadena.deliver.contract.fixed import fixed
from cadena.deliver.contract.screens import RouteScreen, addresses_of, screens_of, typed
from cadena.engine.wired import WiredApp

SCALARS = {
    "text": "string",
    "whole number": "number",
    "number": "number",
    "yes/no": "boolean",
}
HEAD = """\
// What each screen is opened with, and its address; see routes.json. Written by Cadena.

import { isOf, read, told, valueIn, word, type Words } from './address.js';

"""


def typescript(app: WiredApp) -> str:
    """The source of ``routes.ts``."""
    screens = screens_of(app, lambda name: name)
    types = "\n".join(map(_type, screens))
    union = " | ".join(each.called for each in screens) or "never"
    makers = "\n".join(map(_maker, screens))
    known = ",\n".join(_known(each) for each in screens)
    templates = "".join(
        f"  [{_text(template)}, {_text(screen)}],\n" for template, screen in addresses_of(app)
    )
    end = fixed("routes.tail.ts")
    return (
        f"{HEAD}{types}\n\nexport type Route = {union};\n\n{makers}\n\n"
        "interface Parameter { name: string; type: string; required: boolean }\n\n"
        f"const SCREENS: Record<string, Parameter[]> = {{\n{known},\n}};\n\n"
        f"const ADDRESSES: [string, string][] = [\n{templates}];\n{end}"
    )


def _text(value: str) -> str:
    """A text in quotes; what is beyond ASCII is escaped."""
    return json.dumps(value).replace("</", "<\\/")


def _arguments(screen: RouteScreen) -> str:
    fields = "; ".join(
        f"{_text(field.name)}{'' if field.is_required else '?'}: "
        f"{typed(field.kind, SCALARS, '{}[]')}"
        for field in screen.fields
    )
    return f"{{ {fields} }}" if fields else "Record<string, never>"


def _type(screen: RouteScreen) -> str:
    return (
        f"export interface {screen.called} "
        f"{{ screen: {_text(screen.name)}; arguments: {_arguments(screen)} }}"
    )


def _maker(screen: RouteScreen) -> str:
    """A function of the name of the screen's type that makes its route."""
    needs = any(each.is_required for each in screen.fields)
    given = f"given{'' if needs else '?'}: {screen.called}['arguments']"
    value = "given" if needs else "given ?? ({} as never)"
    return (
        f"export const {screen.called} = ({given}): {screen.called} =>\n"
        f"  ({{ screen: {_text(screen.name)}, arguments: {value} }});"
    )


def _known(screen: RouteScreen) -> str:
    fields = ", ".join(
        f"{{ name: {_text(field.name)}, type: {_text(field.kind)}, "
        f"required: {str(field.is_required).lower()} }}"
        for field in screen.fields
    )
    name = f"[{_text(screen.name)}]" if screen.name == "__proto__" else _text(screen.name)
    return f"  {name}: [{fields}]"
