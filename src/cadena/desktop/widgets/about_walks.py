"""What the strip of every stage says of the project's walks."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from typing import TYPE_CHECKING, Any, Final

from cadena.desktop.document import walks
from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import AllWalks, SelectedWalk
from cadena.desktop.widgets.words import Matter, Sentence, Word, calmly, chip
from cadena.engine.events import Event
from cadena.model.app import Screen
from cadena.model.naming import many
from cadena.model.problem import Problem
from cadena.model.screen_parts import actions, buttons, facts_that_open, listings
from cadena.runs.possible import possible
from cadena.runs.walks.in_words import record_called, screen_called, step_in_words
from cadena.runs.walks.walk import Expectation, Expected

if TYPE_CHECKING:
    from cadena.desktop.widgets.struct_editor import Choices, Known

MOST_BROKEN: Final = 3
MOST_ROWS: Final = 30
"""Rows that are offered by their label; others are typed by their key."""


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
    replay = partial(walks.replay_all, document, name)
    words = [
        Word("do", name, show, name=f"show walk {name}"),
        Word("do", "Play", partial(walks.play, document, name), name=f"play walk {name}"),
        Word("do", "At all windows", replay, name=f"replay walk {name} at all windows"),
        *_outcome_words(document, name, 1),
    ]
    return Sentence("", words)


def _outcome_words(document: Document, name: str, most: int) -> list[Word]:
    broken = document.own(walks.Held).broken.get(name)
    if broken is None:
        return []
    if not broken:
        return [Word("text", "✓ holds at every window")]
    more = f" and {len(broken) - most} more" if len(broken) > most else ""
    return [Word("broken", f"✕ {'; '.join(broken[:most])}{more}")]


def _about_walk(document: Document, name: str) -> list[Sentence]:
    rename = Word("line", name, partial(walks.rename, document, name), name="name of the walk")
    called = Matter("", "", "another name of the walk", lambda: [Sentence("", [rename])])
    more = Matter("", "", "a step more", partial(_more, document, name), "step")
    replay = partial(walks.replay_all, document, name)
    is_recording = document.own(walks.Recording).walk == name
    stop, begin = partial(walks.stop_recording, document), partial(walks.record, document, name)
    recording = Word("toggle", "recording", stop if is_recording else begin, is_recording)
    act = [
        recording._replace(name="record what is done on the Bench"),
        Word("do", "Play", partial(walks.play, document, name), name="play the walk"),
        Word("do", "At all windows", replay, name="replay at all windows"),
        Word("do", "Remove", partial(walks.remove, document, name), name="remove the walk"),
        Word("do", "All walks", partial(document.select, AllWalks()), name="all walks"),
    ]
    first = [Word("subject", "Walk"), Word("text", name)]
    said, *offers = calmly(first, [more, called], act=act)
    lines = [said]
    if held := _outcome_words(document, name, MOST_BROKEN):
        if held[0].kind == "broken":
            does = partial(walks.expect_what_happens, document, name)
            held.append(Word("mend", "Expect what happens now", does, name="expect what happens"))
        lines.append(Sentence("", held))
    lines += offers
    try:
        steps = walks.walk_of(document, name)
    except Problem as problem:
        return [*lines, Sentence("", [Word("broken", f"✕ {problem}")])]
    for number, step in enumerate(steps):
        told = step_in_words(document.wired, step)
        inside = partial(_about_step, document, name, number, step)
        lines.append(Sentence(str(number), [chip(told, f"step {number}", inside)]))
    return lines


def _about_step(
    document: Document, walk: str, number: int, step: Event | Expectation
) -> list[Sentence]:
    """What a step says, each in its own control, and taking it away."""
    from cadena.desktop.widgets.struct_editor import struct_sentences

    known = _known(document, step)
    if isinstance(step, Expectation):

        def expect(_: str, made: Any) -> None:
            walks.change_steps(document, walk, number, 1, Expectation(expect=made))

        said = struct_sentences(step.expect, expect, document.refuse, known)
    else:

        def change(_: str, made: Any) -> None:
            walks.change_steps(document, walk, number, 1, made)

        said = struct_sentences(step, change, document.refuse, known)
    drop = partial(walks.change_steps, document, walk, number, 1)
    act = Word("do", "Remove the step", drop, name=f"remove step {number}")
    return [*said, Sentence("", [act])]


def _more(document: Document, walk: str) -> list[Sentence]:
    """One more step: what is so now, or something that could be done now."""
    add = partial(walks.change_steps, document, walk, None, 0)
    now = walks.now_on_bench(document)
    expected = [
        (step_in_words(document.wired, made), partial(add, made))
        for made in (Expectation(expect=Expected(**{name: each})) for name, each in now.items())
    ]
    done = [
        (step_in_words(document.wired, event.event), partial(add, event.event))
        for event in possible(document.wired, document.session)
    ]
    expect = Word("menu", "what is so now", name="expect what is so now", options=expected)
    do = Word("menu", "what could be done now", name="do what could be done now", options=done)
    return [
        Sentence("Expect", [expect, Word("text", "on the Bench")]),
        Sentence("Do", [do, Word("text", "or record, and do it on the Bench")]),
    ]


def _known(document: Document, step: Event | Expectation) -> Known:
    """What the fields of a step can be, of this app."""
    from cadena.desktop.widgets.struct_editor import Known

    app, wired = document.app, document.wired
    screens = [(each.id, screen_called(wired, each.id)) for each in app.screens]
    parameters = dict.fromkeys(p.name for screen in app.screens for p in screen.parameters)
    values = [(each.id, each.id) for each in app.values]
    choices: dict[str, Choices] = {
        **dict.fromkeys(
            ("screen", "display", "chain", "shows", "hides", "missing", "focus"), screens
        ),
        **dict.fromkeys(("chosen", "first_row", "rows", "draft"), screens),
        "section": [(each.id, each.title) for each in app.sections],
        "source": [(each.id, each.title or each.id) for each in app.sources],
        "arrangement": [(each.id, each.title or each.id) for each in app.arrangements],
        "arguments": [(each, each) for each in parameters],
        "value": values,
        "values": values,
    }
    screen = wired.screens.get(getattr(step, "screen", ""))
    if screen is not None:
        choices.update(_on_screen(document, screen, getattr(step, "list", "")))
    now = walks.now_on_bench(document) if isinstance(step, Expectation) else {}
    return Known(choices, now)


def _on_screen(document: Document, screen: Screen, part: str) -> Iterator[tuple[str, Choices]]:
    lists = listings(screen)
    if lists:
        yield "list", [(each, each or "its own list") for each in lists]
    yield "button", [(name, each.label) for name, each in buttons(screen).items()]
    yield "action", [(name, each.label) for name, (_, each) in actions(screen).items()]
    yield "fact", [(each, each) for each in facts_that_open(screen)]
    listing = lists.get(part)
    records = None if listing is None else document.records.get(listing.source)
    if records is not None and len(records) <= MOST_ROWS:
        keys = (records.key_at(row) for row in range(len(records)))
        yield "key", [(each, record_called(document.wired, screen.id, part, each)) for each in keys]
