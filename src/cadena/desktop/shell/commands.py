"""Every command there is, in one table: keys, menus and Ctrl+K are made of it."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple


def always() -> bool:
    """A command that can always be given."""
    return True


class Command(NamedTuple):
    """One command: what it is called, its keys, what it does, and whether it can be done now."""

    name: str
    keys: str
    does: Callable[[], object]
    can: Callable[[], bool] = always
    menu: str = ""
