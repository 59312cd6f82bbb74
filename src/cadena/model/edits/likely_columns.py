"""The columns that a list could have, from what its row says and the other fields there are."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Final

from cadena.model.listing import Row, TableColumn
from cadena.model.naming import names_in
from cadena.model.values import FieldType

MOST: Final = 6
FIRST_LEAST: Final = 200
"""The first names the record, and is the last to give way: in dp."""
NUMBERS: Final = ("whole number", "number")


def likely_columns(
    row: Row, types: Mapping[str, FieldType], others: Iterable[str] = ()
) -> tuple[TableColumn, ...]:
    """What a row says, each by itself, then other fields: numbers at the end of their columns."""
    titled = names_in(row.title)
    said = [each for text in (row.subtitle, row.badge) for each in names_in(text)]
    names = [each for each in dict.fromkeys((*said, *others)) if each not in titled]
    fit = [e for e in names if not types.get(e, "text").startswith(("list of", "picture"))]
    first = TableColumn(shows=row.title, least=FIRST_LEAST, share=2)
    return (
        first,
        *(
            TableColumn(shows=name, side="end" if types.get(name) in NUMBERS else "start")
            for name in fit[: MOST - 1]
        ),
    )
