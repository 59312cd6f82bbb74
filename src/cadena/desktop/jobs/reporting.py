"""Writing the report of the open project, as it is saved, beside the window."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Signal

from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.document.handing import FOLDER, handing_of
from cadena.desktop.jobs.job import Job
from cadena.desktop.jobs.own_process import OwnProcess
from cadena.desktop.process.threads import tell

REPORT = "report.html"


class Reporting(Job):
    """Writes the report, in a process of its own."""

    _ended = Signal(int, str)

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self._process = OwnProcess()
        self._ended.connect(self._end)

    def begin(self) -> None:
        """Write it, unless that is under way."""
        file, folder = self.document.file, handing_of(self.document).folder("report")
        if file is None or folder is None or self.is_at_work:
            return
        self._process = OwnProcess()
        self._start(self._run, file, folder)
        self.document.tell(Change.HANDED)

    def stop(self) -> None:
        """Leave it; a report that was there stays."""
        self._process.stop()

    def _run(self, file: Path, folder: Path) -> None:
        try:
            folder.mkdir(parents=True, exist_ok=True)
            ended = self._process.run("report", str(file), "--out", str(folder / REPORT))
            code, problem = ended.code, ended.problem
        except OSError as error:
            code, problem = 2, f"It cannot be written ({error.strerror})."
        tell(self, "_ended", code, problem)

    def _end(self, code: int, problem: str) -> None:
        self._thread = None
        if code > 0:
            self.document.refuse(problem)
        elif code == 0:
            self.document.say(f"Written: {FOLDER}/report/{REPORT}")
        self.document.tell(Change.HANDED)


def reporting_of(document: Document) -> Reporting:
    """The one that writes the report of this document."""
    return document.findChild(Reporting) or Reporting(document)
