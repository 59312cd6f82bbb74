"""What Shape's strip says of a list in columns: what each shows, its head, its width and side."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial
from typing import Any

from msgspec.structs import replace

from cadena.desktop.stages.shape.about_conditions import ListChange
from cadena.desktop.widgets.bound import Bound, replaced, without
from cadena.desktop.widgets.words import Sentence, Word
from cadena.model.edits.likely_columns import likely_columns
from cadena.model.edits.wiring import moved
from cadena.model.listing import Listing, TableColumn
from cadena.model.values import FieldType


def in_columns(
    change: ListChange, listing: Listing, types: Mapping[str, FieldType], others: list[str]
) -> None:
    """Lay a list out in columns: in those that it had, or in likely ones."""
    columns = listing.columns or likely_columns(listing.row, types, others)
    change("lay out in columns", layout="columns", columns=columns)


def columns_in_short(listing: Listing) -> str:
    """The columns of a list, for its sentence."""
    if listing.layout != "columns":
        return ""
    return ", ".join(each.head or each.shows for each in listing.columns) or "none yet"


def column_sentences(
    change: ListChange, listing: Listing, types: Mapping[str, FieldType]
) -> list[Sentence]:
    """Each column, and a way to one more."""
    columns = listing.columns
    said = [_of_column(change, columns, at) for at in range(len(columns))]
    shown = {each.shows for each in columns}
    options = [
        (each, partial(change, "columns", columns=(*columns, TableColumn(shows=each))))
        for each, kind in types.items()
        if each not in shown and not kind.startswith(("list of", "picture"))
    ]
    return [*said, Sentence("", [Word("menu", "+ a column", name="add a column", options=options)])]


def _of_column(change: ListChange, columns: tuple[TableColumn, ...], at: int) -> Sentence:
    column = columns[at]

    def changed(what: str, **values: Any) -> None:
        change(f"column {what}", columns=replaced(columns, at, replace(column, **values)))

    def move(by: int) -> None:
        change("order of the columns", columns=moved(columns, at, by))

    bound, of = Bound(column, changed, change.document.refuse), f"of column {at + 1}"
    drop = partial(change, "columns", columns=without(columns, at))
    words = [
        bound.text("shows", f"what is shown {of}"),
        Word("text", "under"),
        bound.text("head", f"head {of}"),
        Word("text", "at least"),
        bound.number("least", f"least width {of} in dp"),
        Word("text", "dp, share"),
        bound.number("share", f"share {of}"),
        *bound.one_of("side", f"{{}} {of}", f"{{}} {of}"),
        Word("do", "↑", partial(move, -1), name=f"move up {of}"),
        Word("do", "↓", partial(move, 1), name=f"move down {of}"),
        Word("do", "✕", drop, name=f"take away {of}"),
    ]
    return Sentence(str(at + 1), words)
