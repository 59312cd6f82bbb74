"""Pictures that lie at web addresses: brought one by one, of bounded size and time."""

from __future__ import annotations

from typing import Final

from cadena.model.source import Service
from cadena.sources.fetch import Caller

PATIENCE: Final = 10.0
LONGEST: Final = 20.0
"""Seconds until an answer begins, and until it has come."""


def picture_at(address: str) -> bytes:
    """What stands at a web address; it comes from the host that the address names alone.

    Raises:
        Problem: naming the address and what came of it.
    """
    caller = Caller(Service(list=address), patience=PATIENCE, longest=LONGEST)
    try:
        return caller.raw(address)
    finally:
        caller.close()
