"""The strip: the one thing selected, said as sentences with choices in place."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import ClassVar

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QHideEvent, QMouseEvent, QResizeEvent
from PySide6.QtWidgets import QLineEdit, QScrollArea, QWidget

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
from cadena.desktop.widgets.controls import Line
from cadena.desktop.widgets.editor import Editor
from cadena.desktop.widgets.lines import Lines
from cadena.desktop.widgets.polish import with_own_viewport
from cadena.desktop.widgets.words import Sentence, Word, chips

LOW, THIN, EDGE = 132, 46, 6
SHARE = 1 / 3
"""How much of the work a strip takes at most, where nobody has dragged it."""
Sentences = Callable[[Document], list[Sentence]]


class Strip(QScrollArea):
    """Shows the selection of the document and changes it, and nothing else.

    Attributes:
        tall: how tall a person has set it, in px, for all stages; none to fit what is said.
        editor: the editor of the chip that is open, if one is.

    Args:
        stage: shown only while this stage is; others leave it as it is.
        sentences: what is said of the document's selection.
        share: how much of the work it takes at most.
    """

    tall: ClassVar[int | None] = None

    def __init__(
        self, document: Document, stage: str, sentences: Sentences, share: float = SHARE
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
        self.said: list[Sentence] = []
        self._lines = Lines(self.refresh)
        self._lines.setObjectName("strip")
        self.setWidget(self._lines)
        self.editor = Editor(self, self._lines)
        self._dragged: float | None = None
        self._lines.setMouseTracking(True)
        self._lines.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents, False)
        self.viewport().setMouseTracking(True)
        self.viewport().installEventFilter(self)
        self._lines.installEventFilter(self)
        document.watch(Change.SELECTION | Change.SECTION | Change.STAGE, self.refresh)
        document.watch(Change.FINDINGS, self.follow)
        document.wants_editor.connect(self.open_named)
        if document.is_open:
            self.refresh()

    def follow(self) -> None:
        """Say anew what has come by itself; not while somebody types here."""
        typing = self.window().focusWidget()
        is_here = typing is not None and (
            self.isAncestorOf(typing) or self.editor.isAncestorOf(typing)
        )
        # A line that says what is so is said anew in place; one that asks would be gone.
        is_as_said = isinstance(typing, Line) and not typing.isModified()
        if is_here and isinstance(typing, QLineEdit) and typing.hasFocus() and not is_as_said:
            typing.editingFinished.connect(self.follow, Qt.ConnectionType.UniqueConnection)
        else:
            self.refresh()

    def refresh(self) -> None:
        """Say anew what is selected, with the controls there are."""
        if self.document.stage == self.stage:
            is_of_walks = isinstance(self.document.selection, AllWalks | SelectedWalk)
            sentences = about_walks if is_of_walks else self.sentences
            first, *rest = sentences(self.document) or [Sentence("", [])]
            self.say([first, *map(self._of_finding, self._findings()), *rest])

    def say(self, sentences: list[Sentence]) -> None:
        """Say these sentences, and anew what is in the editor that is open."""
        self.said = sentences
        self._say_lines()
        if self.editor.chip:
            named = (word for word in chips(sentences) if word.name == self.editor.chip)
            self.editor.follow(next(named, None))

    def _say_lines(self) -> None:
        if self._lines.say([self._with_editors(sentence) for sentence in self.said]):
            self._fit()
            self.editor.tab_in_order()

    def _with_editors(self, sentence: Sentence) -> Sentence:
        """The sentence, its chips opening their editors."""
        words = [
            word
            if word.inside is None
            else word._replace(
                does=partial(self.toggle, word.name), chosen=word.name == self.editor.chip
            )
            for word in sentence.words
        ]
        return sentence._replace(words=words)

    def toggle(self, name: str) -> None:
        """Open the editor of the chip of that name, or close it."""
        word = next((each for each in chips(self.said) if each.name == name), None)
        if word is None or self.editor.chip == name:
            self.editor.close_it(gives_back=True)
        else:
            self.editor.open(word)
        self._say_lines()

    def open_named(self, name: str) -> None:
        """Open the editor of a chip, where this strip has one of that name."""
        is_here = self.document.stage == self.stage and self.editor.chip != name
        if is_here and any(word.name == name for word in chips(self.said)):
            self.toggle(name)

    def _fit(self) -> None:
        """As tall as what is said needs, up to its share of the work, or as a person has set it."""
        work = self.parentWidget()
        room = px(600) if work is None else work.height()
        most = max(px(LOW), round(room * self.share))
        if Strip.tall is not None:
            self.setFixedHeight(min(max(px(THIN), Strip.tall), max(px(LOW), room // 2)))
        else:
            needed = self._lines.tall(max(200, self.viewport().width()))
            least = px(THIN) if len(self._lines) < 2 else px(LOW)
            self.setFixedHeight(min(max(needed + px(6), least), most))
        self.editor.place()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if event.oldSize().width() != event.size().width():
            self._fit()

    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        # Qt hides it once more where Python has let go of it, and of what it held.
        if (editor := vars(self).get("editor")) is not None:
            editor.close_it()

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
