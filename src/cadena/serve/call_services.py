"""Calling the real services of a project for what the running app asks of them."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, Final

from cadena.engine.events import Answered, Written
from cadena.engine.rules.unsent import NOT_FROM_HERE
from cadena.engine.session import Request, Session
from cadena.engine.wired import ITEM, WiredApp
from cadena.model.problem import Problem
from cadena.model.source import Source

MOST_CALLS: Final = 200
"""Calls that one walk may make: a service whose list never ends is left after so many."""


class Answers:
    """Answers what a session asks of real services, one call after another."""

    def __init__(self, app: WiredApp) -> None:
        self.app = app
        self._following: dict[tuple[Any, ...], Any] = {}
        self._calls = 0

    def __call__(self, session: Session) -> Iterator[Answered | Written]:
        """The answers to what is asked and not yet answered; what is due by itself is left."""
        for write in session.writes:
            if write.state == "sending" and write.due is None:
                yield Written(request=write.call, outcome="unsent", why=NOT_FROM_HERE)
        for request in session.requests:
            source = self.app.sources.get(request.source)
            if request.due is not None or source is None:
                continue
            self._calls += 1
            if source.service is None or self._calls > MOST_CALLS:
                said = "no service is set" if source.service is None else "too many calls"
                yield Answered(request=request.number, failed=said)
                continue
            answer, more = answer_of(source, request, self._following.get(asked_at(request)))
            if more is not None:
                self._following[asked_at(request, 1)] = more
            yield answer


def asked_at(request: Request, on: int = 0) -> tuple[Any, ...]:
    """What tells a page of an answer from any other; so many pages further on."""
    return request.source, request.search, request.sort, request.kept, request.page + on


def answer_of(source: Source, request: Request, following: Any) -> tuple[Answered, Any]:
    """Call a service for one request: the answer as an event, and what comes next."""
    from cadena.sources.fetch import Asked, Caller
    from cadena.sources.read_file import typed
    from cadena.sources.read_json import columns_of

    assert source.service is not None
    caller = Caller(source.service)
    try:
        if request.part == ITEM:
            kept = dict(request.kept)
            found = None if request.key is None else caller.item(request.key, kept)
            if found is None:
                return Answered(request=request.number, missing=True), None
            records, more = [found], None
        else:
            asked = Asked(request.search, request.sort or (), dict(request.kept))
            page = caller.page(following, asked)
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
