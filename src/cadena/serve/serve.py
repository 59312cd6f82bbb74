"""The stand-in service for other programs: the records of a project over real HTTP.

On loopback only. List, item, create, change and remove, with versions and problems, and an
OpenAPI document of itself; what is changed lives as long as the server, or is kept in the
project's files.
"""

from __future__ import annotations

import re
import time
from collections.abc import Callable, Iterable, Mapping
from threading import Lock
from typing import Any, Final
from urllib.parse import urlencode

import msgspec
from werkzeug.exceptions import (
    Forbidden,
    HTTPException,
    MethodNotAllowed,
    NotFound,
    UnsupportedMediaType,
)
from werkzeug.routing import Map, Rule
from werkzeug.serving import BaseWSGIServer, WSGIRequestHandler, make_server
from werkzeug.wrappers import Request, Response

from cadena.model.listing import Condition, Listing, Sort
from cadena.model.naming import singular
from cadena.model.problem import Problem
from cadena.model.source import Source
from cadena.model.values import Unfit, carry, words
from cadena.records.changes import Change, Changes
from cadena.records.query import Asked, query
from cadena.records.records import Records
from cadena.records.seeded_random import drawn, happens
from cadena.serve.description import described
from cadena.serve.keeping import Kept, Unkept
from cadena.serve.taking import Repeats, demand_version, problem, version_of
from cadena.sources.joined_tables import Clashes

LOOPBACK: Final = "127.0.0.1"
OF_THIS_MACHINE: Final = re.compile(r"http://(127\.0\.0\.1|localhost)(:[0-9]{1,5})?")
"""Pages that are served on this machine itself."""
LARGEST: Final = 1024 * 1024
WRITES: Final = ("create", "change", "remove")
WRITTEN_AS: Final = ("application/json", "application/merge-patch+json")
TO_PAGES: Final = {
    "access-control-allow-methods": "GET, POST, PUT, PATCH, DELETE",
    "access-control-allow-headers": "content-type, if-match, idempotency-key",
}
Start = Callable[..., Any]


class Served:
    """A WSGI application over the records of a project.

    Args:
        name: the app's name, for the description.
        records: of each source, as read.
        delay: ms that every answer takes, in place of each source's own; none for theirs.
        fails_one_in: how often a call fails, in place of each source's own; of what fails, half
            is done before.
        refuses_one_in: how often what is written is refused at a field, in place of its own.
        quicker_one_in: how often somebody else changes the record first, in place of its own.
        kept: the files that what is written is kept in; without them it lives in memory.
    """

    def __init__(
        self,
        name: str,
        records: Mapping[str, Records],
        delay: int | None = None,
        fails_one_in: int | None = None,
        refuses_one_in: int | None = None,
        quicker_one_in: int | None = None,
        kept: Kept | None = None,
    ) -> None:
        self.name = name
        self.records = dict(records)
        self.delay = delay
        self.kept = kept
        self.rates = {
            "fails_one_in": fails_one_in,
            "refuses_one_in": refuses_one_in,
            "quicker_one_in": quicker_one_in,
        }
        self._repeats = Repeats()
        self.calls = 0
        self._lock = Lock()
        self._writing = Lock()
        self._map = Map(
            [
                Rule("/openapi.json", endpoint="description", methods=["GET"]),
                Rule("/<source>", endpoint="list", methods=["GET"]),
                Rule("/<source>", endpoint="create", methods=["POST"]),
                Rule("/<source>/<path:key>", endpoint="item", methods=["GET"]),
                Rule("/<source>/<path:key>", endpoint="change", methods=["PATCH", "PUT"]),
                Rule("/<source>/<path:key>", endpoint="remove", methods=["DELETE"]),
            ]
        )

    def __call__(self, environ: dict[str, Any], start: Start) -> Iterable[bytes]:
        request = Request(environ)
        request.max_content_length = LARGEST
        request.trusted_hosts = [LOOPBACK, "localhost"]
        try:
            # A page from elsewhere may name this machine its own: refused by its host.
            _ = request.host
            _demand_own(request)
            if request.method == "OPTIONS":
                answer = Response(status=204, headers=TO_PAGES)
            else:
                endpoint, given = self._map.bind_to_environ(environ).match()
                answer = self._answer(request, endpoint, given)
        except HTTPException as refused:
            answer = problem(refused.code or 500, refused.description or refused.name)
        origin = request.headers.get("origin", "")
        if OF_THIS_MACHINE.fullmatch(origin):
            # An app that is tried out on this machine may read what it asks for (Fetch, CORS).
            answer.headers["access-control-allow-origin"] = origin
            answer.headers["access-control-expose-headers"] = "link, etag, location, retry-after"
        return answer(environ, start)

    def is_read_only(self, records: Records) -> bool:
        """Whether a source is only read: its file cannot be written back."""
        return self.kept is not None and not self.kept.takes(records)

    def _answer(self, request: Request, endpoint: str, given: Mapping[str, str]) -> Response:
        if endpoint == "description":
            only_read = {name for name, each in self.records.items() if self.is_read_only(each)}
            at = request.host_url.rstrip("/")
            document = described(self.name, self.records, at, only_read)
            return _json(document)
        records = self.records.get(given["source"])
        if records is None:
            have = ", ".join(self.records)
            raise NotFound(f"There is no source {given['source']}; there are {have}.")
        if endpoint in WRITES and self.is_read_only(records):
            raise MethodNotAllowed(description=f"The file of {records.source.id} is only read.")
        number, fails = self._call(records.source)
        is_write = endpoint in WRITES
        if fails and not (is_write and drawn(records.source.stand_in.seed, "how", number) % 2):
            answer = problem(503, "The stand-in fails this call, as it was asked to.")
            answer.headers["retry-after"] = "1"
            return answer
        if endpoint == "list":
            return self._list(request, records)
        if not is_write:
            record = _demand_record(records, given["key"])
            answer = _json(record)
            answer.set_etag(version_of(record))
            return answer
        answer = self._take(request, records.source.id, endpoint, given.get("key"), number)
        # It was done, and nobody is told.
        return problem(504, "The stand-in fails, after it was done.") if fails else answer

    def _call(self, source: Source) -> tuple[int, bool]:
        """Wait as long as the source's stand-in does: the number of the call, and whether it
        fails."""
        with self._lock:
            self.calls += 1
            number = self.calls
        own = source.served == "stand-in"
        delay = self.delay if self.delay is not None else source.stand_in.delay if own else 0
        time.sleep(delay / 1000)
        return number, self._happens(source, "fails", number)

    def _happens(self, source: Source, what: str, number: int) -> bool:
        rate = f"{what}_one_in"
        asked, own = self.rates[rate], source.served == "stand-in"
        one_in = getattr(source.stand_in, rate) if asked is None and own else asked or 0
        return happens(source.stand_in.seed, what, number, one_in)

    def _take(
        self, request: Request, name: str, endpoint: str, key: str | None, number: int
    ) -> Response:
        """Do what is written, as one step: nobody else's comes between."""
        with self._writing:
            if (said := self._repeats.said(request)) is not None:
                return said
            records = self.records[name]
            before = None if key is None else _demand_record(records, key)
            if before is not None and self._happens(records.source, "quicker", number):
                records, before = self._by_others(records, before)
            if before is not None:
                demand_version(request, before)
            if before is not None and endpoint == "remove":
                said = self._make(name, Changes(gone=(before[records.source.key],)))
                answer = said or Response(status=204)
            else:
                own = None if before is None else before[records.source.key]
                refuses = self._happens(records.source, "refuses", number)
                answer = self._answer_to_write(request, records, own, refuses)
            self._repeats.note(request, answer)
            return answer

    def _by_others(
        self, records: Records, record: Mapping[str, Any]
    ) -> tuple[Records, dict[str, Any]]:
        """Somebody else was quicker: a text of the record is another."""
        key = record[records.source.key]
        texts = (
            name
            for name, kind in records.types.items()
            if kind == "text" and name != records.source.key
        )
        name = next(texts, None)
        if name is not None:
            theirs: dict[str, Any] = {name: f"{record.get(name) or ''} *"}
            self._make(records.source.id, Changes(changed=(Change(key, theirs),)))
        now = self.records[records.source.id]
        return now, now.by_key(key) or dict(record)

    def _list(self, request: Request, records: Records) -> Response:
        """A page of records: ``page`` from 1, ``size``, ``q`` to search, ``sort`` by a field and
        ``order`` asc or desc, and fields to match."""
        asked = request.args
        page = max(1, asked.get("page", 1, type=int))
        size = min(1000, max(1, asked.get("size", records.source.stand_in.page, type=int)))
        where = tuple(
            Condition(field=name, constant=value)
            for name, text in asked.items()
            if name in records.types and (value := _read(text, records.types[name])) is not None
        )
        texts = tuple(name for name, kind in records.types.items() if kind == "text")
        down = asked.get("order") == "desc"
        by = asked.get("sort", "")
        sort = (Sort(field=by, descending=down),) if by in records.types else ()
        listing = Listing(source=records.source.id, where=where, search=texts, sort=sort)
        rows = query(records, listing, Asked(search=asked.get("q", "")))
        first = (page - 1) * size
        brings = records.source.list_brings
        found = [rows.record_at(at) for at in range(first, min(first + size, len(rows)))]
        if brings:
            kept = {*brings, records.source.key}
            found = [{n: v for n, v in each.items() if n in kept} for each in found]
        answer = _json(found)
        answer.headers["X-Total-Count"] = str(rows.found)
        if first + size < len(rows):
            following = request.args.to_dict() | {"page": str(page + 1), "size": str(size)}
            address = f"{request.base_url}?{_query(following)}"
            answer.headers["Link"] = f'<{address}>; rel="next"'
        return answer

    def _answer_to_write(
        self, request: Request, records: Records, key: Any, refuses: bool = False
    ) -> Response:
        """Create or change a record, once every field fits its type."""
        try:
            given = msgspec.json.decode(request.get_data())
        except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
            return problem(400, f"It is not JSON ({error}).")
        if not isinstance(given, dict):
            return problem(400, f"{words(given)} came, a record was wanted.")
        made: dict[str, Any] = {}
        faults: dict[str, str] = {}
        for name, value in given.items():
            if name not in records.types:
                faults[name] = "there is no such field"
                continue
            try:
                made[name] = None if value is None else carry(value, records.types[name])
            except Unfit as unfit:
                faults[name] = str(unfit)
        name = records.source.key
        for field in records.source.fields:
            is_missing = field.required and made.get(field.name) is None
            if key is None and is_missing and field.name != name:
                faults[field.name] = "it is required"
        if key is not None and made.get(name, key) != key:
            faults[name] = "it is the key, and a key does not change"
        if key is None:
            if made.get(name) is None:
                made[name] = records.unused_key(singular(records.source.id))
            if made[name] is None:
                faults[name] = "a key is required: there is no next one"
            elif records.row_of(made[name]) is not None:
                faults[name] = "it is taken"
        if refuses and made:
            faults[sorted(made)[-1]] = "it is not taken, as the stand-in was asked to say"
        if faults:
            return problem(422, "It does not fit.", faults)
        changes = Changes(added=(made,))
        if key is not None:
            made.pop(name, None)
            changes = Changes(changed=(Change(key, made),))
        if (said := self._make(records.source.id, changes)) is not None:
            return said
        now = self.records[records.source.id]
        key = made[name] if key is None else key
        record = now.by_key(key)
        answer = _json(record, 201 if name in made else 200)
        answer.set_etag(version_of(record or {}))
        answer.headers["Location"] = f"/{records.source.id}/{key}"
        return answer

    def _make(self, source: str, changes: Changes) -> Response | None:
        """Make changes; a problem where they cannot be kept, and nothing is changed."""
        with self._lock:
            records = self.records[source]
            if self.kept is None:
                self.records[source] = records.with_changes(changes)
                return None
            try:
                self.kept.write(self.records, source, changes)
            except Clashes:
                return problem(409, "Somebody has changed it in its file meanwhile.")
            except Unkept as unkept:
                return problem(422, "It does not fit.", {unkept.field: unkept.found})
            except Problem as refused:
                return problem(507, str(refused))
            return None


def _demand_own(request: Request) -> None:
    """Refuse what changes records and comes from a web page of another machine."""
    if request.method in ("GET", "HEAD", "OPTIONS"):
        return
    origin = request.headers.get("origin")
    site = request.headers.get("sec-fetch-site", "none")
    is_own = (
        site in ("none", "same-origin") if origin is None else OF_THIS_MACHINE.fullmatch(origin)
    )
    if not is_own:
        raise Forbidden(f"A page of {origin or 'another host'} cannot change records here.")
    if request.method != "DELETE" and request.mimetype not in WRITTEN_AS:
        raise UnsupportedMediaType(f"Records are written as {' or '.join(WRITTEN_AS)}.")


def _read(text: str, kind: str) -> Any:
    try:
        return carry(text, kind, convert=True)
    except Unfit:
        return None


def _key(records: Records, text: str) -> Any:
    """A key as it stands in an address: text, read as the type of the key."""
    return _read(text, records.types.get(records.source.key, "text"))


def _demand_record(records: Records, text: str) -> dict[str, Any]:
    """The record of a key that stands in an address.

    Raises:
        NotFound: where there is none.
    """
    key = _key(records, text)
    record = None if key is None else records.by_key(key)
    if record is None:
        raise NotFound(f"{records.source.id} has no record {text}.")
    return record


def _query(parameters: Mapping[str, str]) -> str:
    return urlencode(parameters)


def _json(value: Any, status: int = 200) -> Response:
    return Response(msgspec.json.encode(value), status, content_type="application/json")


class Quiet(WSGIRequestHandler):
    """Says nothing of the calls it answers."""

    def log(self, type: str, message: str, *args: object) -> None:
        return


def server(served: Served, port: int = 0) -> BaseWSGIServer:
    """A server on loopback; port 0 takes a free one.

    Raises:
        OSError: when the port is taken.
    """
    return make_server(LOOPBACK, port, served, threaded=True, request_handler=Quiet)
