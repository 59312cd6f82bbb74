"""What goes back into people's own files: of each kind just what was changed, or it is refused."""

from __future__ import annotations

import datetime
import json
import sqlite3
from collections.abc import Callable
from contextlib import closing
from pathlib import Path
from typing import Any

import polars as pl
import pytest
from pytestqt.qtbot import QtBot

from cadena.deliver.delivery import deliver, planned
from cadena.desktop.document import walks
from cadena.desktop.document.document import Document
from cadena.desktop.document.making_up import exchange, make_up_field
from cadena.desktop.document.own_file import keep_in_own_file
from cadena.desktop.document.typing import (
    add_record,
    remove_records,
    rename_field,
    type_cell,
)
from cadena.engine.events import Sleep
from cadena.model.problem import Problem
from cadena.runs.walks.recording import write_walk
from cadena.sources.import_file import adopt
from cadena.sources.open_project import open_project
from cadena.sources.write_back import NotWritten
from test_cli import call
from test_typed_records import opened

NESTED = [
    {"id": 1, "name": "Alp", "rooms": [{"no": 1}, {"no": 2}]},
    {"id": 2, "name": "Bel", "rooms": [{"no": 3}]},
]


def database(path: Path, *statements: str) -> bytes:
    with closing(sqlite3.connect(path)) as base, base:
        for each in statements:
            base.execute(each)
    return path.read_bytes()


def rows_of(path: Path, sql: str) -> list[Any]:
    with closing(sqlite3.connect(path)) as base:
        return base.execute(sql).fetchall()


@pytest.mark.parametrize("kind", ["a person", ""])
def test_making_a_field_up_keeps_the_file_what_it_is(
    qtbot: QtBot, tmp_path: Path, kind: str
) -> None:
    for number, (name, raw) in enumerate(
        (
            ("h.csv", b"id;name\r\n1;Alp\r\n2;Bel\r\n"),
            ("h.json", json.dumps(NESTED).encode()),
            ("h.jsonl", b'{"id": 1, "name": "Alp", "x": [[1]]}\n{"id": 2, "name": "Bel"}\n'),
        )
    ):
        folder = tmp_path / str(number)
        folder.mkdir()
        document = opened(folder, name, raw)
        make_up_field(document, document.app.sources[0], "name", kind)
        document.save()
        written = (folder / "p" / name).read_bytes()
        assert document.app.sources[0].file == name
        assert (written == raw) == (not kind)
        if name == "h.json":
            assert [each["rooms"] for each in json.loads(written)] == [
                each["rooms"] for each in NESTED
            ]
        if name == "h.csv":
            assert written.startswith(b"id;name\r\n1;")
        if name == "h.jsonl":
            assert json.loads(written.splitlines()[0])["x"] == [[1]]


def test_making_a_field_up_leaves_other_tables_alone(qtbot: QtBot, tmp_path: Path) -> None:
    raw = database(
        tmp_path / "s.db",
        "CREATE TABLE h(id INTEGER PRIMARY KEY, name TEXT)",
        "INSERT INTO h VALUES(1, 'Alp'), (2, 'Bel')",
        "CREATE TABLE r(id INTEGER PRIMARY KEY, h INT REFERENCES h(id))",
        "INSERT INTO r VALUES(7, 1)",
    )
    document = opened(tmp_path, "s.db", raw)
    make_up_field(document, document.app.sources[0], "name", "a place")
    document.save()
    file = tmp_path / "p" / "s.db"
    assert rows_of(file, "SELECT * FROM r") == [(7, 1)]
    names = rows_of(file, "SELECT id, name FROM h")
    assert [each[0] for each in names] == [1, 2]
    assert "Alp" not in [each[1] for each in names]


TABLES = {
    "an index gives another order": (
        "CREATE TABLE h(id INT, name TEXT, n INT)",
        "INSERT INTO h VALUES(7, 'z', 1), (1, 'a', 2), (4, 'm', 3)",
        "CREATE INDEX i ON h(name, id, n)",
    ),
    "a column is called rowid": (
        "CREATE TABLE h(id INT, name TEXT, n INT, rowid INT, oid INT)",
        "INSERT INTO h VALUES(7, 'z', 1, 5, 5), (1, 'a', 2, 5, 5), (4, 'm', 3, 5, 5)",
    ),
    "its key is a text": (
        "CREATE TABLE h(id TEXT PRIMARY KEY, name TEXT, n INT) WITHOUT ROWID",
        "INSERT INTO h VALUES('7', 'z', 1), ('1', 'a', 2), ('4', 'm', 3)",
    ),
}


@pytest.mark.parametrize("case", TABLES)
def test_a_row_is_found_by_what_finds_it(qtbot: QtBot, tmp_path: Path, case: str) -> None:
    document = opened(tmp_path, "s.db", database(tmp_path / "s.db", *TABLES[case]))
    file = tmp_path / "p" / "s.db"
    before = dict(rows_of(file, "SELECT id, name FROM h"))
    records = document.records["h"]
    row = next(at for at in range(3) if str(records.record(at)["id"]) == "7")
    type_cell(document, "h", row, "name", "new")
    type_cell(document, "h", row, "n", "")
    document.save()
    key = next(each for each in before if str(each) == "7")
    assert dict(rows_of(file, "SELECT id, name FROM h")) == {**before, key: "new"}
    # An emptied cell is nothing, and no text that says so.
    assert rows_of(file, "SELECT id FROM h WHERE n IS NULL") == [(key,)]


def test_what_a_table_refuses_leaves_nothing_half_done(qtbot: QtBot, tmp_path: Path) -> None:
    raw = database(
        tmp_path / "s.db",
        "CREATE TABLE h(id INTEGER PRIMARY KEY, name TEXT NOT NULL, kind TEXT DEFAULT 'hut')",
        "INSERT INTO h(id, name) VALUES(1, 'Alp'), (2, 'Bel'), (3, 'Cap')",
    )
    document = opened(tmp_path, "s.db", raw)
    file = tmp_path / "p" / "s.db"
    rename_field(document, "h", "kind", "sort")
    type_cell(document, "h", 0, "name", "New")
    type_cell(document, "h", 1, "name", "")
    with pytest.raises(Problem, match="NOT NULL"):
        document.save()
    assert file.read_bytes() == raw
    assert not document.is_saved
    type_cell(document, "h", 1, "name", "Bo")
    add_record(document, "h", {"name": "Dot"})
    document.save()
    # What the table fills in is shown at once.
    assert rows_of(file, "SELECT name, sort FROM h WHERE id = 4") == [("Dot", "hut")]
    assert document.records["h"].record(3) == {"id": 4, "name": "Dot", "sort": "hut"}
    type_cell(document, "h", 0, "id", "2")
    type_cell(document, "h", 1, "id", "9")
    document.save()
    assert rows_of(file, "SELECT id, name FROM h") == [
        (2, "New"), (3, "Cap"), (4, "Dot"), (9, "Bo"),
    ]  # fmt: skip


def test_raw_bytes_that_are_not_shown_are_not_written_over(qtbot: QtBot, tmp_path: Path) -> None:
    raw = database(
        tmp_path / "s.db",
        "CREATE TABLE h(id INTEGER PRIMARY KEY, name)",
        "INSERT INTO h VALUES(1, 'Alp'), (2, x'00ff')",
    )
    document = opened(tmp_path, "s.db", raw)
    type_cell(document, "h", 1, "name", "typed")
    with pytest.raises(Problem, match="raw bytes"):
        document.save()
    assert rows_of(tmp_path / "p" / "s.db", "SELECT name FROM h WHERE id = 2") == [(b"\0\xff",)]


def test_a_database_is_read_with_what_is_in_its_journal(qtbot: QtBot, tmp_path: Path) -> None:
    raw = database(tmp_path / "s.db", "CREATE TABLE h(id INTEGER PRIMARY KEY, name TEXT)",
                   "INSERT INTO h VALUES(1, 'Alp'), (2, 'Bel')")  # fmt: skip
    opened(tmp_path, "s.db", raw)
    file = tmp_path / "p" / "s.db"
    with closing(sqlite3.connect(file)) as base:
        base.execute("PRAGMA journal_mode = WAL")
        base.execute("PRAGMA wal_autocheckpoint = 0")
        base.execute("UPDATE h SET name = 'Newest' WHERE id = 2")
        base.commit()
        assert open_project(tmp_path / "p").records["h"].record(1)["name"] == "Newest"
        document = Document()
        document.open(tmp_path / "p")
        type_cell(document, "h", 0, "name", "Typed")
        base.execute("UPDATE h SET name = 'Later' WHERE id = 2")
        base.commit()
        document.save()
        assert base.execute("SELECT name FROM h").fetchall() == [("Typed",), ("Later",)]


@pytest.mark.parametrize("name", ["h.csv", "h.json"])
def test_a_record_is_found_again_when_its_file_changed_before_the_first_typing(
    qtbot: QtBot, tmp_path: Path, name: str
) -> None:
    rows = [{"id": 1, "name": "Alp"}, {"id": 2, "name": "Bel"}, {"id": 3, "name": "Cap"}]

    def raw(some: list[dict[str, Any]]) -> bytes:
        lines = [f"{each['id']},{each['name']}" for each in some]
        text = "\n".join(["id,name", *lines]) if name == "h.csv" else json.dumps(some)
        return text.encode()

    opened(tmp_path, name, raw(rows))
    # It is opened from what was kept of it when it was last read.
    document = Document()
    document.open(tmp_path / "p")
    file = tmp_path / "p" / name
    file.write_bytes(raw(rows[1:]))
    type_cell(document, "h", 1, "name", "Bea")
    document.save()
    assert b"Bea" in file.read_bytes()
    assert [document.records["h"].record(at)["name"] for at in (0, 1)] == ["Bea", "Cap"]
    open_project(tmp_path / "p")
    document = Document()
    document.open(tmp_path / "p")
    refused: list[str] = []
    document.failed.connect(refused.append)
    file.write_bytes(raw([{"id": 2, "name": "Other"}, rows[2]]))
    type_cell(document, "h", 0, "name", "Lost")
    assert "nothing was typed" in refused[0]
    assert document.is_saved
    assert document.records["h"].record(0)["name"] == "Other"


def test_parquet_keeps_every_column_what_it_is_or_refuses_by_name(
    qtbot: QtBot, tmp_path: Path
) -> None:
    hour = datetime.datetime(2026, 5, 1, 12)
    frame = pl.DataFrame(
        {
            "id": [1, 2],
            "name": pl.Series(["Alp", "Bel"], dtype=pl.Categorical),
            "tags": [["a"], ["b", "c"]],
            "price": pl.Series(["1.50", "2.25"]).cast(pl.Decimal(8, 2)),
            "at": pl.Series([hour, hour]).dt.replace_time_zone("Europe/Zurich"),
            "raw": [b"\0", b"\1"],
            "took": [datetime.timedelta(seconds=5)] * 2,
            "owner": [{"name": "Ann", "age": 3}, {"name": "Bob", "age": 4}],
        }
    )
    frame.write_parquet(tmp_path / "h.parquet", metadata={"made by": "them"})
    document = opened(tmp_path, "h.parquet", (tmp_path / "h.parquet").read_bytes())
    file = tmp_path / "p" / "h.parquet"
    type_cell(document, "h", 0, "name", "Cap")
    type_cell(document, "h", 1, "price", "3.75")
    type_cell(document, "h", 0, "tags", "x, y")
    document.save()
    now = pl.read_parquet(file)
    assert now.schema == frame.schema
    assert pl.read_parquet_metadata(file)["made by"] == "them"
    untouched = ["id", "at", "raw", "took", "owner"]
    assert now.select(untouched).equals(frame.select(untouched))
    assert now["name"].to_list() == ["Cap", "Bel"]
    assert [str(each) for each in now["price"]] == ["1.50", "3.75"]
    assert now["tags"].to_list() == [["x", "y"], ["b", "c"]]
    before = file.read_bytes()
    type_cell(document, "h", 0, "owner.name", "Eve")
    with pytest.raises(Problem, match=r"owner\.name"):
        document.save()
    document.undo()
    type_cell(document, "h", 0, "price", "1.234")
    with pytest.raises(Problem, match="price"):
        document.save()
    assert file.read_bytes() == before


def named(count: int) -> bytes:
    rows = {f"k{at}": {"name": f"N{at}", "beds": at} for at in range(count)}
    return json.dumps({"v": 1, "huts": rows}).encode()


def test_records_that_stand_by_name_keep_their_names(qtbot: QtBot, tmp_path: Path) -> None:
    document = opened(tmp_path, "h.json", named(3))
    source = document.app.sources[0].id
    file = tmp_path / "p" / "h.json"
    before = file.read_bytes()

    def is_refused(match: str) -> None:
        with pytest.raises(Problem, match=match):
            document.save()
        assert file.read_bytes() == before
        document.undo()

    type_cell(document, source, 0, "key", "k1")
    is_refused('two records have the key "k1"')
    type_cell(document, source, 0, "key", "")
    is_refused("no key")
    rename_field(document, source, "key", "code")
    is_refused("records stand under it")
    type_cell(document, source, 0, "key", "new")
    remove_records(document, source, [1, 2])
    document.save()
    assert json.loads(file.read_text()) == {"v": 1, "huts": {"new": {"name": "N0", "beds": 0}}}
    # With one record left, and with none, it opens again and goes on.
    again = Document()
    again.open(tmp_path / "p")
    assert again.records[source].record(0)["key"] == "new"
    remove_records(again, source, [0])
    again.save()
    assert json.loads(file.read_text()) == {"v": 1, "huts": {}}
    last = Document()
    last.open(tmp_path / "p")
    add_record(last, source, {"key": "first", "name": "F", "beds": "2"})
    last.save()
    assert json.loads(file.read_text())["huts"] == {"first": {"name": "F", "beds": 2}}


@pytest.mark.parametrize(
    ("name", "raw"),
    [
        ("h.jsonl", b'\xef\xbb\xbf{"id": 1, "name": "A"}\n{"id": 2, "name": "B"}\n'),
        ("h.json", b'[{"id": 1, "name": "A"}, {"id": 2, "name": "B"}]'),
        ("h.csv", b"id,name\n1,A\n2,B\n"),
        ("h.csv", b"1,A\n2,B\n"),
    ],
)
def test_a_file_of_which_all_records_are_removed_opens_again(
    qtbot: QtBot, tmp_path: Path, name: str, raw: bytes
) -> None:
    document = opened(tmp_path, name, raw)
    fields = list(document.records["h"].types)
    remove_records(document, "h", [0, 1])
    document.save()
    again = Document()
    again.open(tmp_path / "p")
    assert len(again.records["h"]) == 0
    assert list(again.records["h"].types) == fields
    add_record(again, "h", {fields[0]: "7", fields[1]: "New"})
    again.save()
    assert open_project(tmp_path / "p").records["h"].record(0) == {fields[0]: 7, fields[1]: "New"}


def test_a_line_that_is_no_text_is_not_written_anew(qtbot: QtBot, tmp_path: Path) -> None:
    raw = b'{"id": 1, "name": "A"}\n{"id": 2, "name": "\xff", "n": 1}\n'
    document = opened(tmp_path, "h.jsonl", raw)
    type_cell(document, "h", 0, "name", "Alp")
    document.save()
    file = tmp_path / "p" / "h.jsonl"
    assert file.read_bytes().splitlines()[1] == raw.splitlines()[1]
    type_cell(document, "h", 1, "n", "2")
    with pytest.raises(Problem, match="no text, which would be lost"):
        document.save()


def test_a_name_that_somebody_has_taken_meanwhile_is_left_to_them(
    qtbot: QtBot, tmp_path: Path
) -> None:
    document = opened(tmp_path, "y.yaml", b"- {id: a, name: A}\n- {id: b, name: B}\n")
    type_cell(document, "y", 0, "name", "Ann")
    assert document.app.sources[0].file == "y-2.json"
    (tmp_path / "p" / "y-2.json").write_text("theirs")
    document.save()
    assert (tmp_path / "p" / "y-2.json").read_text() == "theirs"
    assert document.app.sources[0].file == "y-3.json"
    assert open_project(tmp_path / "p").records["y"].record(0)["name"] == "Ann"


def test_a_file_that_is_gone_is_told_and_its_records_can_be_kept_apart(
    qtbot: QtBot, tmp_path: Path
) -> None:
    document = opened(tmp_path, "h.csv", b"id,name\n1,Alp\n2,Bel\n")
    type_cell(document, "h", 0, "name", "Kept")
    file = tmp_path / "p" / "h.csv"
    file.unlink()
    with pytest.raises(NotWritten, match="no such file"):
        document.save()
    assert not file.exists()
    assert not document.is_saved
    keep_in_own_file(document, "h")
    document.save()
    assert open_project(tmp_path / "p").records["h"].record(0)["name"] == "Kept"


def test_what_was_typed_into_a_source_that_was_exchanged_is_not_said_to_be_saved(
    qtbot: QtBot, tmp_path: Path
) -> None:
    document = opened(tmp_path, "h.csv", b"id,name\n1,Alp\n2,Bel\n")
    type_cell(document, "h", 0, "name", "Typed")
    (tmp_path / "other.json").write_text(json.dumps([{"id": 5, "name": "O"}]))
    (made,) = adopt(tmp_path / "p", tmp_path / "other.json", ("h",))
    exchange(document, "h", made)
    document.save()
    assert document.is_saved
    assert (tmp_path / "p" / "h.csv").read_bytes() == b"id,name\n1,Alp\n2,Bel\n"
    document.undo()
    assert document.records["h"].record(0)["name"] == "Typed"
    assert not document.is_saved
    document.save()
    assert (tmp_path / "p" / "h.csv").read_bytes() == b"id,name\n1,Typed\n2,Bel\n"


def test_walks_of_like_names_stay_apart(qtbot: QtBot, tmp_path: Path) -> None:
    document = opened(tmp_path, "h.csv", b"id,name\n1,Alp\n2,Bel\n")
    folder = tmp_path / "p" / "walks"
    folder.mkdir()
    texts = {"My walk": "a", "my-walk": "b", "My-Walk": "c"}
    for name in texts:
        (folder / f"{name}.json").write_text('[\n  {"do":"back"}\n]\n')
    walks.change_steps(document, "My walk", 0, 1, Sleep())
    assert [(folder / f"{each}.json").read_text().count("sleep") for each in texts] == [1, 0, 0]
    refused: list[str] = []
    document.failed.connect(refused.append)
    walks.rename(document, "My walk", "My walk!")
    assert "already" in refused[0]
    for _ in range(2):
        walks.remove(document, "my-walk")
        write_walk(tmp_path / "p", "my walk", ())
    removed = [each.name for each in folder.iterdir() if ".removed" in each.name]
    assert len(removed) == 2


def ended_at(number: int, patched: pytest.MonkeyPatch) -> None:
    from cadena.deliver import delivery

    real: Callable[..., None] = delivery._write
    count = [0]

    def write(*given: Any, **named: Any) -> None:
        count[0] += 1
        if count[0] == number:
            raise KeyboardInterrupt
        real(*given, **named)

    patched.setattr(delivery, "_write", write)


def test_a_delivery_that_was_interrupted_leaves_nobody_s_file_theirs(tmp_path: Path) -> None:
    old = {name: f"{name} one".encode() for name in ("a.js", "b.js", "c.js", "d.js")}
    new = {name: f"{name} two".encode() for name in ("a.js", "b.js", "c.js", "e.js")}
    for at in range(1, 7):
        to = tmp_path / str(at)
        deliver(old, to)
        (to / "b.js").write_bytes(b"by hand")
        with pytest.MonkeyPatch.context() as patched:
            ended_at(at, patched)
            with pytest.raises(KeyboardInterrupt):
                deliver(new, to)
        states = {each.path: each.state for each in planned(new, to)}
        assert states.pop("b.js") == "both"
        assert set(states.values()) <= {"new", "changed", "as it was", "gone"}
        deliver(new, to)
        assert {each.path: each.state for each in planned(new, to)} == {
            "a.js": "as it was", "b.js": "both", "c.js": "as it was", "e.js": "as it was",
        }  # fmt: skip
        assert not (to / "d.js").exists()


def test_what_was_there_before_is_never_taken_for_delivered(tmp_path: Path) -> None:
    files = {"look.css": b"one", "app.js": b"app"}
    (tmp_path / "look.css").write_bytes(b"one")
    deliver(files, tmp_path)
    deliver({"app.js": b"app"}, tmp_path)
    assert (tmp_path / "look.css").read_bytes() == b"one"
    (tmp_path / "x.cadena").write_text("{}")
    with pytest.raises(Problem, match="a project is in it"):
        planned(files, tmp_path)
    code, said = call("deliver", str(tmp_path), "--as", "web", "--to", str(tmp_path))
    assert code == 2
    assert "project" in said
