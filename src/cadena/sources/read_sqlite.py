"""Reading tables and views of an SQLite database: read-only, and never for longer than asked."""

from __future__ import annotations

import sqlite3
import time
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path
from typing import Any, Final

import polars as pl

from cadena.model.file.disk import in_bytes
from cadena.model.problem import Problem
from cadena.records.reading import MOST_FIELDS, Fault, Progress, Reading, silent
from cadena.sources.read_json import columns_of

LONGEST: Final = 60.0
"""Seconds that a table or view may take; a view can be made so that it never ends."""
MOST_ROWS: Final = 5_000_000
MOST_BYTES: Final = 1024 * 1024 * 1024
LONGEST_VALUE: Final = 64 * 1024 * 1024
BATCH: Final = 20_000
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


@contextmanager
def _opened(path: Path) -> Iterator[sqlite3.Connection]:
    name = path.name
    try:
        address = f"{path.resolve().as_uri()}?mode=ro&immutable=1"
        with closing(sqlite3.connect(address, uri=True)) as connection:
            connection.execute("PRAGMA trusted_schema = OFF")
            connection.execute("PRAGMA query_only = ON")
            connection.set_authorizer(_allow)
            until = time.monotonic() + LONGEST
            connection.set_progress_handler(lambda: int(time.monotonic() > until), 100_000)
            connection.setlimit(sqlite3.SQLITE_LIMIT_LENGTH, LONGEST_VALUE)
            connection.text_factory = lambda raw: raw.decode("utf-8", errors="replace")
            yield connection
    except (sqlite3.Error, OverflowError, ValueError, MemoryError) as error:
        if str(error) == "interrupted":
            reason = f"it takes over {LONGEST:g} s to be read"
            raise Problem(name, "", reason, "a table, or a view that ends sooner") from None
        raise Problem(name, "", f"it cannot be read ({error})", "an SQLite database") from None


def tables_in(path: Path) -> list[str]:
    """The tables and views of a database, by name.

    Raises:
        Problem: when it is none.
    """
    with _opened(path) as connection:
        rows = connection.execute(
            "SELECT name FROM sqlite_master WHERE type IN ('table', 'view') "
            "AND name NOT LIKE 'sqlite_%' ORDER BY rowid"
        )
        return [str(name) for (name,) in rows]


def read_sqlite(path: Path, at: str, progress: Progress = silent) -> Reading:
    """Read the rows of a table or view; the only one there is, where none is named.

    Raises:
        Problem: when there is none of that name, or it takes too long.
    """
    tables = tables_in(path)
    if not at and len(tables) == 1:
        at = tables[0]
    if at not in tables:
        have = ", ".join(tables) or "no table"
        raise Problem(path.name, at, "there is no such table or view", f"one of: {have}")
    with _opened(path) as connection:
        quoted = at.replace('"', '""')
        key, refers, joins = _declared(connection, quoted)
        cursor = connection.execute(f'SELECT * FROM "{quoted}" LIMIT {MOST_ROWS}')
        names = [each[0] for each in cursor.description]
        rows: list[dict[str, Any]] = []
        if len(names) > MOST_FIELDS:
            raise Problem(path.name, at, f"it has {len(names):,} columns", f"{MOST_FIELDS:,}")
        blobs, size = 0, 0
        for row in cursor:
            blobs += sum(isinstance(each, bytes) for each in row)
            size += ROW + sum(len(each) for each in row if isinstance(each, str | bytes))
            if size > MOST_BYTES:
                reason = f"it holds over {in_bytes(MOST_BYTES)}, after {len(rows):,} rows"
                raise Problem(path.name, at, reason, "a table or view that holds less")
            rows.append(
                {
                    name: None if isinstance(each, bytes) else each
                    for name, each in zip(names, row, strict=True)
                }
            )
            if len(rows) % BATCH == 0:
                progress(min(0.5, len(rows) / MOST_ROWS))
    if not rows:
        nothing = pl.DataFrame(schema=dict.fromkeys(names, pl.String()))
        return Reading(nothing, (), key, refers, joins)
    reading = columns_of(rows, path.name, "record", progress)
    faults = (Fault(blobs, "values left out, raw bytes"),) if blobs else ()
    return Reading(reading.frame, faults + reading.faults, key, refers, joins)


def _declared(
    connection: sqlite3.Connection, quoted: str
) -> tuple[tuple[str, ...], dict[str, tuple[str, str]], tuple[tuple[str, dict[str, str]], ...]]:
    """The primary key of a table, what each field of a foreign key of one field names, and those
    of several fields."""
    rows = connection.execute(f'PRAGMA table_info("{quoted}")').fetchall()
    key = tuple(str(row[1]) for row in sorted(rows, key=lambda row: row[5]) if row[5])
    refers: dict[str, tuple[str, str]] = {}
    keys: dict[int, list[Any]] = {}
    for row in connection.execute(f'PRAGMA foreign_key_list("{quoted}")'):
        keys.setdefault(row[0], []).append(row)
    joins: list[tuple[str, dict[str, str]]] = []
    for of in keys.values():
        if len(of) > 1:
            joins.append((str(of[0][2]), {str(row[4] or row[3]): str(row[3]) for row in of}))
        else:
            _, _, table, field, to, *_ = of[0]
            refers[str(field)] = (str(table), str(to or ""))
    return key, refers, tuple(joins)
