"""Which records a list shows, and in what order (rules.md, 7.1)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import cached_property
from typing import Any, Final, NamedTuple

from cadena.model.listing import Condition, Listing, Sort
from cadena.model.values import shown
from cadena.records.records import FEW_KEYS, Positions, Records, Term

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
        positions: the row of each record shown, in order.
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
    def _places(self) -> Any:
        return self.records.places(self.positions)

    def index_of(self, key: Any) -> int | None:
        """Where on the list a key stands, or none."""
        row = self.records.row_of(key)
        if row is None:
            return None
        at = int(self._places[row])
        return None if at < 0 else at

    def count_of(self, keys: Sequence[Any]) -> int:
        """How many of some different keys are on the list."""
        if len(keys) <= FEW_KEYS:
            return sum(self.index_of(each) is not None for each in keys)
        picked, places = self.records.rows_with(keys), self._places
        if isinstance(places, list):
            return sum(is_it and at >= 0 for is_it, at in zip(picked, places, strict=True))
        return int((picked & (places >= 0)).sum())

    def key_at(self, index: int) -> Any:
        return self.records.key_at(int(self.positions[index]))

    def keys(self) -> list[Any]:
        """The keys of all rows, in order."""
        return self.records.keys_at(self.positions)

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
    sort = listing.sort if asked.sort is None else asked.sort
    words = asked.search.lower().split()
    made = records.select(_terms(records, listing.where, asked), words, listing.search, sort)
    positions, begins, titles = made.positions, list[tuple[int, int]](), list[str]()
    if listing.groups:
        titles = [*(each.title for each in listing.groups), OTHERS]
        terms = [_terms(records, each.where, asked) for each in listing.groups]
        positions, begins = records.in_groups(positions, records.by_terms(terms))
    elif listing.group_by in records.types:
        numbers, values = records.by_field(listing.group_by)
        titles = [shown(each) or "–" for each in values]
        positions, begins = records.in_groups(positions, numbers)
    groups = tuple((at, titles[number]) for at, number in begins)
    rows = Rows(records, positions, made.found, made.kept, groups)
    limit = listing.limit
    return rows if limit is None or limit >= made.found else rows.first(limit)


def _terms(records: Records, conditions: tuple[Condition, ...], asked: Asked) -> list[Term | bool]:
    return [_term(records, each, asked) for each in conditions]


def _term(records: Records, condition: Condition, asked: Asked) -> Term | bool:
    if condition.field not in records.types:
        return False
    wanted = compared_with(condition, asked.arguments, asked.values, asked.choices)
    may_be_none = bool(condition.argument or condition.choice or condition.value)
    if wanted is None and may_be_none and condition.test not in ALONE:
        # None of a list is a list that holds nothing: marks not made yet.
        return condition.test != "is one of"
    return Term(condition.field, condition.test, wanted)


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
