"""A finding: what is wrong, where, why it matters, and what would mend it."""

from __future__ import annotations

from typing import Literal

from msgspec import Struct

Weight = Literal["breaks", "weakens"]


class Finding(Struct, frozen=True):
    """One mistake found in a project.

    ``code`` is stable; ``weight`` says whether it breaks the app or only weakens it;
    ``where`` is a path into the project; ``screen`` and ``link`` name what it is about, for
    those that show it beside the thing.
    """

    code: str
    weight: Weight
    where: str
    what: str
    why: str
    mend: str
    screen: str = ""
    link: str = ""
