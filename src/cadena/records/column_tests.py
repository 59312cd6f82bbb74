"""When the values of whole columns pass a test: as ``conditions.passes`` has it for one (7.1)."""

from __future__ import annotations

from typing import Any

import polars as pl

from cadena.model.values import LIST
from cadena.records.columns import stored
from cadena.records.conditions import ORDERED, wanted_of


def column_passes(name: str, test: str, wanted: Any, kind: str) -> pl.Expr | bool:
    """Whether each value of a column passes a test: as ``passes``, for all of them at once.

    Returns:
        An expression, whose nulls do not pass; or one answer for all.
    """
    column = pl.col(name)
    if test in ("is empty", "is filled"):
        is_text = kind in ("text", "picture")
        empty = column.is_null() | (column == "") if is_text else column.is_null()
        return empty if test == "is empty" else ~empty
    if wanted is None:
        return False
    wanted = wanted_of(test, wanted, kind)
    if wanted is None or wanted == ():
        return test == "is not"
    if test == "contains":
        if kind.startswith(LIST):
            return column.list.contains(stored(wanted, kind[len(LIST) :]))
        return column.cast(pl.String).str.to_lowercase().str.contains(wanted, literal=True)
    if test == "is one of":
        held = pl.Series([stored(each, kind) for each in wanted], strict=False)
        return column.is_in(held.implode())
    held = stored(wanted, kind)
    return column.ne_missing(held) if test == "is not" else ORDERED[test](column, held)
