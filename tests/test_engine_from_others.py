"""What is told of the records that refer to one, and labels of several fields (rules.md, 13)."""

from __future__ import annotations

import random
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from builders import POCKET, Run, records_of, small_app, with_screen
from cadena.check.check import check
from cadena.engine import events as do
from cadena.engine.step import start
from cadena.engine.wired import WiredApp
from cadena.model.app import App, DetailScreen
from cadena.model.blocks import FactsBlock, ListBlock
from cadena.model.edits.renaming import with_field_renamed
from cadena.model.find import by_id
from cadena.model.listing import Condition, Listing, Row, Sort
from cadena.model.references import field_at, from_others, paths_offered
from cadena.model.source import Field, Refers, Source
from cadena.records.changes import Change
from cadena.records.joined import joined, leads_of, told
from cadena.records.many_records import ManyRecords
from cadena.records.records import Records
from cadena.scene.lay_out import lay_out
from cadena.sources.scaffold import new_project
from kit_traces import kit_differs, needs_node
from long_form import examples

PATHS = (
    "rooms.count", "rooms(hut).count", "rooms.many", "rooms.sum.beds", "rooms.sum.price",
    "rooms.least.price", "rooms.most.beds", "rooms.first.name", "rooms.first.price",
)  # fmt: skip
HUTS = [
    {"id": "h0", "first": "Ilva", "last": "Rauth", "region": "n"},
    {"id": "h1", "first": "Osk", "last": None, "region": "n"},
    {"id": "h2", "first": None, "last": None, "region": "s"},
    {"id": "h3", "first": "Ada", "last": "Linde", "region": None},
]
ROOMS: list[dict[str, Any]] = [
    {"id": 0, "hut": "h0", "name": "South", "beds": 4, "price": 10.1},
    {"id": 1, "hut": "h0", "name": "North", "beds": None, "price": 20.2},
    {"id": 2, "hut": "h1", "name": "Attic", "beds": 2, "price": 0.3},
    {"id": 3, "hut": None, "name": "Nowhere", "beds": 9, "price": 9.0},
    {"id": 4, "hut": "gone", "name": "Lost", "beds": 9, "price": 9.0},
    {"id": 5, "hut": "h2", "name": "Bare", "beds": None, "price": None},
]
REFERS = {("rooms", "hut"): "huts", ("huts", "region"): "regions"}


def records(rooms: list[dict[str, Any]] = ROOMS, label: str = "") -> dict[str, Records]:
    made = {
        "huts": records_of("huts", HUTS),
        "rooms": records_of("rooms", rooms),
        "regions": records_of("regions", [{"id": "n", "name": "North"}, {"id": "s", "name": "S"}]),
    }
    said = {}
    for name, some in made.items():
        fields = tuple(
            Field(name=each, type=kind, refers=Refers(to=to) if to else None)
            for each, kind in some.types.items()
            for to in [REFERS.get((name, each))]
        )
        source = replace(some.source, title=name.capitalize(), fields=fields)
        source = replace(source, label=label if name == "huts" else "")
        said[name] = some.said_by(source)
    return said


def column(of: dict[str, Records], source: str, *paths: str, many: bool = False) -> list[Any]:
    """What each path tells of each record."""
    if many:
        of = {name: ManyRecords(each.source, each.frame, each.types) for name, each in of.items()}
    sources = {name: each.source for name, each in of.items()}
    orders = {("rooms", "hut"): (Sort(field="name"),)}
    made = joined(of[source], leads_of(sources, source, paths, orders), sources, of.get)
    return [made.values_of(path) for path in paths]


@pytest.mark.parametrize("many", [False, True])
def test_13_what_refers_to_a_record_is_told_from_the_other_side(many: bool) -> None:
    got = column(records(), "huts", *PATHS, many=many)
    counts = [2, 1, 1, 0]
    assert got == [
        counts,
        counts,
        counts,
        [4, 2, 0, 0],
        [30.3, 0.3, 0.0, 0.0],
        [10.1, 0.3, None, None],
        [4, 2, None, None],
        ["North", "Attic", "Bare", None],
        [20.2, 0.3, None, None],
    ]
    (in_all, by_hut) = column(
        records(), "regions", "huts.sum.rooms.count", "huts.first.rooms.sum.beds", many=many
    )
    assert (in_all, by_hut) == ([3, 1], [4, 0])
    assert column(records(), "rooms", "hut.rooms.count", many=many) == [[2, 2, 1, None, None, 1]]


NUMBERS = st.one_of(st.none(), st.floats(-1e7, 1e7).map(lambda each: round(each, 3)))


@given(st.lists(st.tuples(st.sampled_from(["h0", "h1", "h3", None, "x"]), NUMBERS), max_size=40))
@settings(max_examples=examples(100))
def test_13_few_and_many_records_tell_alike_in_whatever_order(rooms: list[Any]) -> None:
    some = [
        {"id": at, "hut": hut, "name": f"R{at % 3}", "beds": at % 4 or None, "price": price}
        for at, (hut, price) in enumerate(rooms)
    ] or ROOMS
    few = column(records(some), "huts", *PATHS)
    assert few == column(records(some), "huts", *PATHS, many=True)
    shuffled = random.Random(1).sample(some, len(some))
    assert column(records(shuffled), "huts", *PATHS[:7]) == few[:7]


def test_13_numbers_beyond_all_bounds_are_summed_all_the_same() -> None:
    assert told("sum", [1e300, 1.0]) == pytest.approx(1e300)
    assert told("sum", [float("inf"), 1.0]) == float("inf")
    huge = [{**each, "price": 4e12} for each in ROOMS]
    assert column(records(huge), "huts", "rooms.sum.price", many=True) == [[8e12, 4e12, 4e12, 0.0]]


def test_13_a_path_that_cannot_be_told_leads_nowhere() -> None:
    of = records()
    sources = {name: each.source for name, each in of.items()}
    types = {name: each.types for name, each in of.items()}
    nowhere = ("rooms", "rooms.nope", "rooms.count.beds", "rooms.sum", "rooms.sum.name")
    for path in (*nowhere, "rooms.least.name", "rooms(name).count", "room.count", "regions.count"):
        assert field_at(sources, types, "huts", path) is None, path
    twice = (*of["rooms"].source.fields, Field(name="moved_from", refers=Refers(to="huts")))
    sources["rooms"] = replace(of["rooms"].source, fields=twice)
    assert from_others(sources, "huts", "rooms.count") is None
    named = from_others(sources, "huts", "rooms(moved_from).count")
    assert named is not None
    assert named.field == "moved_from"


def app_of(of: dict[str, Records], **rows: Any) -> App:
    """Huts that tell of their rooms."""
    row = Row(title="{first} {last}", subtitle="{rooms.many} · {rooms.sum.beds} beds")
    listing = Listing(source="huts", row=row, sort=(Sort(field="rooms.count", descending=True),))
    app = replace(small_app(), sources=tuple(each.source for each in of.values()))
    return with_screen(app, "huts", rows=replace(listing, **rows))


def running(of: dict[str, Records], app: App) -> Run:
    run = Run(app, POCKET)
    run.app = WiredApp(app, of)
    run.session, run.notes = start(run.app, POCKET)
    return run


def texts(run: Run, kind: str) -> list[str]:
    boxes = lay_out(run.app, run.session, POCKET).boxes
    return [each.text for each in boxes if each.kind == kind]


def test_13_rows_orders_conditions_and_groups_tell_of_what_refers() -> None:
    of = records()
    run = running(of, app_of(of))
    assert texts(run, "row subtitle") == [
        "2 rooms · 4 beds", "1 room · 2 beds", "1 room · 0 beds", "0 rooms · 0 beds"
    ]  # fmt: skip
    kept = (Condition(field="rooms.most.price", test="over", constant=1),)
    assert texts(running(of, app_of(of, where=kept)), "row subtitle") == ["2 rooms · 4 beds"]
    grouped = running(of, app_of(of, group_by="rooms.count", sort=()))
    assert texts(grouped, "group") == ["0", "1", "2"]


def test_13_they_are_as_the_records_now_are() -> None:
    of = records()
    run = running(of, app_of(of))
    run(do.Edit(source="rooms", key=2, fields={"hut": "h0"}))
    assert texts(run, "row subtitle")[0] == "3 rooms · 6 beds"
    run(do.Refresh(source="rooms", gone=(0, 1)))
    assert texts(run, "row subtitle")[0] == "1 room · 2 beds"
    run(do.Refresh(source="rooms", changed=(Change(5, {"beds": 7}),)))
    assert "1 room · 7 beds" in texts(run, "row subtitle")


def test_13_a_field_renamed_is_renamed_in_what_is_told_of_it() -> None:
    of = records(label="{first} {last}")
    types = {name: each.types for name, each in of.items()}
    app = app_of(of, search=("rooms(hut).first.name",))
    made = with_field_renamed(app, types, "rooms", "beds", "places")
    made = with_field_renamed(made, types, "rooms", "hut", "of")
    made = with_field_renamed(made, types, "huts", "first", "given")
    rows = made.screens[0].rows  # type: ignore[union-attr]
    assert rows.row.subtitle == "{rooms.many} · {rooms.sum.places} beds"
    assert rows.search == ("rooms(of).first.name",)
    assert made.sources[0].label == "{given} {last}"


def test_13_what_comes_late_is_not_counted_without_a_word() -> None:
    of = records()
    assert "counted-late" not in codes(app_of(of), of)
    app = app_of(of)
    late = tuple(replace(e, served="stand-in") if e.id == "rooms" else e for e in app.sources)
    assert "counted-late" in codes(replace(app, sources=late), of)
    assert "field-missing" in codes(app_of(of, search=("rooms.sum.name",)), of)


def codes(app: App, of: dict[str, Records]) -> set[str]:
    return {each.code for each in check(app, of)}


def test_13_a_label_of_several_fields_names_a_record_everywhere() -> None:
    of = records(label="{first} {last}")
    app = app_of(of)
    rows = Listing(
        source="rooms",
        row=Row(title="{name}", subtitle="{hut}"),
        sort=(Sort(field="hut.{first} {last}"), Sort(field="id")),
    )
    run = running(of, with_screen(app, "huts", rows=rows))
    # What has no name is said by its key, and stands last; what refers to nothing says nothing.
    assert texts(run, "row subtitle") == ["Ilva Rauth", "Ilva Rauth", "Osk", "gone", "h2"]
    many = running(
        {n: ManyRecords(e.source, e.frame, e.types) for n, e in of.items()},
        with_screen(app, "huts", rows=rows),
    )
    assert texts(many, "row subtitle") == texts(run, "row subtitle")


def test_what_a_person_would_ask_for_is_offered() -> None:
    of = records(label="{first} {last}")
    app = app_of(of)
    types = {name: each.types for name, each in of.items()}
    assert paths_offered(app, types, "huts") == {
        "region.name": "text", "rooms.many": "whole number",
        "rooms.sum.beds": "whole number", "rooms.sum.price": "number",
    }  # fmt: skip
    assert [*paths_offered(app, types, "rooms")] == ["hut.{first} {last}"]


@pytest.mark.long
@needs_node
@pytest.mark.parametrize("label", ["", "{first} {last}", "{last}, {first}"])
def test_13_the_kit_tells_so_as_well(label: str) -> None:
    of = records(label=label)
    row = Row(title="{first} {last}", subtitle=" ".join("{" + each + "}" for each in PATHS))
    rooms = [Condition(field="rooms.sum.price", test="under", constant=30)]
    for rows in (
        {"row": row},
        {"sort": (Sort(field="rooms.sum.price"),), "where": tuple(rooms)},
        {"group_by": "rooms.first.name", "search": ("rooms.first.name", "region.name")},
        {"sort": (Sort(field="rooms.first.hut.{first} {last}"),)},
    ):
        app = app_of(of, **rows)
        events = [
            do.Edit(source="rooms", key=2, fields={"hut": "h0", "price": 0.1}),
            do.Search(text="north"),
            do.Refresh(source="rooms", gone=(0,)),
            do.Search(text=""),
            do.Choose(key="h0"),
        ]
        assert kit_differs(WiredApp(app, of), POCKET, events) == [None] * 6


def test_a_new_project_counts_stands_in_columns_and_leaves(tmp_path: Path) -> None:
    """Of people with telephones and their boats: what a person would have wired."""
    first, last = ("Ada", "Bren", "Ada", "Cora"), ("Rauth", "Venn", "Venn", "Rauth")
    people = [f"{n},{first[n]},{last[n]},+39 0{n} 1234,p{n}@huts.example" for n in range(4)]
    boats = [f"{n},{n % 3},Boat {n},{n + 4},B{n},{1990 + n},{'sk'[n % 2]}" for n in range(9)]
    (tmp_path / "people.csv").write_text(
        "\n".join(["id,first_name,last_name,phone,email", *people])
    )
    (tmp_path / "boats.csv").write_text(
        "\n".join(["id,person_id,name,metres,berth,built,kind", *boats])
    )
    files = [tmp_path / "people.csv", tmp_path / "boats.csv"]
    app, made = new_project(tmp_path / "p", files, "Harbour")
    source = by_id(app.sources, "people")
    assert source is not None
    assert source.label == "{first_name} {last_name}"
    row = by_id(app.screens, "people").rows.row  # type: ignore[union-attr]
    assert row.title == "{first_name} {last_name}"
    assert row.subtitle.endswith("{boats.many}")
    person = by_id(app.screens, "person")
    assert isinstance(person, DetailScreen)
    facts = next(each for each in person.blocks if isinstance(each, FactsBlock))
    assert facts.leaves == ("phone", "email")
    nested = next(each for each in person.blocks if isinstance(each, ListBlock))
    assert nested.rows.layout == "columns"
    assert "person_id" not in [each.shows for each in nested.rows.columns]
    assert not check(app, {each.source.id: each.records for each in made})


def test_a_source_of_no_title_is_counted_by_its_name() -> None:
    of = records()
    plain = Source(id="rooms", key="id", fields=of["rooms"].source.fields)
    of["rooms"] = of["rooms"].said_by(plain)
    assert texts(running(of, app_of(of)), "row subtitle")[0] == "2 rooms · 4 beds"
