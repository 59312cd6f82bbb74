"""The one way in which input that cannot be used is worded."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

LONGEST: Final = 300
"""Letters of one part of a message."""


@dataclass(eq=False)
class Problem(Exception):
    """Input that cannot be used.

    Args:
        file: the file at fault, as the person named it.
        place: where in it (a path into the document, a line, a record), or "".
        found: what is there.
        wanted: what was wanted instead, or what would mend it.
    """

    file: str
    place: str
    found: str
    wanted: str

    def __str__(self) -> str:
        file, place, found, wanted = map(brief, (self.file, self.place, self.found, self.wanted))
        where = f"{file}, {place}" if place else file
        return f"{where}: {found}. Wanted: {wanted}."


def brief(text: str, most: int = LONGEST) -> str:
    """A text cut in its middle where it is too long to be read."""
    if len(text) <= most:
        return text
    left = most // 2
    return f"{text[:left]} … {text[left + 3 - most :]}"
