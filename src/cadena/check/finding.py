"""A finding: what is wrong, where, why it matters, and what would mend it."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Literal

from msgspec import Struct

from cadena.model.app import App, Screen
from cadena.model.edits.wiring import Types, without_link

Weight = Literal["breaks", "weakens"]
Thing = Literal[
    "app", "arrangement", "arrangements", "link", "screen", "section", "source", "value", "window"
]


class Subject(Struct, frozen=True):
    """What a finding is about: a thing of the app by its name, and perhaps a part of it.

    The part is the parameter of a link, the slot of a row, a piece of state, the header of a
    service.
    """

    thing: Thing = "app"
    name: str = ""
    part: str = ""


class Finding(Struct, frozen=True):
    """One mistake found in a project.

    ``code`` is stable; ``weight`` says whether it breaks the app or only weakens it;
    ``where`` is a path into the project, for people; ``subject`` is what mends and strips go by;
    ``screen`` and ``link`` name what shows it beside itself. ``run`` is a walk that shows it, as
    JSON, where the finding was measured by one.
    """

    code: str
    weight: Weight
    where: str
    what: str
    why: str
    mend: str
    screen: str = ""
    link: str = ""
    run: str = ""
    subject: Subject = Subject()

    def is_about(self, thing: Thing, name: str = "") -> bool:
        """Whether it is about a thing of the app, or a part of it."""
        return (self.subject.thing, self.subject.name) == (thing, name)


Mend = Callable[[App, Types, Finding], App | None]
"""The app with a finding mended, or none where a person has to decide."""


def about_screen(
    screen: Screen,
    code: str,
    weight: Weight,
    where: str,
    what: str,
    why: str,
    mend: str,
    part: str = "",
) -> Finding:
    """A finding about a screen, or a part of it."""
    subject = Subject("screen", screen.id, part)
    return Finding(code, weight, where, what, why, mend, screen.id, subject=subject)


def without_its_link(app: App, types: Types, finding: Finding) -> App | None:
    """The app without the link that a finding is about."""
    return without_link(app, finding.subject.name)


def path_of(subject: Subject) -> str:
    """The path into the project of a thing that has its place in a list of them, or of a part."""
    if subject.thing in ("app", "arrangements"):
        return subject.part or subject.thing
    part = f".{subject.part}" if subject.part else ""
    return f"{subject.thing}s[{subject.name}]{part}"


def first_few(places: Iterable[str]) -> str:
    """The first three of some places, each named once, and how many more there are."""
    named = list(dict.fromkeys(places))
    more = f" and {len(named) - 3} more" if len(named) > 3 else ""
    return ", ".join(named[:3]) + more
