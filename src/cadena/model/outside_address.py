"""Addresses outside of an app that it can be left for (rules.md, 7.10)."""

from __future__ import annotations

import re
from typing import Any, Final

ALLOWED: Final = re.compile(r"(?:https?|mailto|tel):[^\s\x00-\x1f\x7f]+", re.IGNORECASE)
MAIL: Final = re.compile(r"[^\s@:/?#<>]+@[^\s@:/?#<>]+\.[^\s@:/?#<>]+")
CALLED: Final = re.compile(r"(?![0-9]{4}-[0-9]{2}-[0-9]{2})\+?[0-9][0-9 ()/.\-]{3,}[0-9]")
BARE: Final = re.compile(r"www\.[^\s\x00-\x1f\x7f]+", re.IGNORECASE)
BETWEEN: Final = re.compile(r"[^0-9+]")


def outside_address(value: Any) -> str | None:
    """The address that a value leads to outside of the app; none where it is no such address.

    Only ``http``, ``https``, ``mailto`` and ``tel`` are; a bare e-mail address, a telephone
    number and what begins with ``www.`` are taken for theirs.

    >>> outside_address("ask@huts.example"), outside_address("+39 012 345-67")
    ('mailto:ask@huts.example', 'tel:+3901234567')
    >>> outside_address("javascript:alert(1)") is None
    True
    """
    text = value.strip() if isinstance(value, str) else ""
    if ALLOWED.fullmatch(text):
        return text
    if MAIL.fullmatch(text):
        return f"mailto:{text}"
    if CALLED.fullmatch(text):
        return f"tel:{BETWEEN.sub('', text)}"
    return f"https://{text}" if BARE.fullmatch(text) else None
