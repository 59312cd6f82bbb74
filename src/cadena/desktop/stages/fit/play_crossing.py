"""Going over a breakpoint slowly, on the Bench."""

from __future__ import annotations

from typing import Final

from PySide6.QtCore import QObject, QTimer

from cadena.desktop.document.bench_windows import resized
from cadena.desktop.document.document import Document
from cadena.desktop.painting.motion import is_reduced
from cadena.engine.session import Window

FRAMES: Final = 40
EVERY: Final = 45
AROUND: Final = 70.0


class Playing(QObject):
    """Gives the live window one size after another; nothing moves where no motion is wanted."""

    def __init__(self, document: Document, parent: QObject) -> None:
        super().__init__(parent)
        self.document = document
        self._sizes: list[tuple[float, float]] = []
        self._timer = QTimer(self, interval=EVERY)
        self._timer.timeout.connect(self._next)

    def play(self, start: Window, end: Window) -> None:
        """From some way before a breakpoint to some way beyond it."""
        (w0, h0), (w1, h1) = start.size, end.size
        across, up = (w1 > w0) - (w1 < w0), (h1 > h0) - (h1 < h0)
        if across and up:
            steps = [(w0, h0), (w1, h1)]
        else:
            count = 2 if is_reduced() else FRAMES
            ways = [-AROUND + 2 * AROUND * n / (count - 1) for n in range(count)]
            steps = [(w0 + across * by, h0 + up * by) for by in ways]
        self._sizes = [(max(1.0, w), max(1.0, h)) for w, h in steps]
        self._next()
        self._timer.start()

    @property
    def is_playing(self) -> bool:
        return self._timer.isActive()

    def _next(self) -> None:
        if self._sizes:
            several = self.document.sessions
            resized(self.document, several.live, *self._sizes.pop(0))
        if not self._sizes:
            self._timer.stop()
