"""How much is tried: a part, or all of it where somebody asks for the long form."""

from __future__ import annotations

import os

LONG = "CADENA_LONG" in os.environ
PART = 4


def examples(long: int) -> int:
    """So many examples in the long form; a quarter of them without."""
    return long if LONG else max(1, long // PART)
