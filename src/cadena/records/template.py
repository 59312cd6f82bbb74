"""Texts with ``{field}`` in them."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

from cadena.model.field_uses import names_in


@lru_cache(maxsize=1024)
def fields_in(text: str) -> tuple[str, ...]:
    """The fields that a text names, in order."""
    return tuple(names_in(text))


def is_empty(value: Any) -> bool:
    """Whether there is nothing to show: none, or a text of no letters. ``0`` is something."""
    return value is None or value == ""
