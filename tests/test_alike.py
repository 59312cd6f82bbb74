"""Changes of many records alike, on top of others and under later ones."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from builders import records_of
from cadena.records.changes import Alike, Change, Changes
from cadena.records.records import Records

KEYS = [f"k{number}" for number in range(24)]
ROWS = [{"id": key, "name": f"Name {key}", "size": at} for at, key in enumerate(KEYS)]
keys = st.sampled_from([*KEYS, "new-1", "new-2"])
fields = st.sampled_from([{"name": "A"}, {"name": "B", "size": 9}, {"size": None}])
steps = st.lists(
    st.one_of(
        st.builds(lambda some, to: Changes(alike=(Alike(tuple(some), to),)),
                  st.lists(keys, min_size=1, unique=True), fields),
        st.builds(lambda key, to: Changes((Change(key, to),)), keys, fields),
        st.builds(lambda some: Changes(gone=tuple(some)), st.lists(keys, max_size=20, unique=True)),
        st.builds(lambda key: Changes(added=({"id": key, "name": "new", "size": 0},)), keys),
    ),
    max_size=8,
)  # fmt: skip


def possible(records: Records, changes: Changes) -> Changes:
    """Those that can be made of records as they now are."""
    there = {each for each in [*KEYS, "new-1", "new-2"] if records.row_of(each) is not None}
    return Changes(
        tuple(each for each in changes.changed if each.key in there),
        tuple(each for each in changes.gone if each in there),
        tuple(each for each in changes.added if each["id"] not in there),
        tuple(Alike(tuple(k for k in e.keys if k in there), e.fields) for e in changes.alike),
    )


def told(records: Records) -> dict[Any, Any]:
    return {row["id"]: row for row in (records.record(at) for at in range(len(records)))}


@given(steps)
def test_changes_one_after_another_are_those_taken_together(some: list[Changes]) -> None:
    base = records_of("things", ROWS)
    merged, plain = Changes(), {row["id"]: dict(row) for row in ROWS}
    for each in some:
        now = base.with_others(merged).with_alike(merged.alike).with_edits(merged)
        made = possible(now, each)
        merged = merged.then(made, "id", lambda key: base.row_of(key) is not None)
        for key in made.gone:
            del plain[key]
        plain |= {row["id"]: dict(row) for row in made.added}
        for alike in made.alike:
            for key in alike.keys:
                plain[key] |= alike.fields
        for change in made.changed:
            plain[change.key] |= change.fields
    after = base.with_others(merged).with_alike(merged.alike).with_edits(merged)
    assert told(after) == plain


@pytest.mark.parametrize("count", [24, 2_400])
def test_few_and_many_records_take_them_alike(count: int) -> None:
    rows = [{"id": f"k{n}", "name": f"Name {n}", "size": n} for n in range(count)]
    records = records_of("things", rows)
    some = tuple(f"k{n}" for n in range(0, 24, 1))
    after = records.with_alike((Alike(some[:20], {"size": 7}), Alike(some[18:], {"name": None})))
    assert after.values_of("size", 24) == [7] * 20 + [20, 21, 22, 23]
    assert after.values_of("name", 24)[17:19] == ["Name 17", None]
    assert records.values_with("size", some) == [*range(24)]
    assert sum(records.rows_with((*some, "none"))) == 24
    assert records.there((*some, "none")) == some
    assert records.there(some) is some
    gone = records.with_others(Changes(gone=some))
    assert len(gone) == count - 24
    assert gone.there(some) == ()


def test_keys_of_another_type_are_no_keys() -> None:
    records = records_of("things", [{"id": n, "name": f"Name {n}"} for n in range(3_000)])
    assert records.there(tuple(f"k{n}" for n in range(20))) == ()
    assert len(records.there(tuple(range(2_990, 3_010)))) == 10
