"""Work for a document in a thread of its own: with a stop, and it ends with the window."""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import Any, Final

from PySide6.QtCore import QObject

from cadena.desktop.document.document import Document
from cadena.desktop.process.background import Background

ENDS_WITHIN: Final = 5.0
"""Seconds that a window waits for what it has stopped."""


class Job(QObject):
    """One piece of work at a time."""

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self.document = document
        self._thread: threading.Thread | None = None

    @property
    def is_at_work(self) -> bool:
        return self._thread is not None

    def _start(self, does: Callable[..., None], *arguments: Any) -> None:
        name = type(self).__name__.lower()
        thread = threading.Thread(target=does, args=arguments, daemon=True, name=name)
        self._thread = thread
        thread.start()

    def stop(self) -> None:
        """Leave it at what was done by now."""
        raise NotImplementedError

    def wait(self, most: float | None = None) -> None:
        """Wait until it has ended, or for so many seconds."""
        if self._thread is not None:
            self._thread.join(most)


def end_all(document: Document) -> None:
    """Stop all that is under way for a document, and wait for its end."""
    measured: list[Background] = document.findChildren(Background)
    for background in measured:
        background.leave()
    jobs: list[Job] = document.findChildren(Job)
    for job in jobs:
        if job.is_at_work:
            job.stop()
    for job in jobs:
        job.wait(ENDS_WITHIN)
