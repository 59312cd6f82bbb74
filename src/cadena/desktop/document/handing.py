"""Handing the open project over: what would be written is made in the background, and written
only when somebody asks for it."""

from __future__ import annotations

import threading
from collections.abc import Callable
from pathlib import Path
from typing import Final

from PySide6.QtCore import QObject, Signal

from cadena.deliver.wishes import WebWishes
from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.document.handed import Form, HandedOver, HandOver
from cadena.desktop.process.collection import no_collection
from cadena.desktop.process.crash import reports
from cadena.desktop.process.threads import tell
from cadena.engine.wired import WiredApp
from cadena.model.problem import Problem

FOLDER: Final = "delivered"
DIAGRAMS: Final = {"board.mmd": "mermaid", "board.dot": "dot", "board.svg": "svg"}


CI: Final = """\
#!/bin/sh
# What continuous integration runs of this project; see docs/ci.md of Cadena.
set -e
cadena ci . --junit cadena.xml --sarif cadena.sarif
cadena deliver . --as web --to delivered/web
cadena drive . --app delivered/web --junit drive.xml
"""


class Handing(QObject):
    """Makes what would be handed over of a document, and writes it."""

    _made = Signal(str, object)

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self.document = document
        self._under_way: set[str] = set()
        self._made.connect(self._keep)

    @property
    def state(self) -> HandOver:
        return self.document.own(HandOver)

    def folder(self, form: Form) -> Path | None:
        """Where it is written: beside the project file."""
        file = self.document.file
        return None if file is None else file.parent / FOLDER / form

    def made(self, form: Form) -> HandedOver | None:
        """What would be handed over of the app as it is now; none while that is not made yet."""
        known = self.state.made.get(form)
        return known if known is not None and known.app is self.document.wired else None

    def ask(self, form: Form) -> None:
        """Somebody looks at it: make it, unless it is made or being made."""
        folder = self.folder(form)
        if folder is None or self.made(form) is not None or form in self._under_way:
            return
        self._under_way.add(form)
        app, project, wishes = self.document.wired, folder.parent.parent, self.wishes()

        def run() -> None:
            try:
                with no_collection():
                    handed = handed_over(app, project, folder, form, wishes)
            except Problem as problem:
                handed = HandedOver(app, {}, (), (problem,))
            except Exception as error:
                said = reports().report(error, f"in handing over as {form}")
                wrong = Problem(form, "", f"it went wrong in Cadena ({said})", "the log")
                handed = HandedOver(app, {}, (), (wrong,))
            tell(self, "_made", form, handed)

        threading.Thread(target=run, daemon=True, name=f"hand over {form}").start()

    def finish(self, form: Form) -> None:
        """Make it at once."""
        folder = self.folder(form)
        if folder is not None and self.made(form) is None:
            project, wishes = folder.parent.parent, self.wishes()
            handed = handed_over(self.document.wired, project, folder, form, wishes)
            self._keep(form, handed)

    def _keep(self, form: Form, handed: HandedOver) -> None:
        self._under_way.discard(form)
        self.state.made[form] = handed
        self.document.tell(Change.HANDED)

    def wishes(self) -> WebWishes:
        """How the web app is to be delivered: as was chosen, here or for its folder."""
        from cadena.deliver.delivery import web_of
        from cadena.deliver.wishes import wished

        folder = self.folder("web")
        if self.state.wishes is not None or folder is None:
            return self.state.wishes or wished(None)
        try:
            return wished(web_of(folder))
        except Problem:
            # What is wrong with the folder is said where what it would hold is made.
            return wished(None)

    def wish(self, wishes: WebWishes) -> None:
        """Have the web app delivered otherwise from now on."""
        self.state.wishes = wishes
        self.state.made.pop("web", None)
        self.document.tell(Change.HANDED)
        self.ask("web")

    def write(self, form: Form) -> None:
        """Write it; what was changed by hand stays, and what came of that is said."""
        from cadena.deliver.delivery import WRITTEN, YOURS, deliver

        folder, made = self.folder(form), self.made(form)
        if folder is None or made is None or not made.files:
            return
        try:
            handed = deliver(made.files, folder, self.wishes() if form == "web" else None)
        except Problem as problem:
            self.document.refuse(str(problem))
            return
        yours = sum(each.state in YOURS for each in handed)
        written = sum(each.state in WRITTEN for each in handed)
        kept = f"; {yours} of yours left as they are" if yours else ""
        self.document.say(f"{written} files written to {FOLDER}/{form}{kept}")
        self.state.made.pop(form)
        self.ask(form)


def handed_over(
    app: WiredApp, project: Path, folder: Path, form: Form, wishes: WebWishes
) -> HandedOver:
    """What would be handed over as a form, and what becomes of each of its files."""
    from cadena.deliver.cannot import cannot_be_a_desktop_app, cannot_be_carried
    from cadena.deliver.delivery import planned
    from cadena.deliver.taken_along import taken_along

    # The rules remember what they find, and are not asked from two threads at once.
    own, left = taken_along(WiredApp(app.app, app.as_read))
    checks = {"web": cannot_be_carried, "desktop": cannot_be_a_desktop_app}
    if form in checks and (problems := tuple(checks[form](own))):
        return HandedOver(app, {}, (), problems)
    if form == "web":
        from cadena.deliver.web_app import web_files

        files = web_files(own, project, folder, wishes)
    else:
        files = MAKERS[form](own, project)
    more = [f"{each}; cadena deliver --records takes more" for each in left]
    if form == "web":
        from cadena.deliver.web_app import picture_hosts

        if hosts := picture_hosts(own):
            more.append(f"its pictures come from {', '.join(hosts)}")
    return HandedOver(app, files, planned(files, folder), left=tuple(more))


def _contract(app: WiredApp, project: Path) -> dict[str, bytes]:
    from cadena.deliver.contract.contract import contract

    return contract(app, project)


def _desktop(app: WiredApp, project: Path) -> dict[str, bytes]:
    from cadena.deliver.desktop_app import desktop_app

    return desktop_app(app, project)


def _diagrams(app: WiredApp, project: Path) -> dict[str, bytes]:
    from cadena.check.diagrams import diagram_of

    drawn = {name: diagram_of(app.app, form).encode() for name, form in DIAGRAMS.items()}
    return {**drawn, "ci.sh": CI.encode()}


def _report(app: WiredApp, project: Path) -> dict[str, bytes]:
    # Its pictures are painted when it is written: that takes a while, and only the window may.
    return {}


MAKERS: Final[dict[Form, Callable[[WiredApp, Path], dict[str, bytes]]]] = {
    "desktop": _desktop,
    "contract": _contract,
    "report": _report,
    "diagrams": _diagrams,
    # Compared only when somebody wants to know: see ``jobs.comparing``.
    "changes": _report,
}


def handing_of(document: Document) -> Handing:
    """The one that hands this document over."""
    return document.findChild(Handing) or Handing(document)
