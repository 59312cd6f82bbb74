"""Saying values: by the format of their field, in the app's locale; and what stands out."""

from __future__ import annotations

import datetime
import re
from collections.abc import Iterable, Mapping
from functools import lru_cache
from typing import Any, Final

from cadena.model.app_words import AppWords
from cadena.model.naming import FIELD
from cadena.model.source import Field, Source, StandsOut
from cadena.model.values import FieldType, as_time, shown
from cadena.records.conditions import passes
from cadena.records.template import called, fields_in, is_empty

APART: Final = " · "
NOBODY: Final = Field(name="")


class Sayings:
    """How the values of one source are said.

    Args:
        source: its fields say how, and what stands out.
        types: the type of each field, as found.
        locale: BCP 47, such as ``en-GB``; empty writes values as they are.
        far: what references lead to, as fields named by their paths.
        labels: for each field that is a reference, the path to the label of what it refers to.
    """

    def __init__(
        self,
        source: Source,
        types: Mapping[str, FieldType],
        locale: str = "",
        far: Iterable[Field] = (),
        labels: Mapping[str, str] | None = None,
    ) -> None:
        self.fields = {each.name: each for each in (*far, *source.fields)}
        self.labels = labels or {}
        self.types = types
        self.locale = known_locale(locale)
        self.words = AppWords(self.locale)
        self.stands_out = source.stands_out
        self.called_by = source.label if fields_in(source.label) else None

    def label(self, name: str) -> str:
        """What a field is called: its own label, or its name in plain words."""
        label = self.fields.get(name, NOBODY).label
        plain = name.replace("_", " ").replace(".", " ")
        # What it refers to is said by its label, and not by a key.
        return label or (plain.removesuffix(" id") if name in self.labels else plain)

    def value(self, name: str, record: Mapping[str, Any] | None) -> str:
        """One field of a record as it is said; the field's own words when it is empty."""
        return self._value(name, record or {}, 0)

    def _value(self, name: str, record: Mapping[str, Any], depth: int) -> str:
        if name == self.called_by:
            return called(name, record) or "–"
        field = self.fields.get(name, NOBODY)
        value = record.get(name)
        path = self.labels.get(name)
        nothing = is_empty(value)
        if path is not None and not nothing and not is_empty(record.get(path)):
            return self._value(path, record, depth)
        if nothing:
            if depth > 3 or not fields_in(field.when_empty):
                return field.when_empty
            return FIELD.sub(
                lambda match: self._value(match[1], record, depth + 1), field.when_empty
            )
        said = self._value_words(value, field, name)
        unit = field.unit_of_one if value == 1 and field.unit_of_one else field.unit
        return f"{said} {unit}" if unit else said

    def _value_words(self, value: Any, field: Field, name: str) -> str:
        if isinstance(value, tuple | list):
            return ", ".join(self._value_words(each, field, name) for each in value)
        if type(value) is bool:
            return self.words("yes" if value else "no")
        if type(value) is int and field.decimals is None and is_year(name):
            return str(value)
        if type(value) in (int, float):
            return number(value, field.decimals, self.locale)
        if field.date != "as written" and type(value) is str:
            return date(value, field.date, self.locale)
        return shown(value)

    def fill(self, text: str, record: Mapping[str, Any] | None) -> str:
        """Fill a text from a record (see ``template``); parts left out take their dot along."""
        names = fields_in(text)
        if not names:
            return text
        record = record or {}
        if text == self.called_by:
            return called(text, record)
        if not any(self.says(name, record) for name in names):
            return ""
        said = {name: self._value(name, record, 0) for name in names}
        pieces = [
            FIELD.sub(lambda match: said[match[1]], piece)
            for piece in text.split(APART)
            if not (inside := fields_in(piece)) or any(map(said.get, inside))
        ]
        return APART.join(pieces)

    def says(self, name: str, record: Mapping[str, Any]) -> bool:
        """Whether a field has something to say: a value, or words or a field in its place."""
        if not is_empty(record.get(name)):
            return True
        return self.fields.get(name, NOBODY).when_empty != "–" and bool(self.value(name, record))

    def ground(self, record: Mapping[str, Any]) -> StandsOut | None:
        """The first rule of all by which a record stands out, or none (7.9)."""
        found = (self.standing_out(each.field, record) for each in self.stands_out)
        return next((each for each in found if each is not None), None)

    def standing_out(self, name: str, record: Mapping[str, Any] | None) -> StandsOut | None:
        """The first rule by which the value of a field stands out, or none."""
        for rule in self.stands_out:
            if rule.field == name and passes(
                (record or {}).get(name), rule.test, rule.constant, self.types.get(name, "text")
            ):
                return rule
        return None


@lru_cache(maxsize=1024)
def is_year(name: str) -> bool:
    """Whether a field holds years, whose digits are not grouped.

    >>> is_year("founded_year"), is_year("hut.year"), is_year("years")
    (True, True, False)
    """
    return re.search(r"(?:^|[^a-z])year$|[a-z]Year$", name) is not None


@lru_cache(maxsize=64)
def known_locale(name: str) -> str:
    """The locale as it is known here, its language alone, or none."""
    if not re.fullmatch(r"[A-Za-z]{2,3}([-_][A-Za-z0-9]{2,8}){0,3}", name):
        return ""
    from babel import Locale, UnknownLocaleError

    for wanted in (name, re.split("[-_]", name)[0]):
        try:
            return str(Locale.parse(wanted.replace("-", "_")))
        except (UnknownLocaleError, ValueError):
            continue
    return ""


@lru_cache(maxsize=8192)
def number(value: float, decimals: int | None, locale: str) -> str:
    """A number with so many digits after the point, grouped as the locale has it."""
    if not locale:
        return shown(value) if decimals is None else f"{value:.{decimals}f}"
    from babel.numbers import format_decimal

    pattern = None if decimals is None else "#,##0" + ("." + "0" * decimals if decimals else "")
    return str(format_decimal(value, format=pattern, locale=locale, decimal_quantization=False))


@lru_cache(maxsize=8192)
def date(value: str, length: str, locale: str) -> str:
    """A date of ISO 8601, or a date and time of RFC 3339, as the locale has it; any other text as
    it is."""
    from babel.dates import format_date, format_datetime

    if time := as_time(value):
        moment = datetime.datetime.fromisoformat(time.removesuffix("Z"))
        return str(format_datetime(moment, format=length, locale=locale or "en"))
    try:
        day = datetime.date.fromisoformat(value)
    except ValueError:
        return value
    return str(format_date(day, format=length, locale=locale or "en"))
