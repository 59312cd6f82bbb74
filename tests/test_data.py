"""Reading data, finding records by key, and edits by key on top."""

from __future__ import annotations

from pathlib import Path

import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from builders import DEMO, records_of, small_app
from cadena.model.file.disk import inside
from cadena.model.file.project_file import write_app
from cadena.model.listing import Sort
from cadena.model.problem import Problem
from cadena.model.source import Field, Source
from cadena.records.changes import Change, Changes
from cadena.records.formats import Sayings
from cadena.records.many_records import ManyRecords
from cadena.sources.import_file import adopt
from cadena.sources.open_project import open_project, read_all
from cadena.sources.read_file import read_records


def source(name: str, *fields: Field, key: str = "id") -> Source:
    return Source(id="s", file=name, key=key, fields=fields)


def test_json_and_csv_become_typed_columns(tmp_path: Path) -> None:
    (tmp_path / "a.json").write_text(
        '[{"id": 0, "tags": ["x"], "ok": true}, {"id": 1, "when": "2026-01-02"}]'
    )
    (tmp_path / "b.csv").write_bytes(b"\xef\xbb\xbfid,price,when\na,2.5,2026-01-02\nb,,\n")
    found = read_records(
        tmp_path,
        source("a.json", Field(name="id", type="whole number"), Field(name="when", type="date")),
    )
    assert found.types == {
        "id": "whole number",
        "tags": "list of text",
        "ok": "yes/no",
        "when": "date",
    }
    assert found.by_key(1) == {"id": 1, "tags": None, "ok": None, "when": "2026-01-02"}
    assert found.by_key(0)["tags"] == ("x",)  # type: ignore[index]
    found = read_records(tmp_path, source("b.csv"))
    assert found.types == {"id": "text", "price": "number", "when": "date"}
    assert found.by_key("b") == {"id": "b", "price": None, "when": None}


@pytest.mark.parametrize(
    ("name", "raw", "says"),
    [
        ("a.json", b"", "the file is empty"),
        ("a.json", b"{", "it is not JSON"),
        ("a.json", b'{"rows": [{"id": 1}]}', "an array, such as that at /rows"),
        ("a.json", b'[{"name": "x"}]', "key id: the records have no such field"),
        ("a.csv", b"id,id\n1,2\n", 'two columns are named "id"'),
        ("a.sqlite", b"not a database at all", "it cannot be read"),
        ("a.xml", b"<a/>", "the ending .xml is not known"),
    ],
)
def test_data_that_cannot_be_used_is_named_by_place(
    tmp_path: Path, name: str, raw: bytes, says: str
) -> None:
    (tmp_path / name).write_bytes(raw)
    with pytest.raises(Problem) as caught:
        read_records(tmp_path, source(name))
    assert says in str(caught.value)
    assert str(caught.value).startswith(name)


@pytest.mark.parametrize("raw", [b"[1, 2]", b'["a"]'])
def test_what_holds_no_records_is_no_source_but_keeps_one_that_is(
    tmp_path: Path, raw: bytes
) -> None:
    (tmp_path / "a.json").write_bytes(raw)
    with pytest.raises(Problem, match="it is not a record"):
        adopt(tmp_path, tmp_path / "a.json", ())
    records = read_records(tmp_path, source("a.json"))
    assert len(records) == 0
    assert records.faults


def test_csv_has_the_types_that_all_of_a_column_is_written_as(tmp_path: Path) -> None:
    rows = [
        "id,code,n,x,ok,day,big,mixed,none",
        "1,007,-3,1.5,true,2026-01-02,99999999999999999999,1,",
    ]
    rows += ["2,010,0,2,false,2026-02-30,1,two,", "3,,,,,,,,"]
    (tmp_path / "a.csv").write_text("\n".join(rows))
    types = read_records(tmp_path, source("a.csv")).types
    assert types == {
        "id": "whole number",
        "code": "text",
        "n": "whole number",
        "x": "number",
        "ok": "yes/no",
        "day": "text",
        "big": "text",
        "mixed": "text",
        "none": "text",
    }


def test_declared_types_hold(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("id,n\na,1\nb,two\nc,1.5\n")
    found = read_records(
        tmp_path,
        source(
            "a.csv",
            Field(name="id"),
            Field(name="n", type="whole number"),
            Field(name="colour", type="number"),
        ),
    )
    assert [found.by_key(each) for each in "abc"] == [
        {"id": "a", "n": 1, "colour": None},
        {"id": "b", "n": None, "colour": None},
        {"id": "c", "n": None, "colour": None},
    ]
    assert [str(each) for each in found.faults] == [
        "1 declared fields are not in the data (colour)",
        "2 values of n left empty, no whole number (record 2: 'two', record 3: '1.5')",
    ]


def test_no_records_are_records_too(tmp_path: Path) -> None:
    (tmp_path / "a.json").write_text("[]")
    found = read_records(
        tmp_path, source("a.json", Field(name="id"), Field(name="n", type="number"))
    )
    assert len(found) == 0
    assert found.types == {"id": "text", "n": "number"}


@given(st.binary(max_size=120))
def test_any_bytes_are_records_or_a_problem(
    tmp_path_factory: pytest.TempPathFactory, raw: bytes
) -> None:
    folder = tmp_path_factory.mktemp("raw")
    for name in ("a.json", "a.csv", "a.jsonl", "a.sqlite", "a.tsv"):
        (folder / name).write_bytes(raw)
        try:
            read_records(folder, source(name))
        except Problem as problem:
            assert problem.wanted


def test_paths_stay_inside_the_folder(tmp_path: Path) -> None:
    folder = tmp_path / "project"
    folder.mkdir()
    secret = tmp_path / "secret.json"
    secret.write_text("[]")
    (folder / "link.json").symlink_to(secret)
    for name in ("../secret.json", str(secret), "link.json", "a/../../secret.json"):
        with pytest.raises(Problem, match="leads outside"):
            inside(folder, name)
    with pytest.raises(Problem, match="no such file"):
        inside(folder, "gone.json")
    with pytest.raises(Problem):
        inside(folder, "a\0b")


def test_a_project_is_opened_whole_or_not_at_all(tmp_path: Path) -> None:
    write_app(small_app(), tmp_path / "small.cadena")
    (tmp_path / "huts.json").write_text('[{"id": "a", "name": "A"}]')
    before = sorted(each.name for each in tmp_path.iterdir())
    with pytest.raises(
        Problem, match=r"rooms\.json, the file of source rooms: there is no such file"
    ):
        open_project(tmp_path)
    assert sorted(each.name for each in tmp_path.iterdir()) == before


def test_a_source_that_has_been_read_serves_again(tmp_path: Path) -> None:
    app = small_app()
    for each in app.sources:
        (tmp_path / each.file).write_text('[{"id": "a"}]')
    first = read_all(tmp_path, app)
    other = replace(app, sources=(app.sources[0], replace(app.sources[1], title="Rooms")))
    again = read_all(tmp_path, other, first)
    assert again["huts"] is first["huts"]
    assert again["rooms"] is not first["rooms"]


def test_records_are_found_by_key_and_never_by_position() -> None:
    found = records_of("s", [{"id": n, "name": str(n)} for n in range(500)])
    assert found.by_key(0) == {"id": 0, "name": "0"}
    assert found.row_of(499) == 499
    for nothing in (500, -1, "0", 0.0, True, None, 2**70):
        assert found.row_of(nothing) is None
    texts = records_of("s", [{"id": "0"}, {"id": ""}])
    assert texts.row_of("") == 1
    assert texts.row_of(0) is None


def test_edits_by_key_lie_on_top() -> None:
    found = records_of("s", [{"id": n, "name": f"n{n}", "tags": ["a"]} for n in range(5)])
    changes = Changes(
        changed=(
            Change(2, {"name": "two", "tags": ("b", "c")}),
            Change(99, {"name": "lost"}),
            Change(3, {"name": 7}),
        ),
        gone=(0, 77),
        added=({"id": 9, "name": "nine"}, {"id": 1, "name": "twice"}),
    )
    now = found.with_changes(changes)
    assert [now.key_at(row) for row in range(len(now))] == [1, 2, 3, 4, 9]
    assert now.by_key(2) == {"id": 2, "name": "two", "tags": ("b", "c")}
    assert now.by_key(3)["name"] == "n3"  # type: ignore[index]
    assert now.by_key(9) == {"id": 9, "name": "nine", "tags": None}
    assert found.by_key(0) is not None


def test_changes_add_up() -> None:
    first = Changes(changed=(Change("a", {"x": 1}),), gone=("b",))
    later = Changes(changed=(Change("a", {"y": 2}),), gone=("b", "c"))
    both = first.then(later, "id", lambda key: True)
    assert both.changed == (Change("a", {"x": 1, "y": 2}),)
    assert both.gone == ("b", "c")


def test_templates() -> None:
    fill = Sayings(Source(id="huts", key="id"), {}).fill
    assert fill("{altitude} m · {region}", {"altitude": 0, "region": "N"}) == "0 m · N"
    assert fill("{altitude} m · {region}", {"altitude": None, "region": "N"}) == "– m · N"
    assert fill("{altitude} m", {"altitude": None}) == ""
    assert fill("{a}", None) == ""
    assert fill("Huts", {}) == "Huts"
    found = records_of("s", [{"id": 1, "a": None, "b": ""}, {"id": 2, "a": "x", "b": ""}])
    assert found.unsaid("{a} {b}") == [True, False]
    assert found.unsaid("{gone}") == [True, True]
    assert found.unsaid("{id}") is None


def test_taking_a_file_into_a_project(tmp_path: Path) -> None:
    outside, folder = tmp_path / "My Cabins.csv", tmp_path / "project"
    folder.mkdir()
    outside.write_text("name,code,beds\nA,x,1\nA,y,2\n")
    (one,) = adopt(folder, outside, ["my-cabins"])
    made, found = one.source, one.records
    assert (made.id, made.key, made.file) == ("my-cabins-2", "code", "My Cabins.csv")
    assert (folder / made.file).is_file()
    assert [each.type for each in made.fields] == ["text", "text", "whole number"]
    assert len(found) == 2
    again = adopt(folder, outside, ["my-cabins", "my-cabins-2"])[0].source
    assert again.file == "My Cabins-2.csv"
    (folder / again.file).unlink()
    outside.write_text("not, the\nsame\n")
    with pytest.raises(Problem):
        adopt(folder, outside, [])
    assert [each.name for each in folder.iterdir()] == ["My Cabins.csv"]


def test_the_demo_has_what_the_product_promises() -> None:
    project = open_project(DEMO / "cresta")
    assert [len(project.records[each]) for each in ("huts", "rooms", "routes")] == [48, 131, 12]
    names = project.records["huts"].frame["name"]
    assert names.str.len_chars().max() > 40
    assert project.records["rooms"].row_of(0) is not None
    assert isinstance(project.records["huts"].frame, pl.DataFrame)
    assert project.records["huts"].frame["about"].null_count() > 0


@given(
    st.lists(st.sampled_from(["a", "B", "b", "", None, "c"]), min_size=1, max_size=8),
    st.lists(st.tuples(st.integers(0, 7), st.sampled_from(["A", "bb", "", None])), max_size=3),
    st.booleans(),
)
def test_rows_that_are_edited_stand_where_sorting_anew_would_have_them(
    names: list[str | None], edits: list[tuple[int, str | None]], down: bool
) -> None:
    by = (Sort(field="name", descending=down),)
    few = records_of("huts", [{"id": at, "name": name} for at, name in enumerate(names)])
    records = ManyRecords(few.source, few.frame, few.types)
    records.order(by)
    changes = Changes(
        changed=tuple(Change(at, {"name": name}) for at, name in edits if at < len(names))
    )
    edited = records.with_edits(changes)
    anew = ManyRecords(edited.source, edited.frame, edited.types)
    assert edited.order(by).tolist() == anew.order(by).tolist()
