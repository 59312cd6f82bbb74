"""The project file: reading it with clear words for what is wrong, writing it atomically."""

from __future__ import annotations

import json
import os
import tempfile
from collections import Counter
from pathlib import Path
from typing import Any, Final

import msgspec
from msgspec import NODEFAULT, Struct
from msgspec.structs import fields

from cadena.model.app import FORMAT, App, DetailScreen
from cadena.model.problem import Problem

SUFFIX: Final = ".cadena"
LINE_WIDTH: Final = 100
LARGEST: Final = 64 * 1024 * 1024


def locate(path: Path) -> Path:
    """Find the project file that a path means: itself, or the only one in a folder.

    Raises:
        Problem: when there is none, or more than one to choose from.
    """
    if path.is_file():
        return path
    if not path.is_dir():
        raise Problem(str(path), "", "there is no such file or folder", f"a *{SUFFIX} file")
    found = sorted(each for each in path.glob(f"*{SUFFIX}") if each.is_file())
    if len(found) == 1:
        return found[0]
    names = ", ".join(each.name for each in found) or "no project file"
    raise Problem(str(path), "", f"the folder holds {names}", f"exactly one *{SUFFIX} file")


def read_app(path: Path) -> App:
    """Read a project file.

    Raises:
        Problem: for anything that is not a whole, sound project of a known format.
    """
    name = path.name
    try:
        if path.stat().st_size > LARGEST:
            raise Problem(name, "", "the file is larger than 64 MiB", "a project file")
        raw = path.read_bytes()
    except OSError as error:
        raise Problem(
            name, "", f"it cannot be read ({error.strerror})", "a readable file"
        ) from None
    return decode(raw, name)


def decode(raw: bytes, name: str) -> App:
    """Make an app of the bytes of a project file; ``name`` is for messages."""
    if not raw.strip():
        raise Problem(
            name,
            "",
            "the file is empty",
            "a project in JSON; the file before it is kept as *.before",
        )
    try:
        tree = msgspec.json.decode(raw)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        raise Problem(name, "", f"it is not JSON ({error})", "a project in JSON") from None
    if not isinstance(tree, dict) or "cadena" not in tree:
        raise Problem(
            name, "$", "it is JSON, but not a Cadena project", 'an object with "cadena": 1'
        )
    number = tree["cadena"]
    if type(number) is not int or number < 1:
        raise Problem(name, "$.cadena", f"the format number is {number!r}", "a whole number from 1")
    if number > FORMAT:
        raise Problem(
            name,
            "$.cadena",
            f"the format number is {number}, newer than this Cadena knows",
            f"{FORMAT} or less, or a newer Cadena",
        )
    try:
        app = msgspec.convert(tree, App)
    except msgspec.ValidationError as error:
        text, _, place = str(error).partition(" - at `")
        raise Problem(
            name, place.rstrip("`"), text, "what the schema says: see `cadena schema`"
        ) from None
    _demand_unique(app, name)
    return app


def _demand_unique(app: App, name: str) -> None:
    """Identifiers must be unique: two things of one name cannot be told apart."""
    groups: dict[str, list[str]] = {
        kind: [each.id for each in getattr(app, kind)]
        for kind in ("sources", "values", "screens", "links", "sections", "arrangements")
    }
    for screen in app.screens:
        groups[f"screens[{screen.id}].parameters"] = [each.name for each in screen.parameters]
        if isinstance(screen, DetailScreen):
            groups[f"screens[{screen.id}].blocks"] = [each.id for each in screen.blocks]
    for place, names in groups.items():
        twice = [each for each, count in Counter(names).items() if count > 1]
        if twice:
            raise Problem(name, f"$.{place}", f'"{twice[0]}" stands there twice', "unique names")
        if "" in names:
            raise Problem(name, f"$.{place}", "a name is empty", "a name")


def encode(app: App) -> str:
    """Write an app as the text of a project file: stable order, one thing a line.

    Raises:
        ValueError: for an app that could not be read again.
    """
    app = msgspec.convert(msgspec.to_builtins(app), App)
    return _write({"cadena": FORMAT, **_tree(app)}, "") + "\n"


def _tree(node: Any) -> Any:
    """A part as plain JSON, without what is as it would be anyway."""
    if isinstance(node, Struct):
        config = node.__struct_config__
        tree = {} if config.tag is None else {str(config.tag_field): config.tag}
        for each in fields(node):
            value = getattr(node, each.name)
            if each.default_factory is not NODEFAULT:
                default = each.default_factory()
            else:
                default = each.default
            is_same = value == default and isinstance(value, bool) == isinstance(default, bool)
            if default is NODEFAULT or not is_same:
                tree[each.encode_name] = _tree(value)
        return tree
    if isinstance(node, dict):
        return {key: _tree(each) for key, each in node.items()}
    if isinstance(node, list | tuple):
        return [_tree(each) for each in node]
    return node


def _write(node: Any, indent: str) -> str:
    flat = not any(
        isinstance(each, dict | list | tuple)
        for each in (
            node.values()
            if isinstance(node, dict)
            else node
            if isinstance(node, list | tuple)
            else ()
        )
    )
    line = json.dumps(node, ensure_ascii=False, allow_nan=False)
    if flat and indent and len(indent) + len(line) <= LINE_WIDTH:
        return line
    deeper = indent + "  "
    if isinstance(node, dict):
        inner = [
            f"{deeper}{json.dumps(key, ensure_ascii=False)}: {_write(each, deeper)}"
            for key, each in node.items()
        ]
        return "{\n" + ",\n".join(inner) + f"\n{indent}}}"
    if isinstance(node, list | tuple) and node:
        return "[\n" + ",\n".join(deeper + _write(each, deeper) for each in node) + f"\n{indent}]"
    return line


def write_app(app: App, path: Path) -> None:
    """Save atomically; the file that stood there is kept beside it as ``*.before``.

    Raises:
        Problem: when the disk does not take it; what stood there stays whole.
    """
    write_text(encode(app), path, keep_before=True)


def write_text(text: str, path: Path, keep_before: bool = False) -> None:
    """Write a text file so that a reader sees the old one or the new one, never a part."""
    try:
        handle, temporary = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.")
        try:
            with os.fdopen(handle, "w", encoding="utf-8") as file:
                file.write(text)
                file.flush()
                os.fsync(file.fileno())
            if path.exists():
                os.chmod(temporary, path.stat().st_mode & 0o777)
                if keep_before:
                    before = path.with_name(path.name + ".before")
                    before.unlink(missing_ok=True)
                    os.link(path, before)
            else:
                os.chmod(temporary, 0o644)
            os.replace(temporary, path)
        except BaseException:
            Path(temporary).unlink(missing_ok=True)
            raise
    except OSError as error:
        raise Problem(
            path.name,
            "",
            f"it cannot be written ({error.strerror})",
            "a folder that can be written",
        ) from None


def schema() -> dict[str, Any]:
    """The JSON Schema (2020-12) of the project file."""
    made = msgspec.json.schema(App)
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Cadena project",
        **made,
    }
