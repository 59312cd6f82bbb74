"""The stand-in service for other programs: the records of a project over real HTTP.

On loopback only. List, item, create, change and remove, with an OpenAPI document of itself;
what is changed lives as long as the server.
"""

from __future__ import annotations

import re
import time
from collections.abc import Callable, Iterable, Mapping
from threading import Lock
from typing import Any, Final
from urllib.parse import urlencode

import msgspec
from werkzeug.exceptions import Forbidden, HTTPException, NotFound, UnsupportedMediaType
from werkzeug.routing import Map, Rule
from werkzeug.serving import BaseWSGIServer, WSGIRequestHandler, make_server
from werkzeug.wrappers import Request, Response

from cadena.model.listing import Condition, Listing, Sort
from cadena.model.naming import singular
from cadena.model.source import Source
from cadena.model.values import Unfit, carry, words
from cadena.records.changes import Change, Changes
from cadena.records.query import Asked, query
from cadena.records.records import Records
from cadena.records.seeded_random import happens
from cadena.serve.description import described

LOOPBACK: Final = "127.0.0.1"
OF_THIS_MACHINE: Final = re.compile(r"http://(127\.0\.0\.1|localhost)(:[0-9]{1,5})?")
"""Pages that are served on this machine itself."""
LARGEST: Final = 1024 * 1024
Start = Callable[..., Any]


class Served:
    """A WSGI application over the records of a project.

    Args:
        name: the app's name, for the description.
        records: of each source, as read.
        delay: ms that every answer takes, in place of each source's own; none for theirs.
        fails_one_in: how often a call fails, in place of each source's own.
    """

    def __init__(
        self,
        name: str,
        records: Mapping[str, Records],
        delay: int | None = None,
        fails_one_in: int | None = None,
    ) -> None:
        self.name = name
        self.records = dict(records)
        self.delay = delay
        self.fails_one_in = fails_one_in
        self.calls = 0
        self._lock = Lock()
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
            endpoint, given = self._map.bind_to_environ(environ).match()
            answer = self._answer(request, endpoint, given)
        except HTTPException as refused:
            answer = _said(refused.code or 500, refused.description or refused.name)
        origin = request.headers.get("origin", "")
        if OF_THIS_MACHINE.fullmatch(origin):
            # An app that is tried out on this machine may read what it asks for (Fetch, CORS).
            answer.headers["access-control-allow-origin"] = origin
            answer.headers["access-control-expose-headers"] = "link"
        return answer(environ, start)

    def _answer(self, request: Request, endpoint: str, given: Mapping[str, str]) -> Response:
        if endpoint == "description":
            document = described(self.name, self.records, request.host_url.rstrip("/"))
            return _json(document)
        records = self.records.get(given["source"])
        if records is None:
            have = ", ".join(self.records)
            raise NotFound(f"There is no source {given['source']}; there are {have}.")
        if self._fails(records.source):
            return _said(503, "The stand-in fails this call, as it was asked to.")
        if endpoint == "list":
            return self._list(request, records)
        if endpoint == "create":
            return self._written(request, records, None)
        key = _key(records, given["key"])
        record = None if key is None else records.by_key(key)
        if record is None or key is None:
            raise NotFound(f"{records.source.id} has no record {given['key']}.")
        if endpoint == "item":
            return _json(record)
        if endpoint == "change":
            return self._written(request, records, key)
        self._make(records.source.id, Changes(gone=(key,)))
        return Response(status=204)

    def _fails(self, source: Source) -> bool:
        """Wait as long as the source's stand-in does, and tell whether this call fails."""
        with self._lock:
            self.calls += 1
            number = self.calls
        stand_in = source.stand_in
        own = source.served == "stand-in"
        delay = self.delay if self.delay is not None else stand_in.delay if own else 0
        one_in = self.fails_one_in
        one_in = one_in if one_in is not None else stand_in.fails_one_in if own else 0
        time.sleep(delay / 1000)
        return happens(stand_in.seed, "fails", number, one_in)

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

    def _written(self, request: Request, records: Records, key: Any) -> Response:
        """Create or change a record, once every field fits its type."""
        try:
            given = msgspec.json.decode(request.get_data())
        except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
            return _said(400, f"It is not JSON ({error}).")
        if not isinstance(given, dict):
            return _said(400, f"{words(given)} came, a record was wanted.")
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
        if faults:
            return _json({"error": "It does not fit.", "fields": faults}, 422)
        if key is None:
            self._make(records.source.id, Changes(added=(made,)))
        else:
            made.pop(name, None)
            self._make(records.source.id, Changes(changed=(Change(key, made),)))
        now = self.records[records.source.id]
        key = made[name] if key is None else key
        answer = _json(now.by_key(key), 201 if name in made else 200)
        answer.headers["Location"] = f"/{records.source.id}/{key}"
        return answer

    def _make(self, source: str, changes: Changes) -> None:
        with self._lock:
            self.records[source] = self.records[source].with_changes(changes)


def _demand_own(request: Request) -> None:
    """Refuse what changes records and comes from a web page of another host."""
    if request.method in ("GET", "HEAD", "OPTIONS"):
        return
    origin = request.headers.get("origin")
    site = request.headers.get("sec-fetch-site", "none")
    if origin not in (None, request.host_url.rstrip("/")) or site not in ("none", "same-origin"):
        raise Forbidden(f"A page of {origin or 'another host'} cannot change records here.")
    if request.method != "DELETE" and request.mimetype != "application/json":
        raise UnsupportedMediaType("Records are written as application/json.")


def _read(text: str, kind: str) -> Any:
    try:
        return carry(text, kind, convert=True)
    except Unfit:
        return None


def _key(records: Records, text: str) -> Any:
    """A key as it stands in an address: text, read as the type of the key."""
    return _read(text, records.types.get(records.source.key, "text"))


def _query(parameters: Mapping[str, str]) -> str:
    return urlencode(parameters)


def _json(value: Any, status: int = 200) -> Response:
    return Response(msgspec.json.encode(value), status, content_type="application/json")


def _said(status: int, text: str) -> Response:
    return _json({"error": text}, status)


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
