"""Texts with ``{field}`` in them, filled from one record or measured over whole columns."""

from __future__ import annotations

import re
from collections.abc import Mapping
from functools import lru_cache
from typing import Any, Final

from cadena.model.values import shown

FIELD: Final = re.compile(r"\{([^{}]*)\}")


@lru_cache(maxsize=1024)
def fields_in(text: str) -> tuple[str, ...]:
    """The fields that a text names, in order."""
    return tuple(FIELD.findall(text))


def fill(text: str, record: Mapping[str, Any] | None) -> str:
    """Fill a text from a record.

    An empty field shows as an en dash; where every field named is empty, so is the text.
    """
    names = fields_in(text)
    if not names:
        return text
    record = record or {}
    if all(is_empty(record.get(name)) for name in names):
        return ""
    return FIELD.sub(lambda match: _shown(record.get(match[1])), text)


def _shown(value: Any) -> str:
    return shown(None if value == "" else value)


def is_empty(value: Any) -> bool:
    """Whether there is nothing to show: none, or a text of no letters. ``0`` is something."""
    return value is None or value == ""
