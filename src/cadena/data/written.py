"""Types of text columns: by how all of a column is written."""

from __future__ import annotations

import re
from typing import Final

import polars as pl

WHOLE: Final = r"-?(?:0|[1-9][0-9]*)"
NUMBER: Final = WHOLE + r"(?:\.[0-9]+)?(?:[eE][+-]?[0-9]+)?"
WRITTEN: Final[tuple[tuple[str, pl.DataType], ...]] = (
    (WHOLE, pl.Int64()),
    (NUMBER, pl.Float64()),
    ("true|false", pl.Boolean()),
    (r"[0-9]{4}-[0-9]{2}-[0-9]{2}", pl.Date()),
)


def unlike_number(text: str) -> bool:
    """Whether a text is written as no number."""
    return re.fullmatch(NUMBER, text.strip()) is None


def by_content(column: pl.Series) -> pl.Series:
    """Text given the type that all of it is written as.

    Codes with leading zeros stay text, and so do whole numbers too large for 64 bits: as a
    number with a fraction they would lose digits.
    """
    filled = column.filter(column != "")
    for pattern, dtype in WRITTEN:
        # Most columns are told by their first value, at no cost.
        if not len(filled) or not re.fullmatch(pattern, filled[0]):
            continue
        if filled.str.contains(f"^(?:{pattern})$").all():
            made = as_far_as_it_goes(column, dtype)
            if made.null_count() == len(column) - len(filled):
                return made
            if dtype == pl.Int64():
                return column
    return column


def as_far_as_it_goes(column: pl.Series, wanted: pl.DataType) -> pl.Series:
    """The column cast; what cannot be is none."""
    if wanted == pl.Date() and column.dtype == pl.String:
        return column.str.to_date("%Y-%m-%d", strict=False)
    if wanted == pl.Boolean() and column.dtype == pl.String:
        return column.replace_strict(
            {"true": True, "false": False, "yes": True, "no": False},
            default=None,
            return_dtype=wanted,
        )
    try:
        return column.cast(wanted, strict=False)
    except pl.exceptions.PolarsError:
        return pl.Series(column.name, [None] * len(column), dtype=wanted)


def converted(column: pl.Series, wanted: pl.DataType) -> tuple[pl.Series, pl.Series]:
    """A column as another type, and which of its values would not go: they are then empty."""
    if column.dtype == wanted:
        return column, pl.repeat(False, len(column), eager=True)
    made = as_far_as_it_goes(column, wanted)
    lost = column.is_not_null() & made.is_null()
    if column.dtype == pl.String:
        lost = lost & (column != "")
    if wanted == pl.Int64() and column.dtype.is_float():
        unlike = (column != made.cast(pl.Float64())).fill_null(False)
        lost = lost | unlike
        made = made.zip_with(
            ~unlike, pl.Series(made.name, [None], dtype=wanted).new_from_index(0, len(made))
        )
    return made, lost.fill_null(False)
