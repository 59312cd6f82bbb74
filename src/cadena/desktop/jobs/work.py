"""Work off the main thread, with progress and a stop."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from typing import Any, Final

from PySide6.QtCore import QObject, Signal

from cadena.desktop.process.collection import no_collection
from cadena.desktop.process.crash import reports
from cadena.desktop.process.threads import is_there, tell
from cadena.model.problem import Problem
from cadena.records.reading import Progress, Stopped

OFTEN: Final = 0.05


class Work(QObject):
    """One piece of work at a time; a newer one stops the one before.

    ``function`` is given what to tell its progress to, and stops by what that raises.
    """

    progressed = Signal(str, float)
    done = Signal(object)
    failed = Signal(str)
    ended = Signal()

    _finished = Signal(int, object, object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._number = 0
        self._then: Callable[[Any], object] | None = None
        self._finished.connect(self._end)

    @property
    def is_busy(self) -> bool:
        return self._then is not None

    def start(
        self, what: str, function: Callable[[Progress], Any], then: Callable[[Any], object]
    ) -> None:
        """Do ``function`` in a thread of its own, and ``then`` with what it gives, back here.

        Args:
            what: the work in words, for the person who waits.
        """
        self._number += 1
        number, self._then = self._number, then
        told = [0.0]

        def progress(done: float) -> None:
            if number != self._number or not is_there(self):
                raise Stopped
            if time.monotonic() - told[0] > OFTEN:
                told[0] = time.monotonic()
                tell(self, "progressed", what, done)

        def run() -> None:
            try:
                with no_collection():
                    made = function(progress)
            except Stopped:
                return
            except Problem as problem:
                tell(self, "_finished", number, None, str(problem))
            except MemoryError:
                tell(self, "_finished", number, None, f"{what}: there is not enough memory for it")
            except Exception as error:
                said = reports().report(error, f"in {what}")
                tell(self, "_finished", number, None, f"{what}: it went wrong in Cadena ({said})")
            else:
                tell(self, "_finished", number, made, None)

        tell(self, "progressed", what, 0.0)
        threading.Thread(target=run, daemon=True, name=what).start()

    def stop(self) -> None:
        """Stop what is under way; nothing comes of it."""
        if self._then is not None:
            self._number += 1
            self._then = None
            self.ended.emit()

    def _end(self, number: int, made: object, failed: object) -> None:
        if number != self._number or self._then is None:
            return
        then, self._then = self._then, None
        self.ended.emit()
        if failed is not None:
            self.failed.emit(str(failed))
        else:
            then(made)
