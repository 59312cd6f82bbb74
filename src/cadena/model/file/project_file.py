"""The project file: reading it with clear words for what is wrong, writing it atomically."""

from __future__ import annotations

import inspect
import json
from collections import Counter
from pathlib import Path
from typing import Any, Final

import msgspec
from msgspec import Struct

from cadena.model.app import App, DetailScreen
from cadena.model.file.disk import fault_of_name, read_bytes, said_path, write_text
from cadena.model.file.migrations import FORMAT, NEEDS, migrated
from cadena.model.part import said
from cadena.model.problem import Problem
from cadena.model.properties import things, wanted_at

SUFFIX: Final = ".cadena"
LINE_WIDTH: Final = 100
LARGEST: Final = 64 * 1024 * 1024


def locate(path: Path) -> Path:
    """Find the project file that a path means: itself, or the only one in a folder.

    Raises:
        Problem: when there is none, more than one to choose from, or one that leads elsewhere.
    """
    try:
        return _demand_own(path if path.is_file() else _only_in(path))
    except OSError as error:
        reason = f"it cannot be looked at ({error.strerror})"
        raise Problem(said_path(path), "", reason, "a project") from None
    except (ValueError, RuntimeError):
        raise Problem(said_path(path), "", "it is no path", "a project") from None


def _only_in(folder: Path) -> Path:
    said = said_path(folder)
    if folder.exists() and not folder.is_dir():
        raise Problem(said, "", "it is no plain file", f"a *{SUFFIX} file")
    if not folder.is_dir():
        raise Problem(said, "", "there is no such file or folder", f"a *{SUFFIX} file")
    found = sorted(each for each in folder.glob(f"*{SUFFIX}") if each.is_file())
    if len(found) == 1:
        return found[0]
    names = ", ".join(said_path(each.name) for each in found) or "no project file"
    raise Problem(said, "", f"the folder holds {names}", f"exactly one *{SUFFIX} file")


def _demand_own(file: Path) -> Path:
    """Refuse a project file that is a link to another folder: it is not that folder's project."""
    if file.is_symlink() and file.resolve().parent != file.parent.resolve():
        name = said_path(file.name)
        raise Problem(name, "", "it is a link that leads outside its folder", "the file itself")
    return file


def read_app(path: Path) -> App:
    """Read a project file.

    Raises:
        Problem: for anything that is not a whole, sound project of a known format.
    """
    return decode(read_project(path), said_path(path.name))


def read_project(path: Path) -> bytes:
    """The bytes of a project file.

    Raises:
        Problem: when they cannot be read, or are too many.
    """
    return read_bytes(path, said_path(path.name), LARGEST, "a project file")


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
            name, "$", "it is JSON, but not a Cadena project", f'an object with "cadena": {FORMAT}'
        )
    try:
        app = msgspec.convert(migrated(tree, name), App)
    except msgspec.ValidationError as error:
        text, _, place = str(error).partition(" - at `")
        wanted = wanted_at(place, App) or "what the schema says"
        raise Problem(name, place.rstrip("`"), text, f"{wanted} (`cadena schema`)") from None
    _demand_unique(app, name)
    return app


def _demand_unique(app: App, name: str) -> None:
    """Identifiers must be unique: two things of one name cannot be told apart."""
    groups: dict[str, list[str]] = {
        kind: [each.id for each in getattr(app, kind)]
        for kind in ("sources", "values", "screens", "links", "sections", "arrangements", "claims")
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
    for source in app.sources:
        # What it brings is kept in a file of its name.
        if (fault := fault_of_name(source.id)) is not None:
            place = f"$.sources[{source.id}]"
            raise Problem(name, place, f"{fault}, so that no file can be named so", "a plain name")


def encode(app: App) -> str:
    """Write an app as the text of a project file: stable order, one thing a line.

    Raises:
        ValueError: for an app that could not be read again.
    """
    app = msgspec.convert(msgspec.to_builtins(app), App)
    tree = {**_tree(app), "cadena": FORMAT, "needs": NEEDS}
    return _write({name: tree[name] for name in ("cadena", "needs", *tree)}, "") + "\n"


def _tree(node: Any) -> Any:
    """A part as plain JSON, without what is as it would be anyway."""
    if isinstance(node, Struct):
        return {name: _tree(value) for name, value in said(node)}
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


def schema() -> dict[str, Any]:
    """The JSON Schema (2020-12) of the project file."""
    made = msgspec.json.schema(App)
    for kind, thing in things().items():
        of = made["$defs"][kind]
        of["title"] = thing.called
        if "description" in of:
            of["description"] = inspect.cleandoc(of["description"])
        for name, told in thing.has.items():
            of["properties"][name] |= {"title": told.name, "description": told.about}
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Cadena project",
        **made,
    }
