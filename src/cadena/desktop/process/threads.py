"""What threads tell the main one: nothing, where what they would tell it of is gone."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QObject
from shiboken6 import isValid


def is_there(owner: QObject) -> bool:
    """Whether an object of the toolkit still is."""
    return bool(isValid(owner))


def tell(owner: QObject, signal: str, *what: Any) -> None:
    """Emit a signal of an object, unless it is gone: a thread may end long after it."""
    try:
        if is_there(owner):
            getattr(owner, signal).emit(*what)
    except RuntimeError:
        # It went while this was said.
        if is_there(owner):
            raise
