"""Which records a list shows, and in what order: run on whole columns (behaviour.md, 7.1)."""

from __future__ import annotations

import datetime
from collections.abc import Mapping
from functools import cached_property
from typing import Any

import numpy as np
import polars as pl
from numpy.typing import NDArray

from cadena.data.records import Positions, Records
from cadena.model.app import Condition, Listing, Sort


class Rows:
    """The rows of a list, as positions in its records.

    Args:
        records: the records they are rows of.
        positions: shape (shown,), the row of each record shown, in order.
        found: how many passed the conditions and the search.
        kept: how many passed the conditions.
    """

    def __init__(self, records: Records, positions: Positions, found: int, kept: int):
        self.records = records
        self.positions = positions
        self.found = found
        self.kept = kept

    def __len__(self) -> int:
        return len(self.positions)

    @cached_property
    def _index(self) -> Positions:
        index = np.full(len(self.records), -1, dtype=np.int32)
        index[self.positions] = np.arange(len(self.positions), dtype=np.int32)
        return index

    def index_of(self, key: Any) -> int | None:
        """Where on the list a key stands, or none."""
        row = self.records.row_of(key)
        if row is None:
            return None
        at = int(self._index[row])
        return None if at < 0 else at

    def key_at(self, index: int) -> Any:
        return self.records.key_at(int(self.positions[index]))

    def record_at(self, index: int) -> dict[str, Any]:
        return self.records.record(int(self.positions[index]))


def query(
    records: Records,
    listing: Listing,
    arguments: Mapping[str, Any],
    search: str = "",
    sort: tuple[Sort, ...] | None = None,
) -> Rows:
    """Find the rows of a list.

    Args:
        records: the records of the list's source, as they are now.
        listing: its conditions, search fields, order and limit.
        arguments: those of the screen the list is on; a condition on an argument that
            is none keeps everything.
        search: words that must each be found in one of the search fields, in any case.
        sort: the order asked for, in place of the list's own.
    """
    mask = _mask(records, [_expression(records, each, arguments) for each in listing.where])
    kept = len(records) if mask is None else int(mask.sum())
    for word in search.lower().split():
        hit = records.lowered(listing.search).str.contains(word, literal=True).to_numpy()
        mask = hit if mask is None else mask & hit
    found = len(records) if mask is None else int(mask.sum())
    positions = records.order(listing.sort if sort is None else sort)
    if mask is not None:
        positions = positions[mask[positions]]
    return Rows(records, positions[: listing.limit], found, kept)


def _mask(records: Records, expressions: list[pl.Expr | None]) -> NDArray[np.bool_] | None:
    wanted = [each for each in expressions if each is not None]
    if not wanted:
        return None
    made = records.frame.select(pl.all_horizontal(wanted).fill_null(False)).to_series()
    # Where nothing but constants is asked, one answer is for all.
    return np.broadcast_to(made.to_numpy(), (len(records),))


def _expression(
    records: Records, condition: Condition, arguments: Mapping[str, Any]
) -> pl.Expr | None:
    if condition.field not in records.types:
        return pl.lit(False)
    column = pl.col(condition.field)
    is_text = records.types[condition.field] in ("text", "picture")
    empty = column.is_null() | (column == "") if is_text else column.is_null()
    if condition.test == "is empty":
        return empty
    if condition.test == "is filled":
        return ~empty
    value: Any = arguments.get(condition.argument) if condition.argument else condition.constant
    if value is None:
        return None if condition.argument else pl.lit(False)
    kind = records.types[condition.field]
    if condition.test == "contains":
        if kind.startswith("list of "):
            return column.list.contains(value)
        return (
            column.cast(pl.String).str.to_lowercase().str.contains(str(value).lower(), literal=True)
        )
    if not _comparable(value, kind):
        return pl.lit(condition.test == "is not")
    if kind == "date":
        value = datetime.date.fromisoformat(value)
    passes: dict[str, pl.Expr] = {
        "is": column == value,
        "is not": column.ne_missing(value),
        "under": column < value,
        "over": column > value,
        "at least": column >= value,
        "at most": column <= value,
    }
    return passes[condition.test]


def _comparable(value: Any, kind: str) -> bool:
    if kind == "date":
        try:
            datetime.date.fromisoformat(value)
        except (TypeError, ValueError):
            return False
        return True
    kinds: dict[str, tuple[type, ...]] = {
        "text": (str,),
        "picture": (str,),
        "whole number": (int, float),
        "number": (int, float),
        "yes/no": (bool,),
    }
    return isinstance(value, kinds.get(kind, ())) and (kind == "yes/no" or type(value) is not bool)
