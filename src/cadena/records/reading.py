"""What a reader gives back: columns, and what of the data could not be taken."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Final

if TYPE_CHECKING:
    import polars as pl

NAMED: Final = 5
MOST_FIELDS: Final = 2000
"""Fields of a record; of more, those after them are left out."""
Progress = Callable[[float], None]
"""Told how far the work is, from 0 to 1; it raises ``Stopped`` to stop it."""


class Stopped(Exception):
    """The person stopped the work."""


def silent(done: float) -> None:
    """Nobody wants to know how far it is."""


@dataclass(frozen=True)
class Fault:
    """Data that was left out or taken otherwise.

    Args:
        count: how many places there are.
        what: what is wrong with them, and what was done.
        places: the first few, as lines, records or fields.
    """

    count: int
    what: str
    places: tuple[str, ...] = ()

    def __str__(self) -> str:
        more = ", …" if self.count > len(self.places) else ""
        at = f" ({', '.join(self.places)}{more})" if self.places else ""
        thing, _, rest = self.what.partition(" ")
        thing = thing.removesuffix("s") if self.count == 1 else thing
        return f"{self.count:,} {thing} {rest}{at}"


@dataclass(frozen=True)
class Reading:
    """The columns of a source as read, of the types found, and what could not be taken.

    ``key`` and ``refers`` are what a database declares: the fields of the primary key, and for
    fields the table and the field that a foreign key names; ``joins`` those of several fields, as
    the table, and for each field of its key the one that holds it. ``emptied`` counts the values
    that are written as a word for nothing, and read as empty. ``inner`` are the fields that hold
    lists of records: each can be a source of its own. ``declared`` are the types that a database
    says of its columns, as those of fields. ``stamp`` tells what the file held when it
    was read from whatever it holds later (``DataFile.stamp``); it is empty for what no file holds.
    """

    frame: pl.DataFrame
    faults: tuple[Fault, ...] = ()
    key: tuple[str, ...] = ()
    refers: Mapping[str, tuple[str, str]] = field(default_factory=dict)
    joins: tuple[tuple[str, Mapping[str, str]], ...] = ()
    emptied: int = 0
    inner: tuple[str, ...] = ()
    declared: Mapping[str, str] = field(default_factory=dict)
    stamp: str = ""
