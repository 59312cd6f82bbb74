"""The contract: plain, versioned files that apps on any platform, and their tests, can use."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any, Final

from cadena.deliver.contract.fixed import fixed
from cadena.deliver.contract.java import java
from cadena.deliver.contract.python_routes import python_routes
from cadena.deliver.contract.routes_json import routes_json, routes_schema, saved_schema
from cadena.deliver.contract.typescript import typescript
from cadena.deliver.described import records_of
from cadena.deliver.web_app import Files
from cadena.engine.rules.window_change import window_of
from cadena.engine.wired import WiredApp
from cadena.model.find import slug
from cadena.model.windows import windows_of
from cadena.runs.walks.recording import walk_files
from cadena.runs.walks.trace import to_line
from cadena.runs.walks.walk import read_walk, replay, schema

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
    }
    return {
        **{name: text.encode() for name, text in texts.items()},
        **{place: fixed(name).encode() for name, place in PLACES.items()},
        **dict(vectors(app, folder)),
        **dict(_records(app)),
    }


def vectors(app: WiredApp, folder: Path) -> Iterator[tuple[str, bytes]]:
    """Each walk at each named window: the trace line expected after each step, one a line."""
    for file in walk_files(folder):
        walk = read_walk(file)
        for named in windows_of(app.app):
            steps = replay(app, walk, window_of(named))
            lines = [to_line(each.line) for each in steps if each.line is not None]
            name = f"vectors/{file.stem}.{slug(named.name)}.jsonl"
            yield name, "".join(f"{line}\n" for line in lines).encode()


def _records(app: WiredApp) -> Iterator[tuple[str, bytes]]:
    """The records that the vectors were made on, for tests that run without the app's own data."""
    for name, records in app.as_read.items():
        told = records_of(records)
        made = {"key": records.source.key, "of": len(records), "records": told[:MOST_RECORDS]}
        yield f"records/{slug(name)}.json", _json(made).encode()


def _json(tree: dict[str, Any]) -> str:
    return json.dumps(tree, indent=2, ensure_ascii=False) + "\n"
