"""The records of a source as a person changes them by hand: cells, records and fields.

A table never changes; each act makes the next one. Records and fields keep an identity of their
own, by which what was changed is found again in the file.
"""

from __future__ import annotations

import csv
import datetime
import io
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import replace
from functools import partial
from typing import Any, Final, NamedTuple

import polars as pl

from cadena.model.find import unused
from cadena.model.problem import Problem, brief
from cadena.model.source import Field, Source
from cadena.model.values import LIST, FieldType, Unfit, carry, shown
from cadena.records.columns import dtype_of, time_of
from cadena.records.reading import MOST_FIELDS, Reading
from cadena.records.records import Records
from cadena.sources.infer_types import by_content
from cadena.sources.number_texts import unlike_number
from cadena.sources.read_file import found_type
from cadena.sources.written_forms import form_of, read_as_written

MOST_PASTED: Final = 1_000_000
"""Cells of what is pasted at once."""
NAMED: Final = 3


class Table(NamedTuple):
    """Columns, with who each row and each column is.

    Args:
        reading: the columns as they would be read.
        rows: a number for each row, its own as long as it lives.
        columns: for each column by its name the one that it was first.
    """

    reading: Reading
    rows: tuple[int, ...]
    columns: Mapping[str, str]

    @property
    def frame(self) -> pl.DataFrame:
        return self.reading.frame

    def with_frame(self, frame: pl.DataFrame, **changed: Any) -> Table:
        """The table with other columns."""
        return self._replace(reading=replace(self.reading, frame=frame), **changed)


_next_row = 0


def fresh_rows(count: int, beyond: int = -1) -> range:
    """Numbers for so many rows that no row had before, and all after ``beyond``."""
    global _next_row
    first = max(_next_row, beyond + 1)
    _next_row = first + count
    return range(first, _next_row)


def table_of(reading: Reading) -> Table:
    """The table of what was read, or was made up."""
    names = {each: each for each in reading.frame.columns}
    return Table(reading, tuple(fresh_rows(reading.frame.height)), names)


def with_cell(table: Table, records: Records, row: int, field: str, text: str) -> Table:
    """The table with one value typed; nothing typed leaves it empty.

    Raises:
        Problem: where that is no value of the field's type.
    """
    return _with_cells(table, records, {field: {row: text}})


def with_record(table: Table, records: Records, values: Mapping[str, str]) -> Table:
    """The table with one record more, of these values, and of a key that no other has.

    Raises:
        Problem: as ``with_cell``.
    """
    longer = grown(table, records, 1)
    at = longer.frame.height - 1
    return _with_cells(longer, records, {name: {at: text} for name, text in values.items()})


def without_records(table: Table, rows: Iterable[int]) -> Table:
    """The table without some of its rows."""
    gone = set(rows)
    stays = [at not in gone for at in range(table.frame.height)]
    kept = tuple(each for each, is_kept in zip(table.rows, stays, strict=True) if is_kept)
    return table.with_frame(table.frame.filter(pl.Series(stays, dtype=pl.Boolean())), rows=kept)


def with_column(table: Table, name: str, kind: FieldType) -> Table:
    """The table with one more field, empty in every record.

    Raises:
        Problem: where it has a field of that name, or too many.
    """
    _demand_name(table, name)
    if table.frame.width >= MOST_FIELDS:
        raise Problem(name, "", f"there are {MOST_FIELDS:,} fields", "no more than that")
    column = pl.Series(name, [None] * table.frame.height, dtype=dtype_of(kind))
    first = unused(name, table.columns.values())
    return table.with_frame(
        table.frame.with_columns(column), columns={**table.columns, name: f"{first}+"}
    )


def with_column_named(table: Table, name: str, to: str) -> Table:
    """The table with a field called otherwise.

    Raises:
        Problem: where that is no name, or is taken.
    """
    _demand_name(table, to)
    columns = {to if each == name else each: first for each, first in table.columns.items()}
    return table.with_frame(table.frame.rename({name: to}), columns=columns)


def _demand_name(table: Table, name: str) -> None:
    if not name.strip() or name != name.strip() or any(each in name for each in "{}\n"):
        raise Problem("the field", "", f'"{brief(name, 40)}" came', "a name without braces")
    if name in table.columns:
        raise Problem("the field", "", f"there is a field {name} already", "another name")


class Pasted(NamedTuple):
    """A table after pasting, and what of it could not be taken, in one message."""

    table: Table
    left: str


def pasted(table: Table, records: Records, row: int, field: str, text: str) -> Pasted:
    """The table with cells pasted, as spreadsheets copy them: rows on lines, fields by tabs.

    The first cell goes to ``row`` and ``field``; what goes beyond the last row makes new records.
    Where the first line names fields of the table, the others go by these.

    Raises:
        Problem: where there is nothing in it, or far too much.
    """
    lines = _cells_of(text)
    if not any(lines):
        raise Problem("what is pasted", "", "it is empty", "rows of a table")
    if sum(map(len, lines)) > MOST_PASTED:
        raise Problem("what is pasted", "", f"it has over {MOST_PASTED:,} cells", "fewer")
    names = list(records.types)
    heads = [each.strip() for each in lines[0]]
    is_head = len(lines) > 1 and len(set(heads)) == len(heads) and set(heads) <= set(names)
    if is_head:
        lines, row = lines[1:], table.frame.height
    here = heads if is_head else names[names.index(field) :]
    made = {each for each in here if each not in table.columns}
    missing = max(0, row + len(lines) - table.frame.height)
    table = grown(table, records, missing)
    cells: dict[str, dict[int, str]] = {}
    left: list[str] = []
    for at, line in enumerate(lines, row):
        if len(line) > len(here):
            left.append(f"row {at + 1}: {len(line) - len(here)} cells beyond the last field")
        for name, cell in zip(here, line, strict=False):
            if name not in made:
                cells.setdefault(name, {})[at] = cell
    kept: dict[str, dict[int, str]] = {}
    for name, column in cells.items():
        for at, cell in column.items():
            try:
                _value(records.source, records.types[name], name, cell)
            except Problem:
                left.append(f'row {at + 1}, {name}: "{brief(cell, 20)}"')
            else:
                kept.setdefault(name, {})[at] = cell
    more = ", …" if len(left) > NAMED else ""
    said = f"{len(left)} not taken, of another type or beyond: {', '.join(left[:NAMED])}{more}"
    return Pasted(_with_cells(table, records, kept), said if left else "")


def _cells_of(text: str) -> list[list[str]]:
    """The cells of a text, as spreadsheets copy them."""
    delimiter = "\t" if "\t" in text or "," not in text.split("\n")[0] else ","
    with_quotes = csv.reader(io.StringIO(text.rstrip("\r\n"), newline=""), delimiter=delimiter)
    try:
        return list(with_quotes)
    except csv.Error:
        return [each.split(delimiter) for each in text.splitlines()]


def fields_pasted(text: str, known: Collection[str]) -> tuple[Field, ...]:
    """The fields that the head of a pasted table names and that are not known, with their types;
    none where it has no head."""
    lines = _cells_of(text)
    heads = [each.strip() for each in lines[0]] if len(lines) > 1 else []
    is_head = bool(heads) and all(heads) and len(set(heads)) == len(heads)
    if not is_head or not all(map(unlike_number, heads)) or len(heads) > MOST_FIELDS:
        return ()
    columns = {name: [row[at] if at < len(row) else "" for row in lines[1:]]
               for at, name in enumerate(heads)}  # fmt: skip
    frame = pl.DataFrame(columns, schema=dict.fromkeys(heads, pl.String()))
    kinds = {name: found_type(dtype) for name, dtype in by_content(frame).schema.items()}
    forms = {name: form_of(frame[name]) for name, kind in kinds.items() if kind == "text"}
    return tuple(
        Field(name=name, type=kinds[name])
        if (form := forms.get(name)) is None
        else Field(name=name, type=form.type, written=form.written, unit=form.unit)
        for name in heads
        if name not in known and not set("{}\n") & set(name)
    )


def grown(table: Table, records: Records, more: int) -> Table:
    """The table with more records, each of a key that no other has."""
    if not more:
        return table
    source = records.source
    if not table.columns:
        for name in filter(partial(is_plain, source), records.types):
            table = with_column(table, name, records.types[name])
    frame, key = table.frame, source.key
    if key not in frame.columns and is_plain(source, key):
        table = with_column(table, key, records.types.get(key, "text"))
        frame = table.frame
    rows = (*table.rows, *fresh_rows(more))
    new = pl.DataFrame({name: [None] * more for name in frame.columns}, schema=frame.schema)
    if key in frame.columns:
        column = frame[key]
        if column.dtype == pl.Int64:
            first = int(column.max() or 0) + 1  # type: ignore[arg-type]
            keys = pl.Series(key, range(first, first + more), dtype=pl.Int64())
            new = new.with_columns(keys)
        elif column.dtype == pl.String:
            stem = source.id
            taken = set(column.drop_nulls().to_list())
            numbers = (number for number in range(frame.height + 1, 2 * frame.height + more + 2))
            free = [f"{stem}-{n}" for n in numbers if f"{stem}-{n}" not in taken][:more]
            new = new.with_columns(pl.Series(key, free, dtype=pl.String()))
    return table.with_frame(pl.concat([frame, new]), rows=rows)


def _with_cells(table: Table, records: Records, cells: Mapping[str, Mapping[int, str]]) -> Table:
    frame = table.frame
    for name, typed_in in cells.items():
        kind = records.types.get(name, "text")
        if name not in table.columns and is_plain(records.source, name):
            # Declared, and so far empty in every record.
            table = with_column(table, name, kind)
            frame = frame.with_columns(table.frame[name])
        if name not in table.columns:
            reason = f"{name} is made of other fields"
            raise Problem(records.source.id, name, reason, "a change of those")
        values = [_value(records.source, kind, name, text) for text in typed_in.values()]
        frame = frame.with_columns(scattered(frame[name], list(typed_in), values))
    return table.with_frame(frame)


def is_plain(source: Source, name: str) -> bool:
    """Whether a field holds values of its own: it is made of no others, and counts no rows."""
    if name == source.key and (source.key_from or source.numbered):
        return False
    return not any(each.name == name and each.made_of for each in source.fields)


def scattered(column: pl.Series, rows: Sequence[int], values: Sequence[Any]) -> pl.Series:
    """A column with some values in place of others; of text, where it cannot hold them."""
    try:
        held = pl.Series(
            column.name, [_as_in_column(e, column.dtype) for e in values], dtype=column.dtype
        )
    except (TypeError, ValueError, OverflowError, pl.exceptions.PolarsError):
        if isinstance(column.dtype, pl.List):
            raise
        wider = _as_numbers(column, values)
        if wider is not None:
            return scattered(wider, rows, values)
        column = column.cast(pl.String)
        texts = [None if each is None else shown(each) for each in values]
        held = pl.Series(column.name, texts, dtype=pl.String())
    if isinstance(column.dtype, pl.List):
        whole = column.to_list()
        for at, each in zip(rows, held.to_list(), strict=True):
            whole[at] = each
        return pl.Series(column.name, whole, dtype=column.dtype)
    return column.clone().scatter(list(rows), held)


def _as_numbers(column: pl.Series, values: Sequence[Any]) -> pl.Series | None:
    """A column of whole numbers as one that holds fractions too, where that loses nothing."""
    are_numbers = all(each is None or type(each) in (int, float) for each in values)
    if column.dtype != pl.Int64() or not are_numbers:
        return None
    made = column.cast(pl.Float64)
    return made if made.cast(pl.Int64, strict=False).eq_missing(column).all() else None


def _as_in_column(value: Any, dtype: pl.DataType) -> Any:
    """A value as a column of a type holds it.

    Raises:
        TypeError: where it does not.
    """
    if value is None:
        return None
    if dtype == pl.Date():
        return datetime.date.fromisoformat(value)
    if isinstance(dtype, pl.Datetime):
        return time_of(value)
    wanted: dict[Any, type] = {pl.Int64(): int, pl.Float64(): float, pl.Boolean(): bool}
    kind = wanted.get(dtype, str)
    if isinstance(dtype, pl.List):
        return list(value)
    if type(value) is not kind and not (kind is float and type(value) is int):
        raise TypeError(value)
    return value


def _value(source: Source, kind: FieldType, name: str, text: str) -> Any:
    """What was typed, as a value of the field's type; none for nothing.

    Raises:
        Problem: where it is none of that type.
    """
    field = next((each for each in source.fields if each.name == name), Field(name=name))
    if text == "" or (kind not in ("text", "picture") and not text.strip()):
        return None
    if field.written:
        return _as_written(source, field, kind, text)
    try:
        if kind.startswith(LIST):
            parts = (each.strip() for each in text.split(","))
            return tuple(_scalar(kind[len(LIST) :], each) for each in parts if each)
        return _scalar(kind, text)
    except Unfit as unfit:
        raise Problem(source.id, name, f'"{brief(text, 40)}" came', unfit.wanted) from None


def _scalar(kind: str, text: str) -> Any:
    return carry(text if kind in ("text", "picture") else text.strip(), kind, convert=True)


def _as_written(source: Source, field: Field, kind: str, text: str) -> str | int:
    """What was typed into a field that is written in a form of its own: as that form has it."""
    if kind == "yes/no":
        for written in (field.written, "yes/no", "true/false"):
            truth = read_as_written(pl.Series([text]), kind, written)[0]
            if truth is not None:
                said = field.written.split("/")[0 if truth else -1]
                return int(said) if said.isdigit() else said
    if not read_as_written(pl.Series([text]), kind, field.written).null_count():
        return text
    if kind == "date" and "%" in field.written:
        day = read_as_written(pl.Series([text]), kind, "")[0]
        if day is not None:
            return str(day.strftime(field.written))
    wanted = f"{kind} as {field.written}"
    raise Problem(source.id, field.name, f'"{brief(text, 40)}" came', wanted)
