"""The engine and what shows it, as the kit of an app for the desktop: the very modules, under the
name of the kit."""

from __future__ import annotations

import ast
import re
from functools import lru_cache
from importlib import resources
from importlib.metadata import version
from typing import Final

ROOT: Final = "cadena"
BEGINS: Final = ("cadena.native.start", "cadena.native.door")
COLUMN_ENGINE: Final = "polars"
IMPORT: Final = re.compile(r"^(\s*)(from|import) cadena(?=[. ])", re.MULTILINE)
PACKAGES: Final = {
    "PySide6": "PySide6-Essentials",
    "msgspec": "msgspec",
    "babel": "babel",
    "inflection": "inflection",
    "numpy": "numpy",
    "uritemplate": "uritemplate",
    "httpx": "httpx",
    "jsonpointer": "jsonpointer",
}
"""By the name that is imported, the package that is installed for it."""
FOR_CALLS: Final = frozenset({"httpx", "jsonpointer"})


def taken_as(name: str, text: str) -> str:
    """A module as it stands in the kit of a package: its imports are those of the kit."""
    return IMPORT.sub(rf"\1\2 {name}.kit", text)


@lru_cache
def kit_modules() -> dict[str, str]:
    """The text of each module of the kit, by its path in it.

    What only the column engine serves stays behind: records that are handed over are few, or are
    held as lists.
    """
    made: dict[str, str] = {}
    todo = list(BEGINS)
    while todo:
        module = todo.pop()
        found = _text_of(module)
        if found is None or found[0] in made:
            continue
        path, text = found
        imports = [*_imports(text)]
        if any(at_top and name.split(".")[0] == COLUMN_ENGINE for name, at_top in imports):
            continue
        made[path] = text
        todo += [name for name, _ in imports if name.split(".")[0] == ROOT]
        todo += [module.rpartition(".")[0]] if module != ROOT else []
    return dict(sorted(made.items()))


def packages(calls: bool = True) -> dict[str, str]:
    """What the kit needs beside Python, with the versions that it is tried with here.

    Args:
        calls: whether the app calls services.
    """
    wanted = {
        name.split(".")[0]
        for text in kit_modules().values()
        for name, _ in _imports(text)
        if name.split(".")[0] in PACKAGES
    } - (set() if calls else FOR_CALLS)
    return {PACKAGES[each]: version(PACKAGES[each]) for each in sorted(wanted)}


def _text_of(module: str) -> tuple[str, str] | None:
    """The path in the kit, and the text, of a module of Cadena; none where it is none."""
    parts = module.split(".")
    if parts[0] != ROOT:
        return None
    folder = resources.files(ROOT)
    for path in (f"{'/'.join(parts[1:])}.py", "/".join([*parts[1:], "__init__.py"])):
        at = folder.joinpath(path)
        if path != ".py" and at.is_file():
            return path, at.read_text("utf-8")
    return None


def _imports(text: str) -> list[tuple[str, bool]]:
    """What a module imports when it runs, and whether it does so as it begins."""
    found: list[tuple[str, bool]] = []

    def walk(node: ast.AST, at_top: bool) -> None:
        for inner in ast.iter_child_nodes(node):
            if isinstance(inner, ast.If) and getattr(inner.test, "id", "") == "TYPE_CHECKING":
                continue
            if isinstance(inner, ast.ImportFrom) and inner.module:
                found.append((inner.module, at_top))
                found.extend((f"{inner.module}.{name.name}", at_top) for name in inner.names)
            elif isinstance(inner, ast.Import):
                found.extend((name.name, at_top) for name in inner.names)
            is_later = isinstance(inner, ast.FunctionDef | ast.AsyncFunctionDef)
            walk(inner, at_top and not is_later)

    walk(ast.parse(text), True)
    return found
