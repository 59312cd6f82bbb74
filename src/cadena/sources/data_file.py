"""A data file that is open: what it is, where in it there are records, and their columns."""

from __future__ import annotations

import codecs
import time
from contextlib import suppress
from dataclasses import replace
from functools import cached_property
from pathlib import Path
from typing import Any, Final

import msgspec
import polars as pl

from cadena.model.file.disk import demand_plain, print_of, read_bytes
from cadena.model.source import Csv, Inside
from cadena.records.reading import Fault, Progress, Reading, silent
from cadena.sources.file_kinds import ENDINGS, LARGEST, PACKED, ending_of, kind_of, unpacked
from cadena.sources.json_tree import (
    are_alike,
    arrays_apart,
    arrays_in,
    decoded,
    first_item,
    found_at,
    holds_records,
    lines_in,
    part_at,
)
from cadena.sources.read_csv import as_utf8, read_csv
from cadena.sources.read_json import EXACT, read_json, read_json_lines, records_in

PLAIN: Final = Csv()


LARGE: Final = 4 * 1024 * 1024
"""Bytes from which on a file is told from another by size, time and place alone."""
SETTLED: Final = 1.0
"""Seconds after which a later change of a file must show in its time."""


def _settled(path: Path) -> str:
    """What tells a large file that was written a while ago from any other; nothing for others."""
    try:
        found = path.stat()
    except OSError:
        return ""
    if found.st_size < LARGE or time.time() - found.st_mtime < SETTLED:
        return ""
    return f"{found.st_ino} {found.st_size} {found.st_mtime_ns}"


class DataFile:
    """A data file that is read, once for all that is asked of it.

    Args:
        name: what it is called in messages.
        content: its bytes, where they are not those on disk.

    Raises:
        Problem: where it is none, or cannot be read.
    """

    def __init__(self, path: Path, name: str, content: bytes | None = None) -> None:
        self.path, self.name = path, name
        self.is_on_disk = content is None
        if content is not None:
            self.content = content
        # What its ending does not say is told by what is in it, which is then read but once.
        self.kind = kind_of(path, name, None if ending_of(path) in ENDINGS else self.raw)
        if self.kind == "database":
            demand_plain(path, name, LARGEST, "a database")

    @cached_property
    def content(self) -> bytes:
        """Its bytes, as they stand on disk."""
        return read_bytes(self.path, self.name, LARGEST, "a data file")

    @cached_property
    def raw(self) -> bytes:
        """What is in it, unpacked."""
        return unpacked(self.content, self.name)

    @cached_property
    def stamp(self) -> str:
        """What tells what it holds now from whatever it held before or holds later."""
        if self.kind == "database":
            from cadena.sources.read_sqlite import stamp_of

            return stamp_of(self.path)
        if self.is_on_disk and (settled := _settled(self.path)):
            return settled
        return print_of(self.content)

    @cached_property
    def _read_text(self) -> tuple[bytes, tuple[Fault, ...]]:
        return as_utf8(self.raw, self.name, "utf-8")

    @property
    def text(self) -> bytes:
        """The text in it as it is shown: UTF-8, without its mark."""
        return self._read_text[0]

    @cached_property
    def tree(self) -> Any:
        """The values of a JSON or YAML document, or the records of lines."""
        if self.kind == "lines":
            return self._lines[0]
        text, _ = self._read_text
        if self.kind == "yaml":
            from cadena.sources.read_yaml import as_json, values_in

            return as_json(values_in(text, self.name, "records"))
        return decoded(text, self.name)

    def first_at(self, at: str) -> dict[str, Any] | None:
        """The first record of an array or of lines, as far as it is known without all of them."""
        if "tree" in self.__dict__ or self.kind == "yaml":
            return None
        text = (part_at(self.text, at) or b"").lstrip()
        if self.kind == "lines":
            text = text.partition(b"\n")[0]
        elif text[:1] != b"[":
            return None
        else:
            text = first_item(text)
        try:
            found = msgspec.json.decode(text)
        except (msgspec.DecodeError, UnicodeDecodeError, RecursionError):
            return None
        return found if isinstance(found, dict) else None

    @cached_property
    def _lines(self) -> tuple[list[Any], tuple[Fault, ...]]:
        return lines_in(self.text, self.name)

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
        return self._arrays[0]

    @property
    def left_out(self) -> list[str]:
        """Where there are records that are taken for none: they are not alike, and others are."""
        return self._arrays[1]

    @cached_property
    def _arrays(self) -> tuple[list[str], list[str]]:
        """The arrays of a document that are taken for records, and those that are not."""
        is_array = self.kind == "json" and self.text.lstrip()[:1] == b"["
        if is_array or self.kind not in ("json", "yaml"):
            return [""], []
        found: list[tuple[str, int, bool]] | None = None
        if self.kind == "json" and len(self.text) > EXACT and "tree" not in self.__dict__:
            with suppress(ValueError):
                found = sorted(arrays_apart(self.text), key=lambda e: (not e[2], -e[1]))
        if not found:
            if isinstance(self.tree, list) or holds_records(self.tree):
                return [""], []
            every = arrays_in(self.tree)
            alike = (are_alike(found_at(self.tree, self.name, at)) for at, _ in every)
            found = [(at, count, one) for (at, count), one in zip(every, alike, strict=True)]
        taken = [at for at, _, one in found if one] or [at for at, *_ in found[:1]]
        return taken or [""], [at for at, *_ in found if at not in taken]

    def read(
        self,
        at: str = "",
        form: Csv = PLAIN,
        progress: Progress = silent,
        inside: Inside | None = None,
        is_known: bool = False,
    ) -> Reading:
        """The columns of the records at a place in it, with its stamp.

        Args:
            is_known: they are records of a source that there is: all that can be records is.

        Raises:
            Problem: where there are none.
        """
        stamp = self.stamp
        return replace(self._read(at, form, progress, inside, is_known), stamp=stamp)

    def _read(
        self, at: str, form: Csv, progress: Progress, inside: Inside | None, is_known: bool
    ) -> Reading:
        if self.kind == "database":
            from cadena.sources.read_sqlite import read_sqlite

            return read_sqlite(self.path, at, progress)
        progress(0.05)
        if is_known and self._is_bare(form):
            return Reading(pl.DataFrame())
        if self.kind == "csv":
            is_packed = self.path.name.lower().endswith(PACKED)
            path = None if is_packed or not self.is_on_disk else self.path
            return read_csv(self.raw, self.name, form, progress, path, is_known)
        if self.kind == "parquet":
            from cadena.sources.read_columns import read_parquet

            return read_parquet(self.raw, self.name, inside)
        if self.kind == "sheets":
            from cadena.sources.read_columns import read_sheet

            return read_sheet(self.raw, self.name, at, progress)
        text, faults = self._read_text
        if at and self.kind == "json" and len(text) > EXACT and "tree" not in self.__dict__:
            part = part_at(text, at)
            if part is not None and part.lstrip()[:1] == b"[":
                reading = read_json(part, self.name, "", progress, inside, is_known)
                return replace(reading, faults=faults + reading.faults)
        if "tree" in self.__dict__ or self.kind == "yaml":
            reading = records_in(self.tree, self.name, at, progress, inside, is_known)
            if self.kind == "lines":
                faults += self._lines[1]
        elif self.kind == "lines":
            reading = read_json_lines(text, self.name, progress, inside, is_known)
        else:
            reading = read_json(text, self.name, at, progress, inside, is_known)
        return replace(reading, faults=faults + reading.faults)

    def _is_bare(self, form: Csv) -> bool:
        """Whether it is a file of lines without any record left."""
        if self.kind != "lines" and (self.kind != "csv" or form.header):
            return False
        body = self.raw.removeprefix(codecs.BOM_UTF8)
        for _ in range(form.skip):
            body = body.partition(b"\n")[2]
        return not body.strip()
