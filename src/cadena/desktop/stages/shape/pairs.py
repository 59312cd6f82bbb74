"""Lists with the details that their rows open: what Shape shows, one at a time."""

from __future__ import annotations

from typing import NamedTuple

from cadena.desktop.document.selection import OnScreen, SelectedScreen, Selection
from cadena.desktop.stages.shape.selected import SelectedList
from cadena.desktop.widgets.words import screen_words
from cadena.model.app import App, FormScreen
from cadena.model.find import by_id
from cadena.model.screen_parts import listings


class Pair(NamedTuple):
    """A list and the detail that its rows open, if they open one; or a form by itself."""

    screen: str
    part: str
    detail: str


def pairs_of(app: App) -> list[Pair]:
    """Every list of an app with the detail that its rows open, then the forms."""
    opens = {
        (link.trigger.screen, link.trigger.part): link.to
        for link in app.links
        if link.trigger.on == "row"
    }
    found = [
        Pair(screen.id, part, opens.get((screen.id, part), ""))
        for screen in app.screens
        for part in reversed(listings(screen))
    ]
    forms = [each.id for each in app.screens if isinstance(each, FormScreen)]
    return found + [Pair(each, "", each) for each in forms]


def pair_selected(app: App, selection: Selection, last: tuple[str, str] | None) -> Pair | None:
    """The pair of what is selected, or the one shown last, or the first."""
    found = pairs_of(app)
    same = next((each for each in found if (each.screen, each.part) == last), None)
    if isinstance(selection, SelectedList | SelectedScreen):
        part = selection.part if isinstance(selection, SelectedList) else ""
        at = (selection.screen, part)
        if exact := next((each for each in found if (each.screen, each.part) == at), None):
            return exact
    if isinstance(selection, OnScreen):
        name = selection.screen
        if same is not None and same.detail == name:
            return same
        for wanted in ("detail", "screen"):
            if match := next((each for each in found if getattr(each, wanted) == name), None):
                return match
    return same or next(iter(found), None)


def pair_words(app: App, pair: Pair) -> str:
    """A pair in words: Huts → Hut."""
    screen, detail = by_id(app.screens, pair.screen), by_id(app.screens, pair.detail)
    first = pair.screen if screen is None else screen_words(screen)
    if isinstance(screen, FormScreen):
        return f"{screen.id} (form)"
    if pair.part:
        first += f" · {pair.part}"
    return f"{first} → {screen_words(detail)}" if detail is not None else first
