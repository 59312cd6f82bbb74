"""Checks of controls: what can be used does something."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Final

from msgspec.structs import replace

from cadena.check.finding import Finding, Mend, Weight, first_few, found, of_screen
from cadena.check.forms import WAYS, stays_here
from cadena.model.app import App, DetailScreen, FormScreen, ListScreen, Screen, Trigger
from cadena.model.blocks import ActionsBlock, FactsBlock
from cadena.model.edits.shaping import with_listing
from cadena.model.edits.wiring import Types, with_screen
from cadena.model.find import by_id
from cadena.model.listing import Button, LeaveFor, RemoveRecord, SetField, ToggleField
from cadena.model.outside_address import outside_address
from cadena.model.screen_parts import actions, buttons, listings
from cadena.model.source import Kind
from cadena.model.values import FieldType, Unfit, carry
from cadena.records.records import Records
from cadena.records.template import is_empty


def idle_findings(app: App, records: Mapping[str, Records], screen: Screen) -> Iterator[Finding]:
    """Controls of one screen that are always refused, or that nothing comes of."""
    if isinstance(screen, DetailScreen):
        yield from _facts(app, records, screen)
    elif isinstance(screen, FormScreen):
        yield from _form(records, screen)
    rows = {part: listing.source for part, listing in listings(screen).items()}
    own = getattr(screen, "source", "")
    for part, button in actions(screen).values():
        if rows.get(part) in records:
            yield from _change(app, records[rows[part]], screen, "action", button)
    for button in buttons(screen).values():
        if own in records:
            yield from _change(app, records[own], screen, "button", button)


def _change(
    app: App, records: Records, screen: Screen, on: str, button: Button
) -> Iterator[Finding]:
    """What an action changes is a field of the record that it is done to, and can be so."""
    does, name, part = button.does, button.id, f"{on} {button.id}"
    where = f"screens[{screen.id}].{on}s[{name}]"
    if isinstance(does, LeaveFor):
        yield from _leaving(records, screen, where, f"{name} of {screen.id}", does.field, part)
    way: Kind = "remove" if isinstance(does, RemoveRecord) else "change"
    source = by_id(app.sources, records.source.id) or records.source
    is_writing = isinstance(does, SetField | ToggleField | RemoveRecord)
    if is_writing and stays_here(source, way):
        yield found(
            "saves-here-only",
            of_screen(screen, part),
            f"{name} of {screen.id} writes to {source.id}, whose service takes {WAYS[way]}",
            where,
        )
    if not isinstance(does, SetField | ToggleField):
        return
    why = "it is refused whenever somebody presses it"
    if does.field not in records.types:
        yield found(
            "action-field-missing",
            of_screen(screen, part),
            f"{name} of {screen.id} changes {does.field}, and {records.source.id} has no such "
            "field",
            where,
        )
    elif does.field == records.source.key:
        what = f"{name} of {screen.id} changes {does.field}, the key, which stays as it is"
        yield _idle(screen, "breaks", where, what, why, "let it change another field", part)
    elif not _fits(does, records.types[does.field]):
        kind = records.types[does.field]
        what = f"{name} of {screen.id} sets {does.field} to what is no {kind}"
        yield _idle(screen, "breaks", where, what, why, "say a value of that type", part)


def _leaving(
    records: Records, screen: Screen, where: str, who: str, field: str, part: str
) -> Iterator[Finding]:
    """What the app is to be left for is an address, wherever there is anything."""
    values = [] if field not in records.types else records.values_of(field)
    filled = [each for each in values if not is_empty(each)]
    odd = [each for each in filled if outside_address(each) is None]
    if odd or not filled:
        said = f"{len(odd)} of {len(filled)} are none: {first_few(odd)}" if odd else "there is none"
        yield found(
            "leaves-for-nothing",
            of_screen(screen, part),
            f"{who} leaves for the address in {field}, and {said}",
            where,
        )


def _fits(does: SetField | ToggleField, kind: FieldType) -> bool:
    values = (does.to,) if isinstance(does, SetField) else does.between or (True,)
    try:
        for value in values:
            if value is not None:
                carry(value, kind)
    except Unfit:
        return False
    return True


def _facts(app: App, records: Mapping[str, Records], screen: DetailScreen) -> Iterator[Finding]:
    linked = {link.trigger.part for link in app.links if _is_fact_of(link.trigger, screen.id)}
    key = records[screen.source].source.key if screen.source in records else None
    for block in screen.blocks:
        if not isinstance(block, FactsBlock):
            continue
        where = f"screens[{screen.id}].blocks[{block.id}]"
        for name in block.in_place:
            if name == key:
                what = f"{name} is changed in place on {screen.id}, and is the key, which stays"
                why = "whatever is typed is refused"
            elif name not in block.fields:
                what = f"{name} is to be changed in place on {screen.id}, and is not shown there"
                why = "nobody can change it"
            else:
                continue
            mend = f"take {name} out of what is changed in place"
            yield _idle(screen, "weakens", f"{where}.in_place", what, why, mend, name)
        for name in block.opens:
            if name not in block.fields or name not in linked:
                what = f"{name} of {screen.id} is said to open what it refers to, and opens nothing"
                why = "it looks as any other fact, and nothing comes of pressing it"
                mend = f"link it to a screen, or take {name} out of what opens"
                yield _idle(screen, "weakens", f"{where}.opens", what, why, mend, name)


def _is_fact_of(trigger: Trigger, screen: str) -> bool:
    return trigger.screen == screen and trigger.on == "fact"


def _form(records: Mapping[str, Records], form: FormScreen) -> Iterator[Finding]:
    where = f"screens[{form.id}].fields"
    if not form.fields:
        what, why = f"{form.id} has no fields", "nothing can be typed, and saving keeps nothing"
        yield _idle(form, "weakens", where, what, why, "add the fields that people fill in")
    for field in form.fields:
        to = field.choices_from
        if to and (to not in records or not len(records[to])):
            what = f"{field.field} of {form.id} is chosen among {to}, of which there are none"
            why = "nothing can be chosen" + (
                ", and the form can never be saved" if field.required else ""
            )
            mend = "choose among a source with records, or let it be typed"
            place = f"{where}[{field.field}].choices_from"
            weight: Weight = "breaks" if field.required else "weakens"
            yield _idle(form, weight, place, what, why, mend, field.field)


def _idle(
    screen: Screen, weight: Weight, where: str, what: str, why: str, mend: str, part: str = ""
) -> Finding:
    about = of_screen(screen, part)
    return found("control-idle", about, what, where, weight=weight, why=why, mend=mend)


def _without_it(app: App, types: Types, finding: Finding) -> App | None:
    """The screen without what is idle on it; of a form a person has to decide."""
    screen, name = by_id(app.screens, finding.subject.name), finding.subject.part
    place = finding.where.rpartition(".")[2]
    if place not in ("in_place", "opens"):
        return without_button(app, types, finding)
    if not isinstance(screen, DetailScreen):
        return None
    blocks = tuple(
        replace(block, **{place: tuple(each for each in getattr(block, place) if each != name)})
        if isinstance(block, FactsBlock)
        else block
        for block in screen.blocks
    )
    return with_screen(app, replace(screen, blocks=blocks))


def without_button(app: App, types: Types, finding: Finding) -> App | None:
    """The app without a button, or an action, that nothing comes of."""
    screen = by_id(app.screens, finding.subject.name)
    on, _, name = finding.subject.part.partition(" ")
    if screen is None:
        return None
    if on == "action":
        for part, listing in listings(screen).items():
            stays = tuple(each for each in listing.actions if each.id != name)
            if stays != listing.actions:
                return with_listing(app, screen, part, replace(listing, actions=stays))
        return None
    if isinstance(screen, ListScreen):
        stays = tuple(each for each in screen.buttons if each.id != name)
        return with_screen(app, replace(screen, buttons=stays))
    if not isinstance(screen, DetailScreen):
        return None
    blocks = tuple(
        replace(block, buttons=tuple(e for e in block.buttons if e.id != name))
        if isinstance(block, ActionsBlock)
        else block
        for block in screen.blocks
    )
    kept = tuple(e for e in blocks if not isinstance(e, ActionsBlock) or e.buttons)
    return with_screen(app, replace(screen, blocks=kept))


MENDS: Final[Mapping[str, Mend]] = {
    "action-field-missing": without_button,
    "leaves-for-nothing": without_button,
    "control-idle": _without_it,
}
