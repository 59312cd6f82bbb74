"""What the strip says of screens that stand their blocks side by side where they have the room."""

from __future__ import annotations

from functools import partial
from typing import Any

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.widgets.bound import number_in
from cadena.desktop.widgets.words import NOTHING, Matter, Sentence, Word, screen_words
from cadena.model.app import DetailScreen, Side
from cadena.model.blocks import ListBlock
from cadena.model.edits.wiring import with_screen
from cadena.model.find import by_id
from cadena.model.screen_parts import elements_of


def sides_matter(document: Document) -> Matter:
    """Each detail with blocks side by side, and a way to more."""
    said: list[Sentence] = []
    others = []
    beside = []
    for screen in document.app.screens:
        if not isinstance(screen, DetailScreen):
            continue
        if screen.side is not None:
            said.append(Sentence("", _words(document, screen)))
            beside.append(screen_words(screen))
        elif len(blocks_of(screen)) > 1:
            begin = partial(_give, document, screen.id, Side(blocks=first_beside(screen)))
            others.append((screen_words(screen), begin))
    if others:
        words = [Word("menu", "+ side by side", name="blocks side by side", options=others)]
        said.append(Sentence("", words))
    if not said:
        return NOTHING
    now = ", ".join(beside)
    return Matter(
        "blocks side by side in", now, "side by side by room", lambda: said, "blocks side by side"
    )


def blocks_of(screen: DetailScreen) -> tuple[str, ...]:
    """The blocks that can stand beside the others."""
    return elements_of(screen)[1:]


def first_beside(screen: DetailScreen) -> tuple[str, ...]:
    """What anybody would put beside: the lists, else the last block."""
    lists = tuple(each.id for each in screen.blocks if isinstance(each, ListBlock))
    names = blocks_of(screen)
    return lists if 0 < len(lists) < len(names) else names[-1:]


def _give(document: Document, name: str, side: Side | None) -> None:
    screen = by_id(document.app.screens, name)
    if isinstance(screen, DetailScreen):
        made = with_screen(document.app, replace(screen, side=side))
        document.edit(f"blocks of {name} side by side", made, document.selection)


def _words(document: Document, screen: DetailScreen) -> list[Word]:
    side = screen.side or Side(blocks=())
    give = partial(_give, document, screen.id)

    def change(**changed: Any) -> None:
        give(replace(side, **changed))

    def typed(text: str) -> None:
        least = number_in(text, (0, 100_000), "dp")
        if least is None:
            document.refuse(f'{screen.id}: "{text}" is not a size in dp. It stays as it was.')
            return
        change(least=least)

    words = [Word("text", f"{screen_words(screen)} puts beside")]
    for name in blocks_of(screen):
        chosen = name in side.blocks
        blocks = tuple(e for e in blocks_of(screen) if (e in side.blocks) is not (e == name))
        does = partial(change, blocks=blocks)
        words.append(Word("toggle", name, does, chosen, f"{screen.id}: {name} beside the others"))
    wheres = [
        ("its own room", partial(change, measured="room")),
        ("the window", partial(change, measured="window")),
    ]
    now = "its own room" if side.measured == "room" else "the window"
    words += [
        Word("text", "from"),
        Word("size", f"{side.least:g}", typed, name=f"{screen.id}: side by side from, dp"),
        Word("text", "dp of"),
        Word("menu", now, name=f"{screen.id}: measured by", options=wheres),
        Word("do", "✕", partial(give, None), name=f"{screen.id}: one under another"),
    ]
    return words
