"""A small service with other habits: bare arrays, versions told apart, keys that are texts, and
faults by field. What is asked of it may fail: before it was done, after, or without an answer."""

from __future__ import annotations

import json
import random
from collections.abc import Callable, Iterable
from threading import Lock
from typing import Any

from werkzeug.wrappers import Request, Response


class BareHabits:
    """A WSGI application over boats."""

    def __init__(self, records: int = 6) -> None:
        self.boats: dict[str, dict[str, Any]] = {
            f"b{number}": {"code": f"b{number}", "name": f"Boat {number}", "berths": number}
            for number in range(records)
        }
        self.versions = dict.fromkeys(self.boats, 1)

    def __call__(self, environ: dict[str, Any], start: Callable[..., Any]) -> Iterable[bytes]:
        request = Request(environ)
        answer = Response(status=204) if request.method == "OPTIONS" else self._answer(request)
        return open_to_all(answer)(environ, start)

    def _answer(self, request: Request) -> Response:
        steps = request.path.strip("/").split("/")
        key = steps[1] if len(steps) == 2 else None
        if request.method == "GET" and key is None:
            return said(list(self.boats.values()))
        if key is not None and key not in self.boats:
            return said({"error": "nothing there"}, 404)
        if request.method == "GET":
            return self._one(key)
        meant = request.headers.get("if-match")
        if key is not None and meant not in (None, f'"{self.versions[key]}"'):
            return said({"error": "another version"}, 412)
        if request.method == "DELETE":
            del self.boats[key or ""]
            return Response(status=204)
        given = json.loads(request.get_data())
        if not given.get("name", "x"):
            return said({"errors": {"name": ["a name is wanted"]}}, 400)
        if key is None:
            key = f"b{len(self.versions)}"
            self.boats[key] = {"berths": None, **given, "code": key}
        else:
            self.boats[key].update(given)
        self.versions[key] = self.versions.get(key, 0) + 1
        return self._one(key, 201 if request.method == "POST" else 200)

    def _one(self, key: str | None, status: int = 200) -> Response:
        answer = said(self.boats[key or ""], status)
        answer.headers["etag"] = f'"{self.versions[key or ""]}"'
        return answer


class Making:
    """Another service, with all that it has made: by where that is, or as it is answered.

    What is made where another was removed is one more.
    """

    def __init__(self, service: Any) -> None:
        self.service = service
        self.made: list[Any] = []
        self._now: set[Any] = set()

    def __call__(self, environ: dict[str, Any], start: Callable[..., Any]) -> Iterable[bytes]:
        told: list[Any] = []

        def noted(status: str, headers: list[tuple[str, str]], *more: Any) -> Any:
            at = {name.lower(): value for name, value in headers}.get("location")
            told.extend([status[:3], at])
            return start(status, headers, *more)

        body = b"".join(self.service(environ, noted))
        is_removed = environ["REQUEST_METHOD"] == "DELETE" and told[0][0] == "2"
        if told[0] == "201" and (told[1] or body) not in self._now:
            self._now.add(told[1] or body)
            self.made.append(told[1] or body)
        if is_removed:
            self._now.discard(environ["PATH_INFO"])
        return [body]


class Failing:
    """Another service, of which one write in so many fails: before it was done, after that, or
    refused for now."""

    def __init__(self, service: Any, one_in: int, seed: int = 1) -> None:
        self.service = service
        self.one_in = one_in
        self._chance = random.Random(seed)
        self._lock = Lock()

    def __call__(self, environ: dict[str, Any], start: Callable[..., Any]) -> Iterable[bytes]:
        is_write = environ["REQUEST_METHOD"] not in ("GET", "OPTIONS")
        with self._lock:
            how = self._chance.randrange(3) if self.one_in and is_write else -1
            if how < 0 or self._chance.randrange(self.one_in):
                return list(self.service(environ, start))
            if how == 0:
                return open_to_all(Response(status=500))(environ, start)
            if how == 1:
                list(self.service(environ, lambda *_: None))
                return open_to_all(Response(status=502))(environ, start)
        return open_to_all(Response(status=429, headers={"retry-after": "1"}))(environ, start)


def said(tree: Any, status: int = 200) -> Response:
    return Response(json.dumps(tree), status, content_type="application/json")


def open_to_all(answer: Response) -> Response:
    """An answer that a page of another place may read."""
    answer.headers["access-control-allow-origin"] = "*"
    answer.headers["access-control-allow-methods"] = "*"
    answer.headers["access-control-allow-headers"] = "content-type, if-match, idempotency-key"
    answer.headers["access-control-expose-headers"] = "etag, location, retry-after"
    return answer


def description(address: str) -> bytes:
    """The OpenAPI document of such a service."""
    boat = {
        "type": "object",
        "required": ["name"],
        "properties": {
            "code": {"type": "string", "readOnly": True},
            "name": {"type": "string"},
            "berths": {"type": ["integer", "null"], "minimum": 0},
        },
    }

    def held(schema: Any, **more: Any) -> Any:
        return {"description": "", "content": {"application/json": {"schema": schema}}, **more}

    version = {"headers": {"ETag": {"schema": {"type": "string"}}}}
    paths = {
        "/boats": {
            "get": {"responses": {"200": held({"type": "array", "items": boat})}},
            "post": {"requestBody": held(boat), "responses": {"201": held(boat)}},
        },
        "/boats/{code}": {
            "get": {"responses": {"200": held(boat, **version)}},
            "patch": {"requestBody": held(boat), "responses": {"200": held(boat)}},
            "delete": {"responses": {"204": {"description": "gone"}}},
        },
    }
    made = {
        "openapi": "3.0.3",
        "info": {"title": "Boats", "version": "1"},
        "servers": [{"url": address}],
        "paths": paths,
    }
    return json.dumps(made).encode()
