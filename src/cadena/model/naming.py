"""What things are called for a person: the label of a record, one of many."""

from __future__ import annotations

import re
from collections.abc import Mapping
from functools import lru_cache
from typing import Final

import inflection

from cadena.model.source import Source
from cadena.model.values import FieldType

MOST_KNOWN: Final = 8192
ASIDE: Final = re.compile(r"[\x00-/:-@\[-`{-\x7f\U00010000-\U0010ffff]+")
"""What is no part of a word, said by what it is: that is compiled sooner."""
FIELD: Final = re.compile(r"\{([^{}]*)\}")
LABELS: Final = ("name", "title", "label", "guest", "subject")


def label_field(source: Source, fields: Mapping[str, FieldType]) -> str:
    """The field that tells one record from another for a person: what the source says, else
    what is called so. Where the source says a text with fields, it is that text."""
    told = names_in(source.label)
    if source.label in fields or (told and all(each in fields for each in told)):
        return source.label
    texts = [name for name, kind in fields.items() if kind == "text" and name != source.key]
    named = {words[-1]: name for name in reversed(texts) if (words := words_of(name))}
    known = [named[name] for name in LABELS if name in named]
    return (known or texts or [source.key])[0]


def label_text(source: Source, fields: Mapping[str, FieldType]) -> str:
    """The text that tells one record from another: ``{name}``, or ``{first} {last}``."""
    return in_braces(label_field(source, fields))


def in_braces(field: str) -> str:
    """A field, or a text with fields, as a text.

    >>> in_braces("name"), in_braces("{first} {last}")
    ('{name}', '{first} {last}')
    """
    return field if names_in(field) else "{" + field + "}"


def fields_of_label(label: str) -> tuple[str, ...]:
    """The fields that a label is made of: itself, or those that its text names."""
    return tuple(names_in(label)) or (label,)


def names_in(text: str) -> list[str]:
    """The fields that a text names, in order."""
    return FIELD.findall(text)


def words_of(name: str) -> list[str]:
    """The words that a name is made of: ``hutName``, ``hut_name`` and ``a.hutName`` end in name."""
    return list(_words_of(name))


@lru_cache(maxsize=MOST_KNOWN)
def _words_of(name: str) -> tuple[str, ...]:
    plain = inflection.underscore(ASIDE.sub("_", name))
    return tuple(each for each in plain.split("_") if each)


def many(count: int, thing: str) -> str:
    """So many of a thing: 1 link, 2 links."""
    return f"{count} {thing if count == 1 else _plural(thing)}"


@lru_cache(maxsize=MOST_KNOWN)
def _plural(thing: str) -> str:
    return inflection.pluralize(thing)


def words_said(name: str) -> str:
    """The name of a field in plain words."""
    return " ".join(words_of(name)) or name


@lru_cache(maxsize=MOST_KNOWN)
def singular(word: str) -> str:
    """One of many: huts, hut; movies, movie; where both are said alike, that it is the detail."""
    one = inflection.singularize(word)
    return one if one != word else f"{word}-detail"
