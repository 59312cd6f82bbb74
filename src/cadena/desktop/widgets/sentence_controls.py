"""Words as controls that live on: those there are say the new words, by their names."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from itertools import pairwise
from typing import Final, cast

from PySide6.QtCore import QMargins, Qt
from PySide6.QtWidgets import QLabel, QLayout, QWidget

from cadena.desktop.document.actions import KEYS
from cadena.desktop.widgets.controls import (
    FlowLayout,
    Line,
    MenuPill,
    Pill,
    label,
    presses,
    put,
)
from cadena.desktop.widgets.words import Word, nothing

LONG = 48
USUAL, SMALL = 150, 64
ROLES = {"subject": "subject", "broken": "broken", "mend": "mend", "chip": "chip"}
Key = tuple[str, str]

WIDTHS: Final = {"size": SMALL, "wide": 92}


class Controls:
    """The controls of one part of the window, found again by kind and name."""

    def __init__(self) -> None:
        self._free: dict[Key, list[QWidget]] = {}
        self._keys: dict[QWidget, Key] = {}

    def free(self, layout: QLayout) -> None:
        """Take all controls out of a layout, to be used again."""
        while (item := layout.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                self._free.setdefault(self._keys.get(widget, ("", "")), []).append(widget)

    def control(self, word: Word) -> QWidget:
        """A control that says a word: one there is already of that kind and name, or a new one."""
        key = key_of(word)
        there = self._free.get(key)
        if there and word.kind != "widget":
            widget = there.pop(0)
        else:
            widget = _control_for(word)
            self._keys[widget] = key
        _say(widget, word)
        return widget

    def let_go(self) -> None:
        """Let go of the controls that were not used again."""
        # A line that is hidden while somebody types in it hands over what was typed: that may say
        # everything anew, before this is over.
        left, self._free = [each for some in self._free.values() for each in some], {}
        for widget in left:
            self._keys.pop(widget, None)
            widget.hide()
            widget.deleteLater()

    def say_at_once(self, words: Sequence[Word]) -> None:
        """Let the controls that are in view do what the words now say; nothing moves."""
        waiting: dict[Key, list[Word]] = {}
        for word in words:
            waiting.setdefault(key_of(word), []).append(word)
        for widget, key in self._keys.items():
            if isinstance(widget, QLabel) or key[0] == "widget":
                continue
            there = waiting.get(key)
            if there:
                _say(widget, there.pop(0))
            elif isinstance(widget, Pill):
                # What it did is no longer possible.
                widget.say(widget.text().replace("&&", "&"), nothing, None, key[1])


def key_of(word: Word) -> Key:
    """What a control is found by: texts by their role, others by their names."""
    match word.kind:
        case "subject" | "broken" | "text":
            return word.kind, "long" if len(word.text) > LONG else ""
        case "line" | "size":
            return "line", word.name
        case "menu" | "widget" | "mend":
            return word.kind, word.name or word.text
        case "chip":
            return f"chip {word.role}", word.name
    return "pill", word.name or word.text


def _control_for(word: Word) -> QWidget:
    match word.kind:
        case "widget":
            return cast(QWidget, word.does())
        case "subject" | "broken" | "text":
            made = label("", ROLES.get(word.kind, "about"))
            made.setWordWrap(len(word.text) > LONG and word.kind != "subject")
            return made
        case "line" | "size":
            return Line()
        case "menu":
            return MenuPill(word.role or "choice")
    return Pill(word.role or ROLES.get(word.kind, "choice"))


def _say(widget: QWidget, word: Word) -> None:
    if word.kind != "widget":
        widget.setEnabled(word.is_on)
        widget.setAccessibleDescription(word.about)
    if isinstance(widget, MenuPill):
        widget.offer(word.text, word.options, word.name)
        widget.setToolTip(word.about)
    elif isinstance(widget, Pill):
        chosen = word.chosen if word.kind in ("choice", "toggle", "chip") else None
        widget.say(word.text, word.does, chosen, word.name)
        widget.show_icon(word.icon)
        keys = word.keys or KEYS.get((word.name or word.text).lower(), "")
        said = [word.text] if word.icon else []
        widget.setToolTip("  ".join(filter(None, [*said, keys, word.about])))
    elif isinstance(widget, Line):
        width = WIDTHS.get(word.role or word.kind, USUAL)
        widget.say(word.text, word.does, word.name, width)
        widget.setToolTip(word.about)
    elif isinstance(widget, QLabel) and widget.text() != word.text and word.kind != "widget":
        widget.setText(word.text)


class Flow(FlowLayout):
    """Words in lines that are said anew in place: the focus stays where it is."""

    def __init__(self, parent: QWidget | None = None, gap: int = 6) -> None:
        super().__init__(parent, gap)
        self._controls = Controls()

    def say(self, words: Sequence[Word]) -> None:
        """Say these words, with the controls there are."""
        if presses().under_way:
            self._controls.say_at_once(words)
            presses().after(self, partial(self.say, words))
            return
        self._controls.free(self)
        widgets = [self._controls.control(word) for word in words]
        for widget in widgets:
            put(self, widget)
        self._controls.let_go()
        in_order(widgets)


def band(gap: int, margins: QMargins) -> tuple[QWidget, Flow]:
    """A band across a stage, on its ground, and the words in it."""
    made = QWidget()
    made.setObjectName("board-head")
    flow = Flow(made, gap)
    flow.setContentsMargins(margins)
    return made, flow


def in_order(widgets: Sequence[QWidget]) -> None:
    """Let the focus go through controls in the order in which they stand."""
    stops = [each for each in widgets if each.focusPolicy() & Qt.FocusPolicy.TabFocus]
    for one, other in pairwise(stops):
        QWidget.setTabOrder(one, other)
