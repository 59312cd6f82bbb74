"""Reading a source's file into records."""

from __future__ import annotations

from pathlib import Path
from typing import Any, Final, cast

import polars as pl

from cadena.model.file.disk import demand_plain, inside, read_bytes
from cadena.model.problem import Problem
from cadena.model.source import Csv, Source
from cadena.model.values import FieldType
from cadena.records.reading import NAMED, Fault, Progress, Reading, silent
from cadena.records.records import Records, dtype_of
from cadena.sources.infer_types import converted
from cadena.sources.read_csv import as_utf8, read_csv
from cadena.sources.read_json import read_json, read_json_lines

JSON: Final = (".json", ".geojson")
LINES: Final = (".jsonl", ".ndjson")
CSV: Final = (".csv", ".tsv", ".txt")
SQLITE: Final = (".sqlite", ".sqlite3", ".db")
FORMATS: Final = (*JSON, *LINES, *CSV, *SQLITE)
JOINT: Final = "-"
LARGEST: Final = 2 * 1024 * 1024 * 1024
"""Bytes of a data file."""


def read_records(folder: Path, source: Source, progress: Progress = silent) -> Records:
    """Read the records of a source.

    What cannot be taken is left out and counted (see ``Records.faults``).

    Raises:
        Problem: where nothing can be: naming file, place, what was found and what was wanted.
    """
    if not source.file:
        return typed(source, Reading(pl.DataFrame()))
    path = inside(folder, source.file, f"the file of source {source.id}")
    return typed(source, read_file(path, source.file, source.at, source.csv, progress))


def read_file(
    path: Path,
    name: str,
    at: str = "",
    form: Csv | None = None,
    progress: Progress = silent,
    raw: bytes | None = None,
) -> Reading:
    """Read the columns of a data file, with the types found.

    Args:
        name: what the file is called in messages.
        at: where in it the records are (see ``Source``).
        form: how it is written, for CSV.
        raw: what is in it, where that is read already.

    Raises:
        Problem: as ``read_records``.
    """
    ending = path.suffix.lower()
    if ending not in FORMATS:
        raise Problem(
            name, "", f"the ending {ending or 'of its name'} is not known", " or ".join(FORMATS)
        )
    if ending in SQLITE:
        from cadena.sources.read_sqlite import read_sqlite

        demand_plain(path, name, LARGEST, "a database")
        return read_sqlite(path, at, progress)
    raw = read_bytes(path, name, LARGEST, "a data file") if raw is None else raw
    progress(0.05)
    if ending in CSV:
        return read_csv(raw, name, form or Csv(), progress, path)
    raw, faults = as_utf8(raw, name, "utf-8")
    reading = (
        read_json_lines(raw, name, progress)
        if ending in LINES
        else read_json(raw, name, at, progress)
    )
    return Reading(reading.frame, faults + reading.faults)


def typed(source: Source, reading: Reading | pl.DataFrame) -> Records:
    """Give columns the types that a source declares, or those found, and the key its field.

    Values that do not fit their type are left empty, and counted; so is a declared field
    that is not there.

    Raises:
        Problem: when the key is not there.
    """
    if isinstance(reading, pl.DataFrame):
        reading = Reading(reading)
    frame, faults = reading.frame, list(reading.faults)
    declared = {field.name: field.type for field in source.fields}
    missing = [name for name in declared if name not in frame.columns]
    if frame.width and (gone := [each for each in missing if each != source.key]):
        faults.append(Fault(len(gone), "declared fields are not in the data", tuple(gone[:NAMED])))
    columns: dict[str, pl.Series] = {}
    types: dict[str, FieldType] = {}
    for name in (*frame.columns, *missing):
        has = name in frame.columns
        types[name] = declared.get(name) or _found_type(frame[name].dtype)
        if not has and source.numbered and name == source.key:
            continue
        if not has:
            columns[name] = pl.Series(name, [None] * frame.height, dtype=dtype_of(types[name]))
            continue
        if frame[name].dtype == dtype_of(types[name]):
            columns[name] = frame[name]
            continue
        made, lost = converted(frame[name], dtype_of(types[name]))
        columns[name] = made
        if lost.any():
            faults.append(_unfit(frame[name], lost, types[name]))
    if source.key_from and set(source.key_from) <= columns.keys():
        parts = pl.DataFrame([columns[each].cast(pl.String) for each in source.key_from])
        made = parts.select(pl.concat_str(pl.all(), separator=JOINT)).to_series()
        columns[source.key], types[source.key] = made.alias(source.key), "text"
    if source.numbered and source.key not in columns:
        columns[source.key] = pl.int_range(1, frame.height + 1, dtype=pl.Int64, eager=True)
        types[source.key] = "whole number"
    if not columns or (source.key not in columns and not frame.height):
        kind = declared.get(source.key, "text")
        columns[source.key] = pl.Series(source.key, [], dtype=dtype_of(kind))
        types[source.key] = kind
    if source.key not in columns or (
        source.key in missing and frame.height and not source.key_from and not source.numbered
    ):
        have = ", ".join(frame.columns)
        raise Problem(
            source.file, f"key {source.key}", "the records have no such field", f"one of: {have}"
        )
    return Records(source, pl.DataFrame(columns), types, tuple(faults), reading)


def _unfit(column: pl.Series, lost: pl.Series, kind: str) -> Fault:
    at = lost.arg_true()
    places = tuple(
        f"record {int(each) + 1}: {str(column[int(each)])[:40]!r}" for each in at[:NAMED]
    )
    return Fault(len(at), f"values of {column.name} left empty, no {kind}", places)


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
