"""Opening a screen (rules.md, 2)."""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping
from contextlib import suppress
from typing import Any, Literal

from msgspec.structs import replace

from cadena.engine.notes import Note, Notes, Refused
from cadena.engine.rules.display import base_length
from cadena.engine.session import (
    LAYERS,
    Entry,
    OpenedFor,
    RowRef,
    Session,
    View,
    cut,
    on_base,
    owner_of,
    touched,
)
from cadena.engine.wired import Listed, TriggerAt, WiredApp, trigger_at
from cadena.model.app import (
    Argument,
    FormScreen,
    FromArgument,
    FromConstant,
    FromField,
    FromPosition,
    FromValue,
    Link,
    On,
    Parameter,
    Screen,
)
from cadena.model.values import Scalar, Unfit, Value, carry
from cadena.records.query import Rows


def link_of(app: WiredApp, screen: str, on: On, part: str) -> Link:
    """The link that starts from a trigger.

    Raises:
        Refused: when nothing is linked to it.
    """
    link = app.links.get((screen, on, part))
    if link is None:
        raise not_linked((screen, on, part))
    return link


def link_for(
    app: WiredApp, session: Session, index: int, link: Link, row: RowRef | None
) -> Link | None:
    """The link that is followed where a row leads on by a trigger: by the row's kind (2.7); none
    where there is none for this row."""
    at = trigger_at(link)
    if row is None or at not in app.kinds:
        return link
    listed = app.listed(session, session.entries[index], row.part)
    record = None if listed is None else listed.rows.records.by_key(row.key)
    return app.link_for(at, record or {})


def first_of_kind(app: WiredApp, listed: Listed, link: Link) -> Scalar | None:
    """The key of the first row of a list from which a link is followed (2.7), or none."""
    rows, at = listed.rows, trigger_at(link)
    if at not in app.kinds:
        return rows.key_at(0) if len(rows) else None

    def first() -> tuple[Rows, Scalar | None]:
        keys = (rows.key_at(row) for row in range(len(rows)))
        of_kind = (key for key in keys if app.link_for(at, rows.records.by_key(key) or {}) is link)
        return rows, next(of_kind, None)

    return app.remember(("first of kind", link.id, id(rows)), first)[1]


def not_linked(at: TriggerAt) -> Refused:
    """That no link starts from a trigger."""
    screen, on, part = at
    case = "rows not linked" if on == "row" else f"{on} not linked"
    return Refused(case, f"screens[{screen}]", part=part)


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
        raise Refused("no such target", f"links[{link.id}].to", link=link.id, screen=link.to)
    given = {each.parameter: each for each in link.arguments}
    filled: dict[str, Value] = {}
    for parameter in screen.parameters:
        argument = given.get(parameter.name)
        came = None if argument is None else _value_of(app, session, index, argument, row, saved)
        if parameter.type == "text" and type(came) is str:
            filled[parameter.name] = came
            continue
        where = f"links[{link.id}].arguments[{parameter.name}]"
        convert = argument is not None and argument.convert
        value = fill_in(parameter, came, ("link", link.id, screen.id), where, convert)
        if value is not None:
            filled[parameter.name] = value
    return filled


def fill_in(
    parameter: Parameter, came: Any, who: tuple[str, ...], where: str, convert: bool = False
) -> Value | None:
    """The value a parameter takes of what came; none where it may be none.

    Args:
        who: who fills it in: what kind of thing, and its names.

    Raises:
        Refused: as 2.2 has it.
    """
    if came is None:
        if parameter.need == "required":
            wanted = {"parameter": parameter.name, "wanted": parameter.type}
            raise Refused("argument missing", where, who=who, **wanted)
        came = parameter.default if parameter.need == "default" else None
        if came is None:
            return None
    try:
        return carry(came, parameter.type, convert)
    except Unfit as unfit:
        unfits = {"parameter": parameter.name, "came": unfit.came, "wanted": unfit.wanted}
        raise Refused("argument unfit", where, who=who, **unfits) from None


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
        case FromField():
            if saved is not None:
                return saved.get(argument.field)
            if row is None:
                return (app.record_of(session, entry) or {}).get(argument.field)
            listed = app.listed(session, entry, row.part)
            if listed is None:
                return None
            # Of a source that answers late, only what its list call has brought.
            records = listed.rows.records
            if argument.field == records.source.key:
                return row.key
            return (records.by_key(row.key) or {}).get(argument.field)
        case FromConstant():
            return argument.constant
        case FromArgument():
            return entry.arguments.get(argument.argument)
        case FromValue():
            return session.values.get(argument.value)
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
    """Follow a link from entry ``index`` (2.3, 2.4), by the kind of its row (2.7).

    Raises:
        Refused: as 2.2 has it.
    """
    of_row = link_for(app, session, index, link, row)
    if of_row is None:
        raise not_linked(trigger_at(link))
    link = of_row
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
    asks = _asks(link)
    at = None if asks else _open_below(entries[: index + 1], link, screen, arguments)
    if at is None and isinstance(screen, FormScreen):
        at = _open_at(entries, screen, arguments)
    if at is not None:
        return session if by == "rule" else _back_to(session, at), (_already(screen, arguments),)
    if how == "replace":
        return _replace(app, session, index, screen, arguments)
    over = how in LAYERS
    after = len(entries) - 1 if over else index + 1
    wanted = asks and _at(asks, index, after)
    is_there = after < len(entries) and _is_same(entries[after], screen.id, arguments, how)
    if is_there and entries[after].opened_for == wanted:
        if by != "rule" and after + 1 < len(entries) and entries[after + 1].opened == "push":
            # What was pushed over it covers it: the row that was chosen is to be seen.
            session = session.with_entries(cut(entries, after + 1))
        opened = session.entries[after]
        opened = opened if by == "rule" else touched(opened)
        return session.with_entry(after, opened), (_already(screen, arguments),)
    view = stored_view(app, session, session.section, screen, arguments)
    if by == "rule":
        base = base_length(entries)
        new = Entry(screen.id, arguments, how, by, row, view)
        note = _opened("by rule", screen, arguments, how=how)
        return session.with_entries(on_base((*entries[:base], new), entries[base:], base)), (note,)
    below = entries if over else cut(entries, index + 1)
    if row is not None and index != len(below) - 1:
        row = replace(row, of=index)
    wanted = asks and _at(asks, index, len(below))
    new = Entry(screen.id, arguments, how, by, row, view, opened_for=wanted)
    below = (*below[:index], touched(below[index]), *below[index + 1 :])
    note = _opened("", screen, arguments, how=how, link=link.id)
    return session.with_entries((*below, new)), (note,)


def _asks(link: Link) -> OpenedFor | None:
    """What a link that brings something home opens its screen for (15)."""
    on = link.trigger.on
    if link.brings is None or on not in ("field", "fact", "button"):
        return None
    return OpenedFor(on, link.trigger.part)


def _at(asks: OpenedFor, owner: int, index: int) -> OpenedFor:
    """The same, of an entry whose asker is another than the one right below."""
    return asks if owner == index - 1 else replace(asks, of=owner)


def _open_below(
    entries: tuple[Entry, ...], link: Link, screen: Screen, arguments: dict[str, Value]
) -> int | None:
    """Where a link that goes back to its screen finds it open (2.4)."""
    if link.if_open != "go back to it":
        return None
    return _open_at(entries, screen, arguments)


def _open_at(entries: tuple[Entry, ...], screen: Screen, arguments: dict[str, Value]) -> int | None:
    """The deepest entry that is this screen with equal arguments, or none."""
    for at in range(len(entries) - 1, -1, -1):
        if (entries[at].screen, entries[at].arguments) == (screen.id, arguments):
            return at
    return None


def _back_to(session: Session, at: int) -> Session:
    """The session with the chain cut back to an entry, which counts as touched."""
    session = session.cut_back(at + 1)
    return session.with_entry(at, touched(session.entries[at]))


def _already(screen: Screen, arguments: dict[str, Value]) -> Note:
    return Note.of("already open", screen=screen.id, arguments=arguments)


def _opened(case: str, screen: Screen, arguments: dict[str, Value], **data: str) -> Note:
    return Note.of("opened", case, screen=screen.id, arguments=arguments, **data)


def open_after_saving(
    app: WiredApp, session: Session, index: int, link: Link, source: str, key: Scalar
) -> tuple[Session, Notes]:
    """Follow the link of a form that was saved at ``index``: its screen takes the place of the
    first form of that record, and of all that was opened since (10).

    Where that screen lies below already, with equal arguments, the chain is cut back to it.
    """
    records = app.shown(session, source)
    saved = None if records is None else records.by_key(key)
    arguments = arguments_for(app, session, index, link, None, saved or {})
    screen = app.screens[link.to]
    first = first_form_of(app, session, index, source, key)
    at = _open_at(session.entries[:first], screen, arguments)
    if at is not None:
        if link.sets:
            session = _with_values(app, session, link, arguments)
        return _back_to(session, at), (_already(screen, arguments),)
    if first == 0 or link.how == "replace":
        return _replace(app, session, first, screen, arguments)
    below = session.with_entries(cut(session.entries, first))
    row = None
    parent = first - 1
    for part in app.listings.get(below.entries[parent].screen, {}):
        row = row or implied_row(app, below, parent, part, screen, arguments)
    return opened_as(app, below, parent, link, arguments, row)


def first_form_of(app: WiredApp, session: Session, index: int, source: str, key: Scalar) -> int:
    """The first entry, at ``index`` or below, that is a form of a record (10)."""
    for at, entry in enumerate(session.entries[:index]):
        is_form = isinstance(app.screens.get(entry.screen), FormScreen)
        if is_form and app.source_of(entry) == source and app.key_of(entry) == key:
            return at
    return index


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
        return session.with_entry(index, touched(old)), (_already(screen, arguments),)
    row = old.row
    below = session.with_entries(cut(session.entries, index))
    if row is not None:
        owner = owner_of(row, index)
        implied = implied_row(app, below, owner, row.part, screen, arguments)
        row = None if implied is None else replace(implied, of=row.of)
    view = stored_view(app, session, session.section, screen, arguments)
    new = Entry(screen.id, arguments, old.opened, "hand", row, view)
    note = _opened("in place", screen, arguments, old=old.screen)
    return session.with_entries((*below.entries, new)), (note,)


def implied_row(
    app: WiredApp,
    session: Session,
    index: int,
    part: str,
    screen: Screen,
    arguments: dict[str, Value],
) -> RowRef | None:
    """The row on a list of entry ``index`` that would have opened this screen just so, if any."""
    entry = session.entries[index]
    listed = app.listed(session, entry, part)
    if listed is None:
        return None
    for link in app.links_at((entry.screen, "row", part)):
        if link.to != screen.id:
            continue
        for key in _may_have_opened(listed.rows, link, arguments):
            row = RowRef(part, key)
            with suppress(Refused):
                is_followed = link_for(app, session, index, link, row) is link
                if is_followed and arguments_for(app, session, index, link, row) == arguments:
                    return row
    return None


def _may_have_opened(rows: Rows, link: Link, arguments: dict[str, Value]) -> Iterable[Scalar]:
    """The keys of the rows that a link may have started from: one, where it carries the key."""
    for argument in link.arguments:
        key = arguments.get(argument.parameter)
        is_key = isinstance(argument, FromField) and argument.field == rows.records.source.key
        if is_key and not argument.convert and key is not None and not isinstance(key, tuple):
            return () if rows.index_of(key) is None else (key,)
    if all(isinstance(each, FromConstant | FromArgument | FromValue) for each in link.arguments):
        return ()
    return (rows.key_at(row) for row in range(len(rows)))


def stored_view(
    app: WiredApp, session: Session, section: str, screen: Screen, arguments: dict[str, Value]
) -> View:
    """What was stored of a screen of a section with these arguments, or nothing (6)."""
    for kept in session.stored:
        if (kept.section, kept.screen, kept.arguments) == (section, screen.id, arguments):
            return kept.view
    return View()
