"""What the strip says of screens and sections."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any, Final

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import SelectedSection, Selection
from cadena.desktop.stages.link.about_parameters import parameter_matters
from cadena.desktop.stages.link.removing import remove_selected
from cadena.desktop.widgets.bound import Bound
from cadena.desktop.widgets.in_brief import brief
from cadena.desktop.widgets.words import Matter, Sentence, Word, calmly, one_line, screen_words
from cadena.model.address import fault_of_template
from cadena.model.app import DetailScreen, ListScreen, Screen, Section
from cadena.model.edits import wiring as edits
from cadena.model.screen_parts import opens_with, source_shown
from cadena.words.explained import LIFETIMES

NOWHERE: Final = "addresses that lead nowhere come here"
NAMED: Final = "name the section"


def about_screen(document: Document, screen: Screen) -> list[Sentence]:
    change = partial(_change_screen, document, screen)

    def move(by: int) -> None:
        order = [each.id for each in document.app.screens]
        screens = edits.moved(document.app.screens, order.index(screen.id), by)
        document.edit(f"move {screen.id}", replace(document.app, screens=screens))

    def retitle(text: str) -> None:
        change(f"title {screen.id}", title=text.strip())

    def readdress(text: str) -> None:
        give_address(document, screen.id, text, lambda to: change("address", address=to))

    kind = str(screen.__struct_config__.tag)
    bound = Bound(screen, change, document.refuse)
    remove = partial(remove_selected, document)
    first = [
        Word("subject", screen_words(screen)),
        Word("text", f"is a {kind} of {source_shown(screen)}"),
    ]
    title = Word("line", screen.title, retitle, name="title")
    matters = [
        *parameter_matters(document, screen),
        bound.matter(
            "title", screen.title and f"“{screen.title}”", lambda: [Sentence("", [title])]
        ),
        bound.matter(
            "address",
            screen.address,
            one_line(_address_words, screen.address, readdress, screen),
        ),
    ]
    if isinstance(screen, ListScreen):
        inside = partial(_nothing_chosen, bound)
        matters.append(bound.matter("nothing_chosen", screen.nothing_chosen, inside))
    if isinstance(screen, DetailScreen):
        matters += [
            bound.chosen("when_gone", "record gone: {}", "record gone, {}"),
            bound.on("neighbours"),
            bound.on("takes_ground"),
        ]
    matters.append(_lifetimes(bound))
    act = [
        Word("do", "Up", partial(move, -1), name="move the screen up"),
        Word("do", "Down", partial(move, 1), name="move the screen down"),
        Word("do", "Remove", remove, name="remove this screen", keys="Delete"),
    ]
    is_root = any(each.root == screen.id for each in document.app.sections)
    if not is_root and not any(each.need == "required" for each in screen.parameters):
        act.insert(0, Word("do", "Make it a section", partial(add_section, document, screen)))
    return calmly(first, matters, act=act)


def _lifetimes(bound: Bound) -> Matter:
    """How long what is scrolled, searched, turned to and typed on it lives: usually saved."""
    keep = bound.of.keep
    lives = {name: getattr(keep, name) for name in keep.__struct_fields__}
    other = {name: life for name, life in lives.items() if life != "saved"}
    return bound.matter("keep", brief(other) if other else "", partial(_each_lifetime, bound))


def _each_lifetime(bound: Bound) -> list[Sentence]:
    keep = bound.inner("keep")
    return [
        Sentence(name, [_life(keep, name, f"life of its {name}", f"life of {name}")])
        for name in keep.of.__struct_fields__
    ]


def _life(bound: Bound, field: str, name: str, what: str = "") -> Word:
    """How long something lives, each lifetime with what it means."""
    values = [(life, f"{life}: {about}") for life, about in LIFETIMES.items()]
    return bound.menu(field, values, name, getattr(bound.of, field), what)


def _change_screen(document: Document, screen: Screen, what: str, **changed: Any) -> None:
    document.edit(what, edits.with_screen(document.app, replace(screen, **changed)))


def _nothing_chosen(bound: Bound) -> list[Sentence]:
    wishes = bound.one_of("nothing_chosen", "nothing chosen: {}", "nothing chosen, {}")
    words = bound.text("nothing_chosen_words", "words where nothing is chosen")
    return [Sentence("", wishes), Sentence("It says", [words])]


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
    """A section: its root, its title, its place in the bar, its address, and coming back."""
    change = partial(_change_section, document, section)
    bound = Bound(section, change, document.refuse)
    app, move = document.app, partial(_move_section, document, section)
    roots = [(each.id, screen_words(each)) for each in app.screens]
    remove = partial(_remove_section, document, section)
    start = partial(_change_app, document, "start section", start=section.id)
    fall_back = partial(_change_app, document, "fallback", fallback=section.id)
    starts, falls = app.start == section.id, (app.fallback or app.start) == section.id

    def readdress(text: str) -> None:
        give_address(document, section.title, text, lambda to: change("address", address=to))

    first: list[Word] = [
        Word("subject", f"Section {section.title}"),
        Word("text", "starts with"),
        bound.menu("root", roots, "root screen", what="root {}"),
    ]
    matters = [
        bound.said("title", "section title", NAMED),
        bound.matter("icon", section.icon, one_line(_icon_words, document, section, change)),
        bound.chosen("in_bar", "section {}", "section {}"),
        bound.matter(
            "address", section.address, one_line(_address_words, section.address, readdress, None)
        ),
        bound.chosen("returns", "section {}"),
    ]
    lives = lambda: [Sentence("", [_life(bound, "keep", "how long its chain lives")])]  # noqa: E731
    matters.append(bound.matter("keep", "" if section.keep == "saved" else section.keep, lives))
    act = [
        Word("choice", "the app starts here", start, starts, "the app starts in this section"),
        Word("choice", NOWHERE, fall_back, falls, "the fallback for addresses"),
        Word("do", "Left", partial(move, -1), name="move the section left"),
        Word("do", "Right", partial(move, 1), name="move the section right"),
        Word("do", "Remove", remove, name="remove this section", keys="Delete"),
    ]
    return calmly(first, matters, act=act)


def _icon_words(document: Document, section: Section, change: Any) -> list[Word]:
    """The icon of a section: one of those that are offered, any of the set by name, or none."""
    from cadena.desktop.painting.icons import OFFERED, is_icon

    def named(text: str) -> None:
        name = text.strip().lower().replace(" ", "-")
        if name and not is_icon(name):
            document.refuse(f'there is no icon "{text}" in the set. It stays as it was.')
        else:
            change("icon", icon=name)

    options = [(name, partial(change, "icon", icon=name)) for name in OFFERED]
    return [
        Word("menu", section.icon or "none", name="icon of the section", options=options),
        Word("line", section.icon, named, name="name of the icon"),
        Word("text", "of Phosphor Icons; empty for none"),
    ]


def _change_section(document: Document, section: Section, what: str, **changed: Any) -> None:
    made = edits.with_section(document.app, replace(section, **changed))
    document.edit(what, made, SelectedSection(section.id))


def _change_app(document: Document, what: str, **changed: Any) -> None:
    document.edit(what, replace(document.app, **changed))


def _move_section(document: Document, section: Section, by: int) -> None:
    at = [each.id for each in document.app.sections].index(section.id)
    made = replace(document.app, sections=edits.moved(document.app.sections, at, by))
    document.edit(f"move section {section.title}", made, SelectedSection(section.id))


def _remove_section(document: Document, section: Section) -> None:
    made = edits.without_section(document.app, section.id)
    document.edit(f"remove section {section.title}", made, Selection())
