"""Removing what is selected."""

from __future__ import annotations

from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import (
    SelectedLink,
    SelectedScreen,
    SelectedTrigger,
    Selection,
)
from cadena.model.edits import wiring as edits
from cadena.model.find import by_id


def remove_selected(document: Document) -> None:
    """Remove the link or the screen that is selected."""
    selection, app = document.selection, document.app
    if isinstance(selection, SelectedLink):
        link = by_id(app.links, selection.link)
        document.edit(
            f"remove link {selection.link}",
            edits.without_link(app, selection.link),
            SelectedTrigger(link.trigger) if link is not None else Selection(),
        )
    elif isinstance(selection, SelectedScreen):
        document.edit(
            f"remove screen {selection.screen}",
            edits.without_screen(app, selection.screen),
            Selection(),
        )
