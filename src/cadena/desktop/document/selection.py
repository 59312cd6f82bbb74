"""The one thing selected."""

from __future__ import annotations

from typing import NamedTuple

from cadena.model.app import Trigger


class Selection(NamedTuple):
    """The one thing selected: a link, a trigger, a screen or a section; or the findings.

    In Gather a source or a field of one, in Shape a list, a slot of a row or a block:
    ``name`` is then the source or the screen, and ``part`` what of it. Which kinds there are,
    the stages say (see ``stages.Kind``).
    """

    kind: str = ""
    name: str = ""
    trigger: Trigger | None = None
    part: str = ""
