"""Opening a screen (behaviour.md, 2)."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any, Literal

from msgspec.structs import replace

from cadena.engine.display import base_length
from cadena.engine.notes import Note, Notes, Refused
from cadena.engine.session import LAYERS, Entry, RowRef, Session, View, cut, touched
from cadena.engine.wired import WiredApp
from cadena.model.app import (
    Argument,
    DetailScreen,
    FromArgument,
    FromConstant,
    FromField,
    FromPosition,
    FromValue,
    Link,
    Parameter,
    Screen,
)
from cadena.model.values import Scalar, Unfit, Value, carry, shown, words


def link_of(app: WiredApp, screen: str, on: Literal["row", "action", "button"], part: str) -> Link:
    """The link that starts from a trigger.

    Raises:
        Refused: when nothing is linked to it.
    """
    link = app.links.get((screen, on, part))
    if link is None:
        what = "its rows open" if on == "row" else f'{on} "{part}" opens'
        raise Refused(f"{what} nothing yet: link it to a screen", f"screens[{screen}]")
    return link


def arguments_for(
    app: WiredApp,
    session: Session,
    index: int,
    link: Link,
    row: RowRef | None,
    saved: Mapping[str, Any] | None = None,
) -> dict[str, Value]:
    """The arguments that a link fills in, from entry ``index`` and one of its rows (2.1).

    Args:
        saved: the record that a form has just saved, for a link that starts there.

    Raises:
        Refused: for a required parameter with none, or one of the wrong type (2.2).
    """
    screen = app.screens.get(link.to)
    if screen is None:
        raise Refused(
            f"link {link.id} opens {link.to}, and there is no such screen",
            f"links[{link.id}].to",
        )
    given = {each.parameter: each for each in link.arguments}
    filled: dict[str, Value] = {}
    for parameter in screen.parameters:
        argument = given.get(parameter.name)
        came = None if argument is None else _value_of(app, session, index, argument, row, saved)
        where = f"links[{link.id}].arguments[{parameter.name}]"
        convert = argument is not None and argument.convert
        value = fill_in(parameter, came, f"link {link.id} to {screen.id}", where, convert)
        if value is not None:
            filled[parameter.name] = value
    return filled


def fill_in(
    parameter: Parameter, came: Any, who: str, where: str, convert: bool = False
) -> Value | None:
    """The value a parameter takes of what came; none where it may be none.

    Raises:
        Refused: as 2.2 has it.
    """
    if came is None:
        if parameter.need == "required":
            raise Refused(
                f"{who}: parameter {parameter.name} is required; "
                f"nothing came, {parameter.type} was wanted",
                where,
            )
        came = parameter.default if parameter.need == "default" else None
        if came is None:
            return None
    try:
        return carry(came, parameter.type, convert)
    except Unfit as unfit:
        raise Refused(f"{who}: parameter {parameter.name}: {unfit}", where) from None


def _value_of(
    app: WiredApp,
    session: Session,
    index: int,
    argument: Argument,
    row: RowRef | None,
    saved: Mapping[str, Any] | None,
) -> Any:
    entry = session.entries[index]
    match argument:
        case FromConstant():
            return argument.constant
        case FromArgument():
            return entry.arguments.get(argument.argument)
        case FromValue():
            return session.values.get(argument.value)
        case FromField():
            if saved is not None:
                return saved.get(argument.field)
            if row is None:
                return (app.record_of(session, entry) or {}).get(argument.field)
            listing = app.listings[entry.screen][row.part]
            records = app.records(session, listing.source)
            if records is None:
                return None
            if argument.field == records.source.key:
                return row.key
            return (records.by_key(row.key) or {}).get(argument.field)
        case FromPosition():
            listed = None if row is None else app.listed(session, entry, row.part)
            return None if listed is None or row is None else listed.rows.index_of(row.key)
        case _:
            record = app.record_of(session, entry)
            if row is not None and (listed := app.listed(session, entry, row.part)) is not None:
                record = listed.rows.records.by_key(row.key)
            return None if record is None else json.dumps(record, ensure_ascii=False)


def open_link(
    app: WiredApp,
    session: Session,
    index: int,
    link: Link,
    row: RowRef | None,
    by: Literal["hand", "rule"] = "hand",
) -> tuple[Session, Notes]:
    """Follow a link from entry ``index`` (2.3, 2.4).

    Raises:
        Refused: as 2.2 has it.
    """
    arguments = arguments_for(app, session, index, link, row)
    return opened_as(app, session, index, link, arguments, row, by)


def opened_as(
    app: WiredApp,
    session: Session,
    index: int,
    link: Link,
    arguments: dict[str, Value],
    row: RowRef | None,
    by: Literal["hand", "rule"] = "hand",
) -> tuple[Session, Notes]:
    """Open the screen of a link from entry ``index`` with arguments that are filled in."""
    screen = app.screens[link.to]
    if link.sets:
        session = _with_values(app, session, link, arguments)
    entries = session.entries
    how = link.how
    if how == "beside" and index >= base_length(entries):
        how = "push"
    if how == "replace":
        return _replace(app, session, index, screen, arguments)
    over = how in LAYERS
    after = len(entries) - 1 if over else index + 1
    if after < len(entries) and _is_same(entries[after], screen.id, arguments, how):
        opened = entries[after] if by == "rule" else touched(entries[after])
        note = Note("already open", f"{screen.id} is already open with {_list(arguments)}")
        return session.with_entry(after, opened), (note,)
    below = entries if over else cut(entries, index + 1)
    if by == "hand":
        below = (*below[:index], touched(below[index]), *below[index + 1 :])
    new = Entry(screen.id, arguments, how, by, row, stored_view(app, session, screen, arguments))
    if by == "rule":
        layers = entries[base_length(entries) :]
        below = (*below, new, *layers)
    else:
        below = (*below, new)
    why = "by rule: nothing was chosen" if by == "rule" else f"link {link.id}"
    note = Note("opened", f"{screen.id} with {_list(arguments)} as {how}, {why}")
    return session.with_entries(below), (note,)


def open_after_saving(
    app: WiredApp, session: Session, index: int, link: Link, source: str, key: Scalar
) -> tuple[Session, Notes]:
    """Follow the link of a form that was saved: what it opens takes the form's place (10)."""
    records = app.records(session, source)
    saved = None if records is None else records.by_key(key)
    arguments = arguments_for(app, session, index, link, None, saved or {})
    screen = app.screens[link.to]
    form = session.entries[index]
    if index == 0 or link.how == "replace":
        return _replace(app, session, index, screen, arguments)
    below = session.with_entries(cut(session.entries, index))
    # The form may have lain over a deeper chain than the screen that it was opened from.
    row = None
    parent = index - 1
    if form.opened not in LAYERS or link.how not in LAYERS:
        for part in app.listings.get(below.entries[parent].screen, {}):
            row = row or implied_row(app, below.entries[parent], part, screen, arguments)
    return opened_as(app, below, parent, link, arguments, row)


def _with_values(
    app: WiredApp, session: Session, link: Link, arguments: dict[str, Value]
) -> Session:
    """With the arguments that a link keeps as app-wide values, as far as they fit."""
    values = dict(session.values)
    for name, parameter in link.sets.items():
        if name in app.values and parameter in arguments:
            try:
                values[name] = carry(arguments[parameter], app.values[name].type)
            except Unfit:
                continue
    return replace(session, values=values)


def _is_same(entry: Entry, screen: str, arguments: dict[str, Value], how: str) -> bool:
    return (entry.screen, entry.arguments, entry.opened) == (screen, arguments, how)


def _replace(
    app: WiredApp, session: Session, index: int, screen: Screen, arguments: dict[str, Value]
) -> tuple[Session, Notes]:
    """Put a screen in the place of entry ``index``, opened as that one was."""
    old = session.entries[index]
    if old.screen == screen.id and old.arguments == arguments:
        note = Note("already open", f"{screen.id} is already open with {_list(arguments)}")
        return session.with_entry(index, touched(old)), (note,)
    row = old.row
    if row is not None and index > 0:
        row = implied_row(app, session.entries[index - 1], row.part, screen, arguments)
    view = stored_view(app, session, screen, arguments)
    new = Entry(screen.id, arguments, old.opened, "hand", row, view)
    note = Note("opened", f"{screen.id} with {_list(arguments)} in place of {old.screen}")
    return session.with_entries((*session.entries[:index], new)), (note,)


def implied_row(
    app: WiredApp, below: Entry, part: str, screen: Screen, arguments: dict[str, Value]
) -> RowRef | None:
    """The row of the list below that would have opened this screen so, if one would."""
    link = app.row_links.get((below.screen, part))
    listing = app.listings.get(below.screen, {}).get(part)
    if (
        link is None
        or listing is None
        or link.to != screen.id
        or not isinstance(screen, DetailScreen)
    ):
        return None
    records = app.as_read.get(listing.source)
    for each in link.arguments:
        if isinstance(each, FromField) and records and each.field == records.source.key:
            key = arguments.get(each.parameter)
            return None if key is None or isinstance(key, tuple) else RowRef(part, key)
    return None


def stored_view(
    app: WiredApp, session: Session, screen: Screen, arguments: dict[str, Value]
) -> View:
    """What was stored of a screen with these arguments, or nothing (6)."""
    for each in session.stored:
        if (each.section, each.screen, each.arguments) == (session.section, screen.id, arguments):
            return each.view
    return View()


def _list(arguments: dict[str, Value]) -> str:
    if not arguments:
        return "no arguments"
    return ", ".join(
        f"{name} = {words(value) if isinstance(value, str) else shown(value)}"
        for name, value in arguments.items()
    )
