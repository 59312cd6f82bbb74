"""?: the keys of the stage that is shown, of the Bench, and of everything."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Final

from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QFrame, QGridLayout, QWidget

from cadena.desktop.document.actions import Action
from cadena.desktop.widgets.controls import label

BENCH: Final = (
    ("↑ ↓ ← →", "move along the list"),
    ("Enter", "open the marked row"),
    ("Tab", "next thing that can be pressed"),
    ("Space, Shift+↑ ↓, Ctrl+A", "pick rows, where a list lets several be picked"),
    ("T", "turn the window"),
    ("Alt+←, Esc", "back"),
    ("Alt+↑ ↓", "the one before, the next, where a detail offers it"),
    ("Alt+→", "forward, where the app offers it"),
)
PICTURES: Final[dict[str, tuple[tuple[str, str], ...]]] = {
    "Gather": (
        ("letters, F2", "type in the cell"),
        ("Del", "empty the cell"),
        ("Ctrl+V", "paste rows"),
        ("Ctrl+Del", "remove the record"),
    ),
    "Link": (("↑ ↓ ← →", "go over the board"), ("Del", "remove what is selected")),
    "Fit": (("↑ ↓ ← →", "another window"), ("Tab", "next edge")),
    "Keep": (("↑ ↓ ← →", "another mark"), ("Enter", "play its run")),
    "Prove": (("↑ ↓ ← →", "another answer"), ("Enter", "play its walk on the Bench")),
    "Deliver": (("↑ ↓ ← →", "another walk or window"), ("Tab", "files, and the text of one")),
}


class KeysPage(QFrame):
    """A sheet of keys in three columns; any key or press puts it away."""

    def __init__(
        self, over: QWidget, stage: str, of_stage: Iterable[Action], of_all: Iterable[Action]
    ) -> None:
        super().__init__(over, Qt.WindowType.Popup)
        self.setObjectName("keys")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setAccessibleName("keys")
        here = [(each.keys, each.name) for each in of_stage if each.keys]
        everywhere = [(each.keys, each.name) for each in of_all if each.keys]
        half = (len(everywhere) + 1) // 2
        columns = (
            (f"In {stage}", (*here, *PICTURES.get(stage, ()))),
            ("On the Bench", BENCH),
            ("Everywhere", everywhere[:half]),
            ("", everywhere[half:]),
        )
        grid = QGridLayout(self)
        grid.setContentsMargins(24, 18, 24, 18)
        grid.setHorizontalSpacing(14)
        for number, (title, keys) in enumerate(columns):
            grid.addWidget(label(title, "subject"), 0, 2 * number, 1, 2)
            for row, (key, said) in enumerate(keys, 1):
                grid.addWidget(label(key, "subject"), row, 2 * number)
                grid.addWidget(label(said, "about"), row, 2 * number + 1)

    def open_over(self, parent: QWidget) -> None:
        """Open in the middle of a window."""
        self.adjustSize()
        at = QPoint((parent.width() - self.width()) // 2, (parent.height() - self.height()) // 2)
        self.move(parent.mapToGlobal(at))
        self.show()

    def keyPressEvent(self, _: object) -> None:
        self.close()

    def mousePressEvent(self, _: object) -> None:
        self.close()
