"""What can be selected in Prove."""

from __future__ import annotations

from cadena.desktop.document.selection import Selection


class SelectedClaim(Selection, frozen=True):
    """A claim, by name; and of what breaks it the cause at a place of the project."""

    claim: str
    where: str = ""


class SelectedReach(Selection, frozen=True):
    """In which arrangements a screen or a link is reached."""

    where: str
