"""What is claimed of every app, and what a step or a state must be for it to hold."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final, NamedTuple

from cadena.engine import events as do
from cadena.engine.notes import Note
from cadena.engine.rules.back import back_label
from cadena.engine.rules.display import display_of
from cadena.engine.rules.picked import picked_on_display
from cadena.engine.session import LAYERS, Entry, Session, has_menu
from cadena.engine.step import step
from cadena.engine.wired import WiredApp
from cadena.model.app import DetailScreen, FormScreen, FromField, Link, ListScreen
from cadena.model.values import in_brief
from cadena.runs.prove.at_edge import found_at, index_of, place_of
from cadena.runs.prove.choosing_claims import acted_on_picked, brought_home, past_ends
from cadena.runs.prove.explore import (
    CHANGED,
    CIRCLE,
    ELSEWHERE,
    LEFT,
    REFUSED,
    Edge,
    Explored,
)
from cadena.runs.prove.found import Found
from cadena.runs.prove.states import chain_of, drafts
from cadena.runs.prove.writing_claims import ONCE, SAID, TYPED
from cadena.runs.walks.walk import Expected

MOST_BACKS: Final = 24
ROUND: Final = 3
"""Times that a circle is gone round, to see that it has no end."""


class Claim(NamedTuple):
    """A claim: its name, and what it says."""

    name: str
    words: str


CLAIMS: Final = (
    Claim("opens", "Whatever can be pressed opens"),
    Claim("chosen", "A detail shows the row that was chosen"),
    Claim("there", "What is opened is there"),
    Claim("backs", "From everywhere, back leaves in the end"),
    Claim("label", "The back label says what back shows"),
    Claim("undoes", "Back undoes the last opening"),
    Claim("turning", "Resizing, folding or turning, and back, changes nothing"),
    Claim("ended", "An ended process comes back as it was"),
    Claim("unasked", "No draft goes unasked"),
    Claim("copy", "No screen lies on a copy of itself"),
    Claim("after saving", "After saving, back never meets a form of that record"),
    Claim("reached", "Every screen, link and section is reached"),
    Claim("address", "An address leads back to its screen"),
    Claim("grows", "No chain grows without end"),
    Claim("saved size", "Saved state stays below its limit"),
    Claim("second tap", "A second tap adds nothing"),
    Claim("order", "Resizing before or after opening gives the same"),
    Claim("picked", "What is picked is what is acted on"),
    Claim("brought", "What was chosen comes to who asked"),
    Claim("neighbours", "The next of the last is not offered"),
    Claim("root", "From everywhere, the root of a section can be reached again"),
    Claim(TYPED, "Nothing typed is lost by an answer"),
    Claim(ONCE, "No record is made twice, of a service that knows a write again"),
    Claim(SAID, "What was refused is said"),
)
PRESSED: Final = (
    do.Choose,
    do.Press,
    do.Act,
    do.ActOnPicked,
    do.OpenFact,
    do.OpenField,
    do.Save,
)


def judged(explored: Explored, edge: Edge) -> Iterator[Found]:
    """What a step breaks of all claims that one step can tell of."""
    if edge.to == REFUSED:
        yield from _opens(explored, edge)
        return
    yield from _unasked(explored, edge)
    if edge.move.sort == "back":
        yield from _label(explored, edge)
    elif edge.move.sort == "do":
        if isinstance(edge.taken[0], do.Save) or edge.taken[-1] == do.Decide(yes=True):
            yield from _after_saving(explored, edge)
        yield from acted_on_picked(explored, edge)
        yield from brought_home(explored, edge)
        if edge.move.link is not None:
            yield from _chosen(explored, edge, edge.move.link)
            yield from _second_tap(explored, edge)
    after = edge.step.session
    if edge.to not in (LEFT, ELSEWHERE) and after.section == explored.section:
        yield from _of_state(explored, edge)
    if edge.to == CIRCLE:
        yield from _grows(explored, edge)
    if edge.to == CHANGED:
        yield from _backs_after_change(explored, edge)


def _opens(explored: Explored, edge: Edge) -> Iterator[Found]:
    """A link is refused, or an action that is offered."""
    note, link = edge.step.notes[0], edge.move.link
    if not isinstance(edge.taken[0], PRESSED):
        return
    entries = edge.before.entries
    expect = Expected(note="opened")
    if link is not None:
        over = link.how in LAYERS
        at = len(entries) if over else index_of(edge) + 1
        at -= link.how == "replace"
        expect = Expected(chain=(*chain_of(entries[:at]), link.to))
    where = note.where or place_of(edge)
    yield found_at(explored, edge, "opens", where if link is None else place_of(edge), note, expect)


def _chosen(explored: Explored, edge: Edge, link: Link) -> Iterator[Found]:
    """A detail or a form of the list's own records carries another key than that of the row."""
    app, event, after = explored.app, edge.taken[0], edge.step.session
    if not isinstance(event, do.Choose | do.Act) or not after.entries:
        return
    entry = after.entries[-1]
    target, part = app.screens.get(entry.screen), app.part_of(link.trigger)
    listing = app.listings.get(link.trigger.screen, {}).get(part or "")
    if listing is None or entry.screen != link.to or isinstance(target, ListScreen | None):
        return
    argument = next((each for each in link.arguments if each.parameter == target.key), None)
    records = app.as_read.get(listing.source)
    if argument is None or records is None or target.source != listing.source:
        return
    # A row that leads on to another record of its own source, its parent say, is meant to.
    if isinstance(argument, FromField) and argument.field != records.source.key:
        return
    shown = app.key_of(entry)
    if shown == event.key and type(shown) is type(event.key):
        return
    what = f"row {in_brief(event.key)} was chosen, and {target.key} is {in_brief(shown)}"
    expect = Expected(arguments={**entry.arguments, target.key: event.key})
    yield found_at(explored, edge, "chosen", place_of(edge), what, expect)


def _of_state(explored: Explored, edge: Edge) -> Iterator[Found]:
    """What the state after a step breaks, asked once for each chain in each window."""
    app, after = explored.app, edge.step.session
    number = explored.key.chain(after)[0]
    window = explored.key.windows[after.window]
    entries = after.entries
    if explored.once("state", number, window, edge.to == CHANGED):
        yield from _copies(explored, edge, entries)
        if app.with_neighbours:
            yield from past_ends(explored, edge)
    last = entries[-1]
    if edge.to != CHANGED and edge.move.link is not None and explored.once("there", number):
        yield from _there(explored, edge, app, after, last)


def _copies(explored: Explored, edge: Edge, entries: tuple[Entry, ...]) -> Iterator[Found]:
    """What was just opened lies on a copy of itself, or beside one."""
    if len(entries) <= len(edge.before.entries) and edge.move.link is None:
        return
    last = entries[-1]
    same = [at for at, each in enumerate(entries[:-1]) if _is_copy(each, last)]
    if same and same[-1] == len(entries) - 2:
        expect = Expected(chain=chain_of(entries[:-1]))
        what = f"{last.screen} lies on itself, for the same {_carried(last)}"
        yield found_at(explored, edge, "copy", place_of(edge), what, expect)
        return
    display = display_of(explored.app, edge.step.session)
    shown = [each.entry for each in display.panes if each.entry is not None]
    if any(at in shown for at in same) and len(entries) - 1 in shown:
        expect = Expected(display=tuple(entries[each].screen for each in shown[:-1]))
        what = f"two panes show {last.screen}, for the same {_carried(last)}"
        yield found_at(explored, edge, "copy", place_of(edge), what, expect)


def _is_copy(one: Entry, other: Entry) -> bool:
    return (one.screen, one.arguments) == (other.screen, other.arguments)


def _carried(entry: Entry) -> str:
    return (
        ", ".join(f"{name} {in_brief(value)}" for name, value in entry.arguments.items())
        or "nothing"
    )


def _there(
    explored: Explored, edge: Edge, app: WiredApp, after: Session, last: Entry
) -> Iterator[Found]:
    key = app.key_of(last)
    if isinstance(app.screens.get(last.screen), DetailScreen | FormScreen) and key is not None:
        records = app.records(after, app.source_of(last))
        if records is None or records.row_of(key) is None:
            what = Note.of("refused", "no such record", source=app.source_of(last), key=key)
            expect = Expected(missing=())
            found = found_at(explored, edge, "there", place_of(edge), what, expect)
            yield found._replace(column=None)


def _label(explored: Explored, edge: Edge) -> Iterator[Found]:
    """The back label names a screen that back then shows; it has none where back leaves."""
    app, before, after = explored.app, edge.before, edge.step.session
    if has_menu(before) or picked_on_display(app, before):
        # It closes, or is let go, first, and is no part of what the label says (4.0, 14).
        return
    label = back_label(app, before)
    if edge.to == LEFT or label is None:
        if (edge.to == LEFT) != (label is None):
            what = f'back says "{label}", and leaves' if label else "back says nothing, and stays"
            yield found_at(explored, edge, "label", _top(edge), what, Expected(title=label or ""))
        return
    shown = display_of(app, after).shown
    titles = [app.title_of(after, after.entries[e.entry]) for e in shown if e.entry is not None]
    if label not in titles:
        what = f'back says "{label}", and shows {", ".join(titles)}'
        yield found_at(explored, edge, "label", _top(edge), what, Expected(title=label))


def _top(edge: Edge) -> str:
    return f"screens[{edge.before.entries[-1].screen}]"


def _unasked(explored: Explored, edge: Edge) -> Iterator[Found]:
    """Something takes a draft away, and nobody was asked; saving it is no loss."""
    app, before, after = explored.app, edge.before, edge.step.session
    if edge.taken[-1] == do.Decide(yes=True) or isinstance(edge.taken[-1], do.Save):
        return
    if not any(each.view.draft for each in before.chains[explored.section].entries):
        return
    had, has = drafts(before), drafts(after)
    for screen, arguments in had:
        now = has.get((screen, arguments))
        # What a list has brought to it is no loss (15).
        if now == had[screen, arguments] or (now is not None and _brought(edge, screen)):
            continue
        where = place_of(edge, f"screens[{screen}].keep.draft")
        form = app.screens.get(screen)
        title = screen if form is None else form.title
        what = f"what was typed in {title} is gone, and nobody was asked"
        yield found_at(explored, edge, "unasked", where, what)
        return


def _brought(edge: Edge, screen: str) -> bool:
    """Whether a step has brought what was chosen to a screen."""
    notes = edge.step.notes
    return any(each.kind == "brought" and each.data["screen"] == screen for each in notes)


def _after_saving(explored: Explored, edge: Edge) -> Iterator[Found]:
    """A form of the record that was just saved still lies in the chain."""
    app, after = explored.app, edge.step.session
    saved = next((each for each in edge.step.notes if each.kind == "saved"), None)
    if saved is None or after.section != explored.section:
        return
    source, key = saved.data["source"], saved.data["key"]
    forms = [
        at
        for at, each in enumerate(after.entries)
        if isinstance(app.screens.get(each.screen), FormScreen)
        and app.source_of(each) == source
        and app.key_of(each) == key
        and at
    ]
    if not forms:
        return
    link = app.links.get((edge.before.entries[index_of(edge)].screen, "saved", ""))
    where = place_of(edge) if link is None else f"links[{link.id}]"
    backs = (do.Back(),) * (len(after.entries) - 1 - forms[-1])
    stays = tuple(each for at, each in enumerate(after.entries) if at not in forms)
    what = (
        f"back meets {after.entries[forms[-1]].screen} of {source} {in_brief(key)}, which was saved"
    )
    expect = Expected(chain=chain_of(stays))
    yield found_at(explored, edge, "after saving", where, what, expect, backs)


def _second_tap(explored: Explored, edge: Edge) -> Iterator[Found]:
    """The same press once more, as fast as that, opens one more screen."""
    after = edge.step.session
    entries = after.entries
    if len(edge.taken) != 1 or edge.to in (LEFT, ELSEWHERE) or after.section != explored.section:
        return
    display = display_of(explored.app, after)
    top = display.layer or display.slid
    if index_of(edge) not in [e.entry for e in (display.shown if top is None else (top,))]:
        # What was pressed is not there any more, or is covered.
        return
    again, _, refused = step(explored.app, after, edge.taken[0])
    if not refused and again.question is None and len(again.entries) > len(entries):
        what = f"pressed twice, {again.entries[-1].screen} is opened twice"
        expect = Expected(chain=chain_of(entries))
        yield found_at(explored, edge, "second tap", place_of(edge), what, expect, edge.taken)


def _grows(explored: Explored, edge: Edge) -> Iterator[Found]:
    """A circle of links that can be gone round and round, a screen deeper each time."""
    app, session, link = explored.app, edge.step.session, edge.move.link
    if link is None:
        return
    entries = session.entries
    begins = max(at for at, each in enumerate(entries[:-1]) if each.screen == entries[-1].screen)
    circle = [each.screen for each in entries[begins + 1 :]]
    names = tuple(sorted(set(circle)))
    column = explored.column(edge.state)
    if not explored.once("circle", names, column):
        return
    tail: list[do.Event] = []
    for screen in circle * ROUND:
        for move in explored.moves.of(session):
            if move.link is None or move.link.to != screen or len(move.events) != 1:
                continue
            after, _, refused = step(app, session, move.events[0])
            if not refused and len(after.entries) > len(session.entries):
                session, tail = after, [*tail, *move.events]
                break
        else:
            return
    what = f"{' → '.join([*circle, circle[0]])} can be gone round without end"
    where = f"links[{_closing(app, names, link).id}]"
    expect = Expected(chain=chain_of(entries[: begins + 1]))
    yield found_at(explored, edge, "grows", where, what, expect, tuple(tail[: len(circle)]))


def _closing(app: WiredApp, names: tuple[str, ...], link: Link) -> Link:
    """The link of a circle that is named for it: the first of the app's that stays in it."""
    inside = (e for e in app.app.links if e.trigger.screen in names and e.to in names)
    return next(inside, link)


def _backs_after_change(explored: Explored, edge: Edge) -> Iterator[Found]:
    """After a change of the records: what back shows, to the end."""
    app, session, done = explored.app, edge.step.session, list[do.Event]()
    number = explored.key.chain(session)[0]
    if not explored.once("changed", number, session.window):
        return
    while session.phase == "running" and session.section == explored.section:
        if len(done) > MOST_BACKS:
            what = f"{MOST_BACKS} backs do not leave"
            expect = Expected(phase="left")
            yield found_at(explored, edge, "backs", _top(edge), what, expect, tuple(done))
            return
        done.append(do.Back() if session.question is None else do.Decide(yes=True))
        session, *_ = step(app, session, done[-1])
