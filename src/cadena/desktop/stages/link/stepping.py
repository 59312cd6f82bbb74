"""Going from thing to thing on the board by key, and saying what is selected."""

from __future__ import annotations

from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import Selection
from cadena.model.app import Trigger
from cadena.model.find import by_id
from cadena.scene.board.board import Board


def of_trigger(document: Document, trigger: Trigger) -> Selection:
    """What selecting a trigger selects: its link, or itself where it has none."""
    link = document.wired.link_from(trigger)
    if link is None:
        return Selection("trigger", trigger=trigger)
    return Selection("link", link.id, trigger)


def things(document: Document, board: Board) -> list[Selection]:
    """Everything that can be selected, card by card."""
    found: list[Selection] = []
    for card in board.cards:
        found.append(Selection("screen", card.screen.id))
        found += [of_trigger(document, port.trigger) for port in card.ports]
    return found


def stepped(document: Document, board: Board, by: int) -> Selection:
    """The thing so many places on from the one that is selected."""
    found = things(document, board)
    if not found:
        return Selection()
    now = document.selection
    at = next((number for number, each in enumerate(found) if _is_same(each, now)), None)
    return found[0 if at is None else min(max(at + by, 0), len(found) - 1)]


def _is_same(one: Selection, other: Selection) -> bool:
    if one.kind == "trigger":
        return one == other
    return (one.kind, one.name) == (other.kind, other.name)


def forward(document: Document, board: Board) -> Selection:
    """To the screen that the selected link opens; from a screen, to its first trigger."""
    now = document.selection
    link = by_id(document.app.links, now.name) if now.kind == "link" else None
    if link is not None:
        return Selection("screen", link.to)
    return stepped(document, board, 1) if now.kind == "screen" else now


def backward(document: Document) -> Selection:
    """From a link to the screen it starts on; from a screen to a link that opens it."""
    now, links = document.selection, document.app.links
    if now.kind == "link":
        link = by_id(links, now.name)
        return Selection("screen", link.trigger.screen) if link is not None else now
    if now.kind == "trigger" and now.trigger is not None:
        return Selection("screen", now.trigger.screen)
    into = next((each for each in links if now.kind == "screen" and each.to == now.name), None)
    return now if into is None else Selection("link", into.id, into.trigger)


def described(document: Document, selection: Selection) -> str:
    """What is selected, in words for assistive technology."""
    if selection.kind == "link":
        link = by_id(document.app.links, selection.name)
        return f"link from {link.trigger.screen} to {link.to}, {link.how}" if link else ""
    if selection.kind == "trigger" and selection.trigger is not None:
        at = selection.trigger
        return f"{at.on} {at.part} of {at.screen}, no link"
    return f"{selection.kind} {selection.name}" if selection.kind else "nothing selected"
