"""Checks of links: what they open is there, and gets what it needs, by key."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any, Final

from msgspec.structs import replace

from cadena.check.finding import Finding, Mend, Subject, first_few, found, of_link, without_its_link
from cadena.model.app import (
    App,
    Argument,
    DetailScreen,
    FromArgument,
    FromConstant,
    FromField,
    FromPosition,
    FromRecord,
    FromValue,
    Link,
    Parameter,
    Screen,
)
from cadena.model.edits.wiring import (
    Types,
    make_target,
    sensible,
    source_of,
    with_argument,
    with_link,
    without_argument,
)
from cadena.model.find import by_id
from cadena.model.screen_depths import steps_in
from cadena.model.screen_parts import elements_of, slots_from, triggers
from cadena.model.values import Unfit, Value, carry, fits, shown, words
from cadena.records.records import Records


def link_findings(app: App, records: Mapping[str, Records], link: Link) -> Iterator[Finding]:
    """What is wrong with one link."""
    where = f"links[{link.id}]"
    if not _starts(app, link):
        yield _found(
            "trigger-missing",
            link,
            f"it starts from {_trigger_words(link)}, and there is no such thing",
            f"{where}.trigger",
        )
        return
    target = by_id(app.screens, link.to)
    if target is None:
        yield _found(
            "screen-missing",
            link,
            f"it opens {link.to}, and there is no such screen",
            f"{where}.to",
            to=link.to,
        )
        return
    yield from _carried_findings(app, records, link, target)
    yield from _root_findings(app, link)
    yield from _pair_findings(app, link, target, where)


def _root_findings(app: App, link: Link) -> Iterator[Finding]:
    """A root that is replaced can be come to again."""
    root = link.trigger.screen
    if link.how != "replace" or link.to == root or root in steps_in(app, link.to):
        return
    for section in app.sections:
        if section.root == root:
            yield _found(
                "root-replaced",
                link,
                f"{link.to} takes the place of {root}, and nothing leads back to it",
                f"links[{link.id}].how",
                section=section.title or section.id,
                root=root,
            )
            return


def _carried_findings(
    app: App, records: Mapping[str, Records], link: Link, target: Screen
) -> Iterator[Finding]:
    """What a link carries is what its target asks for."""
    where = f"links[{link.id}]"
    given = {each.parameter: each for each in link.arguments}
    for parameter in target.parameters:
        place = f"{where}.arguments[{parameter.name}]"
        argument = given.pop(parameter.name, None)
        if argument is not None:
            wrong = _argument_findings(app, records, link, parameter, argument, place)
            part = Subject("link", link.id, parameter.name)
            yield from (replace(each, subject=part) for each in wrong)
        elif parameter.need == "required":
            yield _found(
                "argument-missing",
                link,
                f"{target.id} requires {parameter.name} ({parameter.type}), and nothing is carried",
                place,
                parameter.name,
                parameter=parameter.name,
            )
    for name in given:
        yield _found(
            "argument-surplus",
            link,
            f"{name} is carried, and {target.id} has no such parameter",
            f"{where}.arguments[{name}]",
            name,
            target=target.id,
            name=name,
        )


def _pair_findings(app: App, link: Link, target: Screen, where: str) -> Iterator[Finding]:
    """What a transition pairs is on the row, and on the screen."""
    if link.transition is None:
        return
    if link.comes != "at once":
        yield _found(
            "comes-never",
            link,
            f"{link.to} is to come {link.comes}, and what is paired flies in its place",
            f"{where}.comes",
        )
    slots = slots_from(by_id(app.screens, link.trigger.screen), link.trigger)
    if link.trigger.on not in ("row", "fact") or not slots:
        return
    there = elements_of(target) if isinstance(target, DetailScreen) else ()
    for pair in link.transition.pairs:
        no_slot = pair.slot not in slots
        if no_slot or pair.element not in there:
            missing = (
                f"the {link.trigger.on} has no {pair.slot}"
                if no_slot
                else f"there is no {pair.element}"
            )
            yield _found(
                "pair-missing",
                link,
                f"{pair.slot} is paired with {pair.element}, and {missing}",
                f"{where}.transition",
            )


def _starts(app: App, link: Link) -> bool:
    screen = by_id(app.screens, link.trigger.screen)
    if screen is None:
        return False
    return link.trigger in triggers(screen)


def _argument_findings(
    app: App,
    records: Mapping[str, Records],
    link: Link,
    parameter: Parameter,
    argument: Argument,
    where: str,
) -> Iterator[Finding]:
    if isinstance(argument, FromPosition | FromRecord):
        is_position = isinstance(argument, FromPosition)
        code = "position-carried" if is_position else "record-carried"
        what = f"{'a position' if is_position else 'a whole record'} is carried in place of a key"
        yield _found(code, link, what, where, parameter=parameter.name)
        return
    if isinstance(argument, FromConstant):
        try:
            carry(argument.constant, parameter.type, argument.convert)
        except Unfit:
            yield _unfit(link, parameter, words(argument.constant), where)
        return
    have = _type_of(app, records, link, argument)
    if have is None:
        yield _found(
            "argument-source-missing",
            link,
            f"{parameter.name} is filled from {_from(argument)}, which is not there",
            where,
        )
    elif not argument.convert and not fits(have, parameter.type):
        yield _unfit(link, parameter, f"{_from(argument)} ({have})", where)
    elif isinstance(argument, FromField) and not fits(have, parameter.type):
        source = source_of(app, link.trigger)
        values = () if source is None else records[source.id].frame[argument.field].unique()
        wrong = sorted(shown(each) for each in values if not _carries(each, parameter.type))
        if wrong:
            yield _unfit(link, parameter, f"{_from(argument)}, such as {first_few(wrong)},", where)


def _carries(value: Value | None, kind: str) -> bool:
    """Whether a value can be converted to a type; none is for other checks."""
    try:
        return value is None or carry(value, kind, convert=True) is not None
    except Unfit:
        return False


def _unfit(link: Link, parameter: Parameter, came: str, where: str) -> Finding:
    return _found(
        "argument-unfit",
        link,
        f"{came} comes to {parameter.name}, which takes {parameter.type}",
        where,
    )


def _type_of(
    app: App, records: Mapping[str, Records], link: Link, argument: Argument
) -> str | None:
    match argument:
        case FromField():
            source = source_of(app, link.trigger)
            if source is None or source.id not in records:
                return None
            return records[source.id].types.get(argument.field)
        case FromArgument():
            screen = by_id(app.screens, link.trigger.screen)
            given = () if screen is None else screen.parameters
            return next((each.type for each in given if each.name == argument.argument), None)
        case FromValue():
            value = by_id(app.values, argument.value)
            return None if value is None else value.type
    return None


def _from(argument: Argument) -> str:
    match argument:
        case FromField():
            return f"field {argument.field}"
        case FromArgument():
            return f"argument {argument.argument}"
        case FromValue():
            return f"app-wide value {argument.value}"
    return "nothing"


def _trigger_words(link: Link) -> str:
    at = link.trigger
    part = f" {at.part}" if at.part else ""
    return f"{at.on}{part} of {at.screen}"


def _found(code: str, link: Link, what: str, where: str, part: str = "", **places: Any) -> Finding:
    text = f"link {link.id}, {_trigger_words(link)} to {link.to}: {what}"
    return found(code, of_link(link, part), text, where, **places)


def _with_argument(app: App, types: Types, finding: Finding) -> App | None:
    """What is carried, filled in with what makes sense."""
    link = by_id(app.links, finding.subject.name)
    target = by_id(app.screens, link.to) if link is not None else None
    if link is None or target is None:
        return None
    wanted = (each for each in target.parameters if each.name == finding.subject.part)
    parameter = next(wanted, None)
    argument = None if parameter is None else sensible(app, types, link.trigger, parameter)
    return None if argument is None else with_link(app, with_argument(link, argument))


def _without_argument(app: App, types: Types, finding: Finding) -> App | None:
    link = by_id(app.links, finding.subject.name)
    return None if link is None else with_link(app, without_argument(link, finding.subject.part))


def _with_pairs_that_are(app: App, types: Types, finding: Finding) -> App | None:
    """The transition pairs only what is on the row, and on the screen."""
    link = by_id(app.links, finding.subject.name)
    if link is None or link.transition is None:
        return None
    target = by_id(app.screens, link.to)
    slots = slots_from(by_id(app.screens, link.trigger.screen), link.trigger)
    elements = elements_of(target) if isinstance(target, DetailScreen) else ()
    pairs = link.transition.pairs
    kept = tuple(each for each in pairs if each.slot in slots and each.element in elements)
    return with_link(app, replace(link, transition=replace(link.transition, pairs=kept)))


def _at_once(app: App, types: Types, finding: Finding) -> App | None:
    link = by_id(app.links, finding.subject.name)
    return None if link is None else with_link(app, replace(link, comes="at once"))


def _pushed(app: App, types: Types, finding: Finding) -> App | None:
    link = by_id(app.links, finding.subject.name)
    return None if link is None else with_link(app, replace(link, how="push"))


def _with_target(app: App, types: Types, finding: Finding) -> App | None:
    link = by_id(app.links, finding.subject.name)
    try:
        return None if link is None else make_target(app, types, link.trigger, link.to)[0]
    except ValueError:
        return None


MENDS: Final[Mapping[str, Mend]] = {
    "argument-missing": _with_argument,
    "argument-surplus": _without_argument,
    "argument-unfit": _with_argument,
    "comes-never": _at_once,
    "pair-missing": _with_pairs_that_are,
    "position-carried": _with_argument,
    "record-carried": _with_argument,
    "root-replaced": _pushed,
    "screen-missing": _with_target,
    "trigger-missing": without_its_link,
}
