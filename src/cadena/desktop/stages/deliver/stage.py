"""The Deliver stage: how does it become my app? What is handed over, and whether it behaves."""

from __future__ import annotations

from functools import partial
from typing import Final

from PySide6.QtCore import QMargins
from PySide6.QtWidgets import QHBoxLayout, QWidget

from cadena.deliver.delivery import size_of
from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.document.handed import FORMS, Form, HandedOver, HandOver
from cadena.desktop.document.handing import FOLDER, handing_of
from cadena.desktop.document.selection import Selection
from cadena.desktop.document.walks import names
from cadena.desktop.jobs.driving import driven_names, driving_of
from cadena.desktop.painting.theme import px
from cadena.desktop.stages.deliver.card import Card
from cadena.desktop.stages.deliver.compared import EngineAndBrowser
from cadena.desktop.stages.deliver.files import Files
from cadena.desktop.stages.deliver.old_and_new import OldAndNew
from cadena.desktop.stages.deliver.selected import SelectedDriven, SelectedFile, SelectedForm
from cadena.desktop.stages.deliver.sentences import of
from cadena.desktop.widgets.answers import ROW, AnswerTable, Cell, Line
from cadena.desktop.widgets.controls import stand
from cadena.desktop.widgets.sentence_controls import band
from cadena.desktop.widgets.strip import Strip
from cadena.desktop.widgets.words import Word
from cadena.model.naming import many
from cadena.model.windows import windows_of

TITLES: Final[dict[Form, tuple[str, str]]] = {
    "web": ("A web app", "it runs: plain files"),
    "desktop": ("Desktop app", "it runs: PySide6"),
    "contract": ("The contract", "routes, types, vectors"),
    "report": ("A report", "all of it in a page"),
    "diagrams": ("Diagrams", "with what CI runs"),
    "changes": ("Changes", "since saved"),
}


class DeliverStage(QWidget):
    """What is handed over, file by file, and walks driven through it in a browser."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.handing = handing_of(document)
        self.driving = driving_of(document)
        self.picture = AnswerTable()
        self.picture.setAccessibleName("does it behave")
        self.files = Files()
        self.versions = OldAndNew(document)
        self.compared = EngineAndBrowser(document)
        self.strip = Strip(document, "Deliver", of)
        self.cards = {form: Card() for form in FORMS}
        head, self._head = band(8, QMargins(20, 8, 16, 4))
        about, self._about = band(8, QMargins(20, 6, 16, 2))
        behaves = QWidget()
        row = QHBoxLayout(behaves)
        row.setContentsMargins(12, 0, 12, 0)
        row.addWidget(self.picture, 1)
        row.addWidget(self.compared)
        handed = QWidget()
        beside = QHBoxLayout(handed)
        beside.setContentsMargins(0, 0, 12, 0)
        beside.addWidget(self.files, 1)
        beside.addWidget(self.versions)
        stand(self, head, self._row(), handed, about, behaves, self.strip, grows=handed)
        self.picture.setMinimumHeight(px(ROW) * 2)
        self.picture.setMaximumHeight(px(ROW) * 6 + px(34))
        self.picture.chosen.connect(self._choose)
        self.files.chosen.connect(lambda path: document.select(SelectedFile(path)))
        document.watch(Change.STAGE | Change.SELECTION | Change.APP | Change.HANDED, self.refresh)
        document.watch(Change.HANDED, self.strip.follow)
        document.watch(Change.SESSION, self._follow)
        self.refresh()

    @property
    def state(self) -> HandOver:
        return self.document.own(HandOver)

    def _row(self) -> QWidget:
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(20, 2, 16, 2)
        line.setSpacing(12)
        for form, card in self.cards.items():
            card.clicked.connect(partial(self._take, form))
            line.addWidget(card, 1)
        return row

    def _take(self, form: Form) -> None:
        self.state.form = form
        self.document.select(SelectedForm(form))
        self.refresh()

    def refresh(self) -> None:
        """Show what would be handed over of the app as it is, and what came of driving it."""
        if self.document.stage != "Deliver":
            return
        selection, state = self.document.selection, self.state
        if isinstance(selection, SelectedForm) and selection.form in FORMS:
            state.form = next(form for form in FORMS if form == selection.form)
        for form in FORMS:
            if form != "changes":
                self.handing.ask(form)
            self._say_card(form)
        made = self.handing.made(state.form) or state.made.get(state.form)
        path = selection.path if isinstance(selection, SelectedFile) else ""
        if made is not None or state.form == "changes":
            files, handed = ({}, ()) if made is None else (made.files, made.handed)
            self.files.show_files(files, handed, path)
        self._follow()
        self._show_driven()
        self._head.say(self._words())
        self._about.say(self._words_of_driving())

    def _follow(self) -> None:
        """Both versions go along with what happens on the Bench."""
        if self.document.stage == "Deliver" and self.state.form == "changes":
            self.versions.follow()
        else:
            self.versions.setVisible(False)

    def _say_card(self, form: Form) -> None:
        title, what = TITLES[form]
        said = counts(self.handing.made(form), form)
        card = self.cards[form]
        card.say(title, what, said)
        card.setChecked(form == self.state.form)

    def _words(self) -> list[Word]:
        return [
            Word("subject", "How does it become my app?"),
            Word("text", f"into {FOLDER}/ beside the project file"),
        ]

    def _words_of_driving(self) -> list[Word]:
        state = self.state
        words = [Word("subject", "Does it behave?")]
        if state.is_driving:
            total = state.planned
            words.append(Word("text", f"driving… {len(state.came)} of {total}"))
            words.append(Word("do", "Stop", self.driving.stop, name="stop driving"))
            return words
        drive = Word("mend", "Drive all walks", self.driving.begin, name="drive all walks")
        if not names(self.document):
            words.append(Word("text", "there are no walks yet: keep one from the run on the Bench"))
            return words
        if not state.came:
            where = "on a desktop of its own" if state.form == "desktop" else "in a real browser"
            words.append(Word("text", f"every walk, {where}, against the engine"))
        else:
            differing = len(state.differing)
            said = f"{differing} differ" if differing else "all as wired"
            stale = "" if state.driven is self.document.wired else ", before the last change"
            words.append(Word("text", f"{len(state.came)} driven, {said}{stale}"))
        words.append(drive)
        return words

    def _show_driven(self) -> None:
        """Walks against the named windows."""
        state, selection = self.state, self.document.selection
        named = [each.name for each in windows_of(self.document.app)]
        lines = tuple(
            Line(walk, walk, tuple(self._cell(walk, window) for window in named))
            for walk in driven_names(self.document)
        )
        is_fresh = state.driven is self.document.wired
        self.picture.answers.show(tuple(named), lines, is_fresh)
        came = None
        if isinstance(selection, SelectedDriven):
            came = state.came.get((selection.walk, selection.window))
            row = next((n for n, e in enumerate(lines) if e.about == selection.walk), -1)
            if row >= 0 and selection.window in named:
                self.picture.go_to(row, named.index(selection.window))
        self.compared.show_came(came)

    def _cell(self, walk: str, window: str) -> Cell:
        came = self.state.came.get((walk, window))
        if came is None:
            return Cell("…" if self.state.is_driving else "", "none", "not driven yet")
        if came.outcome.differs is None:
            return Cell("✓", "holds", f"as wired, {came.outcome.steps} steps")
        first = next(iter(came.outcome.differences), "")
        return Cell("✕", "broken", f"step {came.outcome.differs.step}: {first}")

    def _choose(self, row: int, column: int) -> None:
        line = self.picture.answers.lines[row]
        columns = self.picture.answers.columns
        if column < 0:
            broken = [n for n, each in enumerate(line.cells) if each.tone == "broken"]
            column = (broken or [0])[0]
        self.document.select(
            SelectedDriven(line.about, columns[column]) if columns else Selection()
        )


def counts(made: HandedOver | None, form: Form) -> str:
    """How much it is, in a few words."""
    if form == "report":
        return "1 file, opens anywhere"
    if form == "changes":
        return "not compared yet" if made is None or not made.files else "compared"
    if made is None:
        return "being made…"
    if made.problems:
        return "cannot be carried over"
    return f"{many(len(made.files), 'file')} · {size_of(made.files) / 1000:,.0f} kB"
