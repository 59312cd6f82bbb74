"""The project's file as other windows and programs may change it, and what is left of a crash."""

from __future__ import annotations

import contextlib
from collections.abc import Mapping
from pathlib import Path
from typing import Final, NamedTuple

from PySide6.QtCore import QFileSystemWatcher, QObject, QTimer, Signal

from cadena.desktop.document.as_read import Rescued
from cadena.desktop.document.rescue import Rescue, left_behind, let_go, records_of
from cadena.model.app import App
from cadena.model.file.disk import print_of
from cadena.model.file.project_file import decode, read_project
from cadena.model.problem import Problem
from cadena.sources.open_project import Place, Project

SOON: Final = 250
NONE: Final[Mapping[Place, Rescued]] = {}


class ChangedOnDisk(Problem):
    """A save that would write over what somebody else has saved since it was read."""


class Left(NamedTuple):
    """What a window that did not end well has left, and whether the saved file is newer."""

    file: Path
    app: App
    is_older: bool
    typed: Mapping[Place, Rescued] = NONE


def _typed_in(left: Path) -> Mapping[Place, Rescued]:
    """The records that were typed and are kept with what is left."""
    with contextlib.suppress(OSError, ValueError):
        kept = records_of(left).read_bytes()
        from cadena.desktop.document.table_file import from_bytes

        return from_bytes(kept)
    return NONE


class OnDisk(QObject):
    """Knows which bytes of the project's file the window goes by, and looks for others."""

    changed = Signal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.file: Path | None = None
        self.rescue: Rescue | None = None
        self._print = ""
        self._watcher: QFileSystemWatcher | None = None
        self._soon = QTimer(self, singleShot=True, interval=SOON)
        self._soon.timeout.connect(self._look)

    def take(self, project: Project) -> Left | None:
        """Go by a project as it was read; what a window has left of it, if anything is worth it."""
        self.close()
        self.file, self._print = project.file, project.print_of
        self.rescue = Rescue(project.file)
        for left in left_behind(project.file):
            with contextlib.suppress(Problem, OSError):
                app, typed = decode(left.read_bytes(), left.name), _typed_in(left)
                if app == project.app and not typed:
                    let_go(left)
                    continue
                is_older = left.stat().st_mtime < project.file.stat().st_mtime
                return Left(left, app, is_older, typed)
        return None

    def close(self) -> None:
        """Go by no file."""
        if self.rescue is not None:
            self.rescue.forget()
        if self._watcher is not None:
            self._watcher.deleteLater()
            self._watcher = None
        self.file, self.rescue = None, None

    def watch(self) -> None:
        """Look out for changes from now on."""
        if self.file is not None and self._watcher is None:
            self._watcher = QFileSystemWatcher(self)
            self._watcher.addPaths([str(self.file), str(self.file.parent)])
            self._watcher.fileChanged.connect(self._soon.start)
            self._watcher.directoryChanged.connect(self._soon.start)

    def _look(self) -> None:
        # A file that was exchanged whole is another one: it is watched anew.
        if self._watcher is not None and self.file is not None and self.file.exists():
            self._watcher.addPath(str(self.file))
        if self.is_changed:
            self.changed.emit()

    @property
    def is_changed(self) -> bool:
        """Whether the file holds other bytes than those gone by; one that is gone does not."""
        if self.file is None:
            return False
        try:
            return print_of(read_project(self.file)) != self._print
        except Problem:
            return False

    def go_by(self, print_: str) -> None:
        """Go by these bytes from now on."""
        self._print = print_
