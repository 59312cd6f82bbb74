"""Types of text columns: by how all of a column is written."""

from __future__ import annotations

import re
from typing import Final

import polars as pl

from cadena.records.columns import in_years
from cadena.sources.number_texts import NUMBER, WHOLE

TRUTHS: Final = {"true": True, "false": False}
WRITTEN: Final[tuple[tuple[str, pl.DataType], ...]] = (
    (WHOLE, pl.Int64()),
    (NUMBER, pl.Float64()),
    ("true|false", pl.Boolean()),
    (r"[0-9]{4}-[0-9]{2}-[0-9]{2}", pl.Date()),
)

GAPS: Final = (
    "NA",
    "N/A",
    "n/a",
    "na",
    "null",
    "NULL",
    "None",
    "none",
    "NaN",
    "nan",
    "-",
    "–",
    "?",
)
"""Words that stand for nothing among numbers and dates."""


def gaps_in(frame: pl.DataFrame) -> tuple[str, ...]:
    """The words for nothing that keep columns from being numbers, dates or yes and no."""
    found: dict[str, None] = {}
    for column in frame.iter_columns():
        if column.dtype == pl.String:
            found.update(dict.fromkeys(_gaps_of(column)))
    return tuple(found)


def _gaps_of(column: pl.Series) -> list[str]:
    is_gap = column.is_in(GAPS)
    if not is_gap.any():
        return []
    rest = column.filter(~is_gap & (column != ""))
    if not len(rest) or by_content(pl.DataFrame([rest])).dtypes[0] == pl.String:
        return []
    return [each for each in GAPS if (column == each).any()]


def without_gaps(frame: pl.DataFrame, gaps: tuple[str, ...]) -> tuple[pl.DataFrame, int]:
    """Columns that are typed once words for nothing are empty, and how many there were."""
    emptied = 0
    for column in frame.iter_columns():
        if column.dtype != pl.String or not (is_gap := column.is_in(gaps)).any():
            continue
        bare = column.set(is_gap, "")
        made = by_content(pl.DataFrame([bare]))
        if made.dtypes[0] != pl.String:
            frame = frame.with_columns(made.to_series())
            emptied += int(is_gap.sum())
    return frame, emptied


def by_content(frame: pl.DataFrame) -> pl.DataFrame:
    """Columns of text given the type that all of each is written as.

    Codes with leading zeros stay text, and so do whole numbers too large for 64 bits: as a
    number with a fraction they would lose digits. All columns are tried at once.
    """
    waiting = {name: _likely(frame[name]) for name in frame.columns}
    likely = [pl.col(name) for name, kinds in waiting.items() if kinds]
    empty = frame.select(each.is_null().sum() + (each == "").sum() for each in likely)
    while tried := {name: kinds[0] for name, kinds in waiting.items() if kinds}:
        made = frame.select(_read_as(pl.col(name), kind) for name, kind in tried.items())
        # Whatever was not read has become empty.
        read = [name for name in tried if made[name].null_count() == empty[name][0]]
        odd = frame.select(_is_code(pl.col(name), tried[name]).any() for name in read)
        kept = [name for name in read if not odd[name][0]]
        frame = frame.with_columns(made[name] for name in kept)
        for name, kind in tried.items():
            # Too large for 64 bits is no reason to lose digits instead.
            ends = name in kept or (kind == WHOLE and _is_whole(frame[name]))
            waiting[name] = [] if ends else waiting[name][1:]
    return frame


def _likely(column: pl.Series) -> list[str]:
    """The patterns that a column may be written as: most are told by their first value."""
    for piece in (column.head(64), column):
        filled = piece.filter(piece != "")
        if len(filled):
            return [each for each, _ in WRITTEN if re.fullmatch(each, filled[0])]
    return []


def _read_as(column: pl.Expr, pattern: str) -> pl.Expr:
    dtype = dict(WRITTEN)[pattern]
    if dtype == pl.Date():
        day = column.str.to_date("%Y-%m-%d", strict=False)
        return pl.when(day.dt.year() > 0).then(day)
    if dtype == pl.Boolean():
        return column.replace_strict(TRUTHS, default=None, return_dtype=dtype)
    return column.cast(dtype, strict=False)


def _is_code(column: pl.Expr, pattern: str) -> pl.Expr:
    """Where a value reads as the type, and is written otherwise: 007, +5, 1_000."""
    if pattern != WHOLE:
        return (column != "") & ~column.str.contains(f"^(?:{pattern})$")
    longer = column.str.len_bytes() > 1
    zero = column.str.starts_with("0") | column.str.starts_with("-0")
    return (zero & longer) | column.str.starts_with("+")


def _is_whole(column: pl.Series) -> bool:
    return bool(column.filter(column != "").str.contains(f"^(?:{WHOLE})$").all())


def as_far_as_it_goes(column: pl.Series, wanted: pl.DataType) -> pl.Series:
    """The column cast; what cannot be is none."""
    if wanted == pl.Date() and column.dtype == pl.String:
        return in_years(column.str.to_date("%Y-%m-%d", strict=False))
    if wanted == pl.Boolean() and column.dtype == pl.String:
        return column.replace_strict(
            {**TRUTHS, "yes": True, "no": False},
            default=None,
            return_dtype=wanted,
        )
    try:
        made = column.cast(wanted, strict=False)
        return in_years(made) if wanted.is_temporal() else made
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
