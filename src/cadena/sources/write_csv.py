"""CSV with some of its rows changed; the rest stands as it was written."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Iterator, Sequence
from typing import Any, NamedTuple

from cadena.model.problem import Problem
from cadena.model.source import Csv
from cadena.sources.data_file import DataFile
from cadena.sources.table import Table
from cadena.sources.table_changes import Attic, changes_between, placed


class Row(NamedTuple):
    """A row: as it is written, and its cells."""

    raw: str
    cells: list[str]


def as_csv(data: DataFile, form: Csv, before: Table, now: Table, attic: Attic) -> bytes:
    """The text of a CSV file with what has changed between two tables.

    Raises:
        Problem: where its rows cannot be told apart again, or a letter cannot be written.
    """
    text, errors = _text(data, form)
    mark = "\ufeff" if text.startswith("\ufeff") else ""
    text = text.removeprefix("\ufeff")
    ending = "\r\n" if "\r\n" in text else "\r" if "\r" in text and "\n" not in text else "\n"
    above, text = _parted(text, form.skip, ending[-1])
    rows = list(_rows(text, form, data.name))
    head, body = (rows[:1], rows[1:]) if form.header else ([], rows)
    changes = changes_between(before, now)
    renamed = {to: name for name, to in changes.renamed.items()}
    at = {name: number for number, name in enumerate(before.columns)}
    # For each column where its cells stand in the rows of the file, or nowhere.
    places = [at.get(renamed.get(name, name)) for name in now.columns]

    def is_row(row: Row) -> bool:
        return bool(row.cells) and len(row.cells) == len(at)

    to = _Lines(form, ending)
    if form.header and (not head or renamed or changes.new_columns):
        names = [
            name if place is None or name in renamed else head[0].cells[place]
            for name, place in zip(now.columns, places, strict=True)
        ]
        to.write(names)
    else:
        to.keep(head)
    for row, values in placed(body, is_row, before, now, changes, attic, data.name):
        if row is not None and values is None and not (changes.new_columns and is_row(row)):
            to.keep([row])
            continue
        old = row.cells if row is not None else None
        to.write(
            [
                _cell(values[name])
                if values and name in values
                else ""
                if old is None or place is None
                else old[place]
                for name, place in zip(now.columns, places, strict=True)
            ]
        )
    return _encoded(mark + above + to.text, data, form, errors)


class _Lines:
    """The lines of a file, as they are put together."""

    def __init__(self, form: Csv, ending: str) -> None:
        self._to = io.StringIO(newline="")
        self._writer = csv.writer(self._to, delimiter=form.delimiter, lineterminator=ending)
        self._ending = ending
        self._is_open = False

    def _end(self) -> None:
        if self._is_open:
            self._to.write(self._ending)
            self._is_open = False

    def keep(self, rows: Iterable[Row]) -> None:
        """Put down rows as they are written."""
        for row in rows:
            self._end()
            self._to.write(row.raw)
            self._is_open = not row.raw.endswith(("\n", "\r"))

    def write(self, cells: Sequence[str]) -> None:
        """Put down a row."""
        self._end()
        self._writer.writerow(cells)

    @property
    def text(self) -> str:
        return self._to.getvalue()


def _text(data: DataFile, form: Csv) -> tuple[str, str]:
    """The text, and how bytes that are none of its encoding are kept in it."""
    errors = "surrogateescape" if form.encoding.lower() in ("utf-8", "utf8") else "strict"
    try:
        return data.raw.decode(form.encoding, errors), errors
    except (UnicodeDecodeError, LookupError, ValueError):
        reason = f"not all of it is {form.encoding}, and would be lost"
        raise Problem(data.name, "", reason, "a file in one encoding") from None


def _parted(text: str, skip: int, ending: str) -> tuple[str, str]:
    """The lines above, and the rest."""
    at = 0
    for _ in range(skip):
        at = text.find(ending, at) + 1 or len(text)
    return text[:at], text[at:]


def _rows(text: str, form: Csv, name: str) -> Iterator[Row]:
    lines = list(io.StringIO(text, newline=""))
    reader = csv.reader(lines, delimiter=form.delimiter, skipinitialspace=form.blanks)
    start = 0
    try:
        for cells in reader:
            yield Row("".join(lines[start : reader.line_num]), cells)
            start = reader.line_num
    except csv.Error as error:
        reason = f"its rows cannot be told apart again ({error})"
        raise Problem(name, f"line {start + 1}", reason, "rows as RFC 4180 has them") from None


def _cell(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "true" if value else "false"
    return value.isoformat() if hasattr(value, "isoformat") else str(value)


def _encoded(text: str, data: DataFile, form: Csv, errors: str) -> bytes:
    encoding = form.encoding
    big = {"utf-16": b"\xfe\xff", "utf-32": b"\0\0\xfe\xff"}.get(encoding.lower())
    try:
        if big is not None and data.raw.startswith(big):
            return big + text.encode(f"{encoding}-be")
        return text.encode(encoding, errors)
    except UnicodeEncodeError as error:
        reason = f'"{text[error.start]}" cannot be written in {encoding}'
        raise Problem(data.name, "", reason, "other letters, or records kept in UTF-8") from None
