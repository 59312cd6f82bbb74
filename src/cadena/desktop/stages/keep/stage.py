"""The Keep stage: what survives. Its marks, its strip, and the app before and after."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QMargins, QTimer
from PySide6.QtWidgets import QHBoxLayout, QWidget

from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import Selection
from cadena.desktop.stages.keep.before_after import BeforeAfter
from cadena.desktop.stages.keep.marks import Marks
from cadena.desktop.stages.keep.selected import SavedState, SelectedMark
from cadena.desktop.stages.keep.sentences import of, play, run_selected
from cadena.desktop.widgets.controls import label, stand
from cadena.desktop.widgets.sentence_controls import band
from cadena.desktop.widgets.strip import Strip
from cadena.desktop.widgets.words import Word
from cadena.engine.rules.saved_state import SURVIVES_KILL, saved_state
from cadena.runs.keep.marks_in_words import TABLES, table_of, totals
from cadena.runs.keep.run import SIGNS, WORST, Run

SETTLED = 200


class KeepStage(QWidget):
    """The marks of the app as it is now; those of the app as it was are only outlined."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.table = 0
        self.picture = Marks()
        self.strip = Strip(document, "Keep", of)
        self.pictures = BeforeAfter(document)
        head, self._head = band(8, QMargins(20, 8, 16, 4))
        legend, signs = band(14, QMargins(20, 2, 16, 6))
        below = QHBoxLayout()
        below.setSpacing(0)
        below.addWidget(self.strip, 1)
        below.addWidget(self.pictures)
        stand(self, head, self.picture, legend, below, grows=self.picture)
        for mark in WORST[1:]:
            signs.addWidget(label(f"{SIGNS[mark]}  {mark}", "about"))
        self.picture.chosen.connect(self._choose)
        self.picture.wanted.connect(self._play)
        document.watch(Change.STAGE | Change.SELECTION, self.refresh)
        # The strip follows what is selected by itself; what it says is measured here.
        self._rest = QTimer(self, singleShot=True, interval=SETTLED)
        document.watch(Change.SESSION, self._rest.start)
        document.watch(Change.KEPT, self._say_anew)
        self._rest.timeout.connect(self._say_anew)
        self.refresh()

    def _say_anew(self) -> None:
        self.refresh()
        self.strip.follow()

    def refresh(self) -> None:
        """Show the marks there are, and whether they are of the app as it is."""
        document = self.document
        if document.stage != "Keep":
            return
        fresh = document.keeping.is_done
        run = run_selected(document)
        if run is not None:
            self.table = table_of(run)
        self.picture.marks.show(document.matrix, fresh, TABLES[self.table][1])
        if run is not None:
            self.picture.choose(run.piece.name, run.disturbance)
        self.pictures.show_run(run)
        self._head.say(self._words(fresh))

    def _words(self, fresh: bool) -> list[Word]:
        document = self.document
        words = [Word("subject", "What survives")]
        for number, (title, _) in enumerate(TABLES):
            show = partial(self._show_table, number)
            words.append(Word("choice", title, show, number == self.table))
        said = totals(document.matrix) if fresh else "measuring… outlined marks are from before"
        words += [Word("text", "each mark is the result of a run"), Word("text", said)]
        if not fresh:
            words.append(Word("do", "measure now", document.keeping.finish))
        size = len(saved_state(document.wired, document.session, SURVIVES_KILL))
        most = document.app.platform.saved_most
        if size > most:
            words.append(Word("broken", f"✕ over {most} bytes: is it all keys?"))
        show_saved = partial(document.select, SavedState())
        said = f"saved state now {size} bytes"
        return [*words, Word("do", said, show_saved, name="the saved state")]

    def _show_table(self, number: int) -> None:
        self.table = number
        if isinstance(self.document.selection, SelectedMark):
            self.document.select(Selection())
        self.refresh()

    def _choose(self, run: Run) -> None:
        self.document.select(SelectedMark(run.piece.name, run.disturbance))

    def _play(self) -> None:
        run = run_selected(self.document)
        if run is not None:
            play(self.document, run)
