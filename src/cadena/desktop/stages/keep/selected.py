"""What can be selected in Keep."""

from __future__ import annotations

from cadena.desktop.document.selection import Selection


class SelectedMark(Selection, frozen=True):
    """What became of a piece of state, both by name."""

    piece: str
    disturbance: str


class SavedState(Selection, frozen=True):
    """All that is saved of the running app."""
