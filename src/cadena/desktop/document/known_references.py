"""The references between the sources of a document, found once for the records they are of."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Final

from cadena.desktop.document.document import Document

if TYPE_CHECKING:
    from cadena.sources.find_references import Reference

AT_ONCE: Final = 100_000
"""As many records can be looked through while a person waits."""


@dataclass
class Known:
    """References, and the serials of the records that they are between."""

    serials: tuple[int, ...] = ()
    references: tuple[Reference, ...] = ()


def references_in(document: Document) -> tuple[Reference, ...]:
    """The references between sources that are not too large to look through at once."""
    serials = tuple(sorted(each.serial for each in document.records.values()))
    known = document.own(Known)
    if known.serials != serials:
        from cadena.sources.find_references import references

        small = {name: each for name, each in document.records.items() if len(each) <= AT_ONCE}
        known.serials, known.references = serials, references(small)
    return known.references
