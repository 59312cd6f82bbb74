"""Taking a data file into a project: copied in, its types read, its key found."""

from __future__ import annotations

import shutil
from collections.abc import Iterable
from pathlib import Path

import polars as pl
from msgspec.structs import replace

from cadena.data.read import read_frame, typed
from cadena.data.records import Records
from cadena.model.find import slug, unused
from cadena.model.problem import Problem
from cadena.model.source import Field, Source

KEYS = ("id", "key", "uuid", "code", "slug")


def adopt(folder: Path, file: Path, taken: Iterable[str]) -> tuple[Source, Records]:
    """Copy a data file into a project folder and make a source of it.

    Args:
        taken: the names of the sources there are.

    Raises:
        Problem: when it cannot be read; then nothing is left in the folder.
    """
    frame = read_frame(file.parent, file.name)
    if not frame.width:
        raise Problem(
            file.name, "", "it has no fields", "records with a field that tells them apart"
        )
    name = unused(slug(file.stem), taken)
    source = Source(
        id=name, title=name.replace("-", " ").capitalize(), file=file.name, key=likely_key(frame)
    )
    records = typed(source, frame)
    if file.resolve().parent != folder.resolve():
        stem = unused(file.stem, (each.stem for each in folder.iterdir()))
        source = replace(source, file=stem + file.suffix)
        try:
            shutil.copyfile(file, folder / source.file)
        except OSError as error:
            raise Problem(
                file.name,
                "",
                f"it cannot be copied ({error.strerror})",
                "a folder that can be written",
            ) from None
    fields = tuple(Field(name=each, type=kind) for each, kind in records.types.items())
    source = replace(source, fields=fields)
    return source, Records(source, records.frame, records.types)


def likely_key(frame: pl.DataFrame) -> str:
    """The first field that is filled and different in every record, usual names of keys first."""
    whole = [
        each
        for each in frame.columns
        if frame[each].null_count() == 0 and frame[each].n_unique() == frame.height
    ]
    usual = [each for each in whole if each.lower() in KEYS]
    return (usual or whole or frame.columns)[0]
