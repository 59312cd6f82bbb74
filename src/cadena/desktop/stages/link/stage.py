"""The Link stage: what opens what, carrying what. Its picture, its strip and nothing else."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QMargins
from PySide6.QtWidgets import QWidget

from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.document.lit import Lit
from cadena.desktop.document.selection import SelectedSection
from cadena.desktop.stages.link.adding import new_screens, new_sections
from cadena.desktop.stages.link.picture import BoardPicture
from cadena.desktop.stages.link.removing import remove_selected
from cadena.desktop.stages.link.strip import LinkStrip
from cadena.desktop.widgets.controls import stand
from cadena.desktop.widgets.sentence_controls import band
from cadena.desktop.widgets.words import Word
from cadena.model.app import Section
from cadena.model.naming import many


class LinkStage(QWidget):
    """The sections, the board of one of them, and the strip."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.picture = BoardPicture(document)
        self.strip = LinkStrip(document)
        head, self._head = band(4, QMargins(16, 6, 16, 2))
        stand(self, head, self.picture, self.strip, grows=self.picture)
        self.picture.pulled.connect(self.strip.ask)
        self.picture.wants_removal.connect(partial(remove_selected, document))
        document.watch(Change.APP | Change.SECTION | Change.STAGE | Change.LIT, self.refresh)
        if document.is_open:
            self.refresh()

    def refresh(self) -> None:
        """Show the sections there are, the one on the board marked."""
        document = self.document
        if document.stage != "Link":
            return
        words = [self._tab(section) for section in document.app.sections]
        for text, name, options in (
            ("+ section", "add a section", new_sections(document)),
            ("+ screen", "add a screen", new_screens(document)),
        ):
            if options:
                words.append(Word("menu", text, name=name, options=options, role="section"))
        words.append(Word("do", "fit", self.picture.fit, name="fit the board", role="section"))
        app = document.app
        count = f"{many(len(app.screens), 'screen')}, {many(len(app.links), 'link')}"
        lit = document.own(Lit)
        if lit.is_on:
            words.append(Word("text", f"lit is what is reached in {lit.column};"))
            words.append(Word("do", "show all", self._light_all, name="light all of the board"))
        self._head.say([*words, Word("text", count)])

    def _light_all(self) -> None:
        self.document.own(Lit).is_on = False
        self.document.tell(Change.LIT)

    def _tab(self, section: Section) -> Word:
        shown = section.id == self.document.section
        text = section.title if section.in_bar else f"{section.title} (not in the bar)"
        show = partial(self.show_section, section.id)
        return Word("choice", text, show, shown, f"section {section.title}", role="section")

    def show_section(self, section: str) -> None:
        self.document.show_section(section)
        self.document.select(SelectedSection(section))
