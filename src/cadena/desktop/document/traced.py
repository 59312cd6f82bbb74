"""A line of the Bench's trace."""

from __future__ import annotations

from typing import NamedTuple

from cadena.engine.events import Event
from cadena.engine.notes import Notes


class Traced(NamedTuple):
    """An event, what the engine said of it, and whether it refused it."""

    event: Event | None
    notes: Notes
    refused: bool = False
