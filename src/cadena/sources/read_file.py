"""Reading a source's file into records."""

from __future__ import annotations

from pathlib import Path
from typing import Any, cast

import polars as pl

from cadena.model.file.disk import inside
from cadena.model.problem import Problem
from cadena.model.source import Csv, Inside, Source
from cadena.model.values import FieldType
from cadena.records.columns import dtype_of
from cadena.records.held import held
from cadena.records.reading import NAMED, Fault, Progress, Reading, silent
from cadena.records.records import Records
from cadena.sources.data_file import DataFile
from cadena.sources.infer_types import converted
from cadena.sources.json_tree import JOINT
from cadena.sources.written_forms import read_as_written


def read_records(folder: Path, source: Source, progress: Progress = silent) -> Records:
    """Read the records of a source.

    What cannot be taken is left out and counted (see ``Records.faults``).

    Raises:
        Problem: where nothing can be: naming file, place, what was found and what was wanted.
    """
    return typed(source, read_source(folder, source, progress))


def read_source(folder: Path, source: Source, progress: Progress = silent) -> Reading:
    """Read the columns of a source's file.

    Raises:
        Problem: as ``read_records``.
    """
    if not source.file:
        return Reading(pl.DataFrame())
    path = inside(folder, source.file, f"the file of source {source.id}")
    return reading_of(DataFile(path, source.file), source, progress)


def reading_of(data: DataFile, source: Source, progress: Progress = silent) -> Reading:
    """The columns that a data file holds of a source that there is.

    Raises:
        Problem: as ``read_records``.
    """
    return data.read(source.at, source.csv, progress, source.inside, is_known=True)


def read_file(
    path: Path,
    name: str,
    at: str = "",
    form: Csv | None = None,
    progress: Progress = silent,
    inside: Inside | None = None,
) -> Reading:
    """Read the columns of a data file, with the types found.

    Args:
        name: what the file is called in messages.
        at: where in it the records are (see ``Source``).
        form: how it is written, for CSV.
        inside: the list in each record that is meant in place of them.

    Raises:
        Problem: as ``read_records``.
    """
    return DataFile(path, name).read(at, form or Csv(), progress, inside)


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
    written = {field.name: field.written for field in source.fields}
    made_of = {field.name: field.made_of for field in source.fields if field.made_of}
    missing = [e for e in declared if e not in frame.columns and e not in made_of]
    if frame.width and (gone := [each for each in missing if each != source.key]):
        faults.append(Fault(len(gone), "declared fields are not in the data", tuple(gone[:NAMED])))
    columns: dict[str, pl.Series] = {}
    types: dict[str, FieldType] = {}
    for name in (*frame.columns, *missing):
        has = name in frame.columns
        types[name] = declared.get(name) or found_type(frame[name].dtype)
        if not has and source.numbered and name == source.key:
            continue
        if not has:
            columns[name] = pl.Series(name, [None] * frame.height, dtype=dtype_of(types[name]))
            continue
        if frame[name].dtype == dtype_of(types[name]):
            columns[name] = frame[name]
            continue
        made, lost = _read_as(frame[name], types[name], written.get(name, ""), source.csv.gaps)
        columns[name] = made
        if lost.any():
            faults.append(_unfit(frame[name], lost, types[name]))
    if source.key_from:
        made_of[source.key] = source.key_from
    for name, parts in made_of.items():
        if set(parts) <= columns.keys():
            parted = pl.DataFrame([columns[each].cast(pl.String) for each in parts])
            made = parted.select(pl.concat_str(pl.all(), separator=JOINT)).to_series()
            columns[name], types[name] = made.alias(name), "text"
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
    return held(source, pl.DataFrame(columns), types, tuple(faults), reading)


def _read_as(
    column: pl.Series, kind: FieldType, written: str, gaps: tuple[str, ...]
) -> tuple[pl.Series, pl.Series]:
    """A column as another type, and which of its values would not go: they are then empty."""
    if column.dtype != pl.String or not (written or kind == "date and time"):
        return converted(column, dtype_of(kind))
    made = read_as_written(column, kind, written)
    lost = column.is_not_null() & made.is_null() & (column != "") & ~column.is_in(list(gaps))
    return made, lost


def _unfit(column: pl.Series, lost: pl.Series, kind: str) -> Fault:
    at = lost.arg_true()
    places = tuple(f"record {int(row) + 1}: {str(column[int(row)])[:40]!r}" for row in at[:NAMED])
    return Fault(len(at), f"values of {column.name} left empty, no {kind}", places)


def found_type(dtype: pl.DataType) -> FieldType:
    """The type of a field whose values a column of this type holds."""
    if isinstance(dtype, pl.List):
        return cast(FieldType, f"list of {found_type(cast(Any, dtype).inner)}")
    if dtype.is_integer():
        return "whole number"
    if dtype.is_numeric():
        return "number"
    if dtype == pl.Boolean:
        return "yes/no"
    if isinstance(dtype, pl.Datetime):
        return "date and time"
    return "date" if dtype == pl.Date else "text"
