"""Settings of a list that more than one stage says: what of it is kept in view, and its groups."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.widgets.bound import Bound
from cadena.desktop.widgets.words import Word
from cadena.model.app import Screen
from cadena.model.edits import shaping
from cadena.model.find import by_id
from cadena.model.screen_parts import listings


def in_view_words(document: Document, screen: Screen, part: str) -> list[Word]:
    """Whether a list keeps its chosen row in view."""
    return _choices(document, screen, part, "keep_in_view", "the chosen row is")


def group_words(document: Document, screen: Screen, part: str) -> list[Word]:
    """Whether the groups of a list open and close, and how they are at first."""
    return _choices(document, screen, part, "groups_start", "groups are")


def _choices(document: Document, screen: Screen, part: str, setting: str, about: str) -> list[Word]:
    def change(said: str, **changed: Any) -> None:
        now = by_id(document.app.screens, screen.id)
        listing = None if now is None else listings(now).get(part)
        if now is not None and listing is not None:
            app = shaping.with_listing(document.app, now, part, replace(listing, **changed))
            document.edit(f"{said} on {screen.id}", app, document.selection)

    bound = Bound(listings(screen)[part], change, document.refuse)
    return bound.one_of(setting, f"{about} {{}}", f"{about} {{}}")
