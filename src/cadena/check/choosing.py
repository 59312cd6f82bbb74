"""Checks of ways to choose: what a press does, several rows at once, lists opened to choose."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from typing import Final

from msgspec.structs import replace

from cadena.check.finding import Finding, Mend, found, of_link, of_screen, of_thing
from cadena.engine.rules.picked import for_several
from cadena.model.app import App, Brings, FormScreen, Link, ListScreen, Screen, Trigger
from cadena.model.edits.shaping import with_listing
from cadena.model.edits.wiring import Types, with_link, with_screen
from cadena.model.find import by_id
from cadena.model.listing import (
    Button,
    Follow,
    ForSeveral,
    Listing,
    Mark,
    RemoveRecord,
    SetValue,
)
from cadena.model.screen_parts import listings
from cadena.model.values import LIST, fits
from cadena.records.records import Records


def choosing_findings(
    app: App, records: Mapping[str, Records], screen: Screen
) -> Iterator[Finding]:
    """What is wrong with how the rows of a screen are pressed and picked, and its fields filled."""
    for part, listing in listings(screen).items():
        where = f"screens[{screen.id}]" + (f".blocks[{part}].rows" if part else ".rows")
        yield from _pressed(app, records, screen, part, listing, where)
        yield from _picked(screen, part, listing, where)
    if isinstance(screen, FormScreen):
        yield from _opening(app, screen)


def _pressed(
    app: App,
    records: Mapping[str, Records],
    screen: Screen,
    part: str,
    listing: Listing,
    where: str,
) -> Iterator[Finding]:
    """What a press on a row sets or marks can hold its key; no link waits for it in vain (7.8)."""
    press = listing.press
    if isinstance(press, Follow):
        return
    row = Trigger(screen=screen.id, part=part)
    link = next((each for each in app.links if each.trigger == row), None)
    if link is not None:
        yield found(
            "press-hides-link",
            of_screen(screen, f"list {part}"),
            f"a row of {screen.id} is said to do something else, and {link.id} starts from it",
            f"{where}.press",
        )
    value = by_id(app.values, getattr(press, "value", ""))
    own = records.get(listing.source)
    if value is None or own is None or own.source.key not in own.types:
        return
    kind = own.types[own.source.key]
    wanted = value.type.removeprefix(LIST) if isinstance(press, Mark) else value.type
    is_fit = isinstance(press, SetValue) or value.type.startswith(LIST)
    if not is_fit or not fits(kind, wanted):
        yield found(
            "press-unfit",
            of_screen(screen, f"list {part}"),
            f"a press on a row of {screen.id} puts its key ({kind}) into {value.id} ({value.type})",
            f"{where}.press",
            value=value.id,
        )


def _picked(screen: Screen, part: str, listing: Listing, where: str) -> Iterator[Finding]:
    """Who picks several rows can do something with them, and is asked in words for several (14)."""
    told = [each for each in listing.actions if each.several is not None]
    done = for_several(listing)
    if listing.several == "no":
        for button in told:
            yield _never(screen, where, button, "its list lets no rows be picked")
        return
    if not done:
        yield found(
            "several-without-action",
            of_screen(screen, f"list {part}"),
            f"several rows of {screen.id} can be picked, and no action is for several",
            f"{where}.several",
        )
    for button in told:
        if button not in done:
            yield _never(screen, where, button, "what it does is done to one record alone")
        elif _lacks_words(button):
            yield found(
                "several-without-words",
                of_screen(screen, f"action {button.id}"),
                f"{button.id} asks or says something of one record, and has no words for several",
                f"{where}.actions[{button.id}].several",
            )


def _lacks_words(button: Button) -> bool:
    several = button.several
    return several is not None and (
        (_asks(button) and not several.confirm) or (bool(button.says) and not several.says)
    )


def _asks(button: Button) -> bool:
    return isinstance(button.does, RemoveRecord) and bool(button.does.confirm)


def _never(screen: Screen, where: str, button: Button, why: str) -> Finding:
    return found(
        "several-never",
        of_screen(screen, f"action {button.id}"),
        f"{button.id} is for several, and {why}",
        f"{where}.actions[{button.id}].several",
    )


def _opening(app: App, form: FormScreen) -> Iterator[Finding]:
    """A field that is said to open a list does (15)."""
    linked = {each.trigger for each in app.links}
    for field in form.fields:
        if field.opens and Trigger(screen=form.id, on="field", part=field.field) not in linked:
            yield found(
                "field-opens-nothing",
                of_screen(form, field.field),
                f"{field.field} of {form.id} is said to open a list, and no link starts from it",
                f"screens[{form.id}].fields[{field.field}].opens",
            )


def bringing_findings(app: App, records: Mapping[str, Records], link: Link) -> Iterator[Finding]:
    """A list that is opened to choose can be ended by a row, and brings it somewhere (15)."""
    on, brings = link.trigger.on, link.brings
    if on == "field" and brings is None:
        yield _vain(link, "it starts from a field of a form, and brings nothing to it")
    if brings is None:
        return
    target = by_id(app.screens, link.to)
    if on not in ("field", "fact", "button"):
        yield _vain(link, "it brings something back, and starts from no field, fact or button")
    elif link.how == "replace":
        yield _vain(link, "it takes the place of the screen that it is to bring something to")
    elif target is not None and brings.list not in listings(target):
        named = brings.list or "of its own"
        yield _vain(link, f"{link.to} has no list {named} that could end it")
    elif target is not None:
        source = records.get(listings(target)[brings.list].source)
        if brings.field and source is not None and brings.field not in source.types:
            yield _vain(link, f"{brings.field} is brought, and {source.source.id} has none")
    if on == "button":
        yield from _into(app, link, brings)


def _into(app: App, link: Link, brings: Brings) -> Iterator[Finding]:
    """What a button brings has a place."""
    screen = by_id(app.screens, link.trigger.screen)
    if screen is None:
        return
    if brings.argument:
        is_there = any(each.name == brings.argument for each in screen.parameters)
        is_key = not isinstance(screen, ListScreen) and screen.key == brings.argument
        if not is_there or is_key:
            yield _vain(link, f"{brings.argument} of {screen.id} cannot take what is brought")
    elif by_id(app.values, brings.value) is None:
        yield _vain(link, "what it brings goes into no value and no argument that there is")


def _vain(link: Link, what: str) -> Finding:
    return found("brings-in-vain", of_link(link), what, f"links[{link.id}].brings")


def shown_on_findings(app: App) -> Iterator[Finding]:
    """App-wide values that rows are to show are shown by some list (7.8)."""
    shown = {each.source for screen in app.screens for each in listings(screen).values()}
    for value in app.values:
        if value.shown_on and value.shown_on not in shown:
            yield found(
                "shown-on-nothing",
                of_thing("value", value.id),
                f"rows of {value.shown_on} are to show {value.id}, and no list has such rows",
                f"values[{value.id}].shown_on",
            )


def _listing_of(app: App, finding: Finding) -> tuple[Screen, str, Listing] | None:
    """The list that a finding is about, by its part or by one of its actions."""
    screen = by_id(app.screens, finding.subject.name)
    what, _, name = finding.subject.part.partition(" ")
    for part, listing in {} if screen is None else listings(screen).items():
        is_it = part == name if what == "list" else any(e.id == name for e in listing.actions)
        if is_it and screen is not None:
            return screen, part, listing
    return None


def _with_press_opening(app: App, types: Types, finding: Finding) -> App | None:
    found = _listing_of(app, finding)
    return found and with_listing(app, *found[:2], replace(found[2], press=Follow()))


def _with_none_picked(app: App, types: Types, finding: Finding) -> App | None:
    found = _listing_of(app, finding)
    return found and with_listing(app, *found[:2], replace(found[2], several="no"))


def _with_words_for_several(app: App, types: Types, finding: Finding) -> App | None:
    return _with_action(app, finding, _button_for_several)


def _for_one(app: App, types: Types, finding: Finding) -> App | None:
    return _with_action(app, finding, lambda each: replace(each, several=None))


def _with_action(app: App, finding: Finding, change: Callable[[Button], Button]) -> App | None:
    found, name = _listing_of(app, finding), finding.subject.part.partition(" ")[2]
    if found is None:
        return None
    actions = tuple(change(each) if each.id == name else each for each in found[2].actions)
    return with_listing(app, *found[:2], replace(found[2], actions=actions))


def _button_for_several(button: Button) -> Button:
    several = button.several or ForSeveral()
    confirm = several.confirm or (f"{button.label}: {{count}}?" if _asks(button) else "")
    says = several.says or (f"{button.label}: {{count}}" if button.says else "")
    return replace(button, several=replace(several, confirm=confirm, says=says))


def _typed(app: App, types: Types, finding: Finding) -> App | None:
    """The form with a field that is typed into."""
    form = by_id(app.screens, finding.subject.name)
    if not isinstance(form, FormScreen):
        return None
    fields = tuple(
        replace(field, opens=False) if field.field == finding.subject.part else field
        for field in form.fields
    )
    return with_screen(app, replace(form, fields=fields))


def _ended_by_its_list(app: App, types: Types, finding: Finding) -> App | None:
    """The link as one that can be ended: by the list of its screen, over who asks."""
    link = by_id(app.links, finding.subject.name)
    target = None if link is None else by_id(app.screens, link.to)
    if link is None or not isinstance(target, ListScreen) or link.trigger.on == "row":
        return None
    there = types.get(target.rows.source, {})
    brings = link.brings or Brings()
    field = brings.field if brings.field in there else ""
    listed = brings.list if brings.list in listings(target) else ""
    how = "push" if link.how == "replace" else link.how
    made = replace(link, how=how, brings=replace(brings, field=field, list=listed))
    return None if made == link else with_link(app, made)


def _without_shown_on(app: App, types: Types, finding: Finding) -> App | None:
    name = finding.subject.name
    values = (replace(each, shown_on="") if each.id == name else each for each in app.values)
    return replace(app, values=tuple(values))


MENDS: Final[Mapping[str, Mend]] = {
    "brings-in-vain": _ended_by_its_list,
    "field-opens-nothing": _typed,
    "press-hides-link": _with_press_opening,
    "several-never": _for_one,
    "several-without-action": _with_none_picked,
    "several-without-words": _with_words_for_several,
    "shown-on-nothing": _without_shown_on,
}
