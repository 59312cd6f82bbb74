"""Few records as lists and many as columns: whatever is asked of them, the answers are the same."""

from __future__ import annotations

from typing import Any, Final, get_args

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cadena.engine.layout import rows as layout
from cadena.engine.layout.rows import RowStack
from cadena.model.listing import Condition, Group, Listing, Sort
from cadena.model.source import Field, Refers, Source, Test
from cadena.model.values import FieldType
from cadena.records.changes import Change, Changes
from cadena.records.columns import frame_of
from cadena.records.few_records import FewRecords
from cadena.records.held import held
from cadena.records.joined import joined, leads_of
from cadena.records.many_records import ManyRecords
from cadena.records.query import Asked, query
from cadena.records.records import FEW, Records

TYPES: Final[dict[str, FieldType]] = {
    "id": "text",
    "name": "text",
    "photo": "picture",
    "count": "whole number",
    "size": "number",
    "open": "yes/no",
    "day": "date",
    "time": "date and time",
    "tags": "list of text",
    "sizes": "list of number",
}
SOURCE: Final = Source(
    id="things", key="id", fields=tuple(Field(name=name, type=kind) for name, kind in TYPES.items())
)
VALUES: Final[dict[str, list[Any]]] = {
    "text": ["a", "B", "b", "", None, "Ärger", "zebra 7", "3"],
    "picture": ["a", "c.png", "", None],
    "whole number": [0, 3, -2, 2**62, None],
    "number": [0.0, 3.0, -0.5, 1e20, 2.5e-7, 1234.25, None],
    "yes/no": [True, False, None],
    "date": ["2026-01-31", "1999-12-01", None],
    "date and time": ["2026-01-31T10:00:00Z", "2026-01-31T10:00:00.250000Z", None],
    "list of text": [(), ("a",), ("a", "b"), ("B", "zebra"), None],
    "list of number": [(), (0.5,), (3.0, 1.0), None],
}
WANTED: Final = [0, 3, 2.5, True, "a", "", "2026-01-31", "2026-01-31T11:00:00+01:00", ("a", 3, 0.0)]
TESTS: Final = get_args(Test)
names = st.sampled_from([*TYPES, "gone"])
values = {name: st.sampled_from(VALUES[kind]) for name, kind in TYPES.items()}
keys = st.sampled_from(["a", "b", "c", "d", "e", None])
whole_rows = st.fixed_dictionaries({**values, "id": keys})
conditions = st.builds(
    Condition,
    field=names,
    test=st.sampled_from(TESTS),
    constant=st.sampled_from([*WANTED, None]),
)
sorts = st.lists(st.builds(Sort, field=names, descending=st.booleans()), max_size=2).map(tuple)
groups = st.lists(
    st.builds(Group, title=st.sampled_from(["One", "Two"]), where=st.tuples(conditions)), max_size=2
)
listings = st.builds(
    Listing,
    source=st.just("things"),
    where=st.lists(conditions, max_size=2).map(tuple),
    search=st.lists(names, max_size=3).map(tuple),
    sort=sorts,
    group_by=st.sampled_from(["", "", *TYPES, "gone"]),
    groups=groups.map(tuple),
    limit=st.sampled_from([None, 2]),
)


def both(rows: list[dict[str, Any]]) -> tuple[FewRecords, ManyRecords]:
    columns = {name: [row[name] for row in rows] for name in TYPES}
    frame = frame_of(columns, TYPES)
    few = held(SOURCE, frame, TYPES)
    assert isinstance(few, FewRecords)
    return few, ManyRecords(SOURCE, frame, TYPES)


def assert_alike(few: Records, many: Records) -> None:
    assert few.frame.equals(many.frame)
    assert [few.record(row) for row in range(len(few))] == [
        many.record(row) for row in range(len(many))
    ]
    for key in ("a", "b", "e", 0, None, ""):
        assert few.row_of(key) == many.row_of(key)
    assert few.twice() == many.twice()


@given(st.lists(whole_rows, max_size=7), listings, st.sampled_from(["", "a", "a zeb", "10:00 3"]))
def test_7_1_few_and_many_are_listed_alike(
    rows: list[dict[str, Any]], listing: Listing, search: str
) -> None:
    found = [query(records, listing, Asked(search=search)) for records in both(rows)]
    few, many = [
        (list(each.positions), each.found, each.kept, each.groups, [each.index_of("a")])
        for each in found
    ]
    assert few == many


@given(st.lists(whole_rows, max_size=6), st.sampled_from(["{name}", "{name} {photo}", "x", ""]))
def test_few_and_many_are_known_alike(rows: list[dict[str, Any]], text: str) -> None:
    few, many = both(rows)
    assert_alike(few, many)
    short, masked = few.unsaid(text), many.unsaid(text)
    assert (short is None) == (masked is None)
    assert short is None or short == masked.tolist()
    for name in (*TYPES, "gone"):
        assert few.gaps(name) == many.gaps(name).tolist()
        assert few.values_of(name, 3) == many.values_of(name, 3)
    assert few.unused_key("a") == many.unused_key("a")
    assert_alike(few.with_only(["name"]), many.with_only(["name"]))
    assert len(few.none()) == len(many.none()) == 0


changes = st.builds(
    Changes,
    changed=st.lists(
        st.builds(
            Change,
            key=keys.filter(bool),
            fields=st.dictionaries(
                names.filter(lambda name: name != "id"),
                st.sampled_from([*WANTED, None, "2026-02-30"]),
            ),
        ),
        max_size=3,
    ).map(tuple),
    gone=st.lists(keys.filter(bool), max_size=2).map(tuple),
    added=st.lists(whole_rows, max_size=2, unique_by=lambda row: row["id"]).map(tuple),
)


@given(st.lists(whole_rows, max_size=6), changes, sorts)
def test_8_few_and_many_change_alike(
    rows: list[dict[str, Any]], changed: Changes, sort: tuple[Sort, ...]
) -> None:
    few, many = both(rows)
    # Orders and words that were found before serve again, where they are not touched.
    few.order(sort), many.order(sort), few.lowered(["name"]), many.lowered(["name"])
    few_now, many_now = few.with_changes(changed), many.with_changes(changed)
    assert_alike(few_now, many_now)
    assert list(few_now.order(sort)) == many_now.order(sort).tolist()
    assert few_now.lowered(["name"]) == many_now.lowered(["name"]).to_list()


@given(st.lists(whole_rows, max_size=5), st.lists(whole_rows, max_size=5))
def test_13_references_of_few_and_many_lead_alike(
    rows: list[dict[str, Any]], others: list[dict[str, Any]]
) -> None:
    fields = tuple(
        Field(name=e.name, type=e.type, refers=Refers(to="things") if e.name == "name" else None)
        for e in SOURCE.fields
    )
    sources = {"things": SOURCE, "from": Source(id="from", key="id", fields=fields)}
    paths = ("name.count", "name.tags", "name.time", "name.gone", "gone.name")
    leads = leads_of(sources, "from", paths, {})
    to, found = both(others), []
    for records, there in zip(both(rows), to, strict=True):
        of = records.said_by(sources["from"])
        made = joined(of, leads, sources, {"things": there, "from": of}.get)
        assert isinstance(made, type(records))
        found.append([made.record(row) for row in range(len(made))])
    assert found[0] == found[1]


def test_what_is_no_number_and_what_is_many_is_held_as_columns() -> None:
    types: dict[str, FieldType] = {"id": "text", "size": "number"}
    for sizes in ([float("nan"), 1.0], [1.0] * (FEW + 1)):
        columns = {"id": [str(at) for at in range(len(sizes))], "size": sizes}
        assert isinstance(held(SOURCE, frame_of(columns, types), types), ManyRecords)


@given(
    st.lists(st.sampled_from([56.0, 72.0]), min_size=1, max_size=12),
    st.lists(st.integers(1, 11), max_size=3, unique=True),
    st.integers(1, 3),
    st.sets(st.integers(0, 3)),
    st.booleans(),
)
def test_few_and_many_rows_stack_alike(
    heights: list[float], begins: list[int], columns: int, closed: set[int], is_grouped: bool
) -> None:
    count = len(heights)
    at = (0, *(each for each in sorted(begins) if each < count)) if is_grouped else ()
    high: Any = heights if columns == 1 else heights[0]
    of = count, high, at, columns, 360.0 if columns > 1 else 0.0, frozenset(closed)
    few = RowStack(*of)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(layout, "FEW", 0)
        many = RowStack(*of)
    for row in range(count):
        assert few.place(row, 360.0) == many.place(row, 360.0)
    for y in (-5.0, 0.0, 60.0, few.total / 2, few.total, few.total + 9):
        assert few.at(y) == many.at(y)
