"""What a source that is written to is changed by: add, edit and remove (rules.md, 9.1)."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec.structs import replace

from cadena.model.app import App, DetailScreen, FormScreen, FromField, Link, ListScreen, Trigger
from cadena.model.blocks import ActionsBlock, FormField
from cadena.model.edits.targets import form_for
from cadena.model.edits.wiring import Types, with_link, with_screen
from cadena.model.find import by_id, unused
from cadena.model.listing import Button, RemoveRecord
from cadena.model.naming import label_text, singular
from cadena.model.source import Source, takes_of


def with_writing(app: App, types: Types, source: Source, told: Sequence[FormField] = ()) -> App:
    """The app with what its service takes of a source: a button that adds, one that edits, and an
    action that removes.

    Args:
        told: the fields of a form, as the service describes what it is sent.
    """
    takes = takes_of(source)
    if not takes:
        return app
    screens = [each for each in app.screens if isinstance(each, ListScreen)]
    listed = next((each for each in screens if each.rows.source == source.id), None)
    details = (each for each in app.screens if isinstance(each, DetailScreen))
    detail = next((each for each in details if each.source == source.id), None)
    if takes & {"create", "change"}:
        form = form_for(app, types, source)
        form = replace(form, fields=tuple(told) or form.fields)
        app = with_screen(app, form)
        if "create" in takes and listed is not None:
            app = _with_add(app, listed, form, source)
        if "change" in takes and detail is not None:
            app = _with_edit(app, detail, form, source)
    if "remove" in takes and listed is not None:
        app = _with_remove(app, listed.id, source, types)
    return app


def _with_add(app: App, listed: ListScreen, form: FormScreen, source: Source) -> App:
    name = unused("add", [each.id for each in listed.buttons])
    button = Button(id=name, label="Add")
    app = with_screen(app, replace(listed, buttons=(*listed.buttons, button)))
    link = Link(
        id=unused(f"{listed.id}-add", [each.id for each in app.links]),
        trigger=Trigger(screen=listed.id, on="button", part=name),
        to=form.id,
        how="modal",
    )
    return with_link(app, link)


def _with_edit(app: App, detail: DetailScreen, form: FormScreen, source: Source) -> App:
    blocks = [each.id for each in detail.blocks]
    button = Button(id="edit", label="Edit")
    block = ActionsBlock(id=unused("edit", blocks), buttons=(button,), place="bar")
    app = with_screen(app, replace(detail, blocks=(*detail.blocks, block)))
    link = Link(
        id=unused(f"{detail.id}-edit", [each.id for each in app.links]),
        trigger=Trigger(screen=detail.id, on="button", part="edit"),
        to=form.id,
        how="modal",
        arguments=(FromField(parameter=form.key, field=source.key),),
    )
    return with_link(app, link)


def _with_remove(app: App, name: str, source: Source, types: Types) -> App:
    listed = by_id(app.screens, name)
    if not isinstance(listed, ListScreen):
        return app
    label = label_text(source, types.get(source.id, {}))
    what = label or singular(source.title or source.id).lower()
    does = RemoveRecord(confirm=f"Remove {what}?")
    taken = [each.id for each in listed.rows.actions]
    action = Button(id=unused("remove", taken), label="Remove", does=does)
    rows = replace(listed.rows, actions=(*listed.rows.actions, action))
    return with_screen(app, replace(listed, rows=rows))
