"""What the strip says of links and of triggers that have none."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import SelectedLink, SelectedScreen, SelectedTrigger
from cadena.desktop.stages.link.about_transitions import about_transition
from cadena.desktop.stages.link.removing import remove_selected
from cadena.desktop.stages.list_settings import in_view_words
from cadena.desktop.widgets.bound import Bound
from cadena.desktop.widgets.words import Sentence, Word, screen_words, trigger_words
from cadena.model.app import (
    AppValue,
    Argument,
    FromArgument,
    FromField,
    FromPosition,
    FromRecord,
    FromValue,
    How,
    IfOpen,
    Link,
    Parameter,
    Screen,
    Trigger,
)
from cadena.model.edits import wiring as edits
from cadena.model.edits.shaping import with_row_action
from cadena.model.find import by_id
from cadena.model.screen_parts import listings
from cadena.scene.board.ribbons import worded

HOWS: tuple[tuple[How, str], ...] = (
    ("beside", "beside if room, else push"),
    ("push", "push"),
    ("replace", "replace"),
    ("modal", "modal"),
    ("popover", "popover"),
)


IF_OPEN: tuple[tuple[IfOpen, str], ...] = (
    ("open again", "open it again"),
    ("go back to it", "go back to it"),
)


def about_link(document: Document, link: Link) -> list[Sentence]:
    """A link: what it opens, carrying what, how, and what is kept of it."""
    target = by_id(document.app.screens, link.to)

    def change(what: str, changed: Link) -> None:
        document.edit(what, edits.with_link(document.app, changed), SelectedLink(changed.id))

    def set_field(what: str, **changed: Any) -> None:
        change(what, replace(link, **changed))

    carried = {each.parameter: each for each in link.arguments}
    words: list[Word] = []
    for parameter in target.parameters if target is not None else ():
        words += _argument(document, link, parameter, carried.get(parameter.name), change)
    hows = Bound(link, set_field, document.refuse).one_of(
        "how", HOWS, "open as {value}", "opens as {value}"
    )
    return [
        Sentence("", _opens_words(document, link, target)),
        Sentence("Carries", words or [Word("text", "nothing: it asks for nothing")]),
        Sentence("Opens as", hows),
        Sentence("If it is open", _if_open(link, set_field, document)),
        *_kept_values(document, link, change),
        *about_transition(document, link),
        *_on_return(document, link),
        *about_row_actions(document, link.trigger),
    ]


def _if_open(link: Link, set_field: Callable[..., None], document: Document) -> list[Word]:
    """What becomes of it where its screen lies below already, for the same."""
    words = Bound(link, set_field, document.refuse).one_of(
        "if_open", IF_OPEN, "where it is open, {value}", "where it is open, {value}"
    )
    return [Word("text", "already, for the same:"), *words]


def about_row_actions(document: Document, trigger: Trigger) -> list[Sentence]:
    """One more action on the rows that a trigger is of: made here, and linked from here."""
    if trigger.on != "row":
        return []

    def add(label: str) -> None:
        if not label.strip():
            return
        app, name = with_row_action(document.app, trigger.screen, trigger.part, label.strip())
        made = Trigger(screen=trigger.screen, on="action", part=name)
        document.edit(f"add action {name}", app, SelectedTrigger(made))

    words = [
        Word("text", "another thing to do with a row:"),
        Word("line", "", add, name="a new row action"),
        Word("text", "such as Edit; then L, or pull from it"),
    ]
    return [Sentence("Row action", words)]


def _opens_words(document: Document, link: Link, target: Screen | None) -> list[Word]:
    def relink(to: str) -> None:
        made, new = edits.link_to(document.app, document.types, link.trigger, to)
        document.edit(f"link {link.trigger.screen} to {to}", made, SelectedLink(new.id))

    targets = [(screen_words(each), partial(relink, each.id)) for each in document.app.screens]
    opens = screen_words(target) if target else link.to
    words = [
        Word("subject", trigger_words(document.app, link.trigger)),
        Word("text", "opens"),
        Word("menu", opens, name="screen it opens", options=targets),
    ]
    if target is not None:
        go = partial(document.select, SelectedScreen(target.id))
        words.append(Word("do", "Go to it", go, name="go to the screen"))
    remove = partial(remove_selected, document)
    return [*words, Word("do", "Remove", remove, name="remove this link", keys="Delete")]


def _kept_values(
    document: Document, link: Link, change: Callable[[str, Link], None]
) -> list[Sentence]:
    """The arguments that are also kept as app-wide values, for other sections to share."""
    target = by_id(document.app.screens, link.to)
    if target is None or not target.parameters:
        return []
    words = []
    for name, parameter in link.sets.items():
        rest = {each: of for each, of in link.sets.items() if each != name}
        words.append(Word("text", f"{parameter} as app-wide {name}"))
        without = partial(change, f"keep no {name}", replace(link, sets=rest))
        words.append(Word("do", "✕", without, name=f"keep no {name}"))

    def keep(parameter: Parameter, value: str) -> None:
        app = document.app
        if by_id(app.values, value) is None:
            app = replace(app, values=(*app.values, AppValue(id=value, type=parameter.type)))
        made = replace(link, sets={**link.sets, value: parameter.name})
        document.edit(f"keep {value}", edits.with_link(app, made), document.selection)

    options = [
        (f"{parameter.name} as {value}", partial(keep, parameter, value))
        for parameter in target.parameters
        for value in dict.fromkeys(
            [
                *(each.id for each in document.app.values if each.type == parameter.type),
                f"current-{parameter.name}",
            ]
        )
        if value not in link.sets
    ]
    words.append(Word("menu", "+ share with all sections", name="keep a value", options=options))
    return [Sentence("Keeps", words)]


def _on_return(document: Document, link: Link) -> list[Sentence]:
    """Whether the list that a row belongs to keeps that row in view."""
    screen, part = by_id(document.app.screens, link.trigger.screen), link.trigger.part
    if screen is None or link.trigger.on != "row" or part not in listings(screen):
        return []
    words = [Word("text", "the row is"), *in_view_words(document, screen, part)]
    return [Sentence("On return", words)]


def _argument(
    document: Document,
    link: Link,
    parameter: Parameter,
    argument: Argument | None,
    change: Callable[[str, Link], None],
) -> list[Word]:
    """``huts.id → hut : text``, or that nothing is carried to it."""
    name = parameter.name
    options = [
        (text, partial(change, f"carry {text}", edits.with_argument(link, each)))
        for text, each in possible(document, link, parameter)
    ]
    menu = Word(
        "menu",
        worded(argument) if argument else "choose",
        name=f"what {name} carries",
        options=options,
    )
    is_open = argument is None and parameter.need == "required"
    target = Word(
        "broken" if is_open else "text",
        f"→ {name} : {parameter.type}" + (" · open" if is_open else ""),
    )
    words = [menu, target]
    if argument is not None:
        without = partial(change, f"carry no {name}", edits.without_argument(link, name))
        words.append(Word("do", "✕", without, name=f"carry nothing to {name}"))
    return words


def possible(document: Document, link: Link, parameter: Parameter) -> list[tuple[str, Argument]]:
    """Everything that could be carried to a parameter, in words, best first."""
    app, name = document.app, parameter.name
    source = edits.source_of(app, link.trigger)
    screen = by_id(app.screens, link.trigger.screen)
    found: list[tuple[str, Argument]] = []
    for each in document.types.get(source.id, {}) if source is not None else ():
        found.append(
            (f"{source.id if source else ''}.{each}", FromField(parameter=name, field=each))
        )
    for given in screen.parameters if screen is not None else ():
        found.append((f"argument {given.name}", FromArgument(parameter=name, argument=given.name)))
    for value in app.values:
        found.append((f"app-wide {value.id}", FromValue(parameter=name, value=value.id)))
    if link.trigger.on == "row":
        found.append(("the row's position", FromPosition(parameter=name)))
        found.append(("the whole record", FromRecord(parameter=name)))
    best = edits.sensible(app, document.types, link.trigger, parameter)
    return sorted(found, key=lambda each: each[1] != best)


def about_trigger(document: Document, trigger: Trigger) -> list[Sentence]:
    app = document.app

    def link(to: str) -> None:
        made, new = edits.link_to(document.app, document.types, trigger, to)
        document.edit(f"link {trigger.screen} to {to}", made, SelectedLink(new.id))

    def make() -> None:
        made, new = edits.make_target(document.app, document.types, trigger)
        document.edit(f"make {new.to}", made, SelectedLink(new.id))

    options = [(screen_words(each), partial(link, each.id)) for each in app.screens]
    words = [
        Word("subject", trigger_words(app, trigger)),
        Word("text", "opens nothing yet."),
        Word("menu", "Open a screen", name="screen it opens", options=options),
    ]
    if edits.source_of(app, trigger) is not None:
        words.append(Word("do", "Make the screen it opens", make))
    hint = "Pull from its port to a screen, or into the open to make one. By key: L, then a name."
    said = [Sentence("", words), Sentence("", [Word("text", hint)])]
    return [*said, *about_row_actions(document, trigger)]
