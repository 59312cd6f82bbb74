"""Garbage is collected on the main thread alone: what is of the toolkit must end there."""

from __future__ import annotations

import gc
import threading
from collections.abc import Iterator
from contextlib import contextmanager

_lock = threading.Lock()
_threads = 0


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
