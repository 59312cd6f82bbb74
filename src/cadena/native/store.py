"""What of an app outlives its process, in one file of the person's: rules.md, 6."""

from __future__ import annotations

import contextlib
import os
import tempfile
from pathlib import Path
from typing import Any, TypeVar

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from cadena.engine import events as do
from cadena.engine.rules.saved_state import SURVIVES_COLD, SURVIVES_KILL, saved_state
from cadena.engine.rules.writing import unheard
from cadena.engine.session import Session, Window
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.records.changes import Changes

Read = TypeVar("Read")
FILE = "state.json"


class Kept(Struct, frozen=True, omit_defaults=True):
    """What is kept: the state for who is ended and for who leaves, and what records are now.

    ``left``: the person has left the app, and the next start is a cold one. ``place`` is where
    the window lay: left, top, width and height in px.
    """

    killed: str = ""
    cold: str = ""
    left: bool = False
    changes: dict[str, Changes] = {}
    clock: int = 0
    calls: int = 0
    place: tuple[int, int, int, int] | None = None
    window: Window | None = None


class Store:
    """The file of one app; what cannot be read of it costs nothing but itself."""

    def __init__(self, folder: Path) -> None:
        self.file = folder / FILE

    def read(self) -> Kept | None:
        """What was kept, as far as it can be read; none where nothing was."""
        try:
            parts = msgspec.json.decode(self.file.read_bytes(), type=dict[str, msgspec.Raw])
        except (OSError, msgspec.MsgspecError, RecursionError, UnicodeError):
            return None
        kept = Kept()
        for field in msgspec.structs.fields(Kept):
            found = _part(parts.get(field.name), field.type)
            if field.name == "changes":
                raws = _part(parts.get("changes"), dict[str, msgspec.Raw]) or {}
                read = {name: _part(raw, Changes) for name, raw in raws.items()}
                found = {name: each for name, each in read.items() if each is not None}
            if found is not None:
                kept = replace(kept, **{field.name: found})
        return kept

    def keep(self, kept: Kept) -> str:
        """Write it beside the file, and in its place; why that could not be, or nothing."""
        try:
            self.file.parent.mkdir(parents=True, exist_ok=True)
            with tempfile.NamedTemporaryFile(
                dir=self.file.parent, prefix=f".{FILE}.", delete=False
            ) as new:
                new.write(msgspec.json.encode(kept))
            try:
                os.replace(new.name, self.file)
            except OSError:
                with contextlib.suppress(OSError):
                    os.unlink(new.name)
                raise
        except OSError as error:
            return error.strerror or str(error)
        return ""


def _part(raw: msgspec.Raw | None, kind: type[Read] | Any) -> Read | Any:
    if raw is None:
        return None
    try:
        return msgspec.json.decode(raw, type=kind)
    except (msgspec.MsgspecError, RecursionError, UnicodeDecodeError):
        return None


def kept_of(app: WiredApp, session: Session, left: bool = False) -> Kept:
    """What of a session outlives the process now."""
    ended = unheard(app, session)
    return Kept(
        saved_state(app, ended, SURVIVES_KILL),
        saved_state(app, ended, SURVIVES_COLD),
        left,
        ended.changes,
        ended.clock,
        ended.calls,
    )


def begun(app: WiredApp, window: Window, kept: Kept | None) -> Session:
    """An app as it begins: anew, as a person left it, or as it was when it was ended.

    What has changed of records is changed anew, so that nothing of it is but what can be.
    """
    fresh, _ = start(app, window)
    if kept is None:
        return fresh
    for source, changes in kept.changes.items():
        for alike in changes.alike:
            for key in alike.keys:
                edit = do.Edit(source=source, key=key, fields=alike.fields)
                fresh = step(app, fresh, edit).session
        again = do.Refresh(
            source=source, changed=changes.changed, gone=changes.gone, added=changes.added
        )
        fresh = step(app, fresh, again).session
    ended = replace(
        fresh,
        phase="killed",
        chains={},
        section="",
        requests=(),
        passing=None,
        clock=max(0, kept.clock),
        calls=max(0, kept.calls),
        kept=kept.cold if kept.left else kept.killed,
    )
    return step(app, ended, do.Relaunch() if kept.left else do.Restore()).session
