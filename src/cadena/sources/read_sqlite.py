"""Reading tables and views of an SQLite database: read-only, and never for longer than asked."""

from __future__ import annotations

import os
import re
import sqlite3
import time
from collections.abc import Iterator
from contextlib import closing, contextmanager, suppress
from dataclasses import replace
from pathlib import Path
from typing import Any, Final, NamedTuple

import polars as pl

from cadena.model.file.disk import in_bytes, print_of
from cadena.model.problem import Problem
from cadena.records.reading import MOST_FIELDS, NAMED, Fault, Progress, Reading, silent
from cadena.sources.read_json import columns_of

LONGEST: Final = 60.0
"""Seconds that a table or view may take; a view can be made so that it never ends."""
MOST_ROWS: Final = 5_000_000
MOST_BYTES: Final = 1024 * 1024 * 1024
LONGEST_VALUE: Final = 64 * 1024 * 1024
BATCH: Final = 20_000
HEADER: Final = 100
"""Bytes at the beginning of a database, or of its journal, that tell when it was last written."""
NAMES_ANOTHER: Final = bytes.fromhex("d9d505f920a163d7")
"""The end of a journal that names another."""
UNTOUCHED: Final = "mode=ro&immutable=1"
TYPES: Final = {
    **dict.fromkeys(("bool", "boolean"), "yes/no"),
    **dict.fromkeys(("decimal", "real", "float", "double", "money"), "number"),
    **dict.fromkeys(("int", "integer", "bigint", "smallint", "mediumint"), "whole number"),
}
"""What a declaration begins with that says more than the values do."""
ROW: Final = 100
"""Bytes that a row takes beside its texts, about."""
ALLOWED: Final = frozenset(
    {sqlite3.SQLITE_SELECT, sqlite3.SQLITE_READ, sqlite3.SQLITE_RECURSIVE, sqlite3.SQLITE_PRAGMA}
)
WRITES: Final = frozenset({"load_extension", "writefile", "readfile", "edit", "fts3_tokenizer"})


def _allow(action: int, first: str | None, second: str | None, *_: Any) -> int:
    if action == sqlite3.SQLITE_FUNCTION:
        return sqlite3.SQLITE_DENY if second in WRITES else sqlite3.SQLITE_OK
    return sqlite3.SQLITE_OK if action in ALLOWED else sqlite3.SQLITE_DENY


def stamp_of(path: Path) -> str:
    """What tells what a database holds now from what it held before or holds later.

    Its header counts what is written into it, and so does that of its journal (the file format
    of SQLite, 1.3 and 4.1).

    Raises:
        Problem: when it cannot be read.
    """
    parts: list[bytes] = []
    for file in (path, _log_of(path)):
        with suppress(FileNotFoundError):
            try:
                found = file.stat()
                with file.open("rb") as opened:
                    head = opened.read(HEADER)
            except FileNotFoundError:
                raise
            except OSError as error:
                reason = f"it cannot be read ({error.strerror})"
                raise Problem(path.name, "", reason, "an SQLite database") from None
            parts += [f"{found.st_ino} {found.st_size} {found.st_mtime_ns} ".encode(), head]
    return print_of(b"".join(parts))


def _log_of(path: Path) -> Path:
    """The journal that a database in WAL mode has its newest changes in."""
    return path.with_name(f"{path.name}-wal")


def demand_plain_journal(path: Path) -> bool:
    """Whether a change of a database was cut off or is under way: its journal stands beside it.

    Raises:
        Problem: for a journal that names other files, which SQLite would remove (the file format
            of SQLite, 2.3).
    """
    journal = path.with_name(f"{path.name}-journal")
    if not _is_filled(journal):
        return False
    with suppress(OSError), journal.open("rb") as opened:
        opened.seek(-len(NAMES_ANOTHER), os.SEEK_END)
        if opened.read() != NAMES_ANOTHER:
            return True
    reason = "a change of it and of other databases was cut off: its journal stands beside it"
    raise Problem(path.name, "", reason, "a database that its own program has opened again")


def _is_filled(path: Path) -> bool:
    with suppress(OSError):
        return path.stat().st_size > 0
    return False


@contextmanager
def _opened(path: Path) -> Iterator[sqlite3.Connection]:
    name = path.name
    is_cut_off = demand_plain_journal(path)
    # What nobody writes to is read without a lock, and without a file beside it. A change that was
    # cut off is taken back first.
    how = "mode=rw" if is_cut_off else "mode=ro" if _is_filled(_log_of(path)) else UNTOUCHED
    try:
        with closing(sqlite3.connect(f"{path.resolve().as_uri()}?{how}", uri=True)) as connection:
            connection.execute("PRAGMA trusted_schema = OFF")
            connection.execute("PRAGMA query_only = ON")
            connection.set_authorizer(_allow)
            within_bounds(connection)
            yield connection
    except (sqlite3.Error, OverflowError, ValueError, MemoryError) as error:
        if str(error) == "interrupted":
            reason = f"it takes over {LONGEST:g} s to be read"
            raise Problem(name, "", reason, "a table, or a view that ends sooner") from None
        raise Problem(name, "", f"it cannot be read ({error})", "an SQLite database") from None


def within_bounds(connection: sqlite3.Connection) -> None:
    """Let nothing that is read take longer or be larger than is bearable; texts that are no
    UTF-8 show as such."""
    until = time.monotonic() + LONGEST
    connection.set_progress_handler(lambda: int(time.monotonic() > until), 100_000)
    connection.setlimit(sqlite3.SQLITE_LIMIT_LENGTH, LONGEST_VALUE)
    connection.text_factory = lambda raw: raw.decode("utf-8", errors="replace")


def tables_in(path: Path) -> list[str]:
    """The tables and views of a database, by name.

    Raises:
        Problem: when it is none.
    """
    return _tables_and_virtual(path)[0]


def _tables_and_virtual(path: Path) -> tuple[list[str], list[str]]:
    """The tables and views of a database, and those that only its own program can read."""
    with _opened(path) as connection:
        rows = connection.execute(
            "SELECT name FROM sqlite_master WHERE type IN ('table', 'view') "
            "AND name NOT LIKE 'sqlite_%' ORDER BY rowid"
        )
        names = [str(name) for (name,) in rows]
        kinds = {
            str(name): kind
            for schema, name, kind, *_ in connection.execute("PRAGMA table_list")
            if schema == "main"
        }
    virtual = [name for name in names if kinds.get(name) == "virtual"]
    return [name for name in names if kinds.get(name) not in ("virtual", "shadow")], virtual


def read_sqlite(path: Path, at: str, progress: Progress = silent) -> Reading:
    """Read the rows of a table or view; the only one there is, where none is named.

    Raises:
        Problem: when there is none of that name, or it takes too long.
    """
    tables, virtual = _tables_and_virtual(path)
    if not at and len(tables) == 1:
        at = tables[0]
    if at not in tables:
        have = ", ".join(tables) or "no table"
        raise Problem(path.name, at, "there is no such table or view", f"one of: {have}")
    with _opened(path) as connection:
        reading = table_in(connection, path.name, at, progress).reading
    if not virtual or at != tables[0]:
        return reading
    said = "tables left out: virtual, which only their own program can read"
    left = Fault(len(virtual), said, tuple(virtual[:NAMED]))
    return replace(reading, faults=(left, *reading.faults))


class TableIn(NamedTuple):
    """A table of a database: its columns, and for each row what finds it there.

    ``found_by`` are the columns of its primary key, or the name by which SQLite itself numbers
    rows; empty, where nothing tells its rows apart. ``hidden`` are the values that are raw bytes,
    by row and column.
    """

    reading: Reading
    found_by: tuple[str, ...]
    ids: list[tuple[Any, ...]]
    hidden: frozenset[tuple[int, str]]


def table_in(
    connection: sqlite3.Connection, name: str, at: str, progress: Progress = silent
) -> TableIn:
    """The rows of a table or view, in the order of what finds them.

    Args:
        name: what the database is called in messages.

    Raises:
        Problem: for more than can be held.
        sqlite3.Error: where it cannot be read.
    """
    of = quoted(at)
    key, refers, joins, declared = _declared(connection, of)
    found_by = _found_by(connection, at, key)
    order = f" ORDER BY {', '.join(found_by)}" if found_by else ""
    also = "".join(f", {each}" for each in found_by)
    cursor = connection.execute(f"SELECT *{also} FROM {of}{order} LIMIT {MOST_ROWS}")
    width = len(cursor.description) - len(found_by)
    names = [each[0] for each in cursor.description[:width]]
    rows: list[dict[str, Any]] = []
    if width > MOST_FIELDS:
        raise Problem(name, at, f"it has {width:,} columns", f"{MOST_FIELDS:,}")
    ids: list[tuple[Any, ...]] = []
    hidden: set[tuple[int, str]] = set()
    size = 0
    for row in cursor:
        size += ROW + sum(len(each) for each in row if isinstance(each, str | bytes))
        if size > MOST_BYTES:
            reason = f"it holds over {in_bytes(MOST_BYTES)}, after {len(rows):,} rows"
            raise Problem(name, at, reason, "a table or view that holds less")
        ids.append(row[width:])
        shown = dict(zip(names, row, strict=False))
        for each, value in shown.items():
            if isinstance(value, bytes):
                hidden.add((len(rows), each))
                shown[each] = None
        rows.append(shown)
        if len(rows) % BATCH == 0:
            progress(min(0.5, len(rows) / MOST_ROWS))
    if not rows:
        nothing = pl.DataFrame(schema=dict.fromkeys(names, pl.String()))
        reading = Reading(nothing, (), key, refers, joins, declared=declared)
        return TableIn(reading, found_by, [], frozenset())
    made = columns_of(rows, name, "record", progress)
    bare = (Fault(len(hidden), "values left out, raw bytes"),) if hidden else ()
    faults = (*bare, *made.faults)
    reading = Reading(made.frame, faults, key, refers, joins, declared=declared)
    return TableIn(reading, found_by, ids, frozenset(hidden))


def is_table(path: Path, at: str) -> bool:
    """Whether a place in a database is a table, whose rows can be told apart.

    Raises:
        Problem: when it cannot be read.
    """
    tables = tables_in(path)
    if not at and len(tables) != 1:
        return False
    at = at or tables[0]
    with _opened(path) as connection:
        return bool(_found_by(connection, at, _declared(connection, quoted(at))[0]))


def quoted(name: str) -> str:
    """A name as SQL has it."""
    return '"' + name.replace('"', '""') + '"'


def _found_by(connection: sqlite3.Connection, at: str, key: tuple[str, ...]) -> tuple[str, ...]:
    """What finds the rows of a table, as SQL says it; nothing for a view."""
    sql = "SELECT type, sql FROM sqlite_master WHERE name = ? AND type IN ('table', 'view')"
    kind, said = connection.execute(sql, (at,)).fetchone()
    if kind != "table" or str(said).upper().startswith("CREATE VIRTUAL"):
        return ()
    rows = connection.execute(f"PRAGMA table_xinfo({quoted(at)})").fetchall()
    if [row[2].upper() for row in rows if row[5]] == ["INTEGER"]:
        # Its primary key is the number by which SQLite finds it (rowid tables, 2).
        return tuple(map(quoted, key))
    taken = {row[1].lower() for row in rows}
    for own in (each for each in ("rowid", "_rowid_", "oid") if each not in taken):
        try:
            connection.execute(f"SELECT {own} FROM {quoted(at)} LIMIT 0")
        except sqlite3.OperationalError:
            break
        return (own,)
    # Without numbers of its own, its primary key is never empty.
    return tuple(map(quoted, key))


def _declared(
    connection: sqlite3.Connection, of: str
) -> tuple[
    tuple[str, ...],
    dict[str, tuple[str, str]],
    tuple[tuple[str, dict[str, str]], ...],
    dict[str, str],
]:
    """The primary key of a table, what each field of a foreign key of one field names, those of
    several fields, and the types that its columns are declared to have."""
    rows = connection.execute(f"PRAGMA table_info({of})").fetchall()
    key = tuple(str(row[1]) for row in sorted(rows, key=lambda row: row[5]) if row[5])
    refers: dict[str, tuple[str, str]] = {}
    keys: dict[int, list[Any]] = {}
    for row in connection.execute(f"PRAGMA foreign_key_list({of})"):
        keys.setdefault(row[0], []).append(row)
    joins: list[tuple[str, dict[str, str]]] = []
    for rows in keys.values():
        if len(rows) > 1:
            joins.append((str(rows[0][2]), {str(row[4] or row[3]): str(row[3]) for row in rows}))
        else:
            _, _, table, field, to, *_ = rows[0]
            refers[str(field)] = (str(table), str(to or ""))
    declared = {str(row[1]): kind for row in rows if (kind := _type_said(str(row[2])))}
    return key, refers, tuple(joins), declared


def _type_said(said: str) -> str:
    """The type of a field that a column's declaration means, or nothing: by its first word."""
    word = re.match("[a-z]*", said.lower())
    return TYPES.get(word[0] if word else "", "")
