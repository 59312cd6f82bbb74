"""What widgets of our own are, to whoever does not see them."""

from __future__ import annotations

from typing import Any, Final

from PySide6.QtCore import QObject
from PySide6.QtGui import QAccessible
from PySide6.QtWidgets import QAccessibleWidget, QWidget

Role = QAccessible.Role
ROLES: Final = {
    "menu": Role.PopupMenu,
    "question": Role.Dialog,
    "modal": Role.Dialog,
    "popover": Role.Dialog,
    "title bar": Role.ToolBar,
    "bottom bar": Role.ToolBar,
    "section bar": Role.ToolBar,
    "pane divider": Role.Splitter,
    "picture": Role.Graphic,
}
"""By the kind of a box, or the place of a screen: what the toolkit does not tell by itself."""


def _interface(_: str, of: QObject) -> Any:
    kind = getattr(of, "accessible_kind", None)
    role = None if kind is None else ROLES.get(kind())
    if role is None or not isinstance(of, QWidget):
        return None
    return QAccessibleWidget(of, role)


def tell_roles() -> None:
    """From now on, whoever asks is told; asked twice it is the same."""
    QAccessible.installFactory(_interface)
