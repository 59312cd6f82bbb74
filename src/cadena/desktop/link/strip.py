"""The strip of the Link stage: the one thing selected, said as a sentence with choices in place."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCompleter, QHBoxLayout, QLineEdit, QScrollArea, QVBoxLayout, QWidget

from cadena.check.finding import Finding
from cadena.desktop.controls import FlowLayout, choice, clear, label, line, menu_choice, put
from cadena.desktop.document import Document, Selection
from cadena.desktop.link import sentences
from cadena.desktop.link.words import Sentence, Word, trigger_words
from cadena.desktop.theme import px
from cadena.model.app import Trigger
from cadena.model.edits import link_to, make_target
from cadena.model.find import by_id

WIDTH, HEIGHT = 104, 24


class Strip(QScrollArea):
    """Shows the selection of the document and changes it, and nothing else."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
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
        self._linking: Trigger | None = None
        for signal in (
            document.selection_changed,
            document.section_changed,
            document.findings_changed,
        ):
            signal.connect(self.refresh)
        if document.is_open:
            self.refresh()

    def refresh(self) -> None:
        """Say anew what is selected; the focus stays on the control of the same name."""
        focused = self._inside.focusWidget()
        name = focused.accessibleName() if focused is not None and focused.hasFocus() else ""
        self._linking = None
        clear(self._lines)
        first, *rest = sentences.of(self.document) or [Sentence("", [])]
        self._say(first)
        for finding in self._findings():
            self._say_finding(finding)
        for sentence in rest:
            self._say(sentence)
        self._lines.addStretch(1)
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
                return list(found)
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
        if self.document.selection.kind == "findings" and (finding.link or finding.screen):
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

    def start_link(self) -> None:
        """Ask by typing which screen the selected trigger opens: an old one, or a new one."""
        trigger = self.selected_trigger()
        if trigger is None:
            return
        clear(self._lines)
        self._linking = trigger
        field = QLineEdit()
        field.setFixedWidth(260)
        field.setPlaceholderText("a screen, or the name of a new one")
        field.setAccessibleName("screen to open")
        names = [each.id for each in self.document.app.screens]
        completer = QCompleter(names, field)
        completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        field.setCompleter(completer)
        field.returnPressed.connect(lambda: self._finish_link(field.text()))
        said = trigger_words(self.document.app, trigger)
        flow = self._say(Sentence("", [Word("subject", said), Word("text", "opens")]))
        put(flow, field)
        put(flow, choice("Leave it", self.refresh))
        hint = (
            "Enter links to the screen of that name, or makes it, with its parameter and its title."
        )
        self._say(Sentence("", [Word("text", hint)]))
        self._lines.addStretch(1)
        field.setFocus()

    def selected_trigger(self) -> Trigger | None:
        """The trigger that is selected, by itself or by its link."""
        selection = self.document.selection
        if selection.trigger is not None:
            return selection.trigger
        link = by_id(self.document.app.links, selection.name) if selection.kind == "link" else None
        return link.trigger if link is not None else None

    def _finish_link(self, text: str) -> None:
        trigger, text = self._linking, text.strip()
        if trigger is not None and text:
            known = [
                each.id
                for each in self.document.app.screens
                if text.lower() in (each.id.lower(), each.title.lower())
            ]
            self.link(trigger, known[0] if known else "", text)

    def link(self, trigger: Trigger, to: str, title: str = "") -> None:
        """Link a trigger to a screen, or to one made for it."""
        document = self.document
        try:
            if to:
                app, link = link_to(document.app, document.types, trigger, to)
            else:
                app, link = make_target(document.app, document.types, trigger, title)
        except ValueError as error:
            document.failed.emit(f"{error}: show a list of records on it first")
            return
        document.edit(
            f"link {trigger.screen} to {link.to}", app, Selection("link", link.id, trigger)
        )


def _control(word: Word) -> QWidget:
    match word.kind:
        case "subject":
            return label(word.text, "subject")
        case "broken":
            return label(word.text, "broken")
        case "choice":
            return choice(word.text, word.does, word.chosen, word.name)
        case "do":
            return choice(word.text, word.does, None, word.name)
        case "mend":
            return choice(word.text, word.does, None, word.name, role="mend")
        case "menu":
            return menu_choice(word.text, word.options, word.name)
        case "line":
            return line(word.text, word.does, word.name)
    return label(word.text, "about")
