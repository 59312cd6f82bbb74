"""What two people have done to the records of one file, joined record by record.

A record is found again by its key, or else by all that stood in it when it was read; never by
its position.
"""

from __future__ import annotations

from collections import defaultdict, deque
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any, Final, NamedTuple

import polars as pl

from cadena.model.naming import fields_of_label, label_field
from cadena.model.problem import Problem
from cadena.model.source import Source
from cadena.records.reading import Reading
from cadena.sources.table import Table, fresh_rows, scattered
from cadena.sources.table_changes import TableChanges, cell, changes_between, plain_text

REMOVED: Final = "removed"
EMPTY: Final = "empty"
NAMED: Final = 3


class Clash(NamedTuple):
    """What two people have done otherwise to one value, or to one record.

    Args:
        source: the source that it is in.
        row: the record's own number.
        column: the field by its first name, or nothing for the record as a whole.
        what: the record and the field, as they are told to a person.
        mine: what it is here.
        theirs: what it is in the file now.
    """

    source: str
    row: int
    column: str
    what: str
    mine: str
    theirs: str

    @property
    def place(self) -> tuple[str, int, str]:
        """What tells it from any other clash."""
        return self.source, self.row, self.column


class Clashes(Problem):
    """What cannot be saved before somebody has said whose version counts."""

    def __init__(self, file: str, clashes: Sequence[Clash]) -> None:
        self.clashes = tuple(clashes)
        said = "; ".join(
            f"{clash.what} is {clash.mine} here and {clash.theirs} there"
            for clash in clashes[:NAMED]
        )
        more = f" and {len(clashes) - NAMED} more" if len(clashes) > NAMED else ""
        reason = f"it was changed by another program, and not alike: {said}{more}"
        super().__init__(file, "", reason, "to know which of the two is meant")


Decided = Mapping[tuple[str, int, str], bool]
"""For clashes, by their place, whether what is here counts."""


class Joined(NamedTuple):
    """The records as they are for both, and what has to be decided before they are."""

    table: Table
    clashes: tuple[Clash, ...]


def recognised(before: Table, reading: Reading, source: Source) -> Table:
    """What a file holds now, each record and each field as the one that it was before.

    Args:
        before: what the file held.
    """
    first = {was: name for name, was in before.columns.items()}
    columns: dict[str, str] = {}
    for name in reading.frame.columns:
        known = before.columns.get(name)
        columns[name] = known if known is not None else name if name not in first else f"{name}+"
    found = _by_key(before, reading.frame, source) or _by_content(before, reading.frame)
    new = iter(fresh_rows(found.count(None), max(before.rows, default=-1)))
    rows = tuple(next(new) if row is None else row for row in found)
    if not rows:
        # Nothing in it says of what types its columns are.
        kinds: Any = {
            name: before.frame[first[was]].dtype for name, was in columns.items() if was in first
        }
        reading = replace(reading, frame=reading.frame.cast(kinds))
    return Table(reading, rows, columns)


def _by_key(before: Table, frame: pl.DataFrame, source: Source) -> list[int | None]:
    """The row of each record by its key; nothing where keys do not tell all records apart."""
    key = () if source.numbered else source.key_from or (source.key,)
    names = [name for name in key if name in frame.columns]
    if not key or len(names) < len(key):
        return []
    now, was = _texts(frame, names), _texts(before.frame, _named_alike(before, names))
    if not was or not _tells_apart(now) or not _tells_apart(was):
        return []
    known = dict(zip(was, before.rows, strict=True))
    return [known.get(each) for each in now]


def _named_alike(before: Table, names: Sequence[str]) -> list[str]:
    return [name for name in names if name in before.columns]


def _texts(frame: pl.DataFrame, names: Sequence[str]) -> list[tuple[str | None, ...]]:
    """The values of some columns, row by row, as plain texts."""
    columns = [[plain_text(value) for value in frame[name].to_list()] for name in names]
    return list(zip(*columns, strict=True))


def _tells_apart(keys: Sequence[tuple[str | None, ...]]) -> bool:
    return len(set(keys)) == len(keys) and not any(None in key for key in keys)


def _by_content(before: Table, frame: pl.DataFrame) -> list[int | None]:
    """The row of each record that stands there just as it did; equal ones in their order."""
    names = [name for name in frame.columns if name in before.columns]
    if not names:
        return [None] * frame.height
    left: dict[tuple[str | None, ...], deque[int]] = defaultdict(deque)
    for row, content in zip(before.rows, _texts(before.frame, names), strict=True):
        left[content].append(row)
    return [left[each].popleft() if left[each] else None for each in _texts(frame, names)]


def joined(
    before: Table, mine: Table, theirs: Table, source: Source, decided: Decided | None = None
) -> Joined:
    """What is done to records here, done to those of the file as it now is.

    Args:
        before: what the file held when what is here was begun.
        theirs: what it holds now, its records recognised.
        decided: what somebody has said of clashes.
    """
    return _Joining(before, mine, theirs, source, decided or {}).done()


class _Joining:
    """One joining of two people's changes."""

    def __init__(
        self, before: Table, mine: Table, theirs: Table, source: Source, decided: Decided
    ) -> None:
        self.before, self.mine, self.theirs = before, mine, theirs
        self.source, self.decided = source, decided
        self.here: TableChanges = changes_between(before, mine)
        self.there: TableChanges = changes_between(before, theirs)
        self.clashes: list[Clash] = []
        self._called = {was: name for name, was in mine.columns.items()}
        self._before_at = {row: at for at, row in enumerate(before.rows)}
        self._mine_at = {row: at for at, row in enumerate(mine.rows)}
        self._theirs_at = {row: at for at, row in enumerate(theirs.rows)}

    def done(self) -> Joined:
        cells, back = self._cells()
        added = [*back, *(self.mine.rows[at] for at in self.here.added)]
        stays = [row for row in self.theirs.rows if not self._goes(row)]
        at = [self._theirs_at[row] for row in stays]
        table = self.theirs.with_frame(self.theirs.frame[at], rows=tuple(stays))
        table = self._with_columns(table, cells, added)
        table = self._with_added(self._with_cells(table, cells), added)
        return Joined(table, tuple(self.clashes))

    def _is_mine(self, row: int, column: str, mine: str, theirs: str) -> bool:
        """Whether what is here counts, where both differ; undecided, it is a clash."""
        place = (self.source.id, row, column)
        if place in self.decided:
            return self.decided[place]
        name = self._called.get(column, "")
        what = f"{name} of {self._record_in_words(row)}" if name else self._record_in_words(row)
        self.clashes.append(Clash(self.source.id, row, column, what, mine, theirs))
        return False

    def _record_in_words(self, row: int) -> str:
        """A record as it is told to a person: by its label, or else by its key."""
        known = (
            (self.mine, self._mine_at), (self.before, self._before_at),
            (self.theirs, self._theirs_at),
        )  # fmt: skip
        table, at = next((table, at[row]) for table, at in known if row in at)
        label = label_field(self.source, dict.fromkeys(table.columns, "text"))
        for name in (*fields_of_label(label), self.source.key, *table.frame.columns):
            if name in table.columns and (value := cell(table, at, name)) is not None:
                return f'"{plain_text(value)}"'
        return "a record"

    def _goes(self, row: int) -> bool:
        """Whether a record that is in the file is removed here."""
        if row not in self.here.gone:
            return False
        changed = self.there.cells.get(row)
        if not changed:
            return True
        return self._is_mine(row, "", REMOVED, _values_in_words(changed))

    def _cells(self) -> tuple[dict[str, dict[int, Any]], list[int]]:
        """The values to be set, by their columns' first names; and the rows that come back."""
        cells: dict[str, dict[int, Any]] = defaultdict(dict)
        back: list[int] = []
        first = {was: name for name, was in self.before.columns.items()}
        named = {was: name for name, was in self.theirs.columns.items()}
        for row, values in self.here.cells.items():
            if row in self.there.gone:
                if self._is_mine(row, "", _values_in_words(values), REMOVED):
                    back.append(row)
                continue
            other = self.there.cells.get(row, {})
            for name, value in values.items():
                was = self.mine.columns[name]
                # Two columns of one name, each new for one of the two, are one.
                there = named.get(was, first.get(was, name))
                theirs = other.get(there)
                if there in other and plain_text(theirs) != plain_text(value):
                    here, seen = plain_text(value) or EMPTY, plain_text(theirs) or EMPTY
                    if not self._is_mine(row, was, here, seen):
                        continue
                cells[was][row] = value
        return cells, back

    def _with_columns(
        self, table: Table, cells: Mapping[str, Mapping[int, Any]], added: Sequence[int]
    ) -> Table:
        """The table with columns that are called otherwise here, that are new here, or that the
        file has not any more and values stand in here."""
        first = {was: name for name, was in self.before.columns.items()}
        for name, was in self.mine.columns.items():
            at = {was: called for called, was in table.columns.items()}
            if name in table.columns or at.get(was) == name:
                continue
            if was in at:
                # Called otherwise here, unless they have called it otherwise as well.
                table = _renamed(table, at[was], name) if at[was] == first.get(was) else table
            elif was not in first or cells.get(was) or self._is_filled(name, added):
                table = _with_column(table, name, was, self.mine.frame[name].dtype)
        return table

    def _is_filled(self, name: str, rows: Sequence[int]) -> bool:
        return any(cell(self.mine, self._mine_at[row], name) is not None for row in rows)

    def _with_cells(self, table: Table, cells: Mapping[str, Mapping[int, Any]]) -> Table:
        at = {row: place for place, row in enumerate(table.rows)}
        called = {was: name for name, was in table.columns.items()}
        frame = table.frame
        for was, values in cells.items():
            name = called.get(was, self._called[was])
            places = {at[row]: value for row, value in values.items() if row in at}
            if places:
                frame = frame.with_columns(
                    scattered(frame[name], list(places), [_as_typed(e) for e in places.values()])
                )
        return table.with_frame(frame)

    def _with_added(self, table: Table, rows: Sequence[int]) -> Table:
        """The table with records that are new here, unless they are there already."""
        keys = self._keys(table)
        same = _contents(self.theirs, self.there.added)
        called = {was: name for name, was in table.columns.items()}
        for row in rows:
            at = self._mine_at[row]
            values = {
                called.get(was, name): cell(self.mine, at, name)
                for name, was in self.mine.columns.items()
                if called.get(was, name) in table.columns
            }
            content = frozenset((n, plain_text(v)) for n, v in values.items() if v is not None)
            if content in same:
                # Another has added just this: it is the same, and the number of its row here.
                same.remove(content)
                continue
            key = self._key_of(values)
            if key in keys and key is not None and row not in self._before_at:
                if not self._is_mine(row, "", "a new record", "another one"):
                    continue
                table = _without_row(table, keys[key])
            table = _with_row(table, row, values)
        return table

    def _keys(self, table: Table) -> dict[str, int]:
        key = self.source.key
        if self.source.numbered or self.source.key_from or key not in table.columns:
            return {}
        texts = map(plain_text, table.frame[key].to_list())
        return {text: row for text, row in zip(texts, table.rows, strict=True) if text is not None}

    def _key_of(self, values: Mapping[str, Any]) -> str | None:
        return plain_text(values.get(self.source.key))


def _values_in_words(values: Mapping[str, Any]) -> str:
    """Values that a record was given, for a person."""
    return "with " + ", ".join(f"{name} {plain_text(v) or EMPTY}" for name, v in values.items())


def _contents(table: Table, places: Sequence[int]) -> list[frozenset[tuple[str, str | None]]]:
    """All that is filled in some records."""
    rows = (table.frame.row(at, named=True) for at in places)
    return [frozenset((n, plain_text(v)) for n, v in row.items() if v is not None) for row in rows]


def _renamed(table: Table, name: str, to: str) -> Table:
    columns = {to if each == name else each: was for each, was in table.columns.items()}
    return table.with_frame(table.frame.rename({name: to}), columns=columns)


def _with_column(table: Table, name: str, was: str, dtype: pl.DataType) -> Table:
    """The table with one more column, empty, as the one that it was first."""
    column = pl.Series(name, [None] * table.frame.height, dtype=dtype)
    return table.with_frame(table.frame.with_columns(column), columns={**table.columns, name: was})


def _without_row(table: Table, row: int) -> Table:
    at = table.rows.index(row)
    frame = pl.concat([table.frame[:at], table.frame[at + 1 :]])
    return table.with_frame(frame, rows=table.rows[:at] + table.rows[at + 1 :])


def _with_row(table: Table, row: int, values: Mapping[str, Any]) -> Table:
    """The table with one record more, at its end."""
    frame = table.frame
    new = pl.DataFrame({name: [None] for name in frame.columns}, schema=frame.schema)
    frame, at = pl.concat([frame, new]), frame.height
    for name, value in values.items():
        if value is not None:
            frame = frame.with_columns(scattered(frame[name], [at], [_as_typed(value)]))
    return table.with_frame(frame, rows=(*table.rows, row))


def _as_typed(value: Any) -> Any:
    """A value of a column as what is typed into one: dates as their texts, lists as tuples."""
    if isinstance(value, list):
        return tuple(value)
    return value.isoformat() if hasattr(value, "isoformat") else value
