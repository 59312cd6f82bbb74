"""One script and one style of an app's modules, as they stand.

Each module becomes a function that gives what it exports, in the order in which they stand on
each other; the smallest form of that is made by minify, a library for the formats of the web.
"""

from __future__ import annotations

import posixpath
import re
from typing import Final

from cadena.model.problem import Problem

SCRIPT, STYLE, READABLE = "bundle.js", "bundle.css", "readable.html"
BEGINS: Final = "start.js"
STYLES: Final = ("look.css", "kit/page.css")
IMPORT: Final = re.compile(
    r"^import\s+(?:(?P<all>\*\s+as\s+\w+|\w+|\{[^}]*\})\s+from\s+)?"
    r"['\"](?P<of>[^'\"]+)['\"];?[ \t]*$",
    re.MULTILINE,
)
"""What a module takes of another: all of it, what it gives without a name, or some by name."""
LATER: Final = re.compile(r"(?<![.\w])import\(\s*['\"]([^'\"]+)['\"]\s*\)")
NAMED: Final = re.compile(
    r"^export\s+(?=(?:async\s+function\*?|function\*?|const|class)\s+(?P<name>\w+))", re.MULTILINE
)
LISTED: Final = re.compile(r"^export\s*\{(?P<names>[^}]*)\};?[ \t]*$", re.MULTILINE)
PLAIN: Final = re.compile(r"^export\s+default\s+", re.MULTILINE)
LEFT: Final = re.compile(r"^(?:import|export)\b.*$", re.MULTILINE)
ADDRESS: Final = re.compile(r"url\(\s*(['\"]?)\.\./")
"""What the styles of the kit name lies one folder up from them, and not from the bundle."""


def bundled(files: dict[str, bytes]) -> dict[str, bytes]:
    """The script and the style that stand for the modules of an app.

    Args:
        files: those of the app as they stand in its folder, changed by hand or not.

    Raises:
        Problem: where a module is written so that it cannot be joined with the others.
    """
    import minify

    script = joined(files)
    style = "\n".join(
        ADDRESS.sub(r"url(\1", _text(files, name)) if "/" in name else _text(files, name)
        for name in STYLES
    )
    return {
        SCRIPT: minify.string("application/javascript", script).encode() + b"\n",
        STYLE: minify.string("text/css", style).encode() + b"\n",
    }


def joined(files: dict[str, bytes]) -> str:
    """The modules that the app begins with, and all that they take, as one script.

    Raises:
        Problem: as ``bundled`` does.
    """
    order: list[str] = []
    _order(files, BEGINS, (), order)
    numbers = {name: f"m{at}" for at, name in enumerate(order)}
    wrapped = [_wrapped(name, _text(files, name), numbers) for name in order]
    return "\n".join(["(async () => {", "'use strict';", *wrapped, "})();", ""])


def _order(files: dict[str, bytes], name: str, above: tuple[str, ...], order: list[str]) -> None:
    """Modules before those that take something of them; what is brought later as well."""
    if name in above:
        circle = " > ".join((*above[above.index(name) :], name))
        raise Problem(name, "", f"modules take of each other in a circle: {circle}", "none")
    if name in order:
        return
    text = _text(files, name)
    taken = [each["of"] for each in IMPORT.finditer(text)]
    later = LATER.findall(text)
    for of in (*taken, *later):
        _order(files, _path(name, of), (*above, name), order)
    order.append(name)


def _path(name: str, of: str) -> str:
    if not of.startswith("."):
        raise Problem(name, "", f"it takes {of}, which does not lie beside the app", "a file of it")
    return posixpath.normpath(posixpath.join(posixpath.dirname(name), of))


def _text(files: dict[str, bytes], name: str) -> str:
    if name not in files:
        raise Problem(name, "", "it is not among the files of the app", "a file of that name")
    return files[name].decode("utf-8", "replace")


def _renamed(names: str) -> str:
    """``{ a as b }`` as a pattern: ``{ a: b }``."""
    return re.sub(r"(\w+)\s+as\s+(\w+)", r"\1: \2", names)


def _wrapped(name: str, text: str, numbers: dict[str, str]) -> str:
    """A module as a function that gives what it exports; the one that begins, as it is."""
    gives: list[str] = []

    def take(found: re.Match[str]) -> str:
        of, names = numbers[_path(name, found["of"])], found["all"] or ""
        if names.startswith("{"):
            return f"const {_renamed(names)} = {of};"
        if names.startswith("*"):
            return f"const {names.split()[-1]} = {of};"
        return f"const {names} = {of}.default;" if names else ""

    def listed(found: re.Match[str]) -> str:
        for name in filter(None, map(str.strip, found["names"].split(","))):
            inner, _, outer = map(str.strip, name.partition(" as "))
            gives.append(f"{outer}: {inner}" if outer else inner)
        return ""

    def named(found: re.Match[str]) -> str:
        gives.append(found["name"])
        return ""

    text = IMPORT.sub(take, text)
    text = LATER.sub(lambda found: f"Promise.resolve({numbers[_path(name, found[1])]})", text)
    text = NAMED.sub(named, text)
    text = LISTED.sub(listed, text)
    if PLAIN.search(text):
        text = PLAIN.sub("const given = ", text, count=1)
        gives.append("default: given")
    if left := LEFT.search(text):
        said = f"{left[0][:60]!r} cannot be joined with other modules"
        raise Problem(name, "", said, "import and export of functions, classes and constants")
    if name == BEGINS:
        return text
    return f"const {numbers[name]} = (() => {{\n{text}\nreturn {{ {', '.join(gives)} }};\n}})();"
