"""Reading JSON and JSON Lines: an array of records, wherever in the document it stands."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from typing import Any, Final

import msgspec
import polars as pl

from cadena.model.problem import Problem
from cadena.model.source import Inside
from cadena.records.reading import MOST_FIELDS, NAMED, Fault, Progress, Reading, silent
from cadena.sources.json_tree import decoded, flat, found_at, lines_in, records_inside, text_of
from cadena.sources.number_texts import NUMBER

EXACT: Final = 8 * 1024 * 1024
FIRST: Final = 16
"""Records that are looked at for whether they hold others."""
LARGEST: Final = 2**63
Kinds: Final = {bool: "yes/no", int: "whole number", float: "number", str: "text"}


class _Held(list[Any]):
    """What stands for a list of records in a column: it is a source of its own, or left out."""


HELD: Final = _Held([{}])


def read_json(
    raw: bytes,
    name: str,
    at: str = "",
    progress: Progress = silent,
    inside: Inside | None = None,
    is_known: bool = False,
) -> Reading:
    """Read the array of records at a JSON Pointer (RFC 6901), or those inside of these records.

    Args:
        is_known: as ``found_at``.

    Raises:
        Problem: where it is not JSON, or there is no array of records.
    """
    if len(raw) <= EXACT or at or raw.lstrip()[:1] != b"[":
        return records_in(decoded(raw, name), name, at, progress, inside, is_known)
    # Of much, a record at a time is held as values.
    parts = decoded(raw, name, list[msgspec.Raw])
    is_flat = not any(b"[" in part or b"{" in bytes(part)[1:] for part in map(bytes, parts[:FIRST]))
    if inside is None and is_flat and (quick := _quickly(pl.read_json, raw)) is not None:
        return quick
    records = (msgspec.json.decode(each) for each in parts)
    found = records if inside is None else records_inside(records, inside)
    return columns_of(found, name, "record", progress, is_known, len(parts))


def records_in(
    tree: Any,
    name: str,
    at: str = "",
    progress: Progress = silent,
    inside: Inside | None = None,
    is_known: bool = False,
) -> Reading:
    """The records at a JSON Pointer of a document, or those inside of these."""
    found = found_at(tree, name, at, is_known)
    count = len(found)
    some = found if inside is None else records_inside(found, inside)
    return columns_of(some, name, "record", progress, is_known, count)


def read_json_lines(
    raw: bytes,
    name: str,
    progress: Progress = silent,
    inside: Inside | None = None,
    is_known: bool = False,
) -> Reading:
    """Read one record a line; a line that is none is left out and named.

    Args:
        is_known: as ``columns_of``.
    """
    if len(raw) > EXACT and inside is None:
        quick = _quickly(pl.read_ndjson, raw)
        if quick is not None:
            return quick
    records, faults = lines_in(raw, name, progress, is_known)
    found = records if inside is None else records_inside(records, inside)
    reading = columns_of(found, name, "line", progress, is_known)
    return replace(reading, faults=faults + reading.faults)


def _quickly(read: Any, raw: bytes) -> Reading | None:
    """Whole columns at once, where every field is flat and of one type; else none."""
    try:
        frame: pl.DataFrame = read(raw, infer_schema_length=None)
    except (pl.exceptions.PolarsError, ValueError, pl.exceptions.PanicException):
        return None
    if frame.height and frame.select(pl.all_horizontal(pl.all().is_null()).any()).item():
        # Perhaps what is no record.
        return None
    for column in frame.iter_columns():
        if isinstance(column.dtype, pl.Struct | pl.List | pl.Null):
            return None
        if column.dtype == pl.String:
            looks = column.drop_nulls().str.contains(f"^(?:{NUMBER}|true|false)$")
            # Perhaps numbers among texts: only a closer look tells.
            if looks.any() and not looks.all():
                return None
    return Reading(frame) if 0 < frame.width <= MOST_FIELDS else None


def columns_of(
    found: Iterable[Any],
    name: str,
    what: str,
    progress: Progress = silent,
    is_known: bool = False,
    of: int = 1,
) -> Reading:
    """Columns of records; fields of records inside are reached by path, as ``owner.name``.

    Args:
        what: what a record is called in messages: record, or line.
        of: how many there are, about, to tell how far it is.
        is_known: whether it is known that these are records: then there may be none left.

    Raises:
        Problem: when none of them is a record.
    """
    columns: dict[str, list[Any]] = {}
    wrong: list[int] = []
    count, beyond = 0, 0
    for number, each in enumerate(found):
        if not isinstance(each, dict) or not each:
            wrong.append(number)
            continue
        for key, value in flat(each, "", 0):
            column = columns.get(key)
            if column is None:
                if len(columns) >= MOST_FIELDS:
                    beyond += 1
                    continue
                column = columns[key] = []
            if len(column) < count:
                column.extend([None] * (count - len(column)))
            if len(column) == count:
                column.append(HELD if _are_records(value) else value)
        count += 1
        if number % 4096 == 0:
            progress(0.5 + 0.3 * min(1.0, number / max(1, of)))
    if wrong and not count and not is_known:
        raise Problem(name, f"$[{wrong[0]}]", "it is not a record", "an object with fields")
    faults: list[Fault] = []
    if wrong:
        places = tuple(f"{what} {each + 1}" for each in wrong[:NAMED])
        faults.append(Fault(len(wrong), "left out, not a record", places))
    if beyond:
        faults.append(Fault(beyond, f"values left out, of fields beyond the first {MOST_FIELDS:,}"))
    made: list[pl.Series] = []
    inner: list[str] = []
    for key, column in columns.items():
        column.extend([None] * (count - len(column)))
        if _holds_records(column):
            inner.append(key)
            continue
        series = _series(key, column, faults)
        if series is not None:
            made.append(series)
    progress(1.0)
    return Reading(pl.DataFrame(made), tuple(faults), inner=tuple(inner))


def _holds_records(column: list[Any]) -> bool:
    """Whether all that is filled are lists, and all in them are records."""
    return HELD in column and all(each is None or each == [] or each is HELD for each in column)


def _are_records(value: Any) -> bool:
    """Whether a value is a list of records."""
    return type(value) is list and bool(value) and all(type(each) is dict for each in value)


def _series(name: str, column: list[Any], faults: list[Fault]) -> pl.Series | None:
    """A column of the one type its values have; of several, as text, and that is counted."""
    kinds = {type(each) for each in column} - {type(None)}
    if kinds in ({str, int}, {str, float}, {str, int, float}):
        # A text without letters among numbers is nothing.
        bare = [None if each == "" else each for each in column]
        if str not in {type(each) for each in bare}:
            column, kinds = bare, kinds - {str}
    if kinds & {list, dict, _Held}:
        return _list_series(name, column, kinds, faults)
    if kinds == {int}:
        large = [at for at, each in enumerate(column) if each is not None and not _fits(each)]
        if not large:
            return pl.Series(name, column, dtype=pl.Int64)
        places = tuple(f"record {at + 1}" for at in large[:NAMED])
        said = f"numbers of {name} too large for 64 bits: the field is read as text"
        faults.append(Fault(len(large), said, places))
    elif kinds == {int, float}:
        return pl.Series(name, [None if each is None else float(each) for each in column])
    elif len(kinds) < 2:
        kind = next(iter(kinds), str)
        dtypes: dict[type, Any] = {bool: pl.Boolean, float: pl.Float64}
        dtype = dtypes.get(kind, pl.String)
        return pl.Series(name, column, dtype=dtype)
    else:
        counts = {kind: sum(type(each) is kind for each in column) for kind in kinds}
        rarest = min(counts, key=lambda kind: counts[kind])
        odd = [f"record {at + 1}" for at, each in enumerate(column) if type(each) is rarest]
        others = ", ".join(f"{counts[kind]} {Kinds[kind]}" for kind in Kinds if kind in counts)
        said = f"values of {name} of another type than the rest ({others}): it is read as text"
        faults.append(Fault(len(odd), said, tuple(odd[:NAMED])))
    texts = [None if each is None else text_of(each) for each in column]
    return pl.Series(name, texts, dtype=pl.String)


def _fits(value: int) -> bool:
    return -LARGEST <= value < LARGEST


def _list_series(
    name: str, column: list[Any], kinds: set[type], faults: list[Fault]
) -> pl.Series | None:
    """A column of lists of values; lists of records are a source of their own."""
    lists: list[list[Any]] = [each for each in column if isinstance(each, list)]
    inner = {type(each) for values in lists for each in values} - {type(None)}
    if kinds == {list} and not inner & {list, dict} and (len(inner) < 2 or inner == {int, float}):
        dtypes = {bool: pl.Boolean, int: pl.Int64, float: pl.Float64}
        dtype = (
            pl.Float64 if inner == {int, float} else dtypes.get(next(iter(inner), str), pl.String)
        )
        if inner != {int} or all(
            _fits(value) for values in lists for value in values if value is not None
        ):
            return pl.Series(name, column, dtype=pl.List(dtype), strict=False)
    count = sum(each is not None for each in column)
    faults.append(Fault(count, f"values of {name} left out: they hold other records or lists"))
    return None
