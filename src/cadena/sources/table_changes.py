"""What differs between two tables of a source, by the identity of rows and columns."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from typing import Any, Final, NamedTuple, TypeVar

import polars as pl

from cadena.model.problem import Problem
from cadena.model.values import shown
from cadena.sources.table import Table

Thing = TypeVar("Thing")
MISSING: Final = object()


class TableChanges(NamedTuple):
    """What makes the later of two tables of the earlier.

    Args:
        cells: for rows that stay the values that are others, by the later names of columns; a
            column that is no more is empty.
        gone: the rows that are no more.
        added: the positions of new rows in the later table.
        renamed: columns that are called otherwise, by what they were called.
        new_columns: the columns that the earlier table has not.
    """

    cells: dict[int, dict[str, Any]]
    gone: frozenset[int]
    added: tuple[int, ...]
    renamed: dict[str, str]
    new_columns: tuple[str, ...]

    @property
    def is_none(self) -> bool:
        """Whether both are the same."""
        return not any(self)


def changes_between(before: Table, now: Table) -> TableChanges:
    """What has changed from one table of a source to a later one."""
    at_before = {row: at for at, row in enumerate(before.rows)}
    stays = [at for at, row in enumerate(now.rows) if row in at_before]
    places = [at_before[now.rows[at]] for at in stays]
    first = {was: name for name, was in before.columns.items()}
    cells: dict[int, dict[str, Any]] = {}
    for name, was in now.columns.items():
        column = now.frame[name].gather(stays)
        old = before.frame[first[was]].gather(places) if was in first else None
        differs = column.is_not_null() if old is None else _differs(old, column)
        for at in differs.arg_true():
            row = stays[int(at)]
            cells.setdefault(now.rows[row], {})[name] = cell(now, row, name)
    called = {was: name for name, was in now.columns.items()}
    for name in (name for name, was in before.columns.items() if was not in called):
        for at in before.frame[name].gather(places).is_not_null().arg_true():
            cells.setdefault(now.rows[stays[int(at)]], {})[name] = None
    names = {name: called.get(was, name) for name, was in before.columns.items()}
    return TableChanges(
        cells,
        frozenset(at_before.keys() - set(now.rows)),
        tuple(at for at, row in enumerate(now.rows) if row not in at_before),
        {old: new for old, new in names.items() if old != new},
        tuple(name for name, was in now.columns.items() if was not in first),
    )


def _differs(old: pl.Series, new: pl.Series) -> pl.Series:
    """Where two columns hold different values; numbers are equal whatever holds them."""
    if old.dtype == new.dtype:
        return new.ne_missing(old)
    if isinstance(old.dtype, pl.List) or isinstance(new.dtype, pl.List):
        return new.is_not_null() | old.is_not_null()
    if old.dtype.is_numeric() and new.dtype.is_numeric():
        return new.cast(pl.Float64).ne_missing(old.cast(pl.Float64))
    # Of other types, what is said alike is the same.
    pairs = zip(old.to_list(), new.to_list(), strict=True)
    return pl.Series([plain_text(was) != plain_text(now) for was, now in pairs], dtype=pl.Boolean())


def plain_text(value: Any) -> str | None:
    """A value as a text that is the same whatever type of column holds it; none for nothing."""
    if value is None or isinstance(value, bool):
        return {None: None, True: "true", False: "false"}[value]
    if isinstance(value, float) and value.is_integer():
        return str(int(value))
    return shown(value) if isinstance(value, int | float | str) else str(value)


def cell(table: Table, row: int, name: str) -> Any:
    """A value of a table, lists as lists."""
    value = table.frame[name][row]
    return value.to_list() if isinstance(value, pl.Series) else value


def record(table: Table, row: int) -> dict[str, Any]:
    """A row as a record; what is empty is left out, but for one field, by which it is one."""
    whole = table.frame.row(row, named=True)
    filled = {name: value for name, value in whole.items() if value is not None}
    return filled or dict.fromkeys(table.frame.columns[:1])


class Gone(NamedTuple):
    """A record that was removed: as it stood in its file, with what is no column, and what of it
    was shown, by the columns' first names."""

    thing: Any
    values: dict[str, Any]


Attic = dict[int, Gone]
"""Records that were removed and saved, by their row: what is undone comes back whole."""


class Placed(NamedTuple):
    """What becomes of a thing in a file: it stays as it stands, or has other values.

    Args:
        found: the thing, or none for a new record.
        values: those that are others, or none where it stays as it stands.
    """

    found: Any
    values: Mapping[str, Any] | None


def put_away(attic: Attic, before: Table, row: int, thing: Any) -> None:
    """Keep a record that is removed."""
    whole = before.frame.row(before.rows.index(row), named=True)
    attic[row] = Gone(thing, {was: whole[name] for name, was in before.columns.items()})


def new_or_back(attic: Attic, now: Table, at: int) -> Placed:
    """A record that its file has not: one that is new, or one that comes back as it was."""
    gone = attic.get(now.rows[at])
    if gone is None:
        return Placed(None, record(now, at))
    whole = now.frame.row(at, named=True)
    values = {
        name: value
        for name, value in whole.items()
        if plain_text(value) != plain_text(gone.values.get(now.columns[name]))
    }
    return Placed(gone.thing, values)


def placed(
    found: Iterable[Thing],
    is_record: Callable[[Thing], bool],
    before: Table,
    now: Table,
    changes: TableChanges,
    attic: Attic,
    file: str,
) -> Iterator[Placed]:
    """What becomes of all that stands in a file, in its order; what is no record stays.

    Raises:
        Problem: where there are not just the records in it that were read.
    """
    things = list(found)
    if sum(map(is_record, things)) != len(before.rows):
        reason = "its records cannot be told apart again"
        raise Problem(file, "", reason, "a file whose records each stand by themselves")
    rows = iter(before.rows)
    had = set(before.rows)
    to_come = iter(enumerate(now.rows))
    for thing in things:
        if not is_record(thing):
            yield Placed(thing, None)
            continue
        row = next(rows)
        if row in changes.gone:
            put_away(attic, before, row, thing)
            continue
        for at, following in to_come:
            if following == row:
                break
            if following not in had:
                yield new_or_back(attic, now, at)
        values = changes.cells.get(row)
        yield Placed(thing, {} if values is None and changes.renamed else values)
    for at, _ in to_come:
        yield new_or_back(attic, now, at)


def with_values(
    found: dict[str, Any], values: Mapping[str, Any], renamed: Mapping[str, str]
) -> dict[str, Any]:
    """A record with some of its fields changed, those inside others by their path."""
    made = {renamed.get(name, name): value for name, value in found.items()}
    for path, to in renamed.items():
        if path not in found and (taken := _taken_at(made, path)) is not MISSING:
            _put_at(made, to, taken)
    for path, value in values.items():
        _put_at(made, path, value)
    return made


def _taken_at(record: dict[str, Any], path: str) -> Any:
    """What a record held under a path, taken out of it."""
    first, _, rest = path.partition(".")
    if path in record:
        return record.pop(path)
    held = record.get(first)
    if not rest or not isinstance(held, dict):
        return MISSING
    record[first] = dict(held)
    return _taken_at(record[first], rest)


def _put_at(record: dict[str, Any], path: str, value: Any) -> None:
    first, _, rest = path.partition(".")
    held = record.get(first)
    if path not in record and rest and isinstance(held, dict):
        record[first] = dict(held)
        _put_at(record[first], rest, value)
    else:
        record[path] = value
