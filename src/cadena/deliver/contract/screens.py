"""What typed routes are written of: for each screen its names, its parameters and its address."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from cadena.deliver.contract.names import each_its_own, type_name
from cadena.engine.wired import WiredApp
from cadena.model.address import addressed, fault_of_template
from cadena.model.app import Parameter
from cadena.model.values import LIST


class RouteField(NamedTuple):
    """A parameter of a screen: its own name, what it is called in the language, and its type."""

    name: str
    called: str
    kind: str
    is_required: bool


class RouteScreen(NamedTuple):
    """A screen: its own name, and what its type is called in the language."""

    name: str
    called: str
    fields: tuple[RouteField, ...]


def screens_of(app: WiredApp, called: Callable[[str], str]) -> tuple[RouteScreen, ...]:
    """The screens of an app, under names that a language takes.

    Args:
        called: makes a name of the language of a parameter's.
    """
    types = each_its_own(type_name(each.id) for each in app.app.screens)
    return tuple(
        RouteScreen(screen.id, name, _fields(screen.parameters, called))
        for screen, name in zip(app.app.screens, types, strict=True)
    )


def _fields(
    parameters: tuple[Parameter, ...], called: Callable[[str], str]
) -> tuple[RouteField, ...]:
    names = each_its_own(called(each.name) for each in parameters)
    fields = [
        RouteField(each.name, name, each.type, each.need == "required")
        for each, name in zip(parameters, names, strict=True)
    ]
    # What must be given comes first: languages want it so.
    return tuple(sorted(fields, key=lambda each: not each.is_required))


def addresses_of(app: WiredApp) -> tuple[tuple[str, str], ...]:
    """Each template with the screen that it leads to, in the order in which they are tried."""
    return tuple(
        (place.template, place.screen)
        for place in addressed(app.app)
        if fault_of_template(place.template) is None and place.screen in app.screens
    )


def typed(kind: str, scalars: dict[str, str], listed: str) -> str:
    """The type of a language for a type of a value.

    Args:
        scalars: by type; what is not in it is text.
        listed: the type of a list, with ``{}`` for that of its values.
    """
    if kind.startswith(LIST):
        return listed.format(typed(kind[len(LIST) :], scalars, listed))
    return scalars.get(kind, scalars["text"])
