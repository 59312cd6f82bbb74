"""What a page shows, read off its elements by what they say of themselves (docs/driving.md)."""

from __future__ import annotations

import json
from typing import Any, Final

from msgspec import Struct

from cadena.deliver.drive.webdriver import Browser, script
from cadena.model.values import Scalar


class ReadRow(Struct, frozen=True):
    """A row that is chosen, or the first in view: of which list, and its key."""

    list: str
    key: Any


class ReadPane(Struct, frozen=True, omit_defaults=True):
    """A pane as the page shows it; ``x`` and ``width`` are in CSS pixels, from where reading
    begins. ``above`` is how many of them of what is first in view are over the edge."""

    place: str
    screen: str | None
    x: float
    width: float
    title: str = ""
    back: str | None = None
    chosen: tuple[ReadRow, ...] = ()
    shown: tuple[ReadRow, ...] = ()
    first: ReadRow | None = None
    first_part: str | None = None
    above: float | None = None
    rows: dict[str, int] = {}
    fields: dict[str, str] = {}


class Reading(Struct, frozen=True, omit_defaults=True):
    """What a page shows."""

    phase: str = ""
    section: str = ""
    address: str | None = None
    panes: tuple[ReadPane, ...] = ()
    question: str | None = None
    focus: str | None = None


SCRIPT: Final = script("read")


def read(browser: Browser) -> Reading | None:
    """What the page in a browser shows, or none where it is no app that can be driven."""
    came = browser.run(SCRIPT)
    if not isinstance(came, dict):
        return None
    panes = tuple(_pane(each) for each in came["panes"])
    return Reading(
        came["phase"] or "",
        came["section"] or "",
        came["address"],
        panes,
        came["question"],
        came["focus"],
    )


def _pane(came: dict[str, Any]) -> ReadPane:
    return ReadPane(
        came["place"],
        came["screen"],
        came["x"],
        came["width"],
        came["title"],
        came["back"],
        tuple(map(_row, came["chosen"])),
        tuple(map(_row, came["shown"])),
        None if came["first"] is None else _row(came["first"]),
        came["first_part"],
        came["above"],
        came["rows"],
        came["fields"],
    )


def _row(came: dict[str, str]) -> ReadRow:
    return ReadRow(came["list"], _key(came["key"]))


def _key(text: str) -> Scalar | None:
    """A key as its element has it: JSON, or a text as it stands."""
    try:
        found: Any = json.loads(text)
    except ValueError:
        return text
    return found if isinstance(found, str | int | float | bool) else text
