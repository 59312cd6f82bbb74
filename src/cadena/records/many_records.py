"""Records that are many, as whole columns."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from functools import cached_property
from typing import Any, Final

import numpy as np
import polars as pl
from numpy.typing import NDArray

from cadena.model.listing import Sort
from cadena.model.source import Source
from cadena.model.values import FieldType, Scalar
from cadena.records.changes import Alike, Changes
from cadena.records.column_tests import column_passes
from cadena.records.columns import all_different, frame_of, plain, plain_values, stored
from cadena.records.reading import Fault, Reading
from cadena.records.records import FEW_KEYS, KEY_TYPES, MEMO, Records, Selected, Terms, fitting
from cadena.records.sorting import sorted_column

Positions = NDArray[np.int32]
Mask = NDArray[np.bool_]
FEW_EDITED: Final = 4
"""Rows that are put in their new places one by one."""
WORDS_KEPT: Final = 8


class ManyRecords(Records):
    """Records held as typed columns.

    Args:
        frame: the columns, of the types that ``types`` names.
    """

    def __init__(
        self,
        source: Source,
        frame: pl.DataFrame,
        types: Mapping[str, FieldType],
        faults: tuple[Fault, ...] = (),
        reading: Reading | Callable[[], Reading] | None = None,
    ):
        super().__init__(source, types, faults, reading)
        self._frame = frame
        self._rows_edited: set[int] = set()
        self._is_edited_throughout = False
        self._with_keys: tuple[Sequence[Scalar], NDArray[np.bool_]] | None = None
        self._thinned: tuple[ManyRecords, Positions] | None = None
        self._memo: dict[Scalar, int | None] = {}
        self._holding: dict[tuple[tuple[str, ...], str], Mask] = {}

    def __len__(self) -> int:
        return self.frame.height

    @property
    def frame(self) -> pl.DataFrame:
        """All fields as columns."""
        return self._frame

    @cached_property
    def keys(self) -> pl.Series:
        """The key column; nulls throughout where the source has no such field."""
        return super().keys

    def values_of(self, name: str, most: int | None = None) -> list[Any]:
        """The values of a field, of the first ``most`` records."""
        if name not in self.types:
            return [None] * min(len(self), most or len(self))
        column = self.frame[name]
        return plain_values(column if most is None else column.head(most))

    def twice(self) -> list[Any]:
        """The keys of records that share one, a key for each of them."""
        filled = self.keys.drop_nulls()
        if all_different(filled):
            return []
        return plain_values(filled.filter(filled.is_duplicated()))

    @cached_property
    def are_different(self) -> bool:
        """Whether no two records share a key."""
        before = self._untouched({self.source.key})
        if before is None and self._thinned is not None:
            before = self._thinned[0]
        return all_different(self.keys.drop_nulls()) if before is None else before.are_different

    @cached_property
    def _hashed(self) -> tuple[NDArray[np.uint64], Positions]:
        if (before := self._untouched({self.source.key})) is not None:
            return before._hashed  # type: ignore[attr-defined, no-any-return]
        hashes = self.keys.hash().to_numpy()
        order = np.argsort(hashes, kind="stable").astype(np.int32)
        return hashes[order], order

    def row_of(self, key: Any) -> int | None:
        """The row that holds a key, or none. Takes no longer for many records than for few."""
        if not self.could_hold(key):
            return None
        if key in self._memo:
            return self._memo[key]
        found = self._find(key)
        if len(self._memo) >= MEMO:
            self._memo.clear()
        self._memo[key] = found
        return found

    def _find(self, key: Any) -> int | None:
        if self._thinned is not None:
            fuller, gone = self._thinned
            was = fuller.row_of(key)
            return None if was is None or was in gone else was - int(np.searchsorted(gone, was))
        dtype = self.keys.dtype
        probe: Any = key
        if dtype.is_temporal():
            kind = self.types[self.source.key]
            probe = stored(fitting(key, kind), kind)
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

    def largest_key(self) -> Any:
        """The largest key, or none without records."""
        return plain(self.keys.max())

    def key_at(self, row: int) -> Any:
        """The key of a row, as a value."""
        return plain(self.keys[row])

    def keys_at(self, positions: Positions) -> list[Any]:
        """The keys of some rows, as values."""
        return plain_values(self.keys.gather(positions))

    def rows_with(self, keys: Sequence[Scalar]) -> NDArray[np.bool_]:
        """For each record whether its key is among some; of records that share one, the first."""
        if self._with_keys is not None and self._with_keys[0] is keys:
            return self._with_keys[1]
        before = self._untouched({self.source.key})
        if before is not None:
            found = before.rows_with(keys)
        elif self._thinned is not None:
            fuller, gone = self._thinned
            found = np.delete(fuller.rows_with(keys), gone)
        elif not self.are_different or (some := self._as_keys(keys)) is None:
            found = np.zeros(len(self), dtype=np.bool_)
            found[[row for each in keys if (row := self.row_of(each)) is not None]] = True
        else:
            found = self.keys.is_in(some.implode()).fill_null(False).to_numpy()
        self._with_keys = keys, found
        return found  # type: ignore[no-any-return]

    def among(self, keys: tuple[Scalar, ...]) -> tuple[Scalar, ...]:
        """Those of some keys that there are records of."""
        if len(keys) <= FEW_KEYS:
            return super().among(keys)
        there = self.rows_with(keys)
        if int(there.sum()) == len(keys):
            return keys
        left = {*plain_values(self.keys.filter(pl.Series(there)))}
        return tuple(each for each in keys if each in left)

    def _as_keys(self, keys: Sequence[Scalar]) -> pl.Series | None:
        """Some keys as a column like that of the keys; none where they are of other types."""
        kinds = KEY_TYPES.get(self.types.get(self.source.key, ""), ())
        if self.keys.dtype.is_temporal() or not {*map(type, keys)} <= {*kinds}:
            return None
        some = pl.Series(keys)
        return some if some.dtype == self.keys.dtype else None

    def values_with(self, name: str, keys: Sequence[Scalar]) -> list[Any]:
        """The value of a field of each record with one of some keys."""
        return plain_values(self.frame[name].filter(pl.Series(self.rows_with(keys))))

    def with_alike(self, alike: Iterable[Alike]) -> ManyRecords:
        """The records with fields of many changed, the same in each."""
        made = self
        for change in alike:
            rows = pl.Series(made.rows_with(change.keys))
            columns = []
            for name, value in change.fields.items():
                kind = made.types.get(name)
                fits = None if kind is None else fitting(value, kind)
                if kind is not None and (fits is not None or value is None):
                    dtype = made.frame[name].dtype
                    to = pl.Series([stored(fits, kind)], dtype=dtype)
                    columns.append(pl.when(rows).then(to).otherwise(pl.col(name)).alias(name))
            changed = ManyRecords(made.source, made.frame.with_columns(columns), made.types)
            changed._before, changed._edited = made, frozenset(change.fields)
            changed._is_edited_throughout = True
            made = changed
        return made

    def _record(self, row: int) -> dict[str, Any]:
        return {name: plain(value) for name, value in self.frame.row(row, named=True).items()}

    def gaps(self, name: str) -> Positions:
        """The rows of which a field is empty."""
        return np.flatnonzero(self._empty_field(name)).astype(np.int32)

    def _all_empty(self, names: Iterable[str]) -> Mask | None:
        made: Mask = np.logical_and.reduce([self._empty_field(name) for name in names])
        return made if made.any() else None

    def _empty_field(self, name: str) -> NDArray[np.bool_]:
        if name not in self.frame.columns:
            return np.ones(len(self), dtype=np.bool_)
        column = self.frame[name]
        mask = column.is_null()
        if column.dtype == pl.String:
            mask = mask | (column == "").fill_null(True)
        return mask.to_numpy()

    def _in_lower_case(self, names: tuple[str, ...]) -> pl.Series:
        texts = [self._as_text(name).fill_null("") for name in names]
        joined = pl.concat_str(texts, separator="\n") if texts else pl.repeat("", len(self))
        return self.frame.select(joined.str.to_lowercase().alias("t"))["t"]

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
        return found  # type: ignore[no-any-return]

    def _ordered(self, by: tuple[Sort, ...]) -> Positions:
        if not by:
            return np.arange(len(self), dtype=np.int32)
        is_near = not self._is_edited_throughout and len(self._rows_edited) <= FEW_EDITED
        if self._before is not None and len(by) == 1 and is_near:
            return self._moved(by[0], self._before.order(by))
        if self._thinned is None:
            return self._sorted(by)
        fuller, gone = self._thinned
        order = fuller.order(by)
        stays = np.ones(len(fuller), dtype=np.bool_)
        stays[gone] = False
        order = order[stays[order]]
        return order - np.searchsorted(gone, order).astype(np.int32)  # type: ignore[no-any-return]

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
        text = self.frame[name].str
        is_ascii = not (text.len_bytes() != text.len_chars()).any()
        return pl.when(column != "").then(sorted_column(column, is_ascii))

    def select(
        self, terms: Terms, words: Sequence[str], fields: Sequence[str], sort: tuple[Sort, ...]
    ) -> Selected:
        """The rows that pass all terms and hold each word in one of the fields, in an order."""
        mask = self._passing(terms)
        kept = len(self) if mask is None else int(mask.sum())
        for word in words:
            hit = self.holding(fields, word)
            mask = hit if mask is None else mask & hit
        found = len(self) if mask is None else int(mask.sum())
        positions = self.order(sort)
        return Selected(positions if mask is None else positions[mask[positions]], found, kept)

    def _passing(self, terms: Terms) -> Mask | None:
        """For each row whether it passes all terms; none where all do."""
        answers = [
            term
            if isinstance(term, bool)
            else column_passes(term.field, term.test, term.wanted, self.types[term.field])
            for term in terms
        ]
        if any(each is False for each in answers):
            return np.zeros(len(self), dtype=np.bool_)
        wanted = [each for each in answers if isinstance(each, pl.Expr)]
        if not wanted:
            return None
        made = self.frame.select(pl.all_horizontal(wanted).fill_null(False)).to_series()
        return made.to_numpy()

    def by_terms(self, groups: Sequence[Terms]) -> Positions:
        """For each row the number of the first group whose terms it passes, or their count."""
        numbers = np.full(len(self), len(groups), dtype=np.int32)
        for number in reversed(range(len(groups))):
            inside = self._passing(groups[number])
            numbers[slice(None) if inside is None else inside] = number
        return numbers

    def by_field(self, name: str) -> tuple[Positions, list[Any]]:
        """For each row the number of its value among those of a field, in order; the values."""
        order = self.order((Sort(field=name),))
        values = self.frame[name].gather(order)
        found = values.unique(maintain_order=True)
        places = found.to_frame("value").with_row_index("number")
        joined = values.to_frame("value").join(
            places, on="value", how="left", nulls_equal=True, maintain_order="left"
        )
        numbers = np.empty(len(self), dtype=np.int32)
        numbers[order] = joined["number"].to_numpy()
        return numbers, plain_values(found)

    def in_groups(
        self, positions: Positions, numbers: Positions
    ) -> tuple[Positions, list[tuple[int, int]]]:
        """Rows group by group, each in the order they had; where each begins, and its number."""
        positions = positions[np.argsort(numbers[positions], kind="stable")]
        numbers = numbers[positions]
        begins = np.flatnonzero(np.diff(numbers, prepend=-1))
        return positions, [(int(at), int(numbers[at])) for at in begins]

    def places(self, positions: Positions) -> Positions:
        """For each record where it stands among rows, or -1."""
        made = np.full(len(self), -1, dtype=np.int32)
        made[positions] = np.arange(len(positions), dtype=np.int32)
        return made

    def said_by(self, source: Source) -> ManyRecords:
        """The same records, of a source that says them otherwise."""
        return ManyRecords(source, self.frame, self.types, self.faults, self._reading)

    def with_only(self, names: Sequence[str]) -> ManyRecords:
        """The same records with every other field empty; the key stays."""
        kept = {*names, self.source.key}
        gaps = [
            pl.lit(None, dtype=dtype).alias(name)
            for name, dtype in self.frame.schema.items()
            if name not in kept
        ]
        return ManyRecords(self.source, self.frame.with_columns(gaps), self.types)

    def none(self) -> ManyRecords:
        """No records, of the same fields."""
        return ManyRecords(self.source, self.frame.clear(), self.types)

    def with_others(self, changes: Changes) -> ManyRecords:
        """The records with those that are new, and without those that are gone."""
        if not changes.added and not changes.gone:
            return self
        grown = self
        if new := self._new(changes):
            columns = {name: [each[name] for each in new] for name in self.types}
            frame = pl.concat([self.frame, frame_of(columns, self.types)])
            grown = ManyRecords(self.source, frame, self.types)
        return grown._without(changes.gone) if changes.gone else grown

    def _without(self, keys: Sequence[Scalar]) -> ManyRecords:
        """The records but for those with these keys; what is known of them serves again."""
        if len(keys) > FEW_KEYS:
            gone = np.flatnonzero(self.rows_with(keys)).astype(np.int32)
        else:
            found = {row for each in keys if (row := self.row_of(each)) is not None}
            gone = np.array(sorted(found), dtype=np.int32)
        stays = np.ones(len(self), dtype=np.bool_)
        stays[gone] = False
        left = ManyRecords(self.source, self.frame.filter(pl.Series(stays)), self.types)
        if self.are_different:
            left._thinned = (self, gone)
        return left

    def with_edits(self, changes: Changes) -> ManyRecords:
        """The records with fields changed; what these do not touch is not found anew."""
        if not changes.changed:
            return self
        edits = self._edits(changes)
        columns = []
        for name, values in edits.items():
            column, kind = self.frame[name], self.types[name]
            held = {row: stored(value, kind) for row, value in values.items()}
            if isinstance(column.dtype, pl.List):
                cells = column.to_list()
                for row, value in held.items():
                    cells[row] = value
                columns.append(pl.Series(name, cells, dtype=column.dtype))
            else:
                columns.append(column.clone().scatter(list(held), list(held.values())))
        made = ManyRecords(self.source, self.frame.with_columns(columns), self.types)
        made._before, made._edited = self, frozenset(edits)
        made._rows_edited = {row for values in edits.values() for row in values}
        if self.source.key not in edits:
            made._memo = self._memo
        return made
