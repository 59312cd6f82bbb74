"""The strip: the one thing selected, said as sentences with choices in place."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QScrollArea, QVBoxLayout, QWidget

from cadena.check.finding import Finding
from cadena.desktop.controls import FlowLayout, choice, clear, label, line, menu_choice, put
from cadena.desktop.document import Document, Selection
from cadena.desktop.theme import px
from cadena.desktop.words import Sentence, Word

WIDTH, HEIGHT = 104, 24
LONG = 48
Sentences = Callable[[Document], list[Sentence]]


class Strip(QScrollArea):
    """Shows the selection of the document and changes it, and nothing else.

    Args:
        stage: shown only while this stage is; others leave it as it is.
        sentences: what is said of the document's selection.
    """

    def __init__(self, document: Document, stage: str, sentences: Sentences) -> None:
        super().__init__()
        self.document = document
        self.stage = stage
        self.sentences = sentences
        self.setObjectName("strip")
        self.setAccessibleName("strip")
        self.setWidgetResizable(True)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setFixedHeight(px(168))
        self._inside = QWidget()
        self._inside.setObjectName("strip")
        self._lines = QVBoxLayout(self._inside)
        self._lines.setContentsMargins(20, 10, 20, 8)
        self._lines.setSpacing(7)
        self.setWidget(self._inside)
        for signal in (
            document.selection_changed,
            document.section_changed,
            document.stage_changed,
        ):
            signal.connect(self.refresh)
        document.findings_changed.connect(self.follow)
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
        """Say anew what is selected; the focus stays on the control of the same name."""
        if self.document.stage != self.stage:
            return
        focused = self._inside.focusWidget()
        name = focused.accessibleName() if focused is not None and focused.hasFocus() else ""
        clear(self._lines)
        # Laid out once all is said: else every word would lay out those before it again.
        self._lines.setEnabled(False)
        first, *rest = self.sentences(self.document) or [Sentence("", [])]
        self._say(first)
        for finding in self._findings():
            self._say_finding(finding)
        for sentence in rest:
            self._say(sentence)
        self._lines.addStretch(1)
        self._lines.setEnabled(True)
        self._lines.activate()
        if name:
            self._focus_named(name)

    def _focus_named(self, name: str) -> None:
        for widget in self._inside.findChildren(QWidget):
            takes_focus = widget.focusPolicy() != Qt.FocusPolicy.NoFocus and not widget.isHidden()
            if widget.accessibleName() == name and takes_focus:
                widget.setFocus()
                return

    def _say(self, sentence: Sentence) -> FlowLayout:
        row = QHBoxLayout()
        row.setSpacing(6)
        self._lines.addLayout(row)
        if sentence.about:
            about = label(sentence.about, "about")
            about.setFixedSize(px(WIDTH), px(HEIGHT))
            put(row, about)
            row.setAlignment(about, Qt.AlignmentFlag.AlignTop)
        flow = FlowLayout()
        row.addLayout(flow, 1)
        for word in sentence.words:
            put(flow, _control(word))
        return flow

    def _findings(self) -> list[Finding]:
        selection, found = self.document.selection, self.document.findings
        match selection.kind:
            case "findings":
                return sorted(found, key=lambda each: each.stage != self.stage)
            case "arrangement":
                return [e for e in found if e.where.startswith(f"arrangements[{selection.name}]")]
            case "window":
                return [each for each in found if each.where == f"windows[{selection.name}]"]
            case "gap":
                return [each for each in found if each.where == "arrangements"]
            case "link":
                return [each for each in found if each.link == selection.name]
            case "screen":
                return [each for each in found if each.screen == selection.name and not each.link]
            case "section":
                return [each for each in found if f"sections[{selection.name}]" in each.where]
        return []

    def _say_finding(self, finding: Finding) -> None:
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
        is_of_all = self.document.selection.kind == "findings"
        if is_of_all and finding.stage in ("Fit", "Keep") and finding.stage != self.stage:
            there = partial(self.document.show_stage, finding.stage)
            words.insert(
                1, Word("do", f"Show in {finding.stage}", there, name=f"show {finding.where}")
            )
        elif is_of_all and (finding.link or finding.screen):
            to = (
                Selection("link", finding.link)
                if finding.link
                else Selection("screen", finding.screen)
            )
            words.insert(
                1,
                Word("do", "Show", partial(self.document.select, to), name=f"show {finding.where}"),
            )
        self._say(Sentence(finding.weight, words))


def _control(word: Word) -> QWidget:
    match word.kind:
        case "subject":
            return label(word.text, "subject")
        case "broken":
            return _text(word.text, "broken")
        case "choice":
            return choice(word.text, word.does, word.chosen, word.name)
        case "toggle":
            return choice(word.text, word.does, word.chosen, word.name)
        case "do":
            return choice(word.text, word.does, None, word.name)
        case "mend":
            return choice(word.text, word.does, None, word.name, role="mend")
        case "menu":
            return menu_choice(word.text, word.options, word.name)
        case "line":
            return line(word.text, word.does, word.name)
        case "widget":
            return word.does()  # type: ignore[return-value]
        case "size":
            return line(word.text, word.does, word.name, 64)
    return _text(word.text, "about")


def _text(text: str, role: str) -> QWidget:
    """A text that goes on in the next line where it is longer than one."""
    made = label(text, role)
    made.setWordWrap(len(text) > LONG)
    return made
