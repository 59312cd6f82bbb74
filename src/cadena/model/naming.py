"""What things are called for a person: the label of a record, one of many."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

from cadena.model.source import Source
from cadena.model.values import FieldType

LABELS: Final = ("name", "title", "label", "guest", "subject")


def label_field(source: Source, fields: Mapping[str, FieldType]) -> str:
    """The field that tells one record from another for a person."""
    texts = [name for name, kind in fields.items() if kind == "text" and name != source.key]
    known = [name for name in LABELS if name in texts]
    return (known or texts or [source.key])[0]


def singular(word: str) -> str:
    """The plain singular of a plural: huts, hut; entries, entry."""
    if word.endswith("ies") and len(word) > 4:
        return word[:-3] + "y"
    if word.endswith(("sses", "shes", "ches", "xes")):
        return word[:-2]
    return (
        word[:-1]
        if word.endswith("s") and not word.endswith("ss") and len(word) > 2
        else f"{word}-detail"
    )
