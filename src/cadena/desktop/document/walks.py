"""The walks of the open project: kept, renamed, replayed, edited step by step, removed."""

from __future__ import annotations

from dataclasses import dataclass, field
from itertools import dropwhile
from pathlib import Path
from typing import Any

import msgspec

from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import AllWalks, SelectedWalk
from cadena.engine.events import Event
from cadena.engine.rules.window_change import resize_to, window_of
from cadena.engine.session import Window
from cadena.model.file.disk import inside, move_to_free
from cadena.model.find import slug, unused
from cadena.model.problem import Problem
from cadena.model.windows import windows_of
from cadena.runs.walks.recording import (
    FOLDER,
    file_of,
    recorded,
    walk_names,
    worth_expecting,
    write_steps,
)
from cadena.runs.walks.trace import trace_line
from cadena.runs.walks.walk import Expectation, Walk, not_held, read_step, read_walk


@dataclass
class Held:
    """What came of each walk when it was last replayed: what does not hold, by its name."""

    broken: dict[str, tuple[str, ...]] = field(default_factory=dict)


def folder_of(document: Document) -> Path | None:
    return None if document.file is None else document.file.parent


def names(document: Document) -> list[str]:
    """The names of the walks there are."""
    folder = folder_of(document)
    return [] if folder is None else walk_names(folder)


def slug_of(name: str) -> str:
    """What the file of a walk of this name would be called."""
    return slug(name.strip())


def in_window(window: Window) -> Event:
    """The step that lets a walk begin in a window of its own."""
    return resize_to(window)


def walk_of(document: Document, name: str) -> Walk:
    """The steps of a walk.

    Raises:
        Problem: where it cannot be read.
    """
    folder = folder_of(document)
    if folder is None:
        return ()
    return read_walk(_file(folder, name))


def _file(folder: Path, name: str) -> Path:
    """The file of a walk that there is, however it is called.

    Raises:
        Problem: where it is not there, or leads elsewhere.
    """
    return inside(folder, f"{FOLDER}/{name}.json", "the walk")


def replay_all(document: Document, name: str) -> None:
    """Replay a walk at every named window, and keep what does not hold."""
    try:
        walk = walk_of(document, name)
    except Problem as problem:
        document.refuse(str(problem))
        return
    broken: list[str] = []
    for window in windows_of(document.app):
        failed = not_held(document.wired, walk, window_of(window))
        broken += [f"at {window.name}, {failure}" for failure in failed]
    document.own(Held).broken[name] = tuple(broken)
    document.tell(Change.SELECTION)


def play(document: Document, name: str) -> None:
    """Let a walk happen on the Bench."""
    try:
        events = [e for e in walk_of(document, name) if not isinstance(e, Expectation)]
    except Problem as problem:
        document.refuse(str(problem))
    else:
        document.play_events(events, document.session.window)


def expect_what_happens(document: Document, name: str) -> None:
    """Let a walk expect what now happens, in the window in which it begins."""
    try:
        events = [e for e in walk_of(document, name) if not isinstance(e, Expectation)]
    except Problem as problem:
        document.refuse(str(problem))
        return
    window: Window = document.session.window
    # It begins as it did, whatever the window is.
    steps = recorded(document.wired, events, window)[1:]
    _write(document, name, tuple(dropwhile(lambda e: isinstance(e, Expectation), steps)))


def change_steps(
    document: Document, name: str, at: int | None, of: int, *steps: Event | Expectation
) -> None:
    """Other steps in the place of so many from one on, or at the end: none takes them away."""
    try:
        walk = list(walk_of(document, name))
        at = len(walk) if at is None else at
        walk[at : at + of] = [_sound(step, at) for step in steps]
    except Problem as problem:
        document.refuse(str(problem))
        return
    _write(document, name, tuple(walk))


def _sound(step: Event | Expectation, at: int) -> Event | Expectation:
    """A step as it would be read again.

    Raises:
        Problem: where it could not be.
    """
    return read_step(msgspec.json.encode(step).decode(), at)


def now_on_bench(document: Document) -> dict[str, Any]:
    """What of the app on the Bench could be expected now, by the names of expectations."""
    session = document.session
    line = trace_line(document.wired, session, None, ())
    deepest = line.chain[-1] if line.chain else None
    return {
        **worth_expecting(line),
        "chain": tuple(each.screen for each in line.chain),
        "shows": tuple(each.screen for each in line.display if each.screen is not None),
        "address": line.address,
        "phase": line.phase,
        **({"arguments": deepest.arguments} if deepest is not None else {}),
    }


class Recording:
    """Adds what is done on the Bench to the end of a walk, as long as it is told to."""

    def __init__(self) -> None:
        self.walk = ""


def record(document: Document, name: str) -> None:
    """Play a walk to its end, and go on from there: what is done next is added to it."""
    play(document, name)
    document.own(Recording).walk = name
    document.tell(Change.SELECTION)


def stop_recording(document: Document) -> None:
    document.own(Recording).walk = ""
    document.tell(Change.SELECTION)


def add_done(document: Document, event: Event) -> None:
    """Something was done on the Bench: a walk that records has one step more."""
    name = document.own(Recording).walk
    if not name:
        return
    if name not in names(document):
        document.own(Recording).walk = ""
        return
    change_steps(document, name, None, 0, event)


def _write(document: Document, name: str, walk: Walk) -> None:
    folder = folder_of(document)
    if folder is None:
        return
    try:
        write_steps(_file(folder, name), walk)
    except (Problem, OSError) as problem:
        document.refuse(str(problem))
        return
    document.own(Held).broken.pop(name, None)
    replay_all(document, name)


def rename(document: Document, name: str, to: str) -> None:
    """Call a walk otherwise."""
    folder = folder_of(document)
    if folder is None or to.strip() == name:
        return
    try:
        file = file_of(folder, to)
        move_to_free(_file(folder, name), file)
    except (Problem, OSError) as problem:
        document.refuse(str(problem))
        return
    document.own(Held).broken.pop(name, None)
    document.select(SelectedWalk(file.stem))


def remove(document: Document, name: str) -> None:
    """Take a walk away; it stays beside the others as ``*.removed`` until it is wanted no more."""
    folder = folder_of(document)
    if folder is None:
        return
    try:
        file = _file(folder, name)
        removed = [each.name for each in file.parent.glob("*.removed*")]
        move_to_free(file, file.with_name(unused(f"{name}.removed", removed)))
    except Problem as problem:
        document.refuse(str(problem))
        return
    document.own(Held).broken.pop(name, None)
    document.selection = AllWalks()
    document.tell(Change.SELECTION)
