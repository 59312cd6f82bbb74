"""The stage chain: the steps of the work as links of a chain."""

from __future__ import annotations

from functools import partial
from typing import Final

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QFont, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton, QSizePolicy, QVBoxLayout, QWidget

from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.desktop.document.stages import stages
from cadena.desktop.painting.faces import font_of
from cadena.desktop.painting.theme import colour

CHANGES: Final = (
    Change.APP | Change.FINDINGS | Change.STAGE | Change.KEPT | Change.PROVEN | Change.HANDED
)
"""After these something else may be open in a stage."""
TALL: Final = 92
LEAST: Final = 64
"""How tall a link is, in px, and what it can be made where the window is low."""


class StageLink(QAbstractButton):
    """One link of the chain, with a mark that counts what is open there."""

    def __init__(self, number: int, name: str) -> None:
        super().__init__()
        self.number, self.name, self.open, self.is_checked = number, name, 0, False
        self.is_there = False
        self.setCheckable(True)
        self.setAutoExclusive(True)
        self.setFixedWidth(84)
        self.setMaximumHeight(TALL)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Preferred)
        self.setAccessibleName(f"stage {name}")

    def sizeHint(self) -> QSize:
        return QSize(84, TALL)

    def minimumSizeHint(self) -> QSize:
        return QSize(84, LEAST)

    def count(self, findings: int, is_checked: bool, is_there: bool) -> None:
        """Say how much is open here, once that is known, and whether there is anything yet."""
        self.open, self.is_checked, self.is_there = findings, is_checked, is_there
        said = f"{findings} open findings" if findings else "looked at, nothing open"
        self.setAccessibleDescription(said if findings or is_there else "nothing there yet")
        self.setToolTip(f"{self.name} (Ctrl+{self.number})")
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        rect = QRectF(16, (self.height() - 56) / 2, 52, 58)
        painter.setPen(QPen(colour("brass" if self.isChecked() else "quiet"), 2))
        painter.setBrush(colour("brass_wash" if self.isChecked() else "card"))
        painter.drawRoundedRect(rect, 24, 24)
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(colour("ink"), 2))
            painter.drawRoundedRect(rect.adjusted(-4, -4, 4, 4), 28, 28)
        painter.setPen(colour("brass_ink" if self.isChecked() else "soft"))
        middle = int(Qt.AlignmentFlag.AlignCenter)
        painter.setFont(font_of(15, QFont.Weight.Bold))
        painter.drawText(rect.adjusted(0, 6, 0, -26), middle, str(self.number))
        painter.setFont(font_of(11, QFont.Weight.Normal))
        painter.setPen(colour("ink"))
        painter.drawText(rect.adjusted(0, 28, 0, -8), middle, self.name)
        self._mark(painter, QPointF(66, rect.y() + 5))

    def _mark(self, painter: QPainter, at: QPointF) -> None:
        if not self.is_checked:
            return
        if not self.is_there and not self.open:
            # A ring: there is nothing yet to be looked at.
            painter.setPen(QPen(colour("quiet"), 2))
            painter.setBrush(colour("paper"))
            painter.drawEllipse(at, 7, 7)
            return
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour("broken" if self.open else "holds"))
        painter.drawEllipse(at, 9, 9)
        painter.setPen(colour("on_holds"))
        text = str(min(self.open, 99)) if self.open else "✓"
        painter.drawText(
            QRectF(at.x() - 9, at.y() - 9, 18, 18), int(Qt.AlignmentFlag.AlignCenter), text
        )


class StageChain(QWidget):
    """The stages there are, joined."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.setFixedWidth(84)
        self.setAccessibleName("stage chain")
        self.links = [StageLink(each.number, each.name) for each in stages()]
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 4, 0, 0)
        layout.setSpacing(0)
        for link in self.links:
            link.clicked.connect(partial(document.show_stage, link.name))
            layout.addWidget(link)
        layout.addStretch(1)
        document.watch(CHANGES, self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Count what is open in each stage."""
        for stage, link in zip(stages(), self.links, strict=True):
            app = self.document.app
            there = app.sources if stage.name == "Gather" else app.screens
            link.count(*stage.opened(self.document), bool(there))
            link.setChecked(stage.name == self.document.stage)

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), colour("paper"))
        painter.fillRect(self.width() - 1, 0, 1, self.height(), colour("hairline"))
        if len(self.links) > 1:
            painter.setPen(QPen(colour("quiet"), 3))
            ends = [each.geometry().center().y() for each in (self.links[0], self.links[-1])]
            painter.drawLine(42, ends[0], 42, ends[1])
