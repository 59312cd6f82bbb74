"""Ctrl+K: do anything, by typing. Every command, screen, source and record."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from difflib import get_close_matches
from functools import partial
from typing import Final, NamedTuple

from PySide6.QtCore import QEvent, QPoint, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QFrame, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from cadena.desktop.document import walks
from cadena.desktop.document.actions import Action
from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import (
    SelectedField,
    SelectedLink,
    SelectedScreen,
    SelectedWalk,
    Selection,
)
from cadena.desktop.document.stages import stage_of
from cadena.desktop.widgets.words import Sentence, all_of, nothing, screen_words
from cadena.engine.events import Choose
from cadena.engine.rules.lists import chosen_row
from cadena.model.find import by_id
from cadena.model.listing import Listing
from cadena.model.naming import fields_of_label, label_field
from cadena.model.properties import things
from cadena.model.screen_parts import source_shown
from cadena.model.values import shown
from cadena.records.query import Asked, query
from cadena.words.called import phrases
from cadena.words.explained import HOWS

MOST: Final = 12
RECORDS: Final = 6
NEAR: Final = 4
CLOSE: Final = 0.6


class Answer(NamedTuple):
    """One thing that can be done; it is found by what it ``means`` too."""

    text: str
    about: str
    does: Callable[[], object]
    means: str = ""


class Ask(QFrame):
    """A field and the answers to what is typed in it."""

    def __init__(
        self,
        document: Document,
        commands: Iterable[Action],
        over: QWidget,
        here: Callable[[], list[Sentence]],
    ) -> None:
        super().__init__(over, Qt.WindowType.Popup)
        self.document = document
        self.commands = commands
        self.here = here
        self.setAccessibleName("do anything")
        self.field = QLineEdit()
        self.field.setPlaceholderText("Do anything: a command, a screen, a source, a record")
        self.field.setAccessibleName("do anything")
        self.list = QListWidget()
        self.list.setAccessibleName("what can be done")
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 8, 8, 8)
        layout.addWidget(self.field)
        layout.addWidget(self.list)
        self.answers: list[Answer] = []
        self._offered: list[Sentence] | None = None
        self.field.textChanged.connect(self.refresh)
        self.field.returnPressed.connect(self.take)
        self.field.installEventFilter(self)
        self.list.itemClicked.connect(lambda _: self.take())

    def open_under(self, parent: QWidget, anchor: QWidget) -> None:
        """Open in a window, under the field that it belongs to."""
        self.setFixedWidth(min(560, parent.width() - 40))
        middle = anchor.mapTo(parent, QPoint(anchor.width() // 2, anchor.height() + 4))
        left = min(max(8, middle.x() - self.width() // 2), parent.width() - self.width() - 8)
        self.move(parent.mapToGlobal(QPoint(left, middle.y())))
        self._offered = None
        self.field.clear()
        self.refresh()
        self.show()
        self.field.setFocus()

    def refresh(self) -> None:
        """Find the answers to what is typed."""
        text = self.field.text().lower()
        wanted = list(phrases(text))
        as_said: list[Answer] = []
        otherwise: list[Answer] = []
        for answer in self._all(text.split()):
            said = f"{answer.text} {answer.about} {answer.means}".lower()
            if all(phrase[0] in said for phrase in wanted):
                as_said.append(answer)
            elif all(any(each in said for each in phrase) for phrase in wanted):
                otherwise.append(answer)
            if len(as_said) >= MOST:
                break
        self.answers = [*as_said, *otherwise][:MOST]
        self.list.clear()
        for answer in self.answers:
            QListWidgetItem(f"{answer.text}    {answer.about}", self.list).setToolTip(answer.means)
        if not self.answers:
            self._say_nothing(text.strip())
        self.list.setCurrentRow(0)
        # As tall as what is in it.
        row = max(20, self.list.sizeHintForRow(0))
        self.list.setFixedHeight(row * max(1, self.list.count()) + 8)
        self.adjustSize()

    def _say_nothing(self, text: str) -> None:
        """Nothing is called so; what is nearest is offered."""
        known: dict[str, Answer] = {}
        for thing in self._all([]):
            for word in (thing.text, *thing.text.split()):
                known.setdefault(word.lower().strip("…:"), thing)
        found = get_close_matches(text, known, NEAR, CLOSE)
        # Never nothing at all: what is least unlike it comes after what is like it.
        found += get_close_matches(text, known, NEAR, 0.0) if len(found) < NEAR else []
        near: list[str] = []
        for word in dict.fromkeys(found):
            if known[word] not in [known[other] for other in near] and len(near) < NEAR:
                near.append(word)
        said = f"Nothing is called “{text}”. Near it:"
        QListWidgetItem(said, self.list).setFlags(Qt.ItemFlag.NoItemFlags)
        self.answers = [Answer(said, "", nothing), *(known[each] for each in near)]
        for answer in self.answers[1:]:
            QListWidgetItem(f"{answer.text}    {answer.about}", self.list)

    def _all(self, words: list[str]) -> Iterator[Answer]:
        if words or self.document.selection != Selection():
            yield from self._of_selection()
        for command in self.commands:
            if command.can():
                yield Answer(command.name, command.keys, command.give)
        document = self.document
        for section in document.app.sections:
            yield Answer(
                f"Section {section.title}", "section", partial(document.show_section, section.id)
            )
        for screen in document.app.screens:
            does = partial(document.select, SelectedScreen(screen.id))
            yield Answer(screen_words(screen), "screen", does)
        for source in document.app.sources:
            count = len(document.records.get(source.id, ()))
            shown_on = (each for each in document.app.screens if source_shown(each) == source.id)
            first = next(shown_on, None)
            to = SelectedScreen(first.id) if first is not None else Selection()
            does = partial(document.select, to)
            yield Answer(source.title or source.id, f"source, {count} records", does)
        if words:
            yield from self._ways_to_open()
        yield from self._of_project()
        if words:
            yield from self._records(" ".join(words))
            yield from self._properties()

    def _of_selection(self) -> Iterator[Answer]:
        """What the strip offers for what is selected, by its words."""
        if self._offered is None:
            self._offered = list(all_of(self.here()))
        for sentence in self._offered:
            explained = [word.text for word in sentence.words[1:] if word.kind == "text"]
            for word in sentence.words:
                name = word.name or word.text
                about = f"here, {sentence.about.lower()}" if sentence.about else "here"
                if explained and len(sentence.words) == 2:
                    about = f"{about}: {explained[0]}"
                if word.kind == "chip" and word.role == "offer":
                    opens = partial(self.document.wants_editor.emit, word.name)
                    yield Answer(word.text, "here", opens)
                elif word.kind == "menu":
                    for option, does in word.options:
                        yield Answer(f"{name}: {option}", about, does)
                elif word.kind in ("do", "mend", "choice", "toggle") and word.is_on:
                    yield Answer(name, about, word.does)

    def _ways_to_open(self) -> Iterator[Answer]:
        """Each way that a screen can open, for the link that is selected or the first there is."""
        app, selection = self.document.app, self.document.selection
        chosen = selection.link if isinstance(selection, SelectedLink) else ""
        link = by_id(app.links, chosen) or next(iter(app.links), None)
        if link is not None:
            for how, (_, about) in HOWS.items():
                yield Answer(f"Open as {how}", about, partial(self._show_how, link.id))

    def _properties(self) -> Iterator[Answer]:
        """What things have, and the stage where it is said."""
        for thing in things().values():
            show = partial(self.document.show_stage, thing.stage)
            for name, told in thing.has.items():
                if name != "id" and not told.set:
                    said = f"{told.name[0].upper()}{told.name[1:]}"
                    about = f"of {thing.called}, in {thing.stage}"
                    yield Answer(said, about, show, told.about)

    def _show_how(self, link: str) -> None:
        self._show(SelectedLink(link), "Link")
        self.document.wants_editor.emit("how it opens")

    def _of_project(self) -> Iterator[Answer]:
        """Fields, walks and findings."""
        document = self.document
        for source in document.app.sources:
            for field in document.types.get(source.id, {}):
                to = SelectedField(source.id, field)
                yield Answer(f"{source.id}.{field}", "field", partial(self._show, to, "Gather"))
        for walk in walks.names(document):
            does = partial(document.select, SelectedWalk(walk))
            yield Answer(f"Walk {walk}", "walk", does)
        for finding in document.findings:
            where = SelectedLink(finding.link) if finding.link else SelectedScreen(finding.screen)
            stage = stage_of(finding).name
            yield Answer(finding.what, "finding", partial(self._show, where, stage))

    def _show(self, to: Selection, stage: str) -> None:
        self.document.select(to)
        self.document.show_stage(stage)

    def _records(self, text: str) -> Iterator[Answer]:
        """Records by their label; choosing one opens it on the Bench, from its list."""
        document = self.document
        for source in document.app.sources:
            records = document.wired.records(document.session, source.id)
            if records is None:
                continue
            name = label_field(source, records.types)
            listing = Listing(source=source.id, search=fields_of_label(name))
            rows = query(records, listing, Asked(search=text))
            for index in range(min(RECORDS, len(rows))):
                key = rows.key_at(index)
                said = document.wired.say(source.id).value(name, rows.record_at(index))
                yield Answer(said, f"{source.id} {shown(key)}", partial(self._open, source.id, key))

    def _open(self, source: str, key: object) -> None:
        """Choose a record's row on the first list on display that has it."""
        document = self.document
        session = document.session
        for index in range(len(session.entries)):
            for part, listing in document.wired.listings.get(
                session.entries[index].screen, {}
            ).items():
                listed = document.wired.listed(session, session.entries[index], part)
                if listing.source != source or listed is None or listed.rows.index_of(key) is None:
                    continue
                chosen = chosen_row(session, index)
                if chosen is None or chosen.key != key:
                    document.do(Choose(entry=index, list=part, key=key))  # type: ignore[arg-type]
                return
        document.failed.emit(f"{source} {shown(key)} is on no list that is open on the Bench")

    def take(self) -> None:
        """Do what is marked."""
        row = self.list.currentRow()
        self.hide()
        if 0 <= row < len(self.answers):
            self.answers[row].does()

    def eventFilter(self, watched: object, event: QEvent) -> bool:
        if (
            watched is self.field
            and isinstance(event, QKeyEvent)
            and event.type() == QEvent.Type.KeyPress
        ):
            steps = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}
            step = steps.get(Qt.Key(event.key()))
            if step is not None:
                row = self.list.currentRow() + step
                self.list.setCurrentRow(min(max(row, 0), self.list.count() - 1))
                return True
        return False
