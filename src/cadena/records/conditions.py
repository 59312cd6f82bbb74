"""When a value passes a test (7.1); ``column_tests.py`` asks it of whole columns."""

from __future__ import annotations

import operator
from collections.abc import Callable
from typing import Any, Final

from cadena.model.values import LIST, as_time, is_date
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


def compared_as(test: str, kind: str) -> str:
    """The type of what a field of a type is compared with."""
    if test == "is one of":
        return kind if kind.startswith(LIST) else LIST + kind
    return kind[len(LIST) :] if test == "contains" and kind.startswith(LIST) else kind


def wanted_of(test: str, wanted: Any, kind: str) -> Any:
    """What a field of a type is really compared with; none where nothing could pass or fail.

    Returns:
        For ``is one of`` those of the values that can be compared, for ``contains`` the text or
        the value looked for, else the value, or none where it cannot be compared.
    """
    if test == "is one of":
        some = wanted if isinstance(wanted, tuple | list) else ()
        return tuple(_as_compared(each, kind) for each in some if comparable(each, kind))
    if test == "contains":
        if kind.startswith(LIST):
            of = kind[len(LIST) :]
            return _as_compared(wanted, of) if comparable(wanted, of) else None
        return str(wanted).lower() if isinstance(wanted, str | int | float) else None
    return _as_compared(wanted, kind) if comparable(wanted, kind) else None


def _as_compared(value: Any, kind: str) -> Any:
    return as_time(value) if kind == "date and time" else value


def passes(have: Any, test: str, wanted: Any, kind: str) -> bool:
    """Whether one value passes a test.

    Args:
        have: the value of a record's field.
        wanted: what it is compared with.
        kind: the type of the field.
    """
    made = passing(test, wanted, kind)
    return made if isinstance(made, bool) else made(have)


def passing(test: str, wanted: Any, kind: str) -> Callable[[Any], bool] | bool:
    """A test as a function of a value, or its one answer for all of them; as ``passes``."""
    if test == "is empty":
        return is_empty
    if test == "is filled":
        return lambda have: not is_empty(have)
    if wanted is None:
        return False
    wanted = wanted_of(test, wanted, kind)
    if wanted is None or wanted == ():
        return test == "is not"
    if test == "is not":
        return lambda have: bool(have != wanted)
    if test == "is one of":
        return lambda have: have in wanted
    if test == "contains":
        if kind.startswith(LIST):
            return lambda have: have is not None and wanted in have
        return lambda have: have is not None and wanted in as_text(have, kind)
    compare = ORDERED[test]
    if kind == "date and time":
        # Without the Z, texts of times stand in the order of the times.
        return lambda have: have is not None and compare(have[:-1], wanted[:-1])
    return lambda have: have is not None and compare(have, wanted)


def as_text(value: Any, kind: str) -> str:
    """A value as a column of its type writes it, in lower case."""
    if value is None:
        return ""
    if kind.startswith(LIST):
        return " ".join(as_text(each, kind[len(LIST) :]) for each in value if each is not None)
    if kind == "date and time":
        time, _, part = value[:-1].replace("T", " ").partition(".")
        return f"{time}.{part:0<6}"
    if isinstance(value, float):
        return _number_as_text(value)
    return str(value).lower()


def _number_as_text(value: float) -> str:
    """A number with a fraction as a column writes it: very large and very small ones have an
    exponent of their own there."""
    if 1e-4 <= abs(value) < 1e15 or not value:
        return repr(value)
    import polars as pl

    return str(pl.Series([value]).cast(pl.String)[0]).lower()
