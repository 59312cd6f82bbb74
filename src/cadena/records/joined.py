"""Records with what their references lead to, as columns named by the path (rules.md, 13)."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Mapping, Sequence
from typing import Final

import polars as pl

from cadena.model.references import MOST_STEPS, field_at, followed
from cadena.model.source import Source
from cadena.model.values import FieldType
from cadena.records.records import Records, dtype_of

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
        columns: dict[str, pl.Series] = {}
        kinds: dict[str, FieldType] = {}
        for path in paths:
            end = field_at(sources, types, source, path)
            if end is not None:
                kinds[path] = types[end[0]][end[1]]
                columns[path] = _column(records, path, sources, others, dtype_of(kinds[path]))
        frame = records.frame.with_columns(each.alias(path) for path, each in columns.items())
        made = Records(
            records.source, frame, {**records.types, **kinds}, records.faults, records.reading
        )
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


def _column(
    records: Records,
    path: str,
    sources: Mapping[str, Source],
    others: Mapping[str, Records],
    dtype: pl.DataType,
) -> pl.Series:
    """What a path leads to from each record."""
    if path in records.types:
        return records.frame[path]
    nothing = pl.Series(path, [None] * len(records), dtype=dtype)
    step = followed(sources, records.source.id, path)
    to = None if step is None else others.get(step.refers.to)
    if step is None or to is None or step.field not in records.types:
        return nothing
    by = step.refers.by or to.source.key
    held = records.frame[step.field]
    if by not in to.types or to.frame[by].dtype != held.dtype or isinstance(held.dtype, pl.List):
        return nothing
    there = pl.DataFrame(
        {"by": to.frame[by], "value": _column(to, step.rest, sources, others, dtype)}
    ).unique("by", keep="first", maintain_order=True)
    found = pl.DataFrame({"by": held}).join(there, on="by", how="left", maintain_order="left")
    return found["value"]
