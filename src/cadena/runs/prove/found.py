"""What breaks a claim: where, what, and the events that lead to it."""

from __future__ import annotations

from typing import NamedTuple

from cadena.engine.events import Event
from cadena.engine.notes import Note
from cadena.runs.walks.walk import Expected


class Found(NamedTuple):
    """A state or a step that breaks a claim.

    ``state`` is the number of the state that ``tail`` is tried from, and ``column`` the
    arrangement that it has there, none where that makes no difference; ``expect`` is what
    should then be so: what is said, or what is so after some other events from that state, of
    which there may be none.
    """

    claim: str
    where: str
    what: str | Note
    column: str | None
    state: int
    tail: tuple[Event, ...]
    expect: Expected | tuple[Event, ...]
