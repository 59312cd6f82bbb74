"""Records typed by hand, made up, exchanged: undone, and written in their own format."""

from __future__ import annotations

import gzip
import json
import sqlite3
from pathlib import Path

import msgspec
import polars as pl
import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QLineEdit
from pytestqt.qtbot import QtBot

from cadena.check.check import read_through
from cadena.desktop.document.document import Document
from cadena.desktop.document.making_up import exchange, make_up_anew, make_up_field
from cadena.desktop.document.new_sources import begin_with
from cadena.desktop.document.typing import (
    add_field,
    add_record,
    paste,
    remove_records,
    rename_field,
    type_cell,
)
from cadena.model.source import Field, MadeUp, Source
from cadena.sources.import_file import adopt
from cadena.sources.made_up import TYPES, made_up_records
from cadena.sources.open_project import open_project
from test_cli import call

HUTS = [
    {"id": 7, "name": "Alp", "owner": {"name": "Ann"}, "rooms": [{"no": 1}]},
    "no record",
    {"id": 0, "name": "Bel", "owner": {"name": "Bob"}, "extra": [[1]]},
]


def opened(folder: Path, name: str, raw: bytes) -> Document:
    (folder / name).write_bytes(raw)
    code, said = call("new", str(folder / name), "--to", str(folder / "p"), "--closed")
    assert code == 0, said
    document = Document()
    document.open(folder / "p")
    return document


def test_what_is_typed_is_undone_saved_and_leaves_the_rest_as_it_was(
    qtbot: QtBot, tmp_path: Path
) -> None:
    document = opened(tmp_path, "huts.json", json.dumps(HUTS, indent=1).encode())
    file = tmp_path / "p" / "huts.json"
    before = file.read_bytes()
    type_cell(document, "huts", 1, "owner.name", "Bea")
    add_record(document, "huts", {"name": "Cap"})
    remove_records(document, "huts", [0])
    assert document.history.undoes == "remove a record of huts"
    assert document.records["huts"].keys.to_list() == [0, 8]
    assert not document.is_saved
    assert file.read_bytes() == before
    document.undo()
    document.undo()
    assert document.records["huts"].keys.to_list() == [7, 0]
    document.redo()
    document.redo()
    document.save()
    assert document.is_saved
    assert json.loads(file.read_text()) == [
        "no record",
        {"id": 0, "name": "Bel", "owner": {"name": "Bea"}, "extra": [[1]]},
        {"id": 8, "name": "Cap"},
    ]
    assert open_project(tmp_path / "p").records["huts"].keys.to_list() == [0, 8]
    # Undone past what was saved, it is written as it was once more.
    for _ in range(3):
        document.undo()
    document.save()
    assert json.loads(file.read_text()) == ["no record", HUTS[0], HUTS[2]]
    type_cell(document, "huts", 0, "id", "seven")
    assert document.is_saved


@pytest.mark.parametrize(
    ("name", "raw", "written"),
    [
        (
            "h.csv",
            b"Huts 2026\r\n\r\nid;name;price\r\n1;Alp;1.234,5\r\n2;B\xe4l;3,2\r\nodd\r\n",
            b"Huts 2026\r\n\r\nid;name;price;field\r\n1;Alp;2,5;\r\nodd\r\n3;New;;\xfc\r\n",
        ),
        (
            "h.jsonl",
            b'{"id": 1, "name": "Alp", "price": 1.5}\nnot json\n{"id": 2, "name": "B"}\n',
            b'{"id":1,"name":"Alp","price":2.5}\nnot json\n'
            b'{"id":3,"name":"New","field":"\xc3\xbc"}\n',
        ),
    ],
)
def test_each_format_is_written_as_it_is(
    qtbot: QtBot, tmp_path: Path, name: str, raw: bytes, written: bytes
) -> None:
    document = opened(tmp_path, name, raw)
    add_field(document, "h")
    type_cell(document, "h", 0, "price", "2,5" if name == "h.csv" else "2.5")
    add_record(document, "h", {"name": "New", "field": "ü"})
    remove_records(document, "h", [1])
    document.save()
    got = (tmp_path / "p" / name).read_bytes()
    assert got == written
    again = open_project(tmp_path / "p").records["h"]
    assert again.record(1)["field"] == "ü"
    assert again.record(0)["price"] == 2.5


def test_a_database_and_a_packed_file_are_changed_in_place(qtbot: QtBot, tmp_path: Path) -> None:
    with sqlite3.connect(tmp_path / "s.db") as base:
        base.execute("CREATE TABLE huts(id INTEGER PRIMARY KEY, name TEXT, beds INT, raw BLOB)")
        base.executemany("INSERT INTO huts VALUES(?,?,?,?)", [(1, "A", 4, b"x"), (2, "B", 9, b"y")])
    document = opened(tmp_path, "s.db", (tmp_path / "s.db").read_bytes())
    type_cell(document, "huts", 1, "beds", "12")
    rename_field(document, "huts", "name", "called")
    add_record(document, "huts", {"called": "C"})
    document.save()
    with sqlite3.connect(tmp_path / "p" / "s.db") as base:
        rows = base.execute("SELECT id, called, beds, raw FROM huts").fetchall()
    assert rows == [(1, "A", 4, b"x"), (2, "B", 12, b"y"), (3, "C", None, None)]
    assert not [e for e in read_through(document.app, document.records) if e.weight == "breaks"]
    other = tmp_path / "other"
    other.mkdir()
    document = opened(other, "h.csv.gz", gzip.compress(b"id,name\n1,Alp\n2,Bel\n"))
    type_cell(document, "h", 0, "name", "Cap")
    document.save()
    assert gzip.decompress((other / "p" / "h.csv.gz").read_bytes()) == b"id,name\n1,Cap\n2,Bel\n"


def test_what_cannot_be_written_becomes_a_file_of_its_own(qtbot: QtBot, tmp_path: Path) -> None:
    document = opened(tmp_path, "y.yaml", b"- {id: a, name: A}\n- {id: b, name: B}\n")
    type_cell(document, "y", 0, "name", "Ann")
    document.save()
    assert document.app.sources[0].file == "y-2.json"
    assert open_project(tmp_path / "p").records["y"].record(0)["name"] == "Ann"
    # Somebody else's change is not written over.
    document = opened(tmp_path / "p", "h.csv", b"id,name\n1,Alp\n")
    type_cell(document, "h", 0, "name", "Bel")
    (tmp_path / "p" / "p" / "h.csv").write_bytes(b"id,name\n1,Other\n2,More\n")
    with pytest.raises(Exception, match=r"not alike: name of .Bel. is Bel here and Other there"):
        document.save()


def test_a_renamed_field_is_bound_by_its_new_name_everywhere(qtbot: QtBot) -> None:
    from test_project_file import DEMO

    document = Document()
    document.open(DEMO / "cresta")
    for source, records in document.records.items():
        for name in records.types:
            if name != document.records[source].source.key:
                rename_field(document, source, name, f"{name}_again")
    text = msgspec.json.encode(document.app.screens).decode()
    assert "_again" in text
    assert [
        e.code for e in read_through(document.app, document.records) if e.weight == "breaks"
    ] == []


def test_tables_are_pasted_in_any_shape(qtbot: QtBot, tmp_path: Path) -> None:
    document = opened(tmp_path, "h.csv", b"id,name,beds\n1,Alp,4\n2,Bel,9\n")
    failed: list[str] = []
    document.failed.connect(failed.append)
    paste(document, "h", 1, "name", 'Cap\t5\t9\n"Two\nlines"\tmany\nEnd\n')
    records = document.records["h"]
    assert [records.record(at)["name"] for at in range(4)] == ["Alp", "Cap", "Two\nlines", "End"]
    assert [records.record(at)["beds"] for at in range(4)] == [4, 5, None, None]
    assert [records.record(at)["id"] for at in range(4)] == [1, 2, 3, 4]
    assert failed == [
        "2 not taken, of another type or beyond: row 2: 1 cells beyond the last field, "
        'row 3, beds: "many"'
    ]
    paste(document, "h", 0, "id", "beds\tname\n7\tHead\n")
    assert document.records["h"].record(4) == {"id": 5, "name": "Head", "beds": 7}
    paste(document, "h", 0, "name", "")
    assert failed[-1].startswith("what is pasted: it is empty")


def test_what_was_typed_outlives_a_crash(qtbot: QtBot, tmp_path: Path) -> None:
    document = opened(tmp_path, "h.csv", b"id,name\n1,Alp\n2,Bel\n")
    type_cell(document, "h", 0, "name", "Kept")
    document.unsaved.keep()
    rescue = document.disk.rescue
    assert rescue is not None
    assert rescue._lock is not None
    # The window is gone, and what it kept is there.
    rescue._lock.close()
    again = Document()
    again.open(tmp_path / "p")
    assert again.records["h"].record(0)["name"] == "Kept"
    again.undo()
    assert again.records["h"].record(0)["name"] == "Alp"
    again.redo()
    again.save()
    assert (tmp_path / "p" / "h.csv").read_text() == "id,name\n1,Kept\n2,Bel\n"


@pytest.mark.long
def test_records_are_made_up_by_kind_and_seed_and_a_million_are_no_trouble() -> None:
    fields = tuple(Field(name=kind, type=type_) for kind, type_ in TYPES.items())
    kinds = {kind: kind for kind in TYPES}
    made = {
        count: made_up_records(
            Source(id="huts", key="id", fields=fields, made_up=MadeUp(count=count, kinds=kinds)), {}
        ).frame
        for count in (0, 5, 1_000_000)
    }
    assert made[0].height == 0
    assert made[1_000_000].height == 1_000_000
    assert made[5].equals(made[1_000_000].head(5))


def test_made_up_records_are_grown_kept_and_exchanged_for_a_file(
    qtbot: QtBot, tmp_path: Path
) -> None:
    code, _ = call("new", "--to", str(tmp_path / "p"), "--closed")
    assert code == 0
    document = Document()
    document.open(tmp_path / "p")
    begin_with(document, "huts")
    begin_with(document, "rooms")
    source = document.app.sources[0]
    add_field(document, "huts")
    rename_field(document, "huts", "field", "guest")
    type_cell(document, "huts", 1, "guest", "by hand")
    add_field(document, "rooms")
    make_up_field(document, document.app.sources[1], "field", "a key of huts")
    make_up_anew(document, document.app.sources[0], count=40)
    huts = document.records["huts"]
    assert (len(huts), huts.record(1)["guest"], huts.record(39)["name"]) == (
        40,
        "by hand",
        "Hut 40",
    )
    make_up_field(document, document.app.sources[0], "guest", "a picture")
    assert (tmp_path / "p" / "made-up-1.png").read_bytes()[:4] == b"\x89PNG"
    assert document.records["huts"].types["guest"] == "picture"
    make_up_field(document, document.app.sources[0], "guest", "a person")
    document.save()
    assert open_project(tmp_path / "p").records["huts"].record(39)["name"] == "Hut 40"
    assert set(document.records["rooms"].frame["field"]) <= set(range(1, 41))
    rows = [
        {"code": "x1", "title": "Real", "guest": "Ann"},
        {"code": "x0", "title": "Two", "guest": "B"},
    ]
    (tmp_path / "real.json").write_text(json.dumps(rows))
    (made,) = adopt(tmp_path / "p", tmp_path / "real.json", ("huts", "rooms"))
    exchange(document, source.id, made)
    huts = document.records["huts"]
    assert (huts.source.key, huts.source.title, huts.record(0)["title"]) == ("code", "Huts", "Real")
    assert "{title}" in msgspec.json.encode(document.app.screens).decode()
    assert not [e for e in read_through(document.app, document.records) if e.weight == "breaks"]
    document.undo()
    assert len(document.records["huts"]) == 40


def test_in_the_window_records_are_typed_pasted_and_removed_by_keys(
    qtbot: QtBot, tmp_path: Path
) -> None:
    from cadena.desktop.stages.gather.stage import GatherStage

    document = opened(tmp_path, "h.csv", b"id,name,beds\n1,Alp,4\n2,Bel,9\n")
    document.show_stage("Gather")
    stage = GatherStage(document)
    qtbot.addWidget(stage)
    stage.resize(900, 600)
    stage.show()
    table = stage.picture
    table.setFocus()
    table.setCurrentIndex(table.model().index(1, 1))
    qtbot.keyClick(table, Qt.Key.Key_F2)
    editor = table.findChild(QLineEdit)
    assert editor.text() == "Bel"
    editor.setText("Cap")
    qtbot.keyClick(editor, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: document.records["h"].record(1)["name"] == "Cap", timeout=2000)
    assert (table.currentIndex().row(), table.currentIndex().column()) == (1, 1)
    qtbot.keyClick(table, Qt.Key.Key_Delete)
    assert document.records["h"].record(1)["name"] is None
    QGuiApplication.clipboard().setText("Dot\t3")
    qtbot.keyClick(table, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    assert document.records["h"].record(1) == {"id": 2, "name": "Dot", "beds": 3}
    qtbot.keyClick(table, Qt.Key.Key_Delete, Qt.KeyboardModifier.ControlModifier)
    assert len(document.records["h"]) == 1
    assert pl.Series(["Alp"]).equals(document.records["h"].frame["name"])
