"""Claims that compare ways through the table of what was reached, by whole numbers alone."""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable, Iterator
from typing import NamedTuple

from cadena.engine import events as do
from cadena.runs.prove.claims import MOST_BACKS
from cadena.runs.prove.explore import CIRCLE, ELSEWHERE, LEFT, Explored
from cadena.runs.prove.found import Found
from cadena.runs.walks.walk import Expected


class Ways(NamedTuple):
    """The edges of a table, by what they do: for each state, where they lead.

    ``backs`` and ``windows`` go by state, ``opens`` by state and number of the move.
    """

    backs: dict[int, tuple[int, int]]
    windows: dict[int, list[tuple[int, int]]]
    opens: dict[tuple[int, int], int]


def ways_through(explored: Explored) -> Ways:
    """Sort the edges of a table."""
    ways = Ways({}, {}, {})
    for state, by, to in zip(explored.of, explored.by, explored.to, strict=True):
        move = explored.move_of[by]
        if move.sort == "back":
            ways.backs[state] = to, by
        elif move.sort == "window" and to >= 0:
            ways.windows.setdefault(state, []).append((to, by))
        elif move.link is not None:
            ways.opens[state, by] = to
    return ways


def judged_by_table(explored: Explored) -> Iterator[Found]:
    """What the table breaks of the claims that compare several of its ways."""
    ways = ways_through(explored)
    yield from _backs(explored, ways)
    yield from _undoes(explored, ways)
    yield from _turning(explored, ways)
    yield from _order(explored, ways)
    # What was not looked at to its end may yet lead there.
    yield from () if explored.unfinished else _root(explored)


def backs_to_leave(explored: Explored, ways: Ways | None = None) -> list[int]:
    """For each state how many backs leave its section; -1 where they never do."""
    backs = (ways or ways_through(explored)).backs
    counts = [0] * len(explored)
    for state in range(len(explored)):
        path = []
        at = state
        while at >= 0 and not counts[at] and at in backs:
            counts[at] = -1
            path.append(at)
            at = backs[at][0]
        # A state that is met again on its own way has no way out.
        count = counts[at] if at >= 0 and at not in path and counts[at] else 0
        count = -1 if at >= 0 and (at in path or counts[at] < 0) else count
        for node in reversed(path):
            count = count + 1 if count >= 0 else -1
            counts[node] = count
    return counts


def _backs(explored: Explored, ways: Ways) -> Iterator[Found]:
    for state, count in enumerate(backs_to_leave(explored, ways)):
        if count < 0 and explored.shapes[state] >= 0 and state in ways.backs:
            column = explored.column(state)
            tail = (do.Back(),) * MOST_BACKS
            what = f"{MOST_BACKS} backs do not leave"
            where = f"sections[{explored.section}]"
            yield Found("backs", where, what, column, state, tail, Expected(phase="left"))


def _undoes(explored: Explored, ways: Ways) -> Iterator[Found]:
    """After a screen was opened on others, back shows these again, or leaves where it may."""
    lengths, app = explored.lengths, explored.app
    leaves = {each.id for each in app.arrangements if each.panes > 1 and each.back == "leave"}
    for (state, by), opened in ways.opens.items():
        if opened < 0 or lengths[opened] <= lengths[state] or opened not in ways.backs:
            continue
        to, back = ways.backs[opened]
        if to in (LEFT, ELSEWHERE):
            if explored.column(state) in leaves:
                continue
        # Of a chain as long as before, what differs was opened by a rule meanwhile.
        elif to == CIRCLE or to < 0 or lengths[to] == lengths[state]:
            continue
        link = explored.move_of[by].link
        where = "" if link is None else f"links[{link.id}]"
        tail = (*explored.taken[by], *explored.taken[back])
        what = "back does not show what was there before it was opened"
        yield Found("undoes", where, what, explored.column(state), state, tail, ())


def _turning(explored: Explored, ways: Ways) -> Iterator[Found]:
    """To another window and back: the same screens, for the same, with the same drafts."""
    shapes, windows = explored.shapes, explored.window_of
    for state, out in ways.windows.items():
        if shapes[state] < 0:
            continue
        for between, there in out:
            for back, again in ways.windows.get(between, ()):
                if windows[back] != windows[state] or shapes[back] == shapes[state]:
                    continue
                where = f"arrangements[{explored.column(between)}]"
                tail = (*explored.taken[there], *explored.taken[again])
                what = (
                    f"over {explored.column(between) or 'one pane'} and back, it is not as it was"
                )
                yield Found("turning", where, what, explored.column(state), state, tail, ())


def _order(explored: Explored, ways: Ways) -> Iterator[Found]:
    """Opened and then resized, or resized and then opened: the same is shown."""
    shapes, windows = explored.shapes, explored.window_of
    for (state, by), opened in ways.opens.items():
        if opened < 0:
            continue
        later = {windows[to]: (to, way) for to, way in ways.windows.get(opened, ())}
        for between, there in ways.windows.get(state, ()):
            first = ways.opens.get((between, by))
            last = later.get(windows[between])
            if first is None or first < 0 or last is None or shapes[first] == shapes[last[0]]:
                continue
            link = explored.move_of[by].link
            where = "" if link is None else f"links[{link.id}]"
            column = explored.column(between)
            what = (
                f"opened before the window becomes {column or 'one pane'}, or after: not the same"
            )
            tail = (*explored.taken[there], *explored.taken[by])
            other = (*explored.taken[by], *explored.taken[last[1]])
            yield Found("order", where, what, column, state, tail, other)


def leading_to(explored: Explored, goals: Iterable[int]) -> set[int]:
    """The states from which a person can come to one of some others."""
    before: dict[int, list[int]] = {}
    for state, by, to in zip(explored.of, explored.by, explored.to, strict=True):
        if to >= 0 and explored.move_of[by].sort != "window":
            before.setdefault(to, []).append(state)
    found, waiting = set(goals), deque(goals)
    while waiting:
        for node in before.get(waiting.popleft(), ()):
            if node not in found:
                found.add(node)
                waiting.append(node)
    return found


def _root(explored: Explored) -> Iterator[Found]:
    """The root of the section is on display again, without leaving the app."""
    leads = leading_to(explored, explored.at_root)
    for state, shape in enumerate(explored.shapes):
        if shape >= 0 and state not in leads:
            link = explored.move_of[explored.through[state]].link
            where = f"sections[{explored.section}]" if link is None else f"links[{link.id}]"
            root = explored.app.sections[explored.section].root
            what = f"nothing leads back to {root} from there"
            expect = Expected(shows=(root,))
            yield Found("root", where, what, explored.column(state), state, (), expect)
