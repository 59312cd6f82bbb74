"""What is not saved: kept for each window in case it does not end well, and brought back."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Final

from PySide6.QtCore import QTimer

from cadena.desktop.document.as_read import Rescued
from cadena.desktop.document.history import Tables
from cadena.desktop.document.on_disk import Left
from cadena.desktop.document.rescue import let_go
from cadena.model.app import App
from cadena.model.file.project_file import encode
from cadena.model.problem import Problem
from cadena.records.records import Records
from cadena.sources.open_project import Place, Project, read_all

if TYPE_CHECKING:
    from cadena.desktop.document.document import Document

KEPT_AFTER: Final = 800
"""Ms after a change until it is kept."""


class Unsaved:
    """What is not saved of a document.

    Attributes:
        left: what a window that did not end well has left, until somebody decides on it.
        is_back: whether that is what is shown.
    """

    def __init__(self, document: Document) -> None:
        self.document = document
        self.left: Left | None = None
        self.is_back = False
        self._warned = False
        self._soon = QTimer(document, singleShot=True, interval=KEPT_AFTER)
        self._soon.timeout.connect(self.keep)

    def take(self, project: Project) -> tuple[App, dict[str, Records], Mapping[Place, Rescued]]:
        """A project as it was read, or as a window that did not end well has left it."""
        self.left, self.is_back = self.document.disk.take(project), False
        if self.left is not None and not self.left.is_older:
            try:
                tables = _now(self.left.typed)
                records = read_all(project.folder, self.left.app, project.records, tables=tables)
            except Problem:
                return project.app, project.records, {}
            self.is_back = True
            return self.left.app, records, self.left.typed
        return project.app, project.records, {}

    def take_over(self) -> None:
        """What is back is this window's own from now on."""
        if self.is_back:
            self.keep()
            self.forget_left()

    def recover(self) -> None:
        """Show what is left; undo leads back."""
        document = self.document
        if self.left is not None:
            if document.history.changed_tables & self.left.typed.keys():
                document.refuse("Other records were typed here since: save or undo them first.")
                return
            document.as_read.take(self.left.typed)
            tables = {**document.history.tables, **_now(self.left.typed)}
            document.edit("recover what was not saved", self.left.app, tables=tables)
            self.keep()
            self.forget_left()

    def forget_left(self) -> None:
        """What was left is not wanted any more."""
        if self.left is not None:
            let_go(self.left.file)
            self.left = None

    def keep_soon(self) -> None:
        """Something has changed."""
        self._soon.start()

    def keep(self) -> None:
        """Keep what is not saved, or forget it where all is."""
        document = self.document
        if document.disk.rescue is None:
            return
        if document.history.is_saved:
            self.forget()
            return
        typed = document.as_read.rescued(document.history)
        records = _as_bytes(typed) if typed else b""
        why = document.disk.rescue.keep(encode(document.app), records)
        if why is not None and not self._warned:
            self._warned = True
            document.failed.emit(f"What is not saved would be lost in a crash. {why}")

    def forget(self) -> None:
        """All is saved, or is not wanted any more."""
        self._soon.stop()
        if self.document.disk.rescue is not None:
            self.document.disk.rescue.forget()


def _now(typed: Mapping[Place, Rescued]) -> Tables:
    return {place: rescued.now for place, rescued in typed.items()}


def _as_bytes(typed: Mapping[Place, Rescued]) -> bytes:
    from cadena.desktop.document.table_file import to_bytes

    return to_bytes(typed)
