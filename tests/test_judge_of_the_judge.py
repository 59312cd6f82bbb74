"""The prover held against one that leaves out nothing: the same answers, and walks as short."""

from __future__ import annotations

import os
import random
from functools import lru_cache
from typing import Any

import pytest
from msgspec.structs import replace

from builders import small_app, small_records, with_screen
from cadena.engine.wired import WiredApp
from cadena.runs.prove.causes import events_of
from cadena.runs.prove.prove import prove
from slow_prover import Everything, a_claim

CLAIMS = int(os.environ.get("CADENA_CLAIMS", "40"))
APPS: dict[str, Any] = {
    "as it is": {},
    "opens first": {"nothing_chosen": "open first"},
    "opens last": {"nothing_chosen": "open last"},
}


@lru_cache
def everything(name: str) -> Everything:
    app = with_screen(small_app(), "huts", **APPS[name])
    app = replace(app, sections=app.sections[:1])
    return Everything(WiredApp(app, small_records(5)))


@pytest.mark.parametrize("name", APPS)
def test_both_give_the_same_answer_and_walks_as_short(name: str) -> None:
    slow, chance = everything(name), random.Random(name)
    broken = 0
    for number in range(CLAIMS):
        claim = a_claim(chance, slow.app)
        app = WiredApp(replace(slow.app.app, claims=(claim,)), slow.app.as_read)
        (answered,) = [each for each in prove(app).claims if each.claim.name == "own"]
        wanted = slow.shortest(claim)
        assert answered.answer == ("holds everywhere" if wanted is None else "broken"), (
            number, claim, wanted,
        )  # fmt: skip
        if wanted is not None:
            broken += 1
            found = min(len(tuple(events_of(each.walk))) for each in answered.causes)
            assert found == wanted, (number, claim, answered.causes[0].walk)
    assert broken > CLAIMS // 4
