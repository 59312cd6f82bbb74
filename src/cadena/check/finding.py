"""A finding: what is wrong, where, why it matters, and what would mend it."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from functools import lru_cache
from importlib import resources
from typing import Literal, NamedTuple

from msgspec import Struct, json

from cadena.model.app import App, Link, Screen
from cadena.model.edits.wiring import Types, without_link
from cadena.model.source import Source

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


class Mistake(Struct, frozen=True, forbid_unknown_fields=True):
    """A kind of mistake: ``stage`` is where it is mended; in ``why`` and ``mend`` the check that
    finds one fills the places in braces."""

    weight: Literal["breaks", "weakens", "breaks or weakens"]
    stage: str
    why: str
    mend: str


@lru_cache
def mistakes() -> Mapping[str, Mistake]:
    """Every kind of mistake that is found, by its code."""
    text = (resources.files(__package__) / "mistakes.json").read_bytes()
    return json.decode(text, type=dict[str, Mistake])


class About(NamedTuple):
    """What a finding is about, and the screen and link that show it."""

    subject: Subject
    screen: str = ""
    link: str = ""


def of_thing(thing: Thing = "app", name: str = "", part: str = "", screen: str = "") -> About:
    """About a thing of the app, or a part of it; a screen shows itself."""
    return About(Subject(thing, name, part), name if thing == "screen" else screen)


def of_screen(screen: Screen, part: str = "") -> About:
    return of_thing("screen", screen.id, part)


def of_link(link: Link, part: str = "") -> About:
    return About(Subject("link", link.id, part), link.trigger.screen, link.id)


def of_source(source: Source, part: str = "") -> About:
    return of_thing("source", source.id, part)


def found(
    code: str,
    about: About,
    what: str,
    where: str = "",
    *,
    weight: Weight | None = None,
    why: str = "",
    mend: str = "",
    run: str = "",
    **places: object,
) -> Finding:
    """A mistake of a kind that is known.

    Args:
        where: the path into the project, where it is not that of what it is about.
        weight: of a kind that breaks or weakens, which of them.
        why, mend: in the place of what is said of all of its kind.
        places: fill the places in what is said of all of its kind.
    """
    kind = mistakes()[code]
    if weight is None:
        assert kind.weight != "breaks or weakens", f"{code} has no weight of its own"
        weight = kind.weight
    return Finding(
        code,
        weight,
        where or path_of(about.subject),
        what,
        why or kind.why.format(**places),
        mend or kind.mend.format(**places),
        about.screen,
        about.link,
        run,
        about.subject,
    )


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
