"""Adding screens and sections: what can be added, in words, and how."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Final

from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import SelectedScreen
from cadena.desktop.stages.link.about_screens import add_section
from cadena.desktop.widgets.words import screen_words
from cadena.model.app import App, Screen
from cadena.model.edits.targets import form_for
from cadena.model.edits.wiring import Types, detail_of, list_of, with_screen
from cadena.model.source import Source

Make = Callable[[App, Types, Source], Screen]
KINDS: Final[dict[str, Make]] = {"a list": list_of, "a detail": detail_of, "a form": form_for}
SOMETHING: Final = "Things"
Options = list[tuple[str, Callable[[], object]]]


def new_screens(document: Document) -> Options:
    """A list, a detail and a form of each source, and of something that is made up."""
    options: Options = []
    for source in document.app.sources:
        name = source.title or source.id
        options += [
            (f"{kind} of {name}", partial(_add_of, document, source, make))
            for kind, make in KINDS.items()
        ]
    options += [
        (f"{kind} of something new", partial(_add_of_new, document, make))
        for kind, make in KINDS.items()
    ]
    return options


def _add_of(document: Document, source: Source, make: Make) -> None:
    screen = make(document.app, document.types, source)
    needs_nothing = all(each.need != "required" for each in screen.parameters)
    if needs_nothing and not document.app.sections:
        # The first screen is where the app begins.
        add_section(document, screen)
    else:
        _add(document, screen)


def _add_of_new(document: Document, make: Make) -> None:
    """A screen of three made-up records; what it shows is named afterwards."""
    from cadena.desktop.document.new_sources import begin_source

    source = begin_source(document, SOMETHING)
    if source is not None:
        _add_of(document, source, make)


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
        form = form_for(document.app, document.types, source)
        options.append((f"with a new form of {name}", partial(add_section, document, form)))
    return options


def _add(document: Document, screen: Screen) -> None:
    selection = SelectedScreen(screen.id)
    document.edit(f"add screen {screen.id}", with_screen(document.app, screen), selection)


def add_list(document: Document, source: Source) -> None:
    """Add a list of a source."""
    _add(document, list_of(document.app, document.types, source))


def _add_section_of(document: Document, source: Source) -> None:
    screen = list_of(document.app, document.types, source)
    add_section(document, screen)
