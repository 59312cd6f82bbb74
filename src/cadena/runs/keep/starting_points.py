"""An app brought to where it has something to lose: pieces of state that hold something."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any, Final, NamedTuple

from cadena.engine import events as do
from cadena.engine.form_values import value_in
from cadena.engine.layout.forms import free_text_field
from cadena.engine.rules.asking import has_rows_to_bring
from cadena.engine.rules.display import display_of
from cadena.engine.rules.dividing import dividers_of
from cadena.engine.rules.unsent import NO_ANSWER
from cadena.engine.session import Session
from cadena.engine.step import step
from cadena.engine.wired import Listed, WiredApp
from cadena.model.app import FormScreen
from cadena.model.listing import Sort
from cadena.model.values import LIST, Scalar, Value
from cadena.records.template import is_empty
from cadena.runs.keep.pieces import OF_WRITING, Piece
from cadena.runs.possible import on_screen
from cadena.runs.shortest_walks import Way

_ONE: Final[Mapping[str, Scalar]] = {
    "text": "kept",
    "whole number": 7,
    "number": 7.5,
    "yes/no": True,
    "date": "2026-01-07",
    "date and time": "2026-01-07T09:30:00Z",
}
SAMPLES: Final[Mapping[str, Value]] = {
    **_ONE,
    **{f"{LIST}{kind}": (one,) for kind, one in _ONE.items()},
}
"""A value of each type."""


class Stand(NamedTuple):
    """An app brought to where some pieces have something to lose.

    ``place`` is where in the chain of ``section`` their screen is.
    """

    way: Way
    section: str
    place: int
    pieces: tuple[Piece, ...]


def stands(
    app: WiredApp, found: Mapping[str, Way], pieces: tuple[Piece, ...], seen: set[object]
) -> Iterator[Stand | None]:
    """The app brought to each screen, with everything on it that can be lost.

    None is given where work was done that came to nothing new.

    Args:
        seen: the links that were followed so far, with so many panes, and so much come of
            sources that answer late: none is followed twice.
    """
    for screen, way in found.items():
        section, index = way.session.section, way.entry
        mine = tuple(
            each for each in pieces if each.of == screen and each.kind not in ("chain", "value")
        )
        of_view = tuple(each for each in mine if each.kind not in ("chosen row", "carried"))
        for some in _apart(of_view):
            yield Stand(_prepared(app, way, some), section, index, some)
        for piece in (each for each in mine if each.kind in OF_WRITING):
            yield Stand(_sent(app, way, piece), section, index, (piece,))
        yield from _chosen(app, way, index, mine)
    carrying: list[Stand] = []
    for stand in _carrying(app, found, pieces):
        carrying.append(stand)
        session = stand.way.session
        come = [tuple(load.brought for load in e.loads.values()) for e in session.entries]
        panes = len(display_of(app, session).panes)
        followed = (stand.way.events[-1], stand.pieces, panes, tuple(come))
        yield None if followed in seen else stand
        seen.add(followed)
    deepest: dict[str, Stand] = {}
    ends = (Stand(way, way.session.section, way.entry, ()) for way in found.values())
    for stand in (*ends, *carrying):
        known = deepest.get(stand.section)
        if known is None or len(stand.way.session.entries) > len(known.way.session.entries):
            deepest[stand.section] = stand
    for section, stand in deepest.items():
        chain = tuple(each for each in pieces if (each.kind, each.of) == ("chain", section))
        yield stand._replace(pieces=chain)
        ahead = tuple(each for each in pieces if (each.kind, each.of) == ("forward", section))
        back = after(app, stand.way, (do.Back(),)) if ahead else stand.way
        if back.session.ahead:
            yield Stand(back, section, max(0, len(back.session.entries) - 1), ahead)
    yield from _divided(app, found, pieces)
    start = min(found.values(), key=lambda each: len(each.events), default=None)
    for piece in pieces:
        if piece.kind == "value" and start is not None:
            event = do.SetValue(value=piece.of, to=_something(app, piece.of))
            yield Stand(after(app, start, (event,)), start.session.section, 0, (piece,))


def _sent(app: WiredApp, way: Way, piece: Piece) -> Way:
    """A way at whose end what a form holds is being sent, or no answer has come to that."""
    screen, index = app.screens[piece.of], way.entry
    if not isinstance(screen, FormScreen):
        return way
    way = after(app, way, tuple(_typing(app, way, screen)))
    way = after(app, way, (do.Save(screen=piece.of, entry=index),))
    call = next((e.call for e in way.session.writes if e.state == "sending"), None)
    if piece.kind == "being sent" or call is None:
        return way
    return after(app, way, (do.Written(request=call, outcome="unsent", why=NO_ANSWER),))


def _typing(app: WiredApp, way: Way, form: FormScreen) -> Iterator[do.Event]:
    """What is typed so that a form can be saved, and holds something of its own."""
    free, entry = free_text_field(app, form), way.session.entries[way.entry]
    on: dict[str, Any] = {"screen": form.id, "entry": way.entry}
    records = app.as_read.get(form.source)
    for field in form.fields:
        kind = "text" if records is None else records.types.get(field.field, "text")
        if field.field == free:
            yield do.Type(**on, field=field.field, to="Ilva")
        elif field.required and is_empty(value_in(app, way.session, entry, field.field)):
            among = app.records(way.session, field.choices_from) if field.choices_from else None
            some = field.choices[0] if field.choices else SAMPLES.get(kind)
            if among is not None and len(among):
                some = among.key_at(0)
            yield do.Type(**on, field=field.field, to=some)


def _divided(app: WiredApp, found: Mapping[str, Way], pieces: tuple[Piece, ...]) -> Iterator[Stand]:
    """The app with a divider moved of the arrangement that is on display (3.2)."""
    for piece in (each for each in pieces if each.kind == "dividers"):
        for way in sorted(found.values(), key=lambda each: len(each.events)):
            display = display_of(app, way.session)
            dividers = dividers_of(way.session, display)
            if display.arrangement.id == piece.of and dividers:
                first = dividers[0]
                middle = (first.size + min(first.most, first.size * 2)) / 2
                to = middle if first.size < first.most else (first.size + first.least) / 2
                moved = after(app, way, (do.Divide(pane=first.pane, to=to),))
                yield Stand(moved, way.session.section, 0, (piece,))
                break


def _apart(pieces: tuple[Piece, ...]) -> Iterator[tuple[Piece, ...]]:
    """Scrolling by itself: a search would begin at the top again."""
    together = ("search", "choice", "sort", "page", "draft")
    for kinds in (("scroll",), together, ("groups",), ("picked",)):
        some = tuple(each for each in pieces if each.kind in kinds)
        if some:
            yield some


def _carrying(
    app: WiredApp, found: Mapping[str, Way], pieces: tuple[Piece, ...]
) -> Iterator[Stand]:
    """The app gone along each link, to the screen that something is carried to, or that is opened
    to choose from."""
    of: dict[tuple[str, str], Piece] = {(each.kind, each.of): each for each in pieces}
    for link in app.app.links:
        way = found.get(link.trigger.screen)
        kinds = ("carried", "asked for") if has_rows_to_bring(app, link) else ("carried",)
        mine = tuple(of[kind, link.to] for kind in kinds if (kind, link.to) in of)
        if way is None or not mine or link.trigger.on == "saved":
            continue
        offered = on_screen(app, way.session, way.entry, second)
        event = next((each.event for each in offered if each.link is link), None)
        if event is None:
            continue
        gone = after(app, way, (event,))
        place = way.entry if link.how == "replace" else way.entry + 1
        entries = gone.session.entries
        if place < len(entries) and entries[place].screen == link.to:
            yield Stand(gone, gone.session.section, place, mine)


def _chosen(app: WiredApp, way: Way, index: int, pieces: tuple[Piece, ...]) -> Iterator[Stand]:
    """The app with a row of each list chosen."""
    chosen = {each.part: each for each in pieces if each.kind == "chosen row"}
    for event, _ in on_screen(app, way.session, index, second) if chosen else ():
        if isinstance(event, do.Choose) and event.list in chosen:
            gone = after(app, way, (event,))
            if gone.events != way.events:
                yield Stand(gone, way.session.section, index, (chosen[event.list],))


def second(listed: Listed) -> Iterator[Scalar]:
    """The second row: at the first a position cannot be told from nothing."""
    if len(listed.rows):
        yield listed.rows.key_at(min(1, len(listed.rows) - 1))


def after(app: WiredApp, way: Way, events: tuple[do.Event, ...]) -> Way:
    """The way with more events; what is refused is no step of it."""
    session, done = way.session, way.events
    for event in events:
        session, _, refused = step(app, session, event)
        done = done if refused else (*done, event)
    return way._replace(events=done, session=session)


def _prepared(app: WiredApp, way: Way, pieces: tuple[Piece, ...]) -> Way:
    """A way with something to lose for each of some pieces of its last screen."""
    for piece in pieces:
        events = tuple(_to_lose(app, way, piece))
        way = after(app, way, events)
    return way


def _to_lose(app: WiredApp, way: Way, piece: Piece) -> Iterator[do.Event]:
    """Events after which a piece holds something."""
    index = way.entry
    entry = way.session.entries[index]
    screen = app.screens[piece.of]
    match piece.kind:
        case "scroll":
            yield do.Scroll(screen=piece.of, entry=index, to=100.0)
        case "search":
            text = _found_text(app, way.session, index, piece.part)
            if text:
                yield do.Search(screen=piece.of, entry=index, list=piece.part, text=text)
        case "sort":
            listing = app.listings[piece.of][piece.part]
            records = app.as_read.get(listing.source)
            names = [] if records is None else list(records.types)
            if names:
                by = (Sort(field=names[-1], descending=True),)
                yield do.SortBy(screen=piece.of, entry=index, list=piece.part, by=by)
        case "choice":
            listed = app.listed(way.session, entry, piece.part)
            if listed is not None and len(listed.rows):
                key = listed.rows.key_at(0)
                yield do.Choose(screen=piece.of, entry=index, list=piece.part, key=key)
        case "groups":
            listed = app.listed(way.session, entry, piece.part)
            if listed is not None and listed.rows.groups:
                on = {"screen": piece.of, "entry": index, "list": piece.part}
                title, is_open = listed.rows.groups[0][1], 0 in listed.closed
                yield do.ShowGroup(**on, title=title, open=is_open)  # type: ignore[arg-type]
        case "picked":
            listed = app.listed(way.session, entry, piece.part)
            for key in () if listed is None else second(listed):
                yield do.Pick(screen=piece.of, entry=index, list=piece.part, key=key)
        case "page":
            yield do.TurnPage(screen=piece.of, entry=index, to=app.pages[piece.of][-1])
        case "draft" if isinstance(screen, FormScreen):
            field = free_text_field(app, screen)
            if field is not None:
                yield do.Type(screen=piece.of, entry=index, field=field, to="Ilva")


def _found_text(app: WiredApp, session: Session, index: int, part: str) -> str:
    """The beginning of a word that a search finds."""
    entry = session.entries[index]
    listed = app.listed(session, entry, part)
    if listed is None or not len(listed.rows):
        return ""
    record = listed.rows.record_at(0)
    for field in listed.listing.search:
        word = str(record.get(field) or "").strip()
        if word:
            return word[:2]
    return ""


def _something(app: WiredApp, value: str) -> Value:
    """A value of an app-wide value's type that is not its default."""
    declared = app.values[value]
    if declared.type == "yes/no":
        return declared.default is not True
    return SAMPLES[declared.type]
