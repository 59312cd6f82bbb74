"""Ctrl+K: do anything, by typing. Every command, screen, source and record."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from functools import partial
from typing import Final, NamedTuple

from PySide6.QtCore import QEvent, QPoint, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QFrame, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import SelectedScreen, Selection
from cadena.desktop.widgets.actions import Action
from cadena.desktop.widgets.words import screen_words
from cadena.engine.events import Choose
from cadena.engine.rules.lists import chosen_row
from cadena.model.listing import Listing
from cadena.model.naming import label_field
from cadena.model.screen_parts import source_shown
from cadena.model.values import shown
from cadena.records.query import Asked, query

MOST: Final = 12
RECORDS: Final = 6


class Answer(NamedTuple):
    """One thing that can be done."""

    text: str
    about: str
    does: Callable[[], object]


class Ask(QFrame):
    """A field and the answers to what is typed in it."""

    def __init__(self, document: Document, commands: Iterable[Action], over: QWidget) -> None:
        super().__init__(over, Qt.WindowType.Popup)
        self.document = document
        self.commands = commands
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
        self.field.textChanged.connect(self.refresh)
        self.field.returnPressed.connect(self.take)
        self.field.installEventFilter(self)
        self.list.itemClicked.connect(lambda _: self.take())

    def open_over(self, parent: QWidget) -> None:
        """Open in the upper middle of a window."""
        self.setFixedSize(min(560, parent.width() - 40), 400)
        at = parent.mapToGlobal(QPoint((parent.width() - self.width()) // 2, 42))
        self.move(at)
        self.field.clear()
        self.refresh()
        self.show()
        self.field.setFocus()

    def refresh(self) -> None:
        """Find the answers to what is typed."""
        words = self.field.text().lower().split()
        self.answers = []
        for answer in self._all(words):
            if all(word in f"{answer.text} {answer.about}".lower() for word in words):
                self.answers.append(answer)
            if len(self.answers) >= MOST:
                break
        self.list.clear()
        for answer in self.answers:
            QListWidgetItem(f"{answer.text}    {answer.about}", self.list)
        self.list.setCurrentRow(0)

    def _all(self, words: list[str]) -> Iterator[Answer]:
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
            about = (each for each in document.app.screens if source_shown(each) == source.id)
            first = next(about, None)
            to = SelectedScreen(first.id) if first is not None else Selection()
            does = partial(document.select, to)
            yield Answer(source.title or source.id, f"source, {count} records", does)
        if words:
            yield from self._records(" ".join(words))

    def _records(self, text: str) -> Iterator[Answer]:
        """Records by their label; choosing one opens it on the Bench, from its list."""
        document = self.document
        for source in document.app.sources:
            records = document.wired.records(document.session, source.id)
            if records is None:
                continue
            name = label_field(source, records.types)
            rows = query(records, Listing(source=source.id, search=(name,)), Asked(search=text))
            for index in range(min(RECORDS, len(rows))):
                key = rows.key_at(index)
                said = shown(rows.record_at(index).get(name))
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
