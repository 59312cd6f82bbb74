"""Rows that an app can tell apart: one of each class stands for all of them.

Two rows are of one class where every link, condition and nested list that can follow from them
finds the same: a value, none, an empty one, or one that leads to no record.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, Final

import numpy as np
import polars as pl
from numpy.typing import NDArray

from cadena.engine.wired import Listed, WiredApp
from cadena.model.app import DetailScreen, FormScreen, FromField, Link, Screen
from cadena.model.values import Scalar
from cadena.records.records import Records

MOST: Final = 8
"""Classes of one list that are taken; the others are counted, and said."""
Codes = NDArray[np.int64]
NONE, EMPTY, DANGLING, FILLED = range(4)
KINDS: Final = 8
"""More than what one column tells apart."""


class RowClasses:
    """The classes of the rows of every list of an app, found once for the records they are of."""

    def __init__(self, app: WiredApp) -> None:
        self.app = app
        self._codes: dict[tuple[str, str, int], Codes] = {}
        self._classed: dict[int, tuple[Listed, tuple[Scalar, ...]]] = {}
        self.left_out: dict[tuple[str, str], int] = {}

    def of(self, screen: str, part: str, listed: Listed) -> tuple[Scalar, ...]:
        """The keys of the rows of a list that stand for all: its first, and one of each class."""
        known = self._classed.get(id(listed))
        if known is None:
            known = self._classed[id(listed)] = listed, self._classify(screen, part, listed)
        return known[1]

    def _classify(self, screen: str, part: str, listed: Listed) -> tuple[Scalar, ...]:
        return self.stand_for(screen, part, listed)

    def stand_for(
        self, screen: str, part: str, listed: Listed, last: bool = False
    ) -> tuple[Scalar, ...]:
        """The keys of the first row of each class, or of the last; and of the list's first."""
        rows = listed.rows
        if not len(rows):
            return ()
        codes = self._codes_of(screen, part, rows.records)[rows.positions]
        _, found = np.unique(codes[::-1] if last else codes, return_index=True)
        found = len(codes) - 1 - found if last else found
        places = np.unique(np.concatenate([[0], found]))
        if len(places) > MOST:
            self.left_out[screen, part] = len(places) - MOST
        return tuple(rows.key_at(int(at)) for at in places[:MOST])

    def _codes_of(self, screen: str, part: str, records: Records) -> Codes:
        """For each record of a list's source, the number of its class."""
        key = (screen, part, records.serial)
        if key not in self._codes:
            self._codes[key] = _numbered(self._told_apart(screen, part, records, 1), len(records))
        return self._codes[key]

    def _told_apart(
        self, screen: str, part: str, records: Records, deep: int
    ) -> Iterator[NDArray[Any]]:
        """What tells records of a list apart, a column each."""
        app = self.app
        links = [app.row_links.get((screen, part))]
        for name, (of, _) in app.actions.get(screen, {}).items():
            links.append(app.links.get((screen, "action", name)) if of == part else None)
        for link in links:
            if link is not None:
                yield from self._by_link(link, records, deep)

    def _by_link(self, link: Link, records: Records, deep: int) -> Iterator[NDArray[Any]]:
        target = self.app.screens.get(link.to)
        if target is None:
            return
        key_of = {each.name: each.key_of for each in target.parameters}
        carried = {e.parameter: e.field for e in link.arguments if isinstance(e, FromField)}
        for name, field in carried.items():
            yield self._filled(records, field, self._leads_to(target, name, key_of.get(name, "")))
        if isinstance(target, DetailScreen | FormScreen):
            same = carried.get(target.key) == records.source.key
            if target.source == records.source.id and same:
                yield from self._by_own_links(target, records)
        if deep:
            yield from self._by_nested(target, carried, records, deep)

    def _leads_to(self, target: Screen, parameter: str, key_of: str) -> str:
        """The source whose key a parameter takes, or nothing."""
        if not key_of and isinstance(target, DetailScreen | FormScreen) and target.key == parameter:
            return target.source
        return key_of

    def _by_own_links(self, target: Screen, records: Records) -> Iterator[NDArray[Any]]:
        """What the links of a detail take of its own record."""
        for (screen, on, _), link in self.app.links.items():
            to = self.app.screens.get(link.to)
            if screen != target.id or on not in ("button", "fact") or to is None:
                continue
            for each in link.arguments:
                if isinstance(each, FromField):
                    key_of = next((p.key_of for p in to.parameters if p.name == each.parameter), "")
                    yield self._filled(
                        records, each.field, self._leads_to(to, each.parameter, key_of)
                    )

    def _by_nested(
        self, target: Screen, carried: dict[str, str], records: Records, deep: int
    ) -> Iterator[NDArray[Any]]:
        """Which classes of rows the nested lists of the target hold."""
        for part, listing in self.app.listings[target.id].items():
            nested = self.app.as_read.get(listing.source)
            for each in listing.where:
                field = carried.get(each.argument, "")
                if nested is None or each.test != "is" or field not in records.types:
                    continue
                if each.field not in nested.types:
                    continue
                codes = _numbered(self._told_apart(target.id, part, nested, deep - 1), len(nested))
                for number in np.unique(codes)[:MOST]:
                    values = nested.frame[each.field].filter(pl.Series(codes == number))
                    yield _is_in(records.frame[field], values)

    def _filled(self, records: Records, field: str, source: str) -> NDArray[Any]:
        """For each record whether a field is none, empty or 0, leads to nothing, or is filled."""
        codes = np.full(len(records), FILLED, dtype=np.int64)
        if field not in records.frame.columns:
            return np.full(len(records), NONE, dtype=np.int64)
        column = records.frame[field]
        other = self.app.as_read.get(source)
        if other is not None:
            codes[~_is_in(column, other.keys)] = DANGLING
        empty = _is_nothing(column)
        codes[empty] = EMPTY if other is None else EMPTY + 4 * (codes[empty] != DANGLING)
        codes[column.is_null().to_numpy()] = NONE
        return codes


def _numbered(columns: Iterator[NDArray[Any]], count: int) -> Codes:
    """One number for each row, the same where all columns are."""
    codes = np.zeros(count, dtype=np.int64)
    for column in columns:
        codes = np.unique(codes * KINDS + column, return_inverse=True)[1].reshape(-1)
    return codes


def _is_in(column: pl.Series, values: pl.Series) -> NDArray[np.bool_]:
    """For each value whether it is among others; nothing is, where they are of another type."""
    if column.dtype != values.dtype:
        return np.zeros(len(column), dtype=np.bool_)
    return column.is_in(values.drop_nulls().unique().implode()).fill_null(False).to_numpy()


def _is_nothing(column: pl.Series) -> NDArray[np.bool_]:
    """For each value whether it is the number 0 or the empty text."""
    if column.dtype == pl.String:
        return (column == "").fill_null(False).to_numpy()
    if column.dtype.is_numeric():
        return (column == 0).fill_null(False).to_numpy()
    return np.zeros(len(column), dtype=np.bool_)
