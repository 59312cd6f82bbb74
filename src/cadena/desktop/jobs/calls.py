"""What answers the running app's calls: virtual time for stand-ins, HTTP for real services.

A real service is called only once the person has said that it may be, for this project and
as long as it is open.
"""

from __future__ import annotations

import threading
from typing import Any, Final

from PySide6.QtCore import QObject, QTimer, Signal

from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.jobs.collection import no_collection
from cadena.desktop.shell.crash import reports
from cadena.engine.events import Answered, Wait
from cadena.engine.session import Request
from cadena.engine.wired import ITEM
from cadena.model.problem import Problem
from cadena.model.source import Source
from cadena.sources.read_file import typed
from cadena.sources.read_json import columns_of

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
        due = [each.due for each in session.requests if each.due is not None]
        if due and session.phase == "running":
            if not self._timer.isActive():
                self._timer.start(max(LEAST, min(due) - session.clock))
        else:
            self._timer.stop()
        if self.document.may_call:
            for request in session.requests:
                if request.due is None and request.number not in self._under_way:
                    self._call(request)

    def _pass_time(self) -> None:
        session = self.document.session
        due = [each.due for each in session.requests if each.due is not None]
        if due and session.phase == "running":
            self.document.do(Wait(ms=max(0, min(due) - session.clock)))

    def _call(self, request: Request) -> None:
        source = self.document.wired.sources.get(request.source)
        if source is None or source.service is None:
            said = "no service is set"
            QTimer.singleShot(
                0, lambda: self._came.emit(Answered(request=request.number, failed=said))
            )
            self._under_way.add(request.number)
            return
        self._under_way.add(request.number)
        following = self._following.get((request.source, request.page))

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
                self._following[request.source, request.page + 1] = more
            self._came.emit(answer)

        threading.Thread(target=run, daemon=True, name=f"call {request.source}").start()

    def _answer(self, answer: Answered) -> None:
        self._under_way.discard(answer.request)
        self.document.do(answer)


def answer_of(source: Source, request: Request, following: Any) -> tuple[Answered, Any]:
    """Call a service for one request: the answer as an event, and what comes next."""
    from cadena.sources.fetch import Caller

    assert source.service is not None
    caller = Caller(source.service)
    try:
        if request.part == ITEM:
            found = None if request.key is None else caller.item(request.key)
            if found is None:
                return Answered(request=request.number, missing=True), None
            records, more = [found], None
        else:
            page = caller.page(following)
            records, more = page.records, page.following
        reading = columns_of(records, source.id, "record")
        made = typed(source, reading) if records else None
        rows = [] if made is None else [made.record(at) for at in range(len(made))]
        if request.part == ITEM and rows and request.key is not None:
            rows = [{**rows[0], source.key: request.key}]
        answered = Answered(request=request.number, records=tuple(rows), more=more is not None)
    except Problem as problem:
        return Answered(request=request.number, failed=problem.found), None
    finally:
        caller.close()
    return answered, more
