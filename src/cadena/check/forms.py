"""Checks of forms: they can be saved, and saving leads out of them."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Final

from msgspec.structs import replace

from cadena.check.finding import Finding, Mend, found, of_link, of_screen, without_its_link
from cadena.model.app import App, FormScreen, Link
from cadena.model.blocks import FormField
from cadena.model.edits.targets import kept_on_its_lists, unlisted
from cadena.model.edits.wiring import Types, with_screen
from cadena.model.find import by_id
from cadena.model.screen_parts import listings
from cadena.model.source import Kind, Source, takes_of
from cadena.model.values import shown
from cadena.records.records import Records

WAYS: Final[Mapping[Kind, str]] = {
    "create": "no new ones",
    "change": "no changes",
    "remove": "no removals",
}
"""What a source that is written to does not take, in words."""


def stays_here(source: Source, kind: Kind) -> bool:
    """Whether what is written to a source in this way stays in the app (rules.md, 9.1)."""
    takes = takes_of(source)
    return kind not in takes and (source.served == "service" or bool(takes))


def _ways_of_writing(app: App, form: FormScreen) -> Iterator[Kind]:
    """How a form writes: new records where something opens it without a key, else changes."""
    opened = [link for link in app.links if link.to == form.id]
    given = [any(each.parameter == form.key for each in link.arguments) for link in opened]
    is_root = any(each.root == form.id for each in app.sections)
    if is_root or not all(given) or not opened:
        yield "create"
    if any(given):
        yield "change"


def form_findings(
    app: App, all_records: Mapping[str, Records], form: FormScreen
) -> Iterator[Finding]:
    """What is wrong with one form."""
    where = f"screens[{form.id}]"
    records = all_records.get(form.source)
    source = by_id(app.sources, form.source)
    if records is None or source is None:
        return
    if missing := [each for each in _ways_of_writing(app, form) if stays_here(source, each)]:
        yield found(
            "saves-here-only",
            of_screen(form),
            f"{form.id} saves records of {source.id}, whose service takes "
            f"{' and '.join(WAYS[each] for each in missing)}",
            f"{where}.source",
        )
    names = [each.field for each in form.fields]
    for name in names:
        if name not in records.types:
            have = ", ".join(records.types)
            yield found(
                "form-field-missing",
                of_screen(form, name),
                f'the form has a field "{name}", and {source.id} has none',
                f"{where}.fields[{name}]",
                have=have,
            )
    for field in source.fields:
        can_be_made = field.name == source.key and field.type in ("text", "whole number")
        if field.required and field.name not in names and not can_be_made:
            yield found(
                "form-misses-required",
                of_screen(form, field.name),
                f'{source.id} requires "{field.name}", and the form cannot set it',
                f"{where}.fields",
                field=field.name,
            )
    for link in app.links:
        trigger = link.trigger
        if (trigger.screen, trigger.on, link.to) == (form.id, "saved", form.id):
            yield found(
                "after-save-returns",
                of_link(link),
                f"after saving, {form.id} opens itself again",
                f"links[{link.id}].to",
            )


def unlisted_findings(app: App, link: Link) -> Iterator[Finding]:
    """New records that would not be on the list beside which they are added."""
    for part, condition in unlisted(app, link):
        wanted = condition.argument or condition.value or shown(condition.constant)
        yield found(
            "new-not-listed",
            of_link(link),
            f"{part or link.trigger.screen} has only those whose {condition.field} is {wanted},"
            f" and what {link.to} saves from there begins otherwise",
            field=condition.field,
            wanted=wanted,
        )


def _with_it_listed(app: App, types: Types, finding: Finding) -> App | None:
    link = by_id(app.links, finding.subject.name)
    return None if link is None else kept_on_its_lists(app, link)


def _with_fields_needed(app: App, types: Types, finding: Finding) -> App | None:
    """The form with the fields that are required, and none that are not there."""
    form = by_id(app.screens, finding.subject.name)
    if not isinstance(form, FormScreen):
        return None
    source = by_id(app.sources, form.source)
    there = types.get(form.source, {})
    kept = tuple(each for each in form.fields if each.field in there)
    named = {each.field for each in kept}
    missing = tuple(
        FormField(field=field.name, required=True)
        for field in (source.fields if source is not None else ())
        if field.required and field.name not in named
    )
    return with_screen(app, replace(form, fields=(*kept, *missing)))


def _taken(app: App, types: Types, finding: Finding) -> App | None:
    """The stand-ins that a screen writes to take all that is written; what a service takes is for
    it to say."""
    screen = by_id(app.screens, finding.subject.name)
    if screen is None:
        return None
    used = {getattr(screen, "source", ""), *(e.source for e in listings(screen).values())}
    every = tuple(WAYS)
    sources = tuple(
        replace(source, stand_in=replace(source.stand_in, takes=every))
        if source.id in used and source.served == "stand-in" and source.stand_in.takes
        else source
        for source in app.sources
    )
    return replace(app, sources=sources) if sources != app.sources else None


MENDS: Final[Mapping[str, Mend]] = {
    "saves-here-only": _taken,
    "after-save-returns": without_its_link,
    "form-field-missing": _with_fields_needed,
    "form-misses-required": _with_fields_needed,
    "new-not-listed": _with_it_listed,
}
