"""What a page shows, read off its elements by what they say of themselves (docs/driving.md)."""

from __future__ import annotations

import json
from typing import Any, Final

import msgspec
from msgspec import Struct, UnsetType

from cadena.deliver.drive.webdriver import Browser, script
from cadena.model.problem import Problem
from cadena.model.values import Scalar


class ReadRow(Struct, frozen=True):
    """A row that is chosen, or the first in view: of which list, and its key."""

    list: str
    key: Any

    def __post_init__(self) -> None:
        # A key as its element has it: JSON, or a text as it stands.
        if isinstance(self.key, str):
            msgspec.structs.force_setattr(self, "key", _key(self.key))


class ReadPane(Struct, frozen=True, omit_defaults=True):
    """A pane as the page shows it; ``x`` and ``width`` are in CSS pixels, from where reading
    begins. ``above`` is how many of them of what is first in view are over the edge, ``scrolled``
    how many it is scrolled by in all, where it tells that."""

    place: str
    screen: str | None
    x: float
    width: float
    title: str = ""
    back: str | None = None
    chosen: tuple[ReadRow, ...] = ()
    picked: tuple[ReadRow, ...] = ()
    shown: tuple[ReadRow, ...] = ()
    first: ReadRow | None = None
    first_part: str | None = None
    above: float | None = None
    scrolled: float | None = None
    rows: dict[str, float | None] = {}
    fields: dict[str, str | None] = {}
    y: float = 0
    height: float = 0


class Reading(Struct, frozen=True, omit_defaults=True):
    """What an app shows; the address is left out where it does not tell it."""

    phase: str = ""
    section: str = ""
    address: str | UnsetType | None = None
    panes: tuple[ReadPane, ...] = ()
    question: str | None = None
    said: str | None = None
    focus: str | None = None


SCRIPT: Final = script("read")


def read(browser: Browser) -> Reading | None:
    """What the page in a browser shows, or none where it is no app that can be driven.

    Raises:
        Problem: where what it shows cannot be read.
    """
    came = browser.run(SCRIPT)
    if not isinstance(came, dict):
        return None
    try:
        return msgspec.convert(came, Reading)
    except msgspec.ValidationError as error:
        reason = f"what it shows cannot be read ({error})"
        raise Problem("the page", "", reason, "what docs/driving.md says") from None


def _key(text: str) -> Scalar | None:
    try:
        found: Any = json.loads(text)
    except ValueError:
        return text
    return found if isinstance(found, str | int | float | bool) else text
