"""Checks of screens: what they show is there, and they can be told apart."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Final

from msgspec.structs import replace

from cadena.check.choosing import choosing_findings
from cadena.check.finding import Finding, Mend, first_few, found, of_screen
from cadena.check.forms import form_findings
from cadena.check.idle import idle_findings, without_button
from cadena.check.lists import bound_by_row, listing_findings
from cadena.model.app import App, AppValue, DetailScreen, FormScreen, Screen
from cadena.model.blocks import (
    AddressBlock,
    BodyBlock,
    FactsBlock,
    HeadingBlock,
    PictureBlock,
)
from cadena.model.edits.shaping import with_listing
from cadena.model.edits.wiring import Types, with_screen
from cadena.model.find import by_id
from cadena.model.listing import Button, Listing, Mark, RemoveRecord, SetValue
from cadena.model.naming import label_text
from cadena.model.outside_address import host_of, is_framed
from cadena.model.screen_parts import buttons, listings, opens_with, source_shown, triggers
from cadena.model.values import LIST
from cadena.records.records import Records
from cadena.records.template import fields_in

SPARSE: Final = 0.5
Bound = tuple[str, str]
"""A field that is bound, and the path of the place that binds it."""


def screen_findings(app: App, records: Mapping[str, Records], screen: Screen) -> Iterator[Finding]:
    """What is wrong with one screen."""
    where = f"screens[{screen.id}]"
    if not screen.title.strip():
        yield found(
            "title-missing", of_screen(screen), f"{screen.id} has no title", f"{where}.title"
        )
    if isinstance(screen, DetailScreen):
        yield from _detail_findings(app, records, screen, where)
    elif isinstance(screen, FormScreen):
        if by_id(app.sources, screen.source) is None:
            yield _no_source(screen, screen.source, f"{where}.source")
        yield from form_findings(app, records, screen)
        named = [each.value for each in screen.fields if each.value]
        yield from _value_findings(app, screen, named, f"{where}.fields")
    if source_shown(screen) in records:
        said = _bound_by_messages(screen, where)
        yield from _bindings(screen, records[source_shown(screen)], said)
    for part, listing in listings(screen).items():
        place = f"{where}.blocks[{part}].rows" if part else f"{where}.rows"
        yield from _list_findings(app, records, screen, listing, place)
    yield from _nowhere_findings(app, screen)
    yield from idle_findings(app, records, screen)
    yield from choosing_findings(app, records, screen)


def _nowhere_findings(app: App, screen: Screen) -> Iterator[Finding]:
    """What can be pressed and is said to open a screen has a link that does."""
    linked = {each.trigger for each in app.links}
    for trigger in triggers(screen):
        if trigger.on not in ("button", "action") or trigger in linked:
            continue
        yield found(
            "leads-nowhere",
            of_screen(screen, f"{trigger.on} {trigger.part}"),
            f"{trigger.part} of {screen.id} can be pressed, and no link starts from it",
            f"screens[{screen.id}].{trigger.on}s[{trigger.part}]",
        )


def _detail_findings(
    app: App, records: Mapping[str, Records], screen: DetailScreen, where: str
) -> Iterator[Finding]:
    source = by_id(app.sources, screen.source)
    if source is None:
        yield _no_source(screen, screen.source, f"{where}.source")
    if opens_with(screen) is None:
        yield found(
            "key-parameter-missing",
            of_screen(screen),
            f'{screen.id} finds its record by parameter "{screen.key}", which it does not declare',
            f"{where}.key",
            key=screen.key,
        )
    is_of_row = any(each.to == screen.id and each.trigger.on == "row" for each in app.links)
    if screen.neighbours and not is_of_row:
        yield found(
            "neighbours-of-none",
            of_screen(screen),
            f"{screen.id} offers the one before and the next, and no row opens it",
            f"{where}.neighbours",
        )
    if screen.source in records:
        yield from _bindings(screen, records[screen.source], _bound(screen, where))
        yield from _frames(app, screen, records[screen.source], where)
    if screen.takes_ground and source is not None and not source.stands_out:
        yield found(
            "ground-never",
            of_screen(screen),
            f"{screen.id} takes the ground of what stands out, and nothing of {source.id} does",
            f"{where}.takes_ground",
            why="it always stands on the same ground",
        )


def _frames(app: App, screen: DetailScreen, records: Records, where: str) -> Iterator[Finding]:
    """What is shown in a frame is of a host that the app names, for some record at least."""
    for block in screen.blocks:
        if not isinstance(block, AddressBlock) or not block.frame:
            continue
        values = records.values_of(block.field) if block.field in records.types else []
        if not any(is_framed(each, app.platform.frames_from) for each in values):
            hosts = first_few(host for each in values if (host := host_of(each))) or "no host"
            yield found(
                "frame-never",
                of_screen(screen, block.id),
                f"{screen.id} shows {block.field} in a frame, of {hosts}, which the app does not "
                "name",
                f"{where}.blocks[{block.id}].frame",
            )


def _bound(screen: DetailScreen, where: str) -> Iterator[Bound]:
    for name in fields_in(screen.title):
        yield name, f"{where}.title"
    for block in screen.blocks:
        place = f"{where}.blocks[{block.id}]"
        match block:
            case PictureBlock() | BodyBlock() | AddressBlock():
                yield block.field, f"{place}.field"
            case HeadingBlock():
                for name in fields_in(block.text):
                    yield name, f"{place}.text"
            case FactsBlock():
                for name in block.fields:
                    yield name, f"{place}.fields"


def _list_findings(
    app: App, records: Mapping[str, Records], screen: Screen, listing: Listing, where: str
) -> Iterator[Finding]:
    if by_id(app.sources, listing.source) is None:
        yield _no_source(screen, listing.source, f"{where}.source")
    if not listing.empty.strip():
        yield found(
            "empty-words-missing",
            of_screen(screen),
            f"a list on {screen.id} has no words for when it is empty",
            f"{where}.empty",
        )
    names = {each.name for each in screen.parameters}
    for condition in listing.where:
        if condition.argument and condition.argument not in names:
            yield found(
                "condition-argument-missing",
                of_screen(screen),
                f'a condition uses "{condition.argument}", which {screen.id} does not declare',
                f"{where}.where",
                argument=condition.argument,
            )
    yield from _value_findings(app, screen, _values_named(listing), where)
    yield from listing_findings(app, records, screen, listing, where)
    if listing.source in records:
        yield from _bindings(screen, records[listing.source], _bound_by_list(listing, where))


def _values_named(listing: Listing) -> list[str]:
    """The app-wide values that conditions and marks of a list name."""
    named = [each.value for each in listing.where if each.value]
    if isinstance(listing.press, Mark | SetValue):
        named.append(listing.press.value)
    return named + [e.does.value for e in listing.actions if isinstance(e.does, Mark)]


def _value_findings(app: App, screen: Screen, named: list[str], where: str) -> Iterator[Finding]:
    """App-wide values that are named are there."""
    values = {each.id for each in app.values}
    for name in dict.fromkeys(named):
        if name not in values:
            yield found(
                "value-missing",
                of_screen(screen, name),
                f'{screen.id} uses the app-wide value "{name}", and there is none of that name',
                where,
                name=name,
            )


def _bound_by_messages(screen: Screen, where: str) -> Iterator[Bound]:
    """The fields of what is said once something is done or saved."""
    if isinstance(screen, FormScreen):
        for name in fields_in(screen.says):
            yield name, f"{where}.says"
    for named, button in buttons(screen).items():
        for name in told_by(button):
            yield name, f"{where}.buttons[{named}]"


def told_by(button: Button) -> list[str]:
    """The fields of what a button asks before it does something, and says once it has."""
    asks = button.does.confirm if isinstance(button.does, RemoveRecord) else ""
    return [*fields_in(asks), *fields_in(button.says)]


def _bound_by_list(listing: Listing, where: str) -> Iterator[Bound]:
    yield from bound_by_row(listing.row, where)
    if listing.group_by:
        yield listing.group_by, f"{where}.group_by"
    for name in listing.search:
        yield name, f"{where}.search"
    for sort in listing.sort:
        yield sort.field, f"{where}.sort"
    for order in listing.orders:
        for sort in order.sort:
            yield sort.field, f"{where}.orders[{order.name}]"
    for condition in listing.where:
        yield condition.field, f"{where}.where"
    for button in listing.actions:
        for name in told_by(button):
            yield name, f"{where}.actions[{button.id}]"


def _bindings(screen: Screen, records: Records, bound: Iterator[Bound]) -> Iterator[Finding]:
    """Fields that are bound and not there, or there and empty in most records."""
    sayings = {each.name: each.when_empty for each in records.source.fields}
    for name, place in dict(bound).items():
        if name not in records.types:
            have = ", ".join(records.types)
            yield found(
                "field-missing",
                of_screen(screen),
                f'"{name}" is bound, and {records.source.id} has no such field',
                place,
                have=have,
            )
        elif name in sayings and sayings[name] != "–":
            continue
        elif len(records) and (share := len(records.gaps(name)) / len(records)) > SPARSE:
            yield found(
                "field-sparse",
                of_screen(screen),
                f'"{name}" is bound, and empty in {share:.0%} of {len(records)} records',
                place,
            )


def _no_source(screen: Screen, source: str, place: str) -> Finding:
    return found(
        "source-missing",
        of_screen(screen),
        f'{screen.id} shows records of "{source}", and there is no such source',
        place,
    )


def _titled(app: App, types: Types, finding: Finding) -> App | None:
    screen = by_id(app.screens, finding.subject.name)
    if screen is None:
        return None
    title = screen.id.capitalize()
    if isinstance(screen, DetailScreen) and (source := by_id(app.sources, screen.source)):
        title = label_text(source, types.get(source.id, {}))
    return with_screen(app, replace(screen, title=title))


def _with_words(app: App, types: Types, finding: Finding) -> App | None:
    """Every list of the screen has words for when it is empty."""
    screen = by_id(app.screens, finding.subject.name)
    if screen is None:
        return None
    for part, listing in listings(screen).items():
        if not listing.empty.strip():
            said = replace(listing, empty=f"No {listing.source} yet.")
            app = with_listing(app, by_id(app.screens, screen.id) or screen, part, said)
    return app


def _with_value(app: App, types: Types, finding: Finding) -> App | None:
    """The app with the app-wide list that a screen marks in or finds by."""
    name, screen = finding.subject.part, by_id(app.screens, finding.subject.name)
    source = by_id(app.sources, source_shown(screen)) if screen is not None else None
    kind = types.get(source.id, {}).get(source.key, "text") if source is not None else "text"
    if not name or kind.startswith(LIST) or kind == "picture":
        return None
    made = AppValue(id=name, type=f"{LIST}{kind}", keep="stored")  # type: ignore[arg-type]
    return replace(app, values=(*app.values, made))


def _without_neighbours(app: App, types: Types, finding: Finding) -> App | None:
    screen = by_id(app.screens, finding.subject.name)
    return (
        with_screen(app, replace(screen, neighbours=False))
        if isinstance(screen, DetailScreen)
        else None
    )


def _without_ground(app: App, types: Types, finding: Finding) -> App | None:
    """The screen, and its lists, without the ground of what stands out where nothing does."""
    screen = by_id(app.screens, finding.subject.name)
    if screen is None:
        return None
    plain = {each.id for each in app.sources if not each.stands_out}
    if isinstance(screen, DetailScreen) and screen.source in plain:
        screen = replace(screen, takes_ground=False)
        app = with_screen(app, screen)
    for part, listing in listings(screen).items():
        if listing.source in plain:
            row = replace(listing.row, takes_ground=False)
            app = with_listing(app, screen, part, replace(listing, row=row))
            screen = by_id(app.screens, screen.id) or screen
    return app


def _without_frame(app: App, types: Types, finding: Finding) -> App | None:
    screen = by_id(app.screens, finding.subject.name)
    if not isinstance(screen, DetailScreen):
        return None
    blocks = tuple(
        replace(block, frame=0)
        if isinstance(block, AddressBlock) and block.id == finding.subject.part
        else block
        for block in screen.blocks
    )
    return with_screen(app, replace(screen, blocks=blocks))


MENDS: Final[Mapping[str, Mend]] = {
    "leads-nowhere": without_button,
    "empty-words-missing": _with_words,
    "frame-never": _without_frame,
    "ground-never": _without_ground,
    "neighbours-of-none": _without_neighbours,
    "title-missing": _titled,
    "value-missing": _with_value,
}
