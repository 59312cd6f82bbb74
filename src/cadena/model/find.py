"""Finding one thing among many by its identifier."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Protocol, TypeVar


class Named(Protocol):
    @property
    def id(self) -> str: ...


Found = TypeVar("Found", bound=Named)


def by_id(things: Iterable[Found], name: str) -> Found | None:
    """The thing of that identifier, or none."""
    return next((each for each in things if each.id == name), None)


def unused(name: str, taken: Iterable[str]) -> str:
    """The name itself, or the name with the first number that makes it unused."""
    names = set(taken)
    if name not in names:
        return name
    return next(
        made for number in range(2, len(names) + 3) if (made := f"{name}-{number}") not in names
    )


def slug(title: str) -> str:
    """An identifier made from a title: lower case, words joined by hyphens."""
    parts = "".join(letter if letter.isalnum() else " " for letter in title.lower()).split()
    return "-".join(parts) or "screen"
