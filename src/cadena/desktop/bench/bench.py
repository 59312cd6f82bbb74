"""The Bench: the running app in a window, what can happen to it, its chain, and its trace."""

from __future__ import annotations

from functools import partial
from typing import Final, Literal
from urllib.parse import urlsplit

from PySide6.QtCore import QRectF, Qt, QTimer
from PySide6.QtGui import QGuiApplication, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QLineEdit, QSplitter, QVBoxLayout, QWidget

from cadena.desktop.bench.canvas import Canvas
from cadena.desktop.bench.run_list import RunList
from cadena.desktop.bench.windows import BenchWindows
from cadena.desktop.document.bench_windows import add_window, set_apart
from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import SelectedWalk
from cadena.desktop.document.sessions import Traced, name_of
from cadena.desktop.painting.theme import Look, colour, px
from cadena.desktop.widgets.controls import label
from cadena.desktop.widgets.sentence_controls import Flow
from cadena.desktop.widgets.words import Word
from cadena.engine.events import (
    Back,
    Event,
    Fold,
    Forward,
    Kill,
    ReadFrom,
    Relaunch,
    Resize,
    Restore,
    SetText,
    Sleep,
    Turn,
    Unfold,
    Wait,
    Wake,
)
from cadena.engine.rules.back import back_label
from cadena.engine.rules.display import display_of
from cadena.engine.rules.forward import can_go_forward
from cadena.engine.rules.lists import offset_of
from cadena.engine.rules.saved_state import SURVIVES_KILL, saved_state
from cadena.engine.rules.unsent import NOT_FROM_HERE
from cadena.engine.rules.window_change import window_of
from cadena.engine.session import Window, Write
from cadena.model.problem import Problem
from cadena.model.values import shown
from cadena.model.windows import windows_of
from cadena.runs.walks.recording import recorded, write_walk
from cadena.runs.walks.walk import parse_window
from cadena.words.notes import in_words

LINE: Final = 20
KEYS: Final = {"back": "Alt+Left", "forward": "Alt+Right", "turn": "T"}
ICONS: Final = {"back": "arrow-left", "forward": "arrow-right", "turn": "arrow-clockwise"}
"""Where a picture is quicker than a word."""
TOLD_AFTER: Final = 80
TEXTS: Final = (1.0, 1.25, 1.5, 2.0)


class Bench(QWidget):
    """Everything about the app that runs."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.setObjectName("bench")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setMinimumWidth(300)
        self.windows = BenchWindows(document)
        self.said = label("", "broken")
        self.said.setAccessibleName("what the Bench says")
        self.said.setFixedHeight(px(LINE))
        self._head, self._does, self._walk = Flow(gap=4), Flow(), Flow(gap=4)
        self.chain = ChainNow(document)
        self.run = RunList(document)
        self.saved = label("", "about")
        self.saved.setAccessibleName("what would be saved now")
        told = QVBoxLayout()
        told.setContentsMargins(0, 4, 0, 0)
        told.setSpacing(4)
        told.addWidget(self.said)
        told.addWidget(self.chain)
        told.addLayout(self._walk)
        told.addWidget(self.run, 1)
        told.addWidget(self.saved)
        self.told = QWidget()
        self.told.setObjectName("told")
        self.told.setLayout(told)
        # What grows scrolls inside its part; a person sets where the parts meet.
        self.parts = QSplitter(Qt.Orientation.Vertical)
        self.parts.setChildrenCollapsible(False)
        self.parts.setHandleWidth(5)
        self.parts.addWidget(self.windows)
        self.parts.addWidget(self.told)
        self.parts.setStretchFactor(0, 1)
        self.parts.setSizes([500, 190])
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 8, 14, 8)
        layout.setSpacing(6)
        layout.addLayout(self._head)
        layout.addLayout(self._does)
        layout.addWidget(self.parts, 1)
        self._fill_walk()
        shown = Change.SESSION | Change.CALLS | Change.APP | Change.WINDOWS | Change.PICTURES
        document.watch(shown, self.refresh)
        self._shown: object = None
        self._sized: object = None
        self._soon = QTimer(self, singleShot=True, interval=TOLD_AFTER)
        self._soon.timeout.connect(self._tell)
        self.refresh()

    @property
    def address(self) -> QLineEdit:
        """The address of the live window."""
        return self.windows.bars[self.document.sessions.live].line

    @property
    def canvas(self) -> Canvas:
        """The window that things happen in."""
        return self.windows.live

    @property
    def is_large(self) -> bool:
        """Whether the windows stand beside the run, with the room of the work."""
        return self.parts.orientation() == Qt.Orientation.Horizontal

    def be_large(self, large: bool) -> None:
        """Stand the run beside the windows, or under them."""
        if large is self.is_large:
            return
        self.parts.setOrientation(Qt.Orientation.Horizontal if large else Qt.Orientation.Vertical)
        self.told.setMinimumWidth(px(260) if large else 0)
        self.parts.setSizes([700, 330] if large else [500, 190])
        self._shown = None
        self.refresh()

    def _say(self, text: str) -> None:
        said = f"✕ {text}" if text else ""
        room = max(80, self.said.width() - 4)
        cut = self.said.fontMetrics().elidedText(said, Qt.TextElideMode.ElideRight, room)
        self.said.setText(cut)
        self.said.setToolTip(said)
        self.said.setAccessibleDescription(said)

    def refresh(self) -> None:
        """Show the session as it now is."""
        session = self.document.session
        several = self.document.sessions
        there = (len(several), several.live, several.is_apart, windows_of(self.document.app))
        window = session.window
        kind = (name_of(self.document.app, window), window.text, window.rtl, window.folded)
        forward = self._forward()
        waits = self._waits_for_service(), self._unsent()
        shown = (kind, window.fold, session.phase, waits, there, forward)
        if shown != self._shown:
            self._shown = shown
            self._fill_head(window)
            self._sized = window.size
            self._fill_does()
        elif window.size != self._sized:
            self._sized = window.size
            self._fill_head(window)
        self._say(refusal(self.document.trace))
        last = self.document.trace[-1].event if self.document.trace else None
        # While a window is dragged through sizes, what is read is told once it has come to rest.
        is_dragged = isinstance(last, Resize) and self._soon.isActive()
        if isinstance(last, Resize):
            self._soon.start()
        else:
            self._soon.stop()
        if not is_dragged:
            self._tell()

    def _tell(self) -> None:
        """Show the chain and the trace."""
        self.chain.update()
        self.chain.describe()
        self.run.tell()
        self.saved.setVisible(self.is_large)
        if self.is_large:
            kept = saved_state(self.document.wired, self.document.session, SURVIVES_KILL)
            self.saved.setText(f"Saved now: {len(kept.encode()):,} bytes")

    def _fill_walk(self) -> None:
        """What can be done with the run."""
        words = [
            Word("text", "Keep as a walk"),
            Word("line", "", self._keep_walk, name="keep as a walk of this name", role="wide"),
            Word("do", "Start anew", self.document.restart, name="start the app anew"),
        ]
        self._walk.say(words)

    def _keep_walk(self, name: str) -> None:
        if name.strip():
            keep_run(self.document, name)
            self._fill_walk()

    def _fill_head(self, window: Window) -> None:
        width, height = window.size
        app, sessions = self.document.app, self.document.sessions
        named = [
            (f"{each.name} {each.width:g} × {each.height:g}", window_of(each))
            for each in windows_of(app)
        ]
        options = [(text, partial(self._take, each)) for text, each in named]
        size, do = f"{width:g} × {height:g}", self.document.do
        sizes = [(f"{each:.0%}", partial(do, SetText(size=each))) for each in TEXTS]
        side: Literal["left", "right"] = "left" if window.rtl else "right"
        sizes.append((f"read from the {side}", partial(do, ReadFrom(side=side))))
        add = partial(add_window, self.document)
        more = [(text, partial(add, each)) for text, each in named]
        more.append(("this one again", partial(add, window)))
        words = [
            Word("subject", "Bench"),
            Word("menu", name_of(app, window), name="window", options=options),
            Word("line", size, self._type_size, name="window size in dp", role="wide"),
            Word("menu", f"{window.text:.0%}", name="text size", options=sizes),
            Word("menu", "+", name="add a window", options=more),
        ]
        if len(sessions) > 1:
            for text, apart in (("one session", False), ("each its own", True)):
                to = partial(set_apart, self.document, apart)
                words.append(Word("choice", text, to, sessions.is_apart is apart))
        self._head.say(words)

    def _take(self, window: Window) -> None:
        self.document.resize(window.width, window.height, window.fold)

    def _type_size(self, text: str) -> None:
        try:
            self._take(parse_window(text.replace(" ", "")))
        except Problem as problem:
            self._say(str(problem))
            self._shown = None
            self._fill_head(self.document.session.window)

    def _forward(self) -> bool | None:
        """Whether there is anything to go forward to; none where the app offers no forward."""
        document = self.document
        if not document.app.platform.forward:
            return None
        is_awake = document.session.phase == "running"
        return is_awake and can_go_forward(document.wired, document.session)

    def _waits_for_service(self) -> bool:
        """Whether something lies elsewhere that may not be called for yet: records, or pictures."""
        document = self.document
        if document.may_call:
            return False
        asked = any(each.due is None for each in document.session.requests)
        return asked or bool(document.pictures.wanted)

    def _waiting_for(self) -> str:
        asked = any(each.due is None for each in self.document.session.requests)
        return "call the service" if asked else "bring the pictures"

    def _not_sent(self) -> list[Word]:
        """Of what was not sent to a service that may not be written to yet: to whom it would have
        been, and the way to let it."""
        document = self.document
        words = []
        for write in self._unsent():
            service = document.wired.sources[write.source].service
            to = "" if service is None else urlsplit(service.list).netloc
            let, copy = f"let {write.source} be written to", f"copy the request to {write.source}"
            allow = partial(document.let_write, write.source)
            words.append(Word("mend", f"write to {to}", allow, name=let))
            hand = partial(copy_request, document, write)
            words.append(Word("do", "copy the request", hand, name=copy))
        return words

    def _unsent(self) -> tuple[Write, ...]:
        """Of each source that may not be written to yet, the newest that was not sent."""
        document = self.document
        newest = {
            write.source: write
            for write in document.session.writes
            if write.why == NOT_FROM_HERE and write.source not in document.may_write
        }
        return tuple(newest.values())

    def _fill_does(self) -> None:
        session = self.document.session
        happenings: list[tuple[str, Event]] = [("back", Back()), ("turn", Turn())]
        if self._forward() is not None:
            happenings.insert(1, ("forward", Forward()))
        if session.window.fold is not None:
            happenings.append(("unfold", Unfold()) if session.window.folded else ("fold", Fold()))
        is_awake = session.phase == "running"
        happenings.append(("sleep", Sleep()) if is_awake else ("wake", Wake()))
        killed = session.phase == "killed"
        happenings.append(("restore", Restore()) if killed else ("kill", Kill()))
        happenings.append(("relaunch", Relaunch()))
        if self.document.wired.late:
            happenings.append(("wait", Wait(ms=100)))
        allowed = {"back": is_awake, "forward": self._forward() or False, "wake": not killed}
        words: list[Word] = []
        if self._waits_for_service():
            words.append(Word("mend", self._waiting_for(), self.document.allow_calls))
        words += self._not_sent()
        for name, event in happenings:
            is_on = allowed.get(name, True)
            does = partial(self.document.do, event)
            keys = KEYS.get(name, "")
            icon, called = ICONS.get(name, ""), f"{name} the app"
            words.append(Word("do", name, does, name=called, is_on=is_on, keys=keys, icon=icon))
        self._does.say(words)


def copy_request(document: Document, write: Write) -> None:
    """Lay the request of a write that was not sent on the clipboard."""
    sending = document.services.would_send(document.wired, document.session, write)
    source = document.wired.sources[write.source]
    if sending is None or source.service is None:
        document.refuse("its address is not known whole")
        return
    QGuiApplication.clipboard().setText(sending.as_text(source.service.headers))
    document.say(f"{sending.method} {sending.address} is on the clipboard; it was not sent")


def keep_run(document: Document, name: str) -> None:
    """Keep what has happened since the start as a walk of the project."""
    if document.file is None:
        return
    window, events = document.sessions.run()
    if not events:
        document.refuse("nothing has happened yet: a walk needs a step")
        return
    try:
        walk = recorded(document.wired, events, window)
        file = write_walk(document.file.parent, name, walk)
    except (Problem, OSError) as problem:
        document.refuse(str(problem))
    else:
        document.say(f"{file.parent.name}/{file.name} holds {len(events)} steps")
        document.select(SelectedWalk(file.stem))


def refusal(trace: list[Traced]) -> str:
    """Why the last event was refused, or nothing when it was not."""
    return in_words(trace[-1].notes[0]) if trace and trace[-1].refused else ""


class ChainNow(QWidget):
    """The chain on display: what is open, carrying what, and where it is scrolled."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.setFixedHeight(px(54))
        self.setAccessibleName("chain now")

    def describe(self) -> None:
        """Tell assistive technology what the picture shows."""
        back = back_label(self.document.wired, self.document.session)
        leads = f"back shows {back}" if back else "back leaves the app"
        self.setAccessibleDescription(
            ", ".join(f"{title} {detail}" for title, detail, _ in self.links()) + f"; {leads}"
        )
        self.setToolTip(self.accessibleDescription())

    def links(self) -> list[tuple[str, str, bool]]:
        """For each entry its title, a detail, and whether it is on display."""
        document = self.document
        session, app = document.session, document.wired
        if session.phase == "killed":
            return []
        display = display_of(app, session)
        links = []
        for index, entry in enumerate(session.entries):
            area = display.area_of(index)
            arguments = ", ".join(
                f"{name} = {shown(value)}" for name, value in entry.arguments.items()
            )
            detail = arguments
            if not detail and area is not None:
                detail = f"at {offset_of(app, session, index, area):.0f} dp"
            elif not detail:
                scroll = entry.view.scroll
                detail = "at the top" if scroll is None else f"row {scroll.index + 1}"
            title = app.title_of(session, entry) or entry.screen
            links.append((title, detail, area is not None))
        return links

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        links = self.links()
        if not links:
            painter.setPen(colour("soft"))
            ended = self.document.session.phase == "killed"
            said = "no process" if ended else "nothing is open"
            painter.drawText(self.rect(), int(Qt.AlignmentFlag.AlignVCenter), said)
            return
        gap = 14
        room = (self.width() - 4 - gap * (len(links) - 1)) / len(links)
        wide = max(34.0, min(112.0 * Look.scale, room))
        skipped = max(0, len(links) - int((self.width() + gap) // (wide + gap)))
        x = 2.0
        for number, (title, detail, is_shown) in enumerate(links[skipped:]):
            rect = QRectF(x, 5, wide, px(42))
            if number:
                painter.setPen(QPen(colour("brass"), 4))
                painter.drawLine(int(x - gap), px(26), int(x), px(26))
            painter.setPen(QPen(colour("brass"), 2))
            painter.setBrush(colour("brass_wash" if is_shown else "card"))
            painter.drawRoundedRect(rect, 16, 16)
            self._text(painter, rect.adjusted(6, 5, -6, -px(20)), title, 12, True)
            self._text(painter, rect.adjusted(6, px(22), -6, -4), detail, 10, False)
            x += wide + gap

    def _text(self, painter: QPainter, rect: QRectF, text: str, size: int, bold: bool) -> None:
        font = self.font()
        font.setPixelSize(px(size))
        font.setBold(bold)
        painter.setFont(font)
        painter.setPen(colour("ink"))
        cut = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(rect.width()))
        painter.drawText(rect, int(Qt.AlignmentFlag.AlignCenter), cut)
