"""Driving the delivered app in a browser, off the main thread, with a stop."""

from __future__ import annotations

import tempfile
import threading
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Signal

from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.document.handed import Came, HandOver
from cadena.desktop.document.handing import handing_of
from cadena.desktop.document.walks import names, walk_of
from cadena.desktop.jobs.job import Job
from cadena.desktop.process.collection import no_collection
from cadena.desktop.process.crash import reports
from cadena.desktop.process.threads import tell
from cadena.engine.rules.window_change import window_of
from cadena.engine.wired import WiredApp
from cadena.model.problem import Problem
from cadena.model.windows import windows_of

if TYPE_CHECKING:
    from cadena.deliver.drive.driving import Driven
    from cadena.deliver.drive.gestures import Hand
    from cadena.deliver.drive.walks_driven import Plan


class Driving(Job):
    """Drives the walks of a project through the app that is delivered of it.

    What lies in the folder that it was delivered to is driven, whatever somebody has made of it;
    where nothing lies there, what would be delivered.
    """

    _came = Signal(object)
    _ended = Signal(str)

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self._stop = threading.Event()
        self._came.connect(self._keep)
        self._ended.connect(self._end)

    @property
    def state(self) -> HandOver:
        return self.document.own(HandOver)

    def begin(self) -> None:
        """Drive every walk in every window, from the start."""
        from cadena.deliver.drive.walks_driven import Plan, events_of

        handing, document = handing_of(self.document), self.document
        folder = handing.folder("web")
        if self.state.is_driving or folder is None:
            return
        plans = []
        for name in names(document):
            try:
                events = events_of(walk_of(document, name))
            except Problem as problem:
                document.refuse(str(problem))
                continue
            plans += [
                Plan(name, events, each.name, window_of(each)) for each in windows_of(document.app)
            ]
        state = self.state
        state.came.clear()
        state.is_driving, state.driven = True, document.wired
        self._stop.clear()
        app = WiredApp(document.app, document.wired.as_read)
        self._start(self._run, app, folder, plans)
        document.tell(Change.HANDED)

    def stop(self) -> None:
        """Leave it at what was driven by now."""
        self._stop.set()

    def _run(self, app: WiredApp, folder: Path, plans: list[Plan]) -> None:
        said = ""
        try:
            with no_collection(), tempfile.TemporaryDirectory(prefix="cadena-app-") as made:
                self._drive(app, folder, Path(made), plans)
        except Problem as problem:
            said = str(problem)
        except Exception as error:
            said = f"It went wrong in Cadena ({reports().report(error, 'in driving')})."
        tell(self, "_ended", said)

    def _drive(self, app: WiredApp, folder: Path, made: Path, plans: list[Plan]) -> None:
        from cadena.deliver.delivery import deliver
        from cadena.deliver.drive.folder_server import served
        from cadena.deliver.drive.walks_driven import drive_all
        from cadena.deliver.taken_along import taken_along
        from cadena.deliver.web_app import web_app

        app = taken_along(app).app
        if not (folder / "index.html").is_file():
            deliver(web_app(app, folder.parent.parent), made)
            folder = made
        shots: dict[tuple[str, str], bytes] = {}

        def seen(plan: Plan, driven: Driven, hand: Hand) -> None:
            if driven.differences:
                shots[plan.walk, plan.window] = hand.picture()

        with served(folder) as at:
            for outcome in drive_all(app, f"{at}index.html", plans, seen, self._stop.is_set):
                key = outcome.plan.walk, outcome.plan.window
                if not self._stop.is_set() or outcome.differs is not None:
                    tell(self, "_came", Came(outcome, shots.get(key, b"")))

    def _keep(self, came: Came) -> None:
        plan = came.outcome.plan
        self.state.came[plan.walk, plan.window] = came
        self.document.tell(Change.HANDED)

    def _end(self, said: str) -> None:
        self._thread = None
        self.state.is_driving = False
        if said:
            self.document.refuse(said)
        self.document.tell(Change.HANDED)


def driving_of(document: Document) -> Driving:
    """The one that drives the app of this document."""
    return document.findChild(Driving) or Driving(document)
