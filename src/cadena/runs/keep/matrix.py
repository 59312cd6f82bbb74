"""Every piece of state against every disturbance: each mark is the result of a run."""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Iterator
from typing import Any, Final, NamedTuple

from msgspec.structs import replace

from cadena.engine import events as do
from cadena.engine.notes import Notes, Refused
from cadena.engine.rules.opening import arguments_for
from cadena.engine.rules.window_change import window_of
from cadena.engine.session import Session, Window
from cadena.engine.step import resume, step
from cadena.engine.wired import ITEM, NOT_LOADED, WiredApp
from cadena.model.app import ListScreen, NamedWindow
from cadena.model.values import Value
from cadena.model.windows import windows_of
from cadena.runs.keep.disturbances import (
    DISTURBANCES,
    Disturbance,
    Spot,
    as_before,
    windows_that_matter,
)
from cadena.runs.keep.hard_cases import CASES
from cadena.runs.keep.pieces import OF_WRITING, Piece, pieces_of, value_of
from cadena.runs.keep.rows_in_view import ListStand, judged_in_view, lists_in_view
from cadena.runs.keep.run import Asked, Compared, Mark, Matrix, Run, worst
from cadena.runs.keep.starting_points import Stand, stands
from cadena.runs.shortest_walks import nearest, ways

LIKE: Final = {"restored": "kill", "while away": "section"}
"""Hard cases of which the same is asked as of a disturbance."""

Known = dict[tuple[Any, ...], tuple[tuple[Any, ...], tuple[Run, ...]]]


def matrix_of(app: WiredApp) -> Matrix:
    """For each piece and each disturbance, the run with the worst mark of all windows."""
    return worst(runs(app))


def runs(app: WiredApp, known: Known | None = None, screens: int | None = None) -> Iterator[Run]:
    """Run every piece through every disturbance, and every list through the hard cases.

    Args:
        known: the runs there were, kept from one time to the next: those that nothing they
            depend on has changed for are told again, and not run.
        screens: how many screens are measured, those nearest to the start; none for all.
    """
    return (each for each in runs_slowly(app, known, screens) if each is not None)


def runs_slowly(
    app: WiredApp, known: Known | None = None, screens: int | None = None
) -> Iterator[Run | None]:
    """The same in small pieces of work, one for each ``next``: of some there is none to tell."""
    pieces = pieces_of(app)
    named = windows_of(app.app)
    known = {} if known is None else known
    before = set(known)
    told: set[tuple[Any, ...]] = set()
    seen: set[object] = set()
    for number in windows_that_matter(app):
        found = nearest(ways(app, window_of(named[number])), screens)
        yield None
        every: Iterable[Stand | ListStand | None] = itertools.chain(
            stands(app, found, pieces, seen), lists_in_view(app, found, seen)
        )
        for of in every:
            if of is None:
                yield None
                continue
            stand = of.stand if isinstance(of, ListStand) else of
            window = window_of(named[number])
            place = (window, stand.way.events, stand.section, stand.place, stand.pieces)
            told.add(place)
            yield from _again(app, stand, of, named[number], known, place)
    for place in before - told:
        del known[place]


def _again(
    app: WiredApp,
    stand: Stand,
    of: Stand | ListStand,
    named: NamedWindow,
    known: Known,
    place: tuple[Any, ...],
) -> Iterator[Run]:
    """The runs of a stand, as they are known where nothing has changed for them."""
    depends = _depends_on(app, stand)
    was = known.get(place)
    if was is not None and was[0] == depends:
        yield from was[1]
        return
    made: list[Run] = []
    for run in _runs_of(app, of, window_of(named), named.name):
        made.append(run)
        yield run
    known[place] = (depends, tuple(made))


def _runs_of(app: WiredApp, of: Stand | ListStand, window: Window, name: str) -> Iterator[Run]:
    """Every run of a stand, or of what is in view of a list."""
    if isinstance(of, ListStand):
        piece = of.stand.pieces[0]
        for case in CASES:
            happened = None if of.had is None else _happened(app, of.stand, case)
            compared = _compared_in_view(app, of, case, happened)
            yield _run(of.stand, piece, case, happened, compared, window, name)
        return
    for disturbance in DISTURBANCES:
        happened = _happened(app, of, disturbance)
        for piece in of.pieces:
            compared = _compared(app, of, piece, disturbance, happened)
            yield _run(of, piece, disturbance, happened, compared, window, name)


def _run(
    stand: Stand,
    piece: Piece,
    disturbance: Disturbance,
    happened: Happened | None,
    compared: Compared,
    window: Window,
    name: str,
) -> Run:
    before = stand.way.session
    return Run(
        piece,
        disturbance.name,
        compared.mark,
        window,
        name,
        stand.way.events,
        () if happened is None else happened.events,
        compared.had,
        compared.has,
        compared.asked,
        before,
        before if happened is None else happened.after,
        stand.place,
        compared.instead,
    )


def _depends_on(app: WiredApp, stand: Stand) -> tuple[Any, ...]:
    """All of an app that the runs of a stand can depend on."""
    chains = stand.way.session.chains.values()
    names = {entry.screen for each in chains for entry in each.entries}
    model = app.app
    names |= _opened_by_rule(app, names)
    return (
        tuple(each for each in model.screens if each.id in names),
        tuple(each for each in model.links if each.trigger.screen in names),
        (model.sections, model.arrangements, model.values, model.platform, model.start),
        (model.sources, model.windows, model.locale),
        tuple(each.serial for each in app.as_read.values()),
    )


def _opened_by_rule(app: WiredApp, names: set[str]) -> set[str]:
    """The screens that a rule may open beside some others, in another window (5.2, 5.5)."""
    is_first = any(each.detail_first != "no" for each in app.arrangements)
    opened: set[str] = set()
    for link in app.followed:
        if link.trigger.on != "row":
            continue
        screen = app.screens.get(link.trigger.screen)
        asks = isinstance(screen, ListScreen) and (is_first or screen.nothing_chosen != "say so")
        if asks and link.how == "beside" and link.trigger.screen in names | opened:
            opened.add(link.to)
    return opened


class Happened(NamedTuple):
    """What a disturbance did: its events, the app and the session after it, what was said of
    them, and whether one was refused."""

    events: tuple[do.Event, ...]
    app: WiredApp
    after: Session
    notes: Notes
    refused: bool


def _happened(app: WiredApp, stand: Stand, disturbance: Disturbance) -> Happened | None:
    """Disturb an app; none where that cannot happen there."""
    session, notes, is_refused = stand.way.session, Notes(), False
    index = min(stand.place, len(session.entries) - 1)
    if index < 0:
        return None
    events = disturbance.events(Spot(app, session, index, stand.pieces[0].part))
    for event in events or ():
        session, said, refused = step(app, session, event)
        notes, is_refused = (*notes, *said), is_refused or refused
    if events is None or disturbance.version is None:
        return None if events is None else Happened(events, app, session, notes, is_refused)
    changed = disturbance.version(app, session.entries[index].screen)
    resumed, _ = resume(changed, session, app)
    return Happened(events, changed, resumed, notes, is_refused)


def _compared(
    app: WiredApp, stand: Stand, piece: Piece, disturbance: Disturbance, happened: Happened | None
) -> Compared:
    """What a piece held, what it holds, what was asked for, and the mark."""
    before = stand.way.session
    had = value_of(before, piece, stand.section, stand.place)
    if happened is None or had is None or happened.refused:
        return Compared(had, had, "keep", "nothing to keep here")
    after = happened.after
    has = value_of(after, piece, stand.section, stand.place)
    if has is None and piece.lifetime == "stored":
        has = _stored(before, after, piece, stand)
    if disturbance.version is not None:
        has = as_before(piece, has)
    asked = asked_of(app, piece, disturbance.name, before, happened.notes)
    if _is_by_rule(before, stand):
        asked = "let go"
    mark = _judged(had, has, asked)
    if mark == "kept" and piece.kind in ("carried", "chain"):
        length = len(after.chains[stand.section].entries)
        places = (stand.place,) if piece.kind == "carried" else range(1, length)
        found = (_carried_now(happened.app, after, stand.section, each) for each in places)
        instead = next((each for each in found if each is not None), None)
        if instead is not None:
            return Compared(had, has, asked, "wrong", instead)
    return Compared(had, has, asked, mark)


def _compared_in_view(
    app: WiredApp, of: ListStand, case: Disturbance, happened: Happened | None
) -> Compared:
    """The same of what is in view of a list."""
    if happened is None or happened.refused:
        return Compared(None, None, "keep", "nothing to keep here")
    before, piece = of.stand.way.session, of.stand.pieces[0]
    asked = asked_of(app, piece, LIKE.get(case.name, case.name), before, happened.notes)
    return judged_in_view(app, of, case.name, happened.events, happened.after, asked)


def _stored(before: Session, after: Session, piece: Piece, stand: Stand) -> Any:
    """What is stored of a screen that is not open now: it is back when that is opened again."""
    chain = before.chains.get(stand.section)
    if chain is None or not 0 <= stand.place < len(chain.entries):
        return None
    entry = chain.entries[stand.place]
    for kept in after.stored:
        identity = (kept.section, kept.screen, kept.arguments)
        if identity == (stand.section, entry.screen, entry.arguments):
            opened = replace(entry, view=kept.view)
            entries = (*chain.entries[: stand.place], opened)
            again = after.with_chain(replace(chain, entries=entries))
            return value_of(again, piece, stand.section, stand.place)
    return None


def asked_of(app: WiredApp, piece: Piece, disturbance: str, before: Session, notes: Notes) -> Asked:
    """What the app asks for a piece in a disturbance (rules.md, 6 and 8).

    What was typed is to outlive whatever the person did not do: a draft that lives as long as
    its view is asked to be kept all the same.
    """
    life = piece.lifetime
    if disturbance == "relaunch":
        return "keep" if life == "stored" else "let go"
    if disturbance == "kill":
        is_typed = piece.kind in ("draft", *OF_WRITING)
        keeps = life in ("saved", "stored") or (is_typed and life == "view")
        return "keep" if keeps else "let go"
    if piece.kind == "dividers":
        has_left = any(each.kind in ("rebuilt", "arranged") for each in notes)
        return "let go" if life == "view" and has_left else "keep"
    if piece.kind == "forward":
        if disturbance == "section":
            return "let go"
        return "move on" if disturbance == "row gone" else "keep"
    rebuilt = any(each.kind == "rebuilt" for each in notes)
    if disturbance == "section" and app.sections[before.section].returns == "root":
        is_above = piece.kind in ("chain", "carried", "chosen row") or len(before.entries) > 1
        return "let go" if is_above and piece.kind != "value" and life != "stored" else "keep"
    lasting = ("draft", *OF_WRITING, "value", "chain", "carried", "chosen row")
    if life == "view" and piece.kind not in lasting:
        gone = rebuilt or disturbance == "section"
        return "let go" if gone else "keep"
    if disturbance == "row gone":
        return _asked_when_gone(piece, notes)
    return "keep"


def _asked_when_gone(piece: Piece, notes: Notes) -> Asked:
    """A row in view moves on to the one in its place; screens go as they say (8)."""
    if piece.kind == "value":
        # A link that sets it may have been followed by a rule.
        return "move on" if any(each.kind == "opened" for each in notes) else "keep"
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


def _carried_now(
    app: WiredApp, after: Session, section: str, place: int
) -> dict[str, Value] | None:
    """What a screen would be opened with now, if that is other than what it carries."""
    chain = after.chains.get(section)
    if chain is None or not 0 < place < len(chain.entries):
        return None
    entry, parent = chain.entries[place], chain.entries[place - 1]
    placed = replace(after, section=section)
    if app.source_of(parent) in app.late and not parent.loads.get(ITEM, NOT_LOADED).brought:
        return None
    if app.source_of(parent) and app.record_of(placed, parent) is None:
        return None
    part = None if entry.row is None else entry.row.part
    if entry.row is not None:
        listing = app.listings.get(parent.screen, {}).get(entry.row.part)
        records = None if listing is None else app.records(placed, listing.source)
        if records is None or records.row_of(entry.row.key) is None:
            return None
    links = [
        link
        for link in app.followed
        if (link.trigger.screen, link.to) == (parent.screen, entry.screen)
        and link.trigger.on != "saved"
        and app.part_of(link.trigger) == part
    ]
    try:
        carried = [arguments_for(app, placed, place - 1, e, entry.row) for e in links]
    except Refused:
        # What is not there now, as while a list loads, tells nothing of what was carried.
        return None
    return None if not carried or entry.arguments in carried else carried[0]
