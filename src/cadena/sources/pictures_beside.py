"""The pictures that records name: where they lie beside the data, and which are not there."""

from __future__ import annotations

import re
import shutil
from collections.abc import Iterable, Iterator, Mapping
from pathlib import Path
from typing import Final, NamedTuple, TypeGuard

from cadena.model.file.disk import inside
from cadena.model.problem import Problem
from cadena.model.source import Source
from cadena.records.records import Records

MOST_PICTURES: Final = 2_000
MOST_BYTES: Final = 256 * 1024 * 1024
"""What is brought along of one file of data; what is beyond stays where it is."""
ELSEWHERE: Final = re.compile(r"[a-zA-Z][a-zA-Z0-9+.-]+:")
"""How an address begins that is no file."""
AT_AN_ADDRESS: Final = re.compile(r"https?://", re.IGNORECASE)


def is_remote(name: object) -> TypeGuard[str]:
    """Whether the value of a picture field is a web address."""
    return isinstance(name, str) and AT_AN_ADDRESS.match(name) is not None


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


def not_shown(source: Source, records: Records, failed: Mapping[str, str]) -> Iterator[Named]:
    """Each picture of a source that did not come from where it lies, once."""
    for field, kind in records.types.items():
        if kind == "picture" and failed:
            for name in dict.fromkeys(records.values_of(field)):
                if is_remote(name) and name in failed:
                    yield Named(field, name, None)


def bring_pictures(folder: Path, data: Path, made: Iterable[tuple[Source, Records]]) -> None:
    """Copy the pictures that lie below the folder of some data to the same place in a project.

    What is there already stays; what cannot be copied is told by ``picture-missing``.
    """
    count = taken = 0
    root = folder.resolve()
    for source, records in made:
        for picture in pictures_named(data.parent, source, records):
            to = (root / picture.name).resolve()
            if picture.file is None or to.exists() or not to.is_relative_to(root):
                continue
            count, taken = count + 1, taken + picture.file.stat().st_size
            if count > MOST_PICTURES or taken > MOST_BYTES:
                return
            try:
                to.parent.mkdir(parents=True, exist_ok=True)
                shutil.copyfile(picture.file, to)
            except OSError:
                to.unlink(missing_ok=True)
