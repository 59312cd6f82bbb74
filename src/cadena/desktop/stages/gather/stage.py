"""The Gather stage: what the records are, and whether they can be trusted."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QModelIndex, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QVBoxLayout, QWidget

from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.document.known_references import AT_ONCE, references_in
from cadena.desktop.document.selection import NewSource, SelectedField, SelectedSource
from cadena.desktop.document.typing import (
    add_field,
    add_record,
    can_be_typed,
    paste,
    remove_records,
    type_cell,
)
from cadena.desktop.jobs.work import Work
from cadena.desktop.stages.gather import sentences
from cadena.desktop.stages.gather.service_panel import ServicePanel
from cadena.desktop.stages.gather.table import RecordsModel, RecordsTable
from cadena.desktop.widgets.controls import label
from cadena.desktop.widgets.sentence_controls import Flow
from cadena.desktop.widgets.strip import Strip
from cadena.desktop.widgets.words import Word
from cadena.model.find import by_id
from cadena.model.naming import many
from cadena.model.source import Source
from cadena.records.reading import Progress
from cadena.records.records import Records
from cadena.sources.profile import Head, heads


class GatherStage(QWidget):
    """The sources, the records of one of them, its calls, and the strip."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.picture = RecordsTable()
        self.strip = Strip(document, "Gather", partial(sentences.of, self.head_of), 0.28)
        self.calls = ServicePanel(document)
        self.counted = label("", "about", "counted")
        self.work = Work(self)
        self._heads: dict[int, tuple[Head, ...]] = {}
        self._shown: tuple[int, str] | None = None
        cards = QWidget()
        cards.setObjectName("board-head")
        self._cards = Flow(cards, gap=8)
        self._cards.setContentsMargins(0, 0, 0, 0)
        inner = QVBoxLayout()
        inner.setContentsMargins(20, 10, 16, 8)
        inner.setSpacing(8)
        inner.addWidget(cards)
        inner.addWidget(self.picture, 1)
        hands = QWidget()
        hands.setObjectName("board-head")
        self._hands = Flow(hands, gap=6)
        self._hands.setContentsMargins(0, 0, 0, 0)
        inner.addWidget(hands)
        inner.addWidget(self.counted)
        inner.addWidget(self.calls)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(inner, 1)
        layout.addWidget(self.strip)
        self.picture.heads.sectionClicked.connect(self._choose_column)
        self.picture.pasted.connect(self.paste)
        self.picture.removed.connect(self.remove)
        document.watch(Change.APP | Change.SELECTION | Change.STAGE | Change.CALLS, self.refresh)
        self.refresh()

    @property
    def source(self) -> Source | None:
        """The source that is shown: the one selected, that of what is selected, or the first."""
        app, selection = self.document.app, self.document.selection
        if isinstance(selection, SelectedSource):
            return by_id(app.sources, selection.source)
        if self._shown is not None and (last := by_id(app.sources, self._shown[1])) is not None:
            return last
        return app.sources[0] if app.sources else None

    @property
    def records(self) -> Records | None:
        source = self.source
        return None if source is None else self.document.records.get(source.id)

    def head_of(self, field: str) -> Head | None:
        """What is counted of a field of the source that is shown, once it is."""
        records = self.records
        if records is None:
            return None
        if len(records) <= AT_ONCE and records.serial not in self._heads:
            self._heads[records.serial] = heads(records)
        counted = self._heads.get(records.serial, ())
        return next((each for each in counted if each.name == field), None)

    def refresh(self) -> None:
        """Show the source that is selected."""
        if self.document.stage != "Gather":
            return
        self._fill_cards()
        source, records = self.source, self.records
        self.calls.show_source(source)
        self._say_hands(source)
        if source is None or records is None:
            self.counted.setText("No records yet: drop files here, or add them.")
            self.picture.hide()
            return
        self.picture.show()
        if self._shown != (records.serial, source.id):
            self._shown = (records.serial, source.id)
            typed = partial(type_cell, self.document, source.id) if can_be_typed(source) else None
            self.picture.show_records(records, source, typed)
            self.picture.selectionModel().currentChanged.connect(self._choose_cell)
            self._count(source, records)
        self._say_heads(source, records)
        selection = self.document.selection
        self.picture.choose_field(selection.field if isinstance(selection, SelectedField) else "")
        left = len(records.faults)
        faults = f" · {many(left, 'thing')} to mend in the data" if left else ""
        count = f"{len(records):,}".replace(",", " ")
        self.counted.setText(f"{count} records{faults} · bars: how filled, how distinct")

    def _say_hands(self, source: Source | None) -> None:
        """What can be done with records by hand, where they are a file of the project."""
        if source is None or not can_be_typed(source):
            self._hands.say([])
            return
        field = partial(add_field, self.document, source.id)
        self._hands.say(
            [
                Word("do", "+ record", self.add, name="add a record"),
                Word("do", "+ field", field, name="add a field"),
                Word("do", "Paste", self.paste, name="paste rows", keys="Ctrl+V"),
                Word(
                    "do",
                    "Remove the record",
                    self.remove,
                    name="remove the record",
                    keys="Ctrl+Del",
                ),
                Word("text", "Type in a cell to change it; Del empties it."),
            ]
        )

    def add(self) -> None:
        """Add a record, and begin to type its first field."""
        if (source := self.source) is None:
            return
        add_record(self.document, source.id, {})
        model = self.picture.model()
        if isinstance(model, RecordsModel) and model.rowCount():
            first = next((n for n, e in enumerate(model.names) if e != source.key), 0)
            index = model.index(model.rowCount() - 1, first)
            self.picture.setFocus()
            self.picture.setCurrentIndex(index)
            self.picture.edit(index)

    def paste(self) -> None:
        """Paste the clipboard's table from the current cell on."""
        source, model = self.source, self.picture.model()
        if source is None or not isinstance(model, RecordsModel) or not model.names:
            return
        current = self.picture.currentIndex()
        row, column = max(0, current.row()), max(0, current.column())
        text = QGuiApplication.clipboard().text()
        paste(self.document, source.id, row, model.names[column], text)

    def remove(self) -> None:
        """Remove the record of the current cell."""
        source, current = self.source, self.picture.currentIndex()
        if source is not None and current.isValid():
            remove_records(self.document, source.id, [current.row()])

    def _fill_cards(self) -> None:
        shown, words = self.source, list[Word]()
        for source in self.document.app.sources:
            count = len(self.document.records.get(source.id, ()))
            told = source.served if source.served != "file" else source.file
            text = f"{source.title or source.id}   {count}\n{told}"
            to = SelectedSource(source.id)
            name = f"source {source.title or source.id}"
            show = partial(self.document.select, to)
            words.append(Word("choice", text, show, source is shown, name, role="card"))
        text = "+ drop files, or add\nrecords or a service"
        words.append(Word("do", text, self._add, name="add records", role="open card"))
        self._cards.say(words)

    def _add(self) -> None:
        self.document.select(NewSource())

    def _count(self, source: Source, records: Records) -> None:
        """Count the fields, off the main thread where there is much to count."""
        if records.serial in self._heads:
            return
        if len(records) <= AT_ONCE:
            self._heads[records.serial] = heads(records)
            return

        def count(progress: Progress) -> tuple[Head, ...]:
            return heads(records)

        def then(found: tuple[Head, ...]) -> None:
            self._heads[records.serial] = found
            self.refresh()
            self.strip.follow()

        self.work.start(f"counting {source.id}", count, then)

    def _forget_heads(self) -> None:
        """Keep what was counted of the records there are; each edit of a field makes others."""
        live = {each.serial for each in self.document.records.values()}
        self._heads = {serial: each for serial, each in self._heads.items() if serial in live}

    def _say_heads(self, source: Source, records: Records) -> None:
        self._forget_heads()
        found = self._heads.get(records.serial)
        if found is None:
            self.picture.show_heads((), source, {})
            return
        leads = {
            reference.field: reference.to
            for reference in references_in(self.document)
            if reference.source == source.id
        }
        self.picture.show_heads(found, source, leads)

    def _choose_column(self, section: int) -> None:
        source = self.source
        model = self.picture.model()
        if source is not None and model is not None:
            name = str(model.headerData(section, Qt.Orientation.Horizontal))
            self.document.select(SelectedField(source.id, name))

    def _choose_cell(self, current: QModelIndex, _: QModelIndex) -> None:
        if current.isValid() and self.picture.hasFocus():
            self._choose_column(current.column())
        self.picture.viewport().update()
