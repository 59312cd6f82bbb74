"""Sentences, one under another, with the controls that live on while they are said anew."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from cadena.desktop.painting.theme import px
from cadena.desktop.widgets.controls import FlowLayout, label, presses, put, wide_of
from cadena.desktop.widgets.sentence_controls import Controls, in_order
from cadena.desktop.widgets.words import Sentence

WIDTH, HEIGHT = 104, 24


class Lines(QWidget):
    """The room of some sentences.

    Args:
        again: says them anew once a press is over that came while they were said.
        wide: px of the column that says what each is about.
    """

    def __init__(self, again: Callable[[], object], wide: int = WIDTH) -> None:
        super().__init__()
        self._again, self._wide = again, wide
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(20, 10, 20, 8)
        self._layout.setSpacing(7)
        self._layout.addStretch(1)
        self._controls = Controls()
        self._rows: list[Row] = []

    def __len__(self) -> int:
        return len(self._rows)

    def say(self, sentences: list[Sentence]) -> bool:
        """Say these sentences; the focus stays on the control of the same name.

        During a press that takes the focus out of a line, nothing moves: the controls that
        are there do what they now say, and the rest follows when the press is over.

        Returns:
            Whether they are said already.
        """
        if presses().under_way:
            self._controls.say_at_once([each for said in sentences for each in said.words])
            presses().after(self, self._again)
            return False
        focused = self.focusWidget()
        name = focused.accessibleName() if focused is not None and focused.hasFocus() else ""
        # Laid out once all is said: else every word would lay out those before it again.
        self._layout.setEnabled(False)
        for row in self._rows:
            self._controls.free(row.flow)
        while len(self._rows) > len(sentences):
            self._rows.pop().remove(self._layout)
        widgets: list[QWidget] = []
        for number, sentence in enumerate(sentences):
            if number == len(self._rows):
                self._rows.append(Row(self._layout, number, self._wide))
            row = self._rows[number]
            row.about.setText(sentence.about)
            row.about.setVisible(bool(sentence.about))
            for word in sentence.words:
                widgets.append(self._controls.control(word))
                put(row.flow, widgets[-1])
        self._controls.let_go()
        in_order(widgets)
        self._layout.setEnabled(True)
        self._layout.activate()
        if name and (focused is None or not focused.hasFocus() or focused.isHidden()):
            self.focus_named(name)
        return True

    def named(self, name: str) -> QWidget | None:
        """The control of that name that takes the focus."""
        for widget in self.controls():
            if widget.accessibleName() == name:
                return widget
        return None

    def controls(self) -> list[QWidget]:
        """All controls that take the focus, in order."""
        flows = [row.flow for row in self._rows]
        items = [flow.itemAt(at) for flow in flows for at in range(flow.count())]
        widgets = [item.widget() for item in items if item is not None]
        none = Qt.FocusPolicy.NoFocus
        return [each for each in widgets if each is not None and each.focusPolicy() != none]

    def focus_named(self, name: str) -> None:
        """Give the focus to the control of that name."""
        widget = self.named(name)
        if widget is not None:
            widget.setFocus()

    def widest(self) -> int:
        """How wide the longest sentence would be in one line, in px."""
        margins = self._layout.contentsMargins()
        wide = max((row.wide() for row in self._rows), default=0)
        return wide + margins.left() + margins.right()

    def tall(self, width: int) -> int:
        """How tall all of it is in that width, in px."""
        return self._layout.heightForWidth(width)


class Row:
    """The room of one sentence: what it is about, and its words."""

    def __init__(self, lines: QVBoxLayout, at: int, wide: int) -> None:
        self._row = QHBoxLayout()
        self._row.setSpacing(6)
        lines.insertLayout(at, self._row)
        self.about = label("", "about")
        self.about.setFixedSize(px(wide), px(HEIGHT))
        put(self._row, self.about)
        self._row.setAlignment(self.about, Qt.AlignmentFlag.AlignTop)
        self.flow = FlowLayout()
        self._row.addLayout(self.flow, 1)

    def remove(self, lines: QVBoxLayout) -> None:
        """Take the row away; its words are gone already."""
        lines.removeItem(self._row)
        self.about.hide()
        self.about.deleteLater()

    def wide(self) -> int:
        """How wide it is in one line, in px."""
        about = self.about.width() + 6 if self.about.text() else 0
        items = [self.flow.itemAt(at) for at in range(self.flow.count())]
        return about + sum(wide_of(item) + 6 for item in items if item is not None)
