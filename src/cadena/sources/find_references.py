"""Finding references: fields whose values are the keys of another source."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final, NamedTuple

import polars as pl

from cadena.model.naming import singular
from cadena.records.records import Records

MOST_MISSING: Final = 0.1
FEW: Final = 50


class Reference(NamedTuple):
    """``field`` of ``source`` holds keys of ``to``; so many filled values lead nowhere."""

    source: str
    field: str
    to: str
    dangling: int


def references(all_records: Mapping[str, Records]) -> tuple[Reference, ...]:
    """The references between sources, found in their values.

    Numbers are keys of many things: of a field of numbers its name must say what it refers
    to. Texts say it by being keys, all of them; where the name says it too, a few may dangle.
    """
    found = []
    for name, records in all_records.items():
        for field in records.frame.columns:
            if field == records.source.key:
                continue
            reference = _refers(all_records, name, field)
            if reference is not None:
                found.append(reference)
    return tuple(found)


def _refers(all_records: Mapping[str, Records], name: str, field: str) -> Reference | None:
    column = all_records[name].frame[field]
    filled = column.drop_nulls()
    if column.dtype == pl.String:
        filled = filled.filter(filled != "")
    if column.dtype not in (pl.String, pl.Int64) or not len(filled):
        return None
    best: Reference | None = None
    for to, records in all_records.items():
        if records.keys.dtype != column.dtype or not len(records):
            continue
        is_named = _names(field, to)
        if column.dtype == pl.Int64 and not is_named:
            continue
        if to == name and not is_named and not _names(field, "parent"):
            continue
        few = filled.head(FEW)
        if not is_named and not few.is_in(records.keys.implode()).all():
            continue
        if len(records.twice):
            continue
        dangling = int((~filled.is_in(records.keys.implode())).sum())
        allowed = len(filled) * MOST_MISSING if is_named else 0
        if dangling <= allowed and (best is None or is_named):
            best = Reference(name, field, to, dangling)
    return best


def _names(field: str, source: str) -> bool:
    """Whether the name of a field says that it refers to a source: hut, hut_id, from_hut."""
    words = field.replace(".", "_").replace("-", "_").lower().split("_")
    whole = "".join(words)
    wanted = {source.lower(), singular(source.lower())}
    return bool(wanted & set(words)) or any(whole == f"{each}id" for each in wanted)
