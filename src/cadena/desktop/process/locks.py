"""Locks that a window holds for as long as it lives: the system lets go of them with it."""

from __future__ import annotations

import fcntl
import os
from pathlib import Path
from typing import IO


def held(file: Path) -> IO[bytes] | None:
    """A lock, taken; none where a window that lives has it.

    Raises:
        OSError: when it cannot be made.
    """
    lock = file.open("ab")
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        lock.close()
        return None
    os.set_inheritable(lock.fileno(), False)
    return lock
