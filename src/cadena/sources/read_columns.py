"""Reading what holds columns with types of their own: Parquet files, and sheets."""

from __future__ import annotations

import datetime
import io
from typing import Any, Final

import polars as pl

from cadena.model.find import unused
from cadena.model.problem import Problem
from cadena.model.source import Inside
from cadena.records.columns import in_years
from cadena.records.reading import MOST_FIELDS, NAMED, Fault, Progress, Reading, silent
from cadena.sources.file_kinds import PARQUET
from cadena.sources.json_tree import JOINT
from cadena.sources.number_texts import unlike_number
from cadena.sources.read_json import columns_of

MOST_ODD: Final = 0.1
"""The share of cells of another kind than the rest that are taken for mistakes."""
FIRST_ROWS: Final = 20
"""Rows of a sheet among which its header is looked for."""


def read_parquet(raw: bytes, name: str, inside: Inside | None = None) -> Reading:
    """The columns of a Parquet file; those of types that no field has are left out, and named.

    Args:
        inside: the list in each record that is meant in place of them.

    Raises:
        Problem: where it is none.
    """
    if not (raw.startswith(PARQUET) and raw.endswith(PARQUET)):
        raise Problem(name, "", "it cannot be read (it is cut off, or is none)", "a Parquet file")
    try:
        frame = pl.read_parquet(io.BytesIO(raw))
    except (pl.exceptions.PolarsError, pl.exceptions.PanicException, OSError) as error:
        reason = f"it cannot be read ({str(error).splitlines()[0][:200]})"
        raise Problem(name, "", reason, "a Parquet file") from None
    frame = _flat(frame)
    if inside is not None:
        frame = _flat(_inside(frame, inside, name))
    kept: list[pl.Series] = []
    left: list[str] = []
    inner: list[str] = []
    for column in frame.iter_columns():
        made = as_known(column)
        if isinstance(column.dtype, pl.List) and isinstance(column.dtype.inner, pl.Struct):
            inner.append(column.name)
        elif made is None or len(kept) >= MOST_FIELDS:
            left.append(column.name)
        else:
            kept.append(made)
    faults: tuple[Fault, ...] = ()
    if left:
        said = "columns left out, of a type that no field has"
        faults = (Fault(len(left), said, tuple(left[:NAMED])),)
    return Reading(pl.DataFrame(kept), faults, inner=tuple(inner))


def _inside(frame: pl.DataFrame, inside: Inside, name: str) -> pl.DataFrame:
    """The records of a list in each record, with the key of the one that holds them."""
    if inside.field not in frame.columns or not {*inside.key} <= {*frame.columns}:
        raise Problem(name, inside.field, "there is no such list", "a list of records")
    texts = [pl.col(each).cast(pl.String) for each in inside.key]
    key = (
        pl.col(inside.key[0])
        if len(inside.key) == 1
        else pl.concat_str(texts, separator=JOINT)
        if texts
        else pl.int_range(1, pl.len() + 1, dtype=pl.Int64)
    )
    held = frame.select(pl.col(inside.field), key.alias(inside.called)).explode(inside.field)
    held = held.filter(pl.col(inside.field).is_not_null())
    if not isinstance(held.schema[inside.field], pl.Struct):
        raise Problem(name, inside.field, "it holds no records", "a list of records")
    return held.select(pl.col(inside.field).struct.unnest(), inside.called)


def _flat(frame: pl.DataFrame) -> pl.DataFrame:
    """Columns that hold others are reached by path, as ``owner.name``."""
    while held := [name for name, kind in frame.schema.items() if isinstance(kind, pl.Struct)]:
        for name in held:
            inside = frame[name].struct.unnest()
            named = {each: f"{name}.{each}" for each in inside.columns}
            frame = frame.drop(name).hstack(inside.rename(named))
    return frame


def as_known(column: pl.Series) -> pl.Series | None:
    dtype = column.dtype
    if isinstance(dtype, pl.List | pl.Array):
        inner = as_known(column.explode().head(0))
        if inner is None or isinstance(inner.dtype, pl.List):
            return None
        return column.cast(pl.List(inner.dtype), strict=False)
    if isinstance(dtype, pl.Datetime):
        held = column.dt.convert_time_zone("UTC") if dtype.time_zone else column
        return in_years(held.dt.replace_time_zone(None).cast(pl.Datetime("us")))
    if dtype == pl.Date:
        return in_years(column)
    if dtype in (pl.String, pl.Boolean, pl.Int64, pl.Float64):
        return column
    if dtype == pl.UInt64 and int(column.max() or 0) >= 2**63:  # type: ignore[arg-type]
        return column.cast(pl.String)
    if dtype.is_integer():
        return column.cast(pl.Int64)
    if dtype.is_numeric():
        return column.cast(pl.Float64)
    if isinstance(dtype, pl.Categorical | pl.Enum | pl.Time) or dtype == pl.Null:
        return column.cast(pl.String)
    return None


def sheets_in(raw: bytes, name: str) -> list[str]:
    """The sheets of a spreadsheet that hold anything.

    Raises:
        Problem: where it is none.
    """
    book = _book(raw, name)
    return [each for each in book.sheet_names if _rows(book, each, name)]


def read_sheet(raw: bytes, name: str, at: str, progress: Progress = silent) -> Reading:
    """The rows of a sheet under their header; the first sheet, where none is named.

    Raises:
        Problem: when there is none of that name, or nothing in it.
    """
    book = _book(raw, name)
    have = list(book.sheet_names)
    if at and at not in have:
        raise Problem(name, at, "there is no such sheet", f"one of: {', '.join(have)}")
    rows = _rows(book, at or have[0], name) if have else []
    if not rows:
        raise Problem(name, at, "the sheet is empty", "rows under a header")
    widths = [sum(each not in ("", None) for each in row) for row in rows[:FIRST_ROWS]]
    head = next(at for at, width in enumerate(widths) if width * 2 >= max(widths))
    first = rows[head]
    has_header = all(isinstance(each, str) and unlike_number(each) for each in first if each != "")
    names: list[str] = []
    for number, each in enumerate(first):
        said = " ".join(str(each).split()) if has_header else ""
        names.append(unused(said or f"column_{number + 1}", names))
    below = rows[head + 1 :] if has_header else rows[head:]
    below = [row for row in below if any(each not in ("", None) for each in row)]
    faults = tuple(_emptied(below, at, called) for at, called in enumerate(names))
    records = [
        {key: _plain(value) for key, value in zip(names, row, strict=False)} for row in below
    ]
    made = columns_of(records, name, "row", progress)
    whole = [_whole(each) for each in made.frame.iter_columns()]
    return Reading(pl.DataFrame(whole), (*filter(None, faults), *made.faults))


def _emptied(rows: list[list[Any]], at: int, name: str) -> Fault | None:
    """Empty the few cells of a column that are of another kind than nearly all of it."""
    kinds = [_kind(row[at]) if at < len(row) else "" for row in rows]
    filled = [kind for kind in kinds if kind]
    usual = max(set(filled), key=filled.count, default="")
    odd = [number for number, kind in enumerate(kinds) if kind not in ("", usual)]
    if not odd or usual in ("", "text") or len(odd) > MOST_ODD * len(filled):
        return None
    places = tuple(f"record {number + 1}: {str(rows[number][at])[:40]!r}" for number in odd[:NAMED])
    for number in odd:
        rows[number][at] = ""
    return Fault(len(odd), f"values of {name} left empty, no {usual}", places)


def _kind(value: Any) -> str:
    """What a cell holds, or nothing."""
    if value in ("", None):
        return ""
    if isinstance(value, bool):
        return "yes/no"
    if isinstance(value, datetime.date):
        return "date"
    return "number" if isinstance(value, int | float) else "text"


def _book(raw: bytes, name: str) -> Any:
    from python_calamine import CalamineError, CalamineWorkbook

    try:
        return CalamineWorkbook.from_filelike(io.BytesIO(raw))
    except (CalamineError, OSError, ValueError) as error:
        reason = f"it cannot be read ({error})"
        raise Problem(name, "", reason, "a spreadsheet, such as .xlsx or .ods") from None


def _rows(book: Any, sheet: str, name: str) -> list[list[Any]]:
    try:
        rows: list[list[Any]] = book.get_sheet_by_name(sheet).to_python(skip_empty_area=True)
    except Exception as error:
        raise Problem(name, sheet, f"it cannot be read ({error})", "a sheet of rows") from None
    if rows and len(rows[0]) > MOST_FIELDS:
        raise Problem(name, sheet, f"it has {len(rows[0]):,} columns", f"at most {MOST_FIELDS:,}")
    return rows


def _plain(value: Any) -> Any:
    if value == "":
        return None
    if isinstance(value, datetime.datetime) and value.time() == datetime.time():
        return value.date().isoformat()
    if isinstance(value, datetime.date | datetime.time):
        return value.isoformat()
    return str(value) if isinstance(value, datetime.timedelta) else value


def _whole(column: pl.Series) -> pl.Series:
    """Numbers of a sheet are all fractions: those without any are whole."""
    if column.dtype != pl.Float64:
        return column
    made = column.cast(pl.Int64, strict=False)
    is_same = made.cast(pl.Float64).eq_missing(column).all()
    return made if is_same and len(made.drop_nulls()) else column
