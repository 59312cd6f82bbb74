"""The strip: the one thing selected, said as sentences with choices in place."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import ClassVar

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QMouseEvent, QResizeEvent
from PySide6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QLineEdit,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from cadena.check.finding import Finding
from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import (
    AllFindings,
    AllWalks,
    SelectedLink,
    SelectedScreen,
    SelectedWalk,
)
from cadena.desktop.document.stages import kind_of, stage_of
from cadena.desktop.painting.theme import px
from cadena.desktop.widgets.about_walks import about_walks
from cadena.desktop.widgets.controls import FlowLayout, label, presses, put
from cadena.desktop.widgets.polish import with_own_viewport
from cadena.desktop.widgets.sentence_controls import Controls, in_order
from cadena.desktop.widgets.words import Sentence, Word

WIDTH, HEIGHT = 104, 24
LOW, THIN, EDGE = 168, 46, 6
Sentences = Callable[[Document], list[Sentence]]


class Strip(QScrollArea):
    """Shows the selection of the document and changes it, and nothing else.

    Attributes:
        tall: how tall a person has set it, in px, for all stages; none to fit what is said.

    Args:
        stage: shown only while this stage is; others leave it as it is.
        sentences: what is said of the document's selection.
        share: how much of the work it takes at most.
    """

    tall: ClassVar[int | None] = None

    def __init__(
        self, document: Document, stage: str, sentences: Sentences, share: float = 0.5
    ) -> None:
        super().__init__()
        self.document, self.share = document, share
        self.stage = stage
        self.sentences = sentences
        with_own_viewport(self)
        self.setObjectName("strip")
        self.setAccessibleName("strip")
        self.setWidgetResizable(True)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setFixedHeight(px(LOW))
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        self._inside = QWidget()
        self._inside.setObjectName("strip")
        self._lines = QVBoxLayout(self._inside)
        self._lines.setContentsMargins(20, 10, 20, 8)
        self._lines.setSpacing(7)
        self._lines.addStretch(1)
        self._controls = Controls()
        self._rows: list[Row] = []
        self.said: list[Sentence] = []
        self.setWidget(self._inside)
        self._dragged: float | None = None
        self._inside.setMouseTracking(True)
        self._inside.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents, False)
        self.viewport().setMouseTracking(True)
        self.viewport().installEventFilter(self)
        self._inside.installEventFilter(self)
        document.watch(Change.SELECTION | Change.SECTION | Change.STAGE, self.refresh)
        document.watch(Change.FINDINGS, self.follow)
        if document.is_open:
            self.refresh()

    def follow(self) -> None:
        """Say anew what has come by itself; not while somebody types here."""
        typing = self._inside.focusWidget()
        if isinstance(typing, QLineEdit) and typing.hasFocus():
            typing.editingFinished.connect(self.follow, Qt.ConnectionType.UniqueConnection)
        else:
            self.refresh()

    def refresh(self) -> None:
        """Say anew what is selected, with the controls there are.

        During a press that takes the focus out of a line, nothing moves: the controls that
        are there do what they now say, and the rest follows when the press is over.
        """
        if self.document.stage == self.stage:
            is_of_walks = isinstance(self.document.selection, AllWalks | SelectedWalk)
            sentences = about_walks if is_of_walks else self.sentences
            first, *rest = sentences(self.document) or [Sentence("", [])]
            self.say([first, *map(self._of_finding, self._findings()), *rest])

    def say(self, sentences: list[Sentence]) -> None:
        """Say these sentences; the focus stays on the control of the same name."""
        self.said = sentences
        if presses().under_way:
            self._controls.say_at_once([each for said in sentences for each in said.words])
            presses().after(self, self.refresh)
            return
        focused = self._inside.focusWidget()
        name = focused.accessibleName() if focused is not None and focused.hasFocus() else ""
        # Laid out once all is said: else every word would lay out those before it again.
        self._lines.setEnabled(False)
        for row in self._rows:
            self._controls.free(row.flow)
        while len(self._rows) > len(sentences):
            self._rows.pop().remove(self._lines)
        widgets: list[QWidget] = []
        for number, sentence in enumerate(sentences):
            if number == len(self._rows):
                self._rows.append(Row(self._lines, number))
            row = self._rows[number]
            row.about.setText(sentence.about)
            row.about.setVisible(bool(sentence.about))
            for word in sentence.words:
                widgets.append(self._controls.control(word))
                put(row.flow, widgets[-1])
        self._controls.let_go()
        in_order(widgets)
        self._lines.setEnabled(True)
        self._lines.activate()
        self._fit()
        if name and (focused is None or not focused.hasFocus() or focused.isHidden()):
            self._focus_named(name)

    def _fit(self) -> None:
        """As tall as what is said needs, up to half of the work, or as a person has set it."""
        work = self.parentWidget()
        half = max(px(LOW), round((px(600) if work is None else work.height()) * self.share))
        if Strip.tall is not None:
            self.setFixedHeight(min(max(px(THIN), Strip.tall), half))
            return
        needed = self._lines.heightForWidth(max(200, self.viewport().width()))
        least = px(THIN) if len(self._rows) < 2 else px(LOW)
        self.setFixedHeight(min(max(needed + px(6), least), half))

    def bring_into_view(self, about: str) -> None:
        """Scroll to the sentence about something, as much of it as there is room for."""
        for row in self._rows:
            if row.about.text() == about:
                last = row.flow.itemAt(row.flow.count() - 1)
                QApplication.sendPostedEvents(self._inside)
                for each in (None if last is None else last.widget(), row.about):
                    if each is not None:
                        self.ensureWidgetVisible(each, 0, px(30))
                return

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if event.oldSize().width() != event.size().width():
            self._fit()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Its upper edge is a divider: it is dragged, and a double click lets it fit again."""
        if isinstance(event, QMouseEvent) and isinstance(watched, QWidget):
            kind, at = event.type(), self.mapFromGlobal(event.globalPosition()).y()
            if kind == QEvent.Type.MouseMove:
                is_edge = at < EDGE or self._dragged is not None
                shape = Qt.CursorShape.SplitVCursor if is_edge else Qt.CursorShape.ArrowCursor
                watched.setCursor(shape)
            if kind == QEvent.Type.MouseButtonDblClick and at < EDGE:
                Strip.tall, self._dragged = None, None
                self._fit()
                return True
            if kind == QEvent.Type.MouseButtonPress and at < EDGE:
                self._dragged = event.globalPosition().y() + self.height()
                return True
            if kind == QEvent.Type.MouseMove and self._dragged is not None:
                Strip.tall = round(self._dragged - event.globalPosition().y())
                self._fit()
                return True
            if kind == QEvent.Type.MouseButtonRelease and self._dragged is not None:
                self._dragged = None
                return True
        return super().eventFilter(watched, event)

    def _focus_named(self, name: str) -> None:
        for widget in self._inside.findChildren(QWidget):
            takes_focus = widget.focusPolicy() != Qt.FocusPolicy.NoFocus and not widget.isHidden()
            if widget.accessibleName() == name and takes_focus:
                widget.setFocus()
                return

    def _findings(self) -> list[Finding]:
        selection, found = self.document.selection, self.document.findings
        if selection == AllFindings():
            return sorted(found, key=lambda each: stage_of(each).name != self.stage)
        is_about = kind_of(selection).is_about
        return [each for each in found if is_about(selection, each)]

    def _of_finding(self, finding: Finding) -> Sentence:
        sign = "✕" if finding.weight == "breaks" else "!"
        words: list[Word] = [
            Word("broken", f"{sign} {finding.what}."),
            Word("text", f"To mend: {finding.mend}."),
        ]
        if self.document.mended(finding) is not None:
            mend = partial(self.document.mend, finding)
            words.insert(1, Word("mend", "Mend it", mend, name=f"mend {finding.where}"))
        if finding.run:
            play = partial(self.document.play, finding.run)
            said = f"play what shows {finding.where}"
            words.append(Word("do", "Play it on the Bench", play, name=said))
        is_of_all = self.document.selection == AllFindings()
        mended_in = stage_of(finding)
        if is_of_all and mended_in.leads and mended_in.name != self.stage:
            there = partial(self.document.show_stage, mended_in.name)
            said = f"show {finding.where}"
            words.insert(1, Word("do", f"Show in {mended_in.name}", there, name=said))
        elif is_of_all and (finding.link or finding.screen):
            to = SelectedLink(finding.link) if finding.link else SelectedScreen(finding.screen)
            words.insert(
                1,
                Word("do", "Show", partial(self.document.select, to), name=f"show {finding.where}"),
            )
        return Sentence(finding.weight, words)


class Row:
    """The room of one sentence: what it is about, and its words."""

    def __init__(self, lines: QVBoxLayout, at: int) -> None:
        self._row = QHBoxLayout()
        self._row.setSpacing(6)
        lines.insertLayout(at, self._row)
        self.about = label("", "about")
        self.about.setFixedSize(px(WIDTH), px(HEIGHT))
        put(self._row, self.about)
        self._row.setAlignment(self.about, Qt.AlignmentFlag.AlignTop)
        self.flow = FlowLayout()
        self._row.addLayout(self.flow, 1)

    def remove(self, lines: QVBoxLayout) -> None:
        """Take the row away; its words are gone already."""
        lines.removeItem(self._row)
        self.about.hide()
        self.about.deleteLater()
