"""The head of the window: which project, do anything, what is open, and running the walks."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.painting.theme import px
from cadena.desktop.widgets.polish import marked
from cadena.model.naming import many
from cadena.model.problem import brief

LONGEST = 40


class Head(QWidget):
    """Shows the document's name, whether it is saved, and its findings."""

    wants_menu = Signal()
    wants_ask = Signal()
    wants_findings = Signal()
    wants_walks = Signal()

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.setObjectName("head")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(px(42))
        mark = QLabel("cadena")
        mark.setObjectName("wordmark")
        self.project = self._button("", "project menu", self.wants_menu)
        self.saved = QLabel("")
        self.ask = self._button("Do anything…   Ctrl+K", "do anything", self.wants_ask, "ask")
        self.ask.setFixedWidth(px(300))
        self.findings = self._button("", "open findings", self.wants_findings, "findings")
        self.walks = self._button("Run all walks", "run all walks", self.wants_walks, "walks")
        self.walks.setToolTip("F5")
        self.ask.setToolTip("Ctrl+K")
        layout = QHBoxLayout(self)
        layout.setContentsMargins(14, 0, 12, 0)
        layout.setSpacing(8)
        for widget in (mark, self.project, self.saved):
            layout.addWidget(widget)
        layout.addStretch(1)
        layout.addWidget(self.ask)
        layout.addStretch(1)
        layout.addWidget(self.findings)
        layout.addWidget(self.walks)
        document.watch(Change.APP | Change.SAVED | Change.FINDINGS, self.refresh)
        self.refresh()

    def _button(self, text: str, name: str, signal: object, object_name: str = "") -> QPushButton:
        button = QPushButton(text)
        button.setObjectName(object_name)
        button.setAccessibleName(name)
        button.setCursor(Qt.CursorShape.PointingHandCursor)
        button.clicked.connect(lambda: signal.emit())  # type: ignore[attr-defined]
        return button

    def refresh(self) -> None:
        """Say how the document stands."""
        document = self.document
        name = brief(document.app.name, LONGEST) if document.is_open else "No project"
        self.project.setText(f"{name} ▾")
        said = "not saved yet" if document.is_draft else "not saved"
        said = "recovered, not saved" if document.unsaved.is_back else said
        self.saved.setText("" if not document.is_open else "saved" if document.is_saved else said)
        count = len(document.findings)
        counted = many(count, "open finding") if count else "✓ no findings"
        if not (document.measuring.is_done and document.keeping.is_done):
            counted = f"{counted} so far" if count else "measuring…"
        self.findings.setText(counted if document.is_checked else "checking…")
        marked(self.findings, "open", "true" if count else "false")
        for widget in (self.findings, self.walks, self.ask):
            widget.setVisible(document.is_open)
