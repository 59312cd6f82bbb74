"""What the system keeps of the app on the Bench when it ends it: really on disk.

The store may be old, damaged, cut short, of another version of the project, or hostile. What
it says is only ever given to the engine, which trusts none of it.
"""

from __future__ import annotations

from pathlib import Path
from typing import Final

from msgspec.structs import replace

from cadena.desktop.process.settings import keep_text, state_of
from cadena.engine.session import Session

MOST: Final = 8_000_000
"""Bytes of a store that are read; of a larger one nothing is."""


def session_file(project: Path) -> Path:
    """Where the saved state of a project's app is kept."""
    return state_of(project, "sessions", ".json")


def to_disk(session: Session, project: Path) -> None:
    """Keep what is saved of an app that was ended; without a disk it is kept in memory alone."""
    keep_text(session.kept, session_file(project))


def from_disk(session: Session, project: Path) -> Session:
    """The ended session with what the disk has of it now, whatever that is.

    A store that is not there, or too large, leaves nothing to restore.
    """
    file = session_file(project)
    try:
        if file.stat().st_size > MOST:
            return replace(session, kept='"the store is too large"')
        text = file.read_bytes().decode("utf-8", errors="replace")
        return replace(session, kept=text or '"the store is empty"')
    except OSError:
        return session
