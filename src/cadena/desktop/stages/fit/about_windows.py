"""What the strip says of breakpoints and of named windows: measured by real runs."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Final

from msgspec.structs import replace

from cadena.desktop.document.bench_windows import add_window
from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import Selection
from cadena.desktop.stages.fit.selected import (
    SelectedArrangement,
    SelectedBreakpoint,
    SelectedWindow,
)
from cadena.desktop.stages.fit.window_map import own_window
from cadena.desktop.widgets.bound import matter_of
from cadena.desktop.widgets.words import Matter, Sentence, Word, calmly
from cadena.engine.events import Event, Turn
from cadena.engine.rules.display import arrangement_for
from cadena.engine.rules.window_change import resize_to, window_of
from cadena.engine.session import Window, sized
from cadena.engine.step import seen_in
from cadena.model.app import NamedWindow
from cadena.model.edits.arrangements import Axis, moved_breakpoint, with_rule_for_the_rest, words_of
from cadena.model.problem import Problem
from cadena.model.windows import windows_of, with_window, without_window
from cadena.runs.walks.walk import parse_window
from cadena.runs.window_crossing import Going, going
from cadena.runs.window_plane import Breakpoint, Plane, plane_of

Play = Callable[[Window, Window], None]
AWAY = 1.0

NOT_MADE_FOR: Final = "the app is not made for this window"


def sides_of(document: Document, each: Breakpoint) -> tuple[Window, Window]:
    """A window on each side of a breakpoint: as near to the live one as it acts."""
    width, height = document.session.window.size
    span = each.spans[0]
    other = height if each.axis == "width" else width
    acts = any(one.start <= other < one.end for one in each.spans)
    if not acts:
        other = span.start + min(200.0, (span.end - span.start) / 2)
    if each.axis == "shape":
        size = min(max(span.start + AWAY, min(width, height)), span.end - AWAY)
        return sized(size, size + AWAY), sized(size + AWAY, size)
    if each.axis == "width":
        return sized(each.at - AWAY, other), sized(each.at, other)
    return sized(other, each.at - AWAY), sized(other, each.at)


def about_breakpoint(document: Document, each: Breakpoint, play: Play) -> list[Sentence]:
    """Where a breakpoint lies, and what going over it does, in each direction."""
    below, above = sides_of(document, each)
    rules = [arrangement_for(document.wired, window) for window in (below, above)]
    names = [rule.title or rule.id or "no arrangement" for rule in rules]
    words = [Word("subject", f"Breakpoint · {each.axis}")]
    if each.axis == "shape":
        words.append(Word("text", "portrait becomes landscape:"))
    else:
        axis: Axis = "width" if each.axis == "width" else "height"
        words.append(
            Word(
                "size",
                f"{each.at:g}",
                partial(_move, document, axis, each.at),
                name="breakpoint, dp",
            )
        )
    words.append(Word("text", f"between “{names[0]}” and “{names[1]}”"))
    said = [Sentence("", words)]
    grows = ("Wider", "Narrower") if each.axis == "width" else ("Higher", "Lower")
    if each.axis == "shape":
        grows = ("Turned", "Turned back")
    for about, start, end in ((grows[0], below, above), (grows[1], above, below)):
        said.append(Sentence(about, _going_words(document, start, end, play, about)))
    return said


def _going_words(
    document: Document, start: Window, end: Window, play: Play, about: str
) -> list[Word]:
    """What happens to the chain's projection, from a real run on the session as it is."""
    if document.session.phase != "running":
        return [Word("text", "the app does not run: restore or wake it first")]
    text = document.session.window.text
    start, end = (replace(e, text=text, rtl=document.session.window.rtl) for e in (start, end))
    session = seen_in(document.wired, document.session, start)
    found = going(document.wired, session, resize_to(end))
    again = Word("do", "Play slowly", partial(play, start, end), name=f"play {about.lower()}")
    return [again, *_found_words(found)]


def _found_words(found: Going) -> list[Word]:
    """What a run did, and what it lost."""
    lost = "; ".join(found.lost)
    ends = Word("broken", f"✕ lost: {lost}") if lost else Word("text", "nothing is lost.")
    return [*(Word("text", f"{line};") for line in found.lines), ends]


def _move(document: Document, axis: Axis, at: float, text: str) -> None:
    try:
        to = float(text.strip().removesuffix("dp"))
        app = moved_breakpoint(document.app, axis, at, to)
    except ValueError as error:
        document.refuse(f"Breakpoint {axis} {at:g}: {error}. It stays where it was.")
        return
    document.edit(f"move breakpoint {at:g} to {to:g}", app, SelectedBreakpoint(axis, to))


def about_window(document: Document, named: NamedWindow) -> list[Sentence]:
    """A named window: how it is arranged, and what turning it does."""
    window = window_of(named)
    rule = arrangement_for(document.wired, window)
    title = rule.title or rule.id or "no arrangement"
    fold = "" if named.fold is None else f"@{named.fold:g}"
    size = f"{named.width:g}x{named.height:g}{fold}"
    resize, rename = partial(_resize, document, named), partial(_rename, document, named)
    here = partial(document.resize, window.width, window.height, window.fold)
    beside = partial(add_window, document, window)
    name = Word("line", named.name, rename, name="name of the window")
    dp = Word("line", size, resize, name="its size in dp")
    matters = [
        matter_of(NamedWindow, "name", named.name, lambda: [Sentence("", [name])]),
        Matter("of", size, "size of the window", lambda: [Sentence("", [dp])]),
    ]
    act = [
        Word("text", f"is “{title}”: {words_of(rule)}"),
        Word("do", "On the Bench", here, name="give the Bench this window"),
        Word("do", "+ beside", beside, name="add this window to the Bench"),
        Word("do", "Remove", partial(_remove, document, named), name=NOT_MADE_FOR),
    ]
    said = calmly([Word("subject", "Window")], matters, act=act)
    if document.session.phase == "running":
        said.append(Sentence("Turned", _turned_words(document, window, Turn())))
    return said


def _resize(document: Document, named: NamedWindow, text: str) -> None:
    try:
        typed = parse_window(text.replace(" ", ""))
    except Problem as problem:
        document.refuse(str(problem))
        return
    made = NamedWindow(name=named.name, width=typed.width, height=typed.height, fold=typed.fold)
    document.edit(f"size of {named.name}", with_window(document.app, made))


def _rename(document: Document, named: NamedWindow, text: str) -> None:
    app, name = document.app, text.strip()
    if not name or any(each.name == name for each in windows_of(app)):
        document.refuse(f'A window needs a name of its own, not "{name}".')
        return
    made = tuple(
        replace(window, name=name) if window.name == named.name else window
        for window in windows_of(app)
    )
    document.edit(f"rename {named.name}", replace(app, windows=made), SelectedWindow(name))


def _remove(document: Document, named: NamedWindow) -> None:
    document.edit(f"remove {named.name}", without_window(document.app, named.name), Selection())


def _turned_words(document: Document, window: Window, event: Event) -> list[Word]:
    session = seen_in(document.wired, document.session, window)
    found = going(document.wired, session, event)
    rules = [arrangement_for(document.wired, each.window) for each in (found.before, found.after)]
    plane = plane_of(document.app.arrangements)
    said = "stays in its arrangement"
    if rules[0] is not rules[1]:
        over = [
            f"{breakpoint.axis} {breakpoint.at:g}"
            for breakpoint in _crossed(plane, found.before.window, found.after.window)
        ]
        said = f"crosses {', '.join(over) or 'portrait to landscape'}"
    return [Word("text", f"{said}: "), *_found_words(found)]


def _crossed(plane: Plane, one: Window, other: Window) -> list[Breakpoint]:
    """The breakpoints whose size lies between two windows."""
    found = []
    for breakpoint in plane.breakpoints:
        if breakpoint.axis == "shape":
            continue
        n = 0 if breakpoint.axis == "width" else 1
        low, high = sorted((one.size[n], other.size[n]))
        if low < breakpoint.at <= high:
            found.append(breakpoint)
    return found


def about_gap(document: Document) -> list[Sentence]:
    """Windows that no rule is for."""

    def add() -> None:
        made = with_rule_for_the_rest(document.app)
        rule = made.arrangements[-1]
        document.edit("add an arrangement", made, SelectedArrangement(rule.id))

    return [
        Sentence(
            "",
            [
                Word("subject", "No arrangement"),
                Word("text", "no rule is for these windows: they are shown with one pane."),
                Word(
                    "mend", "Add a rule for all that is left", add, name="add a rule for the rest"
                ),
            ],
        )
    ]


def add_own(document: Document) -> None:
    """The live window becomes one of the windows that the app is made for."""
    made = own_window(document.app, document.session.window.size)
    document.edit(
        f"add window {made.name}", with_window(document.app, made), SelectedWindow(made.name)
    )
