"""Checks that lay the app out: in every window, turned, and with text twice as large."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final, NamedTuple

from msgspec.structs import replace

from cadena.check.finding import Finding, first_few, found, of_thing
from cadena.engine import events as do
from cadena.engine.layout.column import column_of
from cadena.engine.layout.measure import plain_measure
from cadena.engine.layout.sizes import BOLD, SIZES
from cadena.engine.rules.display import arrangement_for, display_of
from cadena.engine.rules.lists import view_of
from cadena.engine.rules.window_change import window_after, window_of
from cadena.engine.session import Session, Window
from cadena.engine.step import seen_in, step
from cadena.engine.wired import WiredApp
from cadena.model.windows import windows_of
from cadena.runs.shortest_walks import Way, nearest, ways
from cadena.scene.lay_out import lay_out
from cadena.scene.scene import Box

LARGE: Final = 2.0
WRITTEN: Final = (
    "button",
    "page",
    "form label",
    "fact label",
    "list heading",
    "row action",
    "menu item",
    "option",
)
"""Kinds of boxes whose text the developer wrote, and that are cut where it does not fit."""
LEAST_LETTERS: Final = 4.0
INSIDE: Final = {"option": 48.0}
"""What of a box its text cannot have, in dp."""


class Tried(NamedTuple):
    """A window that the app is tried in, under a name."""

    name: str
    window: Window


def tried_windows(app: WiredApp) -> list[Tried]:
    """The windows that an app is made for, each also turned, and folded where it folds."""
    found = []
    for each in windows_of(app.app):
        window = window_of(each)
        found.append(Tried(each.name, window))
        if window.width != window.height:
            found.append(Tried(f"{each.name} turned", window_after(window, do.Turn())))
        if window.fold is not None:
            found.append(Tried(f"{each.name} folded", window_after(window, do.Fold())))
    return found


def laid_out_findings(app: WiredApp, screens: int | None = None) -> Iterator[Finding]:
    """What is wrong that shows only when the app runs.

    Args:
        screens: how many screens are measured, those nearest to the start; none for all.
    """
    yield from (each for each in laid_out_slowly(app, screens) if each is not None)


def laid_out_slowly(app: WiredApp, screens: int | None = None) -> Iterator[Finding | None]:
    """The same in small pieces of work, one for each ``next``: of most there is none to tell."""
    cut: dict[tuple[str, str], list[str]] = {}
    bar: dict[str, list[str]] = {}
    scrolling: dict[tuple[str, str], list[str]] = {}
    for tried in tried_windows(app):
        near = nearest(ways(app, tried.window), screens)
        yield None
        for screen, way in near.items():
            for text in (1.0, LARGE):
                where = tried.name if text == 1.0 else f"{tried.name} with text at {text:.0%}"
                window = replace(tried.window, text=text)
                session = seen_in(app, way.session, window)
                for said in _cut(app, session, way.entry, screen):
                    cut.setdefault((screen, said), []).append(where)
                if len(session.entries) == 1:
                    for title in _cut_sections(app, session):
                        bar.setdefault(title, []).append(where)
                yield None
            for page in _scrolling(app, way, screen):
                scrolling.setdefault((screen, page), []).append(tried.name)
    if bar:
        places = list(dict.fromkeys(place for each in bar.values() for place in each))
        yield found(
            "text-cut",
            of_thing(),
            f"the section bar does not show {', '.join(sorted(bar))} whole at {first_few(places)}",
            "sections",
            why="people see half of a word, and do not know where it leads",
            mend="shorten the titles, or put the bar behind a button there",
        )
    for (screen, said), places in cut.items():
        said = f"{screen}: {said} does not fit at {first_few(places)}"
        yield found("text-cut", of_thing("screen", screen), said)
    for (screen, page), places in scrolling.items():
        yield found(
            "page-scrolls",
            of_thing("screen", screen),
            f'{screen}: page "{page}" scrolls at {first_few(places)}, and is not the last',
            f"screens[{screen}].blocks[{page}]",
        )


def _cut(app: WiredApp, session: Session, index: int, screen: str) -> Iterator[str]:
    """What a screen cannot show whole."""
    if not 0 <= index < len(session.entries) or session.entries[index].screen != screen:
        return
    scene = lay_out(app, session, session.window)
    said = set()
    for box in scene.boxes:
        if box.entry not in (index, -1):
            continue
        if box.kind in WRITTEN and _is_cut(box):
            said.add(f'{box.kind} "{box.text}"')
        elif box.kind == "row title" and box.width < LEAST_LETTERS * SIZES[box.kind]:
            said.add("the title of a row")
    yield from sorted(said)


def _cut_sections(app: WiredApp, session: Session) -> Iterator[str]:
    if arrangement_for(app, session.window).bar == "button":
        session = replace(session, sections_open=True)
    for box in lay_out(app, session, session.window).boxes:
        if box.kind == "section" and _is_cut(box):
            yield box.text


def _is_cut(box: Box) -> bool:
    room = box.width - INSIDE.get(box.kind, 0.0)
    lines = plain_measure(box.text, SIZES[box.kind], box.kind in BOLD, room)
    return "\n" not in box.text and len(lines) > 1


def _scrolling(app: WiredApp, way: Way, screen: str) -> Iterator[str]:
    """The pages of a detail that are not the last, and are longer than what is seen."""
    marks = app.pages.get(screen, ())
    for page in marks[:-1]:
        event = do.TurnPage(screen=screen, entry=way.entry, to=page)
        session, *_ = step(app, way.session, event)
        area = display_of(app, session).area_of(way.entry)
        if area is None:
            continue
        entry = session.entries[way.entry]
        width, height = view_of(app, entry, area)
        if column_of(app, session, entry, width).total > height + 0.5:
            yield page
