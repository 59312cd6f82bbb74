"""Columns of the types that fields have, and their values as plain ones."""

from __future__ import annotations

import datetime
from collections.abc import Mapping
from typing import Any, Final

import polars as pl

from cadena.model.values import LIST, FieldType, as_time

DTYPES: Final[dict[str, pl.DataType]] = {
    "text": pl.String(),
    "picture": pl.String(),
    "whole number": pl.Int64(),
    "number": pl.Float64(),
    "yes/no": pl.Boolean(),
    "date": pl.Date(),
    "date and time": pl.Datetime("us"),
}
PLAIN: Final = (pl.String, pl.Int64, pl.Float64, pl.Boolean)
"""Types of columns that hold values as they are."""


def dtype_of(kind: str) -> pl.DataType:
    """The column type that holds a field type."""
    return pl.List(DTYPES[kind[len(LIST) :]]) if kind.startswith(LIST) else DTYPES[kind]


def in_years(column: pl.Series) -> pl.Series:
    """A column of days or times without those outside the years 1 to 9999, which no text says."""
    year = column.dt.year()
    return column if year.is_between(1, 9999).all() else column.set(~year.is_between(1, 9999), None)


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


def plain_values(column: pl.Series) -> list[Any]:
    """The values of a column as plain ones."""
    values = column.to_list()
    return values if isinstance(column.dtype, PLAIN) else [plain(each) for each in values]


def stored(value: Any, kind: str) -> Any:
    """A plain value that fits a type as its column holds it."""
    if value is None:
        return None
    if kind.startswith(LIST):
        return [stored(each, kind[len(LIST) :]) for each in value]
    if kind == "date":
        return datetime.date.fromisoformat(value)
    return time_of(value) if kind == "date and time" else value


def time_of(text: str) -> datetime.datetime | None:
    """A date and time as its column holds it, or none."""
    held = as_time(text)
    return datetime.datetime.fromisoformat(held.removesuffix("Z")) if held else None


def frame_of(columns: Mapping[str, list[Any]], types: Mapping[str, FieldType]) -> pl.DataFrame:
    """Lists of plain values as columns of their types."""
    made = []
    for name, values in columns.items():
        kind = types[name]
        if kind.startswith(LIST) or kind.startswith("date"):
            values = [stored(each, kind) for each in values]
        made.append(pl.Series(name, values, dtype=dtype_of(kind)))
    return pl.DataFrame(made)


def all_different(column: pl.Series) -> bool:
    """Whether no two values of a column are equal; keys in order are told at no cost."""
    if len(column) < 2 or isinstance(column.dtype, pl.List):
        return True
    if column.is_sorted():
        return not bool((column.head(len(column) - 1) == column.tail(len(column) - 1)).any())
    return column.n_unique() == len(column)
