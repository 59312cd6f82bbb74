"""What is claimed of ways to choose: several rows at once, a row for who asked, the next one."""

from __future__ import annotations

from collections.abc import Collection, Iterator

from cadena.engine import events as do
from cadena.engine.rules.asking import choosing_for, held_by_asker
from cadena.engine.rules.display import display_of, taking_events
from cadena.engine.rules.neighbours import place_of as place_of_row
from cadena.engine.session import Session
from cadena.engine.step import step
from cadena.engine.wired import WiredApp
from cadena.model.listing import Button, Mark
from cadena.model.values import Scalar, in_brief, same_value
from cadena.records.changes import Changes
from cadena.runs.prove.at_edge import found_at, index_of, place_of
from cadena.runs.prove.explore import Edge, Explored
from cadena.runs.prove.found import Found
from cadena.runs.prove.states import chain_of
from cadena.runs.walks.walk import Expected


def acted_on_picked(explored: Explored, edge: Edge) -> Iterator[Found]:
    """An action on what is picked is done to another record, or not to all of them."""
    app, event, before = explored.app, edge.taken[0], edge.before
    if not isinstance(event, do.ActOnPicked) or edge.taken[-1] == do.Decide(yes=False):
        return
    after = edge.step.session
    if after.question is not None:
        return
    entry = before.entries[index_of(edge)]
    part, button = app.actions[entry.screen][event.action]
    picked = set(entry.view.picked.get(part, ()))
    done = set(_touched(app, button, app.listings[entry.screen][part].source, before, after))
    if isinstance(button.does, Mark):
        # What was in, or out, already is as it should be.
        marked = set(_marks(after, button.does.value))
        done |= picked if picked <= marked or not picked & marked else set()
    if done != picked:
        what = f"{_keys(picked)} picked, and it was done to {_keys(done)}"
        yield found_at(explored, edge, "picked", place_of(edge), what)


def _keys(keys: Collection[Scalar]) -> str:
    return ", ".join(sorted(map(in_brief, keys))) or "nothing"


def _touched(
    app: WiredApp, button: Button, source: str, before: Session, after: Session
) -> Iterator[Scalar]:
    """The keys of the records that an action has changed, removed, marked or let go of."""
    if isinstance(button.does, Mark):
        was, now = (set(_marks(each, button.does.value)) for each in (before, after))
        yield from was ^ now
        return
    had = before.changes.get(source, Changes())
    has = after.changes.get(source, Changes())
    yield from (each for each in has.gone if each not in had.gone)
    before_it = {each.key: each for each in had.changed}
    yield from (each.key for each in has.changed if before_it.get(each.key) != each)


def _marks(session: Session, value: str) -> tuple[Scalar, ...]:
    marks = session.values.get(value, ())
    return marks if isinstance(marks, tuple) else ()


def brought_home(explored: Explored, edge: Edge) -> Iterator[Found]:
    """A row was chosen in a list that was opened to choose, and who asked holds something else."""
    app, event, before = explored.app, edge.taken[0], edge.before
    after = edge.step.session
    if not isinstance(event, do.Choose) or after.section != before.section:
        return
    index = index_of(edge)
    asking = choosing_for(app, before.entries, index, event.list)
    records = app.shown(before, app.listings[event.screen][event.list].source)
    record = None if records is None else records.by_key(event.key)
    if asking is None or records is None or record is None or after.question is not None:
        return
    wanted = record.get(asking.brings.field or records.source.key)
    held = None
    if asking.owner < len(after.entries):
        held = held_by_asker(app, after, asking)
    if len(after.entries) > index or not same_value(held, wanted):
        what = f"{in_brief(wanted)} was chosen, and {asking.link.id} holds {in_brief(held)}"
        expect = Expected(chain=chain_of(before.entries[:index]))
        yield found_at(explored, edge, "brought", f"links[{asking.link.id}]", what, expect)


def past_ends(explored: Explored, edge: Edge) -> Iterator[Found]:
    """A detail that offers its neighbours goes on past the first or the last of its list."""
    app, after = explored.app, edge.step.session
    for pane in taking_events(app, after, display_of(app, after)):
        place = None if pane.entry is None else place_of_row(app, after, pane.entry)
        if place is None:
            continue
        for by in (-1, 1):
            event = do.Neighbour(entry=pane.entry, by=by)
            is_end = place.key(by) is None
            if is_end and not step(app, after, event).refused:
                what = "it goes on from the last" if by > 0 else "it goes back from the first"
                screen = after.entries[pane.entry or 0].screen
                where = f"screens[{screen}].neighbours"
                yield found_at(explored, edge, "neighbours", where, what, None, (event,))
