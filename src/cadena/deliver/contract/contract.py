"""The contract: plain, versioned files that apps on any platform, and their tests, can use."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any, Final

from cadena.deliver.beside import Files
from cadena.deliver.contract.fixed import fixed
from cadena.deliver.contract.java import java
from cadena.deliver.contract.kotlin import kotlin
from cadena.deliver.contract.python_routes import python_routes
from cadena.deliver.contract.routes_json import routes_json, routes_schema, saved_schema
from cadena.deliver.contract.typescript import typescript
from cadena.deliver.described import records_of
from cadena.engine.rules.window_change import window_of
from cadena.engine.session import Session
from cadena.engine.wired import WiredApp
from cadena.model.find import slug
from cadena.model.windows import windows_of
from cadena.runs.walks.recording import walk_files
from cadena.runs.walks.trace import to_line
from cadena.runs.walks.walk import read_walk, replay, schema
from cadena.serve.call_services import Services

MOST_RECORDS: Final = 5_000
"""Records of a source that are handed over; how many there are is said beside them."""
PLACES: Final = {
    "address.ts": "typescript/address.ts",
    "vectors.test.ts": "typescript/vectors.test.ts",
    "address.py": "python/address.py",
    "test_vectors.py": "python/test_vectors.py",
    "Address.java": "java/Address.java",
    "Json.java": "java/Json.java",
    "VectorsTest.java": "java/VectorsTest.java",
    "Address.kt": "kotlin/Address.kt",
    "Json.kt": "kotlin/Json.kt",
    "VectorsTest.kt": "kotlin/VectorsTest.kt",
}
"""Where the files lie that are the same for every app."""


def contract(app: WiredApp, folder: Path) -> Files:
    """The files of the contract.

    Args:
        folder: the project's, in which its walks are.
    """
    texts = {
        "routes.json": _json(routes_json(app)),
        "routes.schema.json": _json(routes_schema()),
        "saved-state.schema.json": _json(saved_schema()),
        "walk.schema.json": _json(schema()),
        "typescript/routes.ts": typescript(app),
        "python/routes.py": python_routes(app),
        "java/Routes.java": java(app),
        "kotlin/Routes.kt": kotlin(app),
    }
    return {
        **{name: text.encode() for name, text in texts.items()},
        **{place: fixed(name).encode() for name, place in PLACES.items()},
        **dict(vectors(app, folder)),
        **dict(_records(app)),
    }


def vectors(app: WiredApp, folder: Path) -> Iterator[tuple[str, bytes]]:
    """Each walk at each named window: the trace line expected after each step, one a line; with the
    requests that are then sent to services."""
    services = Services()
    for file in walk_files(folder):
        walk = read_walk(file)
        for named in windows_of(app.app):
            lines, sent = [], set[int]()
            for at in replay(app, walk, window_of(named)):
                if at.line is not None:
                    requests = list(_requests(app, services, at.session, sent))
                    lines.append(_with_requests(to_line(at.line), requests))
            name = f"vectors/{file.stem}.{slug(named.name)}.jsonl"
            yield name, "".join(f"{line}\n" for line in lines).encode()


def _requests(
    app: WiredApp, services: Services, session: Session, sent: set[int]
) -> Iterator[dict[str, Any]]:
    """The requests of what is being sent since the last step; ``sent`` are the calls known."""
    for write in session.writes:
        if write.state != "sending" or write.call in sent:
            continue
        sent.add(write.call)
        request = services.would_send(app, session, write)
        if request is not None:
            body = None if request.body is None else json.loads(request.body)
            told = {"method": request.method, "address": request.address, "body": body}
            yield {"call": write.call, **told, "media": request.headers.get("content-type")}


def _with_requests(line: str, requests: list[dict[str, Any]]) -> str:
    if not requests:
        return line
    return json.dumps({**json.loads(line), "requests": requests}, ensure_ascii=False)


def _records(app: WiredApp) -> Iterator[tuple[str, bytes]]:
    """The records that the vectors were made on, for tests that run without the app's own data."""
    for name, records in app.as_read.items():
        told = records_of(records)
        made = {"key": records.source.key, "of": len(records), "records": told[:MOST_RECORDS]}
        yield f"records/{slug(name)}.json", _json(made).encode()


def _json(tree: dict[str, Any]) -> str:
    return json.dumps(tree, indent=2, ensure_ascii=False) + "\n"
