"""While rows are picked: how many, and what can be done with all of them (rules.md, 14)."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, Final

from cadena.engine.events import ActOnPicked, LetGo, OpenSections, PickAll, SlideList
from cadena.engine.layout.panes import Area
from cadena.engine.layout.pieces import is_narrow
from cadena.engine.layout.sizes import BOTTOM_BAR, BUTTON, EDGE, GAP, TITLE_BAR
from cadena.engine.rules.actions import words_for
from cadena.engine.rules.picked import for_several, shown_of
from cadena.engine.session import Entry, Session
from cadena.engine.wired import WiredApp
from cadena.model.listing import RemoveRecord
from cadena.scene.scene import Box

SIGN: Final = 44.0
ROOM_FOR_WORDS: Final = 84.0
"""How wide the bar must be to say more than a number, in dp."""


def picked_in_words(app: WiredApp, session: Session, entry: Entry, part: str) -> str:
    """How many rows are picked, and how many of them the list does not show now."""
    picked = entry.view.picked[part]
    listed = app.listed(session, entry, part)
    shown = 0 if listed is None else shown_of(app, listed, picked)
    hidden = len(picked) - shown
    said = app.words("{count} picked", count=len(picked))
    return f"{said}, {app.words('{count} of them not shown', count=hidden)}" if hidden else said


def picking_bar(
    app: WiredApp,
    session: Session,
    index: int,
    part: str,
    area: Area,
    opens_sections: bool = False,
    slides: bool = False,
) -> Iterator[Box]:
    """In place of the title: to let all go, how many are picked, and to pick all that is shown.

    What opens the section bar, or slides the list in, stays where it is (see ``screen_boxes``).
    """
    entry = session.entries[index]
    on: dict[str, Any] = {"screen": entry.screen, "entry": index, "list": part}
    yield Box("title bar", area.x, area.y, area.width, TITLE_BAR, entry=index)
    plain = frozenset({"plain", "in bar"})
    y, tall = area.y + 6, TITLE_BAR - 12
    box = (area.x + 4, y, SIGN, tall)
    yield Box("button", *box, "×", plain, LetGo(**on), name=app.words("Let go"), entry=index)
    word = app.words("All")
    wide = SIGN if is_narrow(area.width) else max(56.0, 28 + 8 * len(word))
    left, right = area.x + SIGN + 8, area.x + area.width - 4
    if opens_sections:
        right -= SIGN
        box = (right, y, SIGN - 4, tall)
        yield Box("sections", *box, does=OpenSections(), name=app.words("Sections"), entry=index)
    if slides:
        box = (left, y, SIGN, tall)
        yield Box("slide", *box, does=SlideList(), name=app.words("Show the list"), entry=index)
        left += SIGN
    right -= wide
    box = (right, y, wide, tall)
    every = app.words("Pick all that is shown")
    yield Box("button", *box, word, plain, PickAll(**on), name=every, entry=index)
    said = picked_in_words(app, session, entry, part)
    box = (left, area.y, max(0.0, right - left - 4), TITLE_BAR)
    text = str(len(entry.view.picked[part])) if box[2] < ROOM_FOR_WORDS else said
    yield Box("picked", *box, text, name=said, entry=index, part=part)


def actions_on_picked(
    app: WiredApp, session: Session, index: int, part: str, area: Area
) -> Iterator[Box]:
    """At the bottom: the actions that are for several."""
    entry = session.entries[index]
    picked = entry.view.picked[part]
    listing = app.listings[entry.screen][part]
    actions = for_several(listing)
    top = area.y + area.height - BOTTOM_BAR
    yield Box("bottom bar", area.x, top, area.width, BOTTOM_BAR, entry=index)
    wide = (area.width - 2 * EDGE - GAP * (len(actions) - 1)) / max(1, len(actions))
    for number, button in enumerate(actions):
        box = (area.x + EDGE + number * (wide + GAP), top + (BOTTOM_BAR - BUTTON) / 2, wide, BUTTON)
        label = (button.several.label if button.several else "") or button.label
        said = words_for(app, label, len(picked))
        does = ActOnPicked(screen=entry.screen, entry=index, action=button.id)
        state = frozenset({"bad"}) if isinstance(button.does, RemoveRecord) else frozenset[str]()
        yield Box("button", *box, said, state, does, entry=index, part=button.id)
