"""Records that are few, as plain lists: what a small project runs on needs no column engine."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Mapping, Sequence
from functools import cached_property
from typing import TYPE_CHECKING, Any

from cadena.model.listing import Sort
from cadena.model.source import Source
from cadena.model.values import FieldType, Scalar
from cadena.records.changes import Alike, Change, Changes
from cadena.records.conditions import as_text, passing, wanted_of
from cadena.records.records import Records, Selected, Terms, fitting, is_list
from cadena.records.sorting import sorted_by
from cadena.records.template import is_empty

if TYPE_CHECKING:
    import polars as pl

    from cadena.records.reading import Fault, Reading


class FewRecords(Records):
    """Records held as a list of values for each field.

    Args:
        columns: for each of ``types`` its values, as plain values.
    """

    def __init__(
        self,
        source: Source,
        types: Mapping[str, FieldType],
        columns: Mapping[str, list[Any]],
        faults: tuple[Fault, ...] = (),
        reading: Reading | Callable[[], Reading] | None = None,
    ):
        super().__init__(source, types, faults, reading)
        self.columns = dict(columns)
        self._places_of: dict[str, dict[Any, list[int]]] = {}
        self._gaps: dict[str, list[int]] = {}
        self._unsaid: dict[tuple[str, ...], list[bool] | None] = {}
        self._count = len(next(iter(self.columns.values()), ()))

    def __len__(self) -> int:
        return self._count

    @cached_property
    def frame(self) -> pl.DataFrame:
        """All fields as columns."""
        from cadena.records.columns import frame_of

        return frame_of(self.columns, self.types)

    def values_of(self, name: str, most: int | None = None) -> list[Any]:
        """The values of a field."""
        return self._column(name)[:most]

    def _column(self, name: str) -> list[Any]:
        found = self.columns.get(name)
        return [None] * self._count if found is None else found

    @cached_property
    def _rows(self) -> dict[Any, int]:
        """The first row of each key."""
        if (before := self._untouched((self.source.key,))) is not None:
            return before._rows  # type: ignore[attr-defined, no-any-return]
        keys = self._column(self.source.key)
        rows = {keys[row]: row for row in range(self._count - 1, -1, -1)}
        rows.pop(None, None)
        return rows

    def twice(self) -> list[Any]:
        """The keys of records that share one."""
        keys = self._column(self.source.key)
        if len(self._rows) + keys.count(None) == len(keys):
            return []
        counts = Counter(keys)
        return [each for each in keys if each is not None and counts[each] > 1]

    def row_of(self, key: Any) -> int | None:
        """The row that holds a key, or none."""
        if not self.could_hold(key):
            return None
        found = self._rows.get(key)
        if found is None and self.types.get(self.source.key) == "date and time":
            return self._rows.get(fitting(key, "date and time"))
        return found

    def largest_key(self) -> Any:
        """The largest key, or none without records."""
        return max(self._rows, default=None)

    def key_at(self, row: int) -> Any:
        """The key of a row."""
        keys = self.columns.get(self.source.key)
        return None if keys is None else keys[row]

    def keys_at(self, positions: Sequence[int]) -> list[Any]:
        """The keys of some rows."""
        keys = self._column(self.source.key)
        return [keys[each] for each in positions]

    def rows_with(self, keys: Sequence[Scalar]) -> list[bool]:
        """For each record whether its key is among some."""
        rows = {self.row_of(each) for each in keys}
        return [row in rows for row in range(len(self))]

    def values_with(self, name: str, keys: Sequence[Scalar]) -> list[Any]:
        """The value of a field of each record with one of some keys."""
        column = self._column(name)
        return [column[row] for each in keys if (row := self.row_of(each)) is not None]

    def with_alike(self, alike: Iterable[Alike]) -> FewRecords:
        """The records with fields of many changed, the same in each."""
        made = self
        for change in alike:
            made = made.with_edits(
                Changes(tuple(Change(key, change.fields) for key in change.keys))
            )
        return made

    def _record(self, row: int) -> dict[str, Any]:
        return {name: column[row] for name, column in self.columns.items()}

    def gaps(self, name: str) -> list[int]:
        """The rows of which a field is empty."""
        if name not in self._gaps:
            values = enumerate(self._column(name))
            self._gaps[name] = [row for row, value in values if is_empty(value)]
        return self._gaps[name]

    def _all_empty(self, names: Iterable[str]) -> list[bool] | None:
        asked = tuple(names)
        if asked not in self._unsaid:
            columns = [self._column(name) for name in asked]
            made = [all(map(is_empty, values)) for values in zip(*columns, strict=True)]
            self._unsaid[asked] = made if any(made) else None
        return self._unsaid[asked]

    def _held_in(self, field: str, value: Any) -> list[int]:
        """The rows in which a field holds a value; they are found once for all values."""
        places = self._places_of.get(field)
        if places is None:
            places = self._places_of[field] = {}
            for row, each in enumerate(self.columns[field]):
                places.setdefault(each, []).append(row)
        return places.get(value, [])

    def _ordered(self, by: tuple[Sort, ...]) -> list[int]:
        order = list(range(self._count))
        for sort in reversed(by):
            if is_list(self.types[sort.field]):
                return self._in_columns._ordered(by).tolist()  # type: ignore[no-any-return]
            values = _sorting(self.columns[sort.field], self.types[sort.field])
            gaps = [row for row in order if values[row] is None]
            order = [row for row in order if values[row] is not None] if gaps else order
            order.sort(key=values.__getitem__, reverse=sort.descending)
            order += gaps
        return order

    @cached_property
    def _in_columns(self) -> Any:
        """The same records as columns: what is asked seldom is found there."""
        from cadena.records.many_records import ManyRecords

        return ManyRecords(self.source, self.frame, self.types)

    def _in_lower_case(self, names: tuple[str, ...]) -> list[str]:
        texts = [[as_text(each, self.types[name]) for each in self.columns[name]] for name in names]
        if not texts:
            return [""] * self._count
        return ["\n".join(each) for each in zip(*texts, strict=True)]

    def select(
        self, terms: Terms, words: Sequence[str], fields: Sequence[str], sort: tuple[Sort, ...]
    ) -> Selected:
        """The rows that pass all terms and hold each word in one of the fields, in an order."""
        positions = self._passing(self.order(sort), terms)
        kept = len(positions)
        if words:
            texts = self.lowered(fields)
            positions = [row for row in positions if all(word in texts[row] for word in words)]
        return Selected(positions, len(positions), kept)

    def _passing(self, rows: Sequence[int], terms: Terms) -> Sequence[int]:
        """Those of some rows that pass all terms."""
        for term in terms:
            if isinstance(term, bool):
                rows = rows if term else ()
                continue
            kind = self.types[term.field]
            wanted = wanted_of(term.test, term.wanted, kind) if term.test == "is" else None
            if wanted is not None and not is_list(kind) and kind != "date and time":
                found = set(self._held_in(term.field, wanted))
                rows = [row for row in rows if row in found] if found else ()
                continue
            test = passing(term.test, term.wanted, kind)
            if isinstance(test, bool):
                rows = rows if test else ()
            else:
                column = self.columns[term.field]
                rows = [row for row in rows if test(column[row])]
        return rows

    def by_terms(self, groups: Sequence[Terms]) -> list[int]:
        """For each row the number of the first group whose terms it passes, or their count."""
        numbers = [len(groups)] * self._count
        for number in reversed(range(len(groups))):
            for row in self._passing(range(self._count), groups[number]):
                numbers[row] = number
        return numbers

    def by_field(self, name: str) -> tuple[list[int], list[Any]]:
        """For each row the number of its value among those of a field, in order; the values."""
        column, numbers, found = self.columns[name], [0] * self._count, dict[Any, int]()
        for row in self.order((Sort(field=name),)):
            numbers[row] = found.setdefault(column[row], len(found))
        return numbers, [*found]

    def in_groups(
        self, positions: Sequence[int], numbers: list[int]
    ) -> tuple[list[int], list[tuple[int, int]]]:
        """Rows group by group, each in the order they had; where each begins, and its number."""
        grouped = sorted(positions, key=numbers.__getitem__)
        begins: list[tuple[int, int]] = []
        for at, row in enumerate(grouped):
            if not begins or begins[-1][1] != numbers[row]:
                begins.append((at, numbers[row]))
        return grouped, begins

    def places(self, positions: Sequence[int]) -> list[int]:
        """For each record where it stands among rows, or -1."""
        made = [-1] * self._count
        for at, row in enumerate(positions):
            made[row] = at
        return made

    def said_by(self, source: Source) -> FewRecords:
        """The same records, of a source that says them otherwise."""
        return FewRecords(source, self.types, self.columns, self.faults, self._reading)

    def with_only(self, names: Sequence[str]) -> FewRecords:
        """The same records with every other field empty; the key stays."""
        kept, gap = {*names, self.source.key}, [None] * self._count
        columns = {name: each if name in kept else gap for name, each in self.columns.items()}
        return FewRecords(self.source, self.types, columns)

    def none(self) -> FewRecords:
        """No records, of the same fields."""
        return FewRecords(self.source, self.types, {name: [] for name in self.types})

    def with_columns(
        self, columns: Mapping[str, list[Any]], types: Mapping[str, FieldType]
    ) -> FewRecords:
        """The same records with more fields."""
        types = {**self.types, **types}
        return FewRecords(
            self.source, types, {**self.columns, **columns}, self.faults, self._reading
        )

    def with_others(self, changes: Changes) -> FewRecords:
        """The records with those that are new, and without those that are gone."""
        if not changes.added and not changes.gone:
            return self
        made = self
        if new := self._new(changes):
            columns = {
                name: [*column, *(each[name] for each in new)]
                for name, column in self.columns.items()
            }
            made = FewRecords(self.source, self.types, columns)
        gone = {row for each in changes.gone if (row := made.row_of(each)) is not None}
        if not gone:
            return made
        columns = {
            name: [value for row, value in enumerate(column) if row not in gone]
            for name, column in made.columns.items()
        }
        return FewRecords(self.source, self.types, columns)

    def with_edits(self, changes: Changes) -> FewRecords:
        """The records with fields changed; what these do not touch is not found anew."""
        if not changes.changed:
            return self
        columns = dict(self.columns)
        edits = self._edits(changes)
        for name, values in edits.items():
            column = columns[name] = list(columns[name])
            for row, value in values.items():
                column[row] = value
        made = FewRecords(self.source, self.types, columns)
        made._before, made._edited = self, frozenset(edits)
        return made


def _sorting(values: list[Any], kind: str) -> list[Any]:
    """What values sort by."""
    if kind in ("text", "picture"):
        return [sorted_by(value) if value else None for value in values]
    if kind == "date and time":
        # Without the Z, texts of times stand in the order of the times.
        return [None if value is None else value[:-1] for value in values]
    return values
