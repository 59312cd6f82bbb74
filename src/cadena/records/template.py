"""Texts with ``{field}`` in them."""

from __future__ import annotations

from collections.abc import Mapping
from functools import lru_cache
from typing import Any

from cadena.model.naming import FIELD, names_in
from cadena.model.values import shown


@lru_cache(maxsize=1024)
def fields_in(text: str) -> tuple[str, ...]:
    """The fields that a text names, in order."""
    return tuple(names_in(text))


def called(label: str, record: Mapping[str, Any]) -> str:
    """What a label of several fields says of a record; empty where all of them are.

    >>> called("{first} {last}", {"first": "Ilva", "last": None})
    'Ilva'
    """
    values = {name: record.get(name) for name in fields_in(label)}
    if all(is_empty(each) for each in values.values()):
        return ""
    said = FIELD.sub(
        lambda name: "" if is_empty(values[name[1]]) else shown(values[name[1]]), label
    )
    return " ".join(said.split())


def is_empty(value: Any) -> bool:
    """Whether there is nothing to show: none, or a text of no letters. ``0`` is something."""
    return value is None or value == ""
