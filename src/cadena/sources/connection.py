"""One HTTP call after another to the host of a service: bounded in size, time and redirects.

What it answers is not trusted: it may be slow, gone, endless, packed without end, lead in circles
or elsewhere. What a header names of the environment is filled in here alone, as it is sent.
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

from cadena.model.problem import Problem

PATIENCE: Final = 15.0
LONGEST: Final = 60.0
LARGEST: Final = 32 * 1024 * 1024
MOST_REDIRECTS: Final = 5
MOST_EXCHANGES: Final = 1_000
KEEPS_METHOD: Final = (307, 308)
"""Redirects after which the same is sent once more (RFC 9110, 15.4)."""
WEB: Final = "http:// or https://"
ASKED: Final = {
    "accept": "application/json, application/x-ndjson",
    "accept-encoding": "gzip, identity",
}
UNPACKS: Final = {"identity": 0, "": 0, "gzip": 31, "x-gzip": 31, "deflate": 47}
"""How zlib is told to unpack each; 0 is as it is."""
NAMED_IN: Final = re.compile(r"\$\{(CADENA_[A-Z0-9_]+)\}")
"""What a header names of the environment: ``Bearer ${CADENA_TOKEN}``."""


class Exchange(NamedTuple):
    """A request and what came of it; no ``status`` where no answer came. ``took`` is in seconds."""

    method: str
    address: str
    status: int | None
    took: float

    def __str__(self) -> str:
        came = "no answer" if self.status is None else str(self.status)
        return f"{self.method} {self.address} → {came}, {self.took * 1000:.0f} ms"


class Answer(NamedTuple):
    """What a call came to, all of it; ``address`` is where it was in the end."""

    status: int
    headers: httpx.Headers
    raw: bytes
    address: str
    links: Mapping[str | None, Mapping[str, str]]

    @property
    def kind(self) -> str:
        """The media type, without its parameters."""
        return str(self.headers.get("content-type", "")).partition(";")[0].strip().lower()

    @property
    def is_page(self) -> bool:
        """Whether it is a page for people: of a gate on the way, or of a service that is not it."""
        return self.raw.lstrip()[:1] == b"<" or self.kind == "text/html"


class Connection:
    """Calls to one host. The client may be given, for another transport.

    Args:
        home: an address of the host; no other is ever called.
        headers: sent with each call, filled from the environment.
        patience: the longest wait for an answer to begin, in seconds.
        longest: the longest that one answer may take in all, in seconds.

    ``exchanges`` are the calls made, the newest last.
    """

    def __init__(
        self,
        home: str,
        headers: Mapping[str, str],
        client: httpx.Client | None = None,
        patience: float = PATIENCE,
        longest: float = LONGEST,
    ) -> None:
        self.home = home
        self.headers = headers
        self.longest = longest
        self.exchanges: list[Exchange] = []
        self._client, self._patience = client, patience

    @property
    def client(self) -> httpx.Client:
        """Made when it is first needed; each call has a connection of its own, which can be cut
        off."""
        if self._client is None:
            limits = httpx.Limits(max_keepalive_connections=0)
            self._client = httpx.Client(timeout=self._patience, trust_env=False, limits=limits)
        return self._client

    def close(self) -> None:
        if self._client is not None:
            self._client.close()

    def ask(
        self,
        method: str,
        address: str,
        parameters: Mapping[str, str] | None = None,
        headers: Mapping[str, str] | None = None,
        body: bytes | None = None,
    ) -> Answer:
        """Make a call. Only what asks for the same once more is followed, where it writes.

        Raises:
            Problem: naming the address, where no answer came that could be taken.
        """
        first, home = address, host_of(self.home)
        until, asked = time.monotonic() + self.longest, dict(parameters or {})
        for _ in range(MOST_REDIRECTS):
            if host_of(address) != home:
                host = urlsplit(address).netloc or address
                raise Problem(first, "", f"it leads to {host}", "an answer of its own")
            with self._answering(method, address, asked, headers or {}, body, until) as answer:
                if answer.has_redirect_location:
                    if method != "GET" and answer.status_code not in KEEPS_METHOD:
                        raise Problem(first, "", "it leads elsewhere", "an answer of its own")
                    address = joined(str(answer.url), answer.headers["location"])
                    asked = {}
                    continue
                raw, came = self._body_of(answer, first, until), answer
                return Answer(came.status_code, came.headers, raw, str(came.url), dict(came.links))
        raise Problem(first, "", f"it leads on {MOST_REDIRECTS} times", "an answer")

    @contextmanager
    def _answering(
        self,
        method: str,
        address: str,
        parameters: Mapping[str, str],
        more: Mapping[str, str],
        body: bytes | None,
        until: float,
    ) -> Iterator[httpx.Response]:
        sockets: list[socket.socket] = []
        # An answer whose head drips never lets the reader look at the time: it is cut off.
        cut = threading.Timer(max(0.0, until - time.monotonic()), _shut, [sockets])
        cut.daemon = True
        cut.start()
        begun, status, said = time.monotonic(), None, address
        try:
            url = httpx.URL(address).copy_merge_params(parameters)
            said = str(url)
            own = {name: filled(name, value) for name, value in self.headers.items()}
            headers, seen = {**ASKED, **more, **own}, {"trace": partial(_connected, sockets)}
            with self.client.stream(
                method, url, headers=headers, content=body, extensions=seen
            ) as answer:
                status = answer.status_code
                yield answer
        except (httpx.HTTPError, httpx.InvalidURL, httpx.StreamError, ValueError) as error:
            reason = str(error) or type(error).__name__
            if time.monotonic() >= until:
                reason = f"it took over {self.longest:g} s"
            raise Problem(address, "", f"it does not answer ({reason})", "a service") from None
        finally:
            cut.cancel()
            del self.exchanges[:-MOST_EXCHANGES]
            took = time.monotonic() - begun
            self.exchanges.append(Exchange(method, said, status, took))

    def _body_of(self, answer: httpx.Response, address: str, until: float) -> bytes:
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
    for open_socket in sockets:
        with suppress(OSError):
            open_socket.shutdown(socket.SHUT_RDWR)
