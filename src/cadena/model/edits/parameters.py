"""What a screen takes: its parameters declared, called otherwise, and taken away."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any, Final

from msgspec.structs import replace

from cadena.model.address import renamed_in
from cadena.model.app import (
    App,
    DetailScreen,
    FormScreen,
    FromArgument,
    Link,
    ListScreen,
    Parameter,
    Screen,
)
from cadena.model.blocks import ListBlock
from cadena.model.edits.wiring import with_screen
from cadena.model.find import by_id
from cadena.model.listing import Condition, Listing

NAME: Final = re.compile(r"[A-Za-z_][A-Za-z0-9_]*")
"""A variable name of RFC 6570, and of most languages that an app is written in."""
Renamed = Callable[[str], str]


def fault_of_name(screen: Screen, name: str, old: str = "") -> str | None:
    """Why a parameter of a screen cannot be called so, or none where it can."""
    if not NAME.fullmatch(name):
        return f'"{name}" is no name: letters, digits and _ are, not beginning with a digit'
    if name != old and any(each.name == name for each in screen.parameters):
        return f"{screen.id} has a parameter {name} already"
    return None


def with_parameter(app: App, name: str, parameter: Parameter, old: str = "") -> App:
    """The app with a parameter of a screen declared so; ``old`` is what it was called."""
    screen = by_id(app.screens, name)
    if screen is None:
        return app
    old = old or parameter.name
    if old != parameter.name:
        app = _with_parameter_renamed(app, screen, old, parameter.name)
        screen = by_id(app.screens, name) or screen
    parameters = tuple(
        parameter if each.name == parameter.name else each for each in screen.parameters
    )
    if parameter not in parameters:
        parameters = (*parameters, parameter)
    return with_screen(app, replace(screen, parameters=parameters))


def without_parameter(app: App, name: str, parameter: str) -> App:
    """The app without a parameter of a screen, and without all that filled or used it."""
    screen = by_id(app.screens, name)
    if screen is None:
        return app

    def kept(where: tuple[Condition, ...]) -> tuple[Condition, ...]:
        return tuple(each for each in where if each.argument != parameter)

    made = _with_conditions(screen, kept)
    made = replace(made, parameters=tuple(e for e in made.parameters if e.name != parameter))
    if isinstance(made, FormScreen):
        fields = tuple(
            replace(field, argument="") if field.argument == parameter else field
            for field in made.fields
        )
        made = replace(made, fields=fields)
    return replace(
        with_screen(app, made), links=tuple(_unfilled(each, name, parameter) for each in app.links)
    )


def _unfilled(link: Link, screen: str, parameter: str) -> Link:
    arguments = link.arguments
    sets = link.sets
    if link.to == screen:
        arguments = tuple(each for each in arguments if each.parameter != parameter)
        sets = {value: name for value, name in sets.items() if name != parameter}
    if link.trigger.screen == screen:
        arguments = tuple(
            argument
            for argument in arguments
            if not (isinstance(argument, FromArgument) and argument.argument == parameter)
        )
    return replace(link, arguments=arguments, sets=sets)


def _with_parameter_renamed(app: App, screen: Screen, old: str, new: str) -> App:
    """The app with a parameter of a screen called otherwise, wherever it is named."""

    def renamed(name: str) -> str:
        return new if name == old else name

    def conditions(where: tuple[Condition, ...]) -> tuple[Condition, ...]:
        return tuple(replace(each, argument=renamed(each.argument)) for each in where)

    parameters = tuple(replace(each, name=renamed(each.name)) for each in screen.parameters)
    made = replace(
        _with_conditions(screen, conditions),
        parameters=parameters,
        address=renamed_in(screen.address, renamed),
    )
    if isinstance(made, DetailScreen | FormScreen):
        made = replace(made, key=renamed(made.key))
    if isinstance(made, FormScreen):
        fields = tuple(replace(each, argument=renamed(each.argument)) for each in made.fields)
        made = replace(made, fields=fields)
    app = with_screen(app, made)
    others = {each.name for one in app.screens for each in one.parameters}
    claims = app.claims
    if old not in others:
        claims = tuple(
            replace(
                claim,
                when=_situation_renamed(claim.when, renamed),
                so=_situation_renamed(claim.so, renamed),
            )
            for claim in claims
        )
    sections = tuple(
        replace(section, address=renamed_in(section.address, renamed))
        if section.root == screen.id
        else section
        for section in app.sections
    )
    links = tuple(_with_argument_renamed(each, screen.id, renamed) for each in app.links)
    return replace(app, links=links, claims=claims, sections=sections)


def _situation_renamed(situation: Any, renamed: Renamed) -> Any:
    arguments = {renamed(name): value for name, value in situation.arguments.items()}
    return replace(situation, arguments=arguments)


def _with_argument_renamed(link: Link, screen: str, renamed: Renamed) -> Link:
    arguments = link.arguments
    sets = link.sets
    if link.to == screen:
        arguments = tuple(replace(each, parameter=renamed(each.parameter)) for each in arguments)
        sets = {value: renamed(name) for value, name in sets.items()}
    if link.trigger.screen == screen:
        arguments = tuple(
            replace(argument, argument=renamed(argument.argument))
            if isinstance(argument, FromArgument)
            else argument
            for argument in arguments
        )
    return replace(link, arguments=arguments, sets=sets)


def _with_conditions(
    screen: Screen, made: Callable[[tuple[Condition, ...]], tuple[Condition, ...]]
) -> Screen:
    """A screen with the conditions of all its lists and their groups made so."""

    def listing(one: Listing) -> Listing:
        groups = tuple(replace(each, where=made(each.where)) for each in one.groups)
        return replace(one, where=made(one.where), groups=groups)

    if isinstance(screen, ListScreen):
        above = tuple(replace(each, rows=listing(each.rows)) for each in screen.above)
        return replace(screen, rows=listing(screen.rows), above=above)
    if isinstance(screen, DetailScreen):
        blocks = tuple(
            replace(block, rows=listing(block.rows)) if isinstance(block, ListBlock) else block
            for block in screen.blocks
        )
        return replace(screen, blocks=blocks)
    return screen
