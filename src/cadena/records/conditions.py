"""When a value passes a test: one table of truth, for a value and for whole columns (7.1)."""

from __future__ import annotations

import datetime
import operator
from collections.abc import Callable
from typing import Any, Final

import polars as pl

from cadena.model.values import LIST, as_time, is_date
from cadena.records.records import time_of
from cadena.records.template import is_empty

KINDS: Final[dict[str, tuple[type, ...]]] = {
    "text": (str,),
    "picture": (str,),
    "whole number": (int, float),
    "number": (int, float),
    "yes/no": (bool,),
}
ORDERED: Final[dict[str, Callable[[Any, Any], Any]]] = {
    "is": operator.eq,
    "under": operator.lt,
    "over": operator.gt,
    "at least": operator.ge,
    "at most": operator.le,
}
"""Tests that nothing empty passes; the operators are those of a value and of a column alike."""
LARGEST: Final = 2**63


def comparable(value: Any, kind: str) -> bool:
    """Whether a value can be compared with those of a field of this type."""
    if kind == "date":
        return isinstance(value, str) and is_date(value)
    if kind == "date and time":
        return isinstance(value, str) and bool(as_time(value))
    if not isinstance(value, KINDS.get(kind, ())):
        return False
    if isinstance(value, int) and abs(value) >= LARGEST:
        return False
    return kind == "yes/no" or not isinstance(value, bool)


def wanted_of(test: str, wanted: Any, kind: str) -> Any:
    """What a field of a type is really compared with; none where nothing could pass or fail.

    Returns:
        For ``is one of`` those of the values that can be compared, for ``contains`` the text or
        the value looked for, else the value, or none where it cannot be compared.
    """
    if test == "is one of":
        some = wanted if isinstance(wanted, tuple | list) else ()
        return tuple(each for each in some if comparable(each, kind))
    if test == "contains":
        if kind.startswith(LIST):
            return wanted if comparable(wanted, kind[len(LIST) :]) else None
        return str(wanted).lower() if isinstance(wanted, str | int | float) else None
    return wanted if comparable(wanted, kind) else None


def passes(have: Any, test: str, wanted: Any, kind: str) -> bool:
    """Whether one value passes a test.

    Args:
        have: the value of a record's field.
        wanted: what it is compared with.
        kind: the type of the field.
    """
    if test in ("is empty", "is filled"):
        return is_empty(have) == (test == "is empty")
    if wanted is None:
        return False
    wanted = wanted_of(test, wanted, kind)
    if wanted is None:
        return test == "is not"
    if test == "is not":
        return bool(have != wanted)
    if have is None:
        return False
    if test == "is one of":
        return have in wanted
    if test == "contains":
        return wanted in (have if kind.startswith(LIST) else as_text(have))
    return bool(ORDERED[test](have, wanted))


def as_text(value: Any) -> str:
    """A value as a column writes it, in lower case."""
    if isinstance(value, float):
        return str(pl.Series([value]).cast(pl.String)[0]).lower()
    return str(value).lower()


def column_passes(name: str, test: str, wanted: Any, kind: str) -> pl.Expr | bool:
    """Whether each value of a column passes a test: as ``passes``, for all of them at once.

    Returns:
        An expression, whose nulls do not pass; or one answer for all.
    """
    column = pl.col(name)
    if test in ("is empty", "is filled"):
        is_text = kind in ("text", "picture")
        empty = column.is_null() | (column == "") if is_text else column.is_null()
        return empty if test == "is empty" else ~empty
    if wanted is None:
        return False
    wanted = wanted_of(test, wanted, kind)
    if wanted is None or wanted == ():
        return test == "is not"
    if test == "contains":
        if kind.startswith(LIST):
            return column.list.contains(_stored(wanted, kind[len(LIST) :]))
        return column.cast(pl.String).str.to_lowercase().str.contains(wanted, literal=True)
    if test == "is one of":
        held = pl.Series([_stored(each, kind) for each in wanted], strict=False)
        return column.is_in(held.implode())
    held = _stored(wanted, kind)
    return column.ne_missing(held) if test == "is not" else ORDERED[test](column, held)


def _stored(value: Any, kind: str) -> Any:
    if kind == "date and time":
        return time_of(value)
    return datetime.date.fromisoformat(value) if kind == "date" else value
