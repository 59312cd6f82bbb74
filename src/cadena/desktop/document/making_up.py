"""Records made up in the open project, and other data taken in their place."""

from __future__ import annotations

from typing import Any, Final

import polars as pl
from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import SelectedSource
from cadena.desktop.document.typing import table_now
from cadena.model.app import App
from cadena.model.edits.exchange import with_source_exchanged
from cadena.model.edits.renaming import with_fields_mapped
from cadena.model.edits.shaping import with_field, with_source
from cadena.model.find import by_id
from cadena.model.problem import Problem
from cadena.model.source import MadeUp, Source
from cadena.records.columns import dtype_of
from cadena.sources.import_file import Adopted
from cadena.sources.made_up import (
    KEY_OF,
    TYPES,
    made_column,
    made_up_records,
    write_pictures,
)
from cadena.sources.open_project import place_of
from cadena.sources.table import Table, table_of

MOST: Final = 1_000_000
PICTURE: Final = "a picture"


def kinds_for(document: Document, source: str) -> list[str]:
    """What the fields of a source can be made up as."""
    return [*TYPES, *(KEY_OF + each.id for each in document.app.sources if each.id != source)]


def make_up_anew(document: Document, source: Source, **changed: Any) -> None:
    """Make the records of a source up anew: so many, or from another seed."""
    made = replace(source.made_up or MadeUp(), **changed)
    said = replace(source, made_up=made)
    what = ", ".join(f"{name} {value}" for name, value in changed.items())
    try:
        table = _kept(document, said, table_of(made_up_records(said, _keys(document)), True))
    except Problem as problem:
        document.refuse(str(problem))
        return
    app = with_source(document.app, said)
    _take(document, f"make up {source.id}: {what}", app, said, table)


def make_up_field(document: Document, source: Source, name: str, kind: str) -> None:
    """Make the values of one field up; of no kind they stay as they are, to be typed."""
    made = source.made_up or MadeUp(count=len(document.records[source.id]))
    kinds = (
        {**made.kinds, name: kind} if kind else {k: v for k, v in made.kinds.items() if k != name}
    )
    said = replace(source, made_up=replace(made, kinds=kinds))
    app = with_source(document.app, said)
    table = table_now(document, source)
    if kind and document.file is not None:
        keys = _keys(document)
        try:
            if kind == PICTURE:
                write_pictures(document.file.parent)
            column = made_column(name, kind, said, keys, made.seed, table.frame.height)
        except Problem as problem:
            document.refuse(str(problem))
            return
        there = by_id(app.sources, kind.removeprefix(KEY_OF)) if kind.startswith(KEY_OF) else None
        known = document.types.get(there.id, {}) if there is not None else {}
        type_ = TYPES.get(kind) or (known.get(there.key, "text") if there is not None else "text")
        app = with_field(app, document.types, source.id, name, type=type_, written="")
        if name in table.frame.columns and column.dtype != dtype_of(type_):
            column = column.cast(dtype_of(type_))
        frame = table.frame.with_columns(column.alias(name))
        table = table.with_frame(frame)
    said = by_id(app.sources, source.id) or said
    _take(document, f"make up {name} as {kind or 'typed'}", app, said, table)


def _keys(document: Document) -> dict[str, pl.Series]:
    return {name: each.keys.drop_nulls() for name, each in document.records.items()}


def _kept(document: Document, source: Source, made: Table) -> Table:
    """What is made up, with what was typed in the fields that are not."""
    before = table_now(document, source).frame
    kinds = (source.made_up or MadeUp()).kinds
    columns = []
    for column in made.frame.iter_columns():
        if column.name not in kinds and column.name in before.columns:
            old = before[column.name].head(len(column))
            gap = pl.Series(column.name, [None] * (len(column) - len(old)), dtype=old.dtype)
            column = pl.concat([old, gap])
        columns.append(column)
    return made.with_frame(pl.DataFrame(columns))


def _take(document: Document, what: str, app: App, source: Source, table: Table) -> None:
    tables = {**document.history.tables, place_of(source): table._replace(is_new=True)}
    document.edit(what, app, tables=tables)


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
