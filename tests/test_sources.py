"""Files as they are met: the good part is taken, the bad part is counted and named."""

from __future__ import annotations

import csv
import io
import json
import sqlite3
from contextlib import closing
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from builders import DEMO, records_of
from cadena.check.check import check
from cadena.engine import events as do
from cadena.engine.session import sized
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.listing import Listing
from cadena.model.problem import Problem
from cadena.model.source import Csv, Source
from cadena.records.export_rows import handed_out
from cadena.records.query import Asked, query
from cadena.records.reading import Reading, Stopped
from cadena.sources.find_references import references
from cadena.sources.import_file import adopt
from cadena.sources.open_project import open_project
from cadena.sources.profile import extremes, heads, loss_of, worst_rows
from cadena.sources.read_csv import found_form
from cadena.sources.read_file import read_file, typed
from cadena.sources.read_sqlite import is_table
from cadena.sources.scaffold import new_project
from long_form import examples


def read(folder: Path, name: str, raw: bytes, at: str = "", form: Csv | None = None) -> Reading:
    (folder / name).write_bytes(raw)
    return read_file(folder / name, name, at, form)


def found(folder: Path, raw: bytes) -> Reading:
    """A CSV file read as it was found to be written."""
    return read(folder, "a.csv", raw, form=found_form(raw))


def said(reading: Reading) -> list[str]:
    return [str(each) for each in reading.faults]


def test_ragged_rows_are_left_out_counted_and_named(tmp_path: Path) -> None:
    reading = read(tmp_path, "a.csv", b"id,b\n1,2\n3\n4,5,6\n\n7,8\n")
    assert reading.frame.rows() == [(1, 2), (7, 8)]
    assert said(reading) == ["2 rows left out, not of 2 fields (line 3 has 1, line 4 has 3)"]


def test_quotes_commas_and_line_ends_inside_fields(tmp_path: Path) -> None:
    raw = b'id,say\r\n1,"a, ""b""\nc"\r\n2,d\r\n'
    assert read(tmp_path, "a.csv", raw).frame.rows() == [(1, 'a, "b"\nc'), (2, "d")]


@given(
    st.lists(
        st.lists(
            st.text(st.characters(exclude_categories=["Cs"], exclude_characters="\0\r")),
            min_size=3,
            max_size=3,
        ),
        min_size=1,
        max_size=6,
    )
)
@settings(max_examples=examples(200))
def test_whatever_csv_a_writer_writes_is_read_again(
    tmp_path_factory: pytest.TempPathFactory, rows: list[list[str]]
) -> None:
    out = io.StringIO()
    writer = csv.writer(out, quoting=csv.QUOTE_ALL)
    writer.writerow(["a", "b", "c"])
    writer.writerows(rows)
    folder = tmp_path_factory.mktemp("csv")
    reading = read(folder, "a.csv", out.getvalue().encode())
    got = [["" if v is None else v for v in row] for row in reading.frame.cast(str).rows()]
    kept = [[v if isinstance(v, str) else str(v) for v in row] for row in got]
    assert not reading.faults
    assert len(kept) == len(rows)


def test_a_quote_that_never_closes_costs_its_line_and_not_the_file(tmp_path: Path) -> None:
    reading = read(tmp_path, "a.csv", b'id,say\n1,"open\n2,fine\n3,fine\n')
    assert reading.frame["id"].to_list() == [1, 2, 3]
    assert "quote that never closes" in said(reading)[-1]


def test_marks_nul_bytes_and_wrong_bytes(tmp_path: Path) -> None:
    reading = read(tmp_path, "a.csv", b"\xef\xbb\xbfid,b\n1,x\0y\n2,\xe9\n")
    assert reading.frame.rows() == [(1, "xy"), (2, "�")]
    assert said(reading) == [
        "1 NUL bytes left out (line 2)",
        "1 byte outside UTF-8, shown as � (line 3, byte 12: 0xe9)",
    ]


@pytest.mark.parametrize(
    ("raw", "form"),
    [
        ("id;näme\n1;Ü\n".encode("latin-1") * 1, Csv(delimiter=";", encoding="cp1250")),
        (b"id\tb\n1\t2\n", Csv(delimiter="\t")),
        ("id,b\n1,2\n".encode("utf-16"), Csv(encoding="utf-16")),
        (b"1,2\n3,4\n", Csv(header=False)),
        (b"a|b\n1|2\n", Csv(delimiter="|")),
        (b"only\nx\n", Csv()),
    ],
)
def test_how_a_csv_is_written_is_found(tmp_path: Path, raw: bytes, form: Csv) -> None:
    got = found_form(raw)
    assert (got.delimiter, got.header) == (form.delimiter, form.header)
    if form.encoding != "cp1250":
        assert got.encoding == form.encoding
    assert len(found(tmp_path, raw).frame) == (2 if not form.header else 1)


def test_mixed_types_are_read_as_text_and_counted(tmp_path: Path) -> None:
    raw = b'[{"id": 1, "n": 1}, {"id": 2, "n": "two"}, {"id": 3, "n": 3}]'
    reading = read(tmp_path, "a.json", raw)
    assert reading.frame["n"].to_list() == ["1", "two", "3"]
    assert said(reading) == [
        "1 value of n of another type than the rest (2 whole number, 1 text): "
        "it is read as text (record 2)"
    ]


def test_numbers_too_large_stay_as_they_are_written(tmp_path: Path) -> None:
    raw = b'[{"id": 1, "n": 99999999999999999999}, {"id": 2, "n": 3}]'
    reading = read(tmp_path, "a.json", raw)
    assert reading.frame["n"].to_list() == ["99999999999999999999", "3"]
    assert "too large for 64 bits" in said(reading)[0]


def test_fields_of_records_inside_are_reached_by_path(tmp_path: Path) -> None:
    raw = b'{"data": {"huts": [{"id": 1, "owner": {"name": "A", "at": {"lat": 1.5}}}, {"id": 2}]}}'
    reading = read(tmp_path, "a.json", raw, "/data/huts")
    assert reading.frame.columns == ["id", "owner.name", "owner.at.lat"]
    (made,) = adopt(tmp_path, tmp_path / "a.json", [])
    source, records = made.source, made.records
    assert (source.at, source.id, source.key) == ("/data/huts", "huts", "id")
    assert records.by_key(1) == {"id": 1, "owner.name": "A", "owner.at.lat": 1.5}


def test_lists_of_records_are_a_source_of_their_own(tmp_path: Path) -> None:
    reading = read(tmp_path, "a.json", b'[{"id": 1, "legs": [{"x": 1}], "tags": ["a", null]}]')
    assert reading.frame.columns == ["id", "tags"]
    assert (said(reading), reading.inner) == ([], ("legs",))


def test_lines_that_are_no_record_are_left_out(tmp_path: Path) -> None:
    reading = read(tmp_path, "a.jsonl", b'{"id": 1}\nnot json\n\n{"id": 2, "b": true}\n[3]\n')
    assert reading.frame.rows() == [(1, None), (2, True)]
    assert said(reading) == ["2 lines left out, not a record (line 2, line 5)"]


def test_deep_nesting_and_a_long_field(tmp_path: Path) -> None:
    with pytest.raises(Problem, match="it is not JSON"):
        read(tmp_path, "a.json", b"[" * 100_000 + b"]" * 100_000)
    deep = b'{"id": 1, "a":' * 60 + b"1" + b"}" * 60
    reading = read(tmp_path, "b.json", b"[" + deep + b"]")
    assert reading.frame.width == 9
    assert "they hold other records" in said(reading)[0]
    long = b"x" * 10_000_000
    reading = read(tmp_path, "c.csv", b"id,b\n1," + long + b"\n2,y\n")
    assert reading.frame["b"].str.len_bytes().to_list() == [10_000_000, 1]


def test_tables_and_views_of_a_database_are_read_and_never_written(tmp_path: Path) -> None:
    file = tmp_path / "shop.sqlite"
    with sqlite3.connect(file) as made:
        made.executescript(
            """CREATE TABLE books (id INTEGER PRIMARY KEY, title TEXT, price REAL, cover BLOB);
            INSERT INTO books VALUES (0, 'A', 1.5, x'00'), (1, 'B', NULL, NULL);
            CREATE TABLE empty (id INTEGER, "odd name" TEXT);
            CREATE VIEW dear AS SELECT * FROM books WHERE price > 1;"""
        )
    raw = file.read_bytes()
    folder = tmp_path / "project"
    folder.mkdir()
    made_of = adopt(folder, file, [])
    assert [each.source.at for each in made_of] == ["books", "empty", "dear"]
    books = made_of[0].records
    assert books.types == {
        "id": "whole number",
        "title": "text",
        "price": "number",
        "cover": "text",
    }
    assert books.by_key(0) == {"id": 0, "title": "A", "price": 1.5, "cover": None}
    assert "1 value left out, raw bytes" in [str(each) for each in books.faults]
    assert len(made_of[2].records) == 1
    assert file.read_bytes() == raw
    with pytest.raises(Problem, match="no such table or view"):
        read_file(file, "shop.sqlite", "gone")


def test_a_view_that_never_ends_is_stopped(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from cadena.sources import read_sqlite

    monkeypatch.setattr(read_sqlite, "LONGEST", 0.2)
    file = tmp_path / "loop.sqlite"
    with sqlite3.connect(file) as made:
        made.execute(
            "CREATE VIEW loop AS WITH RECURSIVE n(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM n) "
            "SELECT max(x) AS id FROM n"
        )
    with pytest.raises(Problem, match=r"it takes over 0\.2 s"):
        read_file(file, "loop.sqlite", "loop")


def test_reading_can_be_stopped(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("id\n1\n")

    def stop(_: float) -> None:
        raise Stopped

    with pytest.raises(Stopped):
        read_file(tmp_path / "a.csv", "a.csv", progress=stop)


def test_the_key_can_be_made_of_other_fields(tmp_path: Path) -> None:
    reading = read(tmp_path, "a.csv", b"hut,bed\nmor,1\nmor,2\n")
    source = Source(id="beds", file="a.csv", key="key", key_from=("hut", "bed"))
    records = typed(source, reading)
    assert records.by_key("mor-2") == {"hut": "mor", "bed": 2, "key": "mor-2"}


def test_heads_count_what_is_filled_and_what_is_distinct() -> None:
    records = records_of(
        "s",
        [
            {"id": 1, "a": "x", "tags": ["t"]},
            {"id": 2, "a": "", "tags": ["t"]},
            {"id": 3, "a": "x", "tags": None},
        ],
    )
    by_name = {each.name: each for each in heads(records)}
    assert by_name["id"].could_be_key
    assert (by_name["a"].filled, by_name["a"].distinct, by_name["a"].longest) == (2, 1, 1)
    assert (by_name["tags"].filled, by_name["tags"].distinct) == (2, 1)
    assert not by_name["a"].could_be_key
    assert heads(records_of("s", [{"id": 1}]).none())[0].share_filled == 0


def test_the_longest_the_shortest_and_the_worst_rows() -> None:
    records = records_of(
        "s",
        [
            {"id": 1, "name": "middling", "note": "abcd"},
            {"id": 2, "name": "a very long name indeed", "note": "abcdef"},
            {"id": 3, "name": "short", "note": None},
        ],
    )
    found_extremes = extremes(records, "name")
    assert found_extremes is not None
    assert [(each.key, each.length) for each in found_extremes] == [(2, 23), (3, 5)]
    assert worst_rows(records, ("name", "note")) == (1, 1, 2) or worst_rows(
        records, ("name", "note")
    ) == (0, 1, 2)
    assert loss_of(records, "name", "whole number").values == 3
    assert loss_of(records, "id", "number").values == 0


def test_references_are_found_in_the_values_and_numbers_need_a_name() -> None:
    made = {
        "huts": records_of("huts", [{"id": "a", "free": 1}, {"id": "b", "free": 0}]),
        "rooms": records_of(
            "rooms", [{"id": n, "hut": "ab"[n % 2], "beds": n, "home": "a"} for n in range(20)]
        ),
        "stays": records_of("stays", [{"id": n, "room_id": n % 20} for n in range(30)]),
    }
    assert [(each.source, each.field, each.to) for each in references(made)] == [
        ("rooms", "hut", "huts"),
        ("rooms", "home", "huts"),
        ("stays", "room_id", "rooms"),
    ]


def test_what_is_handed_out_starts_no_formula() -> None:
    records = records_of(
        "s",
        [
            {"id": 1, "a": "=1+1", "n": -5},
            {"id": 2, "a": "@x", "n": 6},
            {"id": 3, "a": "ok", "n": 7},
        ],
    )
    rows = query(records, Listing(source="s", search=("a",)), Asked())
    assert handed_out(rows, "csv").splitlines() == ["id,a,n", "1,'=1+1,-5", "2,'@x,6", "3,ok,7"]
    assert json.loads(handed_out(rows, "json"))[0] == {"id": 1, "a": "=1+1", "n": -5}


def test_new_makes_a_project_of_the_demos_raw_files_that_passes_check(tmp_path: Path) -> None:
    files = [
        DEMO / "cresta" / name for name in ("huts.json", "rooms.csv", "routes.json", "legs.csv")
    ]
    app, _ = new_project(tmp_path / "mine", files, "Mine")
    assert len(app.sections) == len(app.sources)
    project = open_project(tmp_path / "mine")
    findings = check(project.app, project.records)
    assert not [each for each in findings if each.weight == "breaks"], findings
    wired = WiredApp(project.app, project.records)
    session, _ = start(wired, sized(820, 1180))
    for section in app.sections:
        session, *_ = step(wired, session, do.GoTo(section=section.id))
        session, notes, _ = step(wired, session, do.Move(to="down"))
        assert notes[0].kind == "opened", notes
    nested = [each.id for screen in app.screens for each in getattr(screen, "blocks", ())]
    assert "rooms" in nested


def test_new_leaves_nothing_behind_when_it_fails(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("id\n1\n")
    (tmp_path / "b.json").write_text("{")
    with pytest.raises(Problem):
        new_project(tmp_path / "mine", [tmp_path / "a.csv", tmp_path / "b.json"])
    assert not (tmp_path / "mine").exists()


def test_the_one_table_of_a_database_is_one_without_being_named(tmp_path: Path) -> None:
    """Also where only its primary key tells its rows apart."""
    for name, more in (("numbered", ""), ("by_key", " WITHOUT ROWID")):
        path = tmp_path / f"{name}.sqlite"
        with closing(sqlite3.connect(path)) as made:
            made.execute(f"CREATE TABLE huts (code TEXT PRIMARY KEY, name TEXT){more}")
            made.commit()
        assert is_table(path, "")
        assert is_table(path, "huts")
