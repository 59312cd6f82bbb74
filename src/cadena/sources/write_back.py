"""Writing records that were changed by hand back into their file, in its own format.

What was not changed stays as it was written: fields that are no columns, records that could not
be read, the order of all, the way in which it is written.
"""

from __future__ import annotations

import csv
import gzip
import io
import sqlite3
from collections.abc import Callable, Iterable, Iterator, Mapping
from contextlib import closing
from pathlib import Path
from typing import Any, Final

import msgspec
import polars as pl

from cadena.model.file.disk import inside, write_bytes, write_in
from cadena.model.problem import Problem
from cadena.model.source import Csv, Source
from cadena.sources.data_file import DataFile
from cadena.sources.file_kinds import PACKED
from cadena.sources.read_json import by_name, found_at, holds_records, pointed
from cadena.sources.table import Table

KINDS: Final = ("json", "lines", "csv", "database", "parquet")
"""What is written back; records of any other kind become a file of their own."""


def is_written_back(folder: Path, source: Source) -> bool:
    """Whether the records of a source can be written back into their file.

    Raises:
        Problem: when the file cannot be read.
    """
    if source.inside is not None or not source.file:
        return False
    path = inside(folder, source.file, f"the file of source {source.id}")
    kind = DataFile(path, source.file).kind
    return kind in KINDS and not (kind == "database" and not _is_table(path, source.at))


def write_whole(folder: Path, source: Source, table: Table) -> None:
    """Write all records of a source as a JSON file of its own: an array, a record a line.

    Raises:
        Problem: when the disk does not take it.
    """
    rows = (_record(table, at) for at in range(table.frame.height))
    write_in(folder, source.file, array_of(rows))


def array_of(records: Iterable[Any]) -> bytes:
    """Records as a JSON array, a record a line."""
    lines = b",\n".join(map(msgspec.json.encode, records))
    return b"[\n" + lines + (b"\n" if lines else b"") + b"]\n"


def write_back(folder: Path, source: Source, before: Table, now: Table) -> None:
    """Write what has changed between two tables of a source into its file.

    Args:
        before: the table that the file holds.

    Raises:
        Problem: when it cannot be written; the file is then as it was.
    """
    path = inside(folder, source.file, f"the file of source {source.id}")
    data = DataFile(path, source.file)
    if data.kind == "database":
        _into_database(path, source, before, now)
        return
    if data.kind == "parquet":
        made = io.BytesIO()
        now.frame.write_parquet(made)
        raw = made.getvalue()
    elif data.kind == "csv":
        raw = _as_csv(data.raw, source, before, now)
    elif data.kind == "lines":
        raw = _as_lines(data, before, now)
    else:
        raw = _as_json(data, source, before, now)
    write_bytes(gzip.compress(raw) if path.name.endswith(PACKED) else raw, path)


def _changes(before: Table, now: Table) -> dict[int, dict[str, Any]]:
    """For each row that was there, by its number, the columns whose values are others now."""
    at_before = {each: at for at, each in enumerate(before.rows)}
    stays = [at for at, each in enumerate(now.rows) if each in at_before]
    places = [at_before[now.rows[at]] for at in stays]
    first = {was: name for name, was in before.columns.items()}
    found: dict[int, dict[str, Any]] = {}
    for name, was in now.columns.items():
        column = now.frame[name].gather(stays)
        old = before.frame[first[was]].gather(places) if was in first else None
        if old is not None and old.dtype == column.dtype:
            differs = column.ne_missing(old)
        elif old is not None and not isinstance(old.dtype, pl.List):
            differs = column.cast(pl.String).ne_missing(old.cast(pl.String))
        else:
            differs = column.is_not_null()
        for at in differs.arg_true():
            row = stays[int(at)]
            found.setdefault(now.rows[row], {})[name] = _cell(now.frame[name][row])
    return found


def _cell(value: Any) -> Any:
    return value.to_list() if isinstance(value, pl.Series) else value


def _record(table: Table, row: int) -> dict[str, Any]:
    """A row as a record; what is empty is left out, but for one field, by which it is one."""
    whole = table.frame.row(row, named=True)
    filled = {name: _cell(value) for name, value in whole.items() if value is not None}
    return filled or dict.fromkeys(table.frame.columns[:1])


def _renamed(before: Table, now: Table) -> dict[str, str]:
    """The columns that are called otherwise now, by what they were called."""
    called = {was: name for name, was in now.columns.items()}
    names = {name: called.get(was, name) for name, was in before.columns.items()}
    return {old: new for old, new in names.items() if old != new}


def _merged(
    found: list[Any], before: Table, now: Table, is_record: Callable[[Any], bool]
) -> Iterator[Any]:
    """The records of a file as they now are: what is none of them stays in its place."""
    changes, renamed = _changes(before, now), _renamed(before, now)
    stays = set(now.rows)
    rows = iter(before.rows)
    for each in found:
        if not is_record(each):
            yield each
            continue
        row = next(rows, None)
        if row is None or row in stays:
            yield _with_values(each, changes.get(row, {}) if row is not None else {}, renamed)
    had = set(before.rows)
    for at, row in enumerate(now.rows):
        if row not in had:
            yield _with_values({}, _record(now, at), {})


def _with_values(
    record: dict[str, Any], values: Mapping[str, Any], renamed: Mapping[str, str]
) -> dict[str, Any]:
    """A record with some of its fields changed, those inside others by their path."""
    made = {renamed.get(name, name): value for name, value in record.items()}
    for path, value in values.items():
        _put_at(made, path, value)
    return made


def _put_at(record: dict[str, Any], path: str, value: Any) -> None:
    first, _, rest = path.partition(".")
    held = record.get(first)
    if path not in record and rest and isinstance(held, dict):
        record[first] = dict(held)
        _put_at(record[first], rest, value)
    else:
        record[path] = value


def _is_record(value: Any) -> bool:
    return isinstance(value, dict) and bool(value)


def _as_lines(data: DataFile, before: Table, now: Table) -> bytes:
    lines = [each for each in data.raw.splitlines() if each.strip()]
    read = [_line(each) for each in lines]
    made = _merged(read, before, now, _is_record)
    return b"".join(e if isinstance(e, bytes) else msgspec.json.encode(e) + b"\n" for e in made)


def _line(raw: bytes) -> Any:
    try:
        record = msgspec.json.decode(raw)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError):
        record = None
    return record if _is_record(record) else raw + b"\n"


def _as_json(data: DataFile, source: Source, before: Table, now: Table) -> bytes:
    tree, at = data.tree, source.at
    held = pointed(tree, at, source.file)
    made: Any
    if holds_records(held):
        key = next(iter(by_name(held)[0]))
        whole = list(_merged(found_at(tree, source.file, at), before, now, _is_record))
        made = {str(each.pop(key)): each for each in whole}
    else:
        made = list(_merged(found_at(tree, source.file, at), before, now, _is_record))
    if not at and isinstance(made, list) and b"\n " not in data.raw:
        return array_of(made)
    whole_tree = _with_at(tree, at.split("/")[1:], made)
    text = msgspec.json.encode(whole_tree)
    is_loose = b"\n" in data.raw.strip()
    return msgspec.json.format(text, indent=2) + b"\n" if is_loose else text


def _with_at(tree: Any, steps: list[str], made: Any) -> Any:
    """A tree with what stands at a pointer exchanged."""
    if not steps:
        return made
    name = steps[0].replace("~1", "/").replace("~0", "~")
    if isinstance(tree, list):
        return [_with_at(e, steps[1:], made) if str(n) == name else e for n, e in enumerate(tree)]
    return {k: _with_at(e, steps[1:], made) if k == name else e for k, e in tree.items()}


def _as_csv(raw: bytes, source: Source, before: Table, now: Table) -> bytes:
    form = source.csv
    text = raw.decode(form.encoding, errors="strict")
    mark = "\ufeff" if text.startswith("\ufeff") else ""
    text = text.removeprefix("\ufeff")
    ending = "\r\n" if "\r\n" in text else "\n"
    lines = text.splitlines(keepends=True)
    above, text = "".join(lines[: form.skip]), "".join(lines[form.skip :])
    rows = list(csv.reader(io.StringIO(text, newline=""), delimiter=form.delimiter))
    width = len(before.columns)
    body = rows[1:] if form.header else rows
    if sum(len(each) == width for each in body) != len(before.rows):
        reason = "its rows cannot be told apart again, since quotes in it are not closed"
        raise Problem(source.file, "", reason, "a file whose quotes are closed")
    names = list(before.columns)
    made = _merged(
        [dict(zip(names, each, strict=True)) if len(each) == width else each for each in body],
        before,
        now,
        lambda each: isinstance(each, dict),
    )
    to = io.StringIO(newline="")
    writer = csv.writer(to, delimiter=form.delimiter, lineterminator=ending)
    if form.header:
        writer.writerow(now.columns)
    for each in made:
        if isinstance(each, dict):
            writer.writerow([_text(each.get(name)) for name in now.columns])
        else:
            writer.writerow(each)
    return _encoded(mark + above + to.getvalue(), source.file, form)


def _encoded(text: str, name: str, form: Csv) -> bytes:
    try:
        return text.encode(form.encoding)
    except UnicodeEncodeError as error:
        letter = text[error.start]
        reason = f'"{letter}" cannot be written in {form.encoding}'
        raise Problem(name, "", reason, "other letters, or records kept in UTF-8") from None


def _text(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "true" if value else "false"
    return str(value)


def _quoted(name: str) -> str:
    return '"' + name.replace('"', '""') + '"'


def _is_table(path: Path, at: str) -> bool:
    with closing(sqlite3.connect(f"{path.resolve().as_uri()}?mode=ro", uri=True)) as base:
        sql = "SELECT sql FROM sqlite_master WHERE type = 'table' AND (name = ? OR ? = '')"
        found = base.execute(sql, (at, at)).fetchall()
    return len(found) == 1 and "WITHOUT ROWID" not in str(found[0][0]).upper()


def _into_database(path: Path, source: Source, before: Table, now: Table) -> None:
    """Change a table of a database in one transaction; its triggers do not run."""
    changes, renamed, had = _changes(before, now), _renamed(before, now), set(before.rows)
    try:
        with closing(sqlite3.connect(path)) as base:
            base.execute("PRAGMA trusted_schema = OFF")
            triggers = base.execute(
                "SELECT name FROM sqlite_master WHERE type = 'trigger'"
            ).fetchall()
            if triggers:
                raise Problem(source.file, "", "it has triggers", "a database without any")
            name = source.at or str(
                base.execute("SELECT name FROM sqlite_master WHERE type = 'table'").fetchone()[0]
            )
            of = _quoted(name)
            with base:
                rowids = [each[0] for each in base.execute(f"SELECT rowid FROM {of}")]
                if len(rowids) != len(before.rows):
                    said = "it was changed on disk since it was read"
                    raise Problem(source.file, source.at, said, "to read it again")
                for old, new in renamed.items():
                    base.execute(f"ALTER TABLE {of} RENAME COLUMN {_quoted(old)} TO {_quoted(new)}")
                known = {renamed.get(each, each) for each in before.columns}
                for each in now.columns:
                    if each not in known:
                        base.execute(f"ALTER TABLE {of} ADD COLUMN {_quoted(each)}")
                stays = set(now.rows)
                for row, rowid in zip(before.rows, rowids, strict=True):
                    if row not in stays:
                        base.execute(f"DELETE FROM {of} WHERE rowid = ?", (rowid,))
                    elif values := changes.get(row):
                        sets = ", ".join(f"{_quoted(each)} = ?" for each in values)
                        stored = [*map(_stored, values.values()), rowid]
                        base.execute(f"UPDATE {of} SET {sets} WHERE rowid = ?", stored)
                for at, row in enumerate(now.rows):
                    if row not in had:
                        values = _record(now, at)
                        names = ", ".join(map(_quoted, values))
                        marks = ", ".join("?" * len(values))
                        stored = list(map(_stored, values.values()))
                        base.execute(f"INSERT INTO {of} ({names}) VALUES ({marks})", stored)
    except sqlite3.Error as error:
        reason = f"it cannot be written ({error})"
        raise Problem(source.file, source.at, reason, "values that the table takes") from None


def _stored(value: Any) -> Any:
    return value if isinstance(value, str | int | float | bool) else str(value)
