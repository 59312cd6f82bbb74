"""What of the toolkit is dear to touch, touched only where it must be."""

from __future__ import annotations

from PySide6.QtWidgets import QAbstractScrollArea, QWidget


def marked(widget: QWidget, name: str, value: str) -> None:
    """Set a property that the style sheet goes by, and dress the widget anew where it changes."""
    if widget.property(name) == value:
        return
    is_first = widget.property(name) is None
    widget.setProperty(name, value)
    if not is_first or value not in ("", "false"):
        style = widget.style()
        style.unpolish(widget)
        style.polish(widget)


def with_own_viewport(area: QAbstractScrollArea) -> None:
    """Give an area a viewport that is made here.

    To find out what one of the toolkit's own is, its binding brings in all kinds of widgets
    that there are.
    """
    area.setViewport(QWidget())
