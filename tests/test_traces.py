"""The walks of the demo give the traces in spec, byte for byte."""

from __future__ import annotations

import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tools"))

from make_traces import TRACES, traces  # noqa: E402

GIVEN = dict(traces())


def test_every_walk_has_its_traces() -> None:
    assert {each.name for each in TRACES.glob("*.jsonl")} == set(GIVEN)


@pytest.mark.parametrize("name", sorted(GIVEN))
def test_a_walk_gives_the_trace_that_is_kept(name: str) -> None:
    kept, given = (TRACES / name).read_text().splitlines(), GIVEN[name].splitlines()
    for number, (wanted, got) in enumerate(zip(kept, given, strict=True)):
        assert got == wanted, f"line {number + 1}"
