"""Which records a list shows, and in what order: run on whole columns (rules.md, 7.1)."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property
from typing import Any, Final, NamedTuple

import numpy as np
import polars as pl
from numpy.typing import NDArray

from cadena.model.listing import Condition, Listing, Sort
from cadena.model.values import shown
from cadena.records.conditions import column_passes
from cadena.records.records import Positions, Records, plain

Mask = NDArray[np.bool_]
OTHERS: Final = "Others"
ALONE: Final = ("is empty", "is filled")
"""Tests that compare with nothing."""


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
        titles = [shown(plain(values[int(at)])) or "–" for at in starts]
    else:
        return positions, ()
    by_group = np.argsort(group[positions], kind="stable")
    positions = positions[by_group]
    numbers = group[positions]
    starts = np.flatnonzero(np.diff(numbers, prepend=-1))
    return positions, tuple((int(at), titles[int(numbers[at])]) for at in starts)


def _mask(records: Records, expressions: list[pl.Expr | bool]) -> Mask | None:
    if False in [each for each in expressions if isinstance(each, bool)]:
        return np.zeros(len(records), dtype=np.bool_)
    wanted = [each for each in expressions if isinstance(each, pl.Expr)]
    if not wanted:
        return None
    made = records.frame.select(pl.all_horizontal(wanted).fill_null(False)).to_series()
    return made.to_numpy()


def _expression(records: Records, condition: Condition, asked: Asked) -> pl.Expr | bool:
    if condition.field not in records.types:
        return False
    wanted, may_be_none = _compared(condition, asked)
    if wanted is None and may_be_none and condition.test not in ALONE:
        # None of a list is a list that holds nothing: marks not made yet.
        return condition.test != "is one of"
    kind = records.types[condition.field]
    return column_passes(condition.field, condition.test, wanted, kind)


def _compared(condition: Condition, asked: Asked) -> tuple[Any, bool]:
    """What a condition compares with, and whether none of it keeps everything."""
    may_be_none = bool(condition.argument or condition.choice or condition.value)
    return compared_with(condition, asked.arguments, asked.values, asked.choices), may_be_none


def compared_with(
    condition: Condition,
    arguments: Mapping[str, Any],
    values: Mapping[str, Any],
    choices: Mapping[str, Any],
) -> Any:
    """What a condition compares with, of a screen's arguments, the app's values and choices."""
    if condition.argument:
        return arguments.get(condition.argument)
    if condition.choice:
        return choices.get(condition.choice)
    if condition.value:
        return values.get(condition.value)
    return condition.constant
