"""Projects of earlier formats: each is made one of the next, until it is of today's.

A format number stands at the head of every project file. A file of a newer format than this
Cadena knows says itself which Cadena it needs.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Final

from cadena import __version__
from cadena.model.problem import Problem

Tree = dict[str, Any]
FORMAT: Final = 3
NEEDS: Final = "0.3.0"
"""The first Cadena that reads projects of today's format."""


def _with_needs(tree: Tree) -> Tree:
    """Format 2 says which Cadena it needs; 3 knows labels, numbered rows and references."""
    return {**tree, "needs": NEEDS}


MIGRATIONS: Final[dict[int, Callable[[Tree], Tree]]] = {1: _with_needs, 2: _with_needs}
"""What makes a project of a format one of the next; it is given one whose number is right."""


def migrated(tree: Tree, name: str) -> Tree:
    """A project of any known format as one of today's.

    Args:
        name: what the file is called in messages.

    Raises:
        Problem: for a number that is none, or one of a newer Cadena.
    """
    number = tree["cadena"]
    if type(number) is not int or number < 1:
        raise Problem(name, "$.cadena", f"the format number is {number!r}", "a whole number from 1")
    if number > FORMAT:
        needs = tree.get("needs")
        needed = f"Cadena {needs} or newer" if isinstance(needs, str) else "a newer Cadena"
        found = f"the format number is {number}; this Cadena, {__version__}, knows up to {FORMAT}"
        raise Problem(name, "$.cadena", found, needed)
    for version in range(number, FORMAT):
        tree = {**MIGRATIONS[version](tree), "cadena": version + 1}
    return tree
