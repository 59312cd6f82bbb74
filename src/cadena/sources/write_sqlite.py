"""A table of an SQLite database with some of its rows changed, in one transaction."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator, Mapping, Sequence
from contextlib import closing, contextmanager
from pathlib import Path
from typing import Any, Final

from cadena.model.problem import Problem
from cadena.sources.read_sqlite import TableIn, demand_plain_journal, quoted, within_bounds
from cadena.sources.table import Table
from cadena.sources.table_changes import Attic, changes_between, new_or_back, put_away

PATIENCE: Final = 2.0
"""Seconds for which another program that writes is waited for."""


@contextmanager
def opened_to_write(path: Path, name: str) -> Iterator[sqlite3.Connection]:
    """A database in a transaction that nobody else writes beside; left, all of it is taken back
    that was not committed.

    Raises:
        Problem: when it cannot be written, or has triggers.
    """
    demand_plain_journal(path)
    try:
        with closing(sqlite3.connect(path, timeout=PATIENCE, isolation_level=None)) as base:
            within_bounds(base)
            base.execute("PRAGMA trusted_schema = OFF")
            triggers = "SELECT name FROM sqlite_master WHERE type = 'trigger'"
            if base.execute(triggers).fetchone():
                raise Problem(name, "", "it has triggers", "a database without any")
            base.execute("BEGIN IMMEDIATE")
            try:
                yield base
            finally:
                if base.in_transaction:
                    base.execute("ROLLBACK")
    except (sqlite3.Error, OverflowError) as error:
        reason = f"it cannot be written ({error})"
        raise Problem(name, "", reason, "values that the table takes") from None


def table_named(base: sqlite3.Connection, at: str) -> str:
    """The table at a place; the only one, where none is named."""
    if at:
        return at
    sql = "SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%'"
    return str(base.execute(sql).fetchone()[0])


def change_table(
    base: sqlite3.Connection,
    name: str,
    held: TableIn,
    at: str,
    before: Table,
    now: Table,
    attic: Attic,
) -> dict[tuple[Any, ...], int]:
    """Do to a table what has changed between two tables of its records.

    Args:
        name: what the database is called in messages.
        held: the rows that it holds, those of ``before``.

    Returns:
        Which row each row of the table is by what finds it there.

    Raises:
        Problem: where its rows cannot be found, or a value stands where there are raw bytes.
        sqlite3.Error: where the database refuses.
    """
    of, changes = quoted(at), changes_between(before, now)
    ids = dict(zip(before.rows, held.ids, strict=True))
    if changes.is_none:
        return {own: row for row, own in ids.items()}
    if not held.found_by:
        reason = "nothing tells its rows apart: it has neither a key nor numbers of rows"
        raise Problem(name, at, reason, "a table with a primary key")
    hidden = {(before.rows[row], field) for row, field in held.hidden}
    for old, new in changes.renamed.items():
        base.execute(f"ALTER TABLE {of} RENAME COLUMN {quoted(old)} TO {quoted(new)}")
    for field in changes.new_columns:
        base.execute(f"ALTER TABLE {of} ADD COLUMN {quoted(field)}")
    found_by = [_column_now(each, changes.renamed) for each in held.found_by]
    where = " AND ".join(f"{each} IS ?" for each in found_by)
    for row in changes.gone:
        put_away(attic, before, row, _whole(base, of, found_by, where, ids[row]))
        _one(base, name, at, f"DELETE FROM {of} WHERE {where}", ids.pop(row))
    was = {new: old for old, new in changes.renamed.items()}
    waiting = list(changes.cells.items())
    while waiting:
        refused: list[tuple[int, dict[str, Any]]] = []
        for row, values in waiting:
            if blob := next((e for e in values if (row, was.get(e, e)) in hidden), None):
                reason = "raw bytes stand there, which are not shown and would be lost"
                raise Problem(name, blob, reason, "another field")
            sets = ", ".join(f"{quoted(each)} = ?" for each in values)
            said = [*map(_stored, values.values()), *ids[row]]
            try:
                _one(base, name, at, f"UPDATE {of} SET {sets} WHERE {where}", said)
            except sqlite3.IntegrityError:
                # Perhaps another row still has the key that this one is given.
                refused.append((row, values))
                if len(refused) == len(waiting):
                    raise
            else:
                said_now = {quoted(field): _stored(each) for field, each in values.items()}
                own = zip(found_by, ids[row], strict=True)
                ids[row] = tuple(said_now.get(each, known) for each, known in own)
        waiting = refused
    for place in changes.added:
        thing, others = new_or_back(attic, now, place)
        values = {
            **(thing or {}),
            **{quoted(each): _stored(v) for each, v in (others or {}).items()},
        }
        fields, marks = ", ".join(values), ", ".join("?" * len(values))
        sql = f"INSERT INTO {of} ({fields}) VALUES ({marks})"
        number = base.execute(sql, [*values.values()]).lastrowid
        ids[now.rows[place]] = tuple(values.get(each, number) for each in found_by)
    return {own: row for row, own in ids.items()}


def _whole(
    base: sqlite3.Connection, of: str, found_by: Sequence[str], where: str, ids: Sequence[Any]
) -> dict[str, Any]:
    """All that a row holds, raw bytes and its number with it, by name as SQL says it."""
    hidden = {each[1]: each[6] for each in base.execute(f"PRAGMA table_xinfo({of})")}
    names = [quoted(each) for each, kind in hidden.items() if not kind]
    names += [each for each in found_by if each not in names]
    found = base.execute(f"SELECT {', '.join(names)} FROM {of} WHERE {where}", ids).fetchone()
    return dict(zip(names, found, strict=True))


def _column_now(name: str, renamed: Mapping[str, str]) -> str:
    """What finds a row, where a column of it is called otherwise now."""
    return next((quoted(new) for old, new in renamed.items() if quoted(old) == name), name)


def _one(base: sqlite3.Connection, name: str, at: str, sql: str, values: Sequence[Any]) -> None:
    """Change one row.

    Raises:
        Problem: where it is not just one.
    """
    count = base.execute(sql, values).rowcount
    if count != 1:
        reason = f"{count} rows are found where there should be one"
        raise Problem(name, at, reason, "a table whose rows can be told apart")


def _stored(value: Any) -> Any:
    """A value as a database has it: nothing is NULL, dates and times are ISO text."""
    if value is None or isinstance(value, str | int | float):
        return value
    return value.isoformat() if hasattr(value, "isoformat") else str(value)
