"""Any value of the model in few words."""

from __future__ import annotations

from typing import Any, Final

from msgspec import UNSET, Struct

from cadena.model.values import in_brief

NONE: Final = "nothing"


def label(name: str) -> str:
    """The name of a field in plain words."""
    return name.replace("_", " ")


def brief(value: Any) -> str:
    """A value in few words, for a person."""
    if isinstance(value, tuple | list):
        return ", ".join(map(brief, value)) or NONE
    if isinstance(value, dict):
        return ", ".join(f"{name} {brief(each)}" for name, each in value.items()) or NONE
    if isinstance(value, Struct):
        fields = ((name, getattr(value, name)) for name in value.__struct_fields__)
        told = {name: each for name, each in fields if each not in (UNSET, None, "", (), {})}
        return brief(told)
    return NONE if value is None else in_brief(value)
