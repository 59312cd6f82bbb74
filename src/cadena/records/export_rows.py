"""Handing rows out as CSV or JSON."""

from __future__ import annotations

import re
from typing import Final

import polars as pl

from cadena.model.listing import SaveRows
from cadena.records.query import Rows

FORMULA: Final = r"^(?:[\s\x00]*[=+\-@＝＋－＠]|[\t\r\n])"
"""What a spreadsheet takes for one: also behind blanks, and with signs of full width."""


def handed_out(rows: Rows, form: str) -> str:
    """The rows of a list as the text of a file: all fields, in the order shown."""
    frame = rows.records.frame.select(pl.all().gather(list(rows.positions)))
    if form == SaveRows(form="json").form:
        return str(frame.write_json()) + "\n"
    return str(safe(frame).write_csv())


def safe(frame: pl.DataFrame) -> pl.DataFrame:
    """The columns with no cell or name that a spreadsheet would take for a formula.

    Such texts are led by an apostrophe, which spreadsheets show as text; lists are joined.
    """
    columns = []
    for name, dtype in frame.schema.items():
        column = pl.col(name)
        if isinstance(dtype, pl.List):
            column = column.list.eval(pl.element().cast(pl.String)).list.join(", ")
            dtype = pl.String()
        if dtype == pl.String:
            column = (
                pl.when(column.str.contains(FORMULA))
                .then(pl.concat_str(pl.lit("'"), column))
                .otherwise(column)
            )
        led = f"'{name}" if re.match(FORMULA, name) else name
        columns.append(column.alias(led))
    return frame.select(columns)
