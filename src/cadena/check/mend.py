"""Mending what can be mended without asking: each is an edit that undo takes back."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

from cadena.check import (
    check,
    choosing,
    fit,
    forms,
    idle,
    keeping,
    kinds,
    links,
    lists,
    screens,
    secrets,
)
from cadena.check.finding import Finding, Mend
from cadena.model.app import App
from cadena.model.edits.wiring import Types

CHECKS: Final = check, choosing, fit, forms, idle, keeping, kinds, links, lists, screens, secrets
MENDS: Final[Mapping[str, Mend]] = {
    code: mend for each in CHECKS for code, mend in each.MENDS.items()
}
"""By the code of a finding; each stands beside the check that finds it."""


def mended(app: App, types: Types, finding: Finding) -> App | None:
    """The app with a finding mended, or none where a person has to decide."""
    mend = MENDS.get(finding.code)
    return None if mend is None else mend(app, types, finding)
