"""Adding screens and sections: what can be added, in words, and how."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import SelectedScreen
from cadena.desktop.stages.link.about_screens import add_section
from cadena.desktop.widgets.words import screen_words
from cadena.model.app import Screen
from cadena.model.edits.wiring import detail_of, list_of, with_screen
from cadena.model.source import Source

Options = list[tuple[str, Callable[[], object]]]


def new_screens(document: Document) -> Options:
    """A list and a detail of each source."""
    options: Options = []
    for source in document.app.sources:
        name = source.title or source.id
        options.append((f"a list of {name}", partial(add_list, document, source)))
        options.append((f"a detail of {name}", partial(_add_detail, document, source)))
    return options


def new_sections(document: Document) -> Options:
    """A section of each screen that needs nothing and is no root, or of a new list."""
    roots = {each.root for each in document.app.sections}
    options: Options = [
        (f"starting with {screen_words(screen)}", partial(add_section, document, screen))
        for screen in document.app.screens
        if screen.id not in roots and all(each.need != "required" for each in screen.parameters)
    ]
    for source in document.app.sources:
        name = source.title or source.id
        options.append((f"with a new list of {name}", partial(_add_section_of, document, source)))
    return options


def _add(document: Document, screen: Screen) -> None:
    selection = SelectedScreen(screen.id)
    document.edit(f"add screen {screen.id}", with_screen(document.app, screen), selection)


def add_list(document: Document, source: Source) -> None:
    """Add a list of a source."""
    _add(document, list_of(document.app, document.types, source))


def _add_detail(document: Document, source: Source) -> None:
    _add(document, detail_of(document.app, document.types, source))


def _add_section_of(document: Document, source: Source) -> None:
    screen = list_of(document.app, document.types, source)
    add_section(document, screen)
