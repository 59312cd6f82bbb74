"""Values that are not written plainly: dates in common forms, grouped numbers, per cent, money."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from functools import cache
from typing import Any, Final, NamedTuple

import polars as pl

from cadena.model.values import FieldType
from cadena.records.columns import dtype_of, in_years

LOOKED_AT: Final = 64
"""Values that must be written in a form, before all of them are tried."""
PLAIN_TIME: Final = "%Y-%m-%dT%H:%M:%S%z"
"""RFC 3339, which is how times are written where no other form is said."""
DAYS: Final = (
    "%d.%m.%Y",
    "%m/%d/%Y",
    "%d/%m/%Y",
    "%Y/%m/%d",
    "%Y.%m.%d",
    "%d-%m-%Y",
    "%m-%d-%Y",
    "%d %b %Y",
    "%d. %b %Y",
    "%b %d %Y",
    "%b %d, %Y",
    "%d-%b-%Y",
    "%d-%b-%y",
    "%d.%m.%y",
    "%m/%d/%y",
    "%d/%m/%y",
)
"""Written forms of dates; of two that all values allow the earlier is taken. ``%b`` stands for
months by name, short or long."""
CLOCKS: Final = (" %H:%M:%S", " %H:%M", " %I:%M %p", " %I:%M:%S %p")
NUMBERS: Final[dict[str, tuple[str, str]]] = {
    "1,234.5": (",", "."),
    "1.234,5": (".", ","),
    "1 234,5": (" \u00a0\u202f\u2009", ","),
    "1'234.5": ("'’", "."),
}
"""Written forms of numbers: what stands between groups of three, and before the fraction."""
TRUTHS: Final = (
    ("true", "false"),
    ("yes", "no"),
    ("y", "n"),
    ("t", "f"),
    ("on", "off"),
    ("1", "0"),
)
"""Pairs of words for yes and no, in small letters; in any letters they are written as both are in
``Field.written``: ``Yes/No``."""
SURELY: Final = 2
"""Pairs that say so also where only one of the two is written."""
MONTH: Final = r"[A-Za-z]{3,9}"
PARTS: Final = {
    "%d": r"[0-3]?[0-9]",
    "%m": r"[01]?[0-9]",
    "%Y": r"[0-9]{4}",
    "%y": r"[0-9]{2}",
    "%b": MONTH,
    "%H": r"[0-2]?[0-9]",
    "%I": r"[01]?[0-9]",
    "%M": r"[0-5][0-9]",
    "%S": r"[0-5][0-9]",
    "%p": r"[AaPp][Mm]",
}
SIGNS: Final = r"%‰\p{Sc}"
CODES: Final = r"(?:CHF|EUR|GBP|JPY|USD)"
RFC_3339: Final = (
    r"^([0-9]{4}-[0-9]{2}-[0-9]{2})[Tt ]([0-9]{2}:[0-9]{2})(?::([0-9]{2})(?:[.,]([0-9]+))?)?"
    r"(Z|z|[+-][0-9]{2}:?[0-9]{2})?$"
)


class WrittenForm(NamedTuple):
    """What a column of text holds, and how that is written; ``unit`` is the sign beside it."""

    type: FieldType
    written: str = ""
    unit: str = ""


def forms_of(kind: str) -> tuple[str, ...]:
    """The written forms that values of a type can have; none where there is but one."""
    if kind == "date":
        return DAYS
    if kind == "yes/no":
        return tuple("/".join(pair) for pair in TRUTHS)
    if kind == "date and time":
        return tuple(day + clock for day in DAYS for clock in CLOCKS[:2])
    return tuple(NUMBERS) if kind in ("number", "whole number") else ()


def form_of(column: pl.Series, gaps: Sequence[str] = ()) -> WrittenForm | None:
    """The form in which all filled values of a column of text are written; none where it is text.

    Args:
        gaps: words that stand for nothing.
    """
    filled = _not_empty(column.head(LOOKED_AT * 4), gaps)
    if not len(filled):
        filled = _not_empty(column, gaps)
    if not len(filled):
        return None
    if _may_be_truth(filled) and (truth := _truth_of(_not_empty(column, gaps))) is not None:
        return truth
    first = filled.head(LOOKED_AT)
    for form in _likely(first):
        if _is_all(first, form) and _is_all(_not_empty(column, gaps), form):
            return form
    return None


def _may_be_truth(filled: pl.Series) -> bool:
    """Whether the first values are words for yes or no."""
    first = {str(each).casefold() for each in filled.head(len(TRUTHS)).to_list()}
    return any(first <= set(pair) for pair in TRUTHS)


def _truth_of(filled: pl.Series) -> WrittenForm | None:
    """How yes and no are written, where that is all there is."""
    found = filled.head(LOOKED_AT).unique(maintain_order=True).to_list()
    for number, pair in enumerate(TRUTHS):
        if not {each.casefold() for each in found} <= set(pair):
            continue
        every = filled.unique(maintain_order=True).to_list() if len(found) <= len(pair) else found
        told = {each.casefold(): each for each in reversed(every)}
        if set(told) == set(pair) or (set(told) < set(pair) and number < SURELY):
            said = (told.get(word, _as(word, every)) for word in pair)
            return WrittenForm("yes/no", "/".join(said))
    return None


def _as(word: str, like: Sequence[str]) -> str:
    """A word in the letters of others: large, small, or only the first of them large."""
    for change in (str.upper, str.capitalize):
        if all(each == change(each) for each in like):
            return change(word)
    return word


def truth_in_numbers(column: pl.Series) -> WrittenForm | None:
    """Yes and no written as 1 and 0, where both are there and nothing else is."""
    is_all = column.dtype == pl.Int64 and column.drop_nulls().is_in([0, 1]).all()
    is_both = is_all and column.drop_nulls().n_unique() == len(TRUTHS[0])
    return WrittenForm("yes/no", "1/0") if is_both else None


def _not_empty(column: pl.Series, gaps: Sequence[str]) -> pl.Series:
    filled = column.filter(column != "")
    return filled.filter(~filled.is_in(list(gaps))) if gaps else filled


def _is_all(column: pl.Series, form: WrittenForm) -> bool:
    return not read_as_written(column, form.type, form.written).null_count()


def _likely(first: pl.Series) -> Iterator[WrittenForm]:
    """The forms that the first values may be written in."""
    one = str(first[0]).strip()
    if not any(map(str.isdigit, one)) or len(one) > 40:
        return
    if re.fullmatch(r"[0-9]{4}-[0-9]{2}-[0-9]{2}", one):
        yield WrittenForm("date")
    if re.match(r"[0-9]{4}-[0-9]{2}-[0-9]{2}[Tt ]", one):
        yield WrittenForm("date and time")
    for day in DAYS:
        if re.fullmatch(_pattern(day), one):
            yield WrittenForm("date", day)
        for clock in CLOCKS:
            if re.fullmatch(_pattern(day + clock), one):
                yield WrittenForm("date and time", day + clock)
    sign = re.search(rf"[%‰€$£¥₹₩₽]|{CODES}", one)
    unit = sign[0] if sign else ""
    for name, (group, point) in NUMBERS.items():
        marks = rf"[{SIGNS}]|{CODES}"
        # A point before three digits alone is no more a mark of groups than of a fraction.
        marks += "|,[0-9]" if group == "." else rf"|[0-9][{group}][0-9]{{3}}"
        marks += "|,[0-9]" if point == "," and group != "." else ""
        if first.str.contains(marks).any():
            is_whole = not first.str.contains(re.escape(point) + r"[0-9]").any()
            yield WrittenForm("whole number" if is_whole else "number", name, unit)
            if is_whole:
                yield WrittenForm("number", name, unit)


@cache
def _pattern(form: str) -> str:
    """What matches the texts that a form of dates may stand for."""
    pieces = re.split(r"(%[a-zA-Z])", form)
    return "".join(PARTS.get(each, re.escape(each).replace(r"\ ", " ")) for each in pieces)


def read_as_written(column: pl.Series, kind: str, written: str) -> pl.Series:
    """A column of text read in a written form; values that are not so written become none.

    Args:
        kind: the type that is wanted.
        written: as ``Field.written``; empty for RFC 3339 and ISO 8601.
    """
    dtype: Any = pl.Datetime("us") if kind == "date and time" else dtype_of(kind)
    if column.dtype != pl.String:
        return column.cast(dtype, strict=False)
    frame, of = pl.DataFrame([column.alias("of")]), pl.col("of").str.strip_chars()
    if kind == "yes/no":
        words = (written or "true/false").casefold().split("/")
        truths = dict(zip(words, (True, False), strict=False))
        made = of.str.to_lowercase().replace_strict(truths, default=None, return_dtype=pl.Boolean())
        return frame.select(made.alias(column.name)).to_series()
    if kind in ("number", "whole number"):
        made = _numbers(of, written).cast(dtype, strict=False)
    elif not written:
        made = of.str.to_date("%Y-%m-%d", strict=False) if kind == "date" else _times(of)
    elif written.count("%") > 8 or not set(re.findall("%.", written)) <= PARTS.keys():
        made = pl.lit(None, dtype=dtype)
    else:
        matching = pl.when(of.str.contains(f"^{_pattern(written)}$")).then(of)
        # Read, a long name of a month may be short as well.
        made = matching.str.strptime(dtype, written.replace("%b", "%B"), strict=False, exact=True)
    read = frame.select(made.cast(dtype).alias(column.name)).to_series()
    return in_years(read) if dtype.is_temporal() else read


def _numbers(of: pl.Expr, written: str) -> pl.Expr:
    """Numbers as digits: without signs and groups, with a point before the fraction."""
    group, point = NUMBERS.get(written, (",", "."))
    bare = of.str.replace(rf"^([+-]?)(?:{CODES}|[{SIGNS}])\s*", "${1}")
    bare = bare.str.replace(rf"\s*(?:{CODES}|[{SIGNS}])$", "")
    grouped = rf"[+-]?(?:[0-9]{{1,3}}(?:[{group}][0-9]{{3}})+|0|[1-9][0-9]*)"
    is_one = bare.str.contains(rf"^{grouped}(?:{re.escape(point)}[0-9]+)?$")
    digits = bare.str.replace_all(rf"[{group}]", "").str.replace(point, ".", literal=True)
    return pl.when(is_one).then(digits)


def _times(of: pl.Expr) -> pl.Expr:
    """Dates and times of RFC 3339, in UTC; those without an offset are taken as UTC."""
    parts = [of.str.extract(RFC_3339, number) for number in range(1, 6)]
    day, minute, second, fraction, offset = parts
    text = pl.concat_str(day, pl.lit("T"), minute, pl.lit(":"), second.fill_null("00"))
    moment = text.str.to_datetime("%Y-%m-%dT%H:%M:%S", time_unit="us", strict=False)
    micros = fraction.str.pad_end(6, "0").str.slice(0, 6).cast(pl.Int64, strict=False)
    hours = offset.str.slice(1, 2).cast(pl.Int64, strict=False).fill_null(0)
    minutes = offset.str.slice(-2).cast(pl.Int64, strict=False).fill_null(0)
    ahead = (hours * 60 + minutes) * pl.when(offset.str.starts_with("-")).then(-1).otherwise(1)
    return (
        moment
        + pl.duration(microseconds=micros.fill_null(0), time_unit="us")
        - pl.duration(minutes=ahead.fill_null(0), time_unit="us")
    )
