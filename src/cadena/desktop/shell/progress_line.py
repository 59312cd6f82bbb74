"""How far the work is, and a way to stop it."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QProgressBar, QWidget

from cadena.desktop.jobs.work import Work
from cadena.desktop.painting.theme import px
from cadena.desktop.widgets.controls import choice, label


class ProgressLine(QWidget):
    """Shown while there is work off the main thread."""

    def __init__(self, work: Work) -> None:
        super().__init__()
        self.what = label("", "about")
        self.bar = QProgressBar()
        self.bar.setRange(0, 100)
        self.bar.setTextVisible(False)
        self.bar.setFixedHeight(px(8))
        self.bar.setAccessibleName("progress")
        self.stop = choice("Stop", work.stop, name="stop the work")
        row = QHBoxLayout(self)
        row.setContentsMargins(20, 4, 20, 4)
        row.addWidget(self.what)
        row.addWidget(self.bar, 1)
        row.addWidget(self.stop)
        self.hide()
        work.progressed.connect(self._show)
        work.ended.connect(self.hide)

    def _show(self, what: str, done: float) -> None:
        self.what.setText(f"{what}: {done:.0%}")
        self.bar.setValue(round(done * 100))
        self.show()
