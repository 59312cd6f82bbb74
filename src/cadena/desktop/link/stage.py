"""The Link stage: what opens what, carrying what. Its picture, its strip and nothing else."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from cadena.desktop.controls import choice, clear, label
from cadena.desktop.document import Document, Selection
from cadena.desktop.link.about_screens import add_section
from cadena.desktop.link.picture import BoardPicture
from cadena.desktop.link.removing import remove_selected
from cadena.desktop.link.strip import Strip
from cadena.model.app import ListScreen


class LinkStage(QWidget):
    """The sections, the board of one of them, and the strip."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.picture = BoardPicture(document)
        self.strip = Strip(document)
        head = QWidget()
        head.setObjectName("board-head")
        self._head = QHBoxLayout(head)
        self._head.setContentsMargins(16, 6, 16, 2)
        self._head.setSpacing(4)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(head)
        layout.addWidget(self.picture, 1)
        layout.addWidget(self.strip)
        self.picture.pulled.connect(self.strip.link)
        self.picture.wants_link.connect(self.strip.start_link)
        self.picture.wants_removal.connect(partial(remove_selected, document))
        for signal in (document.app_changed, document.section_changed):
            signal.connect(self.refresh)
        if document.is_open:
            self.refresh()

    def refresh(self) -> None:
        """Show the sections there are, the one on the board marked."""
        clear(self._head)
        document = self.document
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
            self._head.addWidget(tab)
        if any(isinstance(each, ListScreen) for each in document.app.screens):
            self._head.addWidget(
                choice("+ section", self._offer_section, name="add a section", role="section")
            )
        self._head.addStretch(1)
        count = len(document.app.screens)
        self._head.addWidget(label(f"{count} screens, {len(document.app.links)} links", "about"))
        self._head.addWidget(choice("fit", self.picture.fit, name="fit the board", role="section"))

    def show_section(self, section: str) -> None:
        self.document.show_section(section)
        self.document.select(Selection("section", section))

    def _offer_section(self) -> None:
        """Make a section of the first screen that needs nothing and is no root yet."""
        roots = {each.root for each in self.document.app.sections}
        for screen in self.document.app.screens:
            if screen.id not in roots and all(p.need != "required" for p in screen.parameters):
                add_section(self.document, screen)
                return
        self.document.failed.emit(
            "every screen that could be a root is one already: add records to get another list"
        )

    def focus_parts(self) -> list[QWidget]:
        """Where F6 leads to in this stage."""
        return [self.picture, self.strip]
