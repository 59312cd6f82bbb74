"""The Fit stage: how the app is arranged in every window. Its picture and its strip."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from PySide6.QtCore import QMargins, QTimer
from PySide6.QtWidgets import QWidget

from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import AllFindings
from cadena.desktop.stages.fit import sentences
from cadena.desktop.stages.fit.about_windows import add_own
from cadena.desktop.stages.fit.play_crossing import Playing
from cadena.desktop.stages.fit.selected import Gap, SelectedArrangement, SelectedWindow
from cadena.desktop.stages.fit.window_map import WindowMap
from cadena.desktop.widgets.controls import stand
from cadena.desktop.widgets.sentence_controls import band
from cadena.desktop.widgets.strip import Strip
from cadena.desktop.widgets.words import Word
from cadena.model.app import Arrangement
from cadena.model.windows import windows_of
from cadena.runs.window_plane import GAP, plane_of, used_in

SETTLED = 160


class FitStage(QWidget):
    """The window map, what is said of it, and the strip."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.picture = WindowMap(document)
        self.playing = Playing(document, self)
        self.strip = Strip(document, "Fit", partial(sentences.of, play=self.playing.play))
        head, self._head = band(6, QMargins(20, 8, 16, 2))
        stand(self, head, self.picture, self.strip, grows=self.picture)
        # What the strip measures on the session is measured again once a drag has come to rest.
        self._rest = QTimer(self, singleShot=True, interval=SETTLED)
        self._rest.timeout.connect(self._say_anew)
        document.watch(Change.SESSION, self._moved)
        document.watch(Change.SELECTION | Change.STAGE, self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show the map, and what never acts on it."""
        if self.document.stage != "Fit":
            return
        document = self.document
        rules = document.app.arrangements
        words = [Word("subject", "Window map"), Word("text", "every size this app can be given")]
        if any(each.when.fold for each in rules):
            for text, folded in (("flat", False), ("folded", True)):
                chosen = self.picture.folded is folded
                fold = partial(self._fold, folded)
                words.append(Word("choice", text, fold, chosen, f"windows {text}"))
        named = [
            (window.name, partial(document.select, SelectedWindow(window.name)))
            for window in windows_of(document.app)
        ]
        words.append(Word("menu", "windows", name="named windows", options=named))
        own = partial(add_own, document)
        words.append(Word("do", "+ this window", own, name="name this window"))
        self._head.say([*words, *self._without_effect(rules)])
        self.picture.refresh()

    def _without_effect(self, rules: tuple[Arrangement, ...]) -> Iterator[Word]:
        """What never acts on the map: rules, windows without one, breakpoints."""
        flat, used = plane_of(rules), used_in(rules)
        for number, rule in enumerate(rules):
            if number not in used:
                to = partial(self.document.select, SelectedArrangement(rule.id))
                yield Word("do", f"✕ {rule.title or rule.id} never matches", to)
        if GAP in flat.used:
            yield Word("do", "✕ windows with no rule", partial(self.document.select, Gap()))
        idle = ", ".join(f"{axis} {at:g}" for axis, at in flat.idle)
        if idle:
            yield Word("text", f"without effect: {idle}")

    def _fold(self, folded: bool) -> None:
        self.picture.folded = folded
        self.refresh()

    def _moved(self) -> None:
        if self.document.stage == "Fit":
            self.picture.follow()
            self._rest.start()

    def _say_anew(self) -> None:
        if self.document.stage == "Fit":
            self.picture.describe()
            if not isinstance(self.document.selection, SelectedArrangement | Gap | AllFindings):
                self.strip.follow()
