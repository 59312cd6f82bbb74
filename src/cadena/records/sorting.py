"""What text is sorted by: without regard to case or to marks (rules.md, 7.1).

The same in every implementation of the rules: decomposed (Unicode, NFD), without what then are
marks, in small letters, and the few letters that do not decompose as they are taken for.
"""

from __future__ import annotations

import re
import unicodedata
from typing import TYPE_CHECKING, Final

if TYPE_CHECKING:
    import polars as pl

LETTERS: Final = {"ß": "ss", "æ": "ae", "œ": "oe", "ø": "o", "ł": "l", "đ": "d", "ı": "i"}
_EACH: Final = re.compile(f"[{''.join(LETTERS)}]")


def sorted_by(text: str) -> str:
    """What a text is sorted by.

    >>> sorted_by("Élan"), sorted_by("Straße"), sorted_by("Ñandú")
    ('elan', 'strasse', 'nandu')
    """
    if text.isascii():
        return text.lower()
    letters = unicodedata.normalize("NFD", text)
    bare = "".join(each for each in letters if unicodedata.category(each) != "Mn")
    return _EACH.sub(lambda found: LETTERS[found[0]], bare.lower())


def sorted_column(column: pl.Expr, is_ascii: bool) -> pl.Expr:
    """The same for each text of a column.

    Args:
        is_ascii: whether there is nothing but ASCII in it.
    """
    if is_ascii:
        return column.str.to_lowercase()
    bare = column.str.normalize("NFD").str.replace_all(r"\p{Mn}", "").str.to_lowercase()
    return bare.str.replace_many(list(LETTERS), list(LETTERS.values()))
