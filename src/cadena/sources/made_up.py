"""Records that are made up, to begin with before there are any: a file of the project."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path
from typing import Final

import msgspec

from cadena.model.file.disk import write_in
from cadena.model.find import slug, unused
from cadena.model.naming import singular
from cadena.model.problem import Problem
from cadena.model.source import Source
from cadena.sources.import_file import Adopted, chosen
from cadena.sources.read_json import records_in

TO_BEGIN_WITH: Final = 3
LONGEST: Final = 60


def begun(folder: Path, what: str, taken: Iterable[str]) -> Adopted:
    """A source of three made-up records, written into a project's folder.

    Args:
        what: what its list shows, in a person's words: huts.
        taken: the names of the sources there are.

    Raises:
        Problem: where that is no name, or the disk does not take the file.
    """
    said = " ".join(what.split())
    if not any(map(str.isalnum, said)) or len(said) > LONGEST:
        raise Problem("the list", "", f'"{said[:LONGEST]}" came', "what it shows, such as huts")
    name = unused(slug(said), taken)
    one = singular(said.lower())
    one = said if one.endswith("-detail") else one
    records = [
        {"id": number, "name": f"{one.capitalize()} {number}"}
        for number in range(1, TO_BEGIN_WITH + 1)
    ]
    stem = unused(name, (each.stem for each in folder.iterdir()))
    lines = b",\n".join(map(msgspec.json.encode, records))
    file = write_in(folder, f"{stem}.json", b"[\n" + lines + b"\n]\n")
    source = Source(id=name, title=said.capitalize(), file=file.name, key="id")
    return chosen(source, records_in(records, file.name))
