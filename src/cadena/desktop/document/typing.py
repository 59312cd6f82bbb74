"""Records typed by hand: cells, records and fields of a source, undone like everything."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.document.own_file import of_its_own
from cadena.desktop.document.selection import SelectedField, SelectedSource
from cadena.model.app import App
from cadena.model.edits.renaming import with_field_renamed
from cadena.model.edits.shaping import declared_fields, with_source
from cadena.model.find import by_id, unused
from cadena.model.problem import Problem
from cadena.model.source import Field, Source
from cadena.records.records import Records
from cadena.sources import table as tables
from cadena.sources.open_project import place_of
from cadena.sources.read_file import typed
from cadena.sources.table import Table
from cadena.sources.write_back import is_written_back


def can_be_typed(source: Source) -> bool:
    """Whether records of a source can be typed: those that a file of the project holds."""
    return bool(source.file)


def type_cell(document: Document, source: str, row: int, field: str, text: str) -> None:
    """Type one value of a record."""
    if found := _still_there(document, source, [row]):
        make = lambda t, r: tables.with_cell(t, r, found[0], field, text)  # noqa: E731
        change_table(document, source, "type", make)


def add_record(document: Document, source: str, values: Mapping[str, str]) -> None:
    """Add a record at the end."""
    _still_there(document, source, [])
    change_table(document, source, "add a record of", lambda t, r: tables.with_record(t, r, values))


def remove_records(document: Document, source: str, rows: list[int]) -> None:
    """Remove records by their rows."""
    what = "remove a record of" if len(rows) == 1 else "remove records of"
    if found := _still_there(document, source, rows):
        change_table(document, source, what, lambda t, r: tables.without_records(t, found))


def paste(document: Document, source: str, row: int, field: str, text: str) -> None:
    """Paste cells, as spreadsheets copy them."""
    left: list[str] = []
    is_beyond = row >= len(document.records.get(source) or ())
    found = _still_there(document, source, [] if is_beyond else [row])
    if not found and not is_beyond:
        return
    at = found[0] if found else len(document.records[source])
    of, held = by_id(document.app.sources, source), document.records[source]
    # Of a source that has no records yet, the head of a table makes its fields.
    new = tables.fields_pasted(text, held.types) if not len(held) else ()
    app = None
    if new and of is not None:
        fields = (*declared_fields(of, document.types), *new)
        app = with_source(document.app, replace(of, fields=fields))

    def make(table: Table, records: Records) -> Table:
        for column in new:
            table = tables.with_column(
                table, column.name, "text" if column.written else column.type
            )
        if new and app is not None:
            said = by_id(app.sources, source) or records.source
            records = typed(said, table.reading)
        made = tables.pasted(table, records, at, field, text)
        left.append(made.left)
        return made.table

    change_table(document, source, "paste into", make, app)
    if any(left):
        document.failed.emit(left[0])


def _still_there(document: Document, source: str, rows: list[int]) -> list[int]:
    """The rows of records as their file now is; nothing, where one of them is another by now.

    What is shown of a project that was opened before may be older than its file. Nobody has typed
    anything into it then: it is read again, and a record is found by its key.
    """
    of, records = by_id(document.app.sources, source), document.records.get(source)
    if of is None or records is None or place_of(of) in document.history.tables:
        return rows
    try:
        document.as_read.table(of, records)
    except Problem as problem:
        shown = [(records.key_at(row), records.record(row)) for row in rows if row < len(records)]
        document.read_anew(of.file)
        again = document.records[source]
        found = [again.row_of(key) for key, _ in shown]
        for row, (_, record) in zip(found, shown, strict=True):
            if row is None or again.record(row) != record or of.numbered:
                said = f"{problem.file} was changed by another program, and is read again"
                document.refuse(f"{said}: the record is another by now, and nothing was typed.")
                return []
        return [row for row in found if row is not None]
    return rows


def add_field(document: Document, source: str) -> None:
    """Add a field of text, to be named and typed where it stands."""
    of = by_id(document.app.sources, source)
    records = document.records.get(source)
    if of is None or records is None:
        return
    name = unused("field", list(records.types))
    app = with_source(
        document.app, replace(of, fields=(*declared_fields(of, document.types), Field(name=name)))
    )
    make = lambda table, _: tables.with_column(table, name, "text")  # noqa: E731
    change_table(document, source, "add a field to", make, app, SelectedField(source, name))


def rename_field(document: Document, source: str, name: str, to: str) -> None:
    """Call a field otherwise, wherever it is bound."""
    to = to.strip()
    if to == name:
        return
    app = with_field_renamed(document.app, document.types, source, name, to)
    make = lambda table, _: tables.with_column_named(table, name, to)  # noqa: E731
    change_table(document, source, f"call {name} {to} in", make, app, SelectedField(source, to))


def table_now(document: Document, source: Source) -> Table:
    """The table of a source as it now is, typed into or as it was read."""
    found = document.history.tables.get(place_of(source))
    return found or document.as_read.table(source, document.records[source.id])


def change_table(
    document: Document,
    source: str,
    what: str,
    make: Callable[[Table, Records], Table],
    app: App | None = None,
    selection: SelectedField | SelectedSource | None = None,
) -> None:
    """Change the table of a source; why it cannot be is said, and nothing has changed then."""
    app = document.app if app is None else app
    of, records = by_id(app.sources, source), document.records.get(source)
    if of is None or records is None or document.file is None:
        return
    place = place_of(of)
    try:
        table = table_now(document, of)
        is_still_to_be_made = place in document.history.tables and not (
            place in document.as_read.tables or (document.file.parent / of.file).exists()
        )
        if not is_still_to_be_made and not is_written_back(document.file.parent, of):
            of = of_its_own(document, of)
            app, place = with_source(app, of), place_of(of)
        made = make(table, records)
    except Problem as problem:
        document.refuse(str(problem))
        return
    changed = {**document.history.tables, place: made}
    document.edit(f"{what} {source}", app, selection, changed)
