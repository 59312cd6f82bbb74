"""A small service with habits of its own: envelopes, a cursor, no versions, and faults in a list.

What is made is answered by its ``Location`` alone; names are taken once (409). Records
hold a field that the description does not tell of.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable
from typing import Any

from werkzeug.wrappers import Request, Response

PAGE = 3
QUAYS = ("East", "West", "Mine")


class OtherHabits:
    """A WSGI application over boats; ``address`` is told to its description."""

    def __init__(self) -> None:
        self.boats: dict[int, dict[str, Any]] = {
            number: {"id": number, "name": f"Boat {number}", "quay": "East", "kept": "k"}
            for number in range(8)
        }
        self.last = 7

    def __call__(self, environ: dict[str, Any], start: Callable[..., Any]) -> Iterable[bytes]:
        request = Request(environ)
        answer = Response(status=204) if request.method == "OPTIONS" else self._answer(request)
        answer.headers["access-control-allow-origin"] = "*"
        answer.headers["access-control-allow-methods"] = "*"
        answer.headers["access-control-allow-headers"] = "content-type"
        answer.headers["access-control-expose-headers"] = "location"
        return answer(environ, start)

    def _answer(self, request: Request) -> Response:
        steps = request.path.strip("/").split("/")
        if len(steps) == 1 and request.method == "GET":
            return self._list(int(request.args.get("cursor", 0)))
        key = int(steps[1]) if len(steps) == 2 else None
        if key is not None and key not in self.boats:
            return said({"message": "nothing there"}, 404)
        if request.method == "GET" and key is not None:
            return said({"data": self.boats[key]})
        if request.method == "DELETE" and key is not None:
            del self.boats[key]
            return Response(status=204)
        given = json.loads(request.get_data())
        if given.get("quay") not in (None, *QUAYS):
            fault = {"loc": ["body", "quay"], "msg": "there is no such quay", "type": "enum"}
            return said({"detail": [fault]}, 422)
        if given.get("name") in {each["name"] for at, each in self.boats.items() if at != key}:
            return said({"message": "the name is taken"}, 409)
        if key is not None:
            self.boats[key] = {"quay": None, **given, "id": key}
            return said({"data": self.boats[key]})
        self.last = max(self.last, *self.boats, 0) + 1
        made = self.last
        self.boats[made] = {"quay": None, **given, "id": made}
        return Response(status=201, headers={"location": f"/boats/{made}"})

    def _list(self, first: int) -> Response:
        every = sorted(self.boats)
        following = first + PAGE if first + PAGE < len(every) else None
        items = [self.boats[key] for key in every[first : first + PAGE]]
        return said({"items": items, "next_cursor": following})


def said(tree: Any, status: int = 200) -> Response:
    return Response(json.dumps(tree), status, content_type="application/json")


def description(address: str) -> bytes:
    """The OpenAPI document of such a service."""
    text = {"type": ["string", "null"]}
    boat = {
        "type": "object",
        "required": ["name"],
        "properties": {
            "id": {"type": "integer", "readOnly": True},
            "name": {"type": "string"},
            "quay": text,
        },
    }
    page = {
        "type": "object",
        "properties": {
            "items": {"type": "array", "items": boat},
            "next_cursor": {"type": ["integer", "null"]},
        },
    }
    wrapped = {"type": "object", "properties": {"data": boat}}

    def held(schema: Any) -> Any:
        return {"content": {"application/json": {"schema": schema}}}

    cursor = {"name": "cursor", "in": "query", "schema": {"type": "integer"}}
    paths = {
        "/boats": {
            "get": {"parameters": [cursor], "responses": {"200": held(page)}},
            "post": {"requestBody": held(boat), "responses": {"201": {"description": "made"}}},
        },
        "/boats/{id}": {
            "get": {"responses": {"200": held(wrapped)}},
            "put": {"requestBody": held(boat), "responses": {"200": held(wrapped)}},
            "delete": {"responses": {"204": {"description": "gone"}}},
        },
    }
    made = {
        "openapi": "3.1.0",
        "info": {"title": "Boats", "version": "1"},
        "servers": [{"url": address}],
        "paths": paths,
    }
    return json.dumps(made).encode()
