"""Calling the real services of a project for what the running app asks of them, and writes."""

from __future__ import annotations

import uuid
from collections.abc import Callable, Collection, Iterator
from typing import TYPE_CHECKING, Any, Final

from msgspec.structs import replace

from cadena.engine.events import Answered, Written
from cadena.engine.rules.unsent import NO_ANSWER, NOT_FROM_HERE
from cadena.engine.session import Request, Session, Write
from cadena.engine.wired import ITEM, WiredApp
from cadena.model.problem import Problem
from cadena.model.source import Source
from cadena.model.values import Scalar

if TYPE_CHECKING:
    import httpx

    from cadena.serve.sending import Sending
    from cadena.sources.connection import Exchange
    from cadena.sources.fetch import Caller

MOST_CALLS: Final = 200
"""Calls that one walk may make: a service whose list never ends is left after so many."""
MOST_KEPT: Final = 1_000
Row = dict[str, Any]
MakesRows = Callable[[Source, list[Any]], list[Row]]


class Services:
    """Calls services, and remembers what they have said: what comes next, and which versions.

    Args:
        client: for another transport.
        rows: makes records of a source of what a service has answered; without it they are typed
            as those of a file are.

    ``exchanges`` are the requests made for a call of a session, by its number.
    """

    def __init__(self, client: httpx.Client | None = None, rows: MakesRows | None = None) -> None:
        self.client = client
        self._rows = rows or typed_rows
        self.exchanges: dict[int, tuple[Exchange, ...]] = {}
        self._following: dict[tuple[Any, ...], Any] = {}
        self._versions: dict[tuple[str, Scalar | None], str] = {}
        self._names: dict[tuple[Any, ...], str] = {}

    def forget_versions(self) -> None:
        """What an app knew of versions ends with its process: what it shows is read again."""
        self._versions.clear()

    def answer(self, source: Source, request: Request) -> Answered:
        """Call a service for one request: the answer as an event."""
        if source.service is None:
            return Answered(request=request.number, failed="no service is set")
        caller = self._caller(source)
        try:
            return self._answered(source, request, caller)
        except Problem as problem:
            return Answered(request=request.number, failed=problem.found)
        finally:
            self._note(request.number, caller)

    def _caller(self, source: Source) -> Caller:
        from cadena.sources.fetch import Caller

        assert source.service is not None
        return Caller(source.service, self.client)

    def _note(self, number: int, caller: Caller) -> None:
        if self.client is None:
            caller.close()
        self.exchanges[number] = tuple(caller.connection.exchanges)
        while len(self.exchanges) > MOST_KEPT:
            del self.exchanges[next(iter(self.exchanges))]

    def _answered(self, source: Source, request: Request, caller: Caller) -> Answered:
        from cadena.sources.fetch import Asked

        kept = dict(request.kept)
        if request.part == ITEM:
            found = None if request.key is None else caller.whole(request.key, kept)
            if found is None:
                return Answered(request=request.number, missing=True)
            self._versions[source.id, request.key] = found.version
            records, more = [caller.of(found, kept)], None
        else:
            asked = Asked(request.search, request.sort or (), kept)
            page = caller.page(self._following.get(asked_at(request)), asked)
            records, more = page.records, page.following
            if more is not None:
                self._following[asked_at(request, 1)] = more
        rows = self._rows(source, records) if records else []
        if request.part == ITEM and rows and request.key is not None:
            rows = [{**rows[0], source.key: request.key}]
        return Answered(request=request.number, records=tuple(rows), more=more is not None)

    def would_send(self, app: WiredApp, session: Session, write: Write) -> Sending | None:
        """The request of a write as far as it is known without asking; none without a service."""
        source = app.sources[write.source]
        if source.service is None or write.kind not in source.service.ways():
            return None
        try:
            return self._sending(app, session, write, self._caller(source), asks=False)
        except Problem:
            return None

    def send(self, app: WiredApp, session: Session, write: Write) -> Written:
        """Send a write to its service: what it says, as an event."""
        from cadena.serve.sending import unsent

        source = app.sources[write.source]
        if source.service is None or write.kind not in source.service.ways():
            return unsent(write, NOT_FROM_HERE)
        caller = self._caller(source)
        try:
            written = self._sent(app, session, write, caller)
        except Problem:
            # Whether it has come there is not known.
            written = unsent(write, NO_ANSWER)
        finally:
            self._note(write.call, caller)
        if written.outcome not in ("unsent", "later"):
            self._names.pop(_as_sent(write), None)
        return written

    def _sent(self, app: WiredApp, session: Session, write: Write, caller: Caller) -> Written:
        from cadena.serve.sending import fields_in, outcome_of

        source = app.sources[write.source]
        sending = self._sending(app, session, write, caller)
        if sending is None:
            return Written(request=write.call, outcome="gone")
        answer = caller.connection.ask(
            sending.method, sending.address, headers=sending.headers, body=sending.body
        )
        records = app.as_read.get(source.id)
        written = outcome_of(source, records, write, answer)
        key: Any = write.key
        if written.outcome == "done":
            key = (written.record or {}).get(source.key) if key is None else key
            self._note_version(source, key, answer.headers.get("etag", ""))
        if written.outcome == "quicker" and key is not None:
            if not caller.service.item:
                return replace(written, record={})
            now = caller.whole(key, self._address_fields(app, session, write))
            if now is None:
                return replace(written, outcome="gone")
            self._note_version(source, key, now.version)
            return replace(written, record=fields_in(source, records, now.record) or {})
        return written

    def _note_version(self, source: Source, key: Scalar | None, version: str) -> None:
        if version and key is not None:
            self._versions[source.id, key] = version

    def _sending(
        self, app: WiredApp, session: Session, write: Write, caller: Caller, asks: bool = True
    ) -> Sending | None:
        """The request of a write; none where its record is not there any more."""
        from cadena.serve.sending import sending_of, sends_whole, way_of

        source = app.sources[write.source]
        kept = self._address_fields(app, session, write)
        there = None
        if sends_whole(source, write) and write.key is not None:
            if caller.service.item and asks:
                found = caller.whole(write.key, kept)
                there = None if found is None else found.record
            else:
                records = app.records(session, source.id)
                there = None if records is None else records.by_key(write.key)
                named = {each.name for each in source.fields}
                there = there and {name: each for name, each in there.items() if name in named}
            if there is None:
                return None
        address = caller.address(way_of(source, write).address, kept, write.key)
        version = self._versions.get((source.id, write.key), "")
        name = self._name(write) if caller.service.repeats and asks else ""
        return sending_of(
            source, write, address, there, version if caller.service.versions else "", name
        )

    def _address_fields(self, app: WiredApp, session: Session, write: Write) -> dict[str, Scalar]:
        """What of a record stands in the addresses of its service."""
        records = app.records(session, write.source)
        record = None if records is None or write.key is None else records.by_key(write.key)
        held = {**(record or {}), **write.was, **write.fields}
        keeps = getattr(app.sources[write.source].service, "keeps", {})
        return {name: held[name] for name in keeps if held.get(name) is not None}

    def _name(self, write: Write) -> str:
        """By which a service knows a write again, however often it is sent."""
        while len(self._names) > MOST_KEPT:
            del self._names[next(iter(self._names))]
        return self._names.setdefault(_as_sent(write), str(uuid.uuid4()))


class Answers:
    """Answers what a session asks of real services, one call after another.

    Args:
        writes: the sources that may be written to; of the others nothing is sent.
        most: calls that may be made.
    """

    def __init__(
        self,
        app: WiredApp,
        writes: Collection[str] = (),
        services: Services | None = None,
        most: int = MOST_CALLS,
    ) -> None:
        self.app = app
        self.writes = writes
        self.services = services or Services()
        self.most = most
        self.not_sent: list[Sending] = []
        self._calls = 0

    def __call__(self, session: Session) -> Iterator[Answered | Written]:
        """The answers to what is asked and not yet answered; what is due by itself is left."""
        for write in session.writes:
            if write.state == "sending" and write.due is None:
                yield self._not_sent(session, write)
        for request in session.requests:
            source = self.app.sources.get(request.source)
            if request.due is not None or source is None:
                continue
            self._calls += 1
            if self._calls > self.most:
                yield Answered(request=request.number, failed="too many calls")
            else:
                yield self.services.answer(source, request)

    def _not_sent(self, session: Session, write: Write) -> Written:
        self._calls += 1
        if write.source in self.writes and self._calls <= self.most:
            return self.services.send(self.app, session, write)
        if (sending := self.services.would_send(self.app, session, write)) is not None:
            self.not_sent.append(sending)
        return Written(request=write.call, outcome="unsent", why=NOT_FROM_HERE)


def typed_rows(source: Source, records: list[Any]) -> list[Row]:
    """Records as those of a file are read: what is not declared is found in them."""
    from cadena.sources.read_file import typed
    from cadena.sources.read_json import columns_of

    made = typed(source, columns_of(records, source.id, "record"))
    return [made.record(at) for at in range(len(made))]


def fitting_rows(source: Source, records: list[Any]) -> list[Row]:
    """Records of a source that declares all its fields, one by one: what does not fit is empty."""
    from cadena.serve.sending import fitting_value
    from cadena.sources.json_tree import flat

    rows: list[Row] = []
    for record in records:
        found = dict(flat(record, "", 0)) if isinstance(record, dict) else {}
        rows.append(
            {each.name: fitting_value(found.get(each.name), each.type) for each in source.fields}
        )
    return rows


def asked_at(request: Request, on: int = 0) -> tuple[Any, ...]:
    """What tells a page of an answer from any other; so many pages further on."""
    return request.source, request.search, request.sort, request.kept, request.page + on


def _as_sent(write: Write) -> tuple[Any, ...]:
    """What a write says, wherever it is sent from."""
    form = write.form
    said = repr(sorted(write.fields.items())) if form is None else form.screen
    return write.number, write.source, write.kind, write.key, said
