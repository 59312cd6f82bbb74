"""The records of one source: whole columns, and each record found by its key."""

from __future__ import annotations

import datetime
import itertools
from collections.abc import Iterable, Mapping, Sequence
from functools import cached_property
from typing import Any, Final

import numpy as np
import polars as pl
from numpy.typing import NDArray

from cadena.model.listing import Sort
from cadena.model.source import Source
from cadena.model.values import LIST, FieldType, Scalar, as_time
from cadena.records.changes import Changes
from cadena.records.reading import Fault, Reading
from cadena.records.template import fields_in

Positions = NDArray[np.int32]

DTYPES: Final[dict[str, pl.DataType]] = {
    "text": pl.String(),
    "picture": pl.String(),
    "whole number": pl.Int64(),
    "number": pl.Float64(),
    "yes/no": pl.Boolean(),
    "date": pl.Date(),
    "date and time": pl.Datetime("us"),
}
MEMO: Final = 4096
FEW_EDITED: Final = 4
"""Rows that are put in their new places one by one."""
WORDS_KEPT: Final = 8
KEY_TYPES: Final[dict[type, tuple[type, ...]]] = {
    pl.String: (str,),
    pl.Int64: (int,),
    pl.Float64: (float, int),
    pl.Boolean: (bool,),
    pl.Date: (str,),
    pl.Datetime: (str,),
}
PLAIN: Final[dict[type, tuple[type, ...]]] = {
    pl.String: (str,),
    pl.Float64: (float,),
    pl.Boolean: (bool,),
}
"""Types of values that a column holds as they are."""
_serials = itertools.count(1)


def dtype_of(kind: str) -> pl.DataType:
    """The column type that holds a field type."""
    return pl.List(DTYPES[kind[len(LIST) :]]) if kind.startswith(LIST) else DTYPES[kind]


def all_different(column: pl.Series) -> bool:
    """Whether no two values of a column are equal; keys in order are told at no cost."""
    if len(column) < 2 or isinstance(column.dtype, pl.List):
        return True
    if column.is_sorted():
        return not bool((column.head(len(column) - 1) == column.tail(len(column) - 1)).any())
    return column.n_unique() == len(column)


class Records:
    """Typed columns with a key.

    Args:
        source: the source they belong to.
        frame: the columns, of the types that ``types`` names.
        types: the type of each field, in order.
        faults: what of the data could not be taken.
        reading: what they were typed from, so that they can be typed otherwise.
    """

    def __init__(
        self,
        source: Source,
        frame: pl.DataFrame,
        types: Mapping[str, FieldType],
        faults: tuple[Fault, ...] = (),
        reading: Reading | None = None,
    ):
        self.source = source
        self.reading = reading
        self.faults = faults
        self.frame = frame
        self.types = dict(types)
        self.serial = next(_serials)
        self._before: Records | None = None
        self._edited: frozenset[str] = frozenset()
        self._rows_edited: set[int] = set()
        self._thinned: tuple[Records, Positions] | None = None
        self._memo: dict[Scalar, int | None] = {}
        self._records: dict[int, dict[str, Any]] = {}
        self._empty: dict[str, NDArray[np.bool_]] = {}
        self._orders: dict[tuple[Sort, ...], Positions] = {}
        self._lowered: dict[tuple[str, ...], pl.Series] = {}
        self._holding: dict[tuple[tuple[str, ...], str], NDArray[np.bool_]] = {}

    def __len__(self) -> int:
        return self.frame.height

    @cached_property
    def keys(self) -> pl.Series:
        """The key column; nulls throughout where the source has no such field."""
        if self.source.key in self.frame.columns:
            return self.frame[self.source.key]
        return pl.Series(self.source.key, [None] * len(self), dtype=pl.String())

    @cached_property
    def twice(self) -> pl.Series:
        """The keys of records that share one; empty where each is unique."""
        filled = self.keys.drop_nulls()
        if all_different(filled):
            return filled.clear()
        return filled.filter(filled.is_duplicated())

    @cached_property
    def _hashed(self) -> tuple[NDArray[np.uint64], Positions]:
        if (before := self._untouched({self.source.key})) is not None:
            return before._hashed
        hashes = self.keys.hash().to_numpy()
        order = np.argsort(hashes, kind="stable").astype(np.int32)
        return hashes[order], order

    def _untouched(self, names: Iterable[str]) -> Records | None:
        """The records that these were made of by edits, where none of these fields was edited."""
        return None if self._edited.intersection(names) else self._before

    def row_of(self, key: Any) -> int | None:
        """The row that holds a key, or none. Takes no longer for many records than for few."""
        if type(key) not in KEY_TYPES.get(type(self.keys.dtype), ()):
            return None
        if key in self._memo:
            return self._memo[key]
        found = self._find(key)
        if len(self._memo) >= MEMO:
            self._memo.clear()
        self._memo[key] = found
        return found

    def can_be_key(self, key: Any) -> bool:
        """Whether a value could be the key of one of these records."""
        dtype = self.keys.dtype
        if type(key) not in KEY_TYPES.get(type(dtype), ()) or self.source.key not in self.types:
            return False
        return _stored(key, dtype) is not None

    def _find(self, key: Any) -> int | None:
        if self._thinned is not None:
            fuller, gone = self._thinned
            was = fuller.row_of(key)
            return None if was is None or was in gone else was - int(np.searchsorted(gone, was))
        dtype = self.keys.dtype
        probe: Any = key
        if dtype.is_temporal():
            probe = _stored(key, dtype)
            if probe is None:
                return None
        elif dtype == pl.Int64 and not -(2**63) <= key < 2**63:
            return None
        hashes, order = self._hashed
        wanted = pl.Series([probe], dtype=dtype).hash().to_numpy()[0]
        at = int(np.searchsorted(hashes, wanted))
        while at < len(order) and hashes[at] == wanted:
            row = int(order[at])
            if self.keys[row] == probe:
                return row
            at += 1
        return None

    def unused_key(self, stem: str) -> Scalar | None:
        """A key that no record has: the next number, or a text; none where there is none, or for
        keys of other types."""
        dtype = self.keys.dtype
        if dtype == pl.Int64:
            largest: Any = self.keys.max()
            following = 1 if largest is None else int(largest) + 1
            return following if self.can_be_key(following) else None
        if dtype != pl.String:
            return None
        number = len(self) + 1
        while self.row_of(f"{stem}-{number}") is not None:
            number += 1
        return f"{stem}-{number}"

    def key_at(self, row: int) -> Any:
        """The key of a row, as a value."""
        return plain(self.keys[row])

    def record(self, row: int) -> dict[str, Any]:
        """One record as plain values: dates as ISO text, lists as tuples."""
        made = self._records.get(row)
        if made is None:
            if len(self._records) >= MEMO:
                self._records.clear()
            made = {name: plain(value) for name, value in self.frame.row(row, named=True).items()}
            self._records[row] = made
        return made

    def by_key(self, key: Any) -> dict[str, Any] | None:
        """The record of a key, or none."""
        row = self.row_of(key)
        return None if row is None else self.record(row)

    def empty(self, text: str) -> NDArray[np.bool_]:
        """For each row, whether a text with fields comes out empty (see ``template.fill``)."""
        if text not in self._empty:
            names = fields_in(text)
            masks = [self._empty_field(name) for name in names]
            self._empty[text] = (
                np.logical_and.reduce(masks) if masks else np.full(len(self), not text)
            )
        return self._empty[text]

    def unsaid(self, text: str) -> NDArray[np.bool_]:
        """For each row, whether a text with fields says nothing (see ``Sayings.fill``)."""
        names = fields_in(text)
        if not names:
            return np.full(len(self), not text)
        made: NDArray[np.bool_] = np.logical_and.reduce(
            [self._unsaid_field(name, 0) for name in names]
        )
        return made

    def _unsaid_field(self, name: str, depth: int) -> NDArray[np.bool_]:
        words = self._when_empty.get(name, "–")
        if words in ("", "–") or depth > 3:
            return self._empty_field(name)
        others = [self._unsaid_field(each, depth + 1) for each in fields_in(words)]
        if not others:
            return np.zeros(len(self), dtype=np.bool_)
        made: NDArray[np.bool_] = np.logical_and.reduce([self._empty_field(name), *others])
        return made

    @cached_property
    def _when_empty(self) -> dict[str, str]:
        return {each.name: each.when_empty for each in self.source.fields}

    def _empty_field(self, name: str) -> NDArray[np.bool_]:
        if name not in self.frame.columns:
            return np.ones(len(self), dtype=np.bool_)
        column = self.frame[name]
        mask = column.is_null()
        if column.dtype == pl.String:
            mask = mask | (column == "").fill_null(True)
        return mask.to_numpy()

    def lowered(self, names: Sequence[str]) -> pl.Series:
        """The fields named, joined and in lower case: what a search reads."""
        at = tuple(name for name in names if name in self.frame.columns)
        if (before := self._untouched(at)) is not None:
            return before.lowered(names)
        if at not in self._lowered:
            texts = [self._as_text(name).fill_null("") for name in at]
            joined = pl.concat_str(texts, separator="\n") if texts else pl.repeat("", len(self))
            self._lowered[at] = self.frame.select(joined.str.to_lowercase().alias("t"))["t"]
        return self._lowered[at]

    def _as_text(self, name: str) -> pl.Expr:
        column = pl.col(name)
        if isinstance(self.frame[name].dtype, pl.List):
            return column.list.eval(pl.element().cast(pl.String)).list.join(" ")
        return column.cast(pl.String)

    def holding(self, names: Sequence[str], word: str) -> NDArray[np.bool_]:
        """For each row, whether one of these fields holds a word in lower case.

        A word that grows as it is typed is looked for only where its beginning was found.
        """
        at = tuple(names)
        if (at, word) in self._holding:
            return self._holding[at, word]
        texts = self.lowered(names)
        begun = next(
            (mask for (of, part), mask in self._holding.items() if of == at and part in word), None
        )
        if begun is None or np.count_nonzero(begun) * 4 > len(begun):
            found = texts.str.contains(word, literal=True).to_numpy()
        else:
            rows = np.flatnonzero(begun)
            found = np.zeros(len(self), dtype=np.bool_)
            found[rows] = texts.gather(rows).str.contains(word, literal=True).to_numpy()
        if len(self._holding) >= WORDS_KEPT:
            self._holding.clear()
        self._holding[at, word] = found
        return found

    def order(self, sort: tuple[Sort, ...]) -> Positions:
        """All rows in an order; kept, so that a search or a second list need not sort again.

        Text is sorted without regard to case, and what is empty comes last. Equal rows stay
        in the order in which they were read.
        """
        by = tuple(each for each in sort if each.field in self.types)
        if (before := self._untouched(each.field for each in by)) is not None:
            return before.order(sort)
        if by not in self._orders:
            self._orders[by] = self._ordered(by)
        return self._orders[by]

    def _ordered(self, by: tuple[Sort, ...]) -> Positions:
        if not by:
            return np.arange(len(self), dtype=np.int32)
        if self._before is not None and len(by) == 1 and len(self._rows_edited) <= FEW_EDITED:
            return self._moved(by[0], self._before.order(by))
        if self._thinned is None:
            return self._sorted(by)
        fuller, gone = self._thinned
        order = fuller.order(by)
        stays = np.ones(len(fuller), dtype=np.bool_)
        stays[gone] = False
        order = order[stays[order]]
        return order - np.searchsorted(gone, order).astype(np.int32)

    def _moved(self, by: Sort, before: Positions) -> Positions:
        """An order in which a few rows stand elsewhere than before: as ``_sorted`` has it."""
        column = self.frame.select(self._sorting(by.field).alias("by"))["by"]
        order = before[~np.isin(before, list(self._rows_edited))]
        for row in sorted(self._rows_edited):
            sorted_by = column.gather(order)
            filled = len(sorted_by) - sorted_by.null_count()
            first, last = filled, len(order)
            if (value := column[row]) is not None:
                there = sorted_by.head(filled)
                first, last = (
                    int(there.search_sorted(value, side=side, descending=by.descending))
                    for side in ("left", "right")
                )
            at = first + int(np.searchsorted(order[first:last], row))
            order = np.insert(order, at, row)
        return order.astype(np.int32)

    def _sorted(self, by: tuple[Sort, ...]) -> Positions:
        columns = [self._sorting(each.field).alias(str(number)) for number, each in enumerate(by)]
        made = self.frame.select(columns).with_row_index("row")
        order = made.sort(
            [str(number) for number in range(len(by))],
            descending=[each.descending for each in by],
            nulls_last=True,
            maintain_order=True,
        )
        return order["row"].to_numpy().astype(np.int32)

    def _sorting(self, name: str) -> pl.Expr:
        """What a field sorts by."""
        column = pl.col(name)
        if self.frame[name].dtype != pl.String:
            return column
        return pl.when(column != "").then(column.str.to_lowercase())

    def said_by(self, source: Source) -> Records:
        """The same records, of a source that says them otherwise."""
        return Records(source, self.frame, self.types, self.faults, self.reading)

    def with_only(self, names: Sequence[str]) -> Records:
        """The same records with every other field empty; the key stays."""
        kept = {*names, self.source.key}
        gaps = [
            pl.lit(None, dtype=dtype).alias(name)
            for name, dtype in self.frame.schema.items()
            if name not in kept
        ]
        return Records(self.source, self.frame.with_columns(gaps), self.types)

    def none(self) -> Records:
        """No records, of the same fields."""
        return Records(self.source, self.frame.clear(), self.types)

    def with_changes(self, changes: Changes) -> Records:
        """The records as they are once changes by key are made.

        Keys that are not there and values of the wrong type change nothing.
        """
        return self.with_others(changes).with_edits(changes)

    def with_others(self, changes: Changes) -> Records:
        """The records with those that are new, and without those that are gone."""
        if not changes.added and not changes.gone:
            return self
        frame, schema, key = self.frame, self.frame.schema, self.source.key
        grown = self
        if changes.added:
            rows = [
                {name: _stored(each.get(name), schema[name]) for name in schema}
                for each in changes.added
            ]
            new = [
                each
                for each in rows
                if each.get(key) is not None and self.row_of(plain(each[key])) is None
            ]
            frame = pl.concat([frame, pl.DataFrame(new, schema=schema)])
            grown = Records(self.source, frame, self.types)
        return grown._without(changes.gone) if changes.gone and key in schema else grown

    def _without(self, keys: Iterable[Scalar]) -> Records:
        """The records but for those with these keys; what is known of them serves again."""
        found = {row for each in keys if (row := self.row_of(each)) is not None}
        gone = np.array(sorted(found), dtype=np.int32)
        stays = np.ones(len(self), dtype=np.bool_)
        stays[gone] = False
        left = Records(self.source, self.frame.filter(pl.Series(stays)), self.types)
        if not len(self.twice):
            left._thinned = (self, gone)
        return left

    def with_edits(self, changes: Changes) -> Records:
        """The records with fields changed; what these do not touch is not found anew."""
        if not changes.changed:
            return self
        schema = self.frame.schema
        columns: dict[str, pl.Series] = {}
        rows: set[int] = set()
        for change in changes.changed:
            row = self.row_of(change.key)
            rows |= {row} if row is not None else set()
            for name, value in change.fields.items():
                stored = _stored(value, schema[name]) if name in schema else None
                if row is None or name not in schema or (stored is None and value is not None):
                    continue
                if name not in columns:
                    columns[name] = self.frame[name].clone()
                if isinstance(schema[name], pl.List):
                    cells = columns[name].to_list()
                    cells[row] = stored
                    columns[name] = pl.Series(name, cells, dtype=schema[name])
                else:
                    columns[name] = columns[name].scatter(row, stored)
        made = Records(self.source, self.frame.with_columns(columns.values()), self.types)
        made._before, made._edited = self, frozenset(columns)
        made._rows_edited = rows
        if self.source.key not in columns:
            made._memo = self._memo
        return made


def plain(value: Any) -> Any:
    """What a column holds as a plain value: dates as ISO text, lists as tuples."""
    if isinstance(value, datetime.datetime):
        return value.isoformat() + "Z"
    if isinstance(value, datetime.date):
        return value.isoformat()
    if isinstance(value, list):
        return tuple(plain(each) for each in value)
    if isinstance(value, pl.Series):
        return tuple(plain(each) for each in value.to_list())
    return value


def time_of(text: str) -> datetime.datetime | None:
    """A date and time as its column holds it, or none."""
    held = as_time(text)
    return datetime.datetime.fromisoformat(held.removesuffix("Z")) if held else None


def _stored(value: Any, dtype: pl.DataType) -> Any:
    """A plain value as its column holds it, or none where it does not fit."""
    if value is None or type(value) in PLAIN.get(type(dtype), ()):
        return value
    try:
        if dtype == pl.Date:
            return datetime.date.fromisoformat(value)
        if isinstance(dtype, pl.Datetime):
            return time_of(value)
        return pl.Series([value], dtype=dtype, strict=True)[0]
    except (TypeError, ValueError, OverflowError, pl.exceptions.PolarsError):
        return None
