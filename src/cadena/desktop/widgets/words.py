"""The words of which the strip's sentences are made, and how things are called in them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Literal, NamedTuple

from cadena.model.app import App, Screen, Trigger
from cadena.model.find import by_id
from cadena.model.screen_parts import label_of


def nothing(*_: object) -> None:
    """What a word does that does nothing."""


Kind = Literal[
    "subject", "broken", "text", "line", "size", "menu", "widget", "mend", "do", "choice", "toggle"
]
Options = Sequence[tuple[str, Callable[..., object]]]


class Word(NamedTuple):
    """One word of a sentence; ``kind`` says what control it becomes (``widget``: what it makes).

    ``role`` is how it looks, where that is not as its kind usually does; ``keys`` do the same.
    With an ``icon`` it is seen as that alone, and says its text where it is pointed at.
    """

    kind: Kind
    text: str
    does: Callable[..., object] = nothing
    chosen: bool | None = None
    name: str = ""
    options: Options = ()
    role: str = ""
    is_on: bool = True
    keys: str = ""
    icon: str = ""


class Sentence(NamedTuple):
    about: str
    words: list[Word]


def trigger_words(app: App, trigger: Trigger) -> str:
    """A trigger in words: Huts · row; Hut · Ask the warden."""
    screen = by_id(app.screens, trigger.screen)
    what = label_of(screen, trigger) if screen is not None else trigger.part
    return f"{screen_words(screen) if screen else trigger.screen} · {what}"


def screen_words(screen: Screen) -> str:
    """A screen in words: its title, or what it is called where that is a field."""
    return screen.title if screen.title and "{" not in screen.title else screen.id.capitalize()
