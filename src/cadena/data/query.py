"""Which records a list shows, and in what order: run on whole columns (behaviour.md, 7.1)."""

from __future__ import annotations

import datetime
from collections.abc import Mapping
from functools import cached_property
from typing import Any

import numpy as np
import polars as pl

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
    found = kept
    for word in search.lower().split():
        hit = records.lowered(listing.search).str.contains(word, literal=True)
        mask = hit if mask is None else mask & hit
    if search.split():
        found = int(mask.sum()) if mask is not None else kept
    if mask is None:
        positions = np.arange(len(records), dtype=np.int32)
    else:
        positions = mask.arg_true().to_numpy().astype(np.int32)
    positions = _sorted(records, positions, listing.sort if sort is None else sort)
    return Rows(records, positions[: listing.limit], found, kept)


def _mask(records: Records, expressions: list[pl.Expr | None]) -> pl.Series | None:
    wanted = [each for each in expressions if each is not None]
    if not wanted:
        return None
    return records.frame.select(pl.all_horizontal(wanted).fill_null(False).alias("kept"))["kept"]


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


def _sorted(records: Records, positions: Positions, sort: tuple[Sort, ...]) -> Positions:
    by = [each for each in sort if each.field in records.types]
    if not by:
        return positions
    columns = {str(number): _order(records, each.field) for number, each in enumerate(by)}
    frame = pl.DataFrame(columns)
    if len(positions) < len(records):
        frame = frame[positions]
    order = frame.select(
        pl.arg_sort_by(
            list(columns),
            descending=[each.descending for each in by],
            nulls_last=True,
            maintain_order=True,
        ).alias("order")
    )["order"]
    ordered: Positions = positions[order.to_numpy()]
    return ordered


def _order(records: Records, name: str) -> pl.Series:
    """What a field sorts by: text without regard to case, empty last."""
    column = records.frame[name]
    if column.dtype != pl.String:
        return column
    lowered = records.lowered((name,))
    return pl.select(pl.when(lowered == "").then(None).otherwise(lowered))[:, 0]
