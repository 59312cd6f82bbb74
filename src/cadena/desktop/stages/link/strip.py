"""The strip of the Link stage: it also asks by typing which screen a trigger opens."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QCursor
from PySide6.QtWidgets import QCompleter, QLineEdit, QMenu

from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.document.next_step import next_step
from cadena.desktop.document.selection import SelectedLink, SelectedTrigger
from cadena.desktop.stages.link import sentences
from cadena.desktop.widgets.strip import Strip
from cadena.desktop.widgets.words import Sentence, Word, trigger_words
from cadena.model.app import App, Link, Trigger
from cadena.model.edits.targets import Target, kinds_for, target_made
from cadena.model.edits.wiring import link_to
from cadena.model.find import by_id


class LinkStrip(Strip):
    """Says what is selected on the board, and links it."""

    def __init__(self, document: Document) -> None:
        self._linking: Trigger | None = None
        self._step = ""
        super().__init__(document, "Link", sentences.of)
        document.watch(Change.SESSION, self._follow_step)

    def refresh(self) -> None:
        self._linking = None
        super().refresh()

    def _follow_step(self) -> None:
        """The next useful step may be done by what has happened."""
        step = next_step(self.document)
        if step != self._step:
            self._step = step
            self.follow()

    def start_link(self) -> None:
        """Ask by typing which screen the selected trigger opens: an old one, or a new one."""
        trigger = self.selected_trigger()
        if trigger is None:
            return
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
        hint = (
            "Enter links to the screen of that name, or makes it, with its parameter and its title."
        )
        asked = [
            Word("subject", said),
            Word("text", "opens"),
            Word("widget", "", lambda: field),
            Word("do", "Leave it", self.refresh),
        ]
        kinds = [
            Word("do", f"a new {kind}", partial(self.make, trigger, kind), name=f"a new {kind}")
            for kind in kinds_for(self.document.app, trigger)
        ]
        self.say([Sentence("", asked), Sentence("Or", kinds), Sentence("", [Word("text", hint)])])
        field.setFocus()

    def ask(self, trigger: Trigger, to: str) -> None:
        """Link to the card that a ribbon was pulled onto; in the open, ask in place for what."""
        if to:
            self.link(trigger, to)
            return
        menu = QMenu(self)
        menu.setAccessibleName("what is to be made")
        for kind in kinds_for(self.document.app, trigger):
            menu.addAction(f"a {kind}").triggered.connect(partial(self._take, trigger, kind))
        menu.setActiveAction(menu.actions()[0])
        menu.popup(QCursor.pos())

    def _take(self, trigger: Trigger, kind: Target, _: bool = False) -> None:
        QTimer.singleShot(0, partial(self.make, trigger, kind))

    def make(self, trigger: Trigger, kind: Target) -> None:
        """Make a screen of a kind for a trigger, and link it."""
        self._take_link(target_made, trigger, kind)

    def _take_link(
        self, make: Callable[..., tuple[App, Link]], trigger: Trigger, *of: str | None
    ) -> None:
        """Take what links a trigger, or say why it cannot be linked."""
        document = self.document
        try:
            app, link = make(document.app, document.types, trigger, *of)
        except ValueError as error:
            document.failed.emit(f"{error}: show a list of records on it first")
            return
        document.edit(f"link {trigger.screen} to {link.to}", app, SelectedLink(link.id))

    def selected_trigger(self) -> Trigger | None:
        """The trigger that is selected, by itself or by its link."""
        selection = self.document.selection
        if isinstance(selection, SelectedTrigger):
            return selection.trigger
        if not isinstance(selection, SelectedLink):
            return None
        link = by_id(self.document.app.links, selection.link)
        return link.trigger if link is not None else None

    def _finish_link(self, text: str) -> None:
        trigger, text = self._linking, text.strip()
        if trigger is not None and text:
            known = [
                screen.id
                for screen in self.document.app.screens
                if text.lower() in (screen.id.lower(), screen.title.lower())
            ]
            self.link(trigger, known[0] if known else "", text)

    def link(self, trigger: Trigger, to: str, title: str = "") -> None:
        """Link a trigger to a screen, or to one made for it."""
        if to:
            self._take_link(link_to, trigger, to)
        else:
            self._take_link(target_made, trigger, None, title)
