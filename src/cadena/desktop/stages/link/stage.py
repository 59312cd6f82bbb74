"""The Link stage: what opens what, carrying what. Its picture, its strip and nothing else."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QMargins
from PySide6.QtWidgets import QWidget

from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import SelectedSection
from cadena.desktop.stages.link.adding import new_screens, new_sections
from cadena.desktop.stages.link.picture import BoardPicture
from cadena.desktop.stages.link.removing import remove_selected
from cadena.desktop.stages.link.strip import LinkStrip
from cadena.desktop.widgets.controls import band, choice, clear, label, menu_choice, put, stand


class LinkStage(QWidget):
    """The sections, the board of one of them, and the strip."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.picture = BoardPicture(document)
        self.strip = LinkStrip(document)
        head, self._head = band(4, QMargins(16, 6, 16, 2))
        stand(self, head, self.picture, self.strip, grows=self.picture)
        self.picture.pulled.connect(self.strip.link)
        self.picture.wants_link.connect(self.strip.start_link)
        self.picture.wants_removal.connect(partial(remove_selected, document))
        document.watch(Change.APP | Change.SECTION | Change.STAGE, self.refresh)
        if document.is_open:
            self.refresh()

    def refresh(self) -> None:
        """Show the sections there are, the one on the board marked."""
        document = self.document
        if document.stage != "Link":
            return
        clear(self._head)
        for section in document.app.sections:
            shown = section.id == document.section
            text = section.title if section.in_bar else f"{section.title} (not in the bar)"
            tab = choice(
                text,
                partial(self.show_section, section.id),
                shown,
                f"section {section.title}",
                "section",
            )
            put(self._head, tab)
        if document.app.sources:
            sections = menu_choice("+ section", new_sections(document), "add a section", "section")
            screens = menu_choice("+ screen", new_screens(document), "add a screen", "section")
            put(self._head, sections)
            put(self._head, screens)
        count = len(document.app.screens)
        put(self._head, choice("fit", self.picture.fit, name="fit the board", role="section"))
        put(self._head, label(f"{count} screens, {len(document.app.links)} links", "about"))

    def show_section(self, section: str) -> None:
        self.document.show_section(section)
        self.document.select(SelectedSection(section))
