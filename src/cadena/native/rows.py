"""The rows of a list: a view on a model, whose geometry is the engine's.

However many there are, only what is in view is asked for.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING, Any, Final, NamedTuple

from PySide6.QtCore import (
    QAbstractTableModel,
    QEvent,
    QItemSelection,
    QItemSelectionModel,
    QModelIndex,
    QPersistentModelIndex,
    QPoint,
    QRect,
    QRectF,
    Qt,
    Signal,
)
from PySide6.QtGui import QContextMenuEvent, QPainter, QPalette, QPen, QPixmap, QRegion
from PySide6.QtWidgets import QAbstractButton, QAbstractItemView, QListView, QTableView, QWidget

from cadena.engine import events as do
from cadena.engine.layout.table_columns import ColumnAt
from cadena.engine.wired import Listed
from cadena.model.values import shown
from cadena.native.keys import step_of
from cadena.native.look import font_of, ground_of
from cadena.native.pictures import Pictures, draw_picture
from cadena.records.formats import Sayings
from cadena.scene.identifiers import as_json
from cadena.scene.rows import cell_of, head_of, texts_of
from cadena.scene.scene import Box

if TYPE_CHECKING:
    from PySide6.QtGui import QKeyEvent, QMouseEvent, QPaintEvent, QResizeEvent, QWheelEvent

    View = QAbstractItemView
else:
    View = object

Index = QModelIndex | QPersistentModelIndex
Rect = Callable[[int], QRect]
PAINTED: Final = frozenset({"row title", "row subtitle", "badge", "thumb", "cell", "held"})


class Shows(NamedTuple):
    """What a view of rows shows.

    ``boxes`` are those of each row in view, by its key, the row itself first, in px of the view
    once they are moved by ``moved`` and made larger by ``unit``. ``rect`` gives where any row
    lies in the view. ``columns`` are those of a list that has some (rules.md, 7.5), and
    ``can_pick``: several rows can be picked (14).
    """

    entry: int
    screen: str
    part: str
    listed: Listed
    sayings: Sayings
    boxes: Mapping[Any, list[Box]]
    moved: tuple[float, float]
    unit: float
    rect: Rect
    columns: tuple[ColumnAt, ...]
    at: int | None
    can_pick: bool
    has_actions: bool
    rtl: bool
    driven: bool


class RowsModel(QAbstractTableModel):
    """The rows of a list, asked for one by one; each is one cell, or one of each column."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.shows: Shows | None = None

    def show(self, shows: Shows) -> None:
        before, self.shows = self.shows, shows
        are_same = before is not None and before.listed.rows is shows.listed.rows
        if before is None or not are_same or before.columns != shows.columns:
            self.beginResetModel()
            self.endResetModel()

    def rowCount(self, parent: Index = QModelIndex()) -> int:
        return 0 if parent.isValid() or self.shows is None else len(self.shows.listed.rows)

    def columnCount(self, parent: Index = QModelIndex()) -> int:
        return 1 if self.shows is None else max(1, len(self.shows.columns))

    def headerData(
        self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> Any:
        is_said = role == Qt.ItemDataRole.DisplayRole and orientation == Qt.Orientation.Horizontal
        if self.shows is None or not is_said or section >= len(self.shows.columns):
            return None
        return head_of(self.shows.sayings, self.shows.columns[section].column)

    def flags(self, index: Index) -> Qt.ItemFlag:
        found = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        if self.shows is not None and self.shows.can_pick:
            found |= Qt.ItemFlag.ItemIsUserCheckable
        return found

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if self.shows is None or not index.isValid():
            return None
        rows = self.shows.listed.rows
        if index.row() >= len(rows):
            return None
        key = rows.key_at(index.row())
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            if self.shows.columns:
                return self._cell(index.row(), index.column()) or shown(key)
            boxes = self.shows.boxes.get(key)
            return boxes[0].name if boxes else self._name(index.row(), key)
        if index.column() > 0:
            return None
        if role == Qt.ItemDataRole.AccessibleDescriptionRole:
            # Items of a view have no identifier of their own.
            return f"row:{as_json(key)}" if self.shows.driven else None
        if role == Qt.ItemDataRole.CheckStateRole and self.shows.can_pick:
            boxes = self.shows.boxes.get(key)
            is_picked = boxes is not None and "picked" in boxes[0].state
            return Qt.CheckState.Checked if is_picked else Qt.CheckState.Unchecked
        return None

    def said(self, at: int) -> str:
        """All that a row says."""
        return "\t".join(str(self.data(self.index(at, of))) for of in range(self.columnCount()))

    def _cell(self, at: int, column: int) -> str:
        if self.shows is None:
            return ""
        record = self.shows.listed.rows.record_at(at)
        cell = cell_of(self.shows.sayings, self.shows.columns[column].column, record)
        return f"{cell.text}, {cell.rule.word}" if cell.rule and cell.rule.word else cell.text

    def _name(self, at: int, key: Any) -> str:
        if self.shows is None:
            return ""
        record = self.shows.listed.rows.record_at(at)
        row = self.shows.listed.listing.row
        return texts_of(self.shows.sayings, row, record, key).name or shown(key)


class Rows(View):
    """Draws the rows in view, and says what is done to them as events."""

    if TYPE_CHECKING:
        did = Signal(object)
        wheeled = Signal(object)

    def __init__(self, pictures: Pictures, parent: QWidget) -> None:
        super().__init__(parent)
        self.pictures = pictures
        self.rows = RowsModel(self)
        self.setModel(self.rows)
        self.setFrameShape(QListView.Shape.NoFrame)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setMouseTracking(True)
        self.viewport().setAutoFillBackground(False)
        self._over: Any = None

    def show_rows(self, shows: Shows) -> None:
        """What it is to show from now on."""
        self.rows.show(shows)
        chosen = QItemSelection()
        for key, boxes in shows.boxes.items():
            at = shows.listed.rows.index_of(key)
            if boxes and at is not None and "chosen" in boxes[0].state:
                last = self.rows.columnCount() - 1
                chosen.select(self.rows.index(at, 0), self.rows.index(at, last))
        model = self.selectionModel()
        model.select(chosen, QItemSelectionModel.SelectionFlag.ClearAndSelect)
        here = self.rows.index(shows.at, 0) if shows.at is not None else QModelIndex()
        if here != self.currentIndex():
            model.setCurrentIndex(here, QItemSelectionModel.SelectionFlag.NoUpdate)
        self.viewport().update()

    # The geometry is the engine's.

    def doItemsLayout(self) -> None:
        """Nothing is laid out here."""

    def updateGeometries(self) -> None:
        """It does not scroll by itself."""

    def scrollTo(
        self, index: Index, hint: QAbstractItemView.ScrollHint = QListView.ScrollHint.EnsureVisible
    ) -> None:
        """The engine keeps the row in view that a list is at."""

    def resizeEvent(self, event: QResizeEvent) -> None:
        self.viewport().update()

    def visualRect(self, index: Index) -> QRect:
        shows = self.rows.shows
        if shows is None or not index.isValid():
            return QRect()
        row = shows.rect(index.row())
        if index.column() >= len(shows.columns):
            return row
        column = shows.columns[index.column()]
        left, width = round(column.x * shows.unit), round(column.width * shows.unit)
        x = row.right() + 1 - left - width if shows.rtl else row.left() + left
        return QRect(x, row.top(), width, row.height())

    def indexAt(self, point: QPoint) -> QModelIndex:
        key = self._key_at(point)
        shows = self.rows.shows
        at = None if shows is None or key is None else shows.listed.rows.index_of(key)
        return QModelIndex() if at is None else self.rows.index(at, 0)

    def isIndexHidden(self, index: Index) -> bool:
        return False

    def horizontalOffset(self) -> int:
        return 0

    def verticalOffset(self) -> int:
        return 0

    def visualRegionForSelection(self, selection: QItemSelection) -> QRegion:
        return QRegion(self.viewport().rect())

    def _px(self, box: Box) -> QRectF:
        shows = self.rows.shows
        assert shows is not None
        x, y = shows.moved
        unit = shows.unit
        return QRectF((box.x - x) * unit, (box.y - y) * unit, box.width * unit, box.height * unit)

    def _key_at(self, point: QPoint) -> Any:
        shows = self.rows.shows
        if shows is None:
            return None
        for key, boxes in shows.boxes.items():
            if self._px(boxes[0]).contains(point):
                return key
        return None

    # What is done to them.

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        if event.button() != Qt.MouseButton.LeftButton:
            event.ignore()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        key = self._key_at(event.position().toPoint())
        shows = self.rows.shows
        if event.button() != Qt.MouseButton.LeftButton or shows is None or key is None:
            event.ignore()
            return
        on: dict[str, Any] = {"screen": shows.screen, "entry": shows.entry, "list": shows.part}
        modifiers = event.modifiers()
        if shows.can_pick and modifiers & Qt.KeyboardModifier.ControlModifier:
            self.did.emit(do.Pick(**on, key=key))
        elif shows.can_pick and modifiers & Qt.KeyboardModifier.ShiftModifier:
            self.did.emit(do.PickTo(**on, key=key))
        elif (does := shows.boxes[key][0].does) is not None:
            self.did.emit(does)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        over = self._key_at(event.position().toPoint())
        if over != self._over:
            self._over = over
            self.viewport().update()

    def leaveEvent(self, event: QEvent) -> None:
        self._over = None
        self.viewport().update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        """The screen that it is of scrolls: a view keeps the wheel to itself otherwise."""
        self.wheeled.emit(event)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """What can be done with a row, where it was asked for."""
        shows = self.rows.shows
        if shows is None or not shows.has_actions:
            event.ignore()
            return
        is_key = event.reason() == QContextMenuEvent.Reason.Keyboard
        at = self.currentIndex().row() if is_key else None
        key = shows.listed.rows.key_at(at) if at is not None and at >= 0 else None
        key = key if is_key else self._key_at(event.pos())
        if key is not None:
            on: dict[str, Any] = {"screen": shows.screen, "entry": shows.entry}
            self.did.emit(do.OpenMenu(**on, list=shows.part, key=key))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        shows = self.rows.shows
        if shows is None:
            return
        on: dict[str, Any] = {"screen": shows.screen, "entry": shows.entry, "list": shows.part}
        modifiers, key = event.modifiers(), event.key()
        has_alt = bool(modifiers & Qt.KeyboardModifier.AltModifier)
        has_control = bool(modifiers & Qt.KeyboardModifier.ControlModifier)
        here = None if shows.at is None else shows.listed.rows.key_at(shows.at)
        if has_control and key == Qt.Key.Key_A and shows.can_pick:
            self.did.emit(do.PickAll(**on))
        elif key == Qt.Key.Key_Space and shows.can_pick and not has_control:
            here = next(iter(shows.boxes), None) if here is None else here
            if here is not None:
                self.did.emit(do.Pick(**on, key=here))
        elif (way := step_of(key, shows.rtl)) and not has_alt and not has_control:
            self.did.emit(do.Move(**on, to=way))
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.did.emit(do.Enter(**on))
        else:
            event.ignore()

    # How they look.

    def paintEvent(self, _: QPaintEvent) -> None:
        shows = self.rows.shows
        if shows is None:
            return
        painter = QPainter(self.viewport())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for key, boxes in shows.boxes.items():
            self._paint_row(painter, key, boxes, shows)

    def _paint_row(self, painter: QPainter, key: Any, boxes: list[Box], shows: Shows) -> None:
        palette, row = self.palette(), boxes[0]
        rect = self._px(row)
        is_chosen = "chosen" in row.state
        ground = ground_of(row.state, palette) if "on ground" in row.state else None
        ink = palette.color(QPalette.ColorRole.Text)
        if is_chosen:
            active = QPalette.ColorGroup.Active
            painter.fillRect(rect, palette.color(active, QPalette.ColorRole.Highlight))
            ink = palette.color(active, QPalette.ColorRole.HighlightedText)
        elif ground is not None:
            painter.fillRect(rect, ground[0])
            ink = ground[1]
        elif key == self._over:
            painter.fillRect(rect, palette.color(QPalette.ColorRole.AlternateBase))
        for box in boxes[1:]:
            if box.kind == "thumb":
                pixmap = self.pictures(box.picture) if box.picture else QPixmap()
                draw_picture(painter, self._px(box), pixmap, box.state, palette)
            elif box.kind == "badge":
                self._paint_badge(painter, box, shows, palette)
            elif box.kind in PAINTED and box.text:
                self._paint_text(painter, box, shows, ink)
        if self.hasFocus() and shows.at is not None and shows.listed.rows.key_at(shows.at) == key:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(ink, 1, Qt.PenStyle.DotLine))
            painter.drawRect(rect.adjusted(1.5, 1.5, -1.5, -1.5))
        is_tile = "tile" in row.state
        line = QPalette.ColorRole.Mid if is_tile else QPalette.ColorRole.Midlight
        painter.setPen(QPen(palette.color(line), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if is_tile:
            painter.drawRoundedRect(rect.adjusted(0.5, 0.5, -0.5, -0.5), 4, 4)
        else:
            painter.drawLine(rect.bottomLeft(), rect.bottomRight())

    def _paint_badge(self, painter: QPainter, box: Box, shows: Shows, palette: QPalette) -> None:
        pair = ground_of(box.state, palette)
        paper, ink = pair or (
            palette.color(QPalette.ColorRole.Button),
            palette.color(QPalette.ColorRole.ButtonText),
        )
        rect = self._px(box)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(paper)
        painter.drawRoundedRect(rect, rect.height() / 2, rect.height() / 2)
        self._paint_text(painter, box, shows, ink, centred=True)

    def _paint_text(
        self, painter: QPainter, box: Box, shows: Shows, ink: Any, centred: bool = False
    ) -> None:
        rect = self._px(box)
        painter.setFont(font_of(box.kind, box.state, shows.unit))
        painter.setPen(ink)
        said = painter.fontMetrics().elidedText(
            box.text, Qt.TextElideMode.ElideRight, int(rect.width())
        )
        is_end = ("end" in box.state) is not shows.rtl
        side = Qt.AlignmentFlag.AlignRight if is_end else Qt.AlignmentFlag.AlignLeft
        if centred or ("tile" in box.state and box.kind != "cell"):
            side = Qt.AlignmentFlag.AlignHCenter
        painter.drawText(rect, int(side | Qt.AlignmentFlag.AlignVCenter), said)


class RowsView(Rows, QListView):
    """Rows, or tiles."""

    did = Signal(object)
    wheeled = Signal(object)


class ColumnsView(Rows, QTableView):
    """Rows in columns: a table to whoever does not see them. Their heads are buttons over it."""

    did = Signal(object)
    wheeled = Signal(object)

    def __init__(self, pictures: Pictures, parent: QWidget) -> None:
        super().__init__(pictures, parent)
        self.horizontalHeader().hide()
        self.verticalHeader().hide()
        self.setTabKeyNavigation(False)
        # Where heads are hidden nothing moves it out of the way of the first row.
        for corner in self.findChildren(QAbstractButton):
            corner.hide()
