"""Reading a source's file into records: JSON and CSV, through Polars."""

from __future__ import annotations

import csv
import io
import re
from pathlib import Path
from typing import Any, Final, cast

import msgspec
import polars as pl

from cadena.data.records import Records, dtype_of
from cadena.model.problem import Problem
from cadena.model.source import Source
from cadena.model.values import FieldType

FORMATS: Final = (".json", ".csv")
WHOLE: Final = r"-?(?:0|[1-9][0-9]*)"
WRITTEN: Final[tuple[tuple[str, pl.DataType], ...]] = (
    (WHOLE, pl.Int64()),
    (WHOLE + r"(?:\.[0-9]+)?(?:[eE][+-]?[0-9]+)?", pl.Float64()),
    ("true|false", pl.Boolean()),
    (r"[0-9]{4}-[0-9]{2}-[0-9]{2}", pl.Date()),
)


def inside(folder: Path, name: str, place: str = "") -> Path:
    """The path of a file that must lie inside a folder, links followed.

    Raises:
        Problem: when it points elsewhere or is not there.
    """
    root = folder.resolve()
    try:
        path = (root / name).resolve()
        is_inside = path.is_relative_to(root) and not Path(name).is_absolute()
        there = is_inside and path.is_file()
    except (OSError, ValueError, RuntimeError):
        is_inside, there = True, False
    if not is_inside:
        raise Problem(name, place, "the path leads outside the project folder", "a file inside it")
    if not there:
        raise Problem(
            name, place, "there is no such file in the project folder", "a file inside it"
        )
    return path


def read_records(folder: Path, source: Source) -> Records:
    """Read the records of a source.

    Raises:
        Problem: naming file, place, what was found and what was wanted.
    """
    return typed(source, read_frame(folder, source.file, f"the file of source {source.id}"))


def read_frame(folder: Path, name: str, place: str = "") -> pl.DataFrame:
    """Read the columns of a data file in a project folder, with the types found.

    Args:
        place: where the file is named, for messages.

    Raises:
        Problem: as ``read_records``.
    """
    path = inside(folder, name, place)
    ending = path.suffix.lower()
    if ending not in FORMATS:
        raise Problem(
            name, "", f"the ending {ending or 'of its name'} is not known", " or ".join(FORMATS)
        )
    try:
        raw = path.read_bytes()
    except OSError as error:
        raise Problem(
            name, "", f"it cannot be read ({error.strerror})", "a readable file"
        ) from None
    raw = raw.removeprefix(b"\xef\xbb\xbf")
    _demand_text(raw, name)
    return _from_json(raw, name) if ending == ".json" else _from_csv(raw, name)


def _demand_text(raw: bytes, name: str) -> None:
    if not raw.strip():
        raise Problem(name, "", "the file is empty", "records; [] for none")
    try:
        raw.decode("utf-8")
    except UnicodeDecodeError as error:
        line = raw.count(b"\n", 0, error.start) + 1
        raise Problem(
            name,
            f"line {line}, byte {error.start}",
            f"0x{raw[error.start]:02x} is not UTF-8",
            "text in UTF-8",
        ) from None
    if b"\0" in raw:
        line = raw.count(b"\n", 0, raw.index(b"\0")) + 1
        raise Problem(name, f"line {line}", "a NUL byte", "text without NUL bytes")


def _from_json(raw: bytes, name: str) -> pl.DataFrame:
    try:
        if raw.lstrip()[:1] != b"[":
            raise ValueError
        frame = pl.read_json(raw, infer_schema_length=None)
    except (pl.exceptions.PolarsError, ValueError, pl.exceptions.PanicException):
        raise _wrong_json(raw, name) from None
    nested = [column for column, dtype in frame.schema.items() if _nests(dtype)]
    if nested:
        raise Problem(
            name,
            f"field {nested[0]}",
            "its values hold other records",
            "flat values, or lists of them",
        )
    if frame.width == 0 and raw.strip().removeprefix(b"[").removesuffix(b"]").strip():
        raise _wrong_json(raw, name)
    return frame


def _wrong_json(raw: bytes, name: str) -> Problem:
    """Say exactly what is wrong with a JSON file that gave no columns."""
    try:
        tree = msgspec.json.decode(raw)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        return Problem(name, "", f"it is not JSON ({error})", "an array of records")
    if not isinstance(tree, list):
        kind = "an object" if isinstance(tree, dict) else "a single value"
        return Problem(name, "$", f"it holds {kind}", "an array of records")
    for number, each in enumerate(tree):
        if not isinstance(each, dict) or not each:
            return Problem(name, f"$[{number}]", "it is not a record", "an object with fields")
    return Problem(name, "$", "its values could not be read as columns", "one type in each field")


def _nests(dtype: pl.DataType) -> bool:
    inner = cast(Any, dtype).inner if isinstance(dtype, pl.List) else None
    return isinstance(dtype, pl.Struct) or isinstance(inner, pl.Struct | pl.List)


def _from_csv(raw: bytes, name: str) -> pl.DataFrame:
    header = next(csv.reader(io.StringIO(raw.split(b"\n", 1)[0].decode("utf-8"))), [])
    twice = [each for number, each in enumerate(header) if each in header[:number]]
    if twice:
        raise Problem(
            name, "line 1", f'two columns are named "{twice[0]}"', "a name for each column"
        )
    try:
        frame = pl.read_csv(raw, infer_schema=False)
    except pl.exceptions.PolarsError as error:
        reason = str(error).splitlines()[0]
        raise _ragged(raw, name) or Problem(name, "", reason, "rows as RFC 4180 has them") from None
    if frame.width > 1 and frame[:, -1].null_count() and (problem := _ragged(raw, name)):
        raise problem
    return frame.with_columns(_by_content(frame[each]) for each in frame.columns)


def _by_content(column: pl.Series) -> pl.Series:
    """Text given the type that all of it is written as; codes with leading zeros stay text."""
    filled = column.filter(column != "")
    for pattern, dtype in WRITTEN:
        # Most columns are told by their first value, at no cost.
        if not len(filled) or not re.fullmatch(pattern, filled[0]):
            continue
        if filled.str.contains(f"^(?:{pattern})$").all():
            made = _as_far_as_it_goes(column, dtype)
            if made.null_count() == len(column) - len(filled):
                return made
    return column


def _ragged(raw: bytes, name: str) -> Problem | None:
    csv.field_size_limit(2**31 - 1)
    reader = csv.reader(io.StringIO(raw.decode("utf-8"), newline=""))
    wanted = len(next(reader, []))
    for row in reader:
        if row and len(row) != wanted:
            return Problem(
                name,
                f"line {reader.line_num}",
                f"the row has {len(row)} fields",
                f"{wanted}, as in the header",
            )
    return None


def typed(source: Source, frame: pl.DataFrame) -> Records:
    """Give the columns of a frame the types that a source declares, or those found.

    Raises:
        Problem: when a declared field is not there, a value does not fit its type, or
            the key is not there.
    """
    declared = {field.name: field.type for field in source.fields}
    missing = [name for name in declared if name not in frame.columns]
    if missing and frame.width:
        have = ", ".join(frame.columns)
        raise Problem(source.file, f"field {missing[0]}", "it is not there", f"one of: {have}")
    columns: dict[str, pl.Series] = {}
    types: dict[str, FieldType] = {}
    for name in frame.columns or declared:
        column = frame[name] if name in frame.columns else pl.Series(name, [], dtype=pl.String())
        types[name] = declared.get(name) or _found_type(column.dtype)
        columns[name] = _cast(column, types[name], source.file)
    if not columns:
        columns[source.key], types[source.key] = (
            pl.Series(source.key, [], dtype=pl.String()),
            "text",
        )
    if source.key not in columns:
        have = ", ".join(columns)
        raise Problem(
            source.file, f"key {source.key}", "the records have no such field", f"one of: {have}"
        )
    return Records(source, pl.DataFrame(columns), types)


def _found_type(dtype: pl.DataType) -> FieldType:
    if isinstance(dtype, pl.List):
        return cast(FieldType, f"list of {_found_type(cast(Any, dtype).inner)}")
    if dtype.is_integer():
        return "whole number"
    if dtype.is_numeric():
        return "number"
    if dtype == pl.Boolean:
        return "yes/no"
    return "date" if dtype == pl.Date else "text"


def _as_far_as_it_goes(column: pl.Series, wanted: pl.DataType) -> pl.Series:
    """The column cast; what cannot be is none."""
    if wanted == pl.Date() and column.dtype == pl.String:
        return column.str.to_date("%Y-%m-%d", strict=False)
    if wanted == pl.Boolean() and column.dtype == pl.String:
        return column.replace_strict(
            {"true": True, "false": False}, default=None, return_dtype=wanted
        )
    try:
        return column.cast(wanted, strict=False)
    except pl.exceptions.PolarsError:
        return pl.Series(column.name, [None] * len(column), dtype=wanted)


def _cast(column: pl.Series, kind: FieldType, name: str) -> pl.Series:
    wanted = dtype_of(kind)
    if column.dtype == wanted:
        return column
    made = _as_far_as_it_goes(column, wanted)
    lost = column.is_not_null() & made.is_null()
    if wanted == pl.Int64() and column.dtype.is_float():
        lost = lost | (column != made.cast(pl.Float64())).fill_null(False)
    if lost.any():
        at = int(lost.arg_true()[0])
        raise Problem(name, f"record {at + 1}, field {column.name}", f"{column[at]!r} came", kind)
    return made
