"""Typed routes in Kotlin: a sealed interface of data classes, and no framework."""

from __future__ import annotations

import json

from cadena.deliver.contract.fixed import fixed
from cadena.deliver.contract.names import KOTLIN, camel_name
from cadena.deliver.contract.screens import (
    RouteField,
    RouteScreen,
    addresses_of,
    screens_of,
    typed,
)
from cadena.engine.wired import WiredApp

SCALARS = {"text": "String", "whole number": "Long", "number": "Double", "yes/no": "Boolean"}
HEAD = """\
/** What each screen is opened with, and its address; see routes.json. Written by Cadena. */
object Routes {
  /** A screen with its arguments. */
  sealed interface Route {
    val screen: String
    val arguments: Map<String, Any>
  }

"""


def kotlin(app: WiredApp) -> str:
    """The source of ``Routes.kt``."""
    screens = screens_of(app, lambda name: camel_name(name, KOTLIN))
    classes = "\n".join(map(_class, screens))
    templates = "".join(
        f"    {_text(template)} to {_text(screen)},\n" for template, screen in addresses_of(app)
    )
    return (
        f"{HEAD}{classes}\n  private val ADDRESSES = arrayOf<Pair<String, String>>(\n"
        f"{templates}  )\n\n{_types(screens)}\n{_making_function(screens)}{fixed('Routes.tail.kt')}"
    )


def _text(value: str) -> str:
    """A text in quotes, in which nothing is filled in; what is beyond ASCII is escaped."""
    return json.dumps(value).replace("$", "\\$")


def _type(field: RouteField) -> str:
    return typed(field.kind, SCALARS, "List<{}>")


def _class(screen: RouteScreen) -> str:
    said = f"    override val screen get() = {_text(screen.name)}\n"
    if not screen.fields:
        return (
            f"  data object {screen.called} : Route {{\n{said}"
            "    override val arguments: Map<String, Any> get() = given()\n  }\n"
        )
    fields = ", ".join(
        f"val {field.called}: {_type(field)}{'' if field.is_required else '? = null'}"
        for field in screen.fields
    )
    given = ", ".join(f"{_text(each.name)} to {each.called}" for each in screen.fields)
    return (
        f"  data class {screen.called}({fields}) : Route {{\n{said}"
        f"    override val arguments: Map<String, Any> get() = given({given})\n  }}\n"
    )


def _types(screens: tuple[RouteScreen, ...]) -> str:
    """A function that tells the types of a screen's parameters."""
    cases = "".join(f"    {_text(each.name)} -> mapOf({_pairs(each)})\n" for each in screens)
    return (
        "  private fun typesOf(screen: String): Map<String, String>? = when (screen) {\n"
        f"{cases}    else -> null\n  }}\n"
    )


def _pairs(screen: RouteScreen) -> str:
    return ", ".join(f"{_text(each.name)} to {_text(each.kind)}" for each in screen.fields)


def _making_function(screens: tuple[RouteScreen, ...]) -> str:
    """A function that makes the route of a screen; null where what it requires is not there."""
    cases = "".join(f"      {_text(each.name)} -> {_call(each)}\n" for each in screens)
    return (
        '  @Suppress("UNCHECKED_CAST")\n'
        "  private fun made(screen: String, given: Map<String, Any>): Route? {\n"
        f"    return when (screen) {{\n{cases}      else -> null\n    }}\n  }}\n"
    )


def _call(screen: RouteScreen) -> str:
    if not screen.fields:
        return screen.called
    values = ", ".join(
        f"(given[{_text(field.name)}] ?: return null) as {_type(field)}"
        if field.is_required
        else f"given[{_text(field.name)}] as {_type(field)}?"
        for field in screen.fields
    )
    return f"{screen.called}({values})"
