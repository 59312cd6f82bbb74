"""What a person claims of their app, and what of all claims they set aside."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Literal

from cadena.model.part import Part
from cadena.model.values import Value

Says = Literal["always", "never", "can reach", "after"]


class Situation(Part, frozen=True, kw_only=True):
    """Some of what is so; what is left out is not asked for."""

    shows: tuple[str, ...] = ()
    hides: tuple[str, ...] = ()
    arguments: dict[str, Value] = {}
    values: dict[str, Value] = {}
    arrangement: str = ""
    section: str = ""
    backs: int | None = None


class OwnClaim(Part, frozen=True, kw_only=True):
    """A claim of a person's own.

    Wherever ``when`` is so: ``so`` is so (always), is not (never), or can be reached (can
    reach); or it is so after the link ``after`` was followed from there.
    """

    id: str
    says: Says = "always"
    when: Situation = Situation()
    so: Situation = Situation()
    after: str = ""


def named_values(claims: Iterable[OwnClaim]) -> dict[str, frozenset[Value]]:
    """The app-wide values that claims name, and what they name of each."""
    return _values_by_name(each.values for claim in claims for each in (claim.when, claim.so))


def named_arguments(claims: Iterable[OwnClaim]) -> dict[str, frozenset[Value]]:
    """The parameters that claims name, and what they name of each."""
    return _values_by_name(each.arguments for claim in claims for each in (claim.when, claim.so))


def _values_by_name(situations: Iterable[dict[str, Value]]) -> dict[str, frozenset[Value]]:
    found: dict[str, set[Value]] = {}
    for named in situations:
        for name, value in named.items():
            found.setdefault(name, set()).add(value)
    return {name: frozenset(values) for name, values in found.items()}


class Aside(Part, frozen=True, kw_only=True):
    """A claim that is not made at one place of the project, and why."""

    claim: str
    where: str
    why: str = ""
