"""What of the document has changed, told once for everything that happens."""

from __future__ import annotations

from enum import Flag, auto


class Change(Flag):
    """What is not as it was. A telling names all of it at once."""

    APP = auto()
    SESSION = auto()
    SELECTION = auto()
    SAVED = auto()
    FINDINGS = auto()
    KEPT = auto()
    SECTION = auto()
    STAGE = auto()
    WINDOWS = auto()
    CALLS = auto()
    SCRUBBED = auto()
    PEEKED = auto()
    PROVEN = auto()
    LIT = auto()
    HANDED = auto()
    PICTURES = auto()


ANEW = Change.APP | Change.SESSION | Change.SELECTION | Change.SAVED
"""After an edit, and when another project is there."""
