"""The likely key of records: what is filled, different in each, and means it."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from itertools import combinations
from typing import Final, NamedTuple

import polars as pl

from cadena.model.naming import singular, words_of
from cadena.records.columns import all_different
from cadena.records.records import Records
from cadena.sources.likely_labels import PART

FEW: Final = 1000
NAMES: Final = ("id", "key", "uuid", "guid", "code", "slug", "iso", "ref", "no", "nr", "number")
"""Words in the name of a field that say it is a key, best first."""
TIMES: Final = frozenset({"year", "month", "day", "date", "week", "quarter", "time"})
DATES: Final = ("date", "date and time")
KINDS: Final = ("text", "whole number", *DATES)
"""Types that a key can have."""
LONGEST: Final = 100
"""Letters of a text that could be a key."""
MOST_TRIED: Final = 8
MEASURES: Final = re.compile(
    r"(amount|price|cost|sum|total|count|qty|quantity|size|length|width|height|weight|area|age|"
    r"lat|lon|lng|latitude|longitude|altitude|elevation|score|rate|ratio|percent|share|pct|"
    r"population|duration|depth|magnitude|value|temp|speed|mile|gallon|lb|kg|km|dp|meter|metre|"
    r"minute|hour|second|level|pressure)s?$"
)
"""What a name ends with that is measured, and not numbered."""


class LikelyKey(NamedTuple):
    """What tells records apart: one field, several together, or the number of the row."""

    fields: tuple[str, ...]
    why: str


def likely_key(records: Records, declared: Sequence[str] = ()) -> LikelyKey:
    """The likeliest key of records.

    Args:
        declared: the fields that their own database says are the key.
    """
    is_there = declared and all(each in records.types for each in declared)
    if is_there and _tells_apart(records, declared):
        return LikelyKey(tuple(declared), "the database says so")
    return next(likely_keys(records), LikelyKey((), "no field tells the records apart"))


def likely_keys(records: Records) -> Iterator[LikelyKey]:
    """What could be the key, likeliest first: single fields, then the smallest sets."""
    found = False
    ranks = ((_rank(records, name), at, name) for at, name in enumerate(records.types))
    for rank, _, name in sorted(ranks):
        if rank and _tells_apart(records, (name,)):
            found = True
            yield LikelyKey((name,), f"filled, different in each record, and {_means(rank)}")
    if not found:
        yield from _sets(records)


def _means(rank: int) -> str:
    if rank < WEAK - 1:
        return "named as a key"
    return {WEAK - 1: "counted up", WEAK: "a short text", WEAK + 1: "counted up"}.get(
        rank, "a time"
    )


WEAK: Final = 20


def _rank(records: Records, name: str) -> int:
    """How much a field means to be a key; less is more, and 0 is not at all."""
    kind, words = records.types[name], words_of(name)
    if kind not in KINDS or not words:
        return 0
    own = {records.source.id.lower(), singular(records.source.id.lower())}
    before = set(words[:-1])
    if words[-1] in NAMES and before <= {*own, "record", "row", "object"}:
        return 1 + NAMES.index(words[-1])
    is_part = bool(PART & set(words[:-1]))
    if is_part or (kind != "text" and MEASURES.search(words[-1])):
        return 0
    if kind in DATES or words[-1] in TIMES:
        return WEAK + 2
    if words[-1] in NAMES or name.lower().endswith("id"):
        return 12 if name == next(iter(records.types)) else 14
    if kind == "text":
        return WEAK
    if not _counts_up(records, name):
        return 0
    # What numbers the rows stands before all else.
    return WEAK - 1 if name == next(iter(records.types)) else WEAK + 1


def _counts_up(records: Records, name: str) -> bool:
    """Whether whole numbers are just those of the rows, one after another."""
    column = records.frame[name]
    if not len(column) or column.null_count() or column[0] not in (0, 1):
        return False
    return bool((column.diff().drop_nulls() == 1).all())


def _tells_apart(records: Records, names: Sequence[str]) -> bool:
    """Whether fields are filled in every record, and together different in each."""
    columns = [records.frame[each] for each in names]
    if not len(records) or any(isinstance(each.dtype, pl.List) for each in columns):
        return False
    for size in (FEW, len(records)):
        pieces = [each.head(size) for each in columns]
        if any(_has_gap(each) for each in pieces):
            return False
        if len(pieces) == 1 and not all_different(pieces[0]):
            return False
        if len(pieces) > 1 and pl.DataFrame(pieces).n_unique() < min(size, len(records)):
            return False
    return True


def _has_gap(column: pl.Series) -> bool:
    if column.null_count():
        return True
    if column.dtype != pl.String:
        return False
    lengths = column.str.len_chars()
    return bool((lengths == 0).any()) or int(lengths.max() or 0) > LONGEST  # type: ignore[arg-type]


def _sets(records: Records) -> Iterator[LikelyKey]:
    """The smallest sets of fields that tell records apart, keys of other things first."""
    ranked = sorted(
        ((_part(records, name), at, name) for at, name in enumerate(records.types)),
    )
    tried = [name for rank, _, name in ranked if rank][:MOST_TRIED]
    for size in (2, 3):
        for names in combinations(tried, size):
            if _tells_apart(records, names):
                in_order = tuple(each for each in records.types if each in names)
                yield LikelyKey(in_order, "together filled, and different in each record")
                return


def _part(records: Records, name: str) -> int:
    """How well a field would be a part of a key; less is better, and 0 is not at all."""
    kind, words = records.types[name], words_of(name)
    if kind not in KINDS or not words:
        return 0
    if words[-1] in NAMES or name.lower().endswith("id"):
        return 1
    if kind != "text" and MEASURES.search(words[-1]):
        return 0
    if kind in DATES or words[-1] in TIMES:
        return 2
    return 3 if kind == "text" else 4
