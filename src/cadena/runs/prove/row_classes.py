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

from cadena.engine.wired import Listed, TriggerAt, WiredApp
from cadena.model.app import (
    Argument,
    DetailScreen,
    FormScreen,
    FromConstant,
    FromField,
    FromPosition,
    FromRecord,
    Link,
    Parameter,
    Screen,
    Trigger,
)
from cadena.model.claims import named_arguments, named_values
from cadena.model.listing import Button, Mark
from cadena.model.values import Scalar, Value, same_value
from cadena.records.records import Records
from cadena.runs.walks.situation import is_so

DEEP: Final = 4
"""Lists below lists that are looked into where a claim names what they hold."""
MOST_NAMED: Final = 16
MOST: Final = 8
"""Classes of one list that are taken; the others are counted, and said."""
Codes = NDArray[np.int64]
NONE, EMPTY, DANGLING, FILLED = range(4)


class RowClasses:
    """The classes of the rows of every list of an app, found once for the records they are of."""

    def __init__(self, app: WiredApp) -> None:
        self.app = app
        # What a claim names is told apart from all else, as deep as lists lead to it.
        self._arguments = named_arguments(app.app.claims)
        self._values = named_values(app.app.claims)
        self._named: dict[tuple[str, str, int, int], list[NDArray[Any]]] = {}
        self._codes: dict[tuple[str, str, int, int], Codes] = {}
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
        codes = self._codes_of(screen, part, rows.records, 1)[rows.positions]
        for link in self._links_of(screen, part):
            if isinstance(_carried_for_another(self.app, link), FromPosition):
                own = [str(rows.key_at(at)) == str(at) for at in range(len(rows))]
                codes = _numbered(iter([codes, np.array(own, np.int64)]), len(rows))
        _, found = np.unique(codes[::-1] if last else codes, return_index=True)
        found = len(codes) - 1 - found if last else found
        named = np.flatnonzero(self._named_of(screen, part, rows.records)[rows.positions])
        places = np.unique(np.concatenate([[0], found]))
        most = max(MOST, len(named) + 1)
        if len(places) > most:
            self.left_out[screen, part] = len(places) - most
        taken = [*named[:MOST_NAMED], *(each for each in places if each not in named)]
        return tuple(rows.key_at(int(at)) for at in sorted(taken[:most]))

    def of_parameter(self, screen: Screen, parameter: Parameter) -> tuple[Scalar, ...]:
        """The keys that stand for all that a parameter takes where it is the key of a source."""
        source = self._leads_to(screen, parameter.name, parameter.key_of)
        records = self.app.as_read.get(source)
        if records is None or not len(records):
            return ()
        opens = FromField(parameter=parameter.name, field=records.source.key)
        link = Link(id="", trigger=Trigger(screen=""), to=screen.id, arguments=(opens,))
        named = [*self._by_opening(link, records)]
        codes = _numbered(iter([*self._by_link(link, records, 1), *named]), len(records))
        places = np.unique(codes, return_index=True)[1]
        if len(places) > MOST:
            self.left_out[screen.id, parameter.name] = len(places) - MOST
        return tuple(records.key_at(int(at)) for at in sorted(places)[:MOST])

    def _named_of(self, screen: str, part: str, records: Records) -> NDArray[np.bool_]:
        """For each record of a list's source whether a claim names what it leads to itself."""
        found = np.zeros(len(records), dtype=np.bool_)
        for column in self._named_below(screen, part, records, 0):
            found |= column.astype(np.bool_)
        return found

    def _codes_of(self, screen: str, part: str, records: Records, deep: int) -> Codes:
        """For each record of a list's source, the number of its class, so many lists deep."""
        key = (screen, part, records.serial, deep)
        if key not in self._codes:
            columns = self._told_apart(screen, part, records, deep)
            self._codes[key] = _numbered(columns, len(records))
        return self._codes[key]

    def _told_apart(
        self, screen: str, part: str, records: Records, deep: int
    ) -> Iterator[NDArray[Any]]:
        """What tells records of a list apart, a column each."""
        for link in self._links_of(screen, part):
            yield from self._by_link(link, records, deep)
            another = _carried_for_another(self.app, link)
            if isinstance(another, FromConstant):
                keys = records.keys.to_list()
                yield np.array([same_value(each, another.constant) for each in keys], np.int64)
            elif another is not None and not (deep and isinstance(another, FromPosition)):
                # Which rows are what they open, only the list itself can say.
                yield np.arange(len(records))
        for at in self._triggers_of(screen, part):
            for kind in self.app.kinds.get(at, ()):
                if kind.field in records.types:
                    values = records.values_of(kind.field)
                    yield np.array([kind.holds({kind.field: each}) for each in values], np.int64)
        yield from self._named_below(screen, part, records, DEEP)

    def _named_below(
        self, screen: str, part: str, records: Records, deep: int
    ) -> list[NDArray[Any]]:
        """Which records a claim names, and which of them lead to a list that holds such a one."""
        if not self._arguments and not self._values:
            return []
        known = (screen, part, records.serial, deep)
        if known not in self._named:
            self._named[known] = [*self._by_claims(screen, part, records)]
            if deep:
                self._named[known] += self._by_lists_below(screen, part, records, deep)
        return self._named[known]

    def _by_lists_below(
        self, screen: str, part: str, records: Records, deep: int
    ) -> Iterator[NDArray[Any]]:
        for link in self._links_of(screen, part):
            carried = {e.parameter: e.field for e in link.arguments if isinstance(e, FromField)}
            for below, nested, key, field in self._lists_below(link.to, carried, records):
                for column in self._named_below(link.to, below, nested, deep - 1):
                    values = nested.frame[key].filter(pl.Series(column.astype(bool)))
                    yield _is_in(records.frame[field], values).astype(np.int64)

    def _lists_below(
        self, target: str, carried: dict[str, str], records: Records
    ) -> Iterator[tuple[str, Records, str, str]]:
        """The lists of a screen that a row's fields decide: each with its records, and the fields
        of these and of the row that are the same."""
        for part, listing in self.app.listings.get(target, {}).items():
            nested = self.app.as_read.get(listing.source)
            for condition in listing.where:
                field = carried.get(condition.argument, "")
                if nested is None or condition.test != "is" or field not in records.types:
                    continue
                if condition.field in nested.types:
                    yield part, nested, condition.field, field

    def _links_of(self, screen: str, part: str) -> Iterator[Link]:
        """The links that lead on from the rows of a list."""
        for at in self._triggers_of(screen, part):
            yield from self.app.links_at(at)

    def _triggers_of(self, screen: str, part: str) -> Iterator[TriggerAt]:
        """What the rows of a list lead on by: a press on them, and their actions."""
        yield screen, "row", part
        for name, (of, _) in self.app.actions.get(screen, {}).items():
            if of == part:
                yield screen, "action", name

    def _by_claims(self, screen: str, part: str, records: Records) -> Iterator[NDArray[Any]]:
        """Which records a claim names: by what their rows carry, or by what they mark; and what
        the detail of a row carries on, and marks, of its own record."""
        app = self.app
        key = records.source.key
        for of, button in app.actions.get(screen, {}).values():
            if of == part:
                yield from self._marked(button, records, key)
        for link in self._links_of(screen, part):
            yield from self._by_opening(link, records)

    def _by_opening(self, link: Link, records: Records) -> Iterator[NDArray[Any]]:
        """Which records a claim names by what is carried, or by what their detail does."""
        app, key = self.app, records.source.key
        carried = {e.parameter: e.field for e in link.arguments if isinstance(e, FromField)}
        for name, field in carried.items():
            yield from self._equal(records, field, self._arguments.get(name, frozenset()))
        target = app.screens.get(link.to)
        if isinstance(target, DetailScreen) and carried.get(target.key) == key:
            for button in app.buttons.get(target.id, {}).values():
                yield from self._marked(button, records, key)
            for (of, on, _), other in app.links.items():
                if of == target.id and on in ("button", "fact"):
                    for argument in other.arguments:
                        if isinstance(argument, FromField):
                            named = self._arguments.get(argument.parameter, frozenset())
                            yield from self._equal(records, argument.field, named)

    def _marked(self, button: Button, records: Records, key: str) -> Iterator[NDArray[Any]]:
        if isinstance(button.does, Mark):
            named = self._values.get(button.does.value, frozenset())
            each = {one for some in named for one in (some if isinstance(some, tuple) else (some,))}
            yield from self._equal(records, key, frozenset(each))

    def _equal(
        self, records: Records, field: str, named: frozenset[Value]
    ) -> Iterator[NDArray[Any]]:
        """For each record whether a field is one of the values that are named, a column each."""
        if named and field in records.types:
            values = records.values_of(field)
            for one in sorted(named, key=repr):
                yield np.array([is_so(value, one) for value in values], dtype=np.int64)

    def _by_link(self, link: Link, records: Records, deep: int) -> Iterator[NDArray[Any]]:
        target = self.app.screens.get(link.to)
        if target is None:
            return
        key_of = {each.name: each.key_of for each in target.parameters}
        carried = {e.parameter: e.field for e in link.arguments if isinstance(e, FromField)}
        for name, field in carried.items():
            yield self._codes_of_filled(
                records, field, self._leads_to(target, name, key_of.get(name, ""))
            )
        if isinstance(target, DetailScreen | FormScreen):
            yield from self._by_required(target, records)
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
        """What the links of a detail take of its own record, and what stands where they lead."""
        for (screen, on, part), link in self.app.links.items():
            to = self.app.screens.get(link.to)
            if screen != target.id or on not in ("button", "fact") or to is None:
                continue
            yield from self._by_required(to, records)
            if on == "fact":
                yield self._codes_of_filled(records, part, "")
            for argument in link.arguments:
                if isinstance(argument, FromField):
                    key_of = next(
                        (p.key_of for p in to.parameters if p.name == argument.parameter), ""
                    )
                    yield self._codes_of_filled(
                        records, argument.field, self._leads_to(to, argument.parameter, key_of)
                    )

    def _by_required(self, target: Screen, records: Records) -> Iterator[NDArray[Any]]:
        """For a form of these records which of the fields that it requires are empty."""
        if isinstance(target, FormScreen) and target.source == records.source.id:
            for field in target.fields:
                if field.required:
                    yield self._codes_of_filled(records, field.field, "")

    def _by_nested(
        self, target: Screen, carried: dict[str, str], records: Records, deep: int
    ) -> Iterator[NDArray[Any]]:
        """Which classes of rows the nested lists of the target hold."""
        for part, nested, key, field in self._lists_below(target.id, carried, records):
            codes = self._codes_of(target.id, part, nested, deep - 1)
            numbers = np.unique(codes)
            if len(numbers) > MOST:
                self.left_out[target.id, part] = len(numbers) - MOST
            for number in numbers[:MOST]:
                values = nested.frame[key].filter(pl.Series(codes == number))
                yield _is_in(records.frame[field], values)

    def _codes_of_filled(self, records: Records, field: str, source: str) -> NDArray[Any]:
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


def _carried_for_another(app: WiredApp, link: Link) -> Argument | None:
    """What a row carries as the key of a record of its own source that no field of it holds."""
    target, of = app.screens.get(link.to), app.listings.get(link.trigger.screen, {})
    part = app.part_of(link.trigger) if link.trigger.on in ("row", "action") else None
    if not isinstance(target, DetailScreen | FormScreen) or part not in of:
        return None
    carried = next((each for each in link.arguments if each.parameter == target.key), None)
    is_own = target.source != of[part].source or isinstance(carried, FromField | FromRecord)
    return None if is_own else carried


def _numbered(columns: Iterator[NDArray[Any]], count: int) -> Codes:
    """One number for each row, the same where all columns are."""
    codes = np.zeros(count, dtype=np.int64)
    for column in columns:
        _, column = np.unique(column, return_inverse=True)
        codes = np.unique(codes * len(codes) + column, return_inverse=True)[1].reshape(-1)
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
