"""A running app in a window of the desktop."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Final

from msgspec.structs import replace
from PySide6.QtCore import QEvent, Qt, QTimer, QUrl
from PySide6.QtGui import QDesktopServices, QGuiApplication, QKeySequence, QPalette, QShortcut
from PySide6.QtWidgets import QWidget

from cadena.engine import events as do
from cadena.engine.notes import Notes
from cadena.engine.rules.display import display_of
from cadena.engine.session import Session, Window
from cadena.engine.step import step
from cadena.engine.wired import WiredApp
from cadena.native.look import text_of_system
from cadena.native.pictures import PicturesOf
from cadena.native.roles import tell_roles
from cadena.native.shown import Shown
from cadena.native.store import Store, begun, kept_of
from cadena.native.widgets import Line
from cadena.scene.lay_out import lay_out

if TYPE_CHECKING:
    from PySide6.QtGui import QCloseEvent, QKeyEvent, QMouseEvent, QResizeEvent

    from cadena.native.calls import Calls
    from cadena.native.passing import Passing
    from cadena.scene.rows_moved import Gliding
    from cadena.scene.transition import Moving

KEEPS_AFTER: Final = 200
"""Ms in which more may happen before what has happened is kept; who leaves keeps at once."""
USUAL_SIZE: Final = (1000, 720)
LEAST_SIZE: Final = (180, 160)


class Running(QWidget):
    """The window of an app.

    Args:
        folder: where its records and pictures lie.
        store: what it keeps.
        size: that of the window in px, whatever it was before.
        driven: whether somebody drives it: then time stands still, and every step is kept at once.
    """

    def __init__(
        self,
        app: WiredApp,
        folder: Path,
        store: Store,
        driven: bool = False,
        size: tuple[int, int] | None = None,
    ) -> None:
        super().__init__()
        self.app = app
        self.store = store
        self.driven = driven
        kept = store.read()
        text = 1.0 if driven else text_of_system()
        turned = Qt.LayoutDirection.RightToLeft
        rtl = not driven and QGuiApplication.layoutDirection() == turned
        self.setMinimumSize(*((1, 1) if driven else LEAST_SIZE))
        self.resize(*(size or USUAL_SIZE))
        if size is None and kept is not None and kept.place is not None:
            self.setGeometry(*kept.place)
        window = Window(float(self.width()), float(self.height()), text=text, rtl=rtl)
        if driven and kept is not None and kept.window is not None:
            # Who drives it has turned and folded it: that is not undone by its end.
            window = kept.window
            self.resize(round(window.width), round(window.height))
        self.session: Session = begun(app, window, kept)
        self._keeping = QTimer(self, singleShot=True, interval=0 if driven else KEEPS_AFTER)
        self._keeping.timeout.connect(self.keep)
        self._calls: Calls | None = None
        if any(each.served == "service" for each in app.app.sources):
            # Who calls nobody does not pay for being able to.
            from cadena.native.calls import Calls

            self._calls = Calls(app, not driven, self)
            self._calls.came.connect(self.take)
        self._waiting = QTimer(self, singleShot=True)
        self._waiting.timeout.connect(self._time_goes_on)
        self.shown = Shown(PicturesOf(folder), driven, self)
        self.shown.did.connect(self.take)
        self.passing: Passing | None = None
        self.setBackgroundRole(QPalette.ColorRole.Base)
        self._has_closed = False
        tell_roles()
        self.setAccessibleIdentifier("window")
        for keys, does in (
            ("Ctrl+F", self._find),
            ("Ctrl+W", self.close),
            ("Ctrl+C", self._copy),
            ("F5", self._again),
            ("Alt+Left", lambda: self._along(back=True)),
            ("Alt+Right", lambda: self._along(back=False)),
            ("Alt+Up", lambda: self.take(do.Neighbour(by=-1))),
            ("Alt+Down", lambda: self.take(do.Neighbour(by=1))),
        ):
            QShortcut(QKeySequence(keys), self, does)
        self.show_now()
        self._go_on()

    def take(self, event: do.Event) -> None:
        """Let something happen, and show what is so then."""
        before = self.session
        stepped = step(self.app, before, event)
        if stepped.session.phase == "left" and not self.driven:
            # Nothing lies below the first screen, and a window is left by closing it.
            return
        self.session = stepped.session
        self._handed_out(stepped.notes)
        if self.session is not before:
            self._show_from(before)
        self._go_on()

    def _show_from(self, before: Session) -> None:
        """What is so now, on its way from what was before."""
        if self.passing is not None:
            self.passing.end()
        moves = self._moves and self.isVisible()
        moving = self._way(before) if moves else None
        if moving is None:
            self.show_now()
            return
        was = self.shown.grab()
        self.show_now()
        from cadena.native.passing import Passing

        self.passing = self.passing or Passing(self.shown.pictures, self)
        self.passing.begin(moving, was, self.shown.grab(), self.shown.geometry())

    def _way(self, before: Session) -> Moving | Gliding | None:
        from cadena.scene.transition import way_between

        app, now = self.app, self.session
        laid = lambda: lay_out(app, now, now.window)  # noqa: E731
        return way_between(app, before, now, self.shown.scene, laid)

    @property
    def _moves(self) -> bool:
        """Whether anything moves: not for who drives it, and only where the desktop's own
        controls do."""
        # Of what is not needed to begin, nothing is made before it has.
        from PySide6.QtWidgets import QStyle

        lasts = self.style().styleHint(QStyle.StyleHint.SH_Widget_Animation_Duration)
        return not self.driven and lasts > 0

    def show_now(self) -> None:
        self.shown.show_session(self.app, self.session)
        entries = self.session.entries
        title = self.app.title_of(self.session, entries[-1]) if entries else ""
        name = self.app.app.name
        self.setWindowTitle(f"{title} · {name}" if title else name)

    def _handed_out(self, notes: Notes) -> None:
        """What leaves the app: an address beside it, and what is copied."""
        for note in notes:
            if note.kind == "left for" and not self.driven:
                QDesktopServices.openUrl(QUrl(str(note.data.get("address", ""))))
                self.take(do.Wake())
            elif note.kind == "handed out":
                QGuiApplication.clipboard().setText(str(note.data.get("text", "")))

    # Time, and what is kept.

    def _go_on(self) -> None:
        if not self._keeping.isActive():
            self._keeping.start()
        if self._calls is not None:
            self._calls.ask_for(self.session)
        self._waiting.stop()
        session = self.session
        waits = [each.due for each in session.requests] + [each.due for each in session.writes]
        waits.append(None if session.passing is None else session.passing.until)
        due = min((each for each in waits if each is not None), default=None)
        if due is not None and not self.driven:
            self._waiting.start(max(1, due - session.clock))

    def _time_goes_on(self) -> None:
        self.take(do.Wait(ms=max(1, self._waiting.interval())))

    def keep(self, left: bool = False) -> None:
        """Keep what outlives the process."""
        self._keeping.stop()
        if self.session.phase == "killed":
            return
        kept = kept_of(self.app, self.session, left)
        place = self.geometry()
        at = (place.x(), place.y(), place.width(), place.height())
        window = self.session.window if self.driven else None
        why = self.store.keep(replace(kept, place=at, window=window))
        self.setToolTip(f"What was changed cannot be kept: {why}" if why else "")

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self._has_closed:
            self._has_closed = True
            self.keep(left=True)
        super().closeEvent(event)

    # The window.

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.shown.setGeometry(self.rect())
        window = self.session.window
        width, height = self.width(), self.height()
        if (width, height) != (round(window.width), round(window.height)):
            self.take(do.Resize(width=float(width), height=float(height), fold=window.fold))

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        changes = (QEvent.Type.ApplicationFontChange, QEvent.Type.FontChange)
        if event.type() in changes and not self.driven and hasattr(self, "shown"):
            self.take(do.SetText(size=text_of_system()))
        elif event.type() == QEvent.Type.PaletteChange and hasattr(self, "shown"):
            self.shown.update()

    def told(self, event: do.Event) -> None:
        """An event of who drives the app; a window of another size really is one."""
        if isinstance(event, do.Kill | do.Relaunch | do.Restore):
            return
        self.take(event)
        window = self.session.window
        width, height = round(window.width), round(window.height)
        if (self.width(), self.height()) != (width, height):
            self.resize(width, height)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self._close_over()
        else:
            super().keyPressEvent(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.BackButton:
            self.take(do.Back())
        elif event.button() == Qt.MouseButton.ForwardButton:
            self.take(do.Forward())

    def _along(self, back: bool) -> None:
        """Back and forward lie to the sides, as one reads."""
        self.take(do.Back() if back is not self.session.window.rtl else do.Forward())

    def _close_over(self) -> None:
        """What lies over the screens goes: a menu, the section bar, a layer."""
        display = display_of(self.app, self.session)
        if self.session.menu is not None:
            self.take(do.CloseMenu())
        elif self.session.sections_open or display.slid or display.layer_as == "popover":
            self.take(do.PressOutside())
        elif display.layer is not None:
            self.take(do.Back())

    def _find(self) -> None:
        """To the search field of the screen that has the focus, else to the first."""
        fields = [e for e in self.shown.findChildren(Line) if e.box.kind == "search"]
        if fields:
            fields[0].setFocus(Qt.FocusReason.ShortcutFocusReason)
            fields[0].selectAll()

    def _copy(self) -> None:
        """The rows that are picked, or else the one that is chosen, a line each."""
        for view in self.shown.lists():
            shows = view.rows.shows
            if shows is None or not (view.hasFocus() or shows.can_pick):
                continue
            picked = self.session.entries[shows.entry].view.picked.get(shows.part, ())
            places = [shows.listed.rows.index_of(each) for each in picked]
            places = places or [e.row() for e in view.selectionModel().selectedRows()]
            lines = [view.rows.said(each) for each in places if each is not None]
            if lines:
                QGuiApplication.clipboard().setText("\n".join(lines))
                return

    def _again(self) -> None:
        """What has failed to come is asked for anew."""
        self.take(do.Retry())
