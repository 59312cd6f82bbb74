"""Taking files in and handing them out: what is dropped, added, brought and saved."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any, Final

from PySide6.QtWidgets import QWidget

from cadena.desktop.document.document import Document
from cadena.desktop.jobs.work import Work
from cadena.desktop.process.drafts import let_go, new_draft
from cadena.model.file.disk import write_text
from cadena.model.file.project_file import SUFFIX
from cadena.model.listing import Listing
from cadena.model.naming import fields_of_label, label_field, singular
from cadena.model.problem import Problem
from cadena.model.source import Source
from cadena.records.reading import Progress, silent
from cadena.sources.open_project import prepared, warm, weight_of

if TYPE_CHECKING:
    from cadena.sources.import_file import Adopted
    from cadena.sources.openapi import Proposal

HEAVY: Final = 4 * 1024 * 1024
FILES: Final = "Records (*.json *.jsonl *.ndjson *.csv *.tsv *.txt *.sqlite *.db *.yaml *.yml)"


def folder_chosen(over: QWidget, what: str) -> str:
    """The folder that the person chooses, or nothing."""
    # Dialogs are brought in when one opens: they take long to load.
    from PySide6.QtWidgets import QFileDialog

    return QFileDialog.getExistingDirectory(over, what)


def _files_chosen(over: QWidget, what: str) -> list[str]:
    from PySide6.QtWidgets import QFileDialog

    return QFileDialog.getOpenFileNames(over, what, "", FILES)[0]


class Taking:
    """Reads at once what is small, and off the main thread what is not.

    Args:
        over: the window that dialogs open over.
        may_leave: whether the project that is open may be left for another.
    """

    def __init__(
        self, document: Document, over: QWidget, work: Work, may_leave: Callable[[], bool]
    ) -> None:
        self.document = document
        self.over = over
        self.work = work
        self.may_leave = may_leave

    def open_project(self, path: Path) -> None:
        """Open a project; one that cannot be used leaves all as it is, and the reason is said."""
        if self.may_leave():
            self._open(path)

    def _open(self, path: Path) -> None:
        read = partial(prepared, path)
        self._do(f"Opening {path.name}", [path], read, self.document.take)

    def add_records(self) -> None:
        names = _files_chosen(self.over, "Add records")
        if names:
            self.take_records(*map(Path, names))

    def take_records(self, *files: Path) -> None:
        """Take data files into the project, or say why not; large ones off the main thread."""
        document = self.document
        if document.file is None:
            return
        from cadena.desktop.document.new_sources import propose, take_in
        from cadena.sources.import_file import adopt, described

        try:
            offered = [each for file in files for each in described(file)]
        except Problem as problem:
            self.document.failed.emit(str(problem))
            return
        if offered:
            propose(document, tuple(offered))
            document.show_stage("Gather")
            return
        folder, taken = document.file.parent, [each.id for each in document.app.sources]

        def read(progress: Progress) -> list[Adopted]:
            made: list[Adopted] = []
            for file in files:
                made += adopt(folder, file, [*taken, *(e.source.id for e in made)], progress)
            for read in made:
                label = label_field(read.source, read.records.types)
                warm(read.records, Listing(source=read.source.id, search=fields_of_label(label)))
            return made

        self._do("Adding records", files, read, partial(take_in, document))

    def exchange(self, source: str) -> None:
        """Data from a file in the place of a source, or what a description of a service offers."""
        from PySide6.QtWidgets import QFileDialog

        path, _ = QFileDialog.getOpenFileName(self.over, f"Exchange {source} for", "", FILES)
        if path:
            self.exchange_for(source, Path(path))

    def exchange_for(self, source: str, file: Path) -> None:
        """The data of this file in the place of a source; of several sets the one called most
        like it, else the first."""
        document = self.document
        if document.file is None:
            return
        from cadena.desktop.document.making_up import exchange
        from cadena.sources.import_file import adopt

        folder, taken = document.file.parent, [each.id for each in document.app.sources]

        def read(progress: Progress) -> tuple[Adopted, ...]:
            return adopt(folder, file, taken, progress)

        def then(made: tuple[Adopted, ...]) -> None:
            alike = (e for e in made if e.source.id.startswith(singular(source)[:4]))
            exchange(document, source, next(alike, made[0]))

        self._do(f"Exchanging {source}", [file], read, then)

    def _do(
        self,
        what: str,
        files: Sequence[Path],
        read: Callable[[Progress], Any],
        then: Callable[[Any], object],
    ) -> None:
        """Read files at once where they are small, else off the main thread."""
        if weight_of(files) > HEAVY:
            self.work.start(what, read, then)
            return
        try:
            then(read(silent))
        except Problem as problem:
            self.document.failed.emit(str(problem))

    def make_of_files(self) -> None:
        """A project of data files, at once."""
        names = _files_chosen(self.over, "Data files")
        if names:
            self.make_of(*map(Path, names))

    def make_of(self, *files: Path) -> None:
        """A project of data files, called by the first, and open it: it is saved nowhere yet."""
        if not self.may_leave():
            return
        from cadena.sources.scaffold import new_project

        name = files[0].stem.replace("-", " ").replace("_", " ").title()

        def read(progress: Progress) -> Path:
            to = new_draft(name)
            try:
                new_project(to, files, name, progress)
            except BaseException:
                let_go(to)
                raise
            return to

        self._do("Making a project", files, read, self._open)

    def make_empty(self, name: str) -> bool:
        """A project with nothing in it, saved nowhere yet; whether it is open."""
        if not self.may_leave():
            return False
        try:
            to = new_draft(name)
            self.document.make(to, name)
        except Problem as problem:
            self.document.failed.emit(str(problem))
            return False
        return True

    def bring(self, source: Source) -> None:
        """Call a source's service for all its records, and keep them in a file."""
        document = self.document
        if document.file is None or source.service is None:
            return
        from cadena.desktop.document.new_sources import propose, take_brought
        from cadena.sources.bring_records import brought
        from cadena.sources.import_file import Adopted

        folder = document.file.parent

        def then(made: Adopted | tuple[Proposal, ...]) -> None:
            if isinstance(made, Adopted):
                take_brought(document, made)
            else:
                propose(document, made)

        self.work.start(f"Bringing {source.id}", partial(brought, folder, source), then)

    def save_rows(self, name: str, text: str) -> None:
        """Write the rows that the running app hands out where the person says."""
        from PySide6.QtWidgets import QFileDialog

        path, _ = QFileDialog.getSaveFileName(self.over, "Save the rows", name)
        if path:
            try:
                write_text(text, Path(path))
            except Problem as problem:
                self.document.failed.emit(str(problem))

    def take_dropped(self, *files: Path) -> None:
        """Files dropped on the window: a project to open, or records."""
        if len(files) == 1 and (files[0].suffix == SUFFIX or files[0].is_dir()):
            self.open_project(files[0])
        elif self.document.is_open:
            self.take_records(*files)
        elif files:
            self.make_of(*files)
