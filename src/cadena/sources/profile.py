"""What is in a field: how filled and how distinct it is, its longest and shortest values."""

from __future__ import annotations

import re
from typing import Any, NamedTuple

import numpy as np
import polars as pl

from cadena.model.values import FieldType, shown
from cadena.records.columns import dtype_of
from cadena.records.held import held
from cadena.records.records import Records
from cadena.sources.infer_types import converted

SHORT = 5_000
AT_ONCE = 400
"""Questions that are asked of columns at once."""
PICTURES = r"(?i)\.(?:png|jpe?g|gif|webp|bmp)$"


class Head(NamedTuple):
    """One field over all records: counts, never estimates.

    ``distinct`` counts the values that are filled. ``longest`` and ``shortest`` are the
    lengths in characters of what is filled; none but for text.
    """

    name: str
    type: FieldType
    records: int
    filled: int
    distinct: int
    longest: int | None = None
    shortest: int | None = None

    @property
    def share_filled(self) -> float:
        return self.filled / self.records if self.records else 0.0

    @property
    def share_distinct(self) -> float:
        """How many different values there are among those filled."""
        return self.distinct / self.filled if self.filled else 0.0

    @property
    def could_be_key(self) -> bool:
        """Filled in every record, and different in each."""
        return self.records > 0 and self.filled == self.records == self.distinct


def heads_in_short(records: Records) -> tuple[Head, ...]:
    """The heads as the first records have them: enough to propose a row, not to be told."""
    if len(records) <= SHORT:
        return heads(records)
    return heads(held(records.source, records.frame.head(SHORT), records.types))


def heads(records: Records) -> tuple[Head, ...]:
    """The heads of all fields, found over whole columns at once."""
    frame = records.frame
    asked: list[pl.Expr] = []
    for number, (name, dtype) in enumerate(frame.schema.items()):
        column = pl.col(name)
        if dtype == pl.String:
            column = pl.when(column != "").then(column)
            lengths = column.str.len_chars()
            asked += [lengths.max().alias(f"{number} long"), lengths.min().alias(f"{number} short")]
        asked.append(column.count().alias(f"{number} filled"))
        different = column.drop_nulls()
        if isinstance(dtype, pl.List):
            different = column.hash().filter(column.is_not_null())
        asked.append(different.n_unique().alias(f"{number} distinct"))
    found: dict[str, Any] = {}
    # Of thousands of columns at once the plan would take longer than the work.
    for at in range(0, len(asked), AT_ONCE):
        some = frame.lazy().select(asked[at : at + AT_ONCE])
        found |= some.collect().row(0, named=True)
    return tuple(
        Head(
            name,
            records.types[name],
            frame.height,
            found[f"{number} filled"],
            found[f"{number} distinct"],
            found.get(f"{number} long"),
            found.get(f"{number} short"),
        )
        for number, name in enumerate(frame.columns)
    )


class Extreme(NamedTuple):
    """A value worth seeing, and the key of its record."""

    said: str
    length: int
    key: Any


def extremes(records: Records, name: str) -> tuple[Extreme, Extreme] | None:
    """The longest and the shortest filled value of a field, as it is written; none if empty."""
    column = records.frame[name]
    if isinstance(column.dtype, pl.List):
        return None
    lengths = column.cast(pl.String).str.len_chars()
    lengths = lengths.set(column.is_null() | (lengths == 0), None)
    if lengths.null_count() == len(lengths):
        return None
    made = []
    for row in (lengths.arg_max(), lengths.arg_min()):
        at = int(row or 0)
        made.append(Extreme(shown(records.record(at)[name]), int(lengths[at]), records.key_at(at)))
    return made[0], made[1]


def worst_rows(records: Records, names: tuple[str, ...]) -> tuple[int, int, int]:
    """The rows of the typical, the longest and the emptiest record, as these fields make them.

    The typical one is of middling length among those that lack the least.
    """
    have = [name for name in names if name in records.frame.columns]
    if not len(records) or not have:
        return 0, 0, 0
    texts = records.frame.select(
        pl.col(name).cast(pl.String).str.len_chars().fill_null(0).alias(name)
        for name in have
        if not isinstance(records.frame[name].dtype, pl.List)
    )
    lengths = texts.to_numpy().astype(np.int64)
    total, lacking = lengths.sum(axis=1), (lengths == 0).sum(axis=1)
    fullest = np.flatnonzero(lacking == lacking.min())
    middling = fullest[np.argsort(total[fullest], kind="stable")[len(fullest) // 2]]
    emptiest = np.lexsort((total, -lacking))[0]
    return int(middling), int(total.argmax()), int(emptiest)


class Loss(NamedTuple):
    """What reading a field as another type would leave empty."""

    values: int
    examples: tuple[str, ...]


def loss_of(records: Records, name: str, kind: FieldType) -> Loss:
    """How many values of a field would not convert to a type, and the first few of them."""
    column = records.frame[name]
    _, lost = converted(column, dtype_of(kind))
    at = lost.arg_true()
    return Loss(len(at), tuple(str(column[int(each)])[:40] for each in at[:3]))


def looks_like_pictures(records: Records, name: str) -> bool:
    """Whether all that is filled in a text field names pictures."""
    column = records.frame[name]
    if column.dtype != pl.String:
        return False
    first = column.head(64)
    first = first.filter(first != "")
    if len(first) and not re.search(PICTURES, first[0]):
        return False
    filled = column.filter(column != "")
    return bool(len(filled)) and bool(filled.str.contains(PICTURES).all())
