"""The marks as text, and as JSON."""

from __future__ import annotations

from collections import Counter
from typing import Any, Final

import msgspec

from cadena.engine import events as do
from cadena.engine.events import Event, in_short
from cadena.model.listing import Sort
from cadena.model.values import shown
from cadena.runs.keep.disturbances import DISTURBANCES, Disturbance
from cadena.runs.keep.hard_cases import CASES
from cadena.runs.keep.pieces import Piece
from cadena.runs.keep.run import SIGNS, WORST, Matrix, Run


def is_broken(matrix: Matrix) -> bool:
    """Whether anything is lost, or came back as something else."""
    return any(each.is_broken for each in matrix.values())


LAST_EVENTS: Final = 3
"""Events before a disturbance that are said."""
LAST: Final = ("chain", "forward", "dividers", "value")
"""Kinds of pieces that are of no screen: they are told last."""
LONGEST: Final = 60
"""Letters of a value that are said."""
TABLES: Final = (("pieces of state", DISTURBANCES), ("rows in view", CASES))


def table_of(run: Run) -> int:
    """Which of the tables a run is told in."""
    names = [[each.name for each in columns] for _, columns in TABLES]
    return next((at for at, each in enumerate(names) if run.disturbance in each), 0)


def pieces_in(matrix: Matrix, columns: tuple[Disturbance, ...] = DISTURBANCES) -> list[Piece]:
    """The pieces of a matrix that were run through some disturbances, screen by screen."""
    names = {each.name for each in columns}
    found = list(dict.fromkeys(piece for piece, name in matrix if name in names))
    screens = {piece.of: at for at, piece in reversed([*enumerate(found)])}

    def order(piece: Piece) -> tuple[int, int]:
        return LAST.index(piece.kind) if piece.kind in LAST else -1, screens[piece.of]

    return sorted(found, key=order)


def totals(matrix: Matrix) -> str:
    """How many marks there are of each sort, in a sentence."""
    counts = Counter(each.mark for each in matrix.values())
    said = [f"{counts[mark]} {mark}" for mark in reversed(WORST) if counts[mark]]
    return ", ".join(said)


def in_words(name: str, matrix: Matrix) -> str:
    """A table of signs, each run that lost something, and the totals."""
    wide = max((len(piece.name) for piece, _ in matrix), default=0)
    lines: list[str] = []
    for title, columns in TABLES:
        names = [each.name for each in columns]
        lines += ["", f"{title:{wide + 9}}" + "  ".join(names)]
        for piece in pieces_in(matrix, columns):
            found = [matrix.get((piece, name)) for name in names]
            signs = [" " if run is None else SIGNS[run.mark] for run in found]
            marks = [sign.center(len(name)) for sign, name in zip(signs, names, strict=True)]
            lines.append(f"{piece.name:{wide}} {piece.lifetime:7} " + "  ".join(marks).rstrip())
    for run in matrix.values():
        if run.is_broken:
            lines += ["", *steps_of(run)]
    legend = ", ".join(f"{SIGNS[mark]} {mark}" for mark in WORST if SIGNS[mark].strip())
    return "\n".join([*lines[1:], "", legend, f"{name}: {totals(matrix)}"])


def steps_of(run: Run) -> list[str]:
    """A run as steps: how the app was brought there, what happened, what came back."""
    width, height = run.window.size
    said = [f"{run.piece.name}, {run.disturbance}, at {run.window_name}: {run.mark}"]
    done = [each for each in run.events if not isinstance(each, do.Wait)]
    begun = ", then ".join(_event_words(each) for each in done[-LAST_EVENTS:])
    said.append(f"in a window of {width:g} × {height:g}{': ' * bool(begun)}{begun}")
    said.append(_holding_words(run.piece, run.had))
    said += [_event_words(each) for each in run.disturbing]
    said.append(_holding_words(run.piece, run.has))
    if run.instead is not None:
        said.append(f"and it would be opened with {_value(run.instead)} now")
    return [said[0], *(f"  {number} {line}" for number, line in enumerate(said[1:], 1))]


def _event_words(event: Event) -> str:
    """An event in words."""
    match event:
        case do.Refresh():
            changes = {"changed": event.changed, "gone": event.gone, "new": event.added}
            counts = [f"{len(some)} {what}" for what, some in changes.items() if some]
            return f"{event.source} come again, {', '.join(counts) or 'as they were'}"
        case do.ShowGroup():
            return f"group {event.title} is {'opened' if event.open else 'closed'}"
        case do.SortBy():
            by = [f"{e.field} {'downwards' if e.descending else 'upwards'}" for e in event.by]
            return f"sorted by {' and '.join(by)}"
        case do.Resize():
            return f"resized to {event.width:g} × {event.height:g}"
        case do.Wait():
            return "answers come"
    return in_short(event, "screen", "key", "button", "section", "text", "field", "row", "to", "by")


def _holding_words(piece: Piece, value: Any) -> str:
    """What a piece holds, in words."""
    match piece.kind, value:
        case "first in view", (key, above):
            side = f"{above:g} dp of it over the edge" if above >= 0 else f"{-above:g} dp down"
            return f"first in view is row {shown(key)}, {side}"
        case "first in view", None:
            return "no row of it is first in view"
        case "chosen in view", None:
            return "the chosen row is not in view"
        case "chosen in view", key:
            return f"row {shown(key)} is chosen and in view"
        case _, None:
            return "nothing is there"
        case "chain", _:
            steps = [f"{screen} {_value(dict(carried))}".strip() for screen, carried in value]
            return f"it holds {' › '.join(steps)}"
        case "forward", _:
            steps = [f"{screen} {_value(dict(of))}".strip() for one in value for screen, of in one]
            return f"ahead is {', then '.join(reversed(steps))}"
        case "scroll", (part, key, above):
            what = f"row {shown(key)}" if key is not None else part or "the top"
            return f"it is scrolled to {what}, {above:g} dp of it over the edge"
    return f"it holds {_value(value)}"


def _value(value: Any) -> str:
    """What a piece holds, as short text."""
    if isinstance(value, dict):
        return ", ".join(f"{name} = {_value(each)}" for name, each in value.items())
    if isinstance(value, tuple):
        return ", ".join(_value(each) for each in value)
    if isinstance(value, Sort):
        return f"{value.field} {'downwards' if value.descending else 'upwards'}"
    text = shown(value)
    return text if len(text) <= LONGEST else f"{text[:LONGEST]}…"


def to_json(matrix: Matrix) -> str:
    """Every mark, as JSON: the piece, what disturbed it, the run, and what came back."""
    marks = [
        {
            "piece": run.piece.kind,
            "of": run.piece.of,
            "part": run.piece.part,
            "lifetime": run.piece.lifetime,
            "where": run.piece.where,
            "disturbance": run.disturbance,
            "mark": run.mark,
            "asked": run.asked,
            "window": run.window_name,
            "bytes": run.size,
            "had": run.had,
            "has": run.has,
            "instead": run.instead,
            "run": [*run.events, *run.disturbing],
        }
        for run in matrix.values()
    ]
    return msgspec.json.format(msgspec.json.encode(marks), indent=1).decode()
