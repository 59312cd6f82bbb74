"""Which rows a list shows (rules.md, 7.1)."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from builders import records_of
from cadena.model.listing import Condition, Listing, Sort
from cadena.records.conditions import passes
from cadena.records.query import Asked, query

HUTS = records_of(
    "huts",
    [
        {
            "id": "a",
            "name": "Alpe",
            "free": 3,
            "open": True,
            "since": "2020-01-01",
            "tags": ["x", "y"],
        },
        {"id": "b", "name": "balma", "free": None, "open": False, "since": "", "tags": []},
        {"id": "c", "name": "Cima Alta", "free": 0, "open": None, "since": None, "tags": None},
        {"id": "d", "name": "", "free": 9, "open": True, "since": "2021-01-01", "tags": ["y"]},
    ],
)


def keys(listing: Listing, search: str = "", sort: Any = None, **arguments: Any) -> list[str]:
    rows = query(HUTS, listing, Asked(arguments, search, sort))
    return [rows.key_at(index) for index in range(len(rows))]


@pytest.mark.parametrize(
    ("condition", "kept"),
    [
        (Condition(field="free", test="is", constant=0), "c"),
        (Condition(field="free", test="is not", constant=0), "abd"),
        (Condition(field="free", test="under", constant=5), "ac"),
        (Condition(field="free", test="over", constant=2.5), "ad"),
        (Condition(field="free", test="at least", constant=3), "ad"),
        (Condition(field="free", test="at most", constant=3), "ac"),
        (Condition(field="open", constant=False), "b"),
        (Condition(field="open", constant=0), ""),
        (Condition(field="name", test="contains", constant="AL"), "abc"),
        (Condition(field="tags", test="contains", constant="y"), "ad"),
        (Condition(field="free", test="is empty"), "b"),
        (Condition(field="name", test="is empty"), "d"),
        (Condition(field="since", test="is filled"), "ad"),
        (Condition(field="free", constant="3"), ""),
        (Condition(field="gone", constant="3"), ""),
        (Condition(field="free", constant=None), ""),
    ],
)
def test_7_1_conditions_keep_records(condition: Condition, kept: str) -> None:
    assert keys(Listing(source="huts", where=(condition,))) == list(kept)


def test_7_1_conditions_use_arguments_and_zero_is_one() -> None:
    listing = Listing(source="huts", where=(Condition(field="free", argument="free"),))
    assert keys(listing, free=0) == ["c"]
    assert keys(listing) == ["a", "b", "c", "d"]


def test_7_1_search_finds_every_word_in_any_case() -> None:
    listing = Listing(source="huts", search=("name", "id"))
    assert keys(listing, "AL") == ["a", "b", "c"]
    assert keys(listing, "al ci") == ["c"]
    assert keys(listing, "d") == ["d"]
    assert keys(listing, "  ") == ["a", "b", "c", "d"]
    assert keys(listing, "a.*") == []


def test_7_1_order_is_without_regard_to_case_and_empty_comes_last() -> None:
    assert keys(Listing(source="huts", sort=(Sort(field="name"),))) == ["a", "b", "c", "d"]
    down = (Sort(field="name", descending=True),)
    assert keys(Listing(source="huts"), sort=down) == ["c", "b", "a", "d"]
    assert keys(Listing(source="huts", sort=(Sort(field="free"),))) == ["c", "a", "d", "b"]
    assert keys(Listing(source="huts", sort=(Sort(field="gone"),))) == ["a", "b", "c", "d"]


def test_7_1_a_limit_counts_shown_found_and_all() -> None:
    rows = query(HUTS, Listing(source="huts", search=("name",), limit=2), Asked(search="a"))
    assert (len(rows), rows.found, rows.kept) == (2, 3, 4)


def test_rows_know_where_a_key_stands() -> None:
    rows = query(HUTS, Listing(source="huts", sort=(Sort(field="free"),)))
    assert [rows.index_of(key) for key in "cadb"] == [0, 1, 2, 3]
    assert rows.index_of("z") is None
    assert rows.record_at(0)["name"] == "Cima Alta"


@given(
    st.lists(st.tuples(st.text("abAB ", max_size=4), st.none() | st.integers(-3, 3)), max_size=25),
    st.text("abAB ", max_size=3),
    st.booleans(),
)
def test_a_query_agrees_with_plain_python(
    rows: list[tuple[str, int | None]], search: str, down: bool
) -> None:
    made = [{"id": n, "name": name, "n": number} for n, (name, number) in enumerate(rows)]
    if not made:
        return
    records = records_of("s", made)
    if records.types["n"] not in ("whole number",):
        return
    listing = Listing(
        source="s",
        where=(Condition(field="n", test="at least", constant=-1),),
        search=("name",),
        sort=(Sort(field="n", descending=down),),
    )
    got = query(records, listing, Asked(search=search))
    words = search.lower().split()
    wanted = [
        e
        for e in made
        if e["n"] is not None and e["n"] >= -1 and all(w in e["name"].lower() for w in words)
    ]
    wanted.sort(key=lambda e: -e["n"] if down else e["n"])
    assert [got.key_at(index) for index in range(len(got))] == [e["id"] for e in wanted]


SCALARS = st.one_of(
    st.none(),
    st.booleans(),
    st.integers(-(2**70), 2**70) | st.integers(-2, 10),
    st.floats(allow_nan=False, allow_infinity=False) | st.sampled_from([0.0, 3.0, 2.5, 1e20]),
    st.sampled_from(["", "a", "AL", "x", "3", "2020-01-01", "20200101", "2021-01-01", "true"]),
)
TESTS = ["is", "is not", "under", "over", "at least", "at most", "contains", "is one of"]


@given(
    SCALARS | st.lists(SCALARS, max_size=4).map(tuple),
    st.sampled_from([*TESTS, "is empty", "is filled"]),
    st.sampled_from(list(HUTS.types)),
)
def test_7_1_a_value_passes_where_its_column_does(wanted: Any, test: Any, field: str) -> None:
    listing = Listing(source="huts", where=(Condition(field=field, test=test, constant=wanted),))
    kind = HUTS.types[field]
    rows = [HUTS.record(row) for row in range(len(HUTS))]
    assert keys(listing) == [e["id"] for e in rows if passes(e[field], test, wanted, kind)]
