"""Typed values, and carrying them over (rules.md, 2.1)."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cadena.model.values import Unfit, carry, fits, is_date, shown, type_of, words


@pytest.mark.parametrize(
    ("value", "to", "wanted"),
    [
        (3, "number", 3.0),
        (3.0, "whole number", 3),
        (0, "whole number", 0),
        ("", "text", ""),
        (False, "yes/no", False),
        ("2026-11-23", "date", "2026-11-23"),
        (["a", "b"], "list of text", ("a", "b")),
        ([1, 2.0], "list of whole number", (1, 2)),
    ],
)
def test_2_1_what_loses_nothing_is_carried(value: object, to: str, wanted: object) -> None:
    carried = carry(value, to)
    assert carried == wanted
    assert type(carried) is type(wanted)


@pytest.mark.parametrize(
    ("value", "to"),
    [
        ("3", "whole number"),
        (3, "text"),
        (3.5, "whole number"),
        (True, "whole number"),
        (1, "yes/no"),
        ("2026-02-30", "date"),
        ("20261123", "date"),
        (None, "text"),
        ("a", "list of text"),
        (float("nan"), "number"),
        (2**63, "whole number"),
        (2**60, "number"),
        ({"id": 1}, "text"),
    ],
)
def test_2_1_what_would_lose_something_is_not(value: object, to: str) -> None:
    with pytest.raises(Unfit, match="was wanted"):
        carry(value, to)


@pytest.mark.parametrize(
    ("value", "to", "wanted"),
    [("3", "whole number", 3), ("3.5", "number", 3.5), (3, "text", "3"), ("yes", "yes/no", True)],
)
def test_2_1_a_link_may_ask_for_a_conversion(value: object, to: str, wanted: object) -> None:
    assert carry(value, to, convert=True) == wanted


def test_a_conversion_that_cannot_be_is_still_refused() -> None:
    with pytest.raises(Unfit):
        carry("three", "whole number", convert=True)


@given(st.one_of(st.text(), st.integers(-(2**63), 2**63 - 1), st.booleans()))
def test_every_value_fits_its_own_type(value: object) -> None:
    assert carry(value, type_of(value)) == value  # type: ignore[arg-type]


def test_types_that_fit() -> None:
    assert fits("whole number", "number")
    assert fits("date", "text")
    assert fits("picture", "text")
    assert fits("list of whole number", "list of number")
    assert not fits("text", "whole number")
    assert not fits("text", "list of text")
    assert not fits("text", "date")


def test_words_for_people() -> None:
    assert words("3") == 'text "3"'
    assert words(None) == "nothing"
    assert words(3) == "whole number 3"
    assert words({}) == "a whole record"
    assert len(words("x" * 500)) < 60
    assert shown(None) == "–"
    assert shown(True) == "yes"
    assert shown(3.0) == "3"
    assert shown((1, 2)) == "1, 2"
    assert is_date("2024-02-29")
    assert not is_date("2024-2-29")
