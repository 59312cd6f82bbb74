"""Records made up in the open project, and other data taken in their place."""

from __future__ import annotations

from typing import Any, Final

import polars as pl
from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import SelectedSource
from cadena.desktop.document.typing import change_table
from cadena.model.edits.exchange import with_source_exchanged
from cadena.model.edits.renaming import with_fields_mapped
from cadena.model.edits.shaping import with_field, with_source
from cadena.model.find import by_id
from cadena.model.source import MadeUp, Source
from cadena.records.records import Records
from cadena.sources.import_file import Adopted
from cadena.sources.made_up import (
    KEY_OF,
    TYPES,
    made_column,
    with_made_column,
    with_made_up,
    write_pictures,
)
from cadena.sources.table import Table

MOST: Final = 1_000_000
PICTURE: Final = "a picture"


def kinds_for(document: Document, source: str) -> list[str]:
    """What the fields of a source can be made up as."""
    return [*TYPES, *(KEY_OF + each.id for each in document.app.sources if each.id != source)]


def make_up_anew(document: Document, source: Source, **changed: Any) -> None:
    """Make the records of a source up anew: so many, or from another seed."""
    said = replace(source, made_up=replace(source.made_up or MadeUp(), **changed))
    what = ", ".join(f"{name} {value}" for name, value in changed.items())

    def make(table: Table, records: Records) -> Table:
        return with_made_up(table, records, said, _keys(document))

    app = with_source(document.app, said)
    change_table(document, source.id, f"make up {what} of", make, app)


def make_up_field(document: Document, source: Source, name: str, kind: str) -> None:
    """Make the values of one field up; of no kind they stay as they are, to be typed."""
    made = source.made_up or MadeUp(count=len(document.records[source.id]))
    kinds = {each: of for each, of in made.kinds.items() if each != name}
    if kind:
        kinds[name] = kind
    said = replace(source, made_up=replace(made, kinds=kinds))
    app = with_source(document.app, said)
    if not kind or document.file is None:
        document.edit(f"make up {name} as typed", app)
        return
    there = by_id(app.sources, kind.removeprefix(KEY_OF)) if kind.startswith(KEY_OF) else None
    known = document.types.get(there.id, {}) if there is not None else {}
    type_ = TYPES.get(kind) or (known.get(there.key, "text") if there is not None else "text")
    app = with_field(app, document.types, source.id, name, type=type_, written="")
    folder = document.file.parent

    def make(table: Table, records: Records) -> Table:
        if kind == PICTURE:
            write_pictures(folder)
        column = made_column(name, kind, said, _keys(document), made.seed, table.frame.height)
        return with_made_column(table, records, column)

    change_table(document, source.id, f"make up {name} as {kind} in", make, app)


def _keys(document: Document) -> dict[str, pl.Series]:
    return {name: each.keys.drop_nulls() for name, each in document.records.items()}


def exchange(document: Document, source: str, made: Adopted) -> None:
    """Take other data in the place of a source: the screens and links stay, and go by it."""
    new = made.source
    types = {**document.types, new.id: made.records.types}
    app = with_source_exchanged(document.app, types, source, new, made.records.types)
    said = by_id(app.sources, source)
    if said is not None:
        document.records = {**document.records, source: made.records.said_by(said)}
        document.edit(f"exchange {source}", app, SelectedSource(source))


def find_again(document: Document, source: str, name: str, to: str) -> None:
    """A name that leads to no field of a source any more is another field from now on."""
    app = with_fields_mapped(document.app, source, {name: to})
    document.edit(f"{name} of {source} is {to}", app)
