"""Running the kit in Node, and holding its traces against the engine's."""

from __future__ import annotations

import json
import shutil
import subprocess
from collections.abc import Sequence
from pathlib import Path
from typing import Any, Final

import msgspec
import pytest

from cadena.deliver.described import described, records_of
from cadena.engine import events as do
from cadena.engine.session import Window
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.runs.walks.trace import to_line, trace_line

ROOT: Final = Path(__file__).parents[1]
KIT: Final = ROOT / "src" / "cadena" / "deliver" / "web" / "kit"
TRACER: Final = ROOT / "tests" / "kit" / "trace.mjs"
NODE: Final = shutil.which("node")
NEAR: Final = 0.011
"""Places are told to a hundredth of a dp; the last digit may be rounded either way."""
WRITTEN: Final = msgspec.json.Encoder(order="deterministic").encode

needs_node = pytest.mark.skipif(NODE is None, reason="Node is not there")


def traced(runs: Sequence[dict[str, Any]]) -> list[list[dict[str, Any]]]:
    """The traces that the kit gives of runs: app, records, window and events."""
    text = "".join(json.dumps(each, ensure_ascii=False) + "\n" for each in runs)
    done = subprocess.run(
        [str(NODE), str(TRACER), str(KIT)], input=text, capture_output=True, text=True, timeout=600
    )
    assert done.returncode == 0, done.stderr[:2000]
    return [json.loads(line) for line in done.stdout.splitlines()]


def difference(one: Any, other: Any) -> str | None:
    """Where two values differ, and how; none where they do not."""
    return None if WRITTEN(one) == WRITTEN(other) else _difference(one, other, "")


def _difference(one: Any, other: Any, at: str) -> str | None:
    if isinstance(one, bool) or isinstance(other, bool):
        return None if one is other else f"{at}: {one!r} and {other!r}"
    if isinstance(one, int | float) and isinstance(other, int | float):
        return None if abs(one - other) < NEAR else f"{at}: {one!r} and {other!r}"
    if isinstance(one, dict) and isinstance(other, dict):
        if one.keys() != other.keys():
            return f"{at}: {sorted(one)} and {sorted(other)}"
        parts = ((f"{at}.{name}", one[name], other[name]) for name in one)
    elif isinstance(one, list) and isinstance(other, list):
        if len(one) != len(other):
            return f"{at}: {one!r} and {other!r}"
        parts = ((f"{at}[{n}]", a, b) for n, (a, b) in enumerate(zip(one, other, strict=True)))
    else:
        return None if one == other else f"{at}: {one!r} and {other!r}"
    return next(
        (found for each in parts if (found := _difference(each[1], each[2], each[0]))), None
    )


def kit_differs(app: WiredApp, window: Window, events: Sequence[do.Event]) -> list[str | None]:
    """Step by step, the start included: how the kit's trace differs from the engine's."""
    session, notes = start(app, window)
    wanted = [json.loads(to_line(trace_line(app, session, None, notes)))]
    for event in events:
        session, notes, _ = step(app, session, event)
        wanted.append(json.loads(to_line(trace_line(app, session, event, notes))))
    given = {
        "app": described(app),
        "records": {name: records_of(each) for name, each in app.as_read.items()},
        "window": {"width": window.width, "height": window.height},
        "events": json.loads(msgspec.json.encode(events)),
    }
    (lines,) = traced([given])
    return [difference(*each) for each in zip(wanted, lines, strict=True)]
