"""Data as it is met: packed, nested, in many written forms, with no header or lines above it."""

from __future__ import annotations

import gzip
import json
import sqlite3
from pathlib import Path

import polars as pl
import pytest

from cadena.check.check import read_through
from cadena.model.problem import Problem
from cadena.model.source import Refers
from cadena.records.records import Records
from cadena.sources.import_file import Adopted, adopt
from cadena.sources.open_project import open_project
from cadena.sources.written_forms import form_of, read_as_written
from test_cli import call

BOOKINGS = """Bookings 2026
made by hand,

id,guest,price,on,share,at
1,Ann,"6,718",3.5.2026,12 %,2026-11-25T16:25:00+01:00
2,Bob,NA,14.6.2026,3 %,2026-11-25 08:00
3,Cyd,"12",1.1.2026,4.5 %,2026-11-24T23:59:59.5Z
"""


def taken(folder: Path, name: str, raw: bytes | str) -> dict[str, Adopted]:
    (folder / name).write_bytes(raw.encode() if isinstance(raw, str) else raw)
    return {each.source.id: each for each in adopt(folder, folder / name, ())}


def records(made: Adopted) -> list[dict[str, object]]:
    return [made.records.record(at) for at in range(len(made.records))]


@pytest.mark.parametrize(
    ("values", "kind", "written", "first"),
    [
        (["3 May 2024", "12 December 1999"], "date", "%d %b %Y", "2024-05-03"),
        (["11/25/2026", "1/3/2025"], "date", "%m/%d/%Y", "2026-11-25"),
        (["25/11/2026"], "date", "%d/%m/%Y", "2026-11-25"),
        (["1/3/26 10:30 PM"], "date and time", "%m/%d/%y %I:%M %p", "2026-01-03T22:30:00Z"),
        (["718", "6,718"], "whole number", "1,234.5", 718),
        (["1.234,5", "3,2"], "number", "1.234,5", 1234.5),
        (["CHF 1'200.50"], "number", "1'234.5", 1200.5),
        (["$1,234.50", "$3.00"], "number", "1,234.5", 1234.5),
    ],
)
def test_values_are_read_as_they_are_written(
    tmp_path: Path, values: list[str], kind: str, written: str, first: object
) -> None:
    rows = [{"id": at, "of": value} for at, value in enumerate(values)]
    made = taken(tmp_path, "a.json", json.dumps(rows))["a"]
    field = made.source.fields[1]
    assert (field.type, field.written) == (kind, written)
    assert records(made)[0]["of"] == first
    assert not made.records.faults


@pytest.mark.parametrize("value", ["007", "1.2.3", "1.234", "192.168.1.1", "10:30", "1,2,3", "A 1"])
def test_what_only_looks_like_a_number_or_a_date_stays_text(value: str) -> None:
    assert form_of(pl.Series(["x", value][1:])) is None
    assert read_as_written(pl.Series(["31.2.2026"]), "date", "%d.%m.%Y").to_list() == [None]


def test_a_table_under_a_title_with_gaps_money_days_and_times(tmp_path: Path) -> None:
    (tmp_path / "b.csv.gz").write_bytes(gzip.compress(BOOKINGS.encode()))
    code, said = call("new", str(tmp_path / "b.csv.gz"), "--to", str(tmp_path / "p"), "--closed")
    assert code == 0, said
    assert "the first 3 lines stand above the header" in said
    assert "1 value written NA is read as empty" in said
    project = open_project(tmp_path / "p")
    (source,) = project.app.sources
    assert (source.id, source.file, source.csv.skip) == ("b", "b.csv.gz", 3)
    first, second, third = (project.records["b"].record(at) for at in range(3))
    assert (first["price"], first["on"], first["share"]) == (6718, "2026-05-03", 12.0)
    assert (second["price"], second["at"]) == (None, "2026-11-25T08:00:00Z")
    assert [each["at"] for each in (first, third)] == [
        "2026-11-25T15:25:00Z",
        "2026-11-24T23:59:59.500000Z",
    ]
    assert project.records["b"].faults == ()
    assert not read_through(project.app, project.records)


def test_times_are_compared_sorted_and_said_as_times(tmp_path: Path) -> None:
    from cadena.model.listing import Sort
    from cadena.records.conditions import passes
    from cadena.records.formats import Sayings

    made = taken(tmp_path, "b.csv", BOOKINGS)["b"].records
    assert made.order((Sort(field="at"),)) == [2, 1, 0]
    assert passes("2026-11-25T08:00:00Z", "under", "2026-11-25T10:00:00+01:00", "date and time")
    said = Sayings(made.source, made.types, "en-GB").value("at", made.record(1))
    assert said.startswith("25 Nov 2026, 08:00")


def test_without_a_header_columns_are_numbered_and_years_are_names(tmp_path: Path) -> None:
    made = taken(tmp_path, "a.csv", "1,Ann,Bern\n2,Bob,Bern\n3,Cyd,Chur\n")["a"]
    assert (made.source.csv.header, made.source.key, made.source.label) == (
        False,
        "column_1",
        "column_2",
    )
    again = taken(tmp_path, "b.csv", "Ann,Bern\nBob,Bern\nAnn,Chur\nCyd,Bern\n")["b"]
    assert len(again.records) == 4
    years = taken(tmp_path, "c.csv", "Country,2000,2001\nCH,5,6\nAT,7,8\n")["c"]
    assert list(years.records.types) == ["Country", "2000", "2001"]


def test_every_array_of_like_records_and_those_inside_records(tmp_path: Path) -> None:
    tree = {
        "meta": {"page": 1},
        "huts": [
            {"id": 7, "name": "Alp", "rooms": [{"no": 1, "beds": 4}, {"no": 2, "beds": 2}]},
            {"id": 0, "name": "Bel", "rooms": [{"no": 1, "beds": 8}]},
        ],
        "guides": [{"id": 1, "name": "Urs"}, {"id": 2, "name": "Ida"}],
    }
    (tmp_path / "all.data").write_text(json.dumps(tree))
    assert call("new", str(tmp_path / "all.data"), "--to", str(tmp_path / "p"), "--closed")[0] == 0
    project = open_project(tmp_path / "p")
    assert set(project.records) == {"huts", "rooms", "guides"}
    rooms = project.records["rooms"]
    assert [each["hut_id"] for each in (rooms.record(at) for at in range(3))] == [7, 7, 0]
    assert next(e.refers for e in rooms.source.fields if e.name == "hut_id") == Refers(to="huts")
    assert [each.id for each in project.app.sections] == ["huts", "guides"]
    assert not read_through(project.app, project.records)


def test_columns_of_parquet_of_sheets_and_of_yaml(tmp_path: Path) -> None:
    frame = pl.DataFrame({"id": [1, 2], "of": [{"x": 1}, {"x": 2}], "at": [0, 3_600_000]})
    zoned = pl.col("at").cast(pl.Datetime("ms", "Europe/Zurich"))
    frame.with_columns(zoned).write_parquet(tmp_path / "p.parquet")
    made = {each.source.id: each for each in adopt(tmp_path, tmp_path / "p.parquet", ())}["p"]
    assert records(made)[1] == {"id": 2, "at": "1970-01-01T01:00:00Z", "of.x": 2}
    yaml = taken(tmp_path, "y.yaml", "- {id: a, born: 1980-02-03}\n- {id: b, born: 1981-02-03}\n")
    assert records(yaml["y"])[0] == {"id": "a", "born": "1980-02-03"}
    assert yaml["y"].records.types["born"] == "date"
    with pytest.raises(Problem, match="cannot be read"):
        taken(tmp_path, "s.xlsx", b"PK\x03\x04 no sheet")
    with pytest.raises(Problem, match="cannot be unpacked"):
        taken(tmp_path, "z.csv.gz", b"\x1f\x8b broken")


def test_a_key_of_several_fields_is_referred_to(tmp_path: Path) -> None:
    with sqlite3.connect(tmp_path / "s.db") as base:
        base.executescript(
            """CREATE TABLE seasons(country TEXT, year INT, name TEXT, PRIMARY KEY(country, year));
            CREATE TABLE visits(id INTEGER PRIMARY KEY, land TEXT, yr INT, guest TEXT,
                FOREIGN KEY(land, yr) REFERENCES seasons(country, year));
            INSERT INTO seasons VALUES('CH',2020,'One'),('CH',2021,'Two'),('AT',2020,'Three');
            INSERT INTO visits VALUES(1,'CH',2020,'Ann'),(2,'CH',2021,'Bob'),(3,'AT',2020,'Cyd');"""
        )
    assert call("new", str(tmp_path / "s.db"), "--to", str(tmp_path / "p"), "--closed")[0] == 0
    project = open_project(tmp_path / "p")
    visits: Records = project.records["visits"]
    assert (visits.by_key(2) or {})["season_key"] == "CH-2021"
    assert any(link.to == "season" for link in project.app.links)
    assert not read_through(project.app, project.records)


def test_many_tables_have_six_sections_and_no_complaint(tmp_path: Path) -> None:
    with sqlite3.connect(tmp_path / "m.db") as base:
        for number in range(12):
            held = "".join(f", t{at}_id INT REFERENCES t{at}(id)" for at in range(number)[-3:])
            base.execute(f"CREATE TABLE t{number}(id INTEGER PRIMARY KEY, name TEXT, a, b{held})")
            values = [(row, f"T {row}", row, row, *[row] * min(3, number)) for row in range(50)]
            marks = ",".join("?" * len(values[0]))
            base.executemany(f"INSERT INTO t{number} VALUES({marks})", values)
    assert call("new", str(tmp_path / "m.db"), "--to", str(tmp_path / "p"), "--closed")[0] == 0
    project = open_project(tmp_path / "p")
    assert len(project.app.sections) == 6
    assert {each.id for each in project.app.sources} == set(project.records)
    assert not read_through(project.app, project.records)


def test_a_label_that_is_wished_for_leaves_how_values_are_written(tmp_path: Path) -> None:
    from cadena.sources.scaffold import Wishes, new_project

    data = tmp_path / "cabins.csv"
    data.write_text('id,name,built,rent\n1,One,3.5.2026,"1.234,50"\n2,Two,24.12.2025,"980,00"\n')
    new_project(tmp_path / "plain", [data], "Cabins")
    new_project(tmp_path / "wished", [data], "Cabins", wishes=Wishes(labels={"cabins": "built"}))
    plain, wished = (open_project(tmp_path / name) for name in ("plain", "wished"))
    assert wished.app.sources[0].label == "built"
    assert wished.app.sources[0].fields == plain.app.sources[0].fields
    assert wished.records["cabins"].record(0) == plain.records["cabins"].record(0)
    assert plain.records["cabins"].record(0)["built"] == "2026-05-03"
