"""Parquet with some of its records changed: every column keeps the type that it has."""

from __future__ import annotations

import io
from collections.abc import Mapping
from typing import Any

import polars as pl

from cadena.model.problem import Problem
from cadena.sources.data_file import DataFile
from cadena.sources.read_columns import as_known
from cadena.sources.table import Table
from cadena.sources.table_changes import (
    Attic,
    Placed,
    TableChanges,
    changes_between,
    new_or_back,
    put_away,
)


def as_parquet(data: DataFile, before: Table, now: Table, attic: Attic) -> bytes:
    """A Parquet file with what has changed between two tables; also what is no field is kept.

    Raises:
        Problem: for a value that its column cannot hold.
    """
    whole = pl.read_parquet(io.BytesIO(data.raw))
    if whole.height != len(before.rows):
        reason = "its records cannot be told apart again"
        raise Problem(data.name, "", reason, "the file as it was read")
    changes = changes_between(before, now)
    at = {row: place for place, row in enumerate(before.rows)}
    for row in changes.gone:
        put_away(attic, before, row, whole[at[row]])
    new = {place: new_or_back(attic, now, place) for place in changes.added}
    for place, (thing, _) in new.items():
        if thing is not None and thing.schema == whole.schema:
            at[now.rows[place]] = whole.height
            whole = pl.concat([whole, thing])
    # A record that is new stands nowhere: it is empty in all columns to begin with.
    places = pl.Series([at.get(row) for row in now.rows], dtype=pl.UInt32())
    made = whole.select(pl.all().gather(places)) if whole.width else whole
    first = {to: name for name, to in changes.renamed.items()}
    for name, values in _by_column(now, changes, new).items():
        was = first.get(name, name)
        if was in made.columns:
            made = made.with_columns(_with_values(made[was], values, data.name))
        elif name in changes.new_columns:
            made = made.with_columns(now.frame[name])
        else:
            reason = "it is a part of another column, which would have to be made anew"
            raise Problem(data.name, name, reason, "a change of other fields")
    for name in changes.new_columns:
        if name not in made.columns:
            made = made.with_columns(now.frame[name])
    if not set(changes.renamed) <= set(made.columns):
        odd = next(each for each in changes.renamed if each not in made.columns)
        raise Problem(data.name, odd, "it is a part of another column", "the name that it has")
    to = io.BytesIO()
    said = pl.read_parquet_metadata(io.BytesIO(data.raw))
    own = {name: each for name, each in said.items() if name != "ARROW:schema"}
    made.rename(changes.renamed).write_parquet(to, metadata=own or None)
    return to.getvalue()


def _by_column(
    now: Table, changes: TableChanges, new: Mapping[int, Placed]
) -> dict[str, dict[int, Any]]:
    """The values that are others now, by column and place."""
    at = {row: place for place, row in enumerate(now.rows)}
    made: dict[str, dict[int, Any]] = {}
    for row, values in changes.cells.items():
        for name in values:
            made.setdefault(name, {})[at[row]] = now.frame[name][at[row]]
    for place, (thing, typed) in new.items():
        for name in typed or ():
            if now.frame[name][place] is not None or thing is not None:
                made.setdefault(name, {})[place] = now.frame[name][place]
    return made


def _with_values(column: pl.Series, values: Mapping[int, Any], file: str) -> pl.Series:
    """A column with some values in place of others, of its own type.

    Raises:
        Problem: where that type cannot hold one of them.
    """
    typed_in = pl.Series(column.name, list(values.values()))
    held = _as_type(typed_in, column.dtype)
    known = None if held is None else as_known(held)
    is_same = known is not None and [*map(_as_written, known)] == [*map(_as_written, typed_in)]
    if held is None or not is_same:
        reason = f"a column of {column.dtype} cannot hold what is there now"
        raise Problem(file, column.name, reason, "values of that type")
    rows = list(range(len(column)))
    for number, place in enumerate(values):
        rows[place] = len(column) + number
    return pl.concat([column, held]).gather(rows)


def _as_written(value: Any) -> Any:
    if isinstance(value, pl.Series):
        return [_as_written(each) for each in value]
    is_whole = isinstance(value, float) and value.is_integer()
    return int(value) if is_whole else value


def _as_type(column: pl.Series, dtype: pl.DataType) -> pl.Series | None:
    """Values that were typed, as a column of a type holds them; none where it cannot."""
    try:
        if isinstance(dtype, pl.Datetime) and isinstance(column.dtype, pl.Datetime):
            if dtype.time_zone:
                column = column.dt.replace_time_zone("UTC").dt.convert_time_zone(dtype.time_zone)
            return column.cast(dtype)
        if isinstance(dtype, pl.Time) and column.dtype == pl.String:
            return column.str.to_time(strict=True)
        return column.cast(dtype, strict=True)
    except (pl.exceptions.PolarsError, TypeError, ValueError):
        return None
