"""What is measured by running the app: in the background, a little at a time.

A little is less than a frame, on the main thread: nothing that is shown has to wait for it,
and nothing has to be locked. What was found of an app that has changed since is never told.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from typing import Any, Final

from PySide6.QtCore import QObject, QTimer, Signal

from cadena.desktop.process.crash import reports
from cadena.desktop.process.threads import is_there
from cadena.engine.wired import WiredApp

REST: Final = 350
"""Ms without a change before the app is run."""
PAUSE: Final = 200
A_LITTLE: Final = 0.006


class Background(QObject):
    """Measures the app as it is now.

    Args:
        measure: gives the work in small pieces; what is none is nothing to tell.
        rest: ms without a change before it begins.
    """

    done = Signal(tuple)

    def __init__(
        self, parent: QObject, measure: Callable[[WiredApp], Iterator[Any]], rest: int = REST
    ) -> None:
        super().__init__(parent)
        self.measure = measure
        self.is_done = True
        self._app: WiredApp | None = None
        self._work: Iterator[Any] | None = None
        self._found: list[Any] = []
        self._rest = QTimer(self, singleShot=True, interval=rest)
        self._rest.timeout.connect(self._begin)
        self._again = QTimer(self, singleShot=True, interval=PAUSE)
        self._again.timeout.connect(self._resume)
        self._slice = QTimer(self, interval=0)
        self._slice.timeout.connect(self._go_on)

    def start(self, app: WiredApp) -> None:
        """Measure this app from now on; what was under way is let go."""
        self._slice.stop()
        self._again.stop()
        self._work, self._found, self._app = None, [], app
        self.is_done = not app.screens
        if not self.is_done:
            self._rest.start()

    def wait(self) -> None:
        """Somebody is at work with the app: go on when they have come to rest."""
        if self._slice.isActive():
            self._slice.stop()
            self._again.start()
        elif self._again.isActive():
            self._again.start()

    def leave(self) -> None:
        """Nobody waits for it any longer: it ends, and tells nothing."""
        for timer in (self._rest, self._again, self._slice):
            timer.stop()
        self._work, self._app, self.is_done = None, None, True

    def _resume(self) -> None:
        if self._work is not None:
            self._slice.start()

    def finish(self) -> None:
        """Do all that is left at once."""
        if not self.is_done:
            self._begin()
            self._go_on(float("inf"))

    def _begin(self) -> None:
        if not is_there(self._slice):
            return
        self._rest.stop()
        if self.is_done:
            return
        if self._work is None and self._app is not None:
            # A copy: what it remembers of its runs is not what the Bench needs.
            app = WiredApp(self._app.app, self._app.as_read, self._app.measure)
            self._work = self.measure(app)
            self._slice.start()

    def _go_on(self, room: float = A_LITTLE) -> None:
        ends = time.perf_counter() + room
        work = self._work
        while work is not None and time.perf_counter() < ends:
            try:
                found = next(work)
            except StopIteration:
                self._end()
                return
            except Exception as error:
                # What was found so far stands; what failed is told, and not tried again.
                self._end()
                reports().report(error, "while the app was measured")
                return
            if found is not None:
                self._found.append(found)

    def _end(self) -> None:
        self._slice.stop()
        self._again.stop()
        self._work, self.is_done = None, True
        self.done.emit(tuple(self._found))
