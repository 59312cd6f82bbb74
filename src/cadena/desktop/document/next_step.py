"""The next useful step in a project that is new: said once, until it is done or put away."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final, NamedTuple

from cadena.desktop.document import walks
from cadena.desktop.document.change import Change
from cadena.desktop.document.document import Document
from cadena.engine.events import Choose, Event, Resize, Turn


@dataclass
class PutAway:
    """Whether the person wants no steps in this project."""

    is_put_away: bool = False


class Step(NamedTuple):
    """A step in words, whether it is done, and whether it can be done now."""

    text: str
    is_done: Callable[[Document], bool]
    can_be: Callable[[Document], bool] = lambda document: True


def _happened(*kinds: type[Event]) -> Callable[[Document], bool]:
    return lambda document: any(isinstance(each.event, kinds) for each in document.trace)


def _is_linked(document: Document) -> bool:
    return any(each.what.startswith(("link ", "make ")) for each in document.history.past)


def _rows_open(document: Document) -> bool:
    """Whether a row of the list that the Bench shows opens something."""
    app, section = document.wired, document.wired.sections.get(document.session.section)
    return section is not None and (section.root, "") in app.row_links


STEPS: Final = (
    Step("choose a row on the Bench: its detail opens", _happened(Choose), _rows_open),
    Step("turn the window with T: two panes, where there is room", _happened(Turn, Resize)),
    Step("pull from a port of a card into the open: what it opens is made", _is_linked),
    Step(
        "keep what you did as a walk, under the Bench: it is replayed at every window",
        lambda document: bool(walks.names(document)),
    ),
)


def next_step(document: Document) -> str:
    """What is worth doing next; nothing where all is done, put away, or the project is not new."""
    file = document.file
    if file is None or document.own(PutAway).is_put_away or not document.app.screens:
        return ""
    is_new = not file.with_name(f"{file.name}.before").exists() and not walks.names(document)
    steps = (e.text for e in STEPS if e.can_be(document) and not e.is_done(document))
    return next(steps, "") if is_new else ""


def put_away(document: Document) -> None:
    """The person wants no more of it."""
    document.own(PutAway).is_put_away = True
    document.tell(Change.SELECTION)
