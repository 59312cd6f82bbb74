"""Typed values, and when one may be carried over as another (rules.md, 2.1).

A value is text, a whole number, a number, yes/no, a date (held as ISO 8601
text), a date and time (held as RFC 3339 text in UTC), or a tuple of values of one of
these types. ``None`` is the absent value; ``0``, ``""`` and ``False`` are values like any other.
"""

from __future__ import annotations

import datetime
import math
import re
from typing import Any, Final, Literal

from cadena.model.problem import brief

Scalar = str | int | float | bool
Value = Scalar | tuple[Scalar, ...]

ValueType = Literal[
    "text",
    "whole number",
    "number",
    "yes/no",
    "date",
    "date and time",
    "list of text",
    "list of whole number",
    "list of number",
    "list of yes/no",
    "list of date",
    "list of date and time",
]
FieldType = ValueType | Literal["picture"]

LIST: Final = "list of "
WHOLE_LIMIT: Final = 2**63
DATE: Final = re.compile(r"[0-9]{4}-[0-9]{2}-[0-9]{2}")
TIME: Final = re.compile(
    r"[0-9]{4}-[0-9]{2}-[0-9]{2}[Tt ][0-9]{2}:[0-9]{2}(:[0-9]{2}([.,][0-9]{1,6})?)?"
    r"(Z|z|[+-][0-9]{2}:[0-9]{2})?"
)
"""A date and time as RFC 3339 has it; seconds and offset may be left out."""
BRIEF: Final = 40
"""Letters of a value in a message."""


class Unfit(ValueError):
    """A value that does not fit a type: what came, and what was wanted."""

    def __init__(self, came: Any, wanted: str):
        super().__init__(f"{words(came)} came, {wanted} was wanted")
        self.came, self.wanted = came, wanted


def type_of(value: Value) -> str:
    """Name the type that a value has by itself.

    Returns:
        A value type; a date counts as text until something declares it a date.
    """
    if isinstance(value, bool):
        return "yes/no"
    if isinstance(value, int):
        return "whole number"
    if isinstance(value, float):
        return "number"
    if isinstance(value, str):
        return "text"
    return LIST + (type_of(value[0]) if value else "text")


def carry(value: Any, to: str, convert: bool = False) -> Value:
    """Carry a value over to a type, only where nothing is lost.

    Args:
        value: the value that came.
        to: the type wanted.
        convert: whether text may be read as another type, and anything written as text.

    Raises:
        Unfit: where the value cannot be carried without loss.
    """
    if to.startswith(LIST):
        if not isinstance(value, tuple | list):
            raise Unfit(value, to)
        return tuple(_carry_scalar(each, to[len(LIST) :], convert) for each in value)
    return _carry_scalar(value, to, convert)


def _carry_scalar(value: Any, to: str, convert: bool) -> Scalar:
    kind = type(value)
    if to in ("text", "picture"):
        if kind is str:
            return str(value)
        if convert and kind in (int, float, bool):
            return shown(value)
    elif to == "whole number":
        number = _read_number(value) if convert and kind is str else value
        if type(number) is float and math.isfinite(number) and number.is_integer():
            number = int(number)
        if type(number) is int and -WHOLE_LIMIT <= number < WHOLE_LIMIT:
            return number
    elif to == "number":
        number = _read_number(value) if convert and kind is str else value
        if type(number) is float and math.isfinite(number):
            return number
        if type(number) is int and abs(number) <= 2**53:
            return float(number)
    elif to == "yes/no":
        if kind is bool:
            return bool(value)
        if convert and value in ("yes", "no", "true", "false"):
            return value in ("yes", "true")
    elif to == "date" and kind is str and is_date(value):
        return str(value)
    elif to == "date and time" and kind is str and (time := as_time(value)):
        return time
    raise Unfit(value, to)


def _read_number(text: str) -> int | float | str:
    for read in (int, float):
        try:
            return read(text)
        except ValueError:
            continue
    return text


def is_date(text: str) -> bool:
    """Whether a text is a calendar date of ISO 8601, written YYYY-MM-DD."""
    if not DATE.fullmatch(text):
        return False
    try:
        datetime.date.fromisoformat(text)
    except ValueError:
        return False
    return True


def same_value(one: Value | None, other: Value | None) -> bool:
    """Whether two values are the same: ``1`` and ``1.0`` are, ``1`` and yes are not."""
    if isinstance(one, tuple) and isinstance(other, tuple):
        return len(one) == len(other) and all(map(same_value, one, other))
    return one == other and isinstance(one, bool) == isinstance(other, bool)


def as_time(text: str) -> str:
    """A date and time of RFC 3339 in UTC, as it is held; nothing where a text is none.

    One without an offset is taken as UTC.
    """
    if not TIME.fullmatch(text):
        return ""
    try:
        time = datetime.datetime.fromisoformat(text)
        held = time if time.tzinfo is None else time.astimezone(datetime.UTC)
    except (ValueError, OverflowError):
        return ""
    return held.replace(tzinfo=None).isoformat() + "Z"


def fits(have: str, want: str) -> bool:
    """Whether every value of one type can be carried over as another without loss.

    A number may still fit a whole number, one value at a time: that is let through
    here and decided when the value comes.
    """
    if have == "picture":
        have = "text"
    if have == want:
        return True
    list_of = have.startswith(LIST) and want.startswith(LIST)
    if list_of:
        return fits(have[len(LIST) :], want[len(LIST) :])
    return {have, want} == {"whole number", "number"} or (
        have in ("date", "date and time") and want == "text"
    )


def shown(value: Any) -> str:
    """A value as a person reads it; the absent value is an en dash."""
    if value is None:
        return "–"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float) and value.is_integer() and abs(value) < 1e15:
        return str(int(value))
    if isinstance(value, tuple | list):
        return ", ".join(shown(each) for each in value)
    return str(value)


def in_brief(value: Any) -> str:
    """A value as ``shown``, cut where it is too long for a message."""
    return brief(shown(value), BRIEF)


def words(value: Any) -> str:
    """A value with its type, for messages: ``text "3"``, ``whole number 3``."""
    if value is None:
        return "nothing"
    if isinstance(value, str):
        return f'text "{brief(value, BRIEF)}"'
    if isinstance(value, tuple | list):
        return f"a list of {len(value)}"
    if isinstance(value, dict):
        return "a whole record"
    return f"{type_of(value)} {shown(value)}"
