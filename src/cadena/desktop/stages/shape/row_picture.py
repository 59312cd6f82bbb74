"""The row at its most usual, its longest and its emptiest, drawn as the app draws it."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import (
    QDragEnterEvent,
    QDropEvent,
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
)
from PySide6.QtWidgets import QWidget

from cadena.desktop.painting.painter import Pictures, paint_scene
from cadena.desktop.painting.theme import colour, px
from cadena.desktop.stages.shape.fields import field_in
from cadena.scene.scene import Scene

ABOUT = 18
GAP = 6
BAR = 22


class RowPicture(QWidget):
    """Three rows, one of them chosen: arrows choose another."""

    chosen = Signal(int)
    dropped = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[tuple[str, Scene]] = []
        self.pictures: Pictures = lambda name: None
        self.current = 0
        self.room: QWidget = self
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAcceptDrops(True)
        self.setAccessibleName("the row")

    @property
    def scale(self) -> float:
        """Px for 1 dp.

        By the width of what scrolls the rows, bar and all: a bar that comes with their height
        must not change their height.
        """
        widest = max((scene.width for _, scene in self.rows), default=1.0)
        return max(0.2, min(1.0, (self.room.width() - BAR) / widest))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if event.oldSize().width() != event.size().width():
            self._fit()

    def _fit(self) -> None:
        tall = sum(px(ABOUT) + round(scene.height * self.scale) + 4 + GAP for _, scene in self.rows)
        self.setFixedHeight(max(60, tall))
        self.update()

    def show_rows(self, rows: list[tuple[str, Scene]], current: int, pictures: Pictures) -> None:
        """Show rows, each with what kind of record it is for."""
        self.rows, self.current, self.pictures = rows, current, pictures
        titles = "; ".join(
            f"{kind}: {', '.join(box.text for box in scene.boxes if box.text)}"
            for kind, scene in rows
        )
        self.setAccessibleDescription(titles)
        self._fit()

    def _places(self) -> list[tuple[int, QRectF]]:
        places, y, scale = [], 0.0, self.scale
        for number, (_, scene) in enumerate(self.rows):
            y += px(ABOUT)
            tall = scene.height * scale + 4
            places.append((number, QRectF(2, y, scene.width * scale + 4, tall)))
            y += tall + GAP
        return places

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        font = self.font()
        font.setPixelSize(px(11))
        for (number, rect), (kind, scene) in zip(self._places(), self.rows, strict=True):
            painter.setFont(font)
            painter.setPen(colour("soft"))
            about = QRectF(rect.left() + 2, rect.top() - px(ABOUT), rect.width(), px(ABOUT))
            painter.drawText(about, int(Qt.AlignmentFlag.AlignVCenter), kind)
            painter.save()
            painter.setClipRect(rect)
            painter.translate(rect.left() + 2, rect.top() + 2)
            painter.scale(self.scale, self.scale)
            paint_scene(painter, scene, self.pictures)
            painter.restore()
            chosen = number == self.current
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(colour("brass" if chosen else "hairline"), 2 if chosen else 1))
            painter.drawRoundedRect(rect, 8, 8)
            if chosen and self.hasFocus():
                painter.setPen(QPen(colour("ink"), 1))
                painter.drawRoundedRect(rect.adjusted(3, 3, -3, -3), 6, 6)

    def _choose(self, number: int) -> None:
        if 0 <= number < len(self.rows):
            self.current = number
            self.update()
            self.chosen.emit(number)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        for number, rect in self._places():
            if rect.contains(event.position()):
                self._choose(number)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {int(Qt.Key.Key_Up): -1, int(Qt.Key.Key_Down): 1}.get(event.key())
        if step is None:
            super().keyPressEvent(event)
        else:
            self._choose(self.current + step)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.update()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if field_in(event.mimeData()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        event.acceptProposedAction()
        self.dropped.emit(field_in(event.mimeData()))
