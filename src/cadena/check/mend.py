"""Mending what can be mended without asking: each is an edit that undo takes back."""

from __future__ import annotations

from msgspec.structs import replace

from cadena.check.finding import Finding
from cadena.check.mend_fit import mended_fit
from cadena.check.secrets import without_secrets
from cadena.model.app import App, AppValue, DetailScreen, FormScreen, Link, ListScreen, Screen
from cadena.model.blocks import FormField, ListBlock
from cadena.model.edits.wiring import (
    Types,
    make_target,
    sensible,
    with_argument,
    with_link,
    with_screen,
    with_section,
    without_argument,
    without_link,
    without_screen,
)
from cadena.model.find import by_id
from cadena.model.listing import Listing
from cadena.model.naming import label_field
from cadena.model.screen_parts import elements_of, listings, slots_of, source_shown
from cadena.model.values import LIST
from cadena.runs.keep.mend import with_chains_saved


def mended(app: App, types: Types, finding: Finding) -> App | None:
    """The app with a finding mended, or none where a person has to decide."""
    name = finding.where.partition("arguments[")[2].rstrip("]")
    link = by_id(app.links, finding.link)
    screen = by_id(app.screens, finding.screen)
    match finding.code:
        case "argument-missing" | "argument-unfit" | "position-carried" | "record-carried":
            target = by_id(app.screens, link.to) if link is not None else None
            if link is None or target is None:
                return None
            parameter = next((each for each in target.parameters if each.name == name), None)
            argument = None if parameter is None else sensible(app, types, link.trigger, parameter)
            return None if argument is None else with_link(app, with_argument(link, argument))
        case "argument-surplus" if link is not None:
            return with_link(app, without_argument(link, name))
        case "pair-missing" if link is not None and link.transition is not None:
            there = _slots_and_elements(app, link)
            pairs = tuple(
                each
                for each in link.transition.pairs
                if each.slot in there[0] and each.element in there[1]
            )
            transition = replace(link.transition, pairs=pairs)
            return with_link(app, replace(link, transition=transition))
        case "trigger-missing" if link is not None:
            return without_link(app, link.id)
        case "screen-missing" if link is not None:
            try:
                return make_target(app, types, link.trigger, link.to)[0]
            except ValueError:
                return None
        case "secret-in-project" if ".headers." in finding.where:
            sources = tuple(
                without_secrets(each) if finding.where.startswith(f"sources[{each.id}]") else each
                for each in app.sources
            )
            return replace(app, sources=sources)
        case "title-missing" if screen is not None:
            return with_screen(app, _titled(app, types, screen))
        case "empty-words-missing" if screen is not None:
            return with_screen(app, _with_words(screen))
        case "screen-unreachable" if screen is not None:
            return without_screen(app, screen.id)
        case "limit-without-words" if isinstance(screen, ListScreen):
            rows = replace(screen.rows, past_limit="{shown} shown, {found} found, {all} in all")
            return with_screen(app, replace(screen, rows=rows))
        case "after-save-returns" if link is not None:
            return without_link(app, link.id)
        case "form-field-missing" | "form-misses-required" if isinstance(screen, FormScreen):
            return with_screen(app, _filled(app, types, screen))
        case "row-says-twice" if isinstance(screen, ListScreen):
            slot = finding.where.rpartition(".")[2]
            row = replace(screen.rows.row, **{slot: ""})
            return with_screen(app, replace(screen, rows=replace(screen.rows, row=row)))
        case "value-missing":
            return _with_value(app, types, finding)
        case "chain-dropped":
            name = finding.where.partition("[")[2].partition("]")[0]
            section = by_id(app.sections, name)
            return None if section is None else with_section(app, replace(section, keep="saved"))
        case "state-lost":
            return with_chains_saved(app, finding.screen)
        case "stored-without-limit":
            return replace(app, platform=replace(app.platform, stored_most=200))
        case (
            "arrangement-unreachable"
            | "window-without-arrangement"
            | "pane-under-least"
            | "list-hidden"
            | "screen-asks-window"
            | "turn-loses"
            | "window-cannot-be"
        ):
            return mended_fit(app, finding)
        case "start-missing" if app.sections:
            return replace(app, start=app.sections[0].id)
    return None


def _slots_and_elements(app: App, link: Link) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """What a transition of a link can pair: slots of the row, elements of the screen."""
    screen, target = by_id(app.screens, link.trigger.screen), by_id(app.screens, link.to)
    listing = None if screen is None else listings(screen).get(link.trigger.part)
    slots = () if listing is None else slots_of(listing)
    return slots, elements_of(target) if isinstance(target, DetailScreen) else ()


def _filled(app: App, types: Types, form: FormScreen) -> FormScreen:
    """The form with the fields that are required, and none that are not there."""
    source = by_id(app.sources, form.source)
    there = types.get(form.source, {})
    kept = tuple(each for each in form.fields if each.field in there)
    named = {each.field for each in kept}
    missing = tuple(
        FormField(field=each.name, required=True)
        for each in (source.fields if source is not None else ())
        if each.required and each.name not in named
    )
    return replace(form, fields=(*kept, *missing))


def _with_value(app: App, types: Types, finding: Finding) -> App | None:
    """The app with the app-wide list that a screen marks in or finds by."""
    name = finding.what.partition('"')[2].partition('"')[0]
    screen = by_id(app.screens, finding.screen)
    source = by_id(app.sources, source_shown(screen)) if screen is not None else None
    kind = types.get(source.id, {}).get(source.key, "text") if source is not None else "text"
    if not name or kind.startswith(LIST) or kind == "picture":
        return None
    made = AppValue(id=name, type=f"{LIST}{kind}")  # type: ignore[arg-type]
    return replace(app, values=(*app.values, made))


def _titled(app: App, types: Types, screen: Screen) -> Screen:
    if isinstance(screen, DetailScreen) and (source := by_id(app.sources, screen.source)):
        return replace(screen, title="{" + label_field(source, types.get(source.id, {})) + "}")
    return replace(screen, title=screen.id.capitalize())


def _with_words(screen: Screen) -> Screen:
    def said(listing: Listing) -> Listing:
        return (
            listing
            if listing.empty.strip()
            else replace(listing, empty=f"No {listing.source} yet.")
        )

    if isinstance(screen, ListScreen):
        return replace(screen, rows=said(screen.rows))
    if not isinstance(screen, DetailScreen):
        return screen
    blocks = tuple(
        replace(block, rows=said(block.rows)) if isinstance(block, ListBlock) else block
        for block in screen.blocks
    )
    return replace(screen, blocks=blocks)
