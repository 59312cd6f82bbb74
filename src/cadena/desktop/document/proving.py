"""What is proven of the open project: explored in the background once somebody has asked."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from PySide6.QtCore import QObject

from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.document.proven import Proven
from cadena.desktop.process.background import Background
from cadena.engine.wired import WiredApp
from cadena.runs.prove.explore import Limits
from cadena.runs.prove.prove import Reached, proof_of, reached_slowly

REST: Final = 900
"""Ms without a change before the app is explored: after what is measured for the other stages."""
MOST_STATES: Final = 60_000
"""States of a section that are looked at in the window; the command goes further."""


class Proving(QObject):
    """Explores the app of a document, a little at a time, and again after each edit."""

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self.document = document
        self.is_stopped = False
        self.work = Background(self, self._explore, REST)
        self.work.done.connect(self._done)
        document.watch(Change.APP, self.begin)
        document.watch(Change.SESSION, self.work.wait)

    def begin(self) -> None:
        """The app is another one: what is known holds no longer, and is looked for anew."""
        self.state.is_fresh = False
        if self.state.is_asked and self.document.is_open:
            self.is_stopped = False
            self.work.start(self.document.wired)

    def ask(self) -> None:
        """Somebody wants to know."""
        if not self.state.is_asked:
            self.state.is_asked = True
            self.begin()

    def stop(self) -> None:
        """Tell what is known by now; it is said that this is not all."""
        self.is_stopped = True
        self.work.finish()

    def finish(self) -> None:
        """Do all that is left at once."""
        self.ask()
        self.work.finish()

    @property
    def state(self) -> Proven:
        """What is known of the project that is open now."""
        return self.document.own(Proven)

    @property
    def is_at_work(self) -> bool:
        return not self.work.is_done

    def _explore(self, app: WiredApp) -> Iterator[Reached | None]:
        self.state.done = 0
        limits = Limits(states=MOST_STATES, stop=lambda: self.is_stopped)
        for came in reached_slowly(app, self.state.known, limits):
            reached = came if isinstance(came, Reached) else None
            self.state.done += reached is not None
            yield reached

    def _done(self, reached: tuple[Reached, ...]) -> None:
        self.state.proof = proof_of(self.document.wired, reached)
        self.state.is_fresh = True
        self.document.tell(Change.PROVEN)


def proving_of(document: Document) -> Proving:
    """The one that explores this document."""
    return document.findChild(Proving) or Proving(document)
