"""Records with what their references lead to, as columns named by the path (rules.md, 13)."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import TYPE_CHECKING, Any, Final

from cadena.model.references import MOST_STEPS, field_at, followed
from cadena.model.source import Source
from cadena.model.values import FieldType
from cadena.records.few_records import FewRecords
from cadena.records.records import Records, held_like, is_list

if TYPE_CHECKING:
    import polars as pl

Found = Callable[[str], Records | None]
"""The records of a source as they now are."""
KEPT: Final = 256
"""Joined records that are remembered: they share the columns of those they are made of."""
_known: Final[OrderedDict[tuple[object, ...], Records]] = OrderedDict()


def joined(
    records: Records, paths: Sequence[str], sources: Mapping[str, Source], found: Found
) -> Records:
    """The records with a column for each path; a record that is not there leaves it empty.

    Args:
        found: gives the records that references lead to.
    """
    source = records.source.id
    reached = _reached(source, paths, sources)
    others = {name: each for name in reached if (each := found(name)) is not None}
    serials = tuple(sorted((name, each.serial) for name, each in others.items()))
    key = (records.serial, tuple(paths), serials)
    if key not in _known:
        types = {name: each.types for name, each in others.items()}
        types[source] = records.types
        kinds: dict[str, FieldType] = {}
        for path in paths:
            if (end := field_at(sources, types, source, path)) is not None:
                kinds[path] = types[end[0]][end[1]]
        if isinstance(records, FewRecords) and _are_few(others.values()):
            values = {path: _values(records, path, sources, others) for path in kinds}
            made: Records = records.with_columns(values, kinds)
        else:
            made = _with_columns(records, kinds, sources, others)
        _known[key] = made
        if len(_known) > KEPT:
            _known.popitem(last=False)
    return _known[key]


def _reached(source: str, paths: Sequence[str], sources: Mapping[str, Source]) -> set[str]:
    """The sources that paths lead over."""
    found: set[str] = set()
    for path in paths:
        at = source
        for _ in range(MOST_STEPS):
            step = followed(sources, at, path)
            if step is None:
                break
            at, path = step.refers.to, step.rest
            found.add(at)
    return found


def _are_few(all_records: Iterable[Records]) -> bool:
    return all(isinstance(each, FewRecords) for each in all_records)


def _values(
    records: Records, path: str, sources: Mapping[str, Source], others: Mapping[str, Records]
) -> list[Any]:
    """What a path leads to from each record."""
    if path in records.types:
        return records.values_of(path)
    step = _step(records, path, sources, others)
    if step is None:
        return [None] * len(records)
    field, to, by, rest = step
    keys, values = to.values_of(by), _values(to, rest, sources, others)
    there = dict(zip(reversed(keys), reversed(values), strict=True))
    there[None] = None
    return [there.get(each) for each in records.values_of(field)]


def _with_columns(
    records: Records,
    kinds: Mapping[str, FieldType],
    sources: Mapping[str, Source],
    others: Mapping[str, Records],
) -> Records:
    """The records with each of these paths as a column."""
    from cadena.records.columns import dtype_of
    from cadena.records.many_records import ManyRecords

    columns = (
        _column(records, path, sources, others, dtype_of(kind)).alias(path)
        for path, kind in kinds.items()
    )
    frame, types = records.frame.with_columns(columns), {**records.types, **kinds}
    return ManyRecords(records.source, frame, types, records.faults, records.reading)


def _column(
    records: Records,
    path: str,
    sources: Mapping[str, Source],
    others: Mapping[str, Records],
    dtype: pl.DataType,
) -> pl.Series:
    """What a path leads to from each record."""
    import polars as pl

    if path in records.types:
        return records.frame[path]
    step = _step(records, path, sources, others)
    if step is None:
        return pl.Series(path, [None] * len(records), dtype=dtype)
    field, to, by, rest = step
    there = pl.DataFrame(
        {"by": to.frame[by], "value": _column(to, rest, sources, others, dtype)}
    ).unique("by", keep="first", maintain_order=True)
    held = pl.DataFrame({"by": records.frame[field]})
    return held.join(there, on="by", how="left", maintain_order="left")["value"]


def _step(
    records: Records, path: str, sources: Mapping[str, Source], others: Mapping[str, Records]
) -> tuple[str, Records, str, str] | None:
    """The reference that a path begins with: the field that holds it, the records that it leads
    to, the field that these are found by, and the rest of the path."""
    step = followed(sources, records.source.id, path)
    to = None if step is None else others.get(step.refers.to)
    if step is None or to is None or step.field not in records.types:
        return None
    by, kind = step.refers.by or to.source.key, records.types[step.field]
    if by not in to.types or is_list(kind) or held_like(to.types[by]) != held_like(kind):
        return None
    return step.field, to, by, step.rest
