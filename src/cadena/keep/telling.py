"""The marks as text, and as JSON."""

from __future__ import annotations

from collections import Counter
from typing import Any, Final

import msgspec

from cadena.engine.events import Event, in_short
from cadena.keep.disturbances import DISTURBANCES, Disturbance
from cadena.keep.hard_cases import CASES
from cadena.keep.pieces import Piece
from cadena.keep.run import SIGNS, WORST, Matrix, Run
from cadena.model.values import shown


def is_broken(matrix: Matrix) -> bool:
    """Whether anything is lost, or came back as something else."""
    return any(each.is_broken for each in matrix.values())


TABLES: Final = (("pieces of state", DISTURBANCES), ("rows in view", CASES))


def pieces_in(matrix: Matrix, columns: tuple[Disturbance, ...] = DISTURBANCES) -> list[Piece]:
    """The pieces of a matrix that were run through some disturbances, in their order."""
    names = {each.name for each in columns}
    return list(dict.fromkeys(piece for piece, name in matrix if name in names))


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
    begun = [f"in a window of {width:g} × {height:g}: {_said(each)}" for each in run.events[-1:]]
    said += begun or [f"in a window of {width:g} × {height:g}"]
    said.append(f"it holds {_value(run.had)}")
    said += [_said(each) for each in run.disturbing]
    said.append("nothing is there" if run.has is None else f"it holds {_value(run.has)}")
    return [said[0], *(f"  {number} {line}" for number, line in enumerate(said[1:], 1))]


def _said(event: Event) -> str:
    """An event in words."""
    return in_short(event, "screen", "key", "button", "section", "text", "field", "to")


def _value(value: Any) -> str:
    """What a piece holds, as short text."""
    if isinstance(value, dict):
        return ", ".join(f"{name} = {shown(each)}" for name, each in value.items())
    if isinstance(value, tuple):
        return ", ".join(str(each) if isinstance(each, tuple) else shown(each) for each in value)
    return shown(value)


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
            "run": [*run.events, *run.disturbing],
        }
        for run in matrix.values()
    ]
    return msgspec.json.format(msgspec.json.encode(marks), indent=1).decode()
