"""A transition along its time: pairs that fly, elements that fade in, and a hand to scrub with."""

from __future__ import annotations

from typing import Final

from msgspec.structs import replace
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QFont, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import SelectedLink
from cadena.desktop.painting.faces import elided, font_of
from cadena.desktop.painting.theme import colour, px
from cadena.engine.rules.display import display_of
from cadena.model.app import Link, Transition
from cadena.model.edits.wiring import with_link
from cadena.scene.transition import moving_for

ROW: Final = 18
NAMES: Final = 120
WIDE: Final = 520
NEAR: Final = 7
LEFT: Final = int(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)


class TimeLine(QWidget):
    """Shows a link's transition and sets it: drag a delay or the end, scrub anywhere else."""

    def __init__(self, document: Document, link: Link) -> None:
        super().__init__()
        self.document, self.link = document, link
        self.transition = link.transition or Transition()
        self.at = 0.0
        self._held = ""
        self._tried = self.transition
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("transition along its time")
        self.setAccessibleDescription("Left and Right scrub by 20 ms, Escape leaves it")
        self.setFixedSize(px(WIDE), px(ROW) * (len(self.rows()) + 1) + 8)

    def sizeHint(self) -> QSize:
        return self.size()

    def rows(self) -> list[tuple[str, float, bool]]:
        """For each pair and each fade its words, when it begins in ms, and whether it flies."""
        found = [(f"{e.slot} → {e.element}", 0.0, True) for e in self._tried.pairs]
        found += [(f"{name} fades in", float(at), False) for name, at in self._tried.fades.items()]
        return found or [("all of it fades", 0.0, False)]

    @property
    def _most(self) -> float:
        """Ms that the line is long: some more than the transition, to drag its end out."""
        return max(100.0, self.transition.duration * 1.25)

    def x_of(self, at: float) -> float:
        """Where a time in ms lies, in px."""
        return px(NAMES) + at / self._most * (self.width() - px(NAMES) - 8)

    def time_at(self, x: float) -> float:
        """The time in ms that lies at so many px."""
        at = (x - px(NAMES)) / (self.width() - px(NAMES) - 8) * self._most
        return max(0.0, min(at, self._most * 2))

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        size, tall = px(11), px(ROW)
        painter.setFont(font_of(size, QFont.Weight.Normal))
        end = self.x_of(self._tried.duration)
        for number, (words, begins, flies) in enumerate(self.rows()):
            y = 4 + number * tall
            painter.setPen(colour("ink"))
            cut = elided(words, size, QFont.Weight.Normal, px(NAMES) - 8)
            painter.drawText(QRectF(0, y, px(NAMES) - 6, tall), LEFT, cut)
            start = self.x_of(begins)
            bar = QRectF(start, y + 3, max(2.0, end - start), tall - 6)
            painter.setPen(QPen(colour("soft"), 1))
            painter.setBrush(colour("region3" if flies else "region1"))
            painter.drawRoundedRect(bar, 4, 4)
        bottom = 4 + len(self.rows()) * tall
        painter.setPen(QPen(colour("ink"), 2))
        painter.drawLine(QPointF(end, 2), QPointF(end, bottom + 2))
        painter.setPen(colour("soft"))
        painter.drawText(QRectF(self.x_of(0), bottom, 40, tall), LEFT, "0 ms")
        painter.drawText(QRectF(end - 60, bottom, 80, tall), LEFT, f"{self._tried.duration} ms")
        hand = self.x_of(self.at)
        painter.setPen(QPen(colour("brass"), 2))
        painter.drawLine(QPointF(hand, 0), QPointF(hand, bottom + 4))
        painter.setBrush(colour("brass"))
        painter.drawEllipse(QPointF(hand, bottom + 6), 4, 4)
        if self.hasFocus():
            painter.setPen(QPen(colour("ink"), 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 4, 4)

    def _handle_at(self, at: QPointF) -> str:
        """What a point would drag: the end, the delay of an element, or the hand."""
        if abs(at.x() - self.x_of(self._tried.duration)) < NEAR:
            return "end"
        row = int((at.y() - 4) // px(ROW)) - len(self._tried.pairs)
        names = list(self._tried.fades)
        name = names[row] if 0 <= row < len(names) else ""
        is_near = name and abs(at.x() - self.x_of(self._tried.fades[name])) < NEAR
        return name if is_near else ""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        self._held = self._handle_at(event.position()) or " "
        self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = self.time_at(event.position().x())
        if not self._held:
            over = bool(self._handle_at(event.position()))
            self.setCursor(Qt.CursorShape.SizeHorCursor if over else Qt.CursorShape.ArrowCursor)
        elif self._held == " ":
            self.scrub(at)
        elif self._held == "end":
            self._tried = replace(self._tried, duration=max(20, round(at / 10) * 10))
        else:
            most = self._tried.duration
            fades = {**self._tried.fades, self._held: min(most, round(at / 10) * 10)}
            self._tried = replace(self._tried, fades=fades)
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        was, self._held = self._held, ""
        if was == " ":
            self.document.scrub(None)
        elif self._tried != self.transition:
            made = replace(self.link, transition=self._tried)
            app = with_link(self.document.app, made)
            what = "how long it takes" if was == "end" else f"when {was} fades in"
            self.document.edit(what, app, SelectedLink(made.id))

    def scrub(self, at: float) -> None:
        """Show the Bench at a moment of the transition."""
        self.at = max(0.0, min(at, float(self._tried.duration)))
        self.document.scrub(self.link, self.at)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {Qt.Key.Key_Left: -20.0, Qt.Key.Key_Right: 20.0}
        if event.key() in steps:
            self.scrub(self.at + steps[Qt.Key(event.key())])
        elif event.key() == Qt.Key.Key_Escape:
            self.document.scrub(None)
        else:
            super().keyPressEvent(event)

    def focusOutEvent(self, event: object) -> None:
        super().focusOutEvent(event)  # type: ignore[arg-type]
        self.document.scrub(None)


def why_still(document: Document, link: Link) -> str:
    """Why nothing flies on the Bench as it is now, or nothing where it does."""
    session = document.session
    if link.trigger.screen not in [each.screen for each in session.entries]:
        return "the Bench is not at this list: go there to see it"
    moving = moving_for(document.wired, session, link)
    if moving is None:
        is_wide = len(display_of(document.wired, session).panes) > 1
        return (
            "the detail is beside the list here: nothing flies"
            if is_wide
            else ("no row of this list opens it now: nothing flies")
        )
    flown = {each.pair for each in moving.flights}
    still = [each.slot for each in moving.transition.pairs if each not in flown]
    return f"{', '.join(still)} not on both sides here: fading instead" if still else ""
