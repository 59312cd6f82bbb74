"""A finding: what is wrong, where, why it matters, and what would mend it."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Literal

from msgspec import Struct

Weight = Literal["breaks", "weakens"]


class Finding(Struct, frozen=True):
    """One mistake found in a project.

    ``code`` is stable; ``weight`` says whether it breaks the app or only weakens it;
    ``where`` is a path into the project; ``screen`` and ``link`` name what it is about, for
    those that show it beside the thing. ``run`` is a walk that shows it, as JSON, where the
    finding was measured by one.
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


def first_few(places: Iterable[str]) -> str:
    """The first three of some places, each named once, and how many more there are."""
    named = list(dict.fromkeys(places))
    more = f" and {len(named) - 3} more" if len(named) > 3 else ""
    return ", ".join(named[:3]) + more
