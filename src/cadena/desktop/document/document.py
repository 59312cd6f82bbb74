"""The open project: its app, its session, its history. Widgets show it and ask it for changes."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Final

import msgspec
import polars as pl
from msgspec.structs import replace
from PySide6.QtCore import QObject, QTimer, Signal

from cadena.check.check import read_through
from cadena.check.finding import Finding
from cadena.check.keeping import lost_findings
from cadena.check.measured import measured_slowly
from cadena.check.mend import mended
from cadena.desktop.document.bench_sessions import Several, lines_after
from cadena.desktop.document.history import History, opened
from cadena.desktop.document.on_disk import ChangedOnDisk, Left, OnDisk
from cadena.desktop.document.rescue import let_go
from cadena.desktop.document.selection import NewSource, SelectedScreen, SelectedSource, Selection
from cadena.desktop.document.simulated_store import from_disk, to_disk
from cadena.desktop.document.stages import FIRST, is_there
from cadena.desktop.document.traced import Traced
from cadena.desktop.jobs.measuring import Measuring
from cadena.desktop.painting.painter import measure
from cadena.desktop.painting.pictures import Pictures
from cadena.engine.events import Event, Kill, Press, Relaunch, Resize, Restore
from cadena.engine.notes import Note, Notes
from cadena.engine.rules.display import display_of
from cadena.engine.rules.lifetimes import end
from cadena.engine.rules.targets import target_of
from cadena.engine.session import Session, Window, sized
from cadena.engine.step import resume, start, step
from cadena.engine.wired import WiredApp
from cadena.model.app import App, Link, ListScreen
from cadena.model.edits.wiring import Types, new_app
from cadena.model.file.disk import print_of, said_path, write_text
from cadena.model.file.project_file import SUFFIX, encode, read_project, write_app
from cadena.model.find import by_id, slug
from cadena.model.listing import SaveRows
from cadena.model.problem import Problem
from cadena.records.export_rows import handed_out
from cadena.records.records import Records
from cadena.runs.keep.matrix import Known, runs_slowly
from cadena.runs.keep.run import Matrix, Run, worst
from cadena.sources.import_file import Adopted, adopt, renamed
from cadena.sources.open_project import Project, open_project, read_all
from cadena.sources.read_file import typed
from cadena.sources.scaffold import with_sources

if TYPE_CHECKING:
    from cadena.sources.find_references import Reference
    from cadena.sources.openapi import Proposal

TRACE_KEPT: Final = 200
RESCUE_AFTER: Final = 800
CHECK_AFTER: Final = 120
KEEP_AFTER: Final = 900


class Document(QObject):
    """A project that is open. It holds every value there is; nothing else does."""

    opened = Signal()
    app_changed = Signal()
    session_changed = Signal()
    selection_changed = Signal()
    saved_changed = Signal()
    findings_changed = Signal()
    section_changed = Signal()
    failed = Signal(str)
    wants_records = Signal()
    stage_changed = Signal()
    calls_changed = Signal()
    windows_changed = Signal()
    scrubbed_changed = Signal()
    kept_changed = Signal()
    wants_bringing = Signal(object)
    handed_out = Signal(str, str)

    def __init__(self) -> None:
        super().__init__()
        self.file: Path | None = None
        self.history = History()
        self.records: dict[str, Records] = {}
        self.wired = WiredApp(self.app, {}, measure)
        self.session: Session = Session(sized(360, 780))
        self.trace: list[Traced] = []
        self.findings: tuple[Finding, ...] = ()
        self.is_checked = True
        self.selection = Selection()
        self.section = ""
        self.stage = FIRST
        self.scrubbed: tuple[Link, float] | None = None
        self.may_call = False
        self.proposals: tuple[Proposal, ...] = ()
        self.picked: frozenset[str] = frozenset()
        self.again: dict[str, tuple[str, dict[str, str]]] = {}
        self.references_known: tuple[tuple[int, ...], tuple[Reference, ...]] = ((), ())
        self.pictures = Pictures(Path("/nonexistent"))
        self.recovered = False
        self.left: Left | None = None
        self.disk = OnDisk(self)
        self._warned = False
        self.several = Several(self)
        self._rescue = QTimer(self, singleShot=True, interval=RESCUE_AFTER)
        self._rescue.timeout.connect(self.keep_unsaved)
        self._checks = QTimer(self, singleShot=True, interval=CHECK_AFTER)
        self._checks.timeout.connect(self._check_soon)
        self.measuring = Measuring(self, measured_slowly)
        self.measuring.done.connect(self._measured)
        self._known: Known = {}
        self.keeping = Measuring(self, lambda app: runs_slowly(app, self._known), KEEP_AFTER)
        self.keeping.done.connect(self._kept)
        self.matrix: Matrix = {}
        for each in (self.measuring, self.keeping):
            self.session_changed.connect(each.wait)

    def _check_soon(self) -> None:
        if not self.is_checked:
            self._check()
            self.findings_changed.emit()

    @property
    def is_open(self) -> bool:
        return self.file is not None

    @property
    def app(self) -> App:
        """The app as it now is."""
        return self.history.app

    @property
    def is_saved(self) -> bool:
        return self.history.is_saved

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
        app, records = project.app, project.records
        self.left = self.disk.take(project)
        self.recovered = self.left is not None and not self.left.is_older
        if self.left is not None and self.recovered:
            try:
                records = read_all(project.folder, self.left.app, records)
                app = self.left.app
            except Problem:
                self.recovered = False
        self.file = project.file
        self.pictures = Pictures(project.folder)
        self.history = opened(app, project.app)
        self.trace = []
        self.may_call, self.proposals, self.picked = False, (), frozenset()
        self._known = {}
        self.again = {}
        # The first picture comes before the findings.
        self._wire(records, check_now=False)
        self._checks.start()
        self.session, notes = start(self.wired, self.session.window)
        self.trace.append(Traced(None, notes))
        self.section = self.session.section
        self.selection = Selection()
        self.several.start()
        if self.recovered:
            self._take_over()
        self.opened.emit()
        self._tell()

    def recover(self) -> None:
        """Show what a window has left that did not end well; undo leads back."""
        if self.left is not None:
            self.edit("recover what was not saved", self.left.app)
            self._take_over()

    def _take_over(self) -> None:
        """What was left is this window's own from now on."""
        self.keep_unsaved()
        self.forget_left()

    def forget_left(self) -> None:
        """What was left is not wanted any more."""
        if self.left is not None:
            let_go(self.left.file)
            self.left = None

    def read_again(self) -> None:
        """Take the project as it now is on disk; undo leads back to what was shown.

        Raises:
            Problem: for a project that cannot be used; what is shown stays.
        """
        if self.file is None:
            return
        project = open_project(self.file)
        self.disk.go_by(project.print_of)
        self.history, self.recovered = self.history.kept(project.app), False
        self.records = project.records
        if project.app != self.app:
            self.edit("read what changed on disk", project.app)
        self.saved_changed.emit()

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

    def save(self, over: bool = False) -> None:
        """Save the project; the file before is kept beside it.

        Args:
            over: whether what somebody else has saved meanwhile is written over.

        Raises:
            ChangedOnDisk: when somebody has, and it is not to be.
            Problem: when the disk does not take it.
        """
        if self.file is None:
            return
        if not over and self.disk.is_changed:
            name = said_path(self.file.name)
            reason = "it was changed on disk since it was read"
            raise ChangedOnDisk(name, "", reason, "to know which of the two is wanted")
        text = encode(self.app)
        write_text(text, self.file, keep_before=True)
        self.disk.go_by(print_of(text.encode()))
        self.history, self.recovered = self.history.kept(self.app), False
        self.forget_unsaved()
        self.saved_changed.emit()

    def close(self) -> None:
        """Close the project."""
        self.forget_unsaved()
        self.disk.close()
        self.file, self.left = None, None
        self.history, self.trace = History(), []
        self._wire({})
        self.session = Session(self.session.window)
        self.recovered = False
        self._tell()

    def keep_unsaved(self) -> None:
        """Keep what is not saved, or forget it where all is."""
        if self.disk.rescue is None:
            return
        if self.is_saved:
            self.forget_unsaved()
            return
        why = self.disk.rescue.keep(encode(self.app))
        if why is not None and not self._warned:
            self._warned = True
            self.failed.emit(f"What is not saved would be lost in a crash. {why}")

    def forget_unsaved(self) -> None:
        self._rescue.stop()
        if self.disk.rescue is not None:
            self.disk.rescue.forget()

    def edit(self, what: str, app: App, selection: Selection | None = None) -> None:
        """Change the app; ``what`` names the change for undo."""
        if selection is not None:
            self.selection = selection
        history = self.history.edited(what, app)
        if history is self.history:
            self.selection_changed.emit()
        else:
            self._change(history)

    def refuse(self, why: str) -> None:
        """Say why something typed cannot be; what was there before is shown again."""
        self.failed.emit(why)
        self.selection_changed.emit()

    @property
    def undoes(self) -> str:
        """What undo would take back, or nothing."""
        return self.history.undoes

    @property
    def redoes(self) -> str:
        return self.history.redoes

    def undo(self) -> None:
        if self.undoes:
            self._change(self.history.undone())

    def redo(self) -> None:
        if self.redoes:
            self._change(self.history.redone())

    def _change(self, history: History) -> None:
        records, before, app = self.records, self.wired, history.app
        if app.sources != self.app.sources and self.file is not None:
            try:
                records = read_all(self.file.parent, app, self.records)
            except Problem as problem:
                self.failed.emit(str(problem))
        self.history = history
        self._wire(records)
        self.session, notes = resume(self.wired, self.session, before)
        self.several.carry_over(before)
        if notes:
            self.trace.append(Traced(None, notes))
        self._rescue.start()
        self._tell()

    def check(self) -> None:
        """Find what is wrong, and say so: also what shows only when the app is run."""
        self._check()
        self.measuring.finish()
        self.keeping.finish()
        self.findings_changed.emit()

    def _check(self) -> None:
        if not self.is_checked:
            self.findings, self.is_checked = read_through(self.app, self.records), True

    def _kept(self, found: tuple[Run, ...]) -> None:
        """What survives has been measured."""
        self.matrix = worst(found)
        self._measured(tuple(lost_findings(found)))
        self.kept_changed.emit()

    def _measured(self, found: tuple[Finding, ...]) -> None:
        """What was found by running the app is there as well."""
        self._check()
        self.findings = (*self.findings, *found)
        self.findings_changed.emit()

    def _wire(self, records: dict[str, Records], check_now: bool = True) -> None:
        app, self.records = self.app, records
        self.wired = WiredApp(app, records, measure)
        self.findings, self.is_checked = (), False
        self.measuring.start(self.wired)
        self.keeping.start(self.wired)
        if check_now:
            self._check()
        if self.section not in self.wired.sections:
            self.section = (
                app.start
                if app.start in self.wired.sections
                else next(iter(self.wired.sections), "")
            )
        if not is_there(self.app, self.selection):
            self.selection = Selection()

    def _tell(self) -> None:
        """Tell everything anew; what shows the selection is told once, at the end."""
        self.app_changed.emit()
        self.session_changed.emit()
        self.selection_changed.emit()
        self.saved_changed.emit()

    def do(self, event: Event) -> Notes:
        """Let something happen to the running app; the board follows to its section."""
        before = self.session.section
        is_ended = self.session.phase == "killed"
        if isinstance(event, Relaunch) and self.file is not None and not is_ended:
            # Started cold, an app reads its store as well: it is ended first, as it would be.
            self.session, is_ended = end(self.wired, self.session), True
            to_disk(self.session, self.file)
        if is_ended and isinstance(event, Relaunch | Restore) and self.file is not None:
            self.session = from_disk(self.session, self.file)
        self.session, notes, refused = step(self.wired, self.session, event)
        if isinstance(event, Kill) and self.file is not None:
            to_disk(self.session, self.file)
        self.trace = lines_after(self.trace[-TRACE_KEPT:], event, Traced(event, notes, refused))
        if self.session.section and self.session.section != before:
            self.show_section(self.session.section)
        self.session_changed.emit()
        if any(each.kind == "handed out" for each in notes):
            self._hand_out(event)
        return notes

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
        self.session, notes = start(self.wired, self.session.window)
        self.trace.append(Traced(None, (Note("started"), *notes)))
        self.session_changed.emit()

    def scrub(self, link: Link | None, at: float = 0.0) -> None:
        """Show the Bench as it is ``at`` ms into a link's transition, or as it is."""
        self.scrubbed = None if link is None else (link, at)
        self.scrubbed_changed.emit()

    def select(self, selection: Selection) -> None:
        if selection != self.selection:
            self.selection = selection
            self.selection_changed.emit()

    def show_stage(self, stage: str) -> None:
        """Show another stage; what is selected stays selected."""
        if stage != self.stage:
            self.stage = stage
            self.stage_changed.emit()

    def show_section(self, section: str) -> None:
        """Show the board of a section."""
        if section != self.section and section in self.wired.sections:
            self.section = section
            self.section_changed.emit()

    def mend(self, finding: Finding) -> None:
        """Mend a finding, where it can be mended without asking."""
        app = self.mended(finding)
        if app is not None:
            self.edit(f"mend {finding.code}", app)

    def mended(self, finding: Finding) -> App | None:
        return mended(self.app, self.types, finding)

    def add_records(self, file: Path) -> None:
        """Take a data file in: a source, a list of it, and a section.

        Raises:
            Problem: when it cannot be used; nothing changes then.
        """
        if self.file is None:
            return
        taken = [each.id for each in self.app.sources]
        self.take_in(adopt(self.file.parent, file, taken))

    def take_brought(self, made: Adopted) -> None:
        """Take in the records that a service brought: of a source there is, or a new one."""
        source = made.source
        if by_id(self.app.sources, source.id) is None:
            self.take_in([made])
            return
        self.records = {**self.records, source.id: made.records}
        sources = tuple(source if each.id == source.id else each for each in self.app.sources)
        self.edit(
            f"bring {source.id}",
            replace(self.app, sources=sources),
            SelectedSource(source.id),
        )

    def allow_calls(self) -> None:
        """The person lets the running app call the services of this project."""
        self.may_call = True
        self.calls_changed.emit()

    def propose(self, proposals: tuple[Proposal, ...]) -> None:
        """Offer the sources of a service to pick from."""
        self.proposals = proposals
        self.picked = frozenset(each.source.id for each in proposals)
        self.selection = NewSource()
        self.selection_changed.emit()

    def pick(self, name: str) -> None:
        """Pick a source that is offered, or leave it."""
        self.picked = self.picked ^ {name}
        self.selection_changed.emit()

    def take_picked(self) -> None:
        """Add the sources that are picked."""
        taken = [each.id for each in self.app.sources]
        picked = [
            Adopted(source, typed(source, pl.DataFrame()))
            for each in self.proposals
            if each.source.id in self.picked
            for source in (renamed(each.source, taken),)
        ]
        self.proposals, self.picked = (), frozenset()
        self.take_in(picked)

    def take_in(self, made: Sequence[Adopted]) -> None:
        """Add sources with a list, a detail and a section for each."""
        if not made:
            return
        # Read off the main thread, a name may have been taken in the meantime.
        taken = [each.id for each in self.app.sources]
        named = [renamed(each.source, taken) for each in made]
        made = [
            Adopted(source, each.records.said_by(source))
            for source, each in zip(named, made, strict=True)
        ]
        app = with_sources(self.app, made, self.records)
        self.records = {**self.records, **{each.source.id: each.records for each in made}}
        first = made[0].source.id
        screens = (each for each in app.screens if isinstance(each, ListScreen))
        screen = next(each for each in screens if each.rows.source == first)
        section = next(each.id for each in app.sections if each.root == screen.id)
        self.section = section
        names = ", ".join(each.source.id for each in made)
        self.edit(f"add records {names}", app, SelectedScreen(screen.id))
        self.show_section(section)
