"""What a stand-in leaves to chance: told by its seed and the number of a call alone."""

from __future__ import annotations

import zlib


def drawn(seed: int, what: str, number: int) -> int:
    """A number that is always the same for the same seed, matter and call."""
    return zlib.crc32(f"{seed} {what} {number}".encode())


def happens(seed: int, what: str, number: int, one_in: int) -> bool:
    """Whether something that happens once in so many calls happens in this one; 0 is never."""
    return bool(one_in) and drawn(seed, what, number) % one_in == 0
