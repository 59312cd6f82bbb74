"""The sentences that the strip says of the document's selection."""

from __future__ import annotations

from functools import partial

from cadena.desktop.document.document import Document
from cadena.desktop.document.next_step import next_step, put_away
from cadena.desktop.document.selection import (
    AllFindings,
    SelectedLink,
    SelectedScreen,
    SelectedSection,
    SelectedTrigger,
    WholeApp,
)
from cadena.desktop.stages.link.about_app import about_app
from cadena.desktop.stages.link.about_links import about_link, about_trigger
from cadena.desktop.stages.link.about_screens import about_screen, about_section
from cadena.desktop.stages.link.adding import new_screens
from cadena.desktop.widgets.words import Sentence, Word
from cadena.model.find import by_id
from cadena.model.naming import many


def of(document: Document) -> list[Sentence]:
    """The sentences of the document's selection."""
    selection, app = document.selection, document.app
    match selection:
        case SelectedLink():
            link = by_id(app.links, selection.link)
            return [] if link is None else about_link(document, link)
        case SelectedTrigger():
            return about_trigger(document, selection.trigger)
        case SelectedScreen():
            screen = by_id(app.screens, selection.screen)
            return [] if screen is None else about_screen(document, screen)
        case WholeApp():
            return about_app(document)
        case AllFindings():
            count = len(document.findings)
            said = many(count, "open finding") if count else "Nothing is broken"
            return [Sentence("", [Word("subject", said)])]
    section = by_id(
        app.sections,
        selection.section if isinstance(selection, SelectedSection) else document.section,
    )
    if section is None:
        return _nothing(document)
    first, *rest = about_section(document, section)
    return [first, *_next(document), *rest]


def _next(document: Document) -> list[Sentence]:
    """The next useful step in a new project, until it is done or put away."""
    step = next_step(document)
    if not step:
        return []
    away = Word("do", "Not now", partial(put_away, document), name="no next steps")
    return [Sentence("Next", [Word("text", f"{step[0].upper()}{step[1:]}."), away])]


def _nothing(document: Document) -> list[Sentence]:
    if not document.app.sections:
        add = Word("do", "Add records from a file…", document.wants_records.emit)
        begin = partial(_begin_with, document)
        screens = new_screens(document)
        asked = Word("line", "", begin, name="what the first list shows")
        return [
            Sentence("", [Word("subject", "Nothing is wired yet")]),
            Sentence(
                "Begin with",
                [
                    Word("text", "what does the first list show?"),
                    asked,
                    Word("text", "such as huts: three made-up rows, until there are real ones"),
                ],
            ),
            Sentence(
                "Or",
                [
                    add,
                    Word("text", "each gets a list and a detail, or with"),
                    Word("menu", "a screen", name="begin with a screen", options=screens),
                    Word("text", "of something new"),
                ],
            ),
        ]
    return [Sentence("", [Word("text", "Select a card, a row, a button or a ribbon.")])]


def _begin_with(document: Document, what: str) -> None:
    from cadena.desktop.document.new_sources import begin_with

    begin_with(document, what)
