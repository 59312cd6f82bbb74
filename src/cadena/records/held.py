"""Typed columns as records: few of them as lists, many as they are."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Final

import polars as pl

from cadena.model.source import Source
from cadena.model.values import FieldType
from cadena.records.columns import plain_values
from cadena.records.few_records import FewRecords
from cadena.records.many_records import ManyRecords
from cadena.records.reading import Fault, Reading
from cadena.records.records import FEW, Records

FEW_VALUES: Final = 100_000


def held(
    source: Source,
    frame: pl.DataFrame,
    types: Mapping[str, FieldType],
    faults: tuple[Fault, ...] = (),
    reading: Reading | Callable[[], Reading] | None = None,
) -> Records:
    """Columns of the types that ``types`` names, as the records of a source."""
    is_few = frame.height <= FEW and frame.height * frame.width <= FEW_VALUES
    if not is_few or any(_has_no_order(each) for each in frame.iter_columns()):
        return ManyRecords(source, frame, types, faults, reading)
    columns = {each.name: plain_values(each) for each in frame.iter_columns()}
    return FewRecords(source, types, columns, faults, reading)


def _has_no_order(column: pl.Series) -> bool:
    """Whether a column holds what is no number: only columns have a place for it."""
    return column.dtype == pl.Float64 and bool(column.is_nan().any())
