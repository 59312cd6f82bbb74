"""Driving the delivered app, in a browser or on a desktop of its own, off the main thread."""

from __future__ import annotations

import shlex
import sys
import tempfile
import threading
from collections.abc import Callable, Iterable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Signal

from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.document.handed import ON_DESKTOP, Came, Form, HandOver
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
    from cadena.deliver.drive.walks_driven import Outcome, Plan


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
        form: Form = "desktop" if self.state.form == "desktop" else "web"
        folder = handing.folder(form)
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
                Plan(driven_name(name, form), events, window.name, window_of(window))
                for window in windows_of(document.app)
            ]
        state = self.state
        driven = {each.walk for each in plans}
        is_other = state.driven is not document.wired
        state.came = {k: e for k, e in state.came.items() if k[0] not in driven and not is_other}
        state.planned = len(plans)
        state.is_driving, state.driven = True, document.wired
        self._stop.clear()
        app = WiredApp(document.app, document.wired.as_read)
        self._start(self._run, app, folder, form, plans)
        document.tell(Change.HANDED)

    def stop(self) -> None:
        """Leave it at what was driven by now."""
        self._stop.set()

    def _run(self, app: WiredApp, folder: Path, form: Form, plans: list[Plan]) -> None:
        said = ""
        try:
            with no_collection(), tempfile.TemporaryDirectory(prefix="cadena-app-") as made:
                if form == "desktop":
                    self._drive_on_desktop(app, folder, Path(made), plans)
                else:
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
        with served(folder) as at:
            self._tell_all(partial(drive_all, app, f"{at}index.html"), plans)

    def _drive_on_desktop(self, app: WiredApp, folder: Path, made: Path, plans: list[Plan]) -> None:
        from cadena.deliver.delivery import deliver
        from cadena.deliver.desktop_app import desktop_app, package_of
        from cadena.deliver.drive.walks_driven import drive_all_on_desktop
        from cadena.deliver.taken_along import taken_along

        app = taken_along(app).app
        name = package_of(app)
        if not (folder / name / "__main__.py").is_file():
            deliver(desktop_app(app, folder.parent.parent), made)
            folder = made
        found = f"PYTHONPATH={folder}"
        command = shlex.join(["env", found, sys.executable, "-m", name])
        self._tell_all(partial(drive_all_on_desktop, app, command), plans)

    def _tell_all(self, drive: Callable[..., Iterable[Outcome]], plans: list[Plan]) -> None:
        shots: dict[tuple[str, str], bytes] = {}

        def seen(plan: Plan, driven: Driven, hand: Hand) -> None:
            if driven.differences:
                shots[plan.walk, plan.window] = hand.picture()

        for outcome in drive(plans, seen, self._stop.is_set):
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


def driven_name(walk: str, form: Form) -> str:
    """What a walk is called that is driven in a form of the app."""
    return f"{walk}{ON_DESKTOP}" if form == "desktop" else walk


def driven_names(document: Document) -> list[str]:
    """The walks that are driven, or were, or would be: in the web app, and on the desktop."""
    state, walks = document.own(HandOver), names(document)
    forms: list[Form] = ["web"]
    on_desktop = {driven_name(each, "desktop") for each in walks}
    if state.form == "desktop" or any(walk in on_desktop for walk, _ in state.came):
        forms.append("desktop")
    return [driven_name(walk, form) for form in forms for walk in walks]


def driving_of(document: Document) -> Driving:
    """The one that drives the app of this document."""
    return document.findChild(Driving) or Driving(document)
