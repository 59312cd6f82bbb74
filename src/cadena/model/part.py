"""What the structures of the model are made of."""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Meta, Struct

Size = Annotated[float, Meta(ge=0)]
"""A width or a height in dp, or a share of one."""

Lifetime = Literal["view", "entry", "saved", "stored"]


class Part(Struct, frozen=True, kw_only=True, omit_defaults=True, forbid_unknown_fields=True):
    """What every structure of the model shares: frozen, exact, its defaults not written."""
