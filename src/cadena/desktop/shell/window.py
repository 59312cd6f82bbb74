"""The main window: head, stage chain, the work, and the Bench."""

from __future__ import annotations

import contextlib
from pathlib import Path
from typing import TYPE_CHECKING, Any, Final

from msgspec.structs import replace
from PySide6.QtCore import QByteArray, QPoint, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QMainWindow,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from cadena.desktop.bench.bench import Bench
from cadena.desktop.document import walks
from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import AllFindings, WholeApp
from cadena.desktop.document.stages import FIRST, stage_named
from cadena.desktop.jobs.calls import Calls
from cadena.desktop.jobs.fetch_pictures import FetchPictures
from cadena.desktop.jobs.job import end_all
from cadena.desktop.jobs.work import Work
from cadena.desktop.painting import theme
from cadena.desktop.painting.faces import forget_fonts
from cadena.desktop.painting.motion import Motion, is_reduced
from cadena.desktop.process import settings as kept
from cadena.desktop.process.drafts import left_over, let_go
from cadena.desktop.shell.commands import Commands
from cadena.desktop.shell.file_actions import Taking, folder_chosen
from cadena.desktop.shell.first_page import HIGH, FirstPage, picture_of
from cadena.desktop.shell.head import Head
from cadena.desktop.shell.message_line import Said
from cadena.desktop.shell.progress_line import ProgressLine
from cadena.desktop.shell.run_walks import run_walks
from cadena.desktop.shell.saving import Saving
from cadena.desktop.shell.stage_chain import StageChain
from cadena.desktop.widgets.strip import Strip
from cadena.engine.rules.window_change import window_of
from cadena.engine.session import Window
from cadena.model.problem import Problem
from cadena.model.windows import windows_of

if TYPE_CHECKING:
    from cadena.desktop.bench.apart import Apart


UNTITLED: Final = "Untitled"


class MainWindow(QMainWindow):
    """Holds the parts together; the document holds everything else."""

    def __init__(self, document: Document, settings: kept.Settings, remembers: bool = True) -> None:
        super().__init__()
        self.document, self.settings, self.remembers = document, settings, remembers
        if remembers:
            Motion.reduced = settings.reduced_motion
        self.setWindowTitle("Cadena")
        self.resize(1280, 800)
        self.head = Head(document)
        self.chain = StageChain(document)
        self._stages: dict[str, Any] = {}
        self._discarded: Path | None = None
        self.calls = Calls(document)
        self.fetching = FetchPictures(document)
        self.work = Work(self)
        self.taking = Taking(document, self, self.work, self._may_leave)
        self.apart: Apart | None = None
        self.setAcceptDrops(True)
        self.bench = Bench(document)
        self.first = FirstPage()
        self.said = Said()
        self.saving = Saving(document, self, self.said)
        self.progress = ProgressLine(self.work)
        self.setCentralWidget(self._laid_out())
        self._connect()
        self.commands = Commands(self)
        self.commands.bind_to(FIRST, self.stage_of(FIRST).picture)
        if remembers and settings.geometry:
            self.restoreGeometry(QByteArray.fromBase64(settings.geometry.encode()))
        if remembers and len(settings.widths) == 2:
            self.split.setSizes(list(settings.widths))
        if remembers:
            Strip.tall = settings.strip or None
        if remembers and len(settings.bench) == 2:
            self.bench.parts.setSizes(list(settings.bench))
        if document.is_open:
            self._opened()
        else:
            self.refresh()
        # Put on once all is there: every part is then styled once, and not as it is made.
        self.setStyleSheet(theme.style_sheet(theme.theme()))

    def _laid_out(self) -> QWidget:
        self.split = QSplitter(Qt.Orientation.Horizontal)
        self.split.setChildrenCollapsible(False)
        self.split.setHandleWidth(3)
        self.shown = QStackedWidget()
        self.shown.addWidget(self.stage_of(FIRST))
        self.split.addWidget(self.shown)
        self.split.addWidget(self.bench)
        self.split.setSizes([816, 380])
        self.split.setStretchFactor(0, 1)
        work = QWidget()
        row = QHBoxLayout(work)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.chain)
        row.addWidget(self.split, 1)
        self.pages = QStackedWidget()
        self.pages.addWidget(self.first)
        self.pages.addWidget(work)
        whole = QWidget()
        column = QVBoxLayout(whole)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.head)
        column.addWidget(self.said)
        column.addWidget(self.progress)
        column.addWidget(self.pages, 1)
        return whole

    def _connect(self) -> None:
        document = self.document
        document.opened.connect(self._opened)
        document.failed.connect(self.tell)
        document.said.connect(self.said.say_well)
        document.happened.connect(lambda event: walks.add_done(document, event))
        document.wants_records.connect(self.taking.add_records)
        document.wants_bringing.connect(self.taking.bring)
        document.wants_exchange.connect(self.taking.exchange)
        document.watch(Change.STAGE, self._show_stage)
        document.handed_out.connect(self.taking.save_rows)
        self.work.failed.connect(self.tell)
        document.disk.changed.connect(self._changed_on_disk)
        document.watch(Change.APP | Change.SAVED, self._retitle)
        self.head.wants_menu.connect(self.open_menu)
        self.head.wants_ask.connect(self.ask)
        self.head.wants_findings.connect(self.show_findings)
        self.head.wants_walks.connect(self.run_walks)
        self.first.wants_project.connect(self.taking.open_project)
        self.first.wants_demo.connect(self.open_demo)
        self.first.wants_empty.connect(self.make_project)
        self.first.wants_folder.connect(self.choose_project)
        self.first.wants_files.connect(self.taking.make_of_files)
        self.first.wants_made_up.connect(self.make_of_nothing)

    def refresh(self) -> None:
        """Show the project, or the first page where there is none."""
        if not self.document.is_open:
            self.first.show_recent(self.settings.recent, left_over())
        self.pages.setCurrentIndex(1 if self.document.is_open else 0)
        self.head.refresh()
        self._retitle()

    def _retitle(self) -> None:
        document = self.document
        mark = "" if document.is_saved else " *"
        self.setWindowTitle(f"{document.app.name}{mark} · Cadena" if document.is_open else "Cadena")

    def tell(self, text: str) -> None:
        """Say that something could not be done, and why, where it can be read."""
        self.said.say(text)

    def tell_error(self, said: str, report: str) -> None:
        """Say that something went wrong in Cadena itself, and offer the report of it."""
        clipboard = QApplication.clipboard()
        self.said.say(
            f"Something went wrong in Cadena ({said}). Your project is as it was; "
            "the report is in the log.",
            [("Copy the report", lambda: clipboard.setText(report))],
        )

    def _opened(self) -> None:
        self._let_go_of_discarded()
        if self.document.file is not None and self.remembers and not self.document.is_draft:
            self.settings = kept.with_recent(self.settings, self.document.file.parent)
        self.refresh()
        self._tell_of_left()
        QTimer.singleShot(0, self.document.disk.watch)
        self._show_stage()
        self.stage.picture.setFocus()

    def _tell_of_left(self) -> None:
        document = self.document
        if document.unsaved.is_back:
            self.tell(
                "What was not saved when Cadena ended is back. Undo takes you to the saved project."
            )
        elif document.unsaved.left is not None:
            self.said.say(
                "A window that did not end well has left changes that are older than the saved "
                "project.",
                [
                    ("Show them", document.unsaved.recover),
                    ("Forget them", document.unsaved.forget_left),
                ],
            )

    def _changed_on_disk(self) -> None:
        """Somebody else has saved the project: it is read again, or a save will ask."""
        document = self.document
        if not document.is_saved:
            self.tell("The project was changed on disk. Saving will ask which of the two you want.")
            return
        try:
            document.read_again()
        except Problem as problem:
            self.tell(f"The project was changed on disk, and cannot be read now. {problem}")
        else:
            self.tell("The project was changed on disk, and is read again. Undo leads back.")

    @property
    def stage(self) -> Any:
        """The stage that is shown."""
        return self.stage_of(self.document.stage)

    def stage_of(self, name: str) -> Any:
        """The widget of a stage; each is made when it is first gone to."""
        if name not in self._stages:
            stage = self._stages[name] = stage_named(name).make(self.document)
            self.shown.addWidget(stage)
            if hasattr(self, "commands"):
                self.commands.bind_to(name, stage.picture)
        return self._stages[name]

    def go_to_stage(self, stage: str) -> None:
        self.document.show_stage(stage)
        self.stage.picture.setFocus()

    def _show_stage(self) -> None:
        self.shown.setCurrentWidget(self.stage)

    def open_demo(self) -> None:
        """Open the demo on the person's own copy."""
        from cadena.desktop.shell.demo import demo_copy

        try:
            self.taking.open_project(demo_copy())
        except Problem as problem:
            self.tell(str(problem))

    def choose_project(self) -> None:
        folder = folder_chosen(self, "Open a project")
        if folder:
            self.taking.open_project(Path(folder))

    def make_project(self) -> None:
        """Begin with nothing, at once; saving asks where."""
        self.taking.make_empty(UNTITLED)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(each.isLocalFile() for each in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        files = [Path(each.toLocalFile()) for each in event.mimeData().urls() if each.isLocalFile()]
        event.acceptProposedAction()
        self.taking.take_dropped(*files)

    def make_of_nothing(self, what: str) -> None:
        """A project with a list of three made-up records, called by what it shows."""
        if what.strip() and self.taking.make_empty(what.strip()[:1].upper() + what.strip()[1:]):
            from cadena.desktop.document.new_sources import begin_with

            begin_with(self.document, what)

    def _keep_picture(self) -> None:
        """How the app looked when its project was left: for the first page."""
        if self.document.file is None or not self.remembers:
            return
        file = picture_of(self.document.file.parent)
        with contextlib.suppress(OSError):
            file.parent.mkdir(parents=True, exist_ok=True)
            high = Qt.TransformationMode.SmoothTransformation
            self.bench.canvas.grab().scaledToHeight(2 * HIGH, high).save(str(file))

    def show_keys(self) -> None:
        """Show the keys there are here."""
        self.commands.open_keys(self)

    def close_project(self) -> None:
        """Close the project and show the first page."""
        if self._may_leave():
            self._keep_picture()
            self.document.close()
            self._let_go_of_discarded()
            self.refresh()

    def save(self) -> None:
        """Save the project, or ask what has to be decided first."""
        self.saving.save()

    def run_walks(self) -> None:
        """Replay every walk of the project at every named window, and say what came of it."""
        self.tell(
            run_walks(self.document, [window_of(each) for each in windows_of(self.document.app)])
        )

    def change_theme(self) -> None:
        """From light to dark, or back."""
        name: theme.Name = "dark" if theme.theme().name == "light" else "light"
        self.settings = replace(self.settings, theme=name)
        application = QApplication.instance()
        if isinstance(application, QApplication):
            theme.install(application, name)
            self.setStyleSheet(theme.style_sheet(theme.theme()))
            forget_fonts()
            for widget in self.findChildren(QWidget):
                widget.update()

    def change_motion(self) -> None:
        """Let things move, or not."""
        Motion.reduced = not is_reduced()
        self.settings = replace(self.settings, reduced_motion=Motion.reduced)
        self.tell("Nothing moves now." if Motion.reduced else "Transitions move now.")

    def open_menu(self) -> None:
        """The menu of the project."""
        project = self.head.project
        self.commands.open_menu(project.mapToGlobal(QPoint(0, project.height())))

    def about_app(self) -> None:
        """Say what the app itself is."""
        self.document.show_stage(FIRST)
        self.document.select(WholeApp())

    def show_findings(self) -> None:
        """Say all that is open."""
        self.document.select(AllFindings())

    def ask(self) -> None:
        """Open Ctrl+K."""
        from cadena.desktop.shell.do_anything import Ask

        if not hasattr(self, "_ask"):
            self._ask = Ask(self.document, self.commands, self, lambda: self.stage.strip.said)
        self._ask.open_under(self, self.head.ask)

    def bench_at_large(self) -> None:
        """Give the Bench the room of the work, or give it back."""
        large = not self.bench.is_large
        self.shown.setVisible(not large)
        self.bench.be_large(large)
        self.bench.canvas.setFocus()

    def bench_apart(self) -> None:
        """Show the Bench in a window of its own, or take it back into this one."""
        if self.apart is not None:
            self.apart.close()
            return
        from cadena.desktop.bench.apart import Apart

        self.apart = Apart(self.bench)
        self.apart.closed.connect(self._bench_back)
        self.apart.resize(900, 760)
        self.shown.show()
        self.bench.be_large(True)
        self.apart.show()

    def _bench_back(self) -> None:
        self.apart = None
        self.split.addWidget(self.bench)
        self.split.setSizes([816, 380])
        self.bench.be_large(False)
        self.bench.show()

    def next_part(self, by: int) -> None:
        """Move the focus between chain, work, strip and Bench."""
        strip = self.stage.strip
        parts: list[QWidget] = [self.chain, self.stage.picture, strip, self.bench.canvas]
        focused = self.focusWidget()
        at = next(
            (
                n
                for n, each in enumerate(parts)
                if focused is not None and (each is focused or each.isAncestorOf(focused))
            ),
            -1 if by > 0 else 0,
        )
        part = parts[(at + by) % len(parts)]
        if part is strip:
            stops = [
                control
                for control in strip.findChildren(QWidget)
                if control.focusPolicy() & Qt.FocusPolicy.TabFocus and control.isVisible()
            ]
            part = stops[0] if stops else self.bench.canvas
        elif part is self.chain:
            part = next(each for each in self.chain.links if each.isChecked())
        part.setFocus(Qt.FocusReason.TabFocusReason)

    def _may_leave(self) -> bool:
        """Ask what to do with what is not saved; whether the project may be left."""
        document = self.document
        if not document.is_open or document.is_saved:
            return True
        if document.is_draft and not (document.app.sources or document.app.screens):
            self._discard()
            return True
        from PySide6.QtWidgets import QMessageBox

        buttons = QMessageBox.StandardButton
        answer = QMessageBox.question(
            self,
            "Not saved",
            f"{document.app.name} is saved nowhere yet."
            if document.is_draft
            else f"{document.app.name} has changes that are not saved.",
            buttons.Save | buttons.Discard | buttons.Cancel,
        )
        if answer == buttons.Save:
            self.save()
            return document.is_saved
        if answer == buttons.Discard:
            self._discard()
            return True
        return False

    def _discard(self) -> None:
        """What is not saved is not wanted: a draft goes once something else is shown."""
        document = self.document
        document.unsaved.forget()
        if document.is_draft and document.file is not None:
            self._discarded = document.file.parent

    def _let_go_of_discarded(self) -> None:
        file = self.document.file
        if self._discarded is not None and (file is None or file.parent != self._discarded):
            let_go(self._discarded)
            self._discarded = None

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self._may_leave():
            event.ignore()
            return
        if self.apart is not None:
            self.apart.close()
        end_all(self.document)
        self._keep_picture()
        self.document.unsaved.forget()
        self.document.disk.close()
        if self._discarded is not None:
            let_go(self._discarded)
        if self.remembers:
            window: Window = self.document.session.window
            geometry = bytes(self.saveGeometry().toBase64().data()).decode()
            sizes = self.split.sizes()
            kept.write_settings(
                replace(
                    self.settings,
                    geometry=geometry,
                    widths=(sizes[0], sizes[1]),
                    strip=Strip.tall or 0,
                    bench=() if self.bench.is_large else tuple(self.bench.parts.sizes()),
                    window=(window.width, window.height),
                    zoom=self.stage_of("Link").picture.zoom / theme.Look.scale,
                )
            )
        event.accept()
