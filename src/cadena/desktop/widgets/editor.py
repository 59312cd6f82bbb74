"""The editor of a chip: a small panel at the chip, one at a time."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QEvent, QObject, QPoint, QRect, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QApplication,
    QFrame,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from cadena.desktop.painting.theme import px
from cadena.desktop.widgets.controls import label, presses
from cadena.desktop.widgets.lines import Lines
from cadena.desktop.widgets.polish import with_own_viewport
from cadena.desktop.widgets.sentence_controls import in_order
from cadena.desktop.widgets.words import Word

LEAST, MOST = 260, 700
EDGE, GAP = 12, 4


class Editor(QFrame):
    """Says what is inside a chip, above the strip that the chip stands in.

    It never covers the strip. Escape closes it and gives the focus back to the chip; a press
    outside closes it once it is over, and does what it does.

    Args:
        strip: what the chips stand in.
        lines: the sentences of that strip.
    """

    def __init__(self, strip: QWidget, lines: Lines) -> None:
        super().__init__()
        self.setObjectName("editor")
        self._strip, self._chips = strip, lines
        self.word: Word | None = None
        self._title = label("", "subject")
        self._lines = Lines(self.say, 84)
        self._lines.setObjectName("editor-lines")
        held = QScrollArea()
        with_own_viewport(held)
        held.setWidget(self._lines)
        held.setWidgetResizable(True)
        held.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 8, 0, 4)
        layout.setSpacing(0)
        self._title.setContentsMargins(20, 0, 20, 0)
        layout.addWidget(self._title)
        layout.addWidget(held)
        self.hide()

    @property
    def chip(self) -> str:
        """The name of the chip whose editor is open, or nothing."""
        return "" if self.word is None else self.word.name

    def open(self, word: Word) -> None:
        """Open at a chip, and take the focus."""
        if presses().under_way:
            presses().after(self.open, partial(self.open, word))
            return
        if self.word is None:
            application = QApplication.instance()
            if application is not None:
                application.installEventFilter(self)
        self.word = word
        self.setParent(self._strip.parentWidget())
        self.say()
        self.show()
        self.raise_()
        controls = self._lines.controls()
        chosen = (one for one in controls if isinstance(one, QPushButton) and one.isChecked())
        first = next(chosen, next(iter(controls), None))
        if first is not None:
            first.setFocus(Qt.FocusReason.PopupFocusReason)

    def close_it(self, gives_back: bool = False) -> None:
        """Close; the focus goes back to the chip where it is to."""
        if self.word is None:
            return
        name = self.chip
        application = QApplication.instance()
        if application is not None:
            application.removeEventFilter(self)
        typing = self.focusWidget()
        if gives_back and isinstance(typing, QLineEdit):
            # Left without taking what was typed.
            typing.setModified(False)
        if gives_back:
            self._chips.focus_named(name)
        self.word = None
        self.hide()

    def follow(self, word: Word | None) -> None:
        """Say anew what is inside the chip, or close where there is none of its name left.

        The focus goes to the work then, where what was made can be gone on with.
        """
        if self.word is None:
            return
        if word is None:
            had_focus = self.isAncestorOf(QApplication.focusWidget() or self._strip)
            self.close_it()
            work = getattr(self._strip.parentWidget(), "picture", None)
            if had_focus and isinstance(work, QWidget):
                work.setFocus()
            return
        self.word = word
        self.say()

    def say(self) -> None:
        """Say what is inside."""
        if self.word is None or self.word.inside is None:
            return
        name = self.word.name
        self.setAccessibleName(name)
        self._title.setText(name[:1].upper() + name[1:])
        if self._lines.say(self.word.inside()):
            self.place()
            self.tab_in_order()

    def tab_in_order(self) -> None:
        """Tab goes from the chip through its editor, and on to the next chip."""
        chip, inside = self._chips.named(self.chip), self._lines.controls()
        stops = self._chips.controls()
        if self.word is None or chip is None or not inside:
            return
        in_order([chip, *inside, *stops[stops.index(chip) + 1 :]])

    def place(self) -> None:
        """Stand above the strip, at the chip, as wide and tall as what is said needs."""
        stage, chip = self._strip.parentWidget(), self._chips.named(self.chip)
        if stage is None or self.word is None:
            return
        room = stage.width() - 2 * EDGE
        width = min(max(px(LEAST), self._lines.widest() + px(8)), px(MOST), room)
        head = self._title.sizeHint().height() + 16
        below = self._strip.y() - GAP
        height = min(self._lines.tall(width - 12) + head, below - EDGE)
        left = EDGE if chip is None else chip.mapTo(stage, QPoint(0, 0)).x() - 8
        left = min(max(EDGE, left), EDGE + room - width)
        self.setGeometry(QRect(left, below - height, width, height))

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Escape anywhere in the window's work, and presses outside."""
        kind = event.type()
        if kind in (QEvent.Type.KeyPress, QEvent.Type.ShortcutOverride):
            is_inside = isinstance(watched, QWidget) and self.isAncestorOf(watched)
            is_escape = isinstance(event, QKeyEvent) and event.key() == Qt.Key.Key_Escape
            if is_escape and (is_inside or watched is self._chips.named(self.chip)):
                if kind == QEvent.Type.KeyPress:
                    self.close_it(gives_back=True)
                event.accept()
                return True
        if kind == QEvent.Type.MouseButtonPress and isinstance(watched, QWidget):
            self._pressed(watched)
        return False

    def _pressed(self, at: QWidget) -> None:
        """Close after a press outside; what it was on is not moved away from under it."""
        is_mine = at is self or self.isAncestorOf(at)
        is_own_chip = at is self._chips.named(self.chip)
        if is_mine or is_own_chip or at.window() is not self.window():
            return
        word = self.word
        presses().begin()
        presses().after(self.close_it, partial(self._close_of, word))

    def _close_of(self, word: Word | None) -> None:
        if self.word is not None and word is not None and self.word.name == word.name:
            self.close_it()
