"""What Keep's strip says of a mark: the run behind it, how long the piece lives, and a mend."""

from __future__ import annotations

from functools import partial
from typing import Final

from msgspec.structs import replace

from cadena.desktop.document import Document, Selection
from cadena.desktop.words import Sentence, Word
from cadena.engine.events import Resize
from cadena.keep.matrix import SIGNS, Run
from cadena.keep.mend import mended_keep, with_lifetime
from cadena.keep.pieces import Piece
from cadena.keep.telling import steps_of
from cadena.model.part import Lifetime

LIVES: Final[tuple[tuple[Lifetime, str], ...]] = (
    ("view", "as long as its view"),
    ("entry", "until the process ends"),
    ("saved", "over a kill"),
    ("stored", "always"),
)


def run_selected(document: Document) -> Run | None:
    """The run behind the mark that is selected."""
    selection = document.selection
    if selection.kind != "mark":
        return None
    return next(
        (
            run
            for (piece, name), run in document.matrix.items()
            if (piece.name, name) == (selection.name, selection.part)
        ),
        None,
    )


def of(document: Document) -> list[Sentence]:
    """The sentences of the mark that is selected."""
    run = run_selected(document)
    if run is None:
        lost = [e for e in document.matrix.values() if e.mark in ("lost", "wrong")]
        count = f"{len(lost)} marks are lost or wrong" if lost else "Choose a mark"
        words = [Word("subject", count)]
        if not lost:
            words.append(Word("text", "to see the run behind it."))
        return [Sentence("", words), *(_offered(document, each) for each in lost[:8])]
    broken = run.mark in ("lost", "wrong")
    head = [
        Word("subject", run.piece.name),
        Word("text", f"through {run.disturbance}"),
        Word("broken" if broken else "text", f"{SIGNS[run.mark]} {run.mark}"),
    ]
    mended = mended_keep(document.app, run.piece) if broken else None
    if mended is not None:
        mend = partial(document.edit, f"keep {run.piece.name}", mended, document.selection)
        head.append(Word("mend", "Keep it", mend, name="keep it from now on"))
    head.append(Word("do", "Play this run on the Bench", partial(play, document, run)))
    said = [Sentence("", head)]
    steps = steps_of(run)[1:]
    said.append(Sentence("The run", [Word("text", f"{each.strip()};") for each in steps]))
    said.append(Sentence("Lives", _lives(document, run.piece)))
    said.append(Sentence("Costs", _costs(run)))
    return said


def _offered(document: Document, run: Run) -> Sentence:
    show = Selection("mark", run.piece.name, part=run.disturbance)
    words = [
        Word("broken", f"{SIGNS[run.mark]} {run.piece.name}, {run.disturbance}: {run.mark}"),
        Word("do", "Show", partial(document.select, show), name=f"show {run.piece.name}"),
    ]
    return Sentence("", words)


def _lives(document: Document, piece: Piece) -> list[Word]:
    """The lifetime as a choice; what is bound to a chain lives with its section."""
    words = []
    for life, said in LIVES:
        made = with_lifetime(document.app, piece, life)
        does = partial(document.edit, f"{piece.name}: {life}", made, document.selection)
        words.append(Word("choice", said, does, piece.lifetime == life, f"lives {life}"))
    return words


def _costs(run: Run) -> list[Word]:
    """What keeping the piece costs, in bytes of saved state."""
    keeps = run.piece.lifetime in ("saved", "stored")
    said = f"{run.size} bytes" if keeps else f"nothing now; {run.size} bytes if it were saved"
    return [Word("text", f"{said}, for what it holds in this run")]


def play(document: Document, run: Run) -> None:
    """Let a run happen on the Bench, in its own window, from a fresh start."""
    window = run.window
    document.session = replace(document.session, window=window)
    document.restart()
    if document.session.window != window:
        document.do(Resize(width=window.width, height=window.height, fold=window.fold))
    for event in (*run.events, *run.disturbing):
        document.do(event)
