"""What the strip says of screens and sections."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import SelectedSection, Selection
from cadena.desktop.stages.link.removing import remove_selected
from cadena.desktop.widgets.words import Sentence, Word, screen_words
from cadena.model.address import fault_of_template
from cadena.model.app import Screen, Section
from cadena.model.edits import wiring as edits
from cadena.model.find import by_id
from cadena.model.screen_parts import opens_with, source_shown


def about_screen(document: Document, screen: Screen) -> list[Sentence]:
    app = document.app

    def change(what: str, changed: Screen) -> None:
        document.edit(what, edits.with_screen(document.app, changed))

    def move(by: int) -> None:
        order = [each.id for each in document.app.screens]
        screens = edits.moved(document.app.screens, order.index(screen.id), by)
        document.edit(f"move {screen.id}", replace(document.app, screens=screens))

    def retitle(text: str) -> None:
        change(f"title {screen.id}", replace(screen, title=text.strip()))

    def readdress(text: str) -> None:
        give_address(
            document, screen.id, text, lambda to: change("address", replace(screen, address=to))
        )

    kind = str(screen.__struct_config__.tag)
    parameters = ", ".join(f"{each.name} : {each.type}" for each in screen.parameters)
    takes = f"opened with {parameters}" if parameters else "opened with nothing"
    said = [
        Sentence(
            "",
            [
                Word("subject", screen_words(screen)),
                Word("text", f"is a {kind} of {source_shown(screen)}, {takes}."),
                Word("do", "Remove", partial(remove_selected, document), name="remove this screen"),
            ],
        ),
        Sentence(
            "Title",
            [
                Word("line", screen.title, retitle, name="title"),
                Word("do", "Up", partial(move, -1), name="move the screen up"),
                Word("do", "Down", partial(move, 1), name="move the screen down"),
            ],
        ),
        Sentence("Address", _address_words(screen.address, readdress, screen)),
    ]
    about, field, options = {
        "list": ("Nothing chosen", "nothing_chosen", ("say so", "open first", "open last")),
        "detail": ("Record gone", "when_gone", ("say so", "close", "next")),
        "form": ("", "", ()),
    }[kind]
    choices = [
        Word(
            "choice",
            each,
            partial(change, f"{about.lower()}: {each}", replace(screen, **{field: each})),
            getattr(screen, field) == each,
            f"{about.lower()}, {each}",
        )
        for each in options
    ]
    if choices:
        said.append(Sentence(about, choices))
    is_root = any(each.root == screen.id for each in app.sections)
    if not is_root and not any(each.need == "required" for each in screen.parameters):
        said.append(
            Sentence("", [Word("do", "Make it a section", partial(add_section, document, screen))])
        )
    return said


def give_address(document: Document, name: str, text: str, take: Callable[[str], object]) -> None:
    """Take an address that was typed; one that cannot be is said, and nothing changes."""
    template = text.strip()
    fault = fault_of_template(template) if template else None
    if fault is not None:
        document.refuse(f"{name}: {template} cannot be its address: {fault}.")
        return
    take(template)


def _address_words(address: str, take: Callable[[str], None], screen: Screen | None) -> list[Word]:
    """The RFC 6570 template of a screen or a section, and what would be usual."""
    words = [Word("line", address, take, name="address, an RFC 6570 template")]
    if not address and screen is not None:
        key = opens_with(screen)
        usual = f"/{source_shown(screen)}" + (f"/{{{key.name}}}" if key is not None else "")
        words.append(Word("do", usual, partial(take, usual), name="the usual address"))
    words.append(Word("text", "such as /huts/{hut}; level 1 to 3 of RFC 6570"))
    return words


def add_section(document: Document, screen: Screen) -> None:
    """Make a section of a screen, new or there already, and show it."""
    app, section = edits.add_section(edits.with_screen(document.app, screen), screen)
    document.edit(f"add section {section.title}", app, SelectedSection(section.id))
    document.show_section(section.id)


def about_section(document: Document, section: Section) -> list[Sentence]:
    app = document.app

    def change(what: str, **changed: Any) -> None:
        made = edits.with_section(document.app, replace(section, **changed))
        document.edit(what, made, SelectedSection(section.id))

    def move(by: int) -> None:
        at = [each.id for each in document.app.sections].index(section.id)
        made = replace(document.app, sections=edits.moved(document.app.sections, at, by))
        document.edit(f"move section {section.title}", made, SelectedSection(section.id))

    def remove() -> None:
        made = edits.without_section(document.app, section.id)
        document.edit(f"remove section {section.title}", made, Selection())

    def start() -> None:
        document.edit("start section", replace(document.app, start=section.id))

    def readdress(text: str) -> None:
        give_address(document, section.title, text, lambda to: change("address", address=to))

    def fall_back() -> None:
        document.edit("fallback", replace(document.app, fallback=section.id))

    roots = [
        (screen_words(each), partial(change, f"root {each.id}", root=each.id))
        for each in app.screens
    ]
    root = by_id(app.screens, section.root)
    return [
        Sentence(
            "",
            [
                Word("subject", f"Section {section.title}"),
                Word("text", "starts with"),
                Word(
                    "menu",
                    screen_words(root) if root else section.root,
                    name="root screen",
                    options=roots,
                ),
                Word("do", "Remove", remove, name="remove this section"),
            ],
        ),
        Sentence(
            "Title",
            [
                Word(
                    "line",
                    section.title,
                    lambda text: change("name the section", title=text.strip()),
                    name="section title",
                ),
                Word("do", "Left", partial(move, -1), name="move the section left"),
                Word("do", "Right", partial(move, 1), name="move the section right"),
            ],
        ),
        Sentence(
            "Section bar",
            [
                Word(
                    "choice",
                    "in the bar",
                    partial(change, "section in the bar", in_bar=True),
                    section.in_bar,
                    "in the section bar",
                ),
                Word(
                    "choice",
                    "left out",
                    partial(change, "section left out", in_bar=False),
                    not section.in_bar,
                    "left out of the section bar",
                ),
                Word("text", "· the app"),
                Word(
                    "choice",
                    "starts here",
                    start,
                    app.start == section.id,
                    "the app starts in this section",
                ),
            ],
        ),
        Sentence(
            "Address",
            [
                *_address_words(section.address, readdress, None),
                Word(
                    "choice",
                    "addresses that lead nowhere come here",
                    fall_back,
                    (app.fallback or app.start) == section.id,
                    "the fallback for addresses",
                ),
            ],
        ),
        Sentence(
            "Coming back",
            [
                Word(
                    "choice",
                    "as it was left",
                    partial(change, "section as left", returns="as left"),
                    section.returns == "as left",
                ),
                Word(
                    "choice",
                    "at its root",
                    partial(change, "section at its root", returns="root"),
                    section.returns == "root",
                ),
            ],
        ),
    ]
