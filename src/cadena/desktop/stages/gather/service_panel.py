"""What the calls of a source bring, and how its stand-in answers."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any, Final

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QSlider, QVBoxLayout, QWidget

from cadena.desktop.document.document import Document
from cadena.desktop.painting.theme import px
from cadena.desktop.widgets.controls import FlowLayout, choice, clear, label, put
from cadena.model.edits.shaping import with_source
from cadena.model.source import Kind, Source

STEPS: Final[dict[str, tuple[int, ...]]] = {
    "delay": (0, 50, 100, 200, 300, 500, 800, 1200, 2000, 3000, 5000, 10000),
    "fails_one_in": (0, 50, 20, 10, 5, 3, 2, 1),
    "changes_one_in": (0, 50, 20, 10, 5, 3, 2, 1),
    "page": (1, 5, 10, 20, 50, 100, 500, 1000),
    "refuses_one_in": (0, 50, 20, 10, 5, 3, 2, 1),
    "quicker_one_in": (0, 50, 20, 10, 5, 3, 2, 1),
}
NAMES: Final = {
    "delay": "answers in",
    "fails_one_in": "fails",
    "changes_one_in": "changes under you",
    "page": "a page holds",
    "refuses_one_in": "refuses at a field",
    "quicker_one_in": "somebody was quicker",
}
OF_WRITING: Final = ("refuses_one_in", "quicker_one_in")
TAKES: Final[dict[Kind, str]] = {
    "create": "new ones",
    "change": "changes",
    "remove": "removals",
}
"""How a stand-in is written to (rules.md, 9.1)."""


def said(name: str, value: int) -> str:
    """A setting of the stand-in in words."""
    if name == "delay":
        return f"{value} ms" if value else "at once"
    if name == "page":
        return f"{value} records"
    return f"1 in {value}" if value else "never"


class ServicePanel(QWidget):
    """On the left what list and item calls bring, on the right the stand-in."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self._source: Source | None = None
        self._shown: tuple[Source | None, bool] = None, False
        self._left = QVBoxLayout()
        self._left.setSpacing(5)
        self._right = QGridLayout()
        self._right.setHorizontalSpacing(12)
        self._right.setVerticalSpacing(4)
        right = QVBoxLayout()
        right.addLayout(self._right)
        right.addStretch(1)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(28)
        row.addLayout(self._left, 5)
        row.addLayout(right, 4)

    def show_source(self, source: Source | None) -> None:
        """Show the calls of a source; nothing is made anew where nothing has changed."""
        shown = source, source is not None and source.id in self.document.may_write
        if shown == self._shown and source is not None:
            return
        self._source, self._shown = source, shown
        clear(self._left)
        clear(self._right)
        if source is None:
            return
        self._fill_calls(source)
        self._fill_stand_in(source)

    def _edit(self, what: str, **changed: Any) -> None:
        source = self._source
        if source is not None:
            app = with_source(self.document.app, replace(source, **changed))
            self.document.edit(f"{what} {source.id}", app)

    def _flow(self) -> FlowLayout:
        flow = FlowLayout()
        self._left.addLayout(flow)
        return flow

    def _fill_calls(self, source: Source) -> None:
        names = list(self.document.types.get(source.id, {}))
        title = label("What the list call brings", "subject")
        put(self._left, title)
        flow = self._flow()
        all_brought = not source.list_brings
        for name in names:
            brought = all_brought or name in source.list_brings or name == source.key
            pill = choice(
                name,
                partial(self._toggle, name),
                brought,
                f"{'the list call brings' if brought else 'only the item call brings'} {name}",
                "field" if name != source.key else "key field",
            )
            pill.setEnabled(name != source.key)
            put(flow, pill)
        rest = [] if all_brought else [each for each in names if each not in source.list_brings]
        rest = [each for each in rest if each != source.key]
        text = (
            f"The item call adds {', '.join(rest)}."
            if rest
            else "All of it: press a field to leave it to the item call."
        )
        about = label(text, "about")
        about.setWordWrap(True)
        put(self._left, about)
        self._left.addStretch(1)

    def _toggle(self, name: str) -> None:
        source = self._source
        if source is None:
            return
        names = list(self.document.types.get(source.id, {}))
        now = list(source.list_brings) or names
        kept = [each for each in names if (each in now) != (each == name)]
        brings = () if len(kept) == len(names) else tuple(kept) or (source.key,)
        self._edit("what the list call brings of", list_brings=brings)

    def _fill_stand_in(self, source: Source) -> None:
        title = label("Who answers", "subject")
        self._right.addWidget(title, 0, 0)
        pills = QHBoxLayout()
        pills.setSpacing(6)
        options = ["file", "stand-in", *(["service"] if source.service is not None else [])]
        for option in options:
            does = partial(self._edit, f"served by {option}:", served=option)
            put(pills, choice(option, does, source.served == option, f"served by the {option}"))
        pills.addStretch(1)
        self._right.addLayout(pills, 0, 1, 1, 2)
        takes = QHBoxLayout()
        takes.setSpacing(6)
        if source.served == "service":
            self._fill_may(source, takes)
            return
        self._right.addWidget(label("takes", "about"), 1, 0)
        for kind, word in TAKES.items():
            have = source.stand_in.takes
            made = tuple(each for each in TAKES if (each in have) != (each == kind))
            does = partial(
                self._edit, f"takes {word} of", stand_in=replace(source.stand_in, takes=made)
            )
            pill = choice(word, does, kind in have, f"the stand-in takes {word}")
            pill.setEnabled(source.served == "stand-in")
            put(takes, pill)
        takes.addStretch(1)
        self._right.addLayout(takes, 1, 1, 1, 2)
        names = [e for e in NAMES if e not in OF_WRITING or source.stand_in.takes]
        for number, name in enumerate(names, 2):
            self._slider(number, name, source)
        self._right.setColumnStretch(1, 1)

    def _fill_may(self, source: Source, row: QHBoxLayout) -> None:
        """Whether the running app may write to the service, as long as the project is open."""
        document = self.document
        ways = () if source.service is None else tuple(source.service.ways())
        self._right.addWidget(label("written to", "about"), 1, 0)
        if not ways:
            row.addWidget(label("it takes nothing", "about"))
        may = source.id in document.may_write
        for word, to in (("not from here", False), ("while this is open", True)) if ways else ():
            does = partial(document.let_write, source.id, to)
            put(row, choice(word, does, may is to, f"{source.id} is written to {word}"))
        row.addStretch(1)
        self._right.addLayout(row, 1, 1, 1, 2)
        self._right.setColumnStretch(1, 1)

    def _slider(self, row: int, name: str, source: Source) -> None:
        steps = STEPS[name]
        value = getattr(source.stand_in, name)
        about = label(NAMES[name], "about")
        shown = label(said(name, value))
        shown.setMinimumWidth(px(84))
        slider = QSlider(Qt.Orientation.Horizontal)
        slider.setRange(0, len(steps) - 1)
        slider.setPageStep(1)
        slider.setValue(nearest(steps, value))
        slider.setEnabled(source.served == "stand-in")
        slider.setAccessibleName(f"stand-in {NAMES[name]}")
        slider.setAccessibleDescription(shown.text())
        slider.valueChanged.connect(lambda at: shown.setText(said(name, steps[at])))
        slider.sliderReleased.connect(self._setting(name, slider, steps))
        slider.actionTriggered.connect(self._by_key(name, slider, steps))
        for column, widget in enumerate((about, slider, shown)):
            self._right.addWidget(widget, row, column)
            widget.show()

    def _setting(self, name: str, slider: QSlider, steps: tuple[int, ...]) -> Callable[[], None]:
        def take() -> None:
            source = self._source
            if source is None:
                return
            made = replace(source.stand_in, **{name: steps[slider.value()]})
            self._edit(f"stand-in {NAMES[name]} of", stand_in=made)

        return take

    def _by_key(self, name: str, slider: QSlider, steps: tuple[int, ...]) -> Callable[[int], None]:
        take = self._setting(name, slider, steps)

        def taken(_: int) -> None:
            if not slider.isSliderDown():
                slider.setValue(slider.sliderPosition())
                take()

        return taken


def nearest(steps: tuple[int, ...], value: int) -> int:
    """The place of the step nearest to a value."""
    return min(range(len(steps)), key=lambda at: abs(steps[at] - value))
