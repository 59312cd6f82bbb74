"""What answers the running app's calls: virtual time for stand-ins, HTTP for real services.

A real service is called only once the person has said that it may be, for this project and as long
as it is open; and is written to only once that was said of it by itself.
"""

from __future__ import annotations

import threading
from collections.abc import Callable
from functools import partial
from typing import Final

from PySide6.QtCore import QObject, QTimer, Signal

from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.process.collection import no_collection
from cadena.desktop.process.crash import reports
from cadena.desktop.process.threads import tell
from cadena.engine.events import Answered, Written
from cadena.engine.rules.unsent import NO_ANSWER, NOT_FROM_HERE
from cadena.engine.session import Request, Write
from cadena.runs.possible import until_answered

LEAST: Final = 15


class Calls(QObject):
    """Watches a document's session, and answers what it asks for."""

    _came = Signal(object)

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self.document = document
        self._under_way: set[int] = set()
        self._timer = QTimer(self, singleShot=True)
        self._timer.timeout.connect(self._pass_time)
        self._came.connect(self._answer)
        document.watch(Change.SESSION, self.refresh)
        document.watch(Change.CALLS, self.refresh)

    def refresh(self) -> None:
        """Let time pass until the next answer is due, and call services that may be called."""
        session = self.document.session
        wait = until_answered(session)
        if wait is not None and session.phase == "running":
            if not self._timer.isActive():
                self._timer.start(max(LEAST, wait.ms))
        else:
            self._timer.stop()
        for write in session.writes:
            if write.state == "sending" and write.due is None and write.call not in self._under_way:
                self._send(write)
        if self.document.may_call:
            for request in session.requests:
                if request.due is None and request.number not in self._under_way:
                    self._call(request)

    def _pass_time(self) -> None:
        session = self.document.session
        wait = until_answered(session)
        if wait is not None and session.phase == "running":
            self.document.do(wait)

    def _call(self, request: Request) -> None:
        source = self.document.wired.sources.get(request.source)
        if source is None:
            return
        answer = partial(self.document.services.answer, source, request)
        failed = partial(Answered, request=request.number)
        self._ask(request.number, source.id, answer, lambda said: failed(failed=said))

    def _send(self, write: Write) -> None:
        """Send a write where that was allowed; else it is said that it was not."""
        document = self.document
        unsent = partial(Written, request=write.call, outcome="unsent")
        if write.source not in document.may_write:
            self._under_way.add(write.call)
            not_sent = unsent(why=NOT_FROM_HERE)
            QTimer.singleShot(0, partial(tell, self, "_came", not_sent))
            return
        send = partial(document.services.send, document.wired, document.session, write)
        self._ask(write.call, write.source, send, lambda said: unsent(why=NO_ANSWER))

    def _ask(
        self,
        number: int,
        source: str,
        does: Callable[[], Answered | Written],
        failed: Callable[[str], Answered | Written],
    ) -> None:
        """Call a service beside all else, and tell what it answers."""
        self._under_way.add(number)

        def run() -> None:
            try:
                with no_collection():
                    answer = does()
            except Exception as error:
                said = reports().report(error, f"in a call of {source}")
                answer = failed(f"it went wrong in Cadena ({said})")
            tell(self, "_came", answer)

        threading.Thread(target=run, daemon=True, name=f"call {source}").start()

    def _answer(self, answer: Answered | Written) -> None:
        self._under_way.discard(answer.request)
        self.document.do(answer)
