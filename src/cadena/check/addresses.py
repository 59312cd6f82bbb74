"""Checks of addresses: each can be read back, means one thing, and leads to a chain."""

from __future__ import annotations

from collections.abc import Iterator
from functools import lru_cache
from typing import Any

from cadena.check.finding import Finding, found, of_thing
from cadena.engine.rules.addresses import Target, built_to
from cadena.engine.rules.app_start import started
from cadena.engine.session import sized
from cadena.engine.wired import WiredApp
from cadena.model.address import Addressed, addressed, fault_of_template, names_in, read, told
from cadena.model.app import DetailScreen, FromPosition
from cadena.model.values import Value

SAMPLES: dict[str, Value] = {
    "text": "sample",
    "whole number": 7,
    "number": 7.5,
    "yes/no": True,
    "date": "2026-01-07",
    "date and time": "2026-01-07T09:30:00Z",
}


def address_findings(app: WiredApp) -> Iterator[Finding]:
    """What is wrong with the addresses of an app."""
    some = addressed(app.app)
    sound = []
    for place in some:
        fault = _fault(app, place)
        if fault is not None:
            said = f"{place.template}: {fault}"
            yield _found("address-template", place, said)
        else:
            sound.append(place)
    for number, each in enumerate(sound):
        other = next((e for e in sound[:number] if _both_match(app, each, e)), None)
        positions = tuple(_positions(app, each))
        yield from positions
        if other is not None:
            yield _found(
                "address-ambiguous",
                each,
                f"{each.template} and {other.template} ({other.where}) match one address",
            )
        elif not positions:
            yield from _leads(app, each)


def _fault(app: WiredApp, each: Addressed) -> str | None:
    fault = fault_of_template(each.template)
    if fault is not None:
        return fault
    screen = app.screens.get(each.screen)
    if screen is None:
        return f"there is no screen {each.screen}"
    has = {parameter.name for parameter in screen.parameters}
    strange = [name for name in names_in(each.template) if name not in has]
    return f"{each.screen} has no parameter {strange[0]}" if strange else None


def _sample(app: WiredApp, each: Addressed) -> dict[str, Value]:
    """Arguments that the screen could have: of the first record, where it is about one."""
    screen = app.screens[each.screen]
    names = names_in(each.template)
    made: dict[str, Value] = {}
    for parameter in screen.parameters:
        if parameter.name in names:
            made[parameter.name] = SAMPLES.get(parameter.type, "sample")
    if isinstance(screen, DetailScreen) and screen.key in names:
        records = app.as_read.get(screen.source)
        if records is not None and len(records):
            made[screen.key] = records.key_at(0)
    return made


def _both_match(app: WiredApp, one: Addressed, other: Addressed) -> bool:
    """Whether an address that one tells is read by the other, with words of the types it takes."""
    return any(
        _is_read(teller.template, tuple(_sample(app, teller).items()), reader.template)
        for teller, reader in ((one, other), (other, one))
    )


@lru_cache(maxsize=1024)
def _is_read(teller: str, arguments: tuple[tuple[str, Value], ...], reader: str) -> bool:
    address = told(teller, dict(arguments))
    return address is not None and read(reader, address) is not None


def _leads(app: WiredApp, each: Addressed) -> Iterator[Finding]:
    screen = app.screens[each.screen]
    named = names_in(each.template)
    missing = [
        parameter.name
        for parameter in screen.parameters
        if parameter.need == "required" and parameter.name not in named
    ]
    if missing:
        yield _found(
            "address-without-chain",
            each,
            f"{each.template}: {each.screen} requires {missing[0]}, which it does not carry",
            missing=missing[0],
        )
        return
    records = None
    if isinstance(screen, DetailScreen):
        records = app.as_read.get(screen.source)
        if records is None or not len(records):
            return
    elif any(parameter.key_of for parameter in screen.parameters):
        return
    arguments = _sample(app, each)
    record = None
    if isinstance(screen, DetailScreen) and records is not None:
        key = arguments.get(screen.key)
        record = None if isinstance(key, tuple) or key is None else records.by_key(key)
    session = app.remember(("started", "addresses"), lambda: started(app, sized(360, 780)))
    target = Target(each.screen, each.section, arguments, record)
    if built_to(app, session, target) is None:
        yield _found(
            "address-without-chain",
            each,
            f"{each.template}: no path of links leads to {each.screen} with what it carries",
            mend="carry what the screens on the way require, or link to it from a list",
        )


def _positions(app: WiredApp, each: Addressed) -> Iterator[Finding]:
    names = names_in(each.template)
    for link in app.app.links:
        for argument in link.arguments:
            is_position = isinstance(argument, FromPosition) and argument.parameter in names
            if link.to == each.screen and is_position:
                yield _found(
                    "address-names-position",
                    each,
                    f"{each.template}: {argument.parameter} is a position (link {link.id})",
                )
                return


def _found(code: str, at: Addressed, what: str, **said: Any) -> Finding:
    about = of_thing("section", at.section) if at.section else of_thing("screen", at.screen)
    return found(code, about, what, at.where, **said)
