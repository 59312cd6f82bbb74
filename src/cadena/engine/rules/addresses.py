"""Addresses: what an open screen tells, and the chain that visiting one builds (rule 11)."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, NamedTuple

from msgspec.structs import replace

from cadena.engine.events import Visit
from cadena.engine.notes import Note, Notes, Refused
from cadena.engine.rules.app_start import started
from cadena.engine.rules.opening import fill_in, open_link
from cadena.engine.session import Chain, Entry, RowRef, Session
from cadena.engine.wired import WiredApp
from cadena.model.address import addressed, path_of, read, told
from cadena.model.app import DetailScreen, FromArgument, FromConstant, FromField, Link, ListScreen
from cadena.model.search import nearest_first
from cadena.model.values import LIST, Unfit, Value, carry


class Target(NamedTuple):
    """What an address names: a screen with arguments, in one section or in any."""

    screen: str
    section: str
    arguments: dict[str, Value]
    record: dict[str, Any] | None


def address_of(app: WiredApp, session: Session, index: int) -> str | None:
    """The address of an open screen, or none where it has none."""
    entry = session.entries[index]
    screen = app.screens.get(entry.screen)
    section = app.sections.get(session.section)
    if index == 0 and section is not None and section.address:
        return told(section.address, entry.arguments)
    return told(screen.address, entry.arguments) if screen is not None and screen.address else None


def address_now(app: WiredApp, session: Session) -> str | None:
    """The address of the deepest open screen that has one."""
    for index in range(len(session.entries) - 1, -1, -1):
        found = address_of(app, session, index)
        if found is not None:
            return found
    return None


def visit(app: WiredApp, session: Session, event: Visit) -> tuple[Session, Notes]:
    """Build the chain that a person would have made to what an address names."""
    text = path_of(event.address)
    why = Note("refused", "no template")
    for target in _targets_named(app, session, text):
        if isinstance(target, Note):
            why = target
            continue
        built = built_to(app, session, target)
        if built is not None:
            screens = tuple(each.screen for each in built.entries)
            note = Note.of("visited", address=text, screens=screens)
            return replace(built, slid=False, focus=-1), (note,)
        why = Note.of("refused", "no way", screen=target.screen)
    return _fallback(app, session, text, why)


def _fallback(app: WiredApp, session: Session, address: str, why: Note) -> tuple[Session, Notes]:
    """To the section for addresses that lead nowhere, at its root."""
    fresh = started(app, session.window)
    name = app.app.fallback if app.app.fallback in app.sections else fresh.section
    if not name:
        raise Refused("no fallback", "fallback", address=address, why=why)
    session = replace(session.with_chain(fresh.chains[name]), section=name, slid=False, focus=-1)
    return session, (Note.of("fallback", address=address, why=why, section=name),)


def _targets_named(app: WiredApp, session: Session, address: str) -> list[Target | Note]:
    """What an address could name, in the order of templates; or why it names nothing."""
    found: list[Target | Note] = []
    for place in addressed(app.app):
        values = read(place.template, address)
        screen = app.screens.get(place.screen)
        if values is None or screen is None:
            continue
        try:
            arguments = _typed(screen.id, screen.parameters, values)
        except Refused as refused:
            found.append(refused.note)
            continue
        record = None
        if isinstance(screen, DetailScreen):
            records = app.records(session, screen.source)
            key = arguments.get(screen.key)
            record = None if records is None or key is None else records.by_key(key)
            if record is None:
                found.append(Note.of("refused", "no such record", source=screen.source, key=key))
                continue
        found.append(Target(screen.id, place.section, arguments, record))
    return found


def _typed(screen: str, parameters: Any, values: dict[str, str]) -> dict[str, Value]:
    """The arguments that the words of an address are, by the types of the parameters."""
    made: dict[str, Value] = {}
    for parameter in parameters:
        came: Any = values.get(parameter.name)
        where = f"screens[{screen}]"
        if came is not None and parameter.type.startswith(LIST):
            of = parameter.type[len(LIST) :]
            try:
                came = tuple(carry(each, of, convert=True) for each in came.split(","))
            except Unfit as unfit:
                unfits = {"parameter": parameter.name, "came": unfit.came, "wanted": unfit.wanted}
                raise Refused("argument unfit", where, who=("address",), **unfits) from None
        value = fill_in(parameter, came, ("address",), where, convert=True)
        if value is not None:
            made[parameter.name] = value
    return made


class Step(NamedTuple):
    """One link on the way: what it starts on, with what arguments, and from which row."""

    link: Link
    arguments: dict[str, Value]
    row: RowRef | None


def built_to(app: WiredApp, session: Session, target: Target) -> Session | None:
    """The session with the chain to a target, by the shortest path of links; none without one."""
    fresh = started(app, session.window, session.changes)
    sections = [target.section] if target.section else list(app.sections)
    roots = {
        name: fresh.chains[name].entries[0]
        for name in sections
        if name in fresh.chains and fresh.chains[name].entries
    }
    start = Place(target.screen, target.arguments, target.record, ())

    def before(place: Place) -> Iterator[Place]:
        """The places from which a link leads to this one."""
        is_whole = target.section and not place.steps
        if is_whole and any(root.screen == place.screen for root in roots.values()):
            return
        for link in app.app.links:
            if link.to == place.screen and link.trigger.on in ("row", "button"):
                parent = _before(app, session, link, place.arguments, place.record)
                if parent is not None:
                    arguments, row, record = parent
                    steps = (Step(link, place.arguments, row), *place.steps)
                    yield Place(link.trigger.screen, arguments, record, steps)

    for place in nearest_first([start], before, _of_place):
        for name, root in roots.items():
            if root.screen != place.screen:
                continue
            entry = root if place.steps else replace(root, arguments=place.arguments)
            made = _walked(app, session, name, entry, place.steps)
            if made is not None:
                return made
    return None


class Place(NamedTuple):
    """A screen on the way back to a root: how it must have been opened, and what follows."""

    screen: str
    arguments: dict[str, Value]
    record: dict[str, Any] | None
    steps: tuple[Step, ...]


def _of_place(place: Place) -> tuple[str, str]:
    """Each screen is gone back from once for each link that leads on from it."""
    return place.screen, place.steps[0].link.id if place.steps else ""


def _before(
    app: WiredApp,
    session: Session,
    link: Link,
    arguments: dict[str, Value],
    record: dict[str, Any] | None,
) -> tuple[dict[str, Value], RowRef | None, dict[str, Any] | None] | None:
    """What the screen that a link starts on must have been opened with, and from which row."""
    parent = app.screens.get(link.trigger.screen)
    if parent is None:
        return None
    made: dict[str, Value] = {}
    row: RowRef | None = None
    if link.trigger.on == "row":
        listing = app.listings[parent.id].get(link.trigger.part)
        records = None if listing is None else app.records(session, listing.source)
        key = next(
            (
                arguments.get(argument.parameter)
                for argument in link.arguments
                if isinstance(argument, FromField)
                and records is not None
                and argument.field == records.source.key
            ),
            None,
        )
        if listing is None or records is None or key is None or isinstance(key, tuple):
            return None
        found = records.by_key(key)
        if found is None:
            return None
        row = RowRef(link.trigger.part, key)
        for condition in listing.where:
            if condition.argument and condition.test == "is" and condition.field in found:
                made[condition.argument] = found[condition.field]
    for argument in link.arguments:
        given = arguments.get(argument.parameter)
        match argument:
            case FromArgument() if given is not None:
                made[argument.argument] = given
            case FromConstant() if given != argument.constant:
                return None
            case FromField() if row is None and isinstance(parent, DetailScreen):
                source = app.as_read.get(parent.source)
                if source is not None and argument.field == source.source.key and given is not None:
                    made[parent.key] = given
    return _arguments_on_way(app, session, parent.id, made, row, record)


def _arguments_on_way(
    app: WiredApp,
    session: Session,
    name: str,
    made: dict[str, Value],
    row: RowRef | None,
    record: dict[str, Any] | None,
) -> tuple[dict[str, Value], RowRef | None, dict[str, Any] | None] | None:
    """The arguments of a screen on the way, where all that it requires is known."""
    screen = app.screens[name]
    filled: dict[str, Value] = {}
    for parameter in screen.parameters:
        try:
            value = fill_in(parameter, made.get(parameter.name), ("address",), name)
        except Refused:
            return None
        if value is not None:
            filled[parameter.name] = value
    about = None
    if not isinstance(screen, ListScreen):
        records = app.records(session, screen.source)
        key = filled.get(screen.key)
        if records is not None and key is not None and not isinstance(key, tuple):
            about = records.by_key(key)
            if about is None:
                return None
    return filled, row, about


def _walked(
    app: WiredApp, session: Session, section: str, root: Entry, steps: tuple[Step, ...]
) -> Session | None:
    """Follow the links of a path, as a person would; none where one does not lead there."""
    made = replace(session.with_chain(Chain(section, (root,))), section=section)
    for step in steps:
        index = len(made.entries) - 1
        try:
            after, _ = open_link(app, made, index, step.link, step.row)
        except Refused:
            return None
        last = after.entries[-1]
        if last.screen != step.link.to or last.arguments != step.arguments:
            return None
        made = after
    return made.with_entries(tuple(replace(each, by="address") for each in made.entries))
