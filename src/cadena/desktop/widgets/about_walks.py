"""What the strip of every stage says of the project's walks."""

from __future__ import annotations

from functools import partial
from typing import Final

from cadena.desktop.document import walks
from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import AllWalks, SelectedWalk
from cadena.desktop.widgets.words import Sentence, Word
from cadena.model.naming import many
from cadena.model.problem import Problem

MOST_BROKEN: Final = 3


def about_walks(document: Document) -> list[Sentence]:
    """The walks there are, or one of them step by step."""
    selection = document.selection
    if isinstance(selection, SelectedWalk):
        return _about_walk(document, selection.walk)
    there = walks.names(document)
    if not there:
        hint = "Do something on the Bench, and keep the run as a walk there."
        return [Sentence("", [Word("subject", "No walks yet"), Word("text", hint)])]
    count = many(len(there), "walk")
    return [Sentence("", [Word("subject", count)]), *(_line(document, each) for each in there)]


def _line(document: Document, name: str) -> Sentence:
    show = partial(document.select, SelectedWalk(name))
    words = [
        Word("do", name, show, name=f"show walk {name}"),
        Word("do", "Play", partial(walks.play, document, name), name=f"play walk {name}"),
        Word(
            "do",
            "At all windows",
            partial(walks.replay_all, document, name),
            name=f"replay walk {name} at all windows",
        ),
        *_held(document, name, 1),
    ]
    return Sentence("", words)


def _held(document: Document, name: str, most: int) -> list[Word]:
    broken = document.own(walks.Held).broken.get(name)
    if broken is None:
        return []
    if not broken:
        return [Word("text", "✓ holds at every window")]
    more = f" and {len(broken) - most} more" if len(broken) > most else ""
    return [Word("broken", f"✕ {'; '.join(broken[:most])}{more}")]


def _about_walk(document: Document, name: str) -> list[Sentence]:
    act = [
        Word("subject", "Walk"),
        Word("line", name, partial(walks.rename, document, name), name="name of the walk"),
        Word("do", "Play", partial(walks.play, document, name), name="play the walk"),
        Word(
            "do",
            "At all windows",
            partial(walks.replay_all, document, name),
            name="replay at all windows",
        ),
        Word("do", "Remove", partial(walks.remove, document, name), name="remove the walk"),
        Word("do", "All walks", partial(document.select, AllWalks()), name="all walks"),
    ]
    said = [Sentence("", act)]
    if held := _held(document, name, MOST_BROKEN):
        if held[0].kind == "broken":
            does = partial(walks.expect_what_happens, document, name)
            held.append(Word("mend", "Expect what happens now", does, name="expect what happens"))
        said.append(Sentence("", held))
    try:
        steps = walks.walk_of(document, name)
    except Problem as problem:
        return [*said, Sentence("", [Word("broken", f"✕ {problem}")])]
    for number, step in enumerate(steps):
        change = partial(walks.change_step, document, name, number)
        take_away = partial(change, "")
        words = [
            Word("line", walks.text_of(step), change, name=f"step {number}", role="whole"),
            Word("do", "✕", take_away, name=f"remove step {number}"),
        ]
        said.append(Sentence(str(number), words))
    more = Word(
        "line", "", partial(walks.add_step, document, name), name="a step more", role="whole"
    )
    return [*said, Sentence("One more", [more])]
