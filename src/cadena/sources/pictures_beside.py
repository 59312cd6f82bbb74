"""The pictures that records name: where they lie beside the data, and which are not there."""

from __future__ import annotations

import re
import shutil
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Final, NamedTuple

from cadena.model.file.disk import inside
from cadena.model.problem import Problem
from cadena.model.source import Source
from cadena.records.records import Records

MOST_PICTURES: Final = 2_000
MOST_BYTES: Final = 256 * 1024 * 1024
"""What is brought along of one file of data; what is beyond stays where it is."""
ELSEWHERE: Final = re.compile(r"[a-zA-Z][a-zA-Z0-9+.-]+:")
"""How an address begins that is no file."""


class Named(NamedTuple):
    """A picture that records name: in which field, and its file below a folder, if there is one."""

    field: str
    name: str
    file: Path | None


def pictures_named(folder: Path, source: Source, records: Records) -> Iterator[Named]:
    """Each picture that a source's records name once, as files below a folder."""
    for field, kind in records.types.items():
        if kind != "picture" or source.served == "service":
            continue
        for name in dict.fromkeys(records.values_of(field)):
            if isinstance(name, str) and name and not ELSEWHERE.match(name):
                try:
                    yield Named(field, name, inside(folder, name))
                except Problem:
                    yield Named(field, name, None)


def bring_pictures(folder: Path, data: Path, made: Iterable[tuple[Source, Records]]) -> None:
    """Copy the pictures that lie below the folder of some data to the same place in a project.

    What is there already stays; what cannot be copied is told by ``picture-missing``.
    """
    count = taken = 0
    root = folder.resolve()
    for source, records in made:
        for each in pictures_named(data.parent, source, records):
            to = (root / each.name).resolve()
            if each.file is None or to.exists() or not to.is_relative_to(root):
                continue
            count, taken = count + 1, taken + each.file.stat().st_size
            if count > MOST_PICTURES or taken > MOST_BYTES:
                return
            try:
                to.parent.mkdir(parents=True, exist_ok=True)
                shutil.copyfile(each.file, to)
            except OSError:
                to.unlink(missing_ok=True)
