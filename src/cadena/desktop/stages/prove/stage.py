"""The Prove stage: is anything broken, anywhere? Its answers, a film strip, and its strip."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from typing import Final

from PySide6.QtCore import QMargins
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QWidget

from cadena.check.proof_in_words import totals, what_of
from cadena.desktop.document import walks
from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.document.proven import Proven
from cadena.desktop.document.proving import proving_of
from cadena.desktop.document.selection import AllWalks, SelectedWalk, Selection
from cadena.desktop.stages.prove.film import FilmStrip
from cadena.desktop.stages.prove.selected import SelectedClaim, SelectedReach
from cadena.desktop.stages.prove.sentences import cause_selected, of, play
from cadena.desktop.widgets.answers import AnswerTable, Cell, Line, Tone
from cadena.desktop.widgets.controls import label, stand
from cadena.desktop.widgets.sentence_controls import band
from cadena.desktop.widgets.strip import Strip
from cadena.desktop.widgets.words import Word, screen_words
from cadena.engine.rules.window_change import window_of
from cadena.engine.wired import WiredApp
from cadena.model.app import NamedWindow
from cadena.model.problem import Problem
from cadena.model.windows import windows_of
from cadena.runs.prove.moves import acting
from cadena.runs.prove.prove import Answered, Proof, claims_of
from cadena.runs.walks.walk import Walk, not_held

VIEWS: Final = ("claims", "walks", "what was reached")
LEGEND: Final = (
    "✓  holds everywhere",
    "✓ 9  holds as far as depth 9",
    "✕  broken, by a shortest walk",
    "?  not decided",
    "–  set aside",
)


class ProveStage(QWidget):
    """The claims of the app as it is now against its arrangements."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.proving = proving_of(document)
        self.view = 0
        self.picture = AnswerTable()
        self.strip = Strip(document, "Prove", of)
        self.film = FilmStrip(document)
        head, self._head = band(8, QMargins(20, 8, 16, 4))
        legend, signs = band(14, QMargins(20, 2, 16, 6))
        stand(self, head, self.picture, legend, self.film, self.strip, grows=self.picture)
        for each in LEGEND:
            signs.addWidget(label(each, "about"))
        self.picture.chosen.connect(self._choose)
        self.picture.wanted.connect(self._play)
        self._cause: object = self
        self._replayed: dict[tuple[str, str], tuple[tuple[WiredApp, Walk, NamedWindow], Cell]] = {}
        document.watch(Change.STAGE | Change.SELECTION | Change.APP | Change.PROVEN, self.refresh)
        document.watch(Change.PROVEN, self.strip.follow)
        self.refresh()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.film.stand_in(self.height())

    @property
    def proof(self) -> Proof | None:
        return self.document.own(Proven).proof

    def refresh(self) -> None:
        """Show the answers there are, and whether they are of the app as it is."""
        document = self.document
        if document.stage != "Prove":
            return
        self.proving.ask()
        state = document.own(Proven)
        columns, lines = self._columns_and_lines()
        self.picture.answers.show(columns, lines, state.is_fresh or self.view == 1)
        self._mark_selected(lines)
        cause = cause_selected(document)
        if cause is not self._cause:
            self._cause = cause
            self.film.show_cause(cause)
        self._head.say(self._words(state))

    def _words(self, state: Proven) -> list[Word]:
        words = [Word("subject", "Is anything broken, anywhere?")]
        for number, title in enumerate(VIEWS):
            show = partial(self._show_view, number)
            words.append(Word("choice", title, show, number == self.view))
        if state.is_fresh and state.proof is not None:
            words.append(Word("text", totals(state.proof)))
            return words
        sections = len(self.document.wired.sections)
        words.append(Word("text", f"exploring… {state.done} of {sections} sections"))
        if state.proof is not None:
            words.append(Word("text", "outlined answers are from before"))
        words.append(Word("do", "look now", self.proving.work.finish, name="look now"))
        words.append(Word("do", "stop", self.proving.stop, name="stop looking"))
        return words

    def _columns_and_lines(self) -> tuple[tuple[str, ...], tuple[Line, ...]]:
        """The columns and lines of the view that is chosen."""
        if self.view == 1:
            return self._walks()
        proof = self.proof
        titles = {each.id: each.title or each.id for each in self.document.app.arrangements}
        if proof is None:
            unknown = tuple(Cell("", "none", "not looked at yet") for _ in titles)
            claims = claims_of(self.document.app) if self.view == 0 else ()
            lines = tuple(Line(each.name, each.words, unknown) for each in claims)
            return tuple(titles.values()), lines
        columns = tuple(titles.get(each, "one pane") for each in proof.columns)
        if self.view == 2:
            return columns, self._reached(proof)
        return columns, tuple(self._claim(proof, each) for each in proof.claims)

    def _claim(self, proof: Proof, answered: Answered) -> Line:
        cells = []
        for column in proof.columns:
            answer = answered.of(column)
            if answer == "broken":
                causes = [each for each in answered.causes if column in each.columns]
                said = what_of(causes[0]) if causes else "broken"
                cells.append(Cell("✕", "broken", said))
            elif answered.aside and not answered.causes:
                cells.append(Cell("–", "aside", "set aside at a place"))
            elif answer == "not decided":
                said = "not decided: what was found was not seen when the app was run"
                cells.append(Cell("?", "aside", said))
            elif proof.whole:
                cells.append(Cell("✓", "holds", "holds everywhere"))
            else:
                said = f"holds to depth {proof.depth}"
                cells.append(Cell(f"✓ {proof.depth}", "to depth", said))
        return Line(answered.claim.name, answered.claim.words, tuple(cells))

    def _reached(self, proof: Proof) -> tuple[Line, ...]:
        """Screens and links against arrangements."""
        lines = []
        things = [
            *((f"screens[{e.id}]", screen_words(e), e.id, 0) for e in self.document.app.screens),
            *((f"links[{e.id}]", e.id, e.id, 1) for e in self.document.app.links),
        ]
        for where, words, name, is_link in things:
            cells = []
            for column in proof.columns:
                of = [each.links if is_link else each.screens for each in proof.reached]
                is_reached = any(name in each.get(column, ()) for each in of)
                said = "reached" if is_reached else "never reached"
                tone: Tone = "holds" if is_reached else "broken"
                cells.append(Cell("✓" if is_reached else "✕", tone, said))
            kind = "link" if is_link else "screen"
            lines.append(Line(where, f"{kind}  {words}", tuple(cells)))
        return (*lines, *self._actions(proof))

    def _actions(self, proof: Proof) -> Iterator[Line]:
        """What buttons and rows do beside opening, where their screens are."""
        offered = set().union(*(each.actions for each in proof.reached))
        for screen in self.document.app.screens:
            for name, _ in acting(self.document.wired, screen.id):
                cells = []
                for column in proof.columns:
                    is_open = any(screen.id in e.screens.get(column, ()) for e in proof.reached)
                    is_reached = is_open and (screen.id, name) in offered
                    said = "offered" if is_reached else "never offered"
                    tone: Tone = "holds" if is_reached else "broken"
                    cells.append(Cell("✓" if is_reached else "✕", tone, said))
                words = f"action  {screen_words(screen)} · {name}"
                yield Line(f"screens[{screen.id}].buttons[{name}]", words, tuple(cells))

    def _walks(self) -> tuple[tuple[str, ...], tuple[Line, ...]]:
        """The recorded walks against the named windows, replayed."""
        document = self.document
        named = windows_of(document.app)
        lines = []
        for name in walks.names(document):
            try:
                walk = walks.walk_of(document, name)
            except Problem as problem:
                cells = (Cell("✕", "broken", str(problem)),) * len(named)
            else:
                cells = tuple(self._walked(name, walk, each) for each in named)
            lines.append(Line(name, name, cells))
        return tuple(each.name for each in named), tuple(lines)

    def _walked(self, name: str, walk: Walk, named: NamedWindow) -> Cell:
        """Whether a walk holds in a window; replayed again only when it or the app is other."""
        of = self.document.wired, walk, named
        known = self._replayed.get((name, named.name))
        if known is not None and known[0][0] is of[0] and known[0][1:] == of[1:]:
            return known[1]
        failed = not_held(self.document.wired, walk, window_of(named))
        cell = Cell("✕", "broken", failed[0]) if failed else Cell("✓", "holds", "holds")
        self._replayed[name, named.name] = of, cell
        return cell

    def _show_view(self, number: int) -> None:
        self.view = number
        self.document.select(AllWalks() if number == 1 else Selection())
        self.refresh()

    def _choose(self, row: int, column: int) -> None:
        line = self.picture.answers.lines[row]
        if self.view == 1:
            self.document.select(SelectedWalk(line.about))
        elif self.view == 2:
            self.document.select(SelectedReach(line.about))
        else:
            self.document.select(SelectedClaim(line.about, self._where(line.about, column)))

    def _where(self, claim: str, column: int) -> str:
        """The place of the cause of a claim in a column."""
        proof = self.proof
        if proof is None or column < 0:
            return ""
        found = next(each for each in proof.claims if each.claim.name == claim)
        name = proof.columns[column]
        return next((each.where for each in found.causes if name in each.columns), "")

    def _mark_selected(self, lines: tuple[Line, ...]) -> None:
        """Show in the table what is selected."""
        selection = self.document.selection
        about = ""
        if isinstance(selection, SelectedClaim):
            about = selection.claim
        elif isinstance(selection, SelectedReach):
            about = selection.where
        row = next((at for at, each in enumerate(lines) if each.about == about), None)
        if row is not None:
            broken = [n for n, each in enumerate(lines[row].cells) if each.tone == "broken"]
            now = self.picture.currentIndex()
            column = now.column() if now.row() == row and now.column() >= 0 else -1
            self.picture.go_to(row, column if column >= 0 else (broken or [0])[0])

    def _play(self) -> None:
        cause = cause_selected(self.document)
        if cause is not None and cause.walk:
            play(self.document, cause)
