"""What is not saved of a project, kept for each window by itself in case it does not end well."""

from __future__ import annotations

import contextlib
import uuid
from pathlib import Path
from typing import IO, Final

from cadena.desktop.process.locks import held
from cadena.desktop.process.settings import keep_text, state_of
from cadena.model.file.disk import write_bytes
from cadena.model.problem import Problem

SUFFIX: Final = ".cadena"


class Rescue:
    """The unsaved state of one window on one project.

    As long as the window lives it holds a lock, which the system lets go of with the process:
    so that what another window keeps is told from what one has left that did not end well.
    """

    def __init__(self, project: Path) -> None:
        self.file = state_of(project, "unsaved", f"-{uuid.uuid4().hex[:12]}{SUFFIX}")
        self._lock: IO[bytes] | None = None

    def keep(self, text: str, records: bytes = b"") -> str | None:
        """Keep what is not saved, with records that were typed; why it cannot be, or none."""
        why = keep_text(text, self.file)
        if why is None:
            beside = records_of(self.file)
            try:
                if records:
                    write_bytes(records, beside)
                else:
                    beside.unlink(missing_ok=True)
            except (OSError, Problem) as error:
                why = str(error)
        if why is None and self._lock is None:
            with contextlib.suppress(OSError):
                self._lock = held(_lock_of(self.file))
        return why

    def forget(self) -> None:
        """All is saved, or is not wanted any more."""
        with contextlib.suppress(OSError):
            self.file.unlink(missing_ok=True)
            records_of(self.file).unlink(missing_ok=True)
        if self._lock is not None:
            self._lock.close()
            self._lock = None
            with contextlib.suppress(OSError):
                _lock_of(self.file).unlink(missing_ok=True)


def left_behind(project: Path) -> list[Path]:
    """What windows that did not end well have left of a project, newest first."""
    pattern = state_of(project, "unsaved", f"-*{SUFFIX}")
    found: list[tuple[float, Path]] = []
    for file in pattern.parent.glob(pattern.name):
        with contextlib.suppress(OSError):
            lock = held(_lock_of(file))
            if lock is not None:
                lock.close()
                found.append((file.stat().st_mtime, file))
    return [path for _, path in sorted(found, reverse=True)]


def let_go(rescue: Path) -> None:
    """Remove what a window has left."""
    for file in (rescue, records_of(rescue), _lock_of(rescue)):
        with contextlib.suppress(OSError):
            file.unlink(missing_ok=True)


def records_of(rescue: Path) -> Path:
    """Where the records that are kept with it are."""
    return rescue.with_suffix(".records")


def _lock_of(rescue: Path) -> Path:
    return rescue.with_suffix(".lock")
