"""What an app in a browser asks of services, and is answered: overheard, and never asked again.

The engine's own calls are answered with it. So each request that is wired must really have been
made, word by word, and what was written is written once.
"""

from __future__ import annotations

import base64
import json
import time
from collections.abc import Mapping
from typing import Any, Final, NamedTuple
from urllib.parse import parse_qsl, urlsplit

import httpx

from cadena.deliver.drive.webdriver import Browser, Gone
from cadena.model.problem import Problem

OF_WRITES: Final = ("content-type", "if-match", "idempotency-key")
"""Headers of a write that mean something; of the last only that it is there: it is made up."""
MADE_UP: Final = "idempotency-key"
PACKED: Final = ("content-encoding", "content-length", "transfer-encoding")
"""What says how an answer came, and not what it is."""
PAUSE: Final = 0.01


class Odd(NamedTuple):
    """What was asked otherwise than it is wired."""

    what: str
    wanted: str
    got: str


class _Heard:
    """One request of the page, and its answer once that has come."""

    def __init__(self, asked: Mapping[str, Any]) -> None:
        self.method = str(asked.get("method", "GET"))
        self.address = str(asked.get("url", ""))
        headers = asked.get("headers")
        self.headers = {str(k).lower(): str(v) for k, v in (headers or {}).items()}
        self.body = str(asked.get("postData") or "")
        self.status = 0
        self.answered: dict[str, str] = {}
        self.came: bytes | None = None
        self.failed = False

    @property
    def is_whole(self) -> bool:
        return self.failed or self.came is not None


class Overheard(httpx.BaseTransport):
    """Answers a request with what the page was answered to the same one.

    Args:
        browser: begun so that it tells what goes over the network.
        patience: how long the page is waited for to ask, in seconds.

    ``odd`` is what the page asked otherwise, or did not ask, since it was last forgotten.
    """

    def __init__(self, browser: Browser, patience: float) -> None:
        self.browser = browser
        self.patience = patience
        self.odd: list[Odd] = []
        self._heard: dict[str, _Heard] = {}

    def forget(self) -> None:
        """Let go of all that was asked: from now on counts what comes."""
        self._listen()
        self._heard.clear()
        self.odd.clear()

    def left(self) -> list[Odd]:
        """What the page has written, and is not wired; what else it has asked is let go."""
        self._listen()
        some = [each for each in self._heard.values() if each.method not in ("GET", "HEAD")]
        self._heard.clear()
        return [
            Odd("what is sent", "nothing", _request_line(e.method, e.address, e.body)) for e in some
        ]

    def handle_request(self, request: httpx.Request) -> httpx.Response:
        until = time.monotonic() + self.patience
        wanted = _request_line(request.method, str(request.url), request.content.decode())
        while True:
            self._listen()
            found = next((n for n, e in self._heard.items() if _is_same(e, request)), None)
            if found is not None and self._heard[found].is_whole:
                break
            if time.monotonic() > until:
                what = "an answer" if found is not None else "what is asked of a service"
                got = "none came" if found is not None else self._others(request.method)
                self.odd.append(Odd(what, wanted, got))
                raise httpx.ConnectError("the app did not ask")
            time.sleep(PAUSE)
        heard = self._heard.pop(found)
        self._compare(heard, request)
        if heard.failed or heard.came is None:
            raise httpx.ReadError("the app had no answer")
        headers = {k: v for k, v in heard.answered.items() if k not in PACKED}
        return httpx.Response(heard.status, headers=headers, content=heard.came, request=request)

    def _others(self, method: str) -> str:
        asked = [e for e in self._heard.values() if e.method == method]
        return ", ".join(_request_line(e.method, e.address, e.body) for e in asked) or "it was not"

    def _compare(self, heard: _Heard, request: httpx.Request) -> None:
        if request.method == "GET":
            return
        for name in OF_WRITES:
            wanted, got = request.headers.get(name), heard.headers.get(name)
            if name == MADE_UP:
                wanted, got = ("one" if each else None for each in (wanted, got))
            if wanted != got:
                self.odd.append(Odd(f"header {name}", wanted or "none", got or "none"))
        body = request.content.decode()
        if _tree(heard.body) != _tree(body):
            self.odd.append(Odd("what is sent", body, heard.body))

    def _listen(self) -> None:
        """Take in what has gone over the network since."""
        for method, told in self.browser.network():
            number = str(told.get("requestId", ""))
            if method == "Network.requestWillBeSent":
                asked = told.get("request") or {}
                if told.get("type") != "Preflight" and asked.get("method") != "OPTIONS":
                    self._heard[number] = _Heard(asked)
                continue
            heard = self._heard.get(number)
            if heard is None:
                continue
            if method == "Network.responseReceived":
                answer = told.get("response") or {}
                heard.status = int(answer.get("status") or 0)
                heard.answered = {k.lower(): v for k, v in (answer.get("headers") or {}).items()}
            elif method == "Network.loadingFinished":
                heard.came = self._body_of(number)
            elif method == "Network.loadingFailed":
                heard.failed = True

    def _body_of(self, number: str) -> bytes:
        try:
            came = self.browser.devtools("Network.getResponseBody", requestId=number)
        except (Gone, Problem):
            # An answer with nothing in it has no body to tell.
            return b""
        text = str(came.get("body", ""))
        return base64.b64decode(text) if came.get("base64Encoded") else text.encode()


def _is_same(heard: _Heard, request: httpx.Request) -> bool:
    return heard.method == request.method and _place(heard.address) == _place(str(request.url))


def _place(address: str) -> tuple[str, str, str, tuple[tuple[str, str], ...]]:
    parts = urlsplit(address)
    query = tuple(sorted(parse_qsl(parts.query, keep_blank_values=True)))
    return parts.scheme, parts.netloc, parts.path, query


def _tree(text: str) -> Any:
    try:
        return json.loads(text)
    except ValueError:
        return text


def _request_line(method: str, address: str, body: str) -> str:
    return " ".join(filter(None, (method, address, body)))
