"""Which records a list shows, and in what order: run on whole columns (behaviour.md, 7.1)."""

from __future__ import annotations

import datetime
from collections.abc import Mapping
from functools import cached_property
from typing import Any, Final, NamedTuple

import numpy as np
import polars as pl
from numpy.typing import NDArray

from cadena.data.compare import KINDS, comparable
from cadena.data.records import Positions, Records, dtype_of
from cadena.model.listing import Condition, Listing, Sort
from cadena.model.values import LIST, shown

Mask = NDArray[np.bool_]
OTHERS: Final = "Others"


class Asked(NamedTuple):
    """What a list is asked for beside its own terms.

    ``arguments`` are the screen's, ``values`` app-wide, ``choices`` those made in strips; a
    condition on one that is none keeps everything. ``search`` are words that must each be
    found in one of the search fields, in any case. ``sort`` is an order in place of the
    list's own.
    """

    arguments: Mapping[str, Any] = {}
    search: str = ""
    sort: tuple[Sort, ...] | None = None
    values: Mapping[str, Any] = {}
    choices: Mapping[str, Any] = {}


class Rows:
    """The rows of a list, as positions in its records.

    Args:
        records: the records they are rows of.
        positions: shape (shown,), the row of each record shown, in order.
        found: how many passed the conditions and the search.
        kept: how many passed the conditions.
        groups: the index at which each group begins, and its title; none without groups.
    """

    def __init__(
        self,
        records: Records,
        positions: Positions,
        found: int,
        kept: int,
        groups: tuple[tuple[int, str], ...] = (),
    ):
        self.records = records
        self.positions = positions
        self.found = found
        self.kept = kept
        self.groups = groups

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

    def first(self, count: int) -> Rows:
        """Only the first rows, of as many found and kept."""
        groups = tuple(each for each in self.groups if each[0] < count)
        return Rows(self.records, self.positions[:count], self.found, self.kept, groups)


NOTHING_ASKED: Final = Asked()


def query(records: Records, listing: Listing, asked: Asked = NOTHING_ASKED) -> Rows:
    """Find the rows of a list.

    Args:
        records: the records of the list's source, as they are now.
        listing: its conditions, search fields, order, groups and limit.
        asked: what is asked for beside.
    """
    mask = _mask(records, [_expression(records, each, asked) for each in listing.where])
    kept = len(records) if mask is None else int(mask.sum())
    for word in asked.search.lower().split():
        hit = records.holding(listing.search, word)
        mask = hit if mask is None else mask & hit
    found = len(records) if mask is None else int(mask.sum())
    positions = records.order(listing.sort if asked.sort is None else asked.sort)
    if mask is not None:
        positions = positions[mask[positions]]
    groups: tuple[tuple[int, str], ...] = ()
    if listing.group_by or listing.groups:
        positions, groups = _grouped(records, listing, asked, positions)
    rows = Rows(records, positions, found, kept, groups)
    return rows if listing.limit is None or listing.limit >= found else rows.first(listing.limit)


def _grouped(
    records: Records, listing: Listing, asked: Asked, positions: Positions
) -> tuple[Positions, tuple[tuple[int, str], ...]]:
    """The rows group by group, each in the order they had; where each begins, and its title."""
    if listing.groups:
        group = np.full(len(records), len(listing.groups), dtype=np.int32)
        titles = [*(each.title for each in listing.groups), OTHERS]
        for number in reversed(range(len(listing.groups))):
            where = [_expression(records, each, asked) for each in listing.groups[number].where]
            inside = _mask(records, where)
            group[slice(None) if inside is None else inside] = number
    elif listing.group_by in records.types:
        order = records.order((Sort(field=listing.group_by),))
        values = records.frame[listing.group_by].gather(order)
        begins = values.ne_missing(values.shift(1)).to_numpy().copy()
        begins[:1] = True
        starts = np.flatnonzero(begins)
        group = np.empty(len(records), dtype=np.int32)
        group[order] = np.cumsum(begins) - 1
        titles = [shown(values[int(at)]) or "–" for at in starts]
    else:
        return positions, ()
    by_group = np.argsort(group[positions], kind="stable")
    positions = positions[by_group]
    numbers = group[positions]
    starts = np.flatnonzero(np.diff(numbers, prepend=-1))
    return positions, tuple((int(at), titles[int(numbers[at])]) for at in starts)


def _mask(records: Records, expressions: list[pl.Expr | None]) -> Mask | None:
    wanted = [each for each in expressions if each is not None]
    if not wanted:
        return None
    made = records.frame.select(pl.all_horizontal(wanted).fill_null(False)).to_series()
    # Where nothing but constants is asked, one answer is for all.
    return np.broadcast_to(made.to_numpy(), (len(records),))


def _expression(records: Records, condition: Condition, asked: Asked) -> pl.Expr | None:
    if condition.field not in records.types:
        return pl.lit(False)
    kind = records.types[condition.field]
    column = pl.col(condition.field)
    is_text = kind in ("text", "picture")
    empty = column.is_null() | (column == "") if is_text else column.is_null()
    if condition.test == "is empty":
        return empty
    if condition.test == "is filled":
        return ~empty
    value, may_be_none = _compared(condition, asked)
    if condition.test == "is one of":
        return _one_of(column, kind, value)
    if value is None:
        return None if may_be_none else pl.lit(False)
    if condition.test == "contains":
        if kind.startswith(LIST):
            return column.list.contains(value)
        return (
            column.cast(pl.String).str.to_lowercase().str.contains(str(value).lower(), literal=True)
        )
    if not comparable(value, kind):
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


def _compared(condition: Condition, asked: Asked) -> tuple[Any, bool]:
    """What a condition compares with, and whether none of it keeps everything."""
    if condition.argument:
        return asked.arguments.get(condition.argument), True
    if condition.choice:
        return asked.choices.get(condition.choice), True
    if condition.value:
        return asked.values.get(condition.value), True
    return condition.constant, False


def _one_of(column: pl.Expr, kind: str, values: Any) -> pl.Expr:
    """None, or a list that is empty, is a list that holds nothing: marks not made yet."""
    fitting: list[Any] = [each for each in values or () if comparable(each, kind)]
    if kind == "date":
        fitting = [datetime.date.fromisoformat(each) for each in fitting]
    if kind not in KINDS and kind != "date":
        return pl.lit(False)
    return column.is_in(pl.Series(fitting, dtype=dtype_of(kind)).implode())
