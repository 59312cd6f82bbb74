"""A project from disk: its app and the records of every source, whole or not at all."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

from cadena.model.app import App
from cadena.model.file.disk import print_of, said_path
from cadena.model.file.project_file import decode, locate, read_project
from cadena.model.listing import Listing
from cadena.model.screen_parts import listings
from cadena.model.source import Source
from cadena.records.reading import Progress, Reading, silent
from cadena.records.records import Records
from cadena.sources.kept_records import KeptRecords
from cadena.sources.pictures_beside import Named, pictures_named

if TYPE_CHECKING:
    from cadena.sources.table import Table


class Place(NamedTuple):
    """Where records are: the file, where in it, and the list of each record there."""

    file: str
    at: str = ""
    inside: str = ""


class Project(NamedTuple):
    """``file`` is the project file; ``folder`` holds it and all that it names.

    ``print_of`` tells its bytes, as they were read, from any others.
    """

    file: Path
    app: App
    records: dict[str, Records]
    print_of: str = ""

    @property
    def folder(self) -> Path:
        return self.file.parent

    def look(self, source: Source, records: Records) -> Iterator[Named]:
        """The pictures that a source's records name, in the project's folder."""
        return pictures_named(self.folder, source, records)


def weight_of(paths: Sequence[Path]) -> int:
    """How many bytes there are to read: of files, or of all files right in a folder."""
    total = 0
    for path in paths:
        try:
            inside = [path] if path.is_file() else list(path.iterdir()) if path.is_dir() else []
            total += sum(each.stat().st_size for each in inside if each.is_file())
        except OSError:
            continue
    return total


def prepared(path: Path, progress: Progress = silent) -> Project:
    """Open a project, and make its lists ready: for large ones, off the main thread.

    Raises:
        Problem: as ``open_project``.
    """
    project = open_project(path, progress)
    for screen in project.app.screens:
        for listing in listings(screen).values():
            records = project.records.get(listing.source)
            if records is not None:
                warm(records, listing)
    return project


def warm(records: Records, listing: Listing) -> None:
    """Find once what the list's order and its search read."""
    records.order(listing.sort)
    if listing.search:
        records.lowered(listing.search)


def open_project(path: Path, progress: Progress = silent) -> Project:
    """Open a project: runs nothing, asks no network, reads nothing outside its folder.

    Raises:
        Problem: for the first thing in it that cannot be used.
    """
    file = locate(path)
    raw = read_project(file)
    app = decode(raw, said_path(file.name))
    kept = KeptRecords(file.parent)
    records = read_all(file.parent, app, progress=progress, kept=kept)
    kept.keep()
    return Project(file, app, records, print_of(raw))


def read_all(
    folder: Path,
    app: App,
    known: Mapping[str, Records] | None = None,
    progress: Progress = silent,
    tables: Mapping[Place, Table] | None = None,
    kept: KeptRecords | None = None,
) -> dict[str, Records]:
    """The records of every source of an app, by source.

    Args:
        known: records that are read already; those of the very same source serve again.
        tables: those that were changed by hand, which stand in for what the files hold.
        kept: what was read when the project was last opened, of files that have not changed.
    """
    known = known or {}
    tables = tables or {}
    made: dict[str, Records] = {}
    for number, source in enumerate(app.sources):
        have, table = known.get(source.id), tables.get(place_of(source))
        if have is None or not _serves(have, source, table):
            have = None
        if have is not None and _typed_as(have.source) == _typed_as(source):
            made[source.id] = have if have.source == source else have.said_by(source)
            continue
        reading = table.reading if table is not None else have.reading if have is not None else None
        share = partial(_share, progress, number, len(app.sources))
        made[source.id] = _read(folder, source, reading, kept, share)
    return made


def _serves(have: Records, source: Source, table: Table | None) -> bool:
    """Whether records that are read already are of what a source is to be read from."""
    if table is not None:
        return have.is_typed_from(table.reading)
    return _read_from(have.source) == _read_from(source)


def _read(
    folder: Path,
    source: Source,
    reading: Reading | None,
    kept: KeptRecords | None,
    progress: Progress,
) -> Records:
    def read() -> Records:
        from cadena.sources.read_file import read_records, typed

        if reading is not None:
            return typed(source, reading)
        return read_records(folder, source, progress)

    return read() if kept is None or reading is not None else kept.records(source, read)


def _share(progress: Progress, number: int, count: int, done: float) -> None:
    """The progress of all, from that of one of them."""
    progress((number + done) / count)


def place_of(source: Source) -> Place:
    """Where the records of a source are."""
    inside = source.inside
    if inside is None:
        return Place(source.file, source.at, "")
    return Place(source.file, source.at, " ".join((inside.field, *inside.of.values())))


def _read_from(source: Source) -> tuple[Any, ...]:
    """All of a source that decides what is read."""
    return source.file, source.at, source.csv, source.inside


def _typed_as(source: Source) -> tuple[Any, ...]:
    """All of a source that decides what becomes of what is read; the rest only says how."""
    types = tuple((each.name, each.type, each.written, each.made_of) for each in source.fields)
    return source.key, source.key_from, source.numbered, types
