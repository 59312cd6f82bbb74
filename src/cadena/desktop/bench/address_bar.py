"""The address of what is open in one window of the Bench; one typed there is visited."""

from __future__ import annotations

from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QWidget

from cadena.desktop.document.bench_windows import do_in
from cadena.desktop.document.document import Document
from cadena.desktop.widgets.controls import choice
from cadena.engine.events import Visit
from cadena.engine.rules.addresses import address_now


class AddressBar(QWidget):
    """Shows and takes the address of one window."""

    def __init__(self, document: Document, parent: QWidget, index: int) -> None:
        super().__init__(parent)
        self.document, self.index = document, index
        self.line = QLineEdit()
        self.line.setAccessibleName(f"address in window {index + 1}" if index else "address")
        self.line.setPlaceholderText("no address: screens are given one in Link")
        self.line.returnPressed.connect(self.visit)
        name = f"copy the address of window {index + 1}" if index else "copy the address"
        self.copy = choice("copy", self._copy, name=name)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addWidget(self.line, 1)
        layout.addWidget(self.copy)

    def visit(self) -> None:
        """Go to what the address names, in this window."""
        text = self.line.text()
        self.line.setModified(False)
        do_in(self.document, self.index, Visit(address=text))
        self.refresh()

    def refresh(self) -> None:
        """Show the address that this window is at now, unless another is being typed."""
        if self.line.hasFocus() and self.line.isModified():
            return
        document = self.document
        session = document.sessions.shown(self.index)
        is_there = session.phase in ("running", "asleep")
        now = address_now(document.wired, session) if is_there else None
        if self.line.text() != (now or ""):
            self.line.setText(now or "")
            self.line.setCursorPosition(0)

    def _copy(self) -> None:
        QGuiApplication.clipboard().setText(self.line.text())
