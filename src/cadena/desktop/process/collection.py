"""Garbage is collected on the main thread alone: what is of the toolkit must end there."""

from __future__ import annotations

import gc
import threading
from collections.abc import Iterator
from contextlib import contextmanager

_lock = threading.Lock()
_threads = 0


def settle() -> None:
    """What is there now stays, and is left out of every collection; that of a project that was
    open before is let go."""
    gc.unfreeze()
    gc.freeze()


@contextmanager
def no_collection() -> Iterator[None]:
    """No garbage is collected while any thread is in here."""
    global _threads
    with _lock:
        _threads += 1
        gc.disable()
    try:
        yield
    finally:
        with _lock:
            _threads -= 1
            if not _threads:
                gc.enable()
