"""A walk of what has happened: its events, and what is worth expecting after each."""

from __future__ import annotations

import os
from collections.abc import Sequence
from pathlib import Path
from typing import Any, Final

import msgspec

from cadena.engine.events import Event, Resize
from cadena.engine.session import Window
from cadena.engine.wired import WiredApp
from cadena.model.file.disk import place_in, write_bytes, write_new
from cadena.model.find import slug
from cadena.model.problem import Problem
from cadena.runs.walks.trace import TraceLine
from cadena.runs.walks.walk import NOTHING_CHOSEN, Expectation, Expected, Walk, replay

FOLDER: Final = "walks"
JSON: Final = ".json"
LONGEST: Final = 60


def recorded(app: WiredApp, events: Sequence[Event], window: Window) -> Walk:
    """A walk of these events from a fresh start in a window.

    After each event it expects what the event has changed: what is on display, what is chosen,
    what back shows, the section, what is asked, values; and that a refused one is refused.
    """
    steps: list[Event | Expectation] = [
        Resize(width=window.width, height=window.height, fold=window.fold)
    ]
    before: dict[str, Any] = {}
    for at in replay(app, (*steps, *events), window):
        if at.line is None:
            continue
        now = worth_expecting(at.line)
        if at.number > 0:
            steps.append(events[at.number - 1])
        if at.number >= 0:
            changed = {k: v for k, v in now.items() if k not in before or before[k] != v}
            if any(note.kind == "refused" for note in at.line.notes):
                changed["note"] = "refused"
            if changed:
                steps.append(Expectation(expect=Expected(**changed)))
        before = now
    return tuple(steps)


def worth_expecting(line: TraceLine) -> dict[str, Any]:
    """What of a state a person would look for."""
    chosen = {
        pane.screen: pane.chosen
        for pane in line.display
        if pane.screen is not None and pane.chosen is not None and not pane.chosen_part
    }
    display = tuple(each.screen or NOTHING_CHOSEN for each in line.display)
    return {
        "section": line.section,
        "display": display,
        "back": line.back,
        **({"chosen": chosen} if chosen else {}),
        **({"question": line.question} if line.question else {}),
        **({"values": line.values} if line.values else {}),
        **({"phase": line.phase} if line.phase != "running" else {}),
    }


def walk_files(folder: Path) -> list[Path]:
    """The walks of a project, by name."""
    return [folder / FOLDER / f"{name}{JSON}" for name in walk_names(folder)]


def walk_names(folder: Path) -> list[str]:
    """The names of the walks of a project."""
    try:
        found = os.listdir(os.path.join(folder, FOLDER))
    except OSError:
        return []
    return [each.removesuffix(JSON) for each in sorted(found) if each.endswith(JSON)]


def file_of(folder: Path, name: str) -> Path:
    """The file of a walk of this name.

    Raises:
        Problem: where that is no name.
    """
    said = slug(name.strip())
    if not any(map(str.isalnum, name)) or len(said) > LONGEST:
        raise Problem("the walk", "", f'"{name[:LONGEST]}" came', "a name of letters and digits")
    to = folder / FOLDER
    to.mkdir(exist_ok=True)
    if not to.resolve().is_relative_to(folder.resolve()):
        raise Problem(FOLDER, "", "it leads outside the project folder", "a folder inside it")
    return place_in(to, f"{said}.json")


def write_walk(folder: Path, name: str, walk: Walk) -> Path:
    """Write a new walk into the folder of a project's walks.

    Raises:
        Problem: where there is one of that name, or the disk does not take it.
    """
    file = file_of(folder, name)
    if file.exists():
        raise Problem(f"{FOLDER}/{file.name}", "", "there is such a walk already", "another name")
    return write_new(file.parent, file.name, _text_of(walk))


def write_steps(file: Path, walk: Walk) -> None:
    """Write other steps into the file of a walk that there is.

    Raises:
        Problem: where the disk does not take them.
    """
    write_bytes(_text_of(walk), file)


def _text_of(walk: Walk) -> bytes:
    """A walk as JSON: a step a line."""
    lines = [msgspec.json.encode(step).decode() for step in walk]
    return f"[\n  {(',' + chr(10) + '  ').join(lines)}\n]\n".encode()
