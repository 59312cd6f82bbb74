"""What is written to the stand-in, kept in the project's own files, by what writes them there."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Any

from cadena.model.problem import Problem, brief
from cadena.model.values import shown
from cadena.records.changes import Changes
from cadena.records.records import Records
from cadena.sources.joined_tables import Clashes
from cadena.sources.open_project import Place, place_of
from cadena.sources.read_file import read_records, typed
from cadena.sources.table import Table, is_plain, table_of, with_record, without_records
from cadena.sources.table import with_cell as with_typed
from cadena.sources.table_changes import Attic
from cadena.sources.write_back import Edited, Saved, is_written_back, write_all


class Unkept(Problem):
    """A value that a file would not give back as it came; ``field`` says of which field."""

    def __init__(self, source: str, field: str, found: str) -> None:
        super().__init__(source, field, found, "a value that its file can hold")
        self.field = field


class Kept:
    """The files of a project, written one change after another.

    Args:
        folder: that of the project; nothing outside is written.
    """

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._tables: dict[Place, Table] = {}
        self._stamps: dict[Place, str] = {}
        self._attics: dict[Place, Attic] = {}
        self._takes: dict[str, bool] = {}

    def takes(self, records: Records) -> bool:
        """Whether the records of a source go back into their file."""
        source = records.source
        if source.id not in self._takes:
            has_own_key = is_plain(source, source.key) and records.reading is not None
            self._takes[source.id] = has_own_key and is_written_back(self.folder, source)
        return self._takes[source.id]

    def write(self, every: dict[str, Records], name: str, changes: Changes) -> None:
        """Write the changes of a source into its file, and go by what that then holds.

        Args:
            every: the records of all sources; those that lie in the same place follow.

        Raises:
            Unkept: for a value that would be read again as another.
            Clashes: where somebody has changed the same in the file, which is read again.
            Problem: where the file cannot be written.
        """
        records = every[name]
        source, place = records.source, place_of(records.source)
        if place not in self._tables and records.reading is not None:
            self._tables[place] = table_of(records.reading)
            self._stamps[place] = records.reading.stamp
        before = self._tables[place]
        now = _with_changes(before, records, changes)
        _demand_held(typed(source, now.reading), records.with_changes(changes), changes)
        attic = self._attics.setdefault(place, {})
        edited = Edited(source, before, self._stamps[place], now, attic)
        try:
            write_all(self.folder, [edited], self._note)
        except Clashes:
            held = read_records(self.folder, source).reading
            assert held is not None
            self._tables[place], self._stamps[place] = table_of(held), held.stamp
            raise
        finally:
            shared = [e for e in every.values() if place_of(e.source) == place]
            every.update(
                {e.source.id: typed(e.source, self._tables[place].reading) for e in shared}
            )

    def _note(self, saved: Saved) -> None:
        self._tables[saved.place] = saved.table
        for place, stamp in self._stamps.items():
            if place.file == saved.place.file and stamp == saved.was:
                self._stamps[place] = saved.stamp
        self._stamps[saved.place] = saved.stamp


def _with_changes(table: Table, records: Records, changes: Changes) -> Table:
    """The table of a source with changes typed into it."""
    for change in changes.changed:
        row = records.row_of(change.key)
        for name, value in change.fields.items() if row is not None else ():
            table = _with_cell(table, records, row or 0, name, value)
    for record in changes.added:
        filled = {name: _text(value) for name, value in record.items() if value is not None}
        try:
            table = with_record(table, records, filled)
        except Problem as problem:
            raise Unkept(records.source.id, problem.place, problem.found) from None
    rows = [row for key in changes.gone if (row := records.row_of(key)) is not None]
    return without_records(table, rows) if rows else table


def _with_cell(table: Table, records: Records, row: int, name: str, value: Any) -> Table:
    try:
        return with_typed(table, records, row, name, _text(value))
    except Problem as problem:
        raise Unkept(records.source.id, name, problem.found) from None


def _text(value: Any) -> str:
    """A value as it is typed."""
    if isinstance(value, list | tuple):
        return ", ".join(map(_text, value))
    if isinstance(value, bool):
        return "true" if value else "false"
    return "" if value is None else shown(value)


def _demand_held(made: Records, wanted: Records, changes: Changes) -> None:
    """That what was typed is read again as it came; an empty text is nothing.

    Raises:
        Unkept: for the first value that is not.
    """
    name_of_key = made.source.key
    said: dict[Any, Mapping[str, Any]] = {each.key: each.fields for each in changes.changed}
    said |= {each[name_of_key]: each for each in changes.added}
    for key, fields in said.items():
        held, meant = made.by_key(key), wanted.by_key(key) or {}
        if held is None:
            raise Unkept(made.source.id, name_of_key, f"{brief(str(key), 40)} is no key in it")
        for name in fields:
            now, was = held.get(name), meant.get(name)
            if now != was and not (now is None and was in ("", ())):
                said_of = brief(str(now), 40), brief(str(was), 40)
                found = f"it would be read again as {said_of[0]}, and not as {said_of[1]}"
                raise Unkept(made.source.id, name, found)
