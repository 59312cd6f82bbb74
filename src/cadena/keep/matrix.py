"""Every piece of state against every disturbance: each mark is the result of a run."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Any, Final, Literal, NamedTuple, get_args

from msgspec.structs import replace

from cadena.engine import events as do
from cadena.engine.form_pieces import free_text_field
from cadena.engine.notes import Notes, Refused
from cadena.engine.opening import arguments_for
from cadena.engine.session import Session, Window
from cadena.engine.step import step
from cadena.engine.ways import Way, ways
from cadena.engine.windows import window_of
from cadena.engine.wired import WiredApp
from cadena.keep.disturbances import (
    DISTURBANCES,
    Disturbance,
    as_before,
    in_new_version,
    windows_that_matter,
)
from cadena.keep.pieces import Piece, pieces_of, size_of, value_of
from cadena.model.app import FormScreen
from cadena.model.listing import Sort
from cadena.model.values import Value
from cadena.model.windows import windows_of

Mark = Literal[
    "nothing to keep here",
    "kept",
    "let go as asked",
    "moved on as asked",
    "lost",
    "wrong",
]
WORST: Final[tuple[Mark, ...]] = get_args(Mark)
"""From what says least to what is worst; of several windows the worst is told."""

SIGNS: Final[dict[Mark, str]] = {
    "nothing to keep here": " ",
    "kept": "✓",
    "let go as asked": "–",
    "moved on as asked": "↷",
    "lost": "✕",
    "wrong": "≠",
}


class Run(NamedTuple):
    """One run of one piece: how the app was brought there, what disturbed it, what came back.

    ``events`` bring a fresh app in ``window`` to ``before``; ``disturbing`` lead to ``after``.
    ``place`` is where in its chain the screen of the piece is.
    """

    piece: Piece
    disturbance: str
    mark: Mark
    window: Window
    window_name: str
    events: tuple[do.Event, ...]
    disturbing: tuple[do.Event, ...]
    had: Any
    has: Any
    asked: str
    before: Session
    after: Session
    place: int

    @property
    def is_broken(self) -> bool:
        """Whether it was lost, or came back as something else."""
        return self.mark in ("lost", "wrong")

    @property
    def size(self) -> int:
        """Bytes of the piece, saved."""
        return size_of(self.had)


class Stand(NamedTuple):
    """An app brought to where some pieces have something to lose."""

    way: Way
    section: str
    place: int
    pieces: tuple[Piece, ...]


Matrix = dict[tuple[Piece, str], Run]
Known = dict[tuple[Any, ...], tuple[tuple[Any, ...], tuple[Run, ...]]]


def matrix_of(app: WiredApp) -> Matrix:
    """For each piece and each disturbance, the run with the worst mark of all windows."""
    return worst(runs(app))


def worst(some: Iterable[Run]) -> Matrix:
    """Of several runs of one piece through one disturbance, the one with the worst mark."""
    found: Matrix = {}
    for run in some:
        key = (run.piece, run.disturbance)
        known = found.get(key)
        if known is None or WORST.index(run.mark) > WORST.index(known.mark):
            found[key] = run
    return found


def runs(app: WiredApp, known: Known | None = None) -> Iterator[Run]:
    """Run every piece through every disturbance, at each window that matters.

    Args:
        known: the runs there were, kept from one time to the next: those that nothing they
            depend on has changed for are told again, and not run.
    """
    pieces = pieces_of(app)
    named = windows_of(app.app)
    known = {} if known is None else known
    for number in windows_that_matter(app):
        window = window_of(named[number])
        for stand in _stands(app, window, pieces):
            place = (window, stand.way.events, stand.section, stand.place, stand.pieces)
            depends = _depends_on(app, stand)
            was = known.get(place)
            if was is not None and was[0] == depends:
                yield from was[1]
                continue
            made: list[Run] = []
            for disturbance in DISTURBANCES:
                for run in _disturbed(app, stand, disturbance, window, named[number].name):
                    made.append(run)
                    yield run
            known[place] = (depends, tuple(made))


def _depends_on(app: WiredApp, stand: Stand) -> tuple[Any, ...]:
    """All of an app that the runs of a stand can depend on."""
    chains = stand.way.session.chains.values()
    names = {entry.screen for chain in chains for entry in chain.entries}
    model = app.app
    return (
        tuple(each for each in model.screens if each.id in names),
        tuple(each for each in model.links if each.trigger.screen in names),
        (model.sections, model.arrangements, model.values, model.platform, model.start),
        (model.sources, model.windows, model.locale),
        tuple(each.serial for each in app.as_read.values()),
    )


def _stands(app: WiredApp, window: Window, pieces: tuple[Piece, ...]) -> Iterator[Stand]:
    """The app brought to each screen, with everything on it that can be lost."""
    found = ways(app, window)
    deepest: dict[str, Way] = {}
    for screen, way in found.items():
        section, index = way.session.section, way.entry
        known = deepest.get(section)
        if known is None or len(way.session.entries) > len(known.session.entries):
            deepest[section] = way
        mine = tuple(
            each for each in pieces if each.of == screen and each.kind not in ("chain", "value")
        )
        of_view = tuple(each for each in mine if each.kind not in ("chosen row", "carried"))
        for some in _apart(of_view):
            yield Stand(_prepared(app, way, some), section, index, some)
        carried = tuple(each for each in mine if each.kind == "carried")
        if carried:
            yield Stand(way, section, index, carried)
        yield from _chosen(app, way, index, mine)
    for section, way in deepest.items():
        chain = tuple(each for each in pieces if (each.kind, each.of) == ("chain", section))
        yield Stand(way, section, way.entry, chain)
    start = min(found.values(), key=lambda each: len(each.events), default=None)
    for piece in pieces:
        if piece.kind == "value" and start is not None:
            event = do.SetValue(value=piece.of, to=_something(app, piece.of))
            yield Stand(_after(app, start, (event,)), start.session.section, 0, (piece,))


def _apart(pieces: tuple[Piece, ...]) -> Iterator[tuple[Piece, ...]]:
    """Scrolling by itself: a search would begin at the top again."""
    for kinds in (("scroll",), ("search", "choice", "sort", "page", "draft")):
        some = tuple(each for each in pieces if each.kind in kinds)
        if some:
            yield some


def _chosen(app: WiredApp, way: Way, index: int, pieces: tuple[Piece, ...]) -> Iterator[Stand]:
    """The app with a row of each list chosen."""
    entry = way.session.entries[index]
    for piece in pieces:
        if piece.kind != "chosen row":
            continue
        listed = app.listed(way.session, entry, piece.part)
        if listed is None or not len(listed.rows):
            continue
        key = listed.rows.key_at(min(1, len(listed.rows) - 1))
        event = do.Choose(screen=piece.of, entry=index, list=piece.part, key=key)
        yield Stand(_after(app, way, (event,)), way.session.section, index, (piece,))


def _after(app: WiredApp, way: Way, events: tuple[do.Event, ...]) -> Way:
    session = way.session
    for event in events:
        session, _ = step(app, session, event)
    return way._replace(events=(*way.events, *events), session=session)


def _prepared(app: WiredApp, way: Way, pieces: tuple[Piece, ...]) -> Way:
    """A way with something to lose for each of some pieces of its last screen."""
    for piece in pieces:
        events = tuple(_to_lose(app, way, piece))
        way = _after(app, way, events)
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
    samples: dict[str, Value] = {
        "text": "kept",
        "whole number": 7,
        "number": 7.5,
        "yes/no": declared.default is not True,
        "date": "2026-01-07",
        "list of text": ("kept",),
        "list of whole number": (7,),
        "list of number": (7.5,),
        "list of yes/no": (True,),
        "list of date": ("2026-01-07",),
    }
    return samples[declared.type]


def _disturbed(
    app: WiredApp, stand: Stand, disturbance: Disturbance, window: Window, name: str
) -> Iterator[Run]:
    """Disturb an app and compare what came back of each piece."""
    before = stand.way.session
    index = min(stand.place, len(before.entries) - 1)
    events = disturbance.events(app, before, index) if index >= 0 else None
    after = before
    notes: Notes = ()
    for event in events or ():
        after, said = step(app, after, event)
        notes = (*notes, *said)
    refused = any(each.kind == "refused" for each in notes)
    if disturbance.name == "new version" and index >= 0:
        after = in_new_version(app, before, before.entries[index].screen)
    for piece in stand.pieces:
        had = value_of(before, piece, stand.section, stand.place)
        has = value_of(after, piece, stand.section, stand.place)
        if has is None and piece.lifetime == "stored":
            has = _stored(before, after, piece, stand)
        if disturbance.name == "new version":
            has = as_before(piece, has)
        mark: Mark = "nothing to keep here"
        asked = "keep"
        if events is not None and had is not None and not refused:
            asked = asked_of(app, piece, disturbance.name, before, notes)
            if _is_by_rule(before, stand):
                asked = "let go"
            mark = _judged(had, has, asked)
            is_carried = piece.kind in ("carried", "chain") and disturbance.name != "new version"
            if mark == "kept" and is_carried and not _still_answers(app, after, stand):
                mark = "wrong"
        yield Run(
            piece,
            disturbance.name,
            mark,
            window,
            name,
            stand.way.events,
            events or (),
            had,
            has,
            asked,
            before,
            after,
            stand.place,
        )


def _stored(before: Session, after: Session, piece: Piece, stand: Stand) -> Any:
    """What is stored of a screen that is not open now: it is back when that is opened again."""
    chain = before.chains.get(stand.section)
    if chain is None or not 0 <= stand.place < len(chain.entries):
        return None
    entry = chain.entries[stand.place]
    for each in after.stored:
        identity = (each.section, each.screen, each.arguments)
        if identity == (stand.section, entry.screen, entry.arguments):
            opened = replace(entry, view=each.view)
            entries = (*chain.entries[: stand.place], opened)
            again = after.with_chain(replace(chain, entries=entries))
            return value_of(again, piece, stand.section, stand.place)
    return None


def asked_of(
    app: WiredApp, piece: Piece, disturbance: str, before: Session, notes: Notes
) -> Literal["keep", "let go", "move on"]:
    """What the app asks for a piece in a disturbance (behaviour.md, 6 and 8).

    What was typed is to outlive whatever the person did not do: a draft that lives as long as
    its view is asked to be kept all the same.
    """
    life = piece.lifetime
    if disturbance == "relaunch":
        return "keep" if life == "stored" else "let go"
    if disturbance == "kill":
        keeps = life in ("saved", "stored") or (piece.kind == "draft" and life == "view")
        return "keep" if keeps else "let go"
    rebuilt = any(each.kind == "rebuilt" for each in notes)
    if disturbance == "section" and app.sections[before.section].returns == "root":
        is_above = piece.kind in ("chain", "carried", "chosen row") or len(before.entries) > 1
        return "let go" if is_above and piece.kind != "value" and life != "stored" else "keep"
    if life == "view" and piece.kind not in ("draft", "value", "chain", "carried", "chosen row"):
        gone = rebuilt or disturbance == "section"
        return "let go" if gone else "keep"
    if disturbance == "row gone":
        return _asked_when_gone(piece, notes)
    return "keep"


def _asked_when_gone(piece: Piece, notes: Notes) -> Literal["keep", "let go", "move on"]:
    """A row in view moves on to the one in its place; screens go as they say (8)."""
    if piece.kind == "value":
        return "keep"
    has_gone = any(each.kind in ("moved on", "closed") for each in notes)
    return "move on" if piece.kind == "scroll" or has_gone else "keep"


def _is_by_rule(before: Session, stand: Stand) -> bool:
    """Whether a screen was opened by a rule and not touched: it may go with its pane (5.3)."""
    chain = before.chains.get(stand.section)
    if chain is None or not 0 <= stand.place < len(chain.entries):
        return False
    return chain.entries[stand.place].by == "rule"


def _judged(had: Any, has: Any, asked: str) -> Mark:
    """What came back, against what was asked for."""
    if has == had:
        return "kept"
    if asked == "let go":
        return "let go as asked"
    if asked == "move on":
        return "moved on as asked" if has is not None else "let go as asked"
    return "lost" if has is None else "wrong"


def _still_answers(app: WiredApp, after: Session, stand: Stand) -> bool:
    """Whether what is carried is what the row that opened the screen would carry now."""
    chain = after.chains.get(stand.section)
    if chain is None or not 0 <= stand.place < len(chain.entries):
        return True
    entry = chain.entries[stand.place]
    if entry.row is None or stand.place == 0:
        return True
    placed = replace(after, section=stand.section)
    parent = placed.entries[stand.place - 1]
    link = app.row_links.get((parent.screen, entry.row.part))
    listing = app.listings.get(parent.screen, {}).get(entry.row.part)
    records = None if listing is None else app.records(placed, listing.source)
    if link is None or records is None or records.row_of(entry.row.key) is None:
        return True
    try:
        return arguments_for(app, placed, stand.place - 1, link, entry.row) == entry.arguments
    except Refused:
        return False
