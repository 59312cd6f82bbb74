"""What Keep's strip says of a mark: the run behind it, how long the piece lives, and a mend."""

from __future__ import annotations

from functools import partial
from typing import Final

from msgspec import json
from msgspec.structs import replace
from PySide6.QtWidgets import QPlainTextEdit, QWidget

from cadena.desktop.document.document import Document
from cadena.desktop.painting.theme import mono, px
from cadena.desktop.stages.keep.about_rows import row_matters
from cadena.desktop.stages.keep.selected import SavedState, SelectedMark
from cadena.desktop.widgets.words import NOTHING, Matter, Sentence, Word, calmly, explained
from cadena.engine.rules.saved_state import SURVIVES_KILL, saved_state
from cadena.model.app import FromRecord
from cadena.model.naming import many
from cadena.runs.keep.marks_in_words import steps_of
from cadena.runs.keep.mend import mended_keep, with_lifetime
from cadena.runs.keep.pieces import Piece
from cadena.runs.keep.rows_in_view import KINDS
from cadena.runs.keep.run import SIGNS, Run
from cadena.runs.keep.saved_size import sizes_of
from cadena.words.explained import LIFETIMES, LIVES

MOST_SIZES: Final = 12
WITHOUT_LIFETIME: Final = ("chosen in view", "forward")


def run_selected(document: Document) -> Run | None:
    """The run behind the mark that is selected."""
    selection = document.selection
    if not isinstance(selection, SelectedMark):
        return None
    return next(
        (
            run
            for (piece, name), run in document.matrix.items()
            if SelectedMark(piece.name, name) == selection
        ),
        None,
    )


def of(document: Document) -> list[Sentence]:
    """The sentences of the mark that is selected."""
    if document.selection == SavedState():
        return about_saved(document)
    run = run_selected(document)
    if run is None:
        lost = [each for each in document.matrix.values() if each.is_broken]
        are = "is" if len(lost) == 1 else "are"
        count = f"{many(len(lost), 'mark')} {are} lost or wrong" if lost else "Choose a mark"
        words = [Word("subject", count)]
        if not lost:
            words.append(Word("text", "to see the run behind it."))
        return [Sentence("", words), *(_offered(document, each) for each in lost[:8])]
    head = [
        Word("subject", run.piece.name),
        Word("text", f"through {run.disturbance}"),
        Word("broken" if run.is_broken else "text", f"{SIGNS[run.mark]} {run.mark}"),
    ]
    mended = mended_keep(document.app, run, document.types) if run.is_broken else None
    if mended is not None:
        mend = partial(document.edit, f"keep {run.piece.name}", mended, document.selection)
        button = "Carry the key" if run.mark == "wrong" else "Keep it"
        head.append(Word("mend", button, mend, name=f"{button.lower()} from now on"))
    again = partial(play, document, run)
    head.append(Word("do", "Play this run on the Bench", again, role="act"))
    steps = [Word("text", f"{each.strip()};") for each in steps_of(run)[1:]]
    matters = row_matters(document, run.piece) if run.piece.kind in KINDS else []
    lives = NOTHING
    if run.piece.kind not in WITHOUT_LIFETIME:
        now = dict(LIVES)[run.piece.lifetime]
        inside = partial(_lifetimes, document, run.piece)
        lives = Matter("it lives", now, "how long it lives", inside)
    keeps = run.piece.lifetime in ("saved", "stored")
    costs = (
        f"and costs {run.size} bytes" if keeps else f"and costs nothing; {run.size} bytes if saved"
    )
    if run.piece.kind == "forward":
        costs = f"It is not saved, and goes with another section; it takes {run.size} bytes"
    settings, *more = calmly([], [lives, *matters])
    settings.words.append(Word("text", f"{costs}, for what it holds in this run"))
    return [Sentence("", head), Sentence("The run", steps), settings, *more]


def _offered(document: Document, run: Run) -> Sentence:
    show = SelectedMark(run.piece.name, run.disturbance)
    words = [
        Word("broken", f"{SIGNS[run.mark]} {run.piece.name}, {run.disturbance}: {run.mark}"),
        Word("do", "Show", partial(document.select, show), name=f"show {run.piece.name}"),
    ]
    return Sentence("", words)


def _lifetimes(document: Document, piece: Piece) -> list[Sentence]:
    """The lifetimes, each with what it means, and the one that is chosen at work."""
    from cadena.desktop.widgets.examples import lifetime

    name = f"example of {piece.lifetime}"
    example = Word("widget", "", partial(lifetime, piece.lifetime), name=name)
    return explained(_lives(document, piece), (LIFETIMES[life] for life, _ in LIVES), example)


def _lives(document: Document, piece: Piece) -> list[Word]:
    """The lifetime as a choice; what is bound to a chain lives with its section."""
    words = []
    for life, said in LIVES:
        made = with_lifetime(document.app, piece, life)
        does = partial(document.edit, f"{piece.name}: {life}", made, document.selection)
        words.append(Word("choice", said, does, piece.lifetime == life, f"lives {life}"))
    return words


def play(document: Document, run: Run) -> None:
    """Let a run happen on the Bench, in its own window, from a fresh start."""
    document.play_events((*run.events, *run.disturbing), run.window)


def about_saved(document: Document) -> list[Sentence]:
    """What would be saved of the app now: its size by piece, its limit, and all of it as JSON."""
    session, wired = document.session, document.wired
    text = saved_state(wired, session, SURVIVES_KILL)
    words = [Word("subject", f"Saved state now: {len(text.encode())} bytes")]
    most = document.app.platform.saved_most
    words += [
        Word("text", "warn over"),
        Word("size", str(most), partial(_limit, document), name="warn over, bytes"),
        Word("text", "bytes"),
    ]
    whole = sorted(_whole_records(document))
    said = [Sentence("", words)]
    if whole:
        which = f"✕ whole records are carried: {', '.join(whole)}; a key would do"
        said.append(Sentence("", [Word("broken", which)]))
    sizes = [f"{name} {size};" for name, size in sizes_of(text).items()]
    if len(sizes) > MOST_SIZES:
        sizes[MOST_SIZES:] = [f"and {len(sizes) - MOST_SIZES} smaller ones"]
    if sizes:
        said.append(Sentence("By piece", [Word("text", each) for each in sizes]))
    said.append(Sentence("As JSON", [Word("widget", "", partial(_as_json, text))]))
    return said


def _limit(document: Document, text: str) -> None:
    plain = text.strip()
    if not plain.isdigit() or not 0 < int(plain) < 10**9:
        document.refuse(f'"{text}" is not a number of bytes. It stays as it was.')
        return
    platform = replace(document.app.platform, saved_most=int(plain))
    made = replace(document.app, platform=platform)
    document.edit("how large saved state may be", made, document.selection)


def _whole_records(document: Document) -> set[str]:
    """Links that carry whole records to screens that are open now."""
    open_ = {e.screen for chain in document.session.chains.values() for e in chain.entries}
    return {
        link.id
        for link in document.app.links
        if link.to in open_ and any(isinstance(each, FromRecord) for each in link.arguments)
    }


def _as_json(text: str) -> QWidget:
    made = QPlainTextEdit(json.format(text, indent=2))
    made.setReadOnly(True)
    made.setAccessibleName("saved state as JSON")
    made.setFixedSize(px(420), px(200))
    made.setFont(mono(px(11)))
    return made
