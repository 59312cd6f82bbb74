"""The prover held against one that leaves out nothing: the same answers, and walks as short."""

from __future__ import annotations

import os
import random
from collections.abc import Callable, Iterable
from functools import lru_cache
from itertools import groupby
from typing import Any

import pytest
from msgspec.structs import replace

from builders import small_app, small_records, with_screen
from cadena.engine import events as do
from cadena.engine.wired import WiredApp
from cadena.runs.prove.causes import Cause, events_of
from cadena.runs.prove.claims import CLAIMS
from cadena.runs.prove.prove import prove
from cadena.runs.prove.writing_claims import OF_WRITING
from random_kinds import by_kind
from random_small_apps import a_claim, an_app, choosing
from seeded import SEEDS, Seed, seeded
from slow_claims import SLOW, never_reached
from slow_prover import Everything, TooMany

OWN = int(os.environ.get("CADENA_CLAIMS", "12"))
RANDOM = int(os.environ.get("CADENA_APPS", "3"))
APPS: dict[str, Any] = {
    "as it is": {},
    "opens first": {"nothing_chosen": "open first"},
    "opens last": {"nothing_chosen": "open last"},
}


@lru_cache
def everything(name: str) -> Everything:
    app = with_screen(small_app(), "huts", **APPS[name])
    app = with_screen(app, "huts", rows=replace(app.screens[0].rows, search=()))
    app = replace(app, sections=app.sections[:1])
    return Everything(WiredApp(app, small_records(5)))


def moves_of(causes: Iterable[Cause]) -> int:
    """In how many moves the nearest of some causes is shown: typing in a form is one, an answer
    to what is asked none, and a visit that a walk begins with neither."""
    return min(_moves(each) for each in causes)


def _moves(cause: Cause) -> int:
    events = [each for each in events_of(cause.walk) if not isinstance(each, do.Decide)]
    while events and isinstance(events[0], do.Visit | do.SetValue):
        del events[0]
    kinds = groupby(events, key=lambda each: isinstance(each, do.Type))
    return sum(1 if typed else len(list(some)) for typed, some in kinds)


@pytest.mark.long
@pytest.mark.parametrize("name", APPS)
def test_both_give_the_same_answer_and_walks_as_short(name: str) -> None:
    slow, chance = everything(name), random.Random(name)
    broken = 0
    for number in range(OWN):
        claim = a_claim(chance, slow.app)
        app = WiredApp(replace(slow.app.app, claims=(claim,)), slow.app.as_read)
        (answered,) = [each for each in prove(app).claims if each.claim.name == "own"]
        wanted = slow.shortest(claim)
        assert answered.answer == ("holds everywhere" if wanted is None else "broken"), (
            number, claim, wanted,
        )  # fmt: skip
        if wanted is not None:
            broken += 1
            found = moves_of(answered.causes)
            assert found == wanted, (number, claim, answered.causes[0].walk)
    assert broken > OWN // 4


def compared(
    number: int,
    prove: Callable[..., Any] = prove,
    forward: bool = False,
    chooses: bool = False,
    kinds: bool = False,
) -> tuple[list[str], int]:
    """What both say differently of a random app and three claims about it, and what is broken."""
    slow, wanted = slowly(number, forward, chooses, kinds)
    different, broken = [], 0
    for each in prove(slow.app).claims:
        name, moves = each.claim.name, wanted.get(each.claim.name)
        if name == "reached":
            found: Any = {cause.where for cause in each.causes}
            moves = never_reached(slow)
        else:
            found = moves_of(each.causes) if each.causes else None
        broken += each.answer == "broken"
        if found != moves or each.answer not in ("holds everywhere", "broken"):
            different.append(f"app {number}: {name}: {each.answer} {found}, not {moves}")
    return different, broken


@lru_cache(4)
def slowly(
    number: int, forward: bool = False, chooses: bool = False, kinds: bool = False
) -> tuple[Everything, dict[str, int | None]]:
    """A random app with three claims about it, and in how many moves each is broken."""
    chance = random.Random(number)
    made = an_app(chance)
    if chooses:
        made = WiredApp(choosing(random.Random(number), made.app), made.as_read)
    if kinds:
        made = WiredApp(by_kind(random.Random(number), made.app, made.as_read), made.as_read)
    claims = tuple(replace(a_claim(chance, made), id=f"own {at}") for at in range(3))
    platform = replace(made.app.platform, forward=forward)
    app = WiredApp(replace(made.app, claims=claims, platform=platform), made.as_read)
    slow = Everything(app)
    wanted = {name: min(told(slow), default=None) for name, told in SLOW.items()}
    wanted |= {each.id: slow.shortest(each) for each in claims}
    return slow, wanted


@pytest.mark.long
@pytest.mark.parametrize(
    ("wired", "number"),
    [({}, 12), ({"forward": True}, 500), ({"chooses": True}, 910), ({"kinds": True}, 1300)],
    ids=["plain", "forward", "choosing", "by kind"],
)
def test_random_apps_are_proven_as_slowly_as_plainly(wired: dict[str, bool], number: int) -> None:
    different: list[str] = []
    broken = looked = 0
    while looked < RANDOM:
        try:
            said, more = compared(number, **wired)
        except TooMany:
            said, more = [], 0
        else:
            looked += 1
        number += 1
        different += said
        broken += more
    assert not different
    assert broken > RANDOM


def test_every_claim_is_told_slowly_as_well() -> None:
    # What is claimed of writing is judged by mistakes of the rules, in test_engine_writing.py.
    assert {*SLOW, "reached", *OF_WRITING} == {each.name for each in CLAIMS}


@pytest.mark.long
@pytest.mark.parametrize("seed", SEEDS, ids=lambda seed: f"{seed.module}: {seed.right}"[:60])
def test_a_mistake_in_the_prover_is_told(seed: Seed) -> None:
    with seeded(seed) as prove:
        different, _ = compared(seed.app, prove, chooses=seed.chooses)
    assert different
    assert not compared(seed.app, chooses=seed.chooses)[0]
