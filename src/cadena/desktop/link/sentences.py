"""What the strip says of each kind of selection: words, choices and things to do."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import Any, NamedTuple

from msgspec.structs import replace

from cadena.desktop.document import Document, Selection
from cadena.model import edits
from cadena.model.app import (
    App,
    Argument,
    FromArgument,
    FromField,
    FromPosition,
    FromRecord,
    FromValue,
    How,
    Link,
    ListScreen,
    Parameter,
    Screen,
    Section,
    Trigger,
    buttons,
)
from cadena.model.find import by_id
from cadena.scene.ribbons import worded

HOWS: tuple[tuple[How, str], ...] = (
    ("beside", "beside if room, else push"),
    ("push", "push"),
    ("replace", "replace"),
    ("modal", "modal"),
    ("popover", "popover"),
)


def nothing(*_: object) -> None:
    """What a word does that does nothing."""


class Word(NamedTuple):
    """One word of a sentence; ``kind`` says what control it becomes."""

    kind: str
    text: str
    does: Callable[..., object] = nothing
    chosen: bool | None = None
    name: str = ""
    options: Sequence[tuple[str, Callable[..., object]]] = ()


class Sentence(NamedTuple):
    about: str
    words: list[Word]


def of(document: Document) -> list[Sentence]:
    """The sentences of the document's selection."""
    selection, app = document.selection, document.app
    match selection.kind:
        case "link":
            link = by_id(app.links, selection.name)
            return [] if link is None else _link(document, link)
        case "trigger" if selection.trigger is not None:
            return _trigger(document, selection.trigger)
        case "screen":
            screen = by_id(app.screens, selection.name)
            return [] if screen is None else _screen(document, screen)
        case "findings":
            count = len(document.findings)
            said = (
                f"{count} open finding{'s' if count != 1 else ''}" if count else "Nothing is broken"
            )
            return [Sentence("", [Word("subject", said)])]
    section = by_id(
        app.sections, selection.name if selection.kind == "section" else document.section
    )
    return _nothing(document) if section is None else _section(document, section)


def trigger_words(app: App, trigger: Trigger) -> str:
    """A trigger in words: Huts · row; Hut · Ask the warden."""
    screen = by_id(app.screens, trigger.screen)
    what = "row" if not trigger.part else f"row of {trigger.part}"
    if trigger.on == "button":
        button = buttons(screen).get(trigger.part) if screen is not None else None
        what = button.label if button is not None else trigger.part
    return f"{screen_words(screen) if screen else trigger.screen} · {what}"


def screen_words(screen: Screen) -> str:
    """A screen in words: its title, or what it is called where that is a field."""
    return screen.title if screen.title and "{" not in screen.title else screen.id.capitalize()


def _link(document: Document, link: Link) -> list[Sentence]:
    app, edit = document.app, document.edit
    target = by_id(app.screens, link.to)

    def change(what: str, changed: Link) -> None:
        edit(
            what,
            edits.with_link(document.app, changed),
            Selection("link", changed.id, changed.trigger),
        )

    def relink(to: str) -> None:
        made, new = edits.link_to(document.app, document.types, link.trigger, to)
        edit(f"link {link.trigger.screen} to {to}", made, Selection("link", new.id, new.trigger))

    targets = [(screen_words(each), partial(relink, each.id)) for each in app.screens]
    first = [
        Word("subject", trigger_words(app, link.trigger)),
        Word("text", "opens"),
        Word(
            "menu",
            screen_words(target) if target else link.to,
            name="screen it opens",
            options=targets,
        ),
    ]
    if target is not None:
        first.append(
            Word(
                "do",
                "Go to it",
                partial(document.select, Selection("screen", target.id)),
                name="go to the screen",
            )
        )
    first.append(Word("do", "Remove", partial(remove_selected, document), name="remove this link"))
    said = [Sentence("", first)]
    carried = {each.parameter: each for each in link.arguments}
    words: list[Word] = []
    for parameter in target.parameters if target is not None else ():
        words += _argument(document, link, parameter, carried.get(parameter.name), change)
    said.append(Sentence("Carries", words or [Word("text", "nothing: it asks for nothing")]))
    hows = [
        Word(
            "choice",
            text,
            partial(change, f"open as {how}", replace(link, how=how)),
            link.how == how,
            f"opens as {how}",
        )
        for how, text in HOWS
    ]
    said.append(Sentence("Opens as", hows))
    said += _on_return(document, link)
    return said


def _on_return(document: Document, link: Link) -> list[Sentence]:
    """Whether the list that a row belongs to keeps that row in view."""
    screen = by_id(document.app.screens, link.trigger.screen)
    if not isinstance(screen, ListScreen) or link.trigger.on != "row":
        return []

    def keep(in_view: bool) -> None:
        rows = replace(screen.rows, keep_in_view=in_view)
        document.edit(
            "keep the row in view", edits.with_screen(document.app, replace(screen, rows=rows))
        )

    keeps = screen.rows.keep_in_view
    return [
        Sentence(
            "On return",
            [
                Word(
                    "choice",
                    "keep row in view",
                    partial(keep, True),
                    keeps,
                    "on return keep row in view",
                ),
                Word(
                    "choice",
                    "only where it was scrolled",
                    partial(keep, False),
                    not keeps,
                    "on return only scroll",
                ),
            ],
        )
    ]


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


def _trigger(document: Document, trigger: Trigger) -> list[Sentence]:
    app = document.app

    def link(to: str) -> None:
        made, new = edits.link_to(document.app, document.types, trigger, to)
        document.edit(f"link {trigger.screen} to {to}", made, Selection("link", new.id, trigger))

    def make() -> None:
        made, new = edits.make_target(document.app, document.types, trigger)
        document.edit(f"make {new.to}", made, Selection("link", new.id, trigger))

    options = [(screen_words(each), partial(link, each.id)) for each in app.screens]
    words = [
        Word("subject", trigger_words(app, trigger)),
        Word("text", "opens nothing yet."),
        Word("menu", "Open a screen", name="screen it opens", options=options),
    ]
    if edits.source_of(app, trigger) is not None:
        words.append(Word("do", "Make the screen it opens", make))
    hint = "Pull from its port to a screen, or into the open to make one. By key: L, then a name."
    return [Sentence("", words), Sentence("", [Word("text", hint)])]


def _screen(document: Document, screen: Screen) -> list[Sentence]:
    app = document.app

    def change(what: str, changed: Screen) -> None:
        document.edit(what, edits.with_screen(document.app, changed))

    def move(by: int) -> None:
        order = [each.id for each in document.app.screens]
        screens = edits.moved(document.app.screens, order.index(screen.id), by)
        document.edit(f"move {screen.id}", replace(document.app, screens=screens))

    def retitle(text: str) -> None:
        change(f"title {screen.id}", replace(screen, title=text.strip()))

    kind = "list" if isinstance(screen, ListScreen) else "detail"
    source = screen.rows.source if isinstance(screen, ListScreen) else screen.source
    parameters = ", ".join(f"{each.name} : {each.type}" for each in screen.parameters)
    takes = f"opened with {parameters}" if parameters else "opened with nothing"
    said = [
        Sentence(
            "",
            [
                Word("subject", screen_words(screen)),
                Word("text", f"is a {kind} of {source}, {takes}."),
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
    ]
    if isinstance(screen, ListScreen):
        wishes = ("say so", "open first", "open last")
        choices = [
            Word(
                "choice",
                each,
                partial(change, f"nothing chosen: {each}", replace(screen, nothing_chosen=each)),
                screen.nothing_chosen == each,
                f"nothing chosen, {each}",
            )
            for each in wishes
        ]
        said.append(Sentence("Nothing chosen", choices))
    else:
        fates = ("say so", "close", "next")
        choices = [
            Word(
                "choice",
                each,
                partial(change, f"record gone: {each}", replace(screen, when_gone=each)),
                screen.when_gone == each,
                f"record gone, {each}",
            )
            for each in fates
        ]
        said.append(Sentence("Record gone", choices))
    is_root = any(each.root == screen.id for each in app.sections)
    if not is_root and not any(each.need == "required" for each in screen.parameters):
        said.append(
            Sentence("", [Word("do", "Make it a section", partial(add_section, document, screen))])
        )
    return said


def add_section(document: Document, screen: Screen) -> None:
    """Make a section of a screen, and show it."""
    app, section = edits.add_section(document.app, screen)
    document.edit(f"add section {section.title}", app, Selection("section", section.id))
    document.show_section(section.id)


def _section(document: Document, section: Section) -> list[Sentence]:
    app = document.app

    def change(what: str, **changed: Any) -> None:
        made = edits.with_section(document.app, replace(section, **changed))
        document.edit(what, made, Selection("section", section.id))

    def move(by: int) -> None:
        at = [each.id for each in document.app.sections].index(section.id)
        made = replace(document.app, sections=edits.moved(document.app.sections, at, by))
        document.edit(f"move section {section.title}", made, Selection("section", section.id))

    def remove() -> None:
        made = edits.without_section(document.app, section.id)
        document.edit(f"remove section {section.title}", made, Selection())

    def start() -> None:
        document.edit("start section", replace(document.app, start=section.id))

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


def _nothing(document: Document) -> list[Sentence]:
    if not document.app.sections:
        hint = "Add records (Ctrl+K, add records): a list of them is made, in a section of its own."
        return [
            Sentence("", [Word("subject", "Nothing is wired yet")]),
            Sentence("", [Word("text", hint)]),
        ]
    return [Sentence("", [Word("text", "Select a card, a row, a button or a ribbon.")])]


def remove_selected(document: Document) -> None:
    """Remove the link or the screen that is selected."""
    selection, app = document.selection, document.app
    if selection.kind == "link":
        link = by_id(app.links, selection.name)
        trigger = link.trigger if link is not None else None
        document.edit(
            f"remove link {selection.name}",
            edits.without_link(app, selection.name),
            Selection("trigger", trigger=trigger),
        )
    elif selection.kind == "screen":
        document.edit(
            f"remove screen {selection.name}",
            edits.without_screen(app, selection.name),
            Selection(),
        )
