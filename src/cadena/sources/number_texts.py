"""How a number is written in data."""

from __future__ import annotations

import re
from typing import Final

WHOLE: Final = r"-?(?:0|[1-9][0-9]*)"
NUMBER: Final = WHOLE + r"(?:\.[0-9]+)?(?:[eE][+-]?[0-9]+)?"


def unlike_number(text: str) -> bool:
    """Whether a text is written as no number.

    >>> unlike_number("-1.5e3"), unlike_number("007")
    (False, True)
    """
    return re.fullmatch(NUMBER, text.strip()) is None
