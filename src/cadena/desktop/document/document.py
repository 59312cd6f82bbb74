"""The open project: what was edited, what runs, what is known of it. Widgets show it and ask it
for changes."""

from __future__ import annotations

import weakref
from collections.abc import Callable, Iterable
from pathlib import Path
from types import MethodType
from typing import IO, TYPE_CHECKING, Any, Final, TypeVar

import msgspec
import shiboken6
from msgspec.structs import replace
from PySide6.QtCore import QObject, QTimer, Signal

from cadena.check.finding import Finding
from cadena.check.laid_out import laid_out_slowly
from cadena.check.mend import mended
from cadena.desktop.document.as_read import AsRead
from cadena.desktop.document.change import ANEW, Change
from cadena.desktop.document.history import History, Tables, opened
from cadena.desktop.document.measured import Measured
from cadena.desktop.document.on_disk import ChangedOnDisk, OnDisk
from cadena.desktop.document.selection import Selection
from cadena.desktop.document.sessions import Sessions, Traced
from cadena.desktop.document.simulated_store import from_disk, to_disk
from cadena.desktop.document.stages import FIRST, is_there
from cadena.desktop.document.unsaved import Unsaved
from cadena.desktop.painting.faces import measure
from cadena.desktop.painting.pictures import Pictures
from cadena.desktop.process.background import Background
from cadena.desktop.process.drafts import hold, is_draft, laid_out_in, let_go
from cadena.engine.events import Event, Kill, Press, Relaunch, Resize, Restore
from cadena.engine.notes import Notes
from cadena.engine.rules.display import display_of
from cadena.engine.rules.lifetimes import end
from cadena.engine.rules.targets import target_of
from cadena.engine.session import Session, Window, sized
from cadena.engine.wired import WiredApp
from cadena.model.app import App, Link
from cadena.model.edits.shaping import declared_fields, with_source
from cadena.model.edits.wiring import Types, new_app
from cadena.model.file.disk import print_of, said_path, write_text
from cadena.model.file.project_file import SUFFIX, encode, read_project, write_app
from cadena.model.find import slug
from cadena.model.listing import SaveRows
from cadena.model.problem import Problem
from cadena.records.records import Records
from cadena.runs.keep.matrix import runs_slowly
from cadena.runs.keep.run import Matrix, Run
from cadena.serve.call_services import Services
from cadena.sources.open_project import Project, open_project, place_of, read_all

if TYPE_CHECKING:
    from cadena.sources.joined_tables import Decided
    from cadena.sources.write_back import Saved

CHECK_AFTER: Final = 500
KEEP_AFTER: Final = 900
Own = TypeVar("Own")


class Document(QObject):
    """A project that is open. It joins its history, its sessions and what is measured of it, and
    tells what has changed."""

    opened = Signal()
    failed = Signal(str)
    said = Signal(str)
    wants_records = Signal()
    wants_bringing = Signal(object)
    wants_exchange = Signal(str)
    wants_editor = Signal(str)
    happened = Signal(object)
    handed_out = Signal(str, str)

    def __init__(self) -> None:
        super().__init__()
        self.file: Path | None = None
        self.history = History()
        self.as_read = AsRead(Path("/nonexistent"))
        self.records: dict[str, Records] = {}
        self.sessions = Sessions(WiredApp(self.app, {}, measure), sized(360, 780))
        self.measured = Measured(self.wired)
        self.selection = Selection()
        self.section = ""
        self.stage = FIRST
        self.scrubbed: tuple[Link, float] | None = None
        self.may_call = False
        self.may_write: frozenset[str] = frozenset()
        self.services = Services()
        self.pictures = Pictures(Path("/nonexistent"))
        self._pictures_asked = QTimer(self, singleShot=True, interval=0)
        self._pictures_asked.timeout.connect(lambda: self.tell(Change.PICTURES))
        self.disk = OnDisk(self)
        self._held: IO[bytes] | None = None
        self.unsaved = Unsaved(self)
        self._told: list[tuple[int, Callable[[], Callable[[], object] | None]]] = []
        self._owned: dict[type, Any] = {}
        self._checks = QTimer(self, singleShot=True, interval=CHECK_AFTER)
        self._checks.timeout.connect(self._check_soon)
        self.measuring = Background(self, laid_out_slowly)
        self.measuring.done.connect(self._measured)
        keep = lambda app: runs_slowly(app, self.measured.known)  # noqa: E731
        self.keeping = Background(self, keep, KEEP_AFTER)
        self.keeping.done.connect(self._take_runs)
        for job in (self.measuring, self.keeping):
            self.watch(Change.SESSION, job.wait)

    def watch(self, wanted: Change, slot: Callable[[], object]) -> None:
        """Call a slot once for each telling in which something that is wanted has changed."""
        is_method = isinstance(slot, MethodType)
        self._told.append((wanted.value, weakref.WeakMethod(slot) if is_method else lambda: slot))

    def tell(self, changed: Change) -> None:
        """Tell what has changed; widgets that are gone are told nothing more."""
        bits = changed.value
        for telling in tuple(self._told):
            wanted, found = telling
            if wanted & bits:
                slot = found()
                widget = getattr(slot, "__self__", None)
                is_gone = isinstance(widget, QObject) and not shiboken6.isValid(widget)
                if slot is None or is_gone:
                    self._told.remove(telling)
                else:
                    slot()

    def own(self, kind: type[Own]) -> Own:
        """What a stage keeps for itself of this project, made when it is first asked for."""
        if kind not in self._owned:
            self._owned[kind] = kind()
        return self._owned[kind]

    def _check_soon(self) -> None:
        if self.measured.read():
            self.tell(Change.FINDINGS)

    @property
    def is_open(self) -> bool:
        return self.file is not None

    @property
    def app(self) -> App:
        """The app as it now is."""
        return self.history.app

    @property
    def wired(self) -> WiredApp:
        """The app as it now is, compiled."""
        return self.sessions.wired

    @property
    def session(self) -> Session:
        """The session of the live window."""
        return self.sessions.session

    @session.setter
    def session(self, session: Session) -> None:
        self.sessions.session = session

    @property
    def trace(self) -> list[Traced]:
        return self.sessions.trace

    @property
    def findings(self) -> tuple[Finding, ...]:
        return self.measured.findings

    @property
    def matrix(self) -> Matrix:
        return self.measured.matrix

    @property
    def is_checked(self) -> bool:
        return self.measured.is_read

    @property
    def is_saved(self) -> bool:
        """Whether all of it is where the person has said: of a draft nothing is."""
        return self.history.is_saved and not self.is_draft

    @property
    def is_draft(self) -> bool:
        """Whether nobody has said yet where it is to be saved."""
        return is_draft(self.file)

    @property
    def types(self) -> Types:
        """The type of each field, by source."""
        return {name: records.types for name, records in self.records.items()}

    def open(self, path: Path) -> None:
        """Open a project, with what was not saved of it if the application did not end well.

        Raises:
            Problem: for a project that cannot be used; the one that was open stays.
        """
        self.take(open_project(path))

    def take(self, project: Project) -> None:
        """Take a project that is read as the one that is open."""
        self.file = project.file
        app, records, typed = self.unsaved.take(project)
        self.pictures = Pictures(project.folder, self._pictures_asked.start)
        tables = {place: rescued.now for place, rescued in typed.items()}
        self.history, self.as_read = opened(app, project.app, tables), AsRead(project.folder)
        self.as_read.take(typed)
        self.may_call, self.may_write, self._owned = False, frozenset(), {}
        self.services = Services()
        self.measured.begin(project.look)
        # The first picture comes before the findings.
        self.sessions.begin(self._compiled(records))
        self._checks.start()
        self.section, self.selection = self.session.section, Selection()
        self.unsaved.take_over()
        self._hold()
        self.opened.emit()
        self.tell(ANEW | Change.WINDOWS)

    def read_again(self) -> None:
        """Take the project as it now is on disk; undo leads back to what was shown.

        Raises:
            Problem: for a project that cannot be used; what is shown stays.
        """
        if self.file is None:
            return
        project = open_project(self.file)
        self.disk.go_by(project.print_of)
        tables = self.as_read.read_again(project, self.history)
        self.unsaved.is_back = False
        self.history = self.history.kept(project.app, tables)
        self.records = project.records
        if project.app != self.app or self.history.changed_tables:
            self.edit("read what changed on disk", project.app, tables=tables)
        self.tell(Change.SAVED)

    def on_disk(self) -> str:
        """The text of the project as it now is on disk.

        Raises:
            Problem: when it cannot be read.
        """
        return "" if self.file is None else read_project(self.file).decode(errors="replace")

    def make(self, folder: Path, name: str) -> None:
        """Make an empty project in a folder and open it.

        Raises:
            Problem: when the folder holds a project already, or cannot be written.
        """
        if folder.exists() and any(folder.glob(f"*{SUFFIX}")):
            raise Problem(str(folder), "", "there is a project in it already", "another folder")
        try:
            folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise Problem(
                str(folder), "", f"it cannot be made ({error.strerror})", "another folder"
            ) from None
        write_app(new_app(name), folder / f"{slug(name)}{SUFFIX}")
        self.open(folder)

    def save(self, over: bool = False, decided: Decided | None = None) -> None:
        """Save the project and the records that were typed; the file before is kept beside it.

        Args:
            over: whether what somebody else has saved meanwhile is written over.
            decided: what the person has said of records that others have changed as well.

        Raises:
            ChangedOnDisk: when somebody has, and it is not to be.
            Clashes: when others have changed the same records, and it is not said whose count.
            NotWritten: when records cannot go back into their file.
            Problem: when the disk does not take it; what was written is saved, and only that.
        """
        if self.file is None:
            return
        if not over and self.disk.is_changed:
            name = said_path(self.file.name)
            reason = "it was changed on disk since it was read"
            raise ChangedOnDisk(name, "", reason, "to know which of the two is wanted")
        self._save_records(decided)
        text = encode(self.app)
        try:
            write_text(text, self.file, keep_before=True)
        except Problem as problem:
            if self.as_read.tables:
                problem.found += "; what was typed is saved"
            raise
        self.disk.go_by(print_of(text.encode()))
        self.history, self.unsaved.is_back = self.history.kept(self.app), False
        self.unsaved.forget()
        self.tell(Change.SAVED)

    def save_in(self, folder: Path) -> None:
        """Save a draft in a folder of its own, and go on there: undo and the run go on as well.

        Raises:
            Problem: when something stands there, or the disk does not take it; the draft stays.
        """
        if self.file is None:
            return
        self.save()
        draft = self.file.parent
        file = laid_out_in(draft, folder)
        project = open_project(file)
        self.file = file
        self.as_read.folder = file.parent
        self.pictures = Pictures(file.parent, self._pictures_asked.start)
        self.disk.take(project)
        self.measured.begin(project.look)
        self._change(self.history, {})
        self._hold()
        let_go(draft)
        self.opened.emit()

    def _hold(self) -> None:
        """A draft that this window shows is no one's that did not end well."""
        if self._held is not None:
            self._held.close()
        self._held = hold(self.file) if self.is_draft and self.file is not None else None

    def _save_records(self, decided: Decided | None) -> None:
        """Write what was typed: what is written is saved, whatever becomes of the rest."""
        assert self.file is not None
        edited = self.as_read.edited(self.app, self.history)
        if not edited:
            return
        from cadena.desktop.document.own_file import under_free_names
        from cadena.sources.write_back import write_all

        if under_free_names(self, edited):
            edited = self.as_read.edited(self.app, self.history)
        # Were it ended in the middle, what was typed last would be in no file.
        self.unsaved.keep()
        try:
            write_all(self.file.parent, edited, self._take_written, decided)
        except Problem:
            self.unsaved.keep()
            self.tell(Change.SAVED)
            raise

    def _take_written(self, saved: Saved) -> None:
        """Records of a place are on disk, with what others have changed, and are read so again."""
        place, app, tables = saved.place, self.app, self.history.tables
        self.as_read.written(saved)
        if saved.table is not tables.get(place, self.as_read.tables.get(place)):
            tables = {**tables, place: saved.table}
        for source in self.app.sources:
            if place_of(source) == place and saved.types != self.records[source.id].types:
                # What is in the file does not say it any more.
                fields = declared_fields(source, self.types)
                app = with_source(app, replace(source, fields=fields))
        history = self.history.edited(f"take in what is in {place.file}", app, tables)
        is_other = history is not self.history
        history = history.written(place)
        if is_other:
            self._change(history)
        else:
            self.history = history

    def close(self) -> None:
        """Close the project."""
        self.unsaved.forget()
        self.disk.close()
        self.file, self.unsaved.left, self.unsaved.is_back = None, None, False
        self._hold()
        self.history = History()
        self.sessions = Sessions(self._compiled({}), self.session.window)
        self.measured.read()
        self.tell(ANEW | Change.WINDOWS)

    def edit(
        self,
        what: str,
        app: App,
        selection: Selection | None = None,
        tables: Tables | None = None,
    ) -> None:
        """Change the app, or the records of some sources; ``what`` names the change for undo."""
        if selection is not None:
            self.selection = selection
        history = self.history.edited(what, app, tables)
        if history is self.history:
            self.tell(Change.SELECTION)
        else:
            self._change(history)

    def say(self, what: str) -> None:
        """Say what was done, where there is nothing else to see of it."""
        self.said.emit(what)

    def refuse(self, why: str) -> None:
        """Say why something typed cannot be; what was there before is shown again."""
        self.failed.emit(why)
        self.tell(Change.SELECTION)

    def undo(self) -> None:
        if self.history.undoes:
            self._change(self.history.undone())

    def redo(self) -> None:
        if self.history.redoes:
            self._change(self.history.redone())

    def read_anew(self, file: str) -> None:
        """Read a data file again, of whose records none were typed."""
        places = {place.file for place in self.history.tables}
        if file not in places:
            stays = {name: e for name, e in self.records.items() if e.source.file != file}
            self._change(self.history, stays)

    def _change(self, history: History, known: dict[str, Records] | None = None) -> None:
        records = self.records if known is None else known
        is_other = (
            history.app.sources != self.app.sources or history.tables is not self.history.tables
        )
        if (is_other or known is not None) and self.file is not None:
            try:
                tables = {**self.as_read.tables, **history.tables}
                records = read_all(self.file.parent, history.app, records, tables=tables)
            except Problem as problem:
                records = self.records
                self.failed.emit(str(problem))
        self.history = history
        self.sessions.go_on_with(self._compiled(records))
        self.measured.read()
        self.unsaved.keep_soon()
        self.tell(ANEW)

    def _compiled(self, records: dict[str, Records]) -> WiredApp:
        """The app as it now is, compiled once for all; what is selected is still there."""
        wired = WiredApp(self.app, records, measure)
        self.records = records
        self.measured.go_on_with(wired, records)
        self.measuring.start(wired)
        self.keeping.start(wired)
        if self.section not in wired.sections:
            start = self.app.start if self.app.start in wired.sections else ""
            self.section = start or next(iter(wired.sections), "")
        if not is_there(self.app, self.selection):
            self.selection = Selection()
        return wired

    def check(self) -> None:
        """Find what is wrong, and say so: also what shows only when the app is run."""
        self.measured.read()
        self.measuring.finish()
        self.keeping.finish()
        self.tell(Change.FINDINGS)

    def _take_runs(self, found: tuple[Run, ...]) -> None:
        """What survives has been measured."""
        self.measured.add_runs(found)
        self.tell(Change.FINDINGS | Change.KEPT)

    def _measured(self, found: tuple[Finding, ...]) -> None:
        """What was found by running the app is there as well."""
        self.measured.add(found)
        self.tell(Change.FINDINGS)

    def do(self, event: Event) -> Notes:
        """Let something happen to the running app; the board follows to its section."""
        before = self.session.section
        self._as_on_disk(event)
        notes = self.sessions.do(event)
        if isinstance(event, Kill) and self.file is not None:
            to_disk(self.session, self.file)
        changed = Change.SESSION
        if self.session.section and self.session.section != before:
            changed |= self._to_section(self.session.section)
        self.tell(changed)
        self.happened.emit(event)
        if any(each.kind == "handed out" for each in notes):
            self._hand_out(event)
        return notes

    def _as_on_disk(self, event: Event) -> None:
        """An app that starts again reads what the disk has kept of it."""
        if self.file is None or not isinstance(event, Relaunch | Restore):
            return
        if isinstance(event, Relaunch) and self.session.phase != "killed":
            # Started cold, an app reads its store as well: it is ended first, as it would be.
            self.session = end(self.wired, self.session)
            to_disk(self.session, self.file)
        if self.session.phase == "killed":
            self.session = from_disk(self.session, self.file)

    def _hand_out(self, event: Event) -> None:
        """Offer the rows that the running app hands out, as the text of a file."""
        if not isinstance(event, Press):
            return
        display = display_of(self.wired, self.session)
        index, _ = target_of(self.wired, self.session, display, event)
        entry = self.session.entries[index]
        does = self.wired.buttons[entry.screen][event.button].does
        listed = self.wired.listed(self.session, entry, "")
        if listed is not None and isinstance(does, SaveRows):
            from cadena.records.export_rows import handed_out

            self.handed_out.emit(f"{entry.screen}.{does.form}", handed_out(listed.rows, does.form))

    def play(self, run: str) -> None:
        """Let a walk happen on the Bench: the one that shows a finding."""
        self.play_events(msgspec.json.decode(run, type=tuple[Event, ...]), self.session.window)

    def play_events(self, events: Iterable[Event], window: Window) -> None:
        """Let these events happen on the Bench, from a fresh start in a window."""
        self.session = replace(self.session, window=window)
        self.restart()
        for event in events:
            self.do(event)

    def resize(self, width: float, height: float, fold: float | None = None) -> None:
        self.do(Resize(width=width, height=height, fold=fold))

    def restart(self) -> None:
        """Start the app anew, with the records as they were read."""
        self.sessions.restart()
        self.tell(Change.SESSION)

    def go_back_to(self, at: int) -> None:
        """Show the app as it was after a line of what has happened."""
        self.sessions.go_back_to(at)
        self.tell(Change.SESSION)

    def peek(self, at: int | None) -> None:
        """Show on the Bench how the app was after a line, as long as it is looked at."""
        if at != self.sessions.peeked:
            self.sessions.peeked = at
            self.tell(Change.PEEKED)

    def scrub(self, link: Link | None, at: float = 0.0) -> None:
        """Show the Bench as it is ``at`` ms into a link's transition, or as it is."""
        self.scrubbed = None if link is None else (link, at)
        self.tell(Change.SCRUBBED)

    def select(self, selection: Selection) -> None:
        if selection != self.selection:
            self.selection = selection
            self.tell(Change.SELECTION)

    def show_stage(self, stage: str) -> None:
        """Show another stage; what is selected stays selected."""
        if stage != self.stage:
            self.stage = stage
            self.tell(Change.STAGE)

    def show_section(self, section: str) -> None:
        """Show the board of a section."""
        if changed := self._to_section(section):
            self.tell(changed)

    def _to_section(self, section: str) -> Change:
        if section == self.section or section not in self.wired.sections:
            return Change(0)
        self.section = section
        return Change.SECTION

    def mend(self, finding: Finding) -> None:
        """Mend a finding, where it can be mended without asking."""
        app = self.mended(finding)
        if app is not None:
            self.edit(f"mend {finding.code}", app)

    def mended(self, finding: Finding) -> App | None:
        return mended(self.app, self.types, finding)

    def pictures_failed(self) -> None:
        """Some pictures have not come from where they lie: that is a finding."""
        self.measured.look_again(self.pictures.failed)
        self._checks.start()

    def allow_calls(self) -> None:
        """The person lets the running app call the services of this project."""
        self.may_call = True
        self.tell(Change.CALLS)

    def let_write(self, source: str, may: bool = True) -> None:
        """The person lets the running app write to the service of a source, or no more."""
        self.may_write = self.may_write | {source} if may else self.may_write - {source}
        self.tell(Change.CALLS)
