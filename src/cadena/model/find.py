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
    for thing in things:
        if thing.id == name:
            return thing
    return None


def exchanged(things: Iterable[Found], made: Found) -> tuple[Found, ...]:
    """The things with the one of that identifier exchanged, or with this one added at the end."""
    kept = tuple(things)
    if by_id(kept, made.id) is None:
        return (*kept, made)
    return tuple(made if each.id == made.id else each for each in kept)


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
