"""The blocks of a detail, one under another, drawn as the app draws them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Final, TypeAlias

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QFontMetrics,
    QKeyEvent,
    QPainter,
    QResizeEvent,
)
from PySide6.QtWidgets import (
    QAbstractItemView,
    QListWidget,
    QListWidgetItem,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
)

from cadena.desktop.painting.painter import Pictures, paint_scene
from cadena.desktop.painting.theme import colour, px
from cadena.desktop.stages.shape.fields import field_in
from cadena.model.blocks import (
    ActionsBlock,
    AddressBlock,
    Block,
    BodyBlock,
    FactsBlock,
    FormField,
    HeadingBlock,
    ListBlock,
    PictureBlock,
)
from cadena.model.in_words import condition_words
from cadena.scene.scene import Scene

HELD: Final = 190
CAPTION: Final = 20
SCALE: Final = 0.74
Shown: TypeAlias = Block | FormField


def name_of(block: Shown) -> str:
    """What a block, or a field of a form, goes by."""
    return block.field if isinstance(block, FormField) else block.id


def caption(block: Shown) -> str:
    """A block in few words: its kind, and what it shows."""
    match block:
        case FormField():
            said = ["required"] if block.required else []
            said += [f"one of {len(block.choices)}"] if block.choices else []
            said += [f"a key of {block.choices_from}"] if block.choices_from else []
            said += [f"at least {block.least:g}"] if block.least is not None else []
            said += [f"at most {block.most:g}"] if block.most is not None else []
            return ", ".join([block.field, *said])
        case PictureBlock() | BodyBlock() | AddressBlock():
            what = block.field
        case HeadingBlock():
            what = block.text
        case FactsBlock():
            what = ", ".join(block.fields)
        case ListBlock():
            kept = " and ".join(map(condition_words, block.rows.where))
            what = block.rows.source + (f" where {kept}" if kept else "")
        case ActionsBlock():
            place = {"flow": "", "bar": " · in the bar", "bottom": " · at the bottom"}[block.place]
            what = ", ".join(each.label for each in block.buttons) + place
        case _:
            what = f"{block.title}: from here on"
    return f"{block.__struct_config__.tag} · {what}"


class Drawn(QStyledItemDelegate):
    """Paints a block: its caption, then what it shows, at the scale of a card."""

    def __init__(self, blocks: Blocks) -> None:
        super().__init__(blocks)
        self.blocks = blocks

    def sizeHint(self, option: QStyleOptionViewItem, index: Any) -> QSize:
        _, scene = self.blocks.shown[index.row()]
        tall = 0.0 if scene is None else min(HELD, scene.height * SCALE)
        return QSize(100, px(CAPTION) + round(tall) + 12)

    def paint(
        self,
        painter: QPainter,
        option: QStyleOptionViewItem,
        index: QModelIndex | QPersistentModelIndex,
    ) -> None:
        block, scene = self.blocks.shown[index.row()]
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        rect = QRectF(option.rect).adjusted(2, 2, -2, -3)
        state: QStyle.StateFlag = option.state
        chosen = bool(state & QStyle.StateFlag.State_Selected)
        painter.setPen(colour("brass" if chosen else "hairline"))
        painter.setBrush(colour("brass_wash" if chosen else "card"))
        painter.drawRoundedRect(rect, 6, 6)
        if chosen and state & QStyle.StateFlag.State_HasFocus:
            painter.setPen(colour("ink"))
            painter.drawRoundedRect(rect.adjusted(2, 2, -2, -2), 5, 5)
        font = painter.font()
        font.setPixelSize(px(11))
        painter.setFont(font)
        painter.setPen(colour("soft"))
        inner = rect.adjusted(9, 2, -6, 0)
        text = QFontMetrics(font).elidedText(
            caption(block), Qt.TextElideMode.ElideRight, int(inner.width())
        )
        top = QRectF(inner.left(), inner.top(), inner.width(), px(CAPTION) - 2)
        painter.drawText(top, int(Qt.AlignmentFlag.AlignVCenter), text)
        if scene is not None:
            below = QRectF(rect.left() + 4, rect.top() + px(CAPTION), rect.width() - 8, HELD)
            below.setBottom(rect.bottom() - 2)
            painter.setClipRect(below)
            painter.translate(below.topLeft())
            painter.scale(SCALE, SCALE)
            ground = QRectF(0, 0, below.width() / SCALE, below.height() / SCALE)
            painter.fillRect(ground, colour("screen"))
            # A scene sets clips of its own; within this tile they are all the tile's.
            held = tuple(box._replace(clip=None) for box in scene.boxes)
            paint_scene(painter, Scene(scene.width, scene.height, held), self.blocks.pictures)
        painter.restore()


class Blocks(QListWidget):
    """The blocks; Alt+Up and Alt+Down move the marked one, Delete removes it."""

    chosen = Signal(str)
    moved = Signal(str, int)
    removed = Signal(str)
    dropped = Signal(str)
    resized = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("blocks")
        self.setAccessibleName("blocks of the detail")
        self.setItemDelegate(Drawn(self))
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAcceptDrops(True)
        self.setDragEnabled(True)
        self.setDragDropMode(QAbstractItemView.DragDropMode.DragDrop)
        self.setDefaultDropAction(Qt.DropAction.MoveAction)
        self.setStyleSheet("QListWidget { background: transparent; }")
        self._filling = False
        self.shown: list[tuple[Shown, Scene | None]] = []
        self.pictures: Pictures = lambda name: None
        self.currentRowChanged.connect(self._choose)

    def show_blocks(
        self, shown: Sequence[tuple[Shown, Scene | None]], pictures: Pictures, chosen: str
    ) -> None:
        """Show blocks, and mark one of them."""
        self._filling = True
        at = self.verticalScrollBar().value()
        self.clear()
        self.shown, self.pictures = list(shown), pictures
        for block, _ in shown:
            item = QListWidgetItem()
            item.setData(Qt.ItemDataRole.AccessibleTextRole, caption(block))
            self.addItem(item)
            if name_of(block) == chosen:
                self.setCurrentItem(item)
        self.verticalScrollBar().setValue(at)
        self._filling = False

    def _choose(self, row: int) -> None:
        if not self._filling and (name := self._current()):
            self.chosen.emit(name)

    def _current(self) -> str:
        row = self.currentRow()
        return name_of(self.shown[row][0]) if 0 <= row < len(self.shown) else ""

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if event.oldSize().width() != event.size().width() and not self._filling:
            self.resized.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        name, key = self._current(), event.key()
        alt = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        if name and alt and key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.moved.emit(name, -1 if key == Qt.Key.Key_Up else 1)
        elif name and key == Qt.Key.Key_Delete:
            self.removed.emit(name)
        else:
            super().keyPressEvent(event)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if field_in(event.mimeData()) or event.source() is self:
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """A field becomes a block; a block dragged along goes where it is let go."""
        field = field_in(event.mimeData())
        if field:
            event.acceptProposedAction()
            self.dropped.emit(field)
        elif event.source() is self:
            under: QListWidgetItem | None = self.itemAt(event.position().toPoint())
            row = -1 if under is None else self.row(under)
            name = self._current()
            # The order is the document's: nothing moves here by itself.
            event.setDropAction(Qt.DropAction.IgnoreAction)
            event.accept()
            if name:
                to = row if row >= 0 else len(self.shown) - 1
                self.moved.emit(name, to - self.currentRow())
