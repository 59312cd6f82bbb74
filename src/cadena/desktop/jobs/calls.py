"""What answers the running app's calls: virtual time for stand-ins, HTTP for real services.

A real service is called only once the person has said that it may be, for this project and
as long as it is open.
"""

from __future__ import annotations

import threading
from functools import partial
from typing import Any, Final

from PySide6.QtCore import QObject, QTimer, Signal

from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.process.collection import no_collection
from cadena.desktop.process.crash import reports
from cadena.desktop.process.threads import tell
from cadena.engine.events import Answered, Written
from cadena.engine.rules.unsent import NOT_FROM_HERE
from cadena.engine.session import Request
from cadena.runs.possible import until_answered
from cadena.serve.call_services import answer_of, asked_at

LEAST: Final = 15


class Calls(QObject):
    """Watches a document's session, and answers what it asks for."""

    _came = Signal(object)

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self.document = document
        self._under_way: set[int] = set()
        self._following: dict[tuple[str, int], Any] = {}
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
            if write.state == "sending" and write.due is None:
                unsent = Written(request=write.call, outcome="unsent", why=NOT_FROM_HERE)
                QTimer.singleShot(0, partial(tell, self, "_came", unsent))
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
        if source is None or source.service is None:
            said = "no service is set"
            QTimer.singleShot(
                0, lambda: tell(self, "_came", Answered(request=request.number, failed=said))
            )
            self._under_way.add(request.number)
            return
        self._under_way.add(request.number)
        following = self._following.get(asked_at(request))

        def run() -> None:
            more = None
            try:
                with no_collection():
                    answer, more = answer_of(source, request, following)
            except Exception as error:
                said = reports().report(error, f"in a call of {source.id}")
                failed = f"it went wrong in Cadena ({said})"
                answer = Answered(request=request.number, failed=failed)
            if more is not None:
                self._following[asked_at(request, 1)] = more
            tell(self, "_came", answer)

        threading.Thread(target=run, daemon=True, name=f"call {request.source}").start()

    def _answer(self, answer: Answered | Written) -> None:
        self._under_way.discard(answer.request)
        self.document.do(answer)
