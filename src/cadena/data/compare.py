"""When a value passes a test: the same for one record as for whole columns."""

from __future__ import annotations

import datetime
from typing import Any, Final

from cadena.data.template import is_empty
from cadena.model.values import LIST

KINDS: Final[dict[str, tuple[type, ...]]] = {
    "text": (str,),
    "picture": (str,),
    "whole number": (int, float),
    "number": (int, float),
    "yes/no": (bool,),
}


def comparable(value: Any, kind: str) -> bool:
    """Whether a value can be compared with those of a field of this type."""
    if kind == "date":
        try:
            datetime.date.fromisoformat(value)
        except (TypeError, ValueError):
            return False
        return True
    return isinstance(value, KINDS.get(kind, ())) and (kind == "yes/no" or type(value) is not bool)


def passes(have: Any, test: str, wanted: Any, kind: str) -> bool:
    """Whether one value passes a test.

    Args:
        have: the value of a record's field.
        wanted: what it is compared with.
        kind: the type of the field.
    """
    if test == "is empty":
        return is_empty(have)
    if test == "is filled":
        return not is_empty(have)
    if wanted is None:
        return False
    if test == "is one of":
        return isinstance(wanted, tuple | list) and have is not None and have in wanted
    if test == "contains":
        if kind.startswith(LIST):
            return wanted in (have or ())
        return have is not None and str(wanted).lower() in str(have).lower()
    if not comparable(wanted, kind):
        return test == "is not"
    if test == "is not":
        return bool(have != wanted)
    if have is None:
        return False
    return bool(
        {
            "is": lambda: have == wanted,
            "under": lambda: have < wanted,
            "over": lambda: have > wanted,
            "at least": lambda: have >= wanted,
            "at most": lambda: have <= wanted,
        }[test]()
    )
