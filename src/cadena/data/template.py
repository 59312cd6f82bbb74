"""Texts with ``{field}`` in them."""

from __future__ import annotations

import re
from functools import lru_cache
from typing import Any, Final

FIELD: Final = re.compile(r"\{([^{}]*)\}")


@lru_cache(maxsize=1024)
def fields_in(text: str) -> tuple[str, ...]:
    """The fields that a text names, in order."""
    return tuple(FIELD.findall(text))


def is_empty(value: Any) -> bool:
    """Whether there is nothing to show: none, or a text of no letters. ``0`` is something."""
    return value is None or value == ""
