"""Changes to an app, each a plain function from one app to the next."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, Final, TypeVar

from msgspec.structs import replace

from cadena.model.app import (
    App,
    Argument,
    Arrangement,
    Brings,
    DetailScreen,
    FormScreen,
    FromArgument,
    FromField,
    How,
    Link,
    ListScreen,
    PaneWidth,
    Parameter,
    Platform,
    Range,
    RowKind,
    Screen,
    Section,
    Trigger,
    When,
)
from cadena.model.blocks import BodyBlock, FactsBlock, HeadingBlock
from cadena.model.find import by_id, exchanged, slug, unused
from cadena.model.listing import Listing, Row
from cadena.model.naming import fields_of_label, in_braces, label_field, singular
from cadena.model.screen_parts import actions, listings
from cadena.model.source import Source, refers_of
from cadena.model.values import FieldType, fits

Types = Mapping[str, Mapping[str, FieldType]]
"""The type of each field, by source: what is declared, or found in the records."""

NARROW: Final = 280
"""The width in dp below which sections are behind a button."""
WIDE: Final = 640
LONG: Final = ("about", "note", "notes", "description", "body", "text")
Each = TypeVar("Each")


def new_app(name: str) -> App:
    """An app with nothing in it yet but what most windows are given: one pane, or two; what back
    took away can be gone forward to."""
    return App(
        name=name,
        platform=Platform(forward=True),
        arrangements=(
            Arrangement(
                id="wrist",
                title="on the wrist",
                when=When(width=Range(below=NARROW)),
                bar="button",
            ),
            Arrangement(id="one", title="one at a time", when=When(width=Range(below=WIDE))),
            Arrangement(
                id="two",
                title="list beside detail",
                panes=2,
                widths=(PaneWidth(fixed=340, least=240, most=560), PaneWidth(least=280)),
                dividers="the person's",
            ),
        ),
    )


def with_screen(app: App, screen: Screen) -> App:
    """The app with the screen of that identifier exchanged, or added at the end."""
    return replace(app, screens=exchanged(app.screens, screen))


def with_link(app: App, link: Link) -> App:
    """The app with a link; another from the same trigger and for the same rows, or of its name,
    gives way to it."""
    was = by_id(app.links, link.id)
    if was is not None and was.trigger == link.trigger:
        return replace(app, links=exchanged(app.links, link))
    others = [
        each
        for each in app.links
        if each.id == link.id or (each.trigger, each.when) == (link.trigger, link.when)
    ]
    if not others:
        return replace(app, links=(*app.links, link))
    first = others[0]
    links = tuple(
        link if each is first else each for each in app.links if each is first or each not in others
    )
    return replace(app, links=links)


def without_link(app: App, link: str) -> App:
    """The app without a link."""
    return replace(app, links=tuple(each for each in app.links if each.id != link))


def source_of(app: App, trigger: Trigger) -> Source | None:
    """The source whose record a trigger is about: its row's, or that of its screen."""
    screen = by_id(app.screens, trigger.screen)
    if screen is None:
        return None
    if trigger.on == "action":
        found = actions(screen).get(trigger.part)
        return None if found is None else by_id(app.sources, listings(screen)[found[0]].source)
    if trigger.on == "row":
        listing = listings(screen).get(trigger.part)
        return None if listing is None else by_id(app.sources, listing.source)
    return None if isinstance(screen, ListScreen) else by_id(app.sources, screen.source)


def sensible(app: App, types: Types, trigger: Trigger, parameter: Parameter) -> Argument | None:
    """What fills a parameter where there is one sensible choice, or none.

    A key of the row's own source is the row's key; a key of another source, or a parameter
    of the name of a field, is that field; otherwise what the screen that links was given.
    """
    name = parameter.name
    screen = by_id(app.screens, trigger.screen)
    source = source_of(app, trigger)
    given = screen.parameters if screen is not None else ()
    if trigger.on == "fact":
        return _key_held(source, trigger.part, parameter)
    if trigger.on != "button" and source is not None:
        fields = types.get(source.id, {})
        if parameter.key_of == source.id:
            return FromField(parameter=name, field=source.key)
        if name in fields and fits(fields[name], parameter.type):
            return FromField(parameter=name, field=name)
    same = [each for each in given if parameter.key_of and each.key_of == parameter.key_of]
    same = same or [each for each in given if each.name == name]
    if len(same) == 1 and fits(same[0].type, parameter.type):
        return FromArgument(parameter=name, argument=same[0].name)
    if trigger.on == "button" and source is not None and parameter.key_of != source.id:
        fields = types.get(source.id, {})
        if name in fields and fits(fields[name], parameter.type):
            return FromField(parameter=name, field=name)
    return None


def _key_held(source: Source | None, field: str, parameter: Parameter) -> Argument | None:
    """The key that a fact holds, where the parameter takes just such a one (13)."""
    refers = None if source is None else refers_of(source, field)
    if refers is None or refers.to != parameter.key_of or refers.by:
        return None
    return FromField(parameter=parameter.name, field=field)


def link_to(
    app: App, types: Types, trigger: Trigger, to: str, when: RowKind | None = None
) -> tuple[App, Link]:
    """Link a trigger to a screen; arguments with one sensible choice fill themselves.

    Args:
        when: for which rows; a link from there for the same ones gives way.
    """
    target = by_id(app.screens, to)
    there = [each for each in app.links if each.trigger == trigger]
    old = next((each for each in there if each.when == when), None)
    parameters = target.parameters if target is not None else ()
    arguments = tuple(
        argument
        for parameter in parameters
        if (argument := sensible(app, types, trigger, parameter)) is not None
    )
    taken = [each.id for each in app.links if each is not old]
    name = unused(f"{trigger.screen}-to-{to}", taken)
    like = old if old is not None else next(iter(there), None)
    how: How = like.how if like is not None else _usual_how(app, trigger)
    brings = old.brings if old is not None else None
    if trigger.on == "field":
        app = with_field_opening(app, trigger)
        brings = (brings or Brings()) if isinstance(target, ListScreen) else None
    link = Link(
        id=name, trigger=trigger, to=to, how=how, arguments=arguments, brings=brings, when=when
    )
    if old is not None:
        app = replace(app, links=tuple(link if each is old else each for each in app.links))
        return app, link
    return with_link(app, link), link


def with_field_opening(app: App, trigger: Trigger) -> App:
    """The app with a field of a form said to open what its link opens (15)."""
    form = by_id(app.screens, trigger.screen)
    if not isinstance(form, FormScreen):
        return app
    fields = tuple(
        replace(field, opens=True) if field.field == trigger.part else field
        for field in form.fields
    )
    return app if fields == form.fields else with_screen(app, replace(form, fields=fields))


def _usual_how(app: App, trigger: Trigger) -> How:
    """The rows of a list open beside it, all else is pushed."""
    screen = by_id(app.screens, trigger.screen)
    return "beside" if isinstance(screen, ListScreen) and trigger.on == "row" else "push"


def make_target(app: App, types: Types, trigger: Trigger, title: str = "") -> tuple[App, Link]:
    """Make the screen that a trigger should open, with its parameter and its title, and link it.

    Args:
        title: what to call it; without one, after what its records are.

    Raises:
        ValueError: when the trigger is about no source, so there is nothing to open.
    """
    source = source_of(app, trigger)
    if source is None:
        raise ValueError(f"{trigger.screen} has no records to open a screen for")
    screen = detail_of(app, types, source, title)
    return link_to(with_screen(app, screen), types, trigger, screen.id)


def detail_of(
    app: App,
    types: Types,
    source: Source,
    title: str = "",
    long: frozenset[str] = frozenset(),
    empty: frozenset[str] = frozenset(),
) -> DetailScreen:
    """A new detail of a source: heading, facts and bodies of all its fields.

    Args:
        long: fields whose text is too long for a fact.
        empty: fields that are not filled in any record, and are not shown.
    """
    fields = types.get(source.id, {})
    name = unused(slug(title or singular(source.id)), [each.id for each in app.screens])
    parameter = Parameter(
        name=slug(singular(source.id)).replace("-", "_"),
        type=key_type(fields.get(source.key, "text")),
        key_of=source.id,
    )
    label = label_field(source, fields)
    # What stands as the heading is not said again.
    shown = [
        each
        for each, kind in fields.items()
        if each not in (*fields_of_label(label), source.key, *empty) and kind != "picture"
    ]
    facts = tuple(each for each in shown if each not in LONG and each not in long)
    blocks: list[Any] = [HeadingBlock(id="heading", text=in_braces(label))]
    if facts:
        blocks.append(FactsBlock(id="facts", fields=facts))
    for each in shown:
        if each not in facts:
            name_of_block = unused(each, [block.id for block in blocks])
            blocks.append(BodyBlock(id=name_of_block, field=each))
    return DetailScreen(
        id=name,
        title=in_braces(label),
        source=source.id,
        key=parameter.name,
        parameters=(parameter,),
        blocks=tuple(blocks),
    )


def list_of(app: App, types: Types, source: Source, title: str = "") -> ListScreen:
    """A new list of a source: its label on the row, and words for when it is empty."""
    fields = types.get(source.id, {})
    label = label_field(source, fields)
    name = unused(slug(title or source.id), [each.id for each in app.screens])
    said = title or source.title or source.id.capitalize()
    rows = Listing(
        source=source.id,
        search=fields_of_label(label),
        row=Row(title=in_braces(label)),
        empty=f"No {said.lower()} yet.",
    )
    return ListScreen(id=name, title=said, rows=rows)


def key_type(kind: FieldType) -> Any:
    """The type of a parameter that carries the key of records."""
    return "text" if kind == "picture" else kind


def with_argument(link: Link, argument: Argument) -> Link:
    """The link with a parameter filled by this argument, in place of another."""
    others = tuple(each for each in link.arguments if each.parameter != argument.parameter)
    return replace(link, arguments=(*others, argument))


def without_argument(link: Link, parameter: str) -> Link:
    """The link without what it carries to a parameter."""
    kept = tuple(each for each in link.arguments if each.parameter != parameter)
    return replace(link, arguments=kept)


def without_screen(app: App, screen: str) -> App:
    """The app without a screen, the links to and from it, and the sections it is the root of."""
    return replace(
        app,
        screens=tuple(each for each in app.screens if each.id != screen),
        links=tuple(each for each in app.links if screen not in (each.to, each.trigger.screen)),
        sections=tuple(each for each in app.sections if each.root != screen),
    )


def add_section(app: App, root: Screen, title: str = "") -> tuple[App, Section]:
    """The app with one more section, whose root is this screen."""
    title = title or (root.title if "{" not in root.title else root.id.capitalize())
    name = unused(slug(title), [each.id for each in app.sections])
    section = Section(id=name, title=title, root=root.id)
    start = app.start or name
    return replace(app, sections=(*app.sections, section), start=start), section


def with_section(app: App, section: Section) -> App:
    """The app with the section of that identifier exchanged."""
    sections = tuple(section if each.id == section.id else each for each in app.sections)
    return replace(app, sections=sections)


def without_section(app: App, section: str) -> App:
    """The app without a section; its screens stay. Another becomes the start, if it was."""
    sections = tuple(each for each in app.sections if each.id != section)
    start = app.start if app.start != section else next((each.id for each in sections), "")
    return replace(app, sections=sections, start=start)


def moved(things: Sequence[Each], at: int, by: int) -> tuple[Each, ...]:
    """The same things with one moved by so many places, as far as there are places."""
    made = list(things)
    made.insert(max(0, min(len(made) - 1, at + by)), made.pop(at))
    return tuple(made)
