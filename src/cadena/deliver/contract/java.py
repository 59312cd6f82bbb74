"""Typed routes in Java: records, and no framework."""

from __future__ import annotations

import json

from cadena.deliver.contract.fixed import fixed
from cadena.deliver.contract.names import JAVA, camel_name
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
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/** What each screen is opened with, and its address; see routes.json. Written by Cadena. */
public final class Routes {
  private Routes() {}

"""


def java(app: WiredApp) -> str:
    """The source of ``Routes.java``."""
    screens = screens_of(app, lambda name: camel_name(name, JAVA))
    permits = ", ".join(each.called for each in screens)
    records = "\n".join(map(_record, screens))
    templates = "".join(
        f"    {{{_text(template)}, {_text(screen)}}},\n" for template, screen in addresses_of(app)
    )
    end = fixed("Routes.tail.java")
    return (
        f"{HEAD}  /** A screen with its arguments. */\n"
        f"  public sealed interface Route permits {permits} {{\n"
        "    String screen();\n\n    Map<String, Object> arguments();\n  }\n\n"
        f"{records}\n"
        f"  private static final String[][] ADDRESSES = {{\n{templates}  }};\n\n"
        f"{_types(screens)}\n{_making_method(screens)}{end}"
    )


def _text(value: str) -> str:
    """A text in quotes; what is beyond ASCII is escaped."""
    return json.dumps(value)


def _type(field: RouteField) -> str:
    return typed(field.kind, SCALARS, "List<{}>")


def _record(screen: RouteScreen) -> str:
    fields = ", ".join(f"{_type(each)} {each.called}" for each in screen.fields)
    puts = "".join(
        f"      if ({field.called} != null) given.put({_text(field.name)}, {field.called});\n"
        for field in screen.fields
    )
    return (
        f"  public record {screen.called}({fields}) implements Route {{\n"
        f"    public String screen() {{\n      return {_text(screen.name)};\n    }}\n\n"
        "    public Map<String, Object> arguments() {\n"
        "      Map<String, Object> given = new LinkedHashMap<>();\n"
        f"{puts}      return given;\n    }}\n  }}\n"
    )


def _types(screens: tuple[RouteScreen, ...]) -> str:
    """A method that tells the types of a screen's parameters."""
    cases = ""
    for screen in screens:
        puts = "".join(
            f"        types.put({_text(field.name)}, {_text(field.kind)});\n"
            for field in screen.fields
        )
        cases += f"      case {_text(screen.name)} -> {{\n{puts}      }}\n"
    return (
        "  private static Map<String, String> typesOf(String screen) {\n"
        "    Map<String, String> types = new LinkedHashMap<>();\n"
        f"    switch (screen) {{\n{cases}      default -> {{\n        return null;\n      }}\n"
        "    }\n    return types;\n  }\n"
    )


def _making_method(screens: tuple[RouteScreen, ...]) -> str:
    """A method that makes the route of a screen; null where what it requires is not there."""
    cases = ""
    for screen in screens:
        gets = ", ".join(f"({_type(each)}) given.get({_text(each.name)})" for each in screen.fields)
        missing = " || ".join(
            f"given.get({_text(field.name)}) == null"
            for field in screen.fields
            if field.is_required
        )
        made = f"new {screen.called}({gets})"
        value = f"{missing} ? null : {made}" if missing else made
        cases += f"      case {_text(screen.name)} -> {value};\n"
    return (
        '  @SuppressWarnings("unchecked")\n'
        "  private static Route made(String screen, Map<String, Object> given) {\n"
        f"    return switch (screen) {{\n{cases}      default -> null;\n    }};\n  }}\n"
    )
