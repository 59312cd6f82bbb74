"""Writing records that were changed by hand back into their files, each in its own format.

What was not changed stays as it was written: fields that are no columns, records that could not
be read, the order of all, the way in which it is written. What somebody else has changed since
is joined with it (``joined_tables``), and nothing is written over unasked.
"""

from __future__ import annotations

import gzip
import sqlite3
from collections.abc import Callable, Iterator, Sequence
from contextlib import AbstractContextManager, ExitStack, contextmanager
from pathlib import Path
from typing import Final, NamedTuple

import polars as pl
from msgspec.structs import replace

from cadena.model.file.disk import inside, place_in, print_of, seen_at, staged
from cadena.model.problem import Problem, brief
from cadena.model.source import Field, Source
from cadena.model.values import FieldType
from cadena.records.reading import Reading
from cadena.sources.data_file import DataFile
from cadena.sources.file_kinds import PACKED
from cadena.sources.joined_tables import Clashes, Decided, joined, recognised
from cadena.sources.json_tree import is_mapped, pointed
from cadena.sources.open_project import Place, place_of
from cadena.sources.read_file import reading_of, typed
from cadena.sources.table import Table
from cadena.sources.table_changes import Attic, plain_text, record

KINDS: Final = ("json", "lines", "csv", "database", "parquet")
"""What is written back; records of any other kind become a file of their own."""


class NotWritten(Problem):
    """Records that cannot go back into their file: only a file of their own can hold them."""

    def __init__(self, source: Source, place: str, found: str) -> None:
        super().__init__(source.file, place, found, "these records in a file of their own")
        self.source = source.id


class Edited(NamedTuple):
    """Records of a source that were changed by hand.

    Args:
        before: what the file held when it was last read or written; none for a file that is
            still to be made.
        stamp: what tells what the file held then.
        attic: the records that were removed from it and saved.
    """

    source: Source
    before: Table | None
    stamp: str
    now: Table
    attic: Attic


class Saved(NamedTuple):
    """What a file holds now, once it is saved.

    Args:
        table: its records, and those that others have added meanwhile.
        was: what told the file before.
        stamp: what tells it now.
        types: the types that its fields have when it is read again.
    """

    place: Place
    table: Table
    was: str
    stamp: str
    types: dict[str, FieldType]


def is_written_back(folder: Path, source: Source) -> bool:
    """Whether the records of a source can be written back into their file.

    Raises:
        Problem: when the file cannot be read.
    """
    if source.inside is not None or not source.file:
        return False
    path = inside(folder, source.file, f"the file of source {source.id}")
    data = DataFile(path, source.file)
    if data.kind == "database":
        from cadena.sources.read_sqlite import is_table

        return is_table(path, source.at)
    if data.kind == "json" and is_mapped(pointed(data.tree, source.at, source.file)):
        return False
    return data.kind in KINDS


def write_all(
    folder: Path,
    edited: Sequence[Edited],
    done: Callable[[Saved], object],
    decided: Decided | None = None,
) -> None:
    """Write what was changed by hand into its files: all of it, or as it can be nothing.

    Every file is made ready before the first takes its place, so that what is refused, or finds
    no room, leaves all as they were.

    Args:
        done: told of each place once it is really written.
        decided: what somebody has said of clashes.

    Raises:
        Clashes: where others have changed the same, and it is not decided whose counts.
        Problem: when it cannot be written; what was not told as done is as it was.
    """
    by_file: dict[str, list[Edited]] = {}
    for edited_table in edited:
        by_file.setdefault(edited_table.source.file, []).append(edited_table)
    clashes: dict[str, Clashes] = {}
    with ExitStack() as stack:
        ready = []
        for name, group in by_file.items():
            try:
                ready.append(stack.enter_context(_made_ready(folder, group, decided or {})))
            except Clashes as found:
                clashes[name] = found
        if clashes:
            each_clash = [clash for found in clashes.values() for clash in found.clashes]
            raise Clashes(", ".join(clashes), each_clash)
        written: list[str] = []
        for name, take_place in zip(by_file, ready, strict=True):
            try:
                saved = take_place()
            except Problem as problem:
                if written:
                    problem.found += f"; {', '.join(written)} is saved already"
                raise
            for one in saved:
                done(one)
            written.append(name)


TakePlace = Callable[[], list[Saved]]


def _made_ready(
    folder: Path, group: Sequence[Edited], decided: Decided
) -> AbstractContextManager[TakePlace]:
    """The changes of one file, ready to be taken over at once."""
    first = group[0]
    if first.before is None:
        return _new_file(folder, first)
    try:
        path = inside(folder, first.source.file, f"the file of source {first.source.id}")
    except Problem as problem:
        raise NotWritten(first.source, problem.place, problem.found) from None
    if DataFile(path, first.source.file).kind == "database":
        return _database(path, group, decided)
    return _file(path, group, decided)


@contextmanager
def _new_file(folder: Path, edited: Edited) -> Iterator[TakePlace]:
    """A JSON file of its own: an array, a record a line."""
    from cadena.sources.write_json import array_of

    source, now = edited.source, edited.now
    path = place_in(folder, source.file)
    content = array_of(record(now, at) for at in range(now.frame.height))
    with staged(path, is_new=True) as new:
        new.fill(content)
        types = _read_back(DataFile(path, source.file, content), source, now)
        stamp = print_of(content)

        def take_place() -> list[Saved]:
            new.take_place()
            return [Saved(place_of(source), now, "", stamp, types)]

        yield take_place


@contextmanager
def _file(path: Path, group: Sequence[Edited], decided: Decided) -> Iterator[TakePlace]:
    """A file that is written anew beside the one that stands there."""
    seen = seen_at(path)
    name = group[0].source.file
    data = DataFile(path, name)
    was = data.stamp
    tables: list[Table] = []
    for edited_table in group:
        theirs, table = _joined(edited_table, data, was, decided)
        content = _content(data, edited_table.source, theirs, table, edited_table.attic)
        data = DataFile(path, name, content)
        if data.kind == "json":
            table = _as_held(table, _read_again(data, edited_table.source), table.rows, theirs)
        tables.append(table)
    types = [
        _read_back(data, each.source, table) for each, table in zip(group, tables, strict=True)
    ]
    with staged(path, seen=seen) as new:
        new.fill(data.content)
        stamp = print_of(data.content)

        def take_place() -> list[Saved]:
            new.take_place()
            return [
                Saved(place_of(each.source), table, was, stamp, kinds)
                for each, table, kinds in zip(group, tables, types, strict=True)
            ]

        yield take_place


@contextmanager
def _database(path: Path, group: Sequence[Edited], decided: Decided) -> Iterator[TakePlace]:
    """The changes of a database, in a transaction."""
    from cadena.sources.read_sqlite import stamp_of, table_in
    from cadena.sources.write_sqlite import change_table, opened_to_write, table_named

    name = group[0].source.file
    was = stamp_of(path)
    with opened_to_write(path, name) as base:
        found: list[tuple[Edited, Table, dict[str, FieldType]]] = []
        for edited_table in group:
            at = table_named(base, edited_table.source.at)
            held = table_in(base, name, at)
            theirs, table = _joined_with(edited_table, held.reading, decided)
            rows = change_table(base, name, held, at, theirs, table, edited_table.attic)
            again = table_in(base, name, at)
            found_rows = [rows.get(own) for own in again.ids]
            table = _as_held(table, again.reading, found_rows, theirs)
            types = _demand_alike(edited_table.source, again.reading, table)
            found.append((edited_table, table, types))

        def take_place() -> list[Saved]:
            try:
                base.execute("COMMIT")
            except sqlite3.Error as error:
                reason = f"it cannot be written ({error})"
                raise Problem(name, "", reason, "a disk with room for it") from None
            stamp = stamp_of(path)
            return [
                Saved(place_of(each.source), table, was, stamp, kinds)
                for each, table, kinds in found
            ]

        yield take_place


def _joined(edited: Edited, data: DataFile, was: str, decided: Decided) -> tuple[Table, Table]:
    """What a file holds now, and what it is to hold."""
    if was == edited.stamp:
        assert edited.before is not None
        return edited.before, edited.now
    try:
        reading = reading_of(data, edited.source)
    except Problem as problem:
        raise NotWritten(edited.source, problem.place, f"it was changed: {problem.found}") from None
    return _joined_with(edited, reading, decided)


def _joined_with(edited: Edited, reading: Reading, decided: Decided) -> tuple[Table, Table]:
    before = edited.before
    assert before is not None
    if reading.frame.equals(before.frame):
        return before, edited.now
    theirs = recognised(before, reading, edited.source)
    made = joined(before, edited.now, theirs, edited.source, decided)
    if made.clashes:
        raise Clashes(edited.source.file, made.clashes)
    return theirs, made.table


def _content(data: DataFile, source: Source, before: Table, now: Table, attic: Attic) -> bytes:
    """The bytes of a file with what has changed between two tables of a source."""
    if data.kind == "csv":
        from cadena.sources.write_csv import as_csv

        raw = as_csv(data, source.csv, before, now, attic)
    elif data.kind == "parquet":
        from cadena.sources.write_columns import as_parquet

        raw = as_parquet(data, before, now, attic)
    elif data.kind == "lines":
        from cadena.sources.write_json import as_lines

        raw = as_lines(data, before, now, attic)
    elif data.kind == "json":
        from cadena.sources.write_json import as_json

        if is_mapped(pointed(data.tree, source.at, data.name)):
            raise NotWritten(source, source.at, "what an object holds in groups is only read")
        raw = as_json(data, source, before, now, attic)
    else:
        raise NotWritten(source, source.at, f"what {data.kind} hold is only read")
    return gzip.compress(raw) if data.path.name.lower().endswith(PACKED) else raw


def _read_back(data: DataFile, source: Source, now: Table) -> dict[str, FieldType]:
    """The types of a file's fields, once it is seen to hold just what it is to hold."""
    return _demand_alike(source, _read_again(data, source), now)


def _read_again(data: DataFile, source: Source) -> Reading:
    try:
        return reading_of(data, source)
    except Problem as problem:
        raise NotWritten(source, problem.place, f"it could not be read: {problem.found}") from None


def _as_held(now: Table, reading: Reading, rows: Sequence[int | None], before: Table) -> Table:
    """A table as a file holds it: in its order, and with what it fills in where a new record is
    empty.

    Args:
        rows: the row that each record of the file is.
        before: what it held.
    """
    known = [row for row in rows if row is not None]
    if sorted(known) != sorted(now.rows) or reading.frame.height != len(known):
        return now
    at, had = {row: place for place, row in enumerate(now.rows)}, set(before.rows)
    frame = now.frame[[at[row] for row in known]]
    is_new = pl.Series([row not in had for row in known], dtype=pl.Boolean())
    for name in now.columns:
        if is_new.any() and name in reading.frame.columns:
            shown, held = frame[name], reading.frame[name]
            fits = shown.dtype == held.dtype or shown.null_count() == len(shown)
            if fits:
                made = shown.cast(held.dtype)
                frame = frame.with_columns(made.zip_with(made.is_not_null() | ~is_new, held))
    if tuple(known) == now.rows and frame.equals(now.frame):
        return now
    return now.with_frame(frame, rows=tuple(known))


def _demand_alike(source: Source, reading: Reading, now: Table) -> dict[str, FieldType]:
    """The types of what is read again, once it is seen to be what is shown.

    Raises:
        NotWritten: where it is not.
    """
    shown = typed(source, now.reading)
    kinds = tuple(
        next((each for each in source.fields if each.name == name), Field(name=name, type=kind))
        for name, kind in shown.types.items()
    )
    try:
        again = typed(replace(source, fields=kinds), reading)
        plain = typed(source, reading)
    except Problem as problem:
        raise NotWritten(source, problem.place, f"it could not be read: {problem.found}") from None
    if len(again) != len(shown):
        reason = f"it would hold {len(again):,} records in place of {len(shown):,}"
        raise NotWritten(source, source.at, reason)
    for name in shown.types:
        here, there = shown.frame[name], again.frame[name]
        if here.equals(there, null_equal=True):
            continue
        differs = _unlike(here, there)
        if differs is not None:
            said, meant = (brief(str(plain_text(e[differs])), 40) for e in (there, here))
            reason = f"record {differs + 1} would be read again as {said}, and not as {meant}"
            raise NotWritten(source, name, reason)
    return plain.types


def _unlike(here: pl.Series, there: pl.Series) -> int | None:
    """The first place where two columns differ, or none."""
    pairs = zip(here.to_list(), there.to_list(), strict=True)
    return next((at for at, (a, b) in enumerate(pairs) if plain_text(a) != plain_text(b)), None)
