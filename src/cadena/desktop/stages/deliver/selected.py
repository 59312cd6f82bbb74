"""What can be selected in Deliver."""

from __future__ import annotations

from cadena.desktop.document.selection import Selection


class SelectedForm(Selection, frozen=True):
    """A form in which the app is handed over: web, contract, report or diagrams."""

    form: str


class SelectedFile(Selection, frozen=True):
    """A file of what is handed over, by its path."""

    path: str


class SelectedDriven(Selection, frozen=True):
    """A walk that was driven in a window, by their names."""

    walk: str
    window: str
