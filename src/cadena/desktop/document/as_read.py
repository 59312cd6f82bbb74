"""The records of the project's files as they were read, before anything of them was typed."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from cadena.desktop.document.history import History
from cadena.model.app import App
from cadena.model.problem import Problem
from cadena.model.source import Source
from cadena.records.records import Records
from cadena.sources.open_project import Place, Project, place_of

if TYPE_CHECKING:
    from cadena.sources.table import Table


class AsRead:
    """Knows what each file held when it was first changed by hand, and writes what has changed.

    Attributes:
        tables: the tables as they were read, by where they are.
    """

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.tables: dict[Place, Table] = {}
        self._as_of: dict[str, tuple[int, int]] = {}

    def table(self, source: Source, records: Records) -> Table:
        """The table of a source that nothing was typed into yet, kept from now on."""
        from cadena.sources.table import table_of

        place = place_of(source)
        if place not in self.tables and records.reading is not None:
            self.tables[place] = table_of(records.reading)
            self._remember(source.file)
        return self.tables[place]

    def keep_read(self, place: Place, project: Project) -> None:
        """Keep what a project was read with, at a place."""
        for source in project.app.sources:
            if place_of(source) == place:
                self.table(source, project.records[source.id])

    def read_again(self, project: Project) -> dict[Place, Table]:
        """The tables as they are on disk now, of all places that are known."""
        from cadena.sources.table import table_of

        found: dict[Place, Table] = {}
        for source in project.app.sources:
            reading = project.records[source.id].reading
            if place_of(source) in self.tables and reading is not None:
                found[place_of(source)] = table_of(reading)
                self._remember(source.file)
        return found

    def write(self, app: App, history: History) -> None:
        """Write what was typed since it was last saved into the files.

        Raises:
            Problem: when one of them cannot be written, or was changed by somebody else.
        """
        from cadena.sources.write_back import write_back, write_whole

        # Sources of one place have one table, which is written once.
        places = {place_of(source): source for source in app.sources}
        changed = history.changed_tables
        for place, source in places.items():
            if place not in changed:
                continue
            now = history.tables.get(place, self.tables.get(place))
            before = history.saved_tables.get(place, self.tables.get(place))
            if now is None:
                continue
            path = self.folder / source.file
            if before is None or before.is_new or now.is_new or not path.exists():
                write_whole(self.folder, source, now)
            else:
                if self._as_of.get(source.file) != _stamp(path):
                    said = "it was changed on disk since it was read"
                    raise Problem(source.file, source.id, said, "the project opened anew")
                write_back(self.folder, source, before, now)
            self._remember(source.file)

    def _remember(self, file: str) -> None:
        path = self.folder / file
        if path.exists():
            self._as_of[file] = _stamp(path)


def _stamp(path: Path) -> tuple[int, int]:
    found = path.stat()
    return found.st_mtime_ns, found.st_size
