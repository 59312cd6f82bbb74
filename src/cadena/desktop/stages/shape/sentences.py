"""What Shape's strip says of what is selected."""

from __future__ import annotations

from functools import partial
from typing import Any

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import OnScreen, SelectedScreen
from cadena.desktop.stages.field_sentences import saying_matters
from cadena.desktop.stages.shape.about_blocks import about_block, fit_matter, new_blocks
from cadena.desktop.stages.shape.about_forms import about_form, add_form, with_fields
from cadena.desktop.stages.shape.about_lists import about_list
from cadena.desktop.stages.shape.selected import SelectedBlock, SelectedList, SelectedSlot
from cadena.desktop.widgets.bound import Bound
from cadena.desktop.widgets.words import Matter, Sentence, Word, calmly, screen_words
from cadena.model.app import DetailScreen, FormScreen, ListScreen, Screen
from cadena.model.edits import shaping
from cadena.model.edits.wiring import with_screen
from cadena.model.find import by_id
from cadena.model.naming import many, names_in
from cadena.model.screen_parts import listings

__all__ = ["add_form", "new_blocks", "of", "with_fields"]


def of(document: Document) -> list[Sentence]:
    """The sentences of what is selected."""
    selection = document.selection
    of_screen = selection.screen if isinstance(selection, OnScreen) else ""
    screen = by_id(document.app.screens, of_screen)
    if screen is None:
        lists = (each for each in document.app.screens if isinstance(each, ListScreen))
        screen = next(lists, None)
    if screen is None:
        return [Sentence("", [Word("text", "Select a slot of the row, a block, or a field.")])]
    match selection:
        case SelectedSlot():
            return _about_slot(document, screen, selection)
        case SelectedBlock() if isinstance(screen, DetailScreen):
            block = by_id(screen.blocks, selection.block)
            return [] if block is None else about_block(document, screen, block)
        case SelectedList():
            return about_list(document, screen, selection.part)
    if isinstance(screen, FormScreen):
        return about_form(document, screen)
    if isinstance(screen, ListScreen):
        return about_list(document, screen, "")
    return _about_detail(document, screen)


def _about_slot(document: Document, screen: Screen, of: SelectedSlot) -> list[Sentence]:
    """A slot of a row: the fields in it, and how each is said."""
    part, slot = of.part, of.slot
    listing = listings(screen).get(part)
    source = None if listing is None else by_id(document.app.sources, listing.source)
    if listing is None or source is None:
        return []
    text = getattr(listing.row, slot)
    fields = [text] if slot == "picture" and text else names_in(text)
    names = ", ".join(f"{source.id}.{each}" for each in fields) or "nothing yet"
    first: list[Word] = [Word("subject", f"Row · {slot}"), Word("text", f"shows {names}")]
    if slot == "picture":

        def change(what: str, **changed: Any) -> None:
            made = replace(listing, row=replace(listing.row, **changed))
            document.edit(what, shaping.with_listing(document.app, screen, part, made))

        bound = Bound(listing.row, change, document.refuse)
        types = document.types.get(source.id, {})
        named = [("", "no picture"), *((e, e) for e, kind in types.items() if kind == "picture")]
        shows = lambda: [Sentence("", [bound.menu("picture", named, "picture of it")])]  # noqa: E731
        fit = fit_matter(bound, "picture_fit", "picture of the row")
        return calmly(first, [bound.matter("picture", text, shows), fit])
    if not fields:
        hint = "Type a text with {field} in it, or drag a field onto the row."
        return [Sentence("", first), Sentence("", [Word("text", hint)])]
    if len(fields) == 1:
        return calmly(first, saying_matters(document, source, fields[0]))
    said = [Sentence("", first)]
    for field in fields[:2]:
        own, *offers = calmly([], saying_matters(document, source, field, f" of {field}"))
        words = [*own.words, *(word for offer in offers for word in offer.words)]
        said.append(Sentence(field, words))
    return said


def _about_detail(document: Document, screen: DetailScreen) -> list[Sentence]:
    """A detail as a whole: its title, and a copy of it."""

    def retitle(text: str) -> None:
        made = replace(screen, title=text.strip())
        document.edit(f"title {screen.id}", with_screen(document.app, made))

    title = Word("line", screen.title, retitle, name="title")
    first: list[Word] = [
        Word("subject", screen_words(screen)),
        Word("text", f"is a detail of {screen.source}, of {many(len(screen.blocks), 'block')}"),
    ]
    titled = Matter(
        "titled", screen.title, "title of the detail", lambda: [Sentence("", [title])], "title"
    )
    copy = Word("do", "Copy it", partial(copy_screen, document, screen))
    return calmly(first, [titled], act=[copy])


def copy_screen(document: Document, screen: Screen) -> None:
    """An independent copy of a screen."""
    app, copy = shaping.copied(document.app, screen)
    document.edit(f"copy {screen.id}", app, SelectedScreen(copy.id))
