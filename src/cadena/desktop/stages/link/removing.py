"""Removing what is selected."""

from __future__ import annotations

from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import Selection
from cadena.model.edits import wiring as edits
from cadena.model.find import by_id


def remove_selected(document: Document) -> None:
    """Remove the link or the screen that is selected."""
    selection, app = document.selection, document.app
    if selection.kind == "link":
        link = by_id(app.links, selection.name)
        trigger = link.trigger if link is not None else None
        document.edit(
            f"remove link {selection.name}",
            edits.without_link(app, selection.name),
            Selection("trigger", trigger=trigger),
        )
    elif selection.kind == "screen":
        document.edit(
            f"remove screen {selection.name}",
            edits.without_screen(app, selection.name),
            Selection(),
        )
