"""What lies beside an app that is handed over: its records as JSON, and its pictures."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Final

from cadena.engine.wired import WiredApp
from cadena.model.file.disk import read_bytes
from cadena.model.find import slug
from cadena.sources.pictures_beside import pictures_named

LARGEST_PICTURE: Final = 16 * 1024 * 1024
PAGE: Final = 5_000
"""Records in one file."""
Files = dict[str, bytes]
"""The files of a folder, by their path in it."""


def record_files(app: WiredApp) -> dict[str, list[str]]:
    """The files of the records of each source that is not served by a service."""
    made: dict[str, list[str]] = {}
    taken: set[str] = set()
    for number, source in enumerate(app.app.sources):
        if source.served != "service" and source.id in app.as_read:
            stem = "".join(letter for letter in slug(source.id) if letter.isascii()).strip("-")
            name = stem or f"source-{number}"
            pages = range(1, max(1, -(-len(app.as_read[source.id]) // PAGE)) + 1)
            while taken & {_page(name, page).lower() for page in pages}:
                name = f"{name}-{number}"
            made[source.id] = [_page(name, page) for page in pages]
            taken.update(each.lower() for each in made[source.id])
    return made


def _page(name: str, page: int) -> str:
    return f"records/{name}.json" if page == 1 else f"records/{name}.{page}.json"


def records_as_json(app: WiredApp) -> Files:
    """Records as JSON, one a line."""
    made: Files = {}
    for source, files in record_files(app).items():
        records = app.as_read[source]
        for page, file in enumerate(files):
            rows = range(page * PAGE, min(len(records), (page + 1) * PAGE))
            lines = (
                json.dumps(records.record(row), ensure_ascii=False, separators=(",", ":"))
                for row in rows
            )
            made[file] = ("[\n" + ",\n".join(lines) + "\n]\n").encode("utf-8", "replace")
    return made


def pictures_of(app: WiredApp, folder: Path) -> Files:
    """The pictures that records name, where they lie in the project's folder."""
    made: Files = {}
    for name, records in app.as_read.items():
        for picture in pictures_named(folder, app.sources[name], records):
            if picture.file is not None:
                place = picture.file.relative_to(folder.resolve()).as_posix()
                made[place] = read_bytes(picture.file, picture.name, LARGEST_PICTURE, "a picture")
    return made
