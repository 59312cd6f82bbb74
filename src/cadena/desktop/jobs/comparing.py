"""What has changed in the open project since it was saved, or since a revision: in a process of
its own, which can be stopped."""

from __future__ import annotations

import shutil
import tempfile
from pathlib import Path
from typing import Final

from PySide6.QtCore import Signal

from cadena.deliver.delivery import Handed
from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.document.handed import HandedOver, HandOver
from cadena.desktop.document.handing import FOLDER
from cadena.desktop.jobs.job import Job
from cadena.desktop.jobs.own_process import OwnProcess
from cadena.desktop.process.threads import tell
from cadena.engine.wired import WiredApp
from cadena.model.file.project_file import encode
from cadena.model.problem import Problem
from cadena.sources.open_project import open_project
from cadena.sources.revisions import project_at

LEFT_OUT: Final = shutil.ignore_patterns(FOLDER, ".*")
WORDS, PAGE = "changes.txt", "page.html"


class Comparing(Job):
    """Compares the app as it is now with another version of it."""

    _came = Signal(object, object, object, str)

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self._process = OwnProcess()
        self._came.connect(self._keep)

    def begin(self) -> None:
        """Compare, unless that is under way."""
        file = self.document.file
        if file is None or self.is_at_work:
            return
        since = self.document.own(HandOver).since
        app = self.document.wired
        self._process = OwnProcess()
        self._start(self._run, app, file, since)
        self.document.tell(Change.HANDED)

    def stop(self) -> None:
        """Leave it."""
        self._process.stop()

    def _run(self, app: WiredApp, file: Path, since: str) -> None:
        files: dict[str, bytes] = {}
        before: WiredApp | None = None
        said = ""
        try:
            with tempfile.TemporaryDirectory(prefix="cadena-compare-") as made:
                now, page = Path(made) / "now", Path(made) / PAGE
                shutil.copytree(file.parent, now, ignore=LEFT_OUT)
                (now / file.name).write_text(encode(app.app))
                old = since or str(file.parent)
                before = version(file, since, Path(made) / "before")
                where = ["--in", str(file.parent), "--html", str(page)]
                ended = self._process.run("compare", old, str(now / file.name), *where)
                if ended.code in (0, 1):
                    files = {WORDS: ended.said.encode(), PAGE: page.read_bytes()}
                elif ended.code > 1:
                    said = ended.problem
        except Problem as problem:
            said = str(problem)
        except OSError as error:
            said = f"It cannot be compared ({error.strerror})."
        tell(self, "_came", app, before, files, said)

    def _keep(
        self, app: WiredApp, before: WiredApp | None, files: dict[str, bytes], said: str
    ) -> None:
        self._thread = None
        self.document.own(HandOver).before = before
        if files:
            handed = tuple(Handed(name, "as it was") for name in files)
            self.document.own(HandOver).made["changes"] = HandedOver(app, files, handed)
        elif said:
            self.document.refuse(said)
        self.document.tell(Change.HANDED)


def version(file: Path, since: str, into: Path) -> WiredApp:
    """A project as it was saved, or as a revision of it has it.

    Raises:
        Problem: where there is no such revision, or no project in it.
    """
    place = project_at(since, file.parent, into) if since else file
    opened = open_project(place)
    return WiredApp(opened.app, opened.records)


def comparing_of(document: Document) -> Comparing:
    """The one that compares this document."""
    return document.findChild(Comparing) or Comparing(document)
