"""What an app asks of real services, and writes to them: beside all else, and told as events."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Callable
from functools import partial
from typing import Final

from PySide6.QtCore import QObject, Signal

from cadena.engine.events import Answered, Written
from cadena.engine.rules.unsent import NO_ANSWER, NOT_FROM_HERE
from cadena.engine.session import Session
from cadena.engine.wired import WiredApp
from cadena.serve.call_services import Services, fitting_rows

WRONG: Final = "it went wrong in the app"


class Calls(QObject):
    """Asks each thing once.

    Args:
        writes: whether anything is really sent; an app that is driven sends nothing.
    """

    came = Signal(object)

    def __init__(self, app: WiredApp, writes: bool, parent: QObject) -> None:
        super().__init__(parent)
        self.app = app
        self.writes = writes
        self.services = Services(rows=fitting_rows)
        self._asked: set[int] = set()

    def ask_for(self, session: Session) -> None:
        """Ask what a session asks for, and send what it sends, unless that is under way."""
        for request in session.requests:
            source = self.app.sources.get(request.source)
            if request.due is None and source is not None and request.number not in self._asked:
                failed = Answered(request=request.number, failed=WRONG)
                self._ask(request.number, partial(self.services.answer, source, request), failed)
        for write in session.writes:
            if write.state != "sending" or write.due is not None or write.call in self._asked:
                continue
            unsent = partial(Written, request=write.call, outcome="unsent")
            send = partial(self.services.send, self.app, session, write)
            if not self.writes:
                send = partial(unsent, why=NOT_FROM_HERE)
            self._ask(write.call, send, unsent(why=NO_ANSWER))

    def _ask(
        self, number: int, does: Callable[[], Answered | Written], failed: Answered | Written
    ) -> None:
        self._asked.add(number)

        def run() -> None:
            answer = failed
            with contextlib.suppress(Exception):
                answer = does()
            # The window may be gone by then.
            with contextlib.suppress(RuntimeError):
                self.came.emit(answer)

        threading.Thread(target=run, daemon=True, name=f"call {number}").start()
