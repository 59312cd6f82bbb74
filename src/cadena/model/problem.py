"""The one way in which input that cannot be used is worded."""

from __future__ import annotations

from dataclasses import dataclass


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
        where = f"{self.file}, {self.place}" if self.place else self.file
        return f"{where}: {self.found}. Wanted: {self.wanted}."
