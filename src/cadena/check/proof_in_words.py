"""What is proven, in words, as JSON, and in the forms that other tools read."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any, Final

import msgspec

from cadena.check.finding import Finding, Subject
from cadena.check.junit_and_sarif import Case, Failed, cases_to_junit
from cadena.model.app import App
from cadena.model.naming import many
from cadena.runs.prove.causes import Cause, events_of, thing_of
from cadena.runs.prove.moves_in_words import moves_in_words
from cadena.runs.prove.prove import Answered, Proof
from cadena.words.notes import in_words as note_in_words

SIGNS: Final = {"holds everywhere": "✓", "holds to depth": "✓", "not decided": "?", "broken": "✕"}
TOLD: Final = 3
"""Causes of a claim that are told in words; JSON has all."""


def what_of(cause: Cause) -> str:
    """What breaks a claim, in words."""
    return cause.what if isinstance(cause.what, str) else note_in_words(cause.what)


def answer_of(proof: Proof, answered: Answered) -> str:
    """The answer to a claim, in words."""
    count = len(answered.causes)
    if answered.answer == "broken":
        return f"broken by {many(count, 'cause')}"
    if answered.answer == "holds to depth":
        return f"holds to depth {proof.depth}"
    return answered.answer


def in_words(name: str, proof: Proof) -> str:
    """Each claim with its answer, and the shortest walks to what breaks one."""
    lines = []
    for proven in proof.claims:
        lines.append(f"{SIGNS[proven.answer]} {proven.claim.words}: {answer_of(proof, proven)}")
        for cause in proven.causes[:TOLD]:
            lines.append(f"    {cause.where}: {what_of(cause)}, {in_columns(proof, cause)}")
            said = moves_in_words(events_of(cause.walk))
            lines += [f"      {number} {step}" for number, step in enumerate(said, 1)]
        if len(proven.causes) > TOLD:
            lines.append(f"    and {len(proven.causes) - TOLD} more")
        lines += [f"    set aside at {where}: {why}" for where, why in proven.aside]
    return "\n".join([*lines, "", f"{name}: {totals(proof)}", *unfinished(proof)])


def in_columns(proof: Proof, cause: Cause) -> str:
    """In which arrangements a claim is broken, in words."""
    if len(cause.columns) == len(proof.columns):
        return "in every window"
    return "in " + " and ".join(each or "one pane" for each in cause.columns)


def totals(proof: Proof) -> str:
    """How many claims hold, and of how much that was told, in a sentence."""
    broken, undecided = len(proof.broken), len(proof.undecided)
    aside = sum(len(each.aside) for each in proof.claims)
    held = len(proof.claims) - broken - undecided
    far = "everywhere" if proof.whole else f"to depth {proof.depth}"
    said = [f"{held} hold {far}"] if held else []
    said += [f"{broken} broken"] if broken else []
    said += [f"{undecided} not decided"] if undecided else []
    said += [f"{aside} set aside"] if aside else []
    return f"{' · '.join(said)} ({proof.states:,} states, {proof.steps:,} steps)"


def unfinished(proof: Proof) -> list[str]:
    """What was not looked at, and why."""
    lines = [f"{each.section}: {each.unfinished}" for each in proof.reached if each.unfinished]
    rows = sum(each.unclassed for each in proof.reached)
    if rows:
        lines.append(f"{rows:,} classes of rows were not tried: lists hold more than are taken")
    lines += [
        f"not decided: {found.claim} at {found.where} was found, and not seen when the app was run"
        for reached in proof.reached
        for found in reached.unconfirmed
    ]
    return lines


def to_json(proof: Proof) -> str:
    """A list of claims, each with its answer and the causes of what breaks it."""
    depth = None if proof.whole else proof.depth
    made = [
        {
            "claim": proven.claim.name,
            "words": proven.claim.words,
            "answer": proven.answer,
            "depth": depth,
            "states": proof.states,
            "broken": [_cause(cause) for cause in proven.causes],
            "aside": [{"where": where, "why": why} for where, why in proven.aside],
        }
        for proven in proof.claims
    ]
    return msgspec.json.format(msgspec.json.encode(made), indent=1).decode()


def _cause(cause: Cause) -> dict[str, Any]:
    window = cause.window
    size = None
    if window is not None:
        size = {"width": window.width, "height": window.height, "fold": window.fold}
    return {
        "where": cause.where,
        "what": what_of(cause),
        "arrangements": cause.columns,
        "window": size,
        "walk": cause.walk,
    }


def to_junit(app: App, proof: Proof) -> str:
    """What is proven as JUnit XML."""
    return cases_to_junit("cadena prove", app.name or "app", proof_cases(proof))


def proof_cases(proof: Proof) -> list[Case]:
    """A case for each claim; what breaks it is its failure."""
    cases = []
    for proven in proof.claims:
        failed = tuple(
            Failed(cause.where, what_of(cause), "\n".join(moves_in_words(events_of(cause.walk))))
            for cause in proven.causes
        )
        if proven.answer == "not decided":
            said = "something was found that was not seen when the app was run"
            failed = (Failed("not decided", said, said),)
        aside = "\n".join(f"set aside at {where}: {why}" for where, why in proven.aside)
        cases.append(Case("prove", proven.claim.words, failed, aside))
    return cases


def findings_of(proof: Proof) -> Iterable[Finding]:
    """The causes as findings, for SARIF."""
    for proven in proof.claims:
        for cause in proven.causes:
            walk = msgspec.json.encode(cause.walk).decode() if cause.walk else ""
            thing, name = thing_of(cause.where)
            yield Finding(
                code=f"prove/{proven.claim.name}",
                weight="breaks",
                where=cause.where,
                what=what_of(cause),
                why=f"it is claimed: {proven.claim.words}",
                mend="take the walk in the window, and see",
                link=name if thing == "links" else "",
                screen=name if thing == "screens" else "",
                run=walk,
                subject=Subject(),
            )
