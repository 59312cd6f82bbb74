"""Addresses outside of an app that it can be left for (rules.md, 7.10)."""

from __future__ import annotations

import re
from collections.abc import Collection
from typing import Any, Final
from urllib.parse import urlsplit

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


def host_of(value: Any) -> str:
    """The host, and port if there is one, of a web address; nothing where it is none.

    >>> host_of("https://Huts.example:8080/mor"), host_of("mailto:ask@huts.example")
    ('huts.example:8080', '')
    """
    try:
        parts = urlsplit(outside_address(value) or "")
    except ValueError:
        return ""
    return parts.netloc.lower() if parts.scheme.lower() in ("http", "https") else ""


def is_framed(value: Any, hosts: Collection[str]) -> bool:
    """Whether an address is shown in a frame: one of a host that the app names, whole.

    >>> is_framed("https://huts.example/a", ["huts.example"])
    True
    >>> is_framed("https://huts.example@other.example/", ["huts.example"])
    False
    """
    host = host_of(value)
    return bool(host) and host in {each.lower() for each in hosts}
