"""A data file that is open: what it is, where in it there are records, and their columns."""

from __future__ import annotations

from dataclasses import replace
from functools import cached_property
from pathlib import Path
from typing import Any, Final

from cadena.model.file.disk import demand_plain
from cadena.model.source import Csv, Inside
from cadena.records.reading import Fault, Progress, Reading, silent
from cadena.sources.file_kinds import ENDINGS, LARGEST, PACKED, ending_of, held_in, kind_of
from cadena.sources.read_csv import as_utf8, read_csv
from cadena.sources.read_json import (
    are_alike,
    arrays_in,
    decoded,
    found_at,
    holds_records,
    lines_in,
    read_json,
    read_json_lines,
    records_in,
)

PLAIN: Final = Csv()


class DataFile:
    """A data file that is read, once for all that is asked of it.

    Raises:
        Problem: where it is none, or cannot be read.
    """

    def __init__(self, path: Path, name: str) -> None:
        self.path, self.name = path, name
        # What its ending does not say is told by what is in it, which is then read but once.
        self.kind = kind_of(path, name, None if ending_of(path) in ENDINGS else self.raw)
        if self.kind == "database":
            demand_plain(path, name, LARGEST, "a database")

    @cached_property
    def raw(self) -> bytes:
        """What is in it, unpacked."""
        return held_in(self.path, self.name)

    @cached_property
    def _text(self) -> tuple[bytes, tuple[Fault, ...]]:
        return as_utf8(self.raw, self.name, "utf-8")

    @cached_property
    def tree(self) -> Any:
        """The values of a JSON or YAML document, or the records of lines."""
        if self.kind == "lines":
            return self._lines[0]
        text, _ = self._text
        if self.kind == "yaml":
            from cadena.sources.read_yaml import as_json, values_in

            return as_json(values_in(text, self.name, "records"))
        return decoded(text, self.name)

    @cached_property
    def _lines(self) -> tuple[list[Any], tuple[Fault, ...]]:
        return lines_in(self._text[0], self.name)

    @property
    def is_tree(self) -> bool:
        """Whether records in it can hold others."""
        return self.kind in ("json", "lines", "yaml")

    @cached_property
    def places(self) -> list[str]:
        """Where in it there are records: tables, sheets, or arrays; the likeliest first."""
        if self.kind == "database":
            from cadena.sources.read_sqlite import tables_in

            return tables_in(self.path)
        if self.kind == "sheets":
            from cadena.sources.read_columns import sheets_in

            return sheets_in(self.raw, self.name)
        if self.kind not in ("json", "yaml"):
            return [""]
        if self.kind == "json" and self._text[0].lstrip()[:1] == b"[":
            return [""]
        if isinstance(self.tree, list) or holds_records(self.tree):
            return [""]
        found = arrays_in(self.tree)
        alike = [at for at, _ in found if are_alike(found_at(self.tree, self.name, at))]
        return alike or [at for at, _ in found[:1]] or [""]

    def read(
        self,
        at: str = "",
        form: Csv = PLAIN,
        progress: Progress = silent,
        inside: Inside | None = None,
    ) -> Reading:
        """The columns of the records at a place in it.

        Raises:
            Problem: where there are none.
        """
        if self.kind == "database":
            from cadena.sources.read_sqlite import read_sqlite

            return read_sqlite(self.path, at, progress)
        progress(0.05)
        if self.kind == "csv":
            is_packed = self.path.name.lower().endswith(PACKED)
            path = None if is_packed else self.path
            return read_csv(self.raw, self.name, form, progress, path)
        if self.kind == "parquet":
            from cadena.sources.read_columns import read_parquet

            return read_parquet(self.raw, self.name)
        if self.kind == "sheets":
            from cadena.sources.read_columns import read_sheet

            return read_sheet(self.raw, self.name, at, progress)
        text, faults = self._text
        if "tree" in self.__dict__ or self.kind == "yaml":
            reading = records_in(self.tree, self.name, at, progress, inside)
            if self.kind == "lines":
                faults += self._lines[1]
        elif self.kind == "lines":
            reading = read_json_lines(text, self.name, progress, inside)
        else:
            reading = read_json(text, self.name, at, progress, inside)
        return replace(reading, faults=faults + reading.faults)
