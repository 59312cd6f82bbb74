"""What the structures of the model are made of."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from functools import lru_cache
from typing import Annotated, Any, Literal

from msgspec import NODEFAULT, Meta, Struct
from msgspec.structs import fields

Size = Annotated[float, Meta(ge=0)]
"""A width or a height in dp, or a share of one."""

Lifetime = Literal["view", "entry", "saved", "stored"]


class Part(Struct, frozen=True, kw_only=True, omit_defaults=True, forbid_unknown_fields=True):
    """What every structure of the model shares: frozen, exact, its defaults not written."""


@lru_cache
def _defaults_of(kind: type[Struct]) -> Mapping[str, Any]:
    """What each property is unless it is said; to read the types of one takes a millisecond."""
    return {
        field.name: field.default if field.default_factory is NODEFAULT else field.default_factory()
        for field in fields(kind)
    }


def said(part: Struct) -> Iterator[tuple[str, Any]]:
    """What tells its kind, and the properties that are not as by default or have no default."""
    config = part.__struct_config__
    if config.tag_field is not None:
        yield config.tag_field, config.tag
    for name, default in _defaults_of(type(part)).items():
        value = getattr(part, name)
        # Yes is not the number 1.
        is_same = value == default and isinstance(value, bool) == isinstance(default, bool)
        if default is NODEFAULT or not is_same:
            yield name, value
