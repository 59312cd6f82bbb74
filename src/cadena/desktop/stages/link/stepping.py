"""Going from thing to thing on the board by key, and saying what is selected."""

from __future__ import annotations

from msgspec.structs import astuple

from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import (
    SelectedLink,
    SelectedScreen,
    SelectedTrigger,
    Selection,
)
from cadena.desktop.document.stages import kind_of
from cadena.model.app import Trigger
from cadena.model.find import by_id
from cadena.scene.board.board import Board


def of_trigger(document: Document, trigger: Trigger) -> Selection:
    """What selecting a trigger selects: its link, or itself where it has none."""
    link = document.wired.link_from(trigger)
    if link is None:
        return SelectedTrigger(trigger)
    return SelectedLink(link.id)


def things(document: Document, board: Board) -> list[Selection]:
    """Everything that can be selected, card by card."""
    found: list[Selection] = []
    for card in board.cards:
        found.append(SelectedScreen(card.screen.id))
        found += [of_trigger(document, port.trigger) for port in card.ports]
    return found


def stepped(document: Document, board: Board, by: int) -> Selection:
    """The thing so many places on from the one that is selected."""
    found = things(document, board)
    if not found:
        return Selection()
    now = document.selection
    at = found.index(now) if now in found else None
    return found[0 if at is None else min(max(at + by, 0), len(found) - 1)]


def forward(document: Document, board: Board) -> Selection:
    """To the screen that the selected link opens; from a screen, to its first trigger."""
    now = document.selection
    link = by_id(document.app.links, now.link) if isinstance(now, SelectedLink) else None
    if link is not None:
        return SelectedScreen(link.to)
    return stepped(document, board, 1) if isinstance(now, SelectedScreen) else now


def backward(document: Document) -> Selection:
    """From a link to the screen it starts on; from a screen to a link that opens it."""
    now, links = document.selection, document.app.links
    if isinstance(now, SelectedLink):
        link = by_id(links, now.link)
        return SelectedScreen(link.trigger.screen) if link is not None else now
    if isinstance(now, SelectedTrigger):
        return SelectedScreen(now.trigger.screen)
    if not isinstance(now, SelectedScreen):
        return now
    into = next((each for each in links if each.to == now.screen), None)
    return now if into is None else SelectedLink(into.id)


def described(document: Document, selection: Selection) -> str:
    """What is selected, in words for assistive technology."""
    if isinstance(selection, SelectedLink):
        link = by_id(document.app.links, selection.link)
        return f"link from {link.trigger.screen} to {link.to}, {link.how}" if link else ""
    if isinstance(selection, SelectedTrigger):
        at = selection.trigger
        return f"{at.on} {at.part} of {at.screen}, no link"
    word, named = kind_of(selection).word, astuple(selection)
    return f"{word} {named[0]}" if word and named else word or "nothing selected"
