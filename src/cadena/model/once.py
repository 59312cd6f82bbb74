"""What is found of something that never changes is found once."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import Final, TypeVar

Thing = TypeVar("Thing")
Found = TypeVar("Found")
MOST_KNOWN: Final = 1024


def once(find: Callable[[Thing], Found]) -> Callable[[Thing], Found]:
    """Ask a function of one frozen value once for each, and remember what it gave.

    A value is known again by being the very same, so nothing of it is compared or hashed. What
    is given is shared by all who ask: it is not to be changed.

    >>> lengths = once(len)
    >>> lengths((words := ("hut", "room"))), lengths(words)
    (2, 2)
    """
    known: dict[int, tuple[Thing, Found]] = {}

    @wraps(find)
    def found(thing: Thing) -> Found:
        at = known.get(id(thing))
        # Kept with what was found: so no other can come to have its identity.
        if at is None or at[0] is not thing:
            if len(known) >= MOST_KNOWN:
                known.clear()
            at = known[id(thing)] = (thing, find(thing))
        return at[1]

    return found
