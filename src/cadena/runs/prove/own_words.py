"""A person's own claims as sentences."""

from __future__ import annotations

from collections.abc import Iterator

from cadena.model.claims import OwnClaim, Situation
from cadena.model.values import in_brief


def sentence(claim: OwnClaim) -> str:
    """What a claim says."""
    when, so = ", ".join(_clauses(claim.when)), ", ".join(_clauses(claim.so))
    there = f"where {when}, " if when else ""
    match claim.says:
        case "always":
            made = f"{there}always {so}".rstrip()
        case "never":
            made = f"{there}never {so}"
        case "after":
            made = f"{there}after {claim.after or 'nothing yet'}, {so}"
        case _:
            made = f"from {'everywhere' if not when else 'where ' + when} {so} can be reached"
    made = made if so else "nothing is claimed yet"
    return made[0].upper() + made[1:]


def _clauses(situation: Situation) -> Iterator[str]:
    if situation.section:
        yield f"section {situation.section}"
    if situation.arrangement:
        yield f"windows of {situation.arrangement}"
    if situation.shows:
        yield f"{' and '.join(situation.shows)} on display"
    if situation.hides:
        yield f"{' and '.join(situation.hides)} not on display"
    for name, value in (*situation.arguments.items(), *situation.values.items()):
        yield f"{name} = {in_brief(value)}"
    if situation.backs is not None:
        yield f"{situation.backs} backs leave"
