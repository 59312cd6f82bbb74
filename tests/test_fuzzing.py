"""Some damaged input of every kind; ``tools/fuzz.py`` tries as much as is asked for."""

from __future__ import annotations

import pytest

from fuzzing import KINDS, tried

COUNT = 60


@pytest.mark.long
@pytest.mark.parametrize("kind", KINDS)
def test_damaged_input_is_taken_or_said_to_be_none(kind: str) -> None:
    said = [tried(kind, seed) for seed in range(COUNT)]
    # Some of it is still good, and some is not: else nothing would be tried.
    assert any(said) or kind in ("sessions", "jsonl", "typed by hand")
    assert not all(said)
