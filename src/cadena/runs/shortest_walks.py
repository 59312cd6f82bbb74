"""Ways to every screen: the shortest walks from a section's root that open it, really run."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final, NamedTuple

from cadena.engine import events as do
from cadena.engine.rules.display import display_of
from cadena.engine.session import Session, Window
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.app import Link
from cadena.model.search import nearest_first
from cadena.runs.possible import on_screen, until_answered

AT_MOST: Final = 60_000
"""Ms of virtual time that a late source is waited for."""


class Way(NamedTuple):
    """The events that open a screen, from a start of the app, and what they come to.

    ``beyond`` is how many entries a rule has opened after the screen.
    """

    events: tuple[do.Event, ...]
    session: Session
    beyond: int = 0

    @property
    def entry(self) -> int:
        """Where the screen stands in the chain: last, but for what a rule has opened."""
        return len(self.session.entries) - 1 - self.beyond


def ways(app: WiredApp, window: Window) -> dict[str, Way]:
    """For each screen that can be opened in a window, the shortest walk that does.

    Rows are the first of their lists. What only saving a form leads to is not tried.
    """
    begun, _ = start(app, window)
    found: dict[str, Way] = {}

    def roots() -> Iterator[Way]:
        for section in app.sections.values():
            events = tuple(_marking(app, begun, section.root))
            if section.id != begun.section:
                events = (*events, do.GoTo(section=section.id))
            way = _taken(app, Way((), begun), events)
            if way is None or way.session.section != section.id or not way.session.entries:
                continue
            last = way.session.entries[-1].screen
            if last not in found:
                found[last] = way
                yield way
            if section.root not in found:
                found[section.root] = _at_root(app, way)

    def beyond(way: Way) -> Iterator[Way]:
        screen = way.session.entries[-1].screen
        for link in app.app.links:
            if link.trigger.screen != screen or link.to in found:
                continue
            for event in following(app, way, link):
                on = _taken(app, way, (event,))
                if on is not None and on.session.entries[-1].screen == link.to:
                    found[link.to] = on
                    yield on
                    break

    for _ in nearest_first(roots(), beyond, lambda way: way.session.entries[-1].screen):
        pass
    return found


def _at_root(app: WiredApp, way: Way) -> Way:
    """The way to a root that a rule has opened something on: gone back to where it is covered."""
    beyond = len(way.session.entries) - 1
    back = _taken(app, way, (do.Back(),) * beyond)
    shown = {each.entry for each in display_of(app, way.session).shown}
    if 0 in shown or back is None or len(back.session.entries) != 1:
        return way._replace(beyond=beyond)
    return back


def nearest(found: dict[str, Way], screens: int | None) -> dict[str, Way]:
    """The ways to so many screens, those of the fewest events; all, where none is said."""
    if screens is None or len(found) <= screens:
        return found
    by_length = sorted(found, key=lambda each: len(found[each].events))
    return {each: found[each] for each in by_length[:screens]}


def _marking(app: WiredApp, session: Session, screen: str) -> Iterator[do.Event]:
    """Events that mark the first few records, for a list that shows only what is marked."""
    for listing in app.listings[screen].values():
        records = app.as_read.get(listing.source)
        for condition in listing.where:
            if (
                condition.test == "is one of"
                and condition.value in app.values
                and records is not None
            ):
                is_key = condition.field == records.source.key
                if is_key and len(records) and not session.values.get(condition.value):
                    keys = tuple(records.key_at(at) for at in range(min(3, len(records))))
                    yield do.SetValue(value=condition.value, to=keys)


def _taken(app: WiredApp, way: Way, events: tuple[do.Event, ...]) -> Way | None:
    """The way with more events, and with what late sources bring; none where one is refused."""
    session, done = way.session, way.events
    for event in events:
        session, _, refused = step(app, session, event)
        if refused:
            return None
        done = (*done, event)
    waited = 0
    while waited < AT_MOST and (wait := until_answered(session)) is not None:
        session, *_ = step(app, session, wait)
        done = (*done, wait)
        waited += wait.ms
    return Way(done, session)


def following(app: WiredApp, way: Way, link: Link) -> Iterator[do.Event]:
    """The events that could follow a link from the last screen of a way."""
    for move in on_screen(app, way.session, way.entry):
        if move.link is not None and move.link.id == link.id and link.trigger.on != "saved":
            yield move.event
