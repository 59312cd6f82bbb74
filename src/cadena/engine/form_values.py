"""What is typed in a form, and what is at fault in it (rules.md, 10)."""

from __future__ import annotations

from typing import Final

from cadena.engine.notes import Refused
from cadena.engine.session import Entry, FormAt, Session
from cadena.engine.wired import WiredApp
from cadena.model.app import FormScreen
from cadena.model.blocks import FormField
from cadena.model.values import Unfit, Value, carry, same_value, shown
from cadena.records.template import is_empty

ONE_OF: Final = "must be one of {choices}"


class AtFault(ValueError):
    """What is typed in a field cannot be saved; its text tells the person of the app why."""


def form_of(app: WiredApp, entry: Entry) -> FormScreen:
    """The form that an entry shows.

    Raises:
        Refused: when it shows something else.
    """
    screen = app.screens.get(entry.screen)
    if not isinstance(screen, FormScreen):
        raise Refused("no form", f"screens[{entry.screen}]", screen=entry.screen)
    return screen


def value_before(app: WiredApp, session: Session, entry: Entry, field: FormField) -> Value | None:
    """What a field holds before anything is typed: the record's value, or what is filled in."""
    if app.key_of(entry) is not None:
        value: Value | None = (app.record_of(session, entry) or {}).get(field.field)
        return value
    given = entry.arguments.get(field.argument) if field.argument else None
    if given is None and field.value:
        given = session.values.get(field.value)
    return field.default if given is None else given


def value_in(app: WiredApp, session: Session, entry: Entry, name: str) -> Value | None:
    """What a field of an open form now holds."""
    if name in entry.view.draft:
        return entry.view.draft[name]
    field = next(each for each in form_of(app, entry).fields if each.field == name)
    return value_before(app, session, entry, field)


def with_typed(app: WiredApp, session: Session, index: int, name: str, to: Value | None) -> Session:
    """A session with a value in a field of an open form; what is as it was makes no draft.

    Raises:
        Refused: for a field that the form does not have.
    """
    entry = session.entries[index]
    field = next((each for each in form_of(app, entry).fields if each.field == name), None)
    if field is None:
        raise Refused("no such field", f"screens[{entry.screen}].fields", field=name)
    draft = {each: value for each, value in entry.view.draft.items() if each != name}
    before = value_before(app, session, entry, field)
    meant = _as_meant(app, entry, name, to)
    if not same_value(meant, before) and not (is_empty(to) and is_empty(before)):
        draft[name] = to
    return session.with_view(index, draft=draft)


def _as_meant(app: WiredApp, entry: Entry, name: str, to: Value | None) -> Value | None:
    """What was typed, as its field's type has it, where it says such a value."""
    kind = app.type_of(form_of(app, entry).source, name)
    try:
        return carry(to, kind, convert=True) if isinstance(to, str) and kind else to
    except Unfit:
        return to


def faults_of(app: WiredApp, session: Session, entry: Entry) -> dict[str, str]:
    """What is wrong with each field at fault, in words."""
    faults: dict[str, str] = {}
    for field in form_of(app, entry).fields:
        try:
            _demand_own_key(app, session, entry, field, checked(app, session, entry, field))
        except AtFault as fault:
            faults[field.field] = str(fault)
    return faults


def checked(app: WiredApp, session: Session, entry: Entry, field: FormField) -> Value | None:
    """The value of a field as it would be written.

    Raises:
        AtFault: in words for the person who fills the form in.
    """
    source = form_of(app, entry).source
    value = value_in(app, session, entry, field.field)
    kind = app.type_of(source, field.field)
    if is_empty(value):
        if field.required:
            raise AtFault(app.words("is required"))
        return None
    if kind is None:
        raise AtFault(app.words("is no field of the records"))
    try:
        value = carry(value, kind, convert=True)
    except Unfit:
        is_date = kind == "date"
        text = "must be a date, YYYY-MM-DD" if is_date else "must be {type}"
        raise AtFault(app.words(text, type=app.words(kind))) from None
    if field.choices and value not in field.choices:
        raise AtFault(app.words(ONE_OF, choices=", ".join(map(shown, field.choices))))
    if field.choices_from:
        records = app.records(session, field.choices_from)
        if records is None or records.row_of(value) is None:
            raise AtFault(app.words(ONE_OF, choices=field.choices_from))
    _demand_within(app, field, value)
    return value


def _demand_own_key(
    app: WiredApp, session: Session, entry: Entry, field: FormField, value: Value | None
) -> None:
    """The key of a record stays as it is; that of a new one is no other's."""
    records = app.records(session, form_of(app, entry).source)
    if records is None or field.field != records.source.key:
        return
    if app.key_of(entry) is not None:
        if field.field in entry.view.draft:
            raise AtFault(app.words("stays as it is"))
    elif value is not None and records.row_of(value) is not None:
        raise AtFault(app.words("is taken"))


def _demand_within(app: WiredApp, field: FormField, value: Value) -> None:
    measured = len(value) if isinstance(value, str | tuple) else value
    letters = " characters" if isinstance(value, str) else ""
    least, most = field.least, field.most
    if least is not None and measured < least:
        raise AtFault(_bound(app, f"must be at least {{least}}{letters}", "least", least))
    if most is not None and measured > most:
        raise AtFault(_bound(app, f"must be at most {{most}}{letters}", "most", most))


def _bound(app: WiredApp, text: str, name: str, bound: float) -> str:
    return app.words(text, count=int(bound), **{name: shown(bound)})


def _holds(form: FormAt, section: str, entry: Entry) -> bool:
    return form.is_of(section, entry) and form.draft == entry.view.draft


def draft_lost(
    before: Session, after: Session, saved: int | None = None, asker: int | None = None
) -> Entry | None:
    """The first form with a draft that is open before and not after, or none.

    Args:
        saved: the entry on display whose draft was saved: it is not lost.
        asker: the one that something may have been brought to, which can make what is typed
            there what was there before.
    """
    for name, chain in before.chains.items():
        now = after.chains.get(name)
        if now is chain:
            continue
        for index, entry in enumerate(chain.entries):
            if not entry.view.draft or (index == saved and name == before.section):
                continue
            if any(e.form is not None and _holds(e.form, name, entry) for e in after.writes):
                # What is being sent, or was not, has what was typed.
                continue
            there = None if now is None or index >= len(now.entries) else now.entries[index]
            if there is None or (there.screen, there.arguments) != (entry.screen, entry.arguments):
                return entry
            if not there.view.draft and not (index == asker and name == before.section):
                return entry
    return None
