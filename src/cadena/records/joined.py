"""Records with what their references lead to, and what refers to them, as columns named by the
path (rules.md, 13)."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Mapping, Sequence
from math import floor, isfinite
from typing import TYPE_CHECKING, Any, Final, NamedTuple

from cadena.model.listing import Sort
from cadena.model.references import (
    COUNTS,
    Followed,
    FromOthers,
    Gives,
    field_at,
    step_of,
    steps_of,
)
from cadena.model.source import Source
from cadena.model.values import FieldType
from cadena.records.few_records import FewRecords
from cadena.records.records import Records, held_like, is_list
from cadena.records.template import called, fields_in

if TYPE_CHECKING:
    import polars as pl
    from polars.dataframe.group_by import GroupBy

Found = Callable[[str], Records | None]
"""The records of a source as they now are."""
Orders = tuple[tuple[str, str, tuple[Sort, ...]], ...]
"""By source and field: in which order the records that refer by it are taken, where that is not
the order in which they were read."""


class Leads(NamedTuple):
    """The paths that are followed from a source, the sources that they lead over, and in which
    order the first of several records is the first."""

    paths: tuple[str, ...]
    reached: tuple[str, ...]
    orders: Orders = ()


MILLION: Final = 1_000_000
MOST_SUMMED: Final = 1e9
"""Up to this, the millionths of as many numbers as there can be are a whole number of 64 bits."""
KEPT: Final = 256
"""Joined records that are remembered: they share the columns of those they are made of."""
_known: Final[OrderedDict[tuple[object, ...], Records]] = OrderedDict()


def leads_of(
    sources: Mapping[str, Source],
    source: str,
    paths: tuple[str, ...],
    orders: Mapping[tuple[str, str], tuple[Sort, ...]],
) -> Leads:
    """What paths from a source lead over."""
    steps = [step for path in paths for _, step in steps_of(sources, source, path)]
    firsts = {(e.to, e.field) for e in steps if isinstance(e, FromOthers) and e.gives == "first"}
    taken = tuple((*at, orders[at]) for at in sorted(firsts) if at in orders)
    return Leads(paths, tuple(dict.fromkeys(each.to for each in steps)), taken)


def joined(records: Records, leads: Leads, sources: Mapping[str, Source], found: Found) -> Records:
    """The records with a column for each path; a record that is not there leaves it empty.

    Args:
        found: gives the records that are led to.
    """
    source = records.source.id
    others = {name: each for name in leads.reached if (each := found(name)) is not None}
    serials = tuple([each.serial for each in others.values()])
    key = (records.serial, leads, serials)
    if key not in _known:
        types = {name: each.types for name, each in others.items()}
        types[source] = records.types
        kinds: dict[str, FieldType] = {}
        for path in leads.paths:
            if (end := field_at(sources, types, source, path)) is not None:
                kinds[path] = end.type
        _known[key] = _Joining(sources, others, leads.orders).whole(records, kinds)
        if len(_known) > KEPT:
            _known.popitem(last=False)
    return _known[key]


def told(gives: Gives, values: Sequence[Any]) -> Any:
    """What is said of the values of several records; what is empty is passed over, but by the
    count and the first.

    A sum of numbers is one of their millionths, so that it is the same in whatever order.
    """
    match gives:
        case "count" | "many":
            return len(values)
        case "first":
            return values[0] if values else None
    there = [each for each in values if each is not None]
    if gives == "sum":
        if not any(isinstance(each, float) for each in there):
            return sum(there)
        if not all(isfinite(each) for each in there):
            return sum(there)
        return float(sum(floor(each * MILLION + 0.5) for each in there)) / MILLION
    return (min if gives == "least" else max)(there, default=None)


def _aggregate(gives: Gives) -> pl.Expr:
    """``told``, of columns; of whole numbers, where it is their sum."""
    import polars as pl

    value = pl.col("value")
    made = {"first": value.first, "least": value.min, "most": value.max, "sum": value.sum}
    return value.len().cast(pl.Int64) if gives in COUNTS else made[gives]()


def _sums(groups: GroupBy, values: pl.Series) -> pl.DataFrame:
    """The sums of numbers, by group."""
    import polars as pl

    most = values.abs().max()
    if most is not None and not most < MOST_SUMMED:  # type: ignore[operator]
        lists = groups.agg(pl.col("value"))
        sums = [told("sum", each.to_list()) for each in lists["value"]]
        return lists.with_columns(value=pl.Series(sums, dtype=pl.Float64))
    made = groups.agg((pl.col("value") * MILLION + 0.5).floor().cast(pl.Int64).sum())
    # Columns are divided by multiplying, which does not always come to the same.
    return made.with_columns(value=pl.Series(made["value"].to_numpy() / MILLION))


class _Joining(NamedTuple):
    """What paths lead over: the sources, their records as they now are, and their orders."""

    sources: Mapping[str, Source]
    others: Mapping[str, Records]
    orders: Orders

    def whole(self, records: Records, kinds: Mapping[str, FieldType]) -> Records:
        """The records with each of these paths as a column."""
        if isinstance(records, FewRecords) and all(
            isinstance(other, FewRecords) for other in self.others.values()
        ):
            return records.with_columns(
                {path: _as(kind, self.values(records, path)) for path, kind in kinds.items()},
                kinds,
            )
        from cadena.records.columns import dtype_of
        from cadena.records.many_records import ManyRecords

        columns = (
            self.column(records, path, dtype_of(kind)).alias(path) for path, kind in kinds.items()
        )
        frame, types = records.frame.with_columns(columns), {**records.types, **kinds}
        return ManyRecords(records.source, frame, types, records.faults, records.reading)

    def values(self, records: Records, path: str) -> list[Any]:
        """What a path leads to from each of a few records."""
        if path in records.types:
            return records.values_of(path)
        step = step_of(self.sources, records.source.id, path)
        if step is None and fields_in(path):
            return _labels_of(records, path)
        match = self._match(records, step)
        if step is None or match is None:
            return [None] * len(records)
        own, to, theirs = match
        keys = to.values_of(theirs)
        values = self.values(to, step.rest) if step.rest else keys
        held = records.values_of(own)
        if isinstance(step, Followed):
            there = dict(zip(reversed(keys), reversed(values), strict=True))
            there[None] = None
            return [there.get(each) for each in held]
        together: dict[Any, list[Any]] = {}
        for at in self._in_order(to, step):
            together.setdefault(keys[at], []).append(values[at])
        together.pop(None, None)
        said = {each: told(step.gives, some) for each, some in together.items()}
        none = told(step.gives, ())
        return [said.get(each, none) for each in held]

    def column(self, records: Records, path: str, dtype: pl.DataType) -> pl.Series:
        """What a path leads to from each of many records."""
        import polars as pl

        if path in records.types:
            return records.frame[path]
        step = step_of(self.sources, records.source.id, path)
        if step is None and fields_in(path):
            return pl.Series(path, _labels_of(records, path), dtype=dtype)
        match = self._match(records, step)
        if step is None or match is None:
            return pl.Series(path, [None] * len(records), dtype=dtype)
        own, to, theirs = match
        keys = to.frame[theirs]
        values = self.column(to, step.rest, dtype) if step.rest else keys
        there = pl.DataFrame({"by": keys, "value": values})
        if isinstance(step, Followed):
            there, none = there.unique("by", keep="first", maintain_order=True), None
        else:
            if step.gives == "first" and self._sort(step):
                there = there[self._in_order(to, step)]
            groups = there.drop_nulls("by").group_by("by")
            if step.gives == "sum" and values.dtype.is_float():
                there = _sums(groups, values)
            else:
                there = groups.agg(_aggregate(step.gives))
            none = told(step.gives, ())
        held = pl.DataFrame({"by": records.frame[own]})
        made = held.join(there, on="by", how="left", maintain_order="left")["value"]
        return made if none is None else made.fill_null(none)

    def _sort(self, step: FromOthers) -> tuple[Sort, ...]:
        at = (step.to, step.field)
        return next((sort for *of, sort in self.orders if (*of,) == at), ())

    def _in_order(self, to: Records, step: FromOthers) -> Sequence[int]:
        """The rows of records that refer to others, the first of them first."""
        sort = self._sort(step) if step.gives == "first" else ()
        order: Sequence[int] = to.order(sort) if sort else range(len(to))
        return order

    def _match(
        self, records: Records, step: Followed | FromOthers | None
    ) -> tuple[str, Records, str] | None:
        """What a step compares: a field of the records, and of the records that it leads to; none
        where these are not there, or never alike."""
        to = None if step is None else self.others.get(step.to)
        if step is None or to is None:
            return None
        if isinstance(step, Followed):
            own, theirs = step.field, step.refers.by or to.source.key
        else:
            own, theirs = step.by or records.source.key, step.field
        if own not in records.types or theirs not in to.types:
            return None
        one, other = records.types[own], to.types[theirs]
        if is_list(one) or is_list(other) or held_like(one) != held_like(other):
            return None
        return own, to, theirs


def _labels_of(records: Records, label: str) -> list[str | None]:
    """What a label of several fields says of each record."""
    names = [each for each in dict.fromkeys(fields_in(label)) if each in records.types]
    columns = [records.values_of(each) for each in names]
    rows = zip(*columns, strict=True) if columns else ()
    return [called(label, dict(zip(names, row, strict=True))) or None for row in rows]


def _as(kind: FieldType, values: list[Any]) -> list[Any]:
    """Values of a type: a sum of no numbers is one."""
    return (
        [None if each is None else float(each) for each in values] if kind == "number" else values
    )
