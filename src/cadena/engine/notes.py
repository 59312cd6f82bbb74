"""What the engine says of an event: what happened, and why, as a kind and its data.

The words are made where somebody reads them (``cadena.words.notes``), so that traces can be
compared across languages, and translated.
"""

from __future__ import annotations

from typing import Any, Literal

from msgspec import Struct

from cadena.model.values import Unfit

Kind = Literal[
    "already open",
    "answered",
    "arranged",
    "asked",
    "asleep",
    "awake",
    "back",
    "back to",
    "brought",
    "called",
    "changed",
    "closed",
    "closed by rule",
    "divided",
    "dropped",
    "emptied",
    "failed",
    "fallback",
    "filtered",
    "forward",
    "given up",
    "group",
    "handed out",
    "kept",
    "killed",
    "late",
    "left",
    "left for",
    "left out",
    "let go",
    "marked",
    "moved on",
    "not opened",
    "not opened by rule",
    "not saved",
    "not sent",
    "not written",
    "opened",
    "page",
    "picked",
    "put back",
    "rebuilt",
    "refreshed",
    "refused",
    "relaunched",
    "removed",
    "restored",
    "said",
    "saved",
    "section",
    "sent",
    "set",
    "settled",
    "shares",
    "started",
    "visited",
    "window",
    "written",
]


class Note(Struct, frozen=True, omit_defaults=True):
    """What happened.

    ``kind`` is a stable word, and ``case`` tells apart the ways that it comes about in; ``data``
    has what the sentence names: values, lists of them, and notes of why; ``where`` is a path
    into the project.
    """

    kind: Kind
    case: str = ""
    data: dict[str, Any] = {}
    where: str = ""

    @classmethod
    def of(cls, kind: Kind, case: str = "", where: str = "", **data: Any) -> Note:
        return cls(kind, case, data, where)


Notes = tuple[Note, ...]


class Refused(Exception):
    """An event that cannot be taken; the session stays as it is."""

    def __init__(self, case: str, where: str = "", **data: Any):
        super().__init__(case)
        self.note = Note("refused", case, data, where)


def unfit_field(source: str, field: str, unfit: Unfit) -> Refused:
    """That a value does not fit the field that it would be given to."""
    where = f"sources[{source}]"
    return Refused("field unfit", where, field=field, came=unfit.came, wanted=unfit.wanted)


def unfit_value(value: str, unfit: Unfit) -> Refused:
    """That what would be set does not fit an app-wide value."""
    where = f"values[{value}]"
    return Refused("value unfit", where, value=value, came=unfit.came, wanted=unfit.wanted)
