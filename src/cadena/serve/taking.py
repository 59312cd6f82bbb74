"""How the stand-in service takes what is written: versions, repeats, and problems said."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from http import HTTPStatus
from threading import Lock
from typing import Any, Final

import msgspec
from werkzeug.exceptions import PreconditionFailed
from werkzeug.wrappers import Request, Response

PROBLEM: Final = "application/problem+json"
MOST_REPEATS: Final = 1_000
"""How many answers are kept for those who ask again."""


def version_of(record: Mapping[str, Any]) -> str:
    """What tells one version of a record from another (RFC 9110, 8.8.3): told by its content."""
    return hashlib.sha256(msgspec.json.encode(record, order="deterministic")).hexdigest()[:16]


def demand_version(request: Request, record: Mapping[str, Any]) -> None:
    """Refuse to change another version than the one that is meant (RFC 9110, 13.1.1).

    Raises:
        PreconditionFailed: where ``If-Match`` names other versions.
    """
    meant = request.if_match
    if (meant or meant.star_tag) and not meant.contains(version_of(record)):
        raise PreconditionFailed("Somebody else has changed it meanwhile.")


def problem(status: int, detail: str, faults: Mapping[str, str] | None = None) -> Response:
    """A problem in words, and what is wrong with each field (RFC 9457)."""
    said: dict[str, Any] = {"title": HTTPStatus(status).phrase, "status": status, "detail": detail}
    if faults:
        said["errors"] = [
            {"pointer": f"#/{name.replace('~', '~0').replace('/', '~1')}", "detail": why}
            for name, why in faults.items()
        ]
    return Response(msgspec.json.encode(said), status, content_type=PROBLEM)


class Repeats:
    """What was answered to those who name their requests (``Idempotency-Key``): asked again, they
    have the same answer, and nothing is done twice."""

    def __init__(self) -> None:
        self._answers: dict[tuple[str, ...], tuple[bytes, int, bytes, dict[str, str]]] = {}
        self._lock = Lock()

    def said(self, request: Request) -> Response | None:
        """What was answered to the same request before; a name is good for one thing to do."""
        with self._lock:
            kept = self._answers.get(_name_of_request(request))
        if kept is None:
            return None
        sent, status, body, headers = kept
        if sent != request.get_data():
            return problem(422, "It was sent before with something else in it, and is done.")
        return Response(body, status, headers)

    def note(self, request: Request, answer: Response) -> None:
        """Keep an answer, where its request is named."""
        if "idempotency-key" not in request.headers:
            return
        with self._lock:
            kept = (
                request.get_data(),
                answer.status_code,
                answer.get_data(),
                dict(answer.headers),
            )
            self._answers[_name_of_request(request)] = kept
            while len(self._answers) > MOST_REPEATS:
                del self._answers[next(iter(self._answers))]


def _name_of_request(request: Request) -> tuple[str, ...]:
    return (request.method, request.path, request.headers.get("idempotency-key", ""))
