"""What the strip says of links and of triggers that have none."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from msgspec.structs import replace

from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import SelectedLink, SelectedScreen, SelectedTrigger
from cadena.desktop.stages.link.about_brought import brought_matter
from cadena.desktop.stages.link.about_kinds import kind_matters
from cadena.desktop.stages.link.about_parameters import in_short
from cadena.desktop.stages.link.about_transitions import transition_matter
from cadena.desktop.stages.link.removing import remove_selected
from cadena.desktop.stages.list_settings import in_view_words
from cadena.desktop.widgets.bound import Bound, matter_of
from cadena.desktop.widgets.words import (
    NOTHING,
    Matter,
    Sentence,
    Word,
    calmly,
    explained,
    one_line,
    screen_words,
    trigger_words,
)
from cadena.model.app import (
    AppValue,
    Argument,
    FromArgument,
    FromConstant,
    FromField,
    FromPosition,
    FromRecord,
    FromValue,
    Link,
    Parameter,
    Screen,
    Trigger,
)
from cadena.model.edits import wiring as edits
from cadena.model.edits.shaping import with_row_action
from cadena.model.edits.targets import kinds_for, target_made
from cadena.model.find import by_id
from cadena.model.properties import value_words
from cadena.model.screen_parts import listings
from cadena.model.values import Unfit, carry, shown
from cadena.scene.board.ribbons import worded
from cadena.words.explained import HOWS


def about_link(document: Document, link: Link) -> list[Sentence]:
    """A link: what it opens, carrying what, how, and what is kept of it."""
    target = by_id(document.app.screens, link.to)

    def change(what: str, changed: Link) -> None:
        document.edit(what, edits.with_link(document.app, changed), SelectedLink(changed.id))

    def set_field(what: str, **changed: Any) -> None:
        change(what, replace(link, **changed))

    carried = {each.parameter: each for each in link.arguments}
    words = _opens_words(document, link, target)
    wanted = Bound(link, set_field, document.refuse)
    matters = [wanted.matter("how", HOWS[link.how][0], partial(_hows, link, wanted))]
    matters += kind_matters(document, link, change)
    for parameter in target.parameters if target is not None else ():
        argument = carried.get(parameter.name)
        matters.append(_carried(document, link, parameter, argument, change))
    matters.append(brought_matter(document, link, target, change))
    matters.append(_kept_values(document, link, change))
    where = "where it is open, {value}"
    matters += [
        wanted.chosen("if_open", where, where, usual="open again"),
        transition_matter(document, link),
        wanted.chosen("comes", "it comes {}", "comes {}", usual="at once"),
        *_on_return(document, link),
        *row_action_matters(document, link.trigger),
    ]
    open_ones = [
        Word("broken", f"✕ {parameter.name} : {parameter.type} is open")
        for parameter in (target.parameters if target is not None else ())
        if parameter.name not in carried and parameter.need == "required"
    ]
    remove = partial(remove_selected, document)
    act: list[Word] = []
    if target is not None:
        go = partial(document.select, SelectedScreen(target.id))
        act.append(Word("do", "Go to it", go, name="go to the screen"))
    act.append(Word("do", "Remove", remove, name="remove this link", keys="Delete"))
    return calmly(words, matters, act=[*open_ones, *act])


def _hows(link: Link, wanted: Bound) -> list[Sentence]:
    """The five ways to open, each with what it does, and the one that is chosen at work."""
    from cadena.desktop.widgets.examples import way_to_open

    options = [(how, said) for how, (said, _) in HOWS.items()]
    pills = wanted.one_of("how", "open as {value}", "opens as {value}", options)
    example = Word("widget", "", partial(way_to_open, link.how), name=f"example of {link.how}")
    return explained(pills, (about for _, about in HOWS.values()), example)


def row_action_matters(document: Document, trigger: Trigger) -> list[Matter]:
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
        Word("line", "", add, name="a new row action"),
        Word("text", "such as Edit; then L, or pull from it"),
    ]
    return [
        Matter(
            "", "", "another thing to do with a row", lambda: [Sentence("", words)], "row action"
        )
    ]


def _opens_words(document: Document, link: Link, target: Screen | None) -> list[Word]:
    def relink(to: str) -> None:
        made, new = edits.link_to(document.app, document.types, link.trigger, to, link.when)
        document.edit(f"link {link.trigger.screen} to {to}", made, SelectedLink(new.id))

    targets = [(screen_words(each), partial(relink, each.id)) for each in document.app.screens]
    opens = screen_words(target) if target else link.to
    return [
        Word("subject", trigger_words(document.app, link.trigger)),
        Word("text", "opens"),
        Word("menu", opens, name="screen it opens", options=targets),
    ]


def _kept_values(document: Document, link: Link, change: Callable[[str, Link], None]) -> Matter:
    """The arguments that are also kept as app-wide values, for other sections to share."""
    target = by_id(document.app.screens, link.to)
    if target is None or not target.parameters:
        return NOTHING
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
    now = ", ".join(f"{parameter} as {name}" for name, parameter in link.sets.items())
    inside = lambda: [Sentence("", words)]  # noqa: E731
    return matter_of(Link, "sets", now, inside)


def _on_return(document: Document, link: Link) -> list[Matter]:
    """Whether the list that a row belongs to keeps that row in view."""
    screen, part = by_id(document.app.screens, link.trigger.screen), link.trigger.part
    if screen is None or link.trigger.on != "row" or part not in listings(screen):
        return []
    now = value_words(listings(screen)[part], "keep_in_view")
    inside = one_line(in_view_words, document, screen, part)
    return [Matter("on return the row is", now, "the row on return", inside)]


def _carried(
    document: Document,
    link: Link,
    parameter: Parameter,
    argument: Argument | None,
    change: Callable[[str, Link], None],
) -> Matter:
    """``huts.id → hut``, or that nothing is carried to it."""
    name = parameter.name
    options = [
        (text, partial(change, f"carry {text}", edits.with_argument(link, each)))
        for text, each in possible(document, link, parameter)
    ]
    now = worded(argument) if argument else ""
    words = [
        Word("menu", now or "choose", name=f"what {name} carries", options=options),
        Word("text", f"→ {name} : {in_short(parameter).partition(' : ')[2]}"),
    ]
    if argument is not None:
        drop = partial(change, f"carry no {name}", edits.without_argument(link, name))
        words.append(Word("do", "Nothing", drop, name=f"carry nothing to {name}"))
    said = f"{now} → {name}" if now else ""
    lines = [Sentence("", words), _constant(document, link, parameter, argument, change)]
    if argument is not None:
        lines.append(_converted(link, parameter, argument, change))
    return Matter("carrying", said, f"what fills {name}", lambda: lines, f"fill {name}")


def _constant(
    document: Document,
    link: Link,
    parameter: Parameter,
    argument: Argument | None,
    change: Callable[[str, Link], None],
) -> Sentence:
    """The same for every record: a value of the parameter's type, typed."""
    name = parameter.name

    def take(text: str) -> None:
        try:
            value = carry(text, parameter.type, convert=True)
        except Unfit as unfit:
            document.refuse(f"{name}: {unfit}. It stays as it was.")
            return
        made = FromConstant(parameter=name, constant=value)
        change(f"carry {shown(value)}", edits.with_argument(link, made))

    now = shown(argument.constant) if isinstance(argument, FromConstant) else ""
    line = Word("line", now, take, name=f"constant for {name}")
    return Sentence("or always", [line])


def _converted(
    link: Link, parameter: Parameter, argument: Argument, change: Callable[[str, Link], None]
) -> Sentence:
    """Whether what is carried is made the parameter's type where it is of another."""
    made = replace(argument, convert=not argument.convert)
    does = partial(change, "conversion", edits.with_argument(link, made))
    said = f"as {parameter.type}, where it is of another type"
    toggle = Word("toggle", "converted", does, argument.convert, f"{parameter.name} is converted")
    return Sentence("", [toggle, Word("text", said)])


def possible(document: Document, link: Link, parameter: Parameter) -> list[tuple[str, Argument]]:
    """Everything that could be carried to a parameter, in words, best first."""
    app, name = document.app, parameter.name
    source = edits.source_of(app, link.trigger)
    screen = by_id(app.screens, link.trigger.screen)
    found: list[tuple[str, Argument]] = []
    for field in document.types.get(source.id, {}) if source is not None else ():
        found.append(
            (f"{source.id if source else ''}.{field}", FromField(parameter=name, field=field))
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
        made, new = target_made(document.app, document.types, trigger)
        document.edit(f"make {new.to}", made, SelectedLink(new.id))

    options = [(screen_words(each), partial(link, each.id)) for each in app.screens]
    words = [
        Word("subject", trigger_words(app, trigger)),
        Word("text", "opens nothing yet."),
        Word("menu", "Open a screen", name="screen it opens", options=options),
    ]
    if edits.source_of(app, trigger) is not None:
        kind = kinds_for(app, trigger)[0]
        words.append(Word("do", f"Make the {kind} it opens", make, name="make the screen it opens"))
    hint = "Pull from its port to a screen, or into the open to make one. By key: L, then a name."
    return calmly(words, row_action_matters(document, trigger), Sentence("", [Word("text", hint)]))
