"""A project from disk: its app and the records of every source, whole or not at all."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import NamedTuple

from cadena.data.read import read_records
from cadena.data.records import Records
from cadena.model.app import App
from cadena.model.project_file import locate, read_app


class Project(NamedTuple):
    """``file`` is the project file; ``folder`` holds it and all that it names."""

    file: Path
    app: App
    records: dict[str, Records]

    @property
    def folder(self) -> Path:
        return self.file.parent


def open_project(path: Path) -> Project:
    """Open a project: runs nothing, asks no network, reads nothing outside its folder.

    Raises:
        Problem: for the first thing in it that cannot be used.
    """
    file = locate(path)
    app = read_app(file)
    return Project(file, app, read_all(file.parent, app))


def read_all(
    folder: Path, app: App, known: Mapping[str, Records] | None = None
) -> dict[str, Records]:
    """The records of every source of an app, by source.

    Args:
        known: records that are read already; those of the very same source serve again.
    """
    known = known or {}
    return {
        source.id: known[source.id]
        if source.id in known and known[source.id].source == source
        else read_records(folder, source)
        for source in app.sources
    }
