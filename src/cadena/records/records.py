"""The records of one source: typed fields, and each record found by its key."""

from __future__ import annotations

import itertools
from abc import ABC, abstractmethod
from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import TYPE_CHECKING, Any, Final, NamedTuple

from cadena.model.listing import Sort
from cadena.model.source import Source
from cadena.model.values import LIST, FieldType, Scalar, Unfit, Value, carry
from cadena.records.changes import Alike, Changes
from cadena.records.template import fields_in

if TYPE_CHECKING:
    import polars as pl

    from cadena.records.reading import Fault, Reading

Positions = Any
"""Rows, in an order: a list of few, an array of many."""
FEW: Final = 2_000
"""Rows that are held, and laid out, without columns and arrays."""
MEMO: Final = 4096
FEW_KEYS: Final = 16
"""Keys that are looked for one by one; of more, all at once."""
DEEPEST: Final = 3
"""Fields that stand in for one that is empty, one after another."""
KEY_TYPES: Final[dict[str, tuple[type, ...]]] = {
    "text": (str,),
    "picture": (str,),
    "whole number": (int,),
    "number": (float, int),
    "yes/no": (bool,),
    "date": (str,),
    "date and time": (str,),
}
_serials = itertools.count(1)


class Term(NamedTuple):
    """A test that the value of a field must pass, and what it is compared with."""

    field: str
    test: str
    wanted: Any


Terms = Sequence[Term | bool]
"""Tests that must all be passed; some have their answer already."""


class Selected(NamedTuple):
    """Rows in an order: how many passed the tests and hold the words, and how many passed the
    tests."""

    positions: Positions
    found: int
    kept: int


class Records(ABC):
    """Typed records with a key: few are held as lists, many as columns (see ``held.py``).

    Args:
        source: the source they belong to.
        types: the type of each field, in order.
        faults: what of the data could not be taken.
        reading: what they were typed from, so that they can be typed otherwise; or what reads
            that once it is wanted.
    """

    def __init__(
        self,
        source: Source,
        types: Mapping[str, FieldType],
        faults: tuple[Fault, ...] = (),
        reading: Reading | Callable[[], Reading] | None = None,
    ):
        self.source = source
        self.types = dict(types)
        self.faults = faults
        self.serial = next(_serials)
        self._reading = reading
        self._before: Records | None = None
        self._edited: frozenset[str] = frozenset()
        self._records: dict[int, dict[str, Any]] = {}
        self._orders: dict[tuple[Sort, ...], Any] = {}
        self._lowered: dict[tuple[str, ...], Any] = {}
        self._when_empty = {each.name: each.when_empty for each in source.fields}

    @abstractmethod
    def __len__(self) -> int: ...

    @property
    @abstractmethod
    def frame(self) -> pl.DataFrame:
        """All fields as columns."""

    @property
    def reading(self) -> Reading | None:
        """What they were typed from, where that is known."""
        if callable(self._reading):
            self._reading = self._reading()
        return self._reading

    def is_typed_from(self, reading: Reading) -> bool:
        """Whether this is what they were typed from."""
        return self._reading is reading

    @property
    def keys(self) -> pl.Series:
        """The key column; nulls throughout where the source has no such field."""
        import polars as pl

        if self.source.key in self.types:
            return self.frame[self.source.key]
        return pl.Series(self.source.key, [None] * len(self), dtype=pl.String())

    @abstractmethod
    def values_of(self, name: str, most: int | None = None) -> list[Any]:
        """The values of a field, of the first ``most`` records; none where it is not there."""

    @abstractmethod
    def twice(self) -> list[Any]:
        """The keys of records that share one, a key for each of them."""

    @abstractmethod
    def row_of(self, key: Any) -> int | None:
        """The row that holds a key, or none. Takes no longer for many records than for few."""

    @abstractmethod
    def largest_key(self) -> Any:
        """The largest key, or none without records."""

    def could_hold(self, key: Any) -> bool:
        """Whether a value is of the type of the keys."""
        kind = self.types.get(self.source.key, "text")
        return type(key) in KEY_TYPES.get(kind, ())

    def can_be_key(self, key: Any) -> bool:
        """Whether a value could be the key of one of these records."""
        if self.source.key not in self.types or not self.could_hold(key):
            return False
        return fitting(key, self.types[self.source.key]) is not None

    def unused_key(self, stem: str) -> Scalar | None:
        """A key that no record has: the next number, or a text; none where there is none, or for
        keys of other types."""
        kind = self.types.get(self.source.key, "text")
        if kind == "whole number":
            largest = self.largest_key()
            following = 1 if largest is None else int(largest) + 1
            return following if self.can_be_key(following) else None
        if kind not in ("text", "picture"):
            return None
        number = len(self) + 1
        while self.row_of(f"{stem}-{number}") is not None:
            number += 1
        return f"{stem}-{number}"

    @abstractmethod
    def key_at(self, row: int) -> Any:
        """The key of a row, as a value."""

    @abstractmethod
    def keys_at(self, positions: Positions) -> list[Any]:
        """The keys of some rows, as values."""

    @abstractmethod
    def rows_with(self, keys: Sequence[Scalar]) -> Any:
        """For each record whether its key is among some; of records that share one, the first."""

    def there(self, keys: tuple[Scalar, ...]) -> tuple[Scalar, ...]:
        """Those of some different keys that there are records of."""
        left = self.among(keys)
        return keys if len(left) == len(keys) else left

    @property
    def are_different(self) -> bool:
        """Whether no two records share a key."""
        return not self.twice()

    def among(self, keys: tuple[Scalar, ...]) -> tuple[Scalar, ...]:
        """Those of some keys that there are records of."""
        return tuple(each for each in keys if self.row_of(each) is not None)

    @abstractmethod
    def values_with(self, name: str, keys: Sequence[Scalar]) -> list[Any]:
        """The value of a field of each record with one of some keys."""

    @abstractmethod
    def with_alike(self, alike: Iterable[Alike]) -> Records:
        """The records with fields of many changed, the same in each."""

    def record(self, row: int) -> dict[str, Any]:
        """One record as plain values: dates as ISO text, lists as tuples."""
        made = self._records.get(row)
        if made is None:
            if len(self._records) >= MEMO:
                self._records.clear()
            made = self._records[row] = self._record(row)
        return made

    @abstractmethod
    def _record(self, row: int) -> dict[str, Any]: ...

    def by_key(self, key: Any) -> dict[str, Any] | None:
        """The record of a key, or none."""
        row = self.row_of(key)
        return None if row is None else self.record(row)

    @abstractmethod
    def gaps(self, name: str) -> Positions:
        """The rows of which a field is empty; all, where there is no such field."""

    def unsaid(self, text: str) -> Any:
        """For each row whether a text with fields says nothing (see ``Sayings.fill``); none where
        it says something of every row."""
        if not fields_in(text):
            return None
        names: dict[str, None] = {}
        return self._all_empty(names) if self._must_be_empty(text, names, 0) else None

    def _must_be_empty(self, text: str, names: dict[str, None], depth: int) -> bool:
        """Gather the fields that must be empty for a text to say nothing; whether it ever can."""
        for name in fields_in(text):
            names[name] = None
            words = self._when_empty.get(name, "–")
            if words in ("", "–") or depth > DEEPEST:
                continue
            if not fields_in(words) or not self._must_be_empty(words, names, depth + 1):
                return False
        return True

    @abstractmethod
    def _all_empty(self, names: Iterable[str]) -> Any:
        """For each row whether all of these fields are empty; none where no row is so."""

    def order(self, sort: tuple[Sort, ...]) -> Any:
        """All rows in an order; kept, so that a search or a second list need not sort again.

        Text is sorted without regard to case, and what is empty comes last. Equal rows stay
        in the order in which they were read.
        """
        made = self._orders.get(sort)
        if made is None:
            by = tuple(each for each in sort if each.field in self.types)
            before = self._untouched(each.field for each in by)
            made = self._ordered(by) if before is None else before.order(by)
            self._orders[sort] = made
        return made

    @abstractmethod
    def _ordered(self, by: tuple[Sort, ...]) -> Any: ...

    def lowered(self, names: Sequence[str]) -> Any:
        """The fields named, joined and in lower case: what a search reads."""
        at = tuple(name for name in names if name in self.types)
        made = self._lowered.get(at)
        if made is None:
            before = self._untouched(at)
            made = self._in_lower_case(at) if before is None else before.lowered(at)
            self._lowered[at] = made
        return made

    @abstractmethod
    def _in_lower_case(self, names: tuple[str, ...]) -> Any: ...

    def _untouched(self, names: Iterable[str]) -> Records | None:
        """The records that these were made of by edits, where none of these fields was edited."""
        return None if self._edited.intersection(names) else self._before

    @abstractmethod
    def select(
        self, terms: Terms, words: Sequence[str], fields: Sequence[str], sort: tuple[Sort, ...]
    ) -> Selected:
        """The rows that pass all terms and hold each word in one of the fields, in an order."""

    @abstractmethod
    def by_terms(self, groups: Sequence[Terms]) -> Any:
        """For each row the number of the first group whose terms it passes, or their count."""

    @abstractmethod
    def by_field(self, name: str) -> tuple[Any, list[Any]]:
        """For each row the number of its value among those of a field, in order; the values."""

    @abstractmethod
    def in_groups(
        self, positions: Positions, numbers: Any
    ) -> tuple[Positions, list[tuple[int, int]]]:
        """Rows group by group, each in the order they had; where each begins, and its number."""

    @abstractmethod
    def places(self, positions: Positions) -> Any:
        """For each record where it stands among rows, or -1."""

    @abstractmethod
    def said_by(self, source: Source) -> Records:
        """The same records, of a source that says them otherwise."""

    @abstractmethod
    def with_only(self, names: Sequence[str]) -> Records:
        """The same records with every other field empty; the key stays."""

    @abstractmethod
    def none(self) -> Records:
        """No records, of the same fields."""

    def with_changes(self, changes: Changes) -> Records:
        """The records as they are once changes by key are made.

        Keys that are not there and values of the wrong type change nothing.
        """
        return self.with_others(changes).with_edits(changes)

    @abstractmethod
    def with_others(self, changes: Changes) -> Records:
        """The records with those that are new, and without those that are gone."""

    def _new(self, changes: Changes) -> list[dict[str, Any]]:
        """The records that are new, of the fields that there are."""
        rows = (
            {name: fitting(each.get(name), kind) for name, kind in self.types.items()}
            for each in changes.added
        )
        key = self.source.key
        return [row for row in rows if row.get(key) is not None and self.row_of(row[key]) is None]

    @abstractmethod
    def with_edits(self, changes: Changes) -> Records:
        """The records with fields changed; what these do not touch is not found anew."""

    def _edits(self, changes: Changes) -> dict[str, dict[int, Any]]:
        """The new values of each field that is changed, by row."""
        made: dict[str, dict[int, Any]] = {}
        for change in changes.changed:
            row = self.row_of(change.key)
            if row is None:
                continue
            for name, value in change.fields.items():
                kind = self.types.get(name)
                fits = None if kind is None else fitting(value, kind)
                if kind is not None and (fits is not None or value is None):
                    made.setdefault(name, {})[row] = fits
        return made


def fitting(value: Any, kind: FieldType) -> Value | None:
    """A value as a field of a type holds it, or none where it does not fit."""
    if value is None or (type(value) is str and kind in ("text", "picture")):
        return value
    try:
        return carry(value, kind)
    except Unfit:
        return None


def held_like(kind: str) -> str:
    """The type that holds the same values: pictures are texts."""
    return kind.replace("picture", "text")


def is_list(kind: str) -> bool:
    """Whether the values of a type are lists."""
    return kind.startswith(LIST)
