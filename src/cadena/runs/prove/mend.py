"""The app mended where a cause of a broken claim says by itself what would do."""

from __future__ import annotations

from typing import NamedTuple

from msgspec.structs import replace

from cadena.model.app import App, FromPosition, FromRecord, Link, Screen
from cadena.model.claims import Aside
from cadena.model.edits.wiring import (
    Types,
    sensible,
    with_argument,
    with_link,
    with_screen,
    with_section,
    without_link,
)
from cadena.model.find import by_id
from cadena.model.part import Lifetime
from cadena.runs.prove.causes import Cause, thing_of

OUTLIVES: tuple[Lifetime, ...] = ("saved", "stored")


class Mended(NamedTuple):
    """The app with a cause mended, and in words what that does."""

    app: App
    words: str


def mended(app: App, types: Types, cause: Cause) -> Mended | None:
    """The app without a cause, or none where a person has to decide."""
    thing, name = thing_of(cause.where)
    link = by_id(app.links, name) if thing == "links" else None
    if link is not None:
        return _of_link(app, types, cause, link)
    if cause.where.endswith(".keep.draft"):
        return _draft_kept(app, name)
    if thing == "sections" and cause.where.endswith(".keep"):
        section = by_id(app.sections, name)
        if section is not None:
            kept = with_section(app, replace(section, keep="saved"))
            return Mended(kept, f"Keep what is open in {section.title or name}")
    return None


def _of_link(app: App, types: Types, cause: Cause, link: Link) -> Mended | None:
    if cause.claim in ("copy", "grows"):
        made = with_link(app, replace(link, if_open="go back to it"))
        return Mended(made, f"Go back to {link.to} where it is open")
    if cause.claim == "root" and link.how == "replace":
        return Mended(with_link(app, replace(link, how="push")), f"Push {link.to} instead")
    if cause.claim == "after saving":
        return Mended(without_link(app, link.id), "Go back after saving")
    target = by_id(app.screens, link.to)
    if target is None:
        made = without_link(app, link.id)
        return Mended(made, "Remove the link") if cause.claim == "opens" else None
    if cause.claim in ("opens", "chosen", "there", "address"):
        return _keys_carried(app, types, cause, link, target)
    return None


def _keys_carried(
    app: App, types: Types, cause: Cause, link: Link, target: Screen
) -> Mended | None:
    """What a link leaves out, or carries as a position or a copy, carried as it should be."""
    given = {each.parameter: each for each in link.arguments}
    refused = "" if isinstance(cause.what, str) else cause.what.data.get("parameter")
    made = link
    for parameter in target.parameters:
        came = given.get(parameter.name)
        is_copy = isinstance(came, FromPosition | FromRecord)
        is_missing = came is None and parameter.need == "required"
        if not (is_copy or is_missing or parameter.name == refused):
            continue
        better = sensible(app, types, link.trigger, parameter)
        if better is not None and better != came:
            made = with_argument(made, better)
    if made == link:
        return None
    return Mended(with_link(app, made), "Carry the key")


def _draft_kept(app: App, name: str) -> Mended | None:
    screen = by_id(app.screens, name)
    if screen is None:
        return None
    title = screen.title if "{" not in screen.title else name
    if screen.keep.draft not in OUTLIVES:
        kept = replace(screen, keep=replace(screen.keep, draft="saved"))
        return Mended(with_screen(app, kept), f"Keep what is typed in {title}")
    return None


def set_aside(app: App, cause: Cause, why: str) -> App:
    """The app with a claim not made at the place of a cause, and why."""
    others = tuple(
        breach for breach in app.aside if (breach.claim, breach.where) != (cause.claim, cause.where)
    )
    return replace(app, aside=(*others, Aside(claim=cause.claim, where=cause.where, why=why)))


def claimed_again(app: App, claim: str, where: str) -> App:
    """The app with a claim made again where it was set aside."""
    left = tuple(each for each in app.aside if (each.claim, each.where) != (claim, where))
    return replace(app, aside=left)
