"""Running all walks of the open project."""

from __future__ import annotations

from cadena.desktop.document.document import Document
from cadena.engine.session import Window
from cadena.model.naming import many
from cadena.model.problem import Problem
from cadena.runs.walks.recording import walk_files
from cadena.runs.walks.walk import not_held, read_walk


def run_walks(document: Document, windows: list[Window]) -> str:
    """Replay every walk of the project at every window; what came of it, in a sentence."""
    if document.file is None:
        return "There is no project open."
    files = walk_files(document.file.parent)
    if not files:
        return "This project has no walks: put them into its folder walks/."
    runs, broken = 0, []
    for file in files:
        try:
            walk = read_walk(file)
        except Problem as problem:
            return str(problem)
        for window in windows:
            runs += 1
            at = f"{file.name} at {window.width:g} × {window.height:g}"
            broken += [f"{at}, {each}" for each in not_held(document.wired, walk, window)]
    if broken:
        return f"✕ {len(broken)} expectations do not hold in {runs} runs; first: {broken[0]}"
    named = many(len(files), "walk")
    return f"✓ {named} held in {many(runs, 'run')}, at {many(len(windows), 'window')}."
