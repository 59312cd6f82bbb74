"""Calling an HTTP service for records: list calls page by page, and item calls.

Nothing here is called but when a person asks for it. What a service answers is not trusted:
it may be slow, gone, endless, no JSON, lead in circles, or say the same page again and again.
"""

from __future__ import annotations

import os
import re
import socket
import threading
import time
import zlib
from collections.abc import Iterator, Mapping
from contextlib import contextmanager, suppress
from functools import partial
from typing import Any, Final, NamedTuple
from urllib.parse import urljoin, urlsplit

import httpx
import msgspec
import uritemplate

from cadena.model.listing import Sort
from cadena.model.problem import Problem
from cadena.model.service_order import sort_asked
from cadena.model.source import Paging, Service, Source
from cadena.model.values import Scalar, shown
from cadena.records.reading import Fault, Progress, Reading, silent
from cadena.sources.read_json import (
    arrays_in,
    columns_of,
    decoded,
    holds_no_array,
    lines_in,
    pointed,
)

PATIENCE: Final = 15.0
LONGEST: Final = 60.0
LARGEST: Final = 32 * 1024 * 1024
MOST_PAGES: Final = 2000
MOST_REDIRECTS: Final = 5
MOST_SAID: Final = 3
OURS: Final = "key"
WEB: Final = "http:// or https://"
LINES: Final = frozenset(
    f"application/{each}" for each in ("x-ndjson", "ndjson", "jsonl", "x-jsonlines", "json-lines")
)
"""What an answer of a record a line calls itself."""
ASKED: Final = {
    "accept": "application/json, application/x-ndjson",
    "accept-encoding": "gzip, identity",
}
UNPACKS: Final = {"identity": 0, "": 0, "gzip": 31, "x-gzip": 31, "deflate": 47}
"""How zlib is told to unpack each; 0 is as it is."""
NAMED_IN: Final = re.compile(r"\$\{(CADENA_[A-Z0-9_]+)\}")
"""What a header names of the environment: ``Bearer ${CADENA_TOKEN}``."""


class Page(NamedTuple):
    """What one list call brought; ``following`` is what to ask for next, if there is more."""

    records: list[Any]
    following: str | int | None


class Asked(NamedTuple):
    """What is asked of a list call, as far as the service says how: a word, an order, and values
    of fields."""

    search: str = ""
    sort: tuple[Sort, ...] = ()
    kept: Mapping[str, Scalar] = {}


NOTHING: Final = Asked()


class Caller:
    """Calls one service. The client may be given, for another transport.

    Args:
        patience: the longest wait for an answer to begin, in seconds.
        longest: the longest that one answer may take in all, in seconds.
    """

    def __init__(
        self,
        service: Service,
        client: httpx.Client | None = None,
        patience: float = PATIENCE,
        longest: float = LONGEST,
    ) -> None:
        self.service = service
        self.longest = longest
        # Each call has a connection of its own, which can be cut off.
        limits = httpx.Limits(max_keepalive_connections=0)
        self.client = client or httpx.Client(timeout=patience, trust_env=False, limits=limits)

    def close(self) -> None:
        self.client.close()

    def page(self, following: str | int | None = None, asked: Asked = NOTHING) -> Page:
        """Make a list call.

        Args:
            following: what the page before said comes next; none for the first page.
            asked: which records, and in what order.

        Raises:
            Problem: naming the address and what came of it.
        """
        paging = self.service.paging
        at = paging.first if following is None and paging.by == "page" else following or 0
        address = str(following) if isinstance(following, str) else self._at(asked.kept)
        parameters: dict[str, str] = {}
        if not isinstance(following, str):
            parameters = self._asked_for(asked)
            if paging.by in ("page", "offset") and paging.parameter:
                parameters[paging.parameter] = str(at)
            if paging.size_parameter:
                parameters[paging.size_parameter] = str(paging.size)
        answer, tree = self._json(address, parameters)
        found = pointed(tree, self.service.records, address)
        if not isinstance(found, list):
            raise Wrapped(address, self.service.records, found, tree)
        return Page(_of(self._keyed(found), asked.kept), self._following(answer, tree, found, at))

    def _at(self, kept: Mapping[str, Scalar]) -> str:
        """The address of the list call, its variables filled.

        Raises:
            Problem: where one of them is not known.
        """
        return self._filled(self.service.list, kept, {})

    def _filled(self, template: str, kept: Mapping[str, Scalar], more: dict[str, str]) -> str:
        keeps = self.service.keeps
        named = {keeps[field]: shown(each) for field, each in kept.items() if field in keeps}
        given = {name: each for name, each in self.service.given.items() if each}
        values: dict[str, Any] = {**given, **named, **more}
        missing = [str(e) for e in uritemplate.variables(template) if str(e) not in values]
        if missing:
            said = f"{missing[0]} is not known"
            raise Problem(template, "", said, f"a value for {missing[0]} of this source")
        return str(uritemplate.expand(template, values))

    def _asked_for(self, asked: Asked) -> dict[str, str]:
        """The query parameters that ask for a word, an order, and values of fields."""
        service = self.service
        inside = {str(each) for each in uritemplate.variables(service.list)}
        found = {
            service.keeps[field]: shown(value)
            for field, value in asked.kept.items()
            if field in service.keeps and service.keeps[field] not in inside
        }
        if service.search and asked.search:
            found[service.search] = asked.search
        return found | sort_asked(service, asked.sort)

    def _following(
        self, answer: httpx.Response, tree: Any, found: list[Any], at: Any
    ) -> str | int | None:
        paging = self.service.paging
        if paging.by == "cursor":
            return _cursor(answer, tree, paging)
        if paging.by == "link":
            link = answer.links.get("next", {}).get("url")
            return joined(str(answer.url), link) if link else None
        if not found or paging.by == "none":
            return None
        if paging.size_parameter and len(found) < paging.size:
            return None
        return int(at) + (1 if paging.by == "page" else len(found))

    def item(self, key: Scalar, kept: Mapping[str, Scalar] | None = None) -> dict[str, Any] | None:
        """Make an item call; none where the service has no such record (404 or 410).

        Raises:
            Problem: as ``page``.
        """
        address = self._filled(self.service.item, kept or {}, {"key": shown(key)})
        try:
            _, tree = self._json(address, {})
        except _Missing:
            return None
        found = pointed(tree, self.service.record, address)
        if not isinstance(found, dict):
            raise Problem(address, self.service.record or "$", "it holds no record", "an object")
        return _of(self._keyed([found]), kept or {})[0]  # type: ignore[no-any-return]

    def _keyed(self, records: list[Any]) -> list[Any]:
        """Records with the last part of their own address as key, where they have none."""
        name = self.service.key_from_address
        if not name:
            return records
        return [
            {OURS: _last_part(str(each.get(name) or "")), **each}
            if isinstance(each, dict)
            else each
            for each in records
        ]

    def raw(self, address: str) -> bytes:
        """What stands at an address, such as the description of a service.

        Raises:
            Problem: as ``page``.
        """
        return self._asked(address, {})[1]

    def _json(self, address: str, parameters: dict[str, str]) -> tuple[httpx.Response, Any]:
        answer, raw = self._asked(address, parameters)
        kind = answer.headers.get("content-type", "").partition(";")[0]
        if raw.lstrip()[:1] == b"<" or kind == "text/html":
            raise Problem(address, "", f"it answers with {kind or 'a page'}", "JSON")
        if kind in LINES:
            return answer, lines_in(raw, address)[0] if raw.strip() else []
        return answer, decoded(raw, address)

    def _asked(self, address: str, parameters: dict[str, str]) -> tuple[httpx.Response, bytes]:
        """The answer to a call, and what it holds; never from another host than the service's."""
        first, home = address, host_of(self.service.list)
        until = time.monotonic() + self.longest
        for _ in range(MOST_REDIRECTS):
            if host_of(address) != home:
                host = urlsplit(address).netloc or address
                raise Problem(first, "", f"it leads to {host}", "an answer of its own")
            with self._answering(address, parameters, until) as answer:
                if answer.has_redirect_location:
                    address = joined(str(answer.url), answer.headers["location"])
                    parameters = {}
                    continue
                if answer.status_code in (404, 410):
                    raise _Missing(first, "", f"it answers {answer.status_code}", "records")
                if answer.status_code != 200:
                    raise Problem(first, "", f"it answers {answer.status_code}", "200 and records")
                return answer, self._held(answer, first, until)
        raise Problem(first, "", f"it leads on {MOST_REDIRECTS} times", "an answer")

    @contextmanager
    def _answering(
        self, address: str, parameters: dict[str, str], until: float
    ) -> Iterator[httpx.Response]:
        sockets: list[socket.socket] = []
        # An answer whose head drips never lets the reader look at the time: it is cut off.
        cut = threading.Timer(max(0.0, until - time.monotonic()), _shut, [sockets])
        cut.daemon = True
        cut.start()
        try:
            url = httpx.URL(address).copy_merge_params(parameters)
            headers = {**ASKED, **{k: filled(k, v) for k, v in self.service.headers.items()}}
            seen = {"trace": partial(_connected, sockets)}
            with self.client.stream("GET", url, headers=headers, extensions=seen) as answer:
                yield answer
        except (httpx.HTTPError, httpx.InvalidURL, httpx.StreamError, ValueError) as error:
            reason = str(error) or type(error).__name__
            if time.monotonic() >= until:
                reason = f"it took over {self.longest:g} s"
            raise Problem(address, "", f"it does not answer ({reason})", "a service") from None
        finally:
            cut.cancel()

    def _held(self, answer: httpx.Response, address: str, until: float) -> bytes:
        """What an answer holds, of bounded size and time, packed or not."""
        packed = answer.headers.get("content-encoding", "identity").lower()
        if packed not in UNPACKS:
            raise Problem(address, "", f"the answer is packed as {packed}", "plain JSON, or gzip")
        unpack = zlib.decompressobj(UNPACKS[packed]) if UNPACKS[packed] else None
        pieces: list[bytes] = []
        size = 0
        # What was given whole is unpacked already.
        whole = answer.is_stream_consumed
        for piece in [answer.content] if whole else answer.iter_raw():
            if unpack is not None and not whole:
                try:
                    piece = unpack.decompress(piece, LARGEST + 1)
                except zlib.error as error:
                    raise Problem(address, "", f"it cannot be unpacked ({error})", "JSON") from None
            pieces.append(piece)
            size += len(piece)
            if size > LARGEST:
                raise Problem(address, "", f"the answer is over {LARGEST >> 20} MiB", "less a page")
            if time.monotonic() > until:
                break
        if time.monotonic() > until:
            raise Problem(address, "", f"the answer takes over {self.longest:g} s", "less")
        return b"".join(pieces)


def _cursor(answer: httpx.Response, tree: Any, paging: Paging) -> str | None:
    """The address of the next page, as an answer says it; none where it says nothing of one."""
    said: Any = answer.headers.get(paging.next) if paging.next[:1] != "/" else None
    if paging.next[:1] == "/":
        with suppress(Problem):
            said = pointed(tree, paging.next, "")
    if isinstance(said, bool) or not isinstance(said, str | int) or said == "":
        return None
    text = str(said)
    if text.startswith(("http://", "https://", "/", "?")):
        return joined(str(answer.url), text)
    return str(answer.url.copy_merge_params({paging.parameter: text})) if paging.parameter else None


def _of(records: list[Any], kept: Mapping[str, Scalar]) -> list[Any]:
    """Records with what they were asked for by, where they do not say it themselves."""
    if not kept:
        return records
    return [{**kept, **each} if isinstance(each, dict) else each for each in records]


def _last_part(address: str) -> str:
    """The last part of the path of an address; nothing, where it is none."""
    try:
        return urlsplit(address).path.rstrip("/").rpartition("/")[2]
    except ValueError:
        return ""


def host_of(address: str) -> tuple[str, str]:
    """The scheme and the host, with its port, of a web address.

    Raises:
        Problem: when it is none.
    """
    try:
        parts = urlsplit(address)
        scheme, host = parts.scheme.lower(), parts.netloc.lower()
        _ = parts.port
    except ValueError as error:
        raise Problem(address, "", f"it is no web address ({error})", WEB) from None
    if scheme not in ("http", "https") or not host:
        raise Problem(address, "", "it is no web address", WEB)
    return scheme, host


def joined(base: str, address: str) -> str:
    """An address as a page at another one means it.

    Raises:
        Problem: when it is none.
    """
    try:
        return urljoin(base, address)
    except ValueError as error:
        raise Problem(address, "", f"it is no web address ({error})", WEB) from None


def filled(name: str, value: str) -> str:
    """A header's value, with what it names of the environment.

    Only names that begin with CADENA_ are taken, so that no project can ask for others.

    Raises:
        Problem: for one that is not set, or a value that HTTP does not allow.
    """

    def named(found: re.Match[str]) -> str:
        held = os.environ.get(found[1])
        if held is None:
            said = f"it names {found[1]}, which is not set"
            raise Problem("environment", f"header {name}", said, f"export {found[1]}=…")
        return held

    value = NAMED_IN.sub(named, value)
    if not re.fullmatch(r"[!#$%&'*+.^_`|~0-9A-Za-z-]+", name) or not re.fullmatch(
        r"[\t\x20-\x7e\x80-\xff]*", value
    ):
        raise Problem("headers", name, "HTTP has no such header", "plain letters in one line")
    return value


def _connected(sockets: list[socket.socket], event: str, info: dict[str, Any]) -> None:
    """Keeps what was connected, so that it can be cut off."""
    if event == "connection.connect_tcp.complete":
        stream = info.get("return_value")
        held = None if stream is None else stream.get_extra_info("socket")
        if held is not None:
            sockets.append(held)


def _shut(sockets: list[socket.socket]) -> None:
    for each in sockets:
        with suppress(OSError):
            each.shutdown(socket.SHUT_RDWR)


class Wrapped(Problem):
    """A list call brings something that holds its records, such as ``{"items": []}``.

    Attributes:
        pointers: the arrays of records in it, by JSON Pointer.
    """

    def __init__(self, address: str, at: str, found: Any, tree: Any) -> None:
        self.pointers = tuple(pointer for pointer, _ in arrays_in(tree))
        wanted = "an array"
        if self.pointers:
            wanted += f", such as that at {' or '.join(self.pointers[:MOST_SAID])}"
            wanted += f": say which, as in {address.partition('?')[0]}#{self.pointers[0]}"
        super().__init__(address, at or "$", holds_no_array(found), wanted)


class _Missing(Problem):
    """The service has nothing at an address."""


def bring(source: Source, caller: Caller, progress: Progress = silent) -> tuple[Reading, list[Any]]:
    """Bring all records of a source, page by page.

    A page that repeats ends it, and is counted; so does a failure after the first page.

    Returns:
        The columns, and the records as they came.

    Raises:
        Problem: when the first page does not come.
    """
    records: list[Any] = []
    seen: set[bytes] = set()
    faults: tuple[Fault, ...] = ()
    following: str | int | None = None
    for number in range(MOST_PAGES):
        try:
            page = caller.page(following)
        except Problem as problem:
            if not number:
                raise
            faults += (Fault(1, f"page did not come: {problem.found}", (f"page {number + 1}",)),)
            break
        print_of = msgspec.json.encode(page.records, order="sorted")
        if page.records and print_of in seen:
            said = "page repeats one before it; the rest was not asked for"
            faults += (Fault(1, said, (f"page {number + 1}",)),)
            break
        seen.add(print_of)
        records += page.records
        progress(1 - 1 / (number + 2))
        following = page.following
        if following is None:
            break
    else:
        faults += (Fault(1, f"service has over {MOST_PAGES} pages; the rest was not asked for"),)
    reading = columns_of(records, source.id, "record")
    return Reading(reading.frame, faults + reading.faults), records
