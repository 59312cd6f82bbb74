"""Two versions of the app side by side, under one set of events: those of the run on the Bench."""

from __future__ import annotations

from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from cadena.desktop.document.document import Document
from cadena.desktop.document.handed import HandOver
from cadena.desktop.painting.framed import paint_framed
from cadena.desktop.painting.theme import px
from cadena.desktop.stages.deliver.side_by_side import paint_caption, placed, rooms
from cadena.engine.events import Event
from cadena.engine.session import Session, Window
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.scene.different import different
from cadena.scene.lay_out import lay_out


class OldAndNew(QWidget):
    """The version before, stepped along with the app that is running, and that app itself."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.app: WiredApp | None = None
        self._taken: tuple[Window, tuple[Event, ...], Session] | None = None
        self.setAccessibleName("before and now, under one set of events")
        self.setFixedWidth(px(340))

    def follow(self) -> None:
        """Take what has happened on the Bench to the version before as well."""
        app = self.document.own(HandOver).before
        if app is not self.app:
            self.app, self._taken = app, None
        self.setVisible(app is not None)
        if app is not None:
            self._step(app)
            self.setAccessibleDescription(self._chains_in_words(app))
        self.update()

    @property
    def session(self) -> Session | None:
        """The session of the version before."""
        return None if self._taken is None else self._taken[2]

    def _step(self, app: WiredApp) -> None:
        window, events = self.document.sessions.run()
        known = self._taken
        if known is None or known[0] != window or events[: len(known[1])] != known[1]:
            known = window, (), start(app, window)[0]
        session = known[2]
        for event in events[len(known[1]) :]:
            session = step(app, session, event).session
        self._taken = window, events, session

    def _chains_in_words(self, app: WiredApp) -> str:
        before = self.session
        if before is None:
            return ""
        chains = [
            " › ".join(each.screen for each in session.entries)
            for session in (before, self.document.session)
        ]
        return f"before: {chains[0]}; now: {chains[1]}"

    def paintEvent(self, _: QPaintEvent) -> None:
        app, before = self.app, self.session
        if app is None or before is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        now = self.document.session
        scenes = [
            lay_out(app, before, before.window),
            lay_out(self.document.wired, now, now.window),
        ]
        pairs = zip(rooms(self), ("before", "now"), scenes, reversed(scenes), strict=True)
        for room, said, scene, other in pairs:
            rect = placed(room, scene.width, scene.height)
            changed = different(scene, other) if said == "now" else ()
            paint_framed(painter, rect, scene, self.document.pictures, changed)
            paint_caption(painter, room, said)
