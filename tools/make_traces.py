"""Write spec/traces: what every implementation of the rules must give for the demo's walks."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Final

from cadena.engine.wired import WiredApp
from cadena.runs.walks.trace import to_line
from cadena.runs.walks.walk import parse_window, read_walk, replay
from cadena.sources.open_project import open_project

ROOT: Final = Path(__file__).parents[1]
TRACES: Final = ROOT / "spec" / "traces"
DEMO: Final = ROOT / "src" / "cadena" / "demo" / "cresta"
WINDOWS: Final = ("360x780", "840x600", "1280x800")


def traces() -> Iterator[tuple[str, str]]:
    """The name and the lines of each trace: a walk of the demo in a window."""
    project = open_project(DEMO)
    app = WiredApp(project.app, project.records)
    for file in sorted((DEMO / "walks").glob("*.json")):
        walk = read_walk(file)
        for window in WINDOWS:
            steps = replay(app, walk, parse_window(window))
            lines = [to_line(each.line) for each in steps if each.line is not None]
            yield f"{file.stem}.{window}.jsonl", "".join(f"{line}\n" for line in lines)


if __name__ == "__main__":
    TRACES.mkdir(parents=True, exist_ok=True)
    for name, text in traces():
        (TRACES / name).write_text(text)
