"""What the engine says of an event: what happened, and why."""

from __future__ import annotations

from msgspec import Struct


class Note(Struct, frozen=True, gc=False, omit_defaults=True):
    """``kind`` is a stable word, ``text`` a sentence, ``where`` a path into the project."""

    kind: str
    text: str
    where: str = ""


Notes = tuple[Note, ...]


class Refused(Exception):
    """An event that cannot be taken; the session stays as it is."""

    def __init__(self, text: str, where: str = ""):
        super().__init__(text)
        self.note = Note("refused", text, where)
