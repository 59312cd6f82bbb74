"""Small controls of the interface, made alike everywhere."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import lru_cache

from PySide6.QtCore import QEvent, QMargins, QObject, QPoint, QRect, QSize, Qt, QTimer
from PySide6.QtGui import QFocusEvent, QFont, QFontMetrics, QIcon
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QLabel,
    QLayout,
    QLayoutItem,
    QLineEdit,
    QMenu,
    QPushButton,
    QVBoxLayout,
    QWidget,
    QWidgetItem,
)

from cadena.desktop.painting.theme import px, theme


def label(text: str, role: str = "", name: str = "") -> QLabel:
    """A text of a role: subject, about or broken."""
    made = QLabel(text)
    made.setTextFormat(Qt.TextFormat.PlainText)
    if role:
        made.setProperty("role", role)
    if name:
        made.setObjectName(name)
    return made


Options = Sequence[tuple[str, Callable[..., object]]]


class Pill(QPushButton):
    """A pill: one of several when ``chosen`` is given, else a thing to do."""

    def __init__(self, role: str = "choice") -> None:
        super().__init__()
        self.setProperty("role", role)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self._does: Callable[[], object] = _nothing
        self._chosen: bool | None = None
        self._icon = ("", "")
        self._bolder: tuple[str | None, int] = (None, 0)
        self.clicked.connect(self._pressed)

    def say(
        self, text: str, does: Callable[[], object], chosen: bool | None = None, name: str = ""
    ) -> None:
        """What it says, and what a press does from now on."""
        self._does, self._chosen = does, chosen
        escaped = text.replace("&", "&&")
        if escaped != self.text() and not self._icon[0]:
            self.setText(escaped)
        self.setAccessibleName(name or text)
        self.setCheckable(chosen is not None)
        self.setChecked(bool(chosen))

    def show_icon(self, name: str) -> None:
        """Show an icon in the place of the words; they stay its name."""
        key = (name, theme().name)
        if key == self._icon:
            return
        self._icon = key
        if not name:
            self.setIcon(QIcon())
            return
        from cadena.desktop.painting.icons import icon

        self.setText("")
        self.setIconSize(QSize(px(17), px(17)))
        self.setIcon(icon(name, px(17)))

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() in (QEvent.Type.StyleChange, QEvent.Type.FontChange):
            self._bolder = (None, 0)
        if event.type() == QEvent.Type.StyleChange and self._icon[0]:
            self.show_icon(self._icon[0])

    def sizeHint(self) -> QSize:
        """Room for its words in bold: so that nothing is clipped, or moves, when it is chosen."""
        hint = super().sizeHint()
        if self.isCheckable():
            text = self.text()
            if self._bolder[0] != text:
                bold = QFont(self.font())
                bold.setBold(True)
                plain = self.fontMetrics().horizontalAdvance(text)
                more = QFontMetrics(bold).horizontalAdvance(text) - plain
                self._bolder = (text, max(0, more))
            hint.setWidth(hint.width() + self._bolder[1])
        return hint

    def _pressed(self) -> None:
        # A choice once made stays made: pressing it again must not unset how it looks.
        self.setChecked(bool(self._chosen))
        self._does()


class MenuPill(Pill):
    """A pill that opens a menu of options."""

    def __init__(self, role: str = "choice") -> None:
        super().__init__(role)
        self._menu = QMenu(self)
        self._options: Options = ()
        self._menu.aboutToShow.connect(self._fill)

    def offer(self, text: str, options: Options, name: str) -> None:
        """What it says, and what its menu offers from now on."""
        self.say(f"{text} ▾", self._open, name=name)
        self._options = options

    def _fill(self) -> None:
        self._menu.clear()
        for option, does in self._options:
            # The menu is gone before its option is taken: that may replace the button under it.
            action = self._menu.addAction(option.replace("&", "&&"))
            action.triggered.connect(lambda _=False, does=does: QTimer.singleShot(0, does))

    def _open(self) -> None:
        self._menu.popup(self.mapToGlobal(QPoint(0, self.height() + 2)))


class Line(QLineEdit):
    """A text to change in place; done on Enter or on leaving it, when it has changed."""

    def __init__(self) -> None:
        super().__init__()
        self._done: Callable[[str], object] = _nothing
        self._said = ""
        self.editingFinished.connect(self._finish)

    def say(self, text: str, done: Callable[[str], object], name: str, width: int) -> None:
        """What it holds, and what is done with what is typed; what is being typed stays."""
        self._done, self._said = done, text
        self.setAccessibleName(name)
        self.setFixedWidth(px(width))
        if not (self.hasFocus() and self.isModified()) and self.text() != text:
            self.setText(text)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        if event.reason() == Qt.FocusReason.MouseFocusReason:
            presses().begin()
        super().focusOutEvent(event)

    def _finish(self) -> None:
        if self.isModified():
            typed = self.text()
            self.setModified(False)
            if typed != self._said:
                self._done(typed)


def _nothing(*_: object) -> None:
    """What a control does before it is told."""


class Presses(QObject):
    """A press of the mouse that takes the focus out of a line, until the button is let go.

    What was typed is taken first; what stands around is said anew only afterwards, so that
    nothing moves away under the press, and nothing that it is about is made anew.
    """

    def __init__(self) -> None:
        super().__init__()
        self.under_way = False
        self._after: dict[object, Callable[[], object]] = {}
        self._timer = QTimer(self, interval=0)
        self._timer.timeout.connect(self._look)

    def begin(self) -> None:
        """A press begins."""
        self.under_way = True
        self._timer.start()

    def after(self, what: object, does: Callable[[], object]) -> None:
        """Do something once the press is over; once for each thing."""
        self._after[what] = does

    def _look(self) -> None:
        if QApplication.mouseButtons() != Qt.MouseButton.NoButton or any(
            button.isDown()
            for window in QApplication.topLevelWidgets()
            for button in window.findChildren(QAbstractButton)
        ):
            return
        self._timer.stop()
        self.under_way = False
        waiting, self._after = list(self._after.values()), {}
        for does in waiting:
            does()


@lru_cache
def presses() -> Presses:
    """The one place that knows of a press under way."""
    return Presses()


def choice(
    text: str,
    does: Callable[[], object],
    chosen: bool | None = None,
    name: str = "",
    role: str = "choice",
) -> Pill:
    """A pill: one of several when ``chosen`` is given, else a thing to do."""
    made = Pill(role)
    made.say(text, does, chosen, name)
    return made


def menu_choice(
    text: str,
    options: Options,
    name: str,
    role: str = "choice",
) -> MenuPill:
    """A pill that opens a menu of options."""
    made = MenuPill(role)
    made.offer(text, options, name)
    return made


def line(text: str, done: Callable[[str], object], name: str, width: int = 150) -> Line:
    """A text to change in place; done on Enter or on leaving it, when it has changed."""
    made = Line()
    made.say(text, done, name, width)
    return made


LEAST = 160
"""px that a line of words can always be made, whatever stands in it."""


class FlowLayout(QLayout):
    """Lays its items in lines, as words of a sentence."""

    def __init__(self, parent: QWidget | None = None, gap: int = 6) -> None:
        super().__init__(parent)
        self._items: list[QLayoutItem] = []
        self._heights: dict[int, int] = {}
        self._laid = QRect()
        self._gap = gap
        self.setContentsMargins(QMargins(0, 0, 0, 0))

    def addItem(self, item: QLayoutItem) -> None:
        self._items.append(item)

    def count(self) -> int:
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def hasHeightForWidth(self) -> bool:
        return True

    def invalidate(self) -> None:
        self._heights.clear()
        self._laid = QRect()
        super().invalidate()

    def heightForWidth(self, width: int) -> int:
        if width not in self._heights:
            margins = self.contentsMargins()
            inner = QRect(0, 0, width - margins.left() - margins.right(), 0)
            high = self._place(inner, apply=False) + margins.top() + margins.bottom()
            self._heights[width] = high
        return self._heights[width]

    def setGeometry(self, rect: QRect) -> None:
        super().setGeometry(rect)
        if rect != self._laid:
            self._laid = QRect(rect)
            self._place(rect.marginsRemoved(self.contentsMargins()), apply=True)

    def sizeHint(self) -> QSize:
        return self.minimumSize()

    def minimumSize(self) -> QSize:
        size = QSize()
        for item in self._items:
            size = size.expandedTo(item.minimumSize())
        # A long word is cut to its line: it never makes the window wider.
        return size.boundedTo(QSize(px(LEAST), size.height()))

    def _place(self, rect: QRect, apply: bool) -> int:
        y = rect.y()
        for line in self._lines(rect.width()):
            tall = max([size.height() for _, size in line])
            x = rect.x()
            for item, hint in line:
                if apply:
                    item.setGeometry(QRect(QPoint(x, y + (tall - hint.height()) // 2), hint))
                x += hint.width() + self._gap
            y += tall + self._gap
        return max(0, y - self._gap - rect.y())

    def _lines(self, width: int) -> list[list[tuple[QLayoutItem, QSize]]]:
        """The items with their sizes, line by line, as many in each as fit."""
        lines: list[list[tuple[QLayoutItem, QSize]]] = []
        used = 0
        for item in self._items:
            if item.isEmpty():
                continue
            size = _size_in(item, width)
            if not lines or used + size.width() > width:
                lines.append([])
                used = 0
            lines[-1].append((item, size))
            used += size.width() + self._gap
        return lines


def wide_of(item: QLayoutItem) -> int:
    """How wide an item is where there is room for all of it, in px."""
    widget = item.widget()
    if isinstance(widget, QLabel) and widget.wordWrap():
        return widget.fontMetrics().horizontalAdvance(widget.text()) + 4
    return item.sizeHint().width()


def _size_in(item: QLayoutItem, room: int) -> QSize:
    """How large an item is in a line of so many px: long texts go on in the next line."""
    widget = item.widget()
    if not (isinstance(widget, QLabel) and widget.wordWrap()):
        hint = item.sizeHint()
        return QSize(min(hint.width(), max(room, px(LEAST))), hint.height())
    wide = max(40, min(wide_of(item), room))
    return QSize(wide, widget.heightForWidth(wide))


def stand(stage: QWidget, *parts: QWidget | QLayout, grows: QWidget) -> None:
    """Stand the parts of a stage one under another; the one that grows takes what is left."""
    layout = QVBoxLayout(stage)
    layout.setContentsMargins(0, 0, 0, 0)
    layout.setSpacing(0)
    for part in parts:
        if isinstance(part, QWidget):
            layout.addWidget(part, int(part is grows))
        else:
            layout.addLayout(part)


def put(layout: QLayout, widget: QWidget) -> None:
    """Add a widget to a layout that is in view, so that it can take the focus at once."""
    if isinstance(layout, FlowLayout) and widget.parent() is layout.parentWidget():
        # What has been taken out of it is not in it: the toolkit need not look all through it.
        layout.addItem(QWidgetItem(widget))
        layout.invalidate()
    else:
        layout.addWidget(widget)
    if widget.parent() is not None:
        widget.show()


def clear(layout: QLayout) -> None:
    """Take everything out of a layout and let go of it."""
    while (item := layout.takeAt(0)) is not None:
        widget = item.widget()
        if widget is not None:
            widget.hide()
            widget.deleteLater()
        inner = item.layout()
        if inner is not None:
            clear(inner)
