"""The widgets that boxes of a scene are shown by: one for each kind, that lives on while its box
does."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any, Final

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QUrl
from PySide6.QtGui import QColor, QDesktopServices, QPainter, QPalette, QPen
from PySide6.QtWidgets import (
    QCheckBox,
    QLabel,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QRadioButton,
    QWidget,
)

from cadena.engine import events as do
from cadena.model.outside_address import outside_address
from cadena.native.keys import divided_by_key
from cadena.native.look import fitted, font_of, ground_of, icon_of
from cadena.native.pictures import Pictures, draw_picture
from cadena.scene.identifiers import identifier_of
from cadena.scene.scene import Box

if TYPE_CHECKING:
    from PySide6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPaintEvent


Did = Callable[[do.Event], None]
Typed = Callable[[Box, str], None]
WORDS: Final = frozenset({
    "title", "title centred", "heading", "body", "fact", "fact label", "words", "footer",
    "loading", "list heading", "fault", "form label", "nothing chosen", "off words", "address",
    "picked", "removed", "frame", "group", "head"
})  # fmt: skip
PRESSED: Final = frozenset({
    "button", "back", "more", "slide", "sections", "page", "section", "head", "group",
    "menu item", "undo", "put away", "row action", "fact", "chooser"
})  # fmt: skip
FLAT: Final = frozenset({
    "back", "more", "slide", "sections", "page", "section", "head", "group", "menu item",
    "put away", "fact"
})  # fmt: skip
FIRST: Final = frozenset({
    "group", "head", "fact", "menu item", "back", "chooser"
})  # fmt: skip
"""What is said from where reading begins, and not in the middle."""
TYPED: Final = frozenset({"search", "input", "in place"})
BARS: Final = frozenset({"title bar", "bottom bar", "section bar"})
OVER: Final = frozenset({"layer", "menu", "question", "removed"})
MIDDLE: Final = frozenset({
    "title centred", "words", "footer", "loading", "nothing chosen", "off words"
})  # fmt: skip
SIGNS: Final = {"back": "‹", "sections": "☰", "slide": "⇤"}
ICON: Final = 18
SCRIM: Final = QColor(0, 0, 0, 90)


def _give_name(widget: QWidget, box: Box) -> None:
    """Its name, and what tells it from all others, for whoever does not see it."""
    name = box.name or box.text
    if widget.accessibleName() != name:
        widget.setAccessibleName(name)
    widget.setAccessibleIdentifier(identifier_of(box))


def _lead(widget: QWidget) -> Qt.AlignmentFlag:
    """The side from which is read, whatever the letters are."""
    at = Qt.AlignmentFlag
    side = at.AlignRight if widget.isRightToLeft() else at.AlignLeft
    return side | at.AlignAbsolute


class Words(QLabel):
    """Something that is said."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.box = Box("", 0, 0, 0, 0)
        self.setTextFormat(Qt.TextFormat.PlainText)

    def show_box(self, box: Box, unit: float) -> None:
        self.box = box
        _give_name(self, box)
        font = font_of(box.kind, box.state, unit)
        is_line = box.kind in ("body", "heading", "fault")
        self.setFont(fitted(font, box.text, box.width * unit) if is_line else font)
        self.setText(box.text)
        is_over = box.kind == "removed"
        side = Qt.AlignmentFlag.AlignHCenter if box.kind in MIDDLE else _lead(self)
        self.setAlignment(side | Qt.AlignmentFlag.AlignVCenter)
        self.setWordWrap(box.kind in MIDDLE or box.kind in ("frame", "off words"))
        self.setContentsMargins(12 if is_over else 0, 0, 0, 0)
        self.setAutoFillBackground(is_over)
        role = QPalette.ColorRole.ToolTipBase if is_over else QPalette.ColorRole.Window
        self.setBackgroundRole(role)
        self.setForegroundRole(
            QPalette.ColorRole.ToolTipText if is_over else QPalette.ColorRole.WindowText
        )
        state = box.state | ({"bad"} if box.kind == "fault" else frozenset())
        pair = ground_of(state, self.palette())
        sheet = f"color: {pair[1].name()};" if pair is not None and box.kind == "fault" else ""
        if pair is not None and not sheet:
            sheet = f"color: {pair[1].name()}; background: {pair[0].name()};"
        if self.styleSheet() != sheet:
            self.setStyleSheet(sheet)
        if box.kind in ("fact", "body", "heading", "address"):
            self.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        if box.kind == "address" and (address := outside_address(box.text)) is not None:
            self._opens(address)

    def _opens(self, address: str) -> None:
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self._address = address

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        address = getattr(self, "_address", "")
        if address and not self.hasSelectedText():
            QDesktopServices.openUrl(QUrl(address))
        super().mouseReleaseEvent(event)


def _is_on(box: Box) -> bool:
    return bool(box.state & {"on", "current", "chosen", "open"})


def _press(button: Pressed | Switch | Option, did: Did) -> None:
    """What is pressed stays as it is until the app says otherwise."""
    button.setChecked(button.isCheckable() and _is_on(button.box))
    if button.box.does is not None:
        did(button.box.does)


class Pressed(QPushButton):
    """Something to press."""

    def __init__(self, did: Did, parent: QWidget) -> None:
        super().__init__(parent)
        self.box = Box("", 0, 0, 0, 0)
        self.clicked.connect(lambda: _press(self, did))

    def show_box(self, box: Box, unit: float) -> None:
        self.box = box
        _give_name(self, box)
        self.setFont(font_of(box.kind, box.state, unit))
        sign = SIGNS.get(box.kind, "")
        text = " ".join(filter(None, (sign, box.text.replace("&", "&&"))))
        if self.text() != text:
            self.setText(text)
        needs = self.fontMetrics().horizontalAdvance(text) + (ICON + 12) * unit
        if box.icon and needs <= box.width * unit:
            ink = self.palette().color(QPalette.ColorRole.ButtonText).name()
            self.setIcon(icon_of(box.icon, ink, round(ICON * unit)))
            self.setIconSize(QSize(round(ICON * unit), round(ICON * unit)))
        is_kept = box.kind in ("page", "section", "head") or bool(box.state & {"on", "open"})
        self.setCheckable(is_kept)
        self.setChecked(is_kept and _is_on(box))
        self.setFlat(box.kind in FLAT)
        self.setEnabled(box.does is not None)
        self.setToolTip(box.name if box.name and box.name != box.text else "")
        if box.kind in FIRST:
            side = "right" if ("end" in box.state) is not self.isRightToLeft() else "left"
            sheet = f"text-align: {side}; padding: 0 6px;"
            if self.styleSheet() != sheet:
                self.setStyleSheet(sheet)
        on_row = box.kind in ("more", "row action")
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus if on_row else Qt.FocusPolicy.StrongFocus)


class Switch(QCheckBox):
    """Yes or no; or whether a row is picked."""

    def __init__(self, did: Did, parent: QWidget) -> None:
        super().__init__(parent)
        self.box = Box("", 0, 0, 0, 0)
        self.clicked.connect(lambda: _press(self, did))

    def show_box(self, box: Box, unit: float) -> None:
        self.box = box
        _give_name(self, box)
        self.setFont(font_of(box.kind, box.state, unit))
        self.setText(box.text.replace("&", "&&"))
        self.setChecked(_is_on(box))
        if box.kind == "pick":
            self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)


class Option(QRadioButton):
    """One of some values; a press on the one that is chosen lets it go."""

    def __init__(self, did: Did, parent: QWidget) -> None:
        super().__init__(parent)
        self.box = Box("", 0, 0, 0, 0)
        self.setAutoExclusive(False)
        self.clicked.connect(lambda: _press(self, did))

    def show_box(self, box: Box, unit: float) -> None:
        self.box = box
        _give_name(self, box)
        self.setFont(font_of(box.kind, box.state, unit))
        self.setText(box.text.replace("&", "&&"))
        self.setChecked(_is_on(box))


def _typed_in(box: Box) -> str:
    """What stands in a field; its hint is not typed."""
    return "" if "hint" in box.state else box.text


class Line(QLineEdit):
    """A place to type: a search follows every letter, a record changes once it is done."""

    def __init__(self, typed: Typed, parent: QWidget) -> None:
        super().__init__(parent)
        self.box = Box("", 0, 0, 0, 0)
        self._typed = typed
        self.textChanged.connect(self._changed)
        self.editingFinished.connect(self._finished)

    def show_box(self, box: Box, unit: float) -> None:
        self.box = box
        _give_name(self, box)
        self.setFont(font_of(box.kind, box.state, unit))
        self.setPlaceholderText(box.text if "hint" in box.state else "")
        if box.kind == "search":
            self.setPlaceholderText(box.name)
            self.setClearButtonEnabled(True)
        text = _typed_in(box)
        if self.text() != text and not (box.kind == "in place" and self.hasFocus()):
            self.setText(text)

    def _changed(self, text: str) -> None:
        if self.box.kind != "in place" and text != _typed_in(self.box):
            self._typed(self.box, text)

    def _finished(self) -> None:
        if self.box.kind == "in place" and self.text() != self.box.text:
            self._typed(self.box, self.text())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self.box.kind == "in place":
            self.setText(self.box.text)
            self.clearFocus()
            return
        super().keyPressEvent(event)


class Lines(QPlainTextEdit):
    """A place to type several lines."""

    def __init__(self, typed: Typed, parent: QWidget) -> None:
        super().__init__(parent)
        self.box = Box("", 0, 0, 0, 0)
        self._typed = typed
        self.setTabChangesFocus(True)
        self.textChanged.connect(self._changed)

    def show_box(self, box: Box, unit: float) -> None:
        self.box = box
        _give_name(self, box)
        self.setFont(font_of(box.kind, box.state, unit))
        self.setPlaceholderText(box.text if "hint" in box.state else "")
        text = _typed_in(box)
        if self.toPlainText() != text:
            self.setPlainText(text)

    def _changed(self) -> None:
        if self.toPlainText() != _typed_in(self.box):
            self._typed(self.box, self.toPlainText())


class Plain(QWidget):
    """What no control of the toolkit is for."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.box = Box("", 0, 0, 0, 0)

    def accessible_kind(self) -> str:
        return self.box.kind

    def show_box(self, box: Box, unit: float) -> None:
        self.box = box
        _give_name(self, box)
        self.update()


class Ground(Plain):
    """What other things stand on: a bar, a layer, a menu, or what lies under them."""

    def __init__(self, did: Did, parent: QWidget) -> None:
        super().__init__(parent)
        self._did = did

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.box.kind not in ("scrim", "asleep"):
            event.ignore()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self.box.does is not None:
            self._did(self.box.does)

    def paintEvent(self, _: QPaintEvent) -> None:
        painter, palette, kind = QPainter(self), self.palette(), self.box.kind
        rect = QRectF(self.rect())
        if kind == "scrim":
            if "menu" not in self.box.state:
                painter.fillRect(rect, SCRIM)
        elif kind in BARS:
            painter.fillRect(rect, palette.color(QPalette.ColorRole.Window))
        elif kind in OVER:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(palette.color(QPalette.ColorRole.Mid), 1))
            painter.setBrush(palette.color(QPalette.ColorRole.Base))
            painter.drawRoundedRect(rect.adjusted(0.5, 0.5, -0.5, -0.5), 6, 6)
        elif kind in ("pane edge", "divider"):
            painter.fillRect(rect, palette.color(QPalette.ColorRole.Mid))
        elif kind == "page ground" and (pair := ground_of(self.box.state, palette)):
            painter.fillRect(rect, pair[0])


class Picture(Plain):
    """A picture that a record names."""

    def __init__(self, pictures: Pictures, parent: QWidget) -> None:
        super().__init__(parent)
        self.pictures = pictures

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        rect, box = QRectF(self.rect()), self.box
        pixmap = self.pictures(box.picture)
        draw_picture(painter, rect, pixmap, box.state, self.palette())
        if box.text:
            painter.drawText(rect, int(Qt.AlignmentFlag.AlignCenter), box.text)


class Divider(Plain):
    """What is dragged between two panes to give them other room (rules.md, 3.2)."""

    def __init__(self, did: Did, parent: QWidget) -> None:
        super().__init__(parent)
        self._did = did
        self._from: QPointF | None = None
        self._was = 0.0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    @property
    def _is_down(self) -> bool:
        return "down" in self.box.state

    def show_box(self, box: Box, unit: float) -> None:
        super().show_box(box, unit)
        self.setCursor(
            Qt.CursorShape.SplitVCursor if self._is_down else Qt.CursorShape.SplitHCursor
        )

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if isinstance(self.box.does, do.Divide):
            self._from, self._was = event.globalPosition(), self.box.does.to

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._from is not None and isinstance(self.box.does, do.Divide):
            moved = event.globalPosition() - self._from
            across = -moved.x() if self.isRightToLeft() else moved.x()
            by = moved.y() if self._is_down else across
            if by:
                self._did(do.Divide(pane=self.box.does.pane, to=self._was + by))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._from = None

    def keyPressEvent(self, event: QKeyEvent) -> None:
        moved = divided_by_key(self.box, event.key(), self.isRightToLeft())
        if moved is None:
            event.ignore()
        else:
            self._did(moved)

    def focusInEvent(self, event: QFocusEvent) -> None:
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        if self.hasFocus():
            painter = QPainter(self)
            painter.setPen(QPen(self.palette().color(QPalette.ColorRole.Highlight), 2))
            painter.drawRect(self.rect().adjusted(1, 1, -1, -1))


def widget_of(box: Box, did: Did, typed: Typed, pictures: Pictures, parent: QWidget) -> Any:
    """The widget that a box is shown by; none where it is of rows, or only for a painter."""
    kind = box.kind
    if kind in PRESSED and (box.does is not None or kind not in WORDS):
        return Pressed(did, parent)
    if kind in ("switch", "pick"):
        return Switch(did, parent)
    if kind == "option":
        return Option(did, parent)
    if kind in TYPED:
        return Lines(typed, parent) if "lines" in box.state else Line(typed, parent)
    if kind in WORDS:
        return Words(parent)
    if kind == "picture":
        return Picture(pictures, parent)
    if kind == "pane divider":
        return Divider(did, parent)
    if kind in BARS | OVER | {"scrim", "pane edge", "divider", "page ground", "asleep", "off"}:
        return Ground(did, parent)
    return None
