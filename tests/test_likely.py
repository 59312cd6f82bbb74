"""What Cadena guesses of data that nobody has described: keys, labels, references."""

from __future__ import annotations

import sqlite3
from pathlib import Path
from typing import Any

import polars as pl
import pytest
from msgspec.structs import replace

from builders import Run, records_of
from cadena.engine import events as do
from cadena.engine.step import start
from cadena.engine.wired import WiredApp
from cadena.model.problem import Problem
from cadena.model.source import Csv, Source
from cadena.records.reading import Reading
from cadena.scene.lay_out import lay_out
from cadena.sources.find_references import references
from cadena.sources.import_file import adopt, chosen
from cadena.sources.likely_keys import likely_key
from cadena.sources.likely_labels import likely_labels
from cadena.sources.open_project import open_project
from cadena.sources.read_file import read_records, typed
from test_cli import call


def key_of(rows: list[dict[str, Any]], name: str = "huts") -> tuple[str, ...]:
    frame = pl.DataFrame(rows)
    return likely_key(typed(Source(id=name, key=frame.columns[0]), frame)).fields


def label_of(rows: list[dict[str, Any]], name: str = "huts") -> str:
    key = next(iter(rows[0]))
    found = likely_labels(records_of(name, rows, key), key=(key,))
    return found[0].field if found else ""


@pytest.mark.parametrize(
    ("rows", "key"),
    [
        ([{"name": "a", "id": 1}, {"name": "b", "id": 2}], ("id",)),
        ([{"hut_id": 7, "beds": 1}, {"hut_id": 9, "beds": 2}], ("hut_id",)),
        ([{"name": "a", "hutCode": "x"}, {"name": "b", "hutCode": "y"}], ("hutCode",)),
        # What is measured is different everywhere, and tells nobody which is which.
        ([{"price": 1.5, "name": "a"}, {"price": 2.5, "name": "b"}], ("name",)),
        ([{"altitude": 1801, "name": "a"}, {"altitude": 1950, "name": "b"}], ("name",)),
        # One that others share, or that is empty somewhere, is never the key.
        ([{"id": 1, "name": "a"}, {"id": 1, "name": "b"}], ("name",)),
        ([{"id": None, "name": "a"}, {"id": 1, "name": "b"}], ("name",)),
        (
            [
                {"film_id": 1, "actor_id": 1},
                {"film_id": 1, "actor_id": 2},
                {"film_id": 2, "actor_id": 1},
            ],
            ("film_id", "actor_id"),
        ),
        (
            [{"hut": h, "day": d, "free": 3} for h in "ab" for d in ("2026-01-01", "2026-01-02")],
            ("hut", "day"),
        ),
        ([{"beds": 2, "price": 1.5}, {"beds": 2, "price": 1.5}], ()),
        ([{"column": 0, "price": 1.5}, {"column": 1, "price": 1.5}], ("column",)),
    ],
)
def test_the_likely_key(rows: list[dict[str, Any]], key: tuple[str, ...]) -> None:
    assert key_of(rows) == key


def test_the_number_of_the_row_is_the_key_where_nothing_tells_records_apart() -> None:
    frame = pl.DataFrame({"beds": [2, 2, 3], "row": ["x", "x", "x"]})
    made = chosen(Source(id="beds", key=""), Reading(frame))
    assert (made.source.key, made.source.numbered) == ("row-2", True)
    assert made.records.keys.to_list() == [1, 2, 3]
    again = typed(made.source, Reading(frame))
    assert again.by_key(3) == {"beds": 3, "row": "x", "row-2": 3}


@pytest.mark.parametrize(
    ("rows", "label"),
    [
        ([{"id": n, "opened": "1970-01-01", "hutName": f"Hut {n}"} for n in range(9)], "hutName"),
        (
            [{"id": n, "type": "Feature", "properties.NAME": f"P{n}"} for n in range(9)],
            "properties.NAME",
        ),
        ([{"id": n, "title": f"Film {n}", "description": "long " * 40} for n in range(9)], "title"),
        ([{"id": n, "last_name": f"L{n}", "first_name": "Ann"} for n in range(9)], "last_name"),
        (
            [{"code": f"c{n}", "country": f"Land {n}", "flag_url": f"/f/{n}"} for n in range(9)],
            "country",
        ),
        ([{"id": n, "owner_name": "Me", "hut": f"Hut {n}"} for n in range(9)], "hut"),
        ([{"id": n, "status": "open"} for n in range(9)], "id"),
    ],
)
def test_the_likely_label(rows: list[dict[str, Any]], label: str) -> None:
    assert label_of(rows) == label


def refers(*sources: tuple[str, list[dict[str, Any]]]) -> list[tuple[str, str, str, str]]:
    made = {name: records_of(name, rows, next(iter(rows[0]))) for name, rows in sources}
    return [(each.source, each.field, each.to, each.by) for each in references(made)]


def test_references_go_by_name_and_by_any_field_that_tells_records_apart() -> None:
    countries = [{"id": n, "code": f"C{n}", "name": f"Land {n}"} for n in range(9)]
    cities = [{"id": n, "country_code": f"C{n % 9}", "size": n % 9} for n in range(30)]
    assert refers(("countries", countries), ("cities", cities)) == [
        ("cities", "country_code", "countries", "code")
    ]


def test_a_manager_is_a_record_of_the_same_source() -> None:
    staff = [{"id": n, "name": f"P{n}", "manager_id": n // 3 or None} for n in range(12)]
    assert refers(("staff", staff)) == [("staff", "manager_id", "staff", "")]


def test_a_field_named_as_the_key_of_another_refers_to_it() -> None:
    films = [{"film_id": n, "title": f"F{n}"} for n in range(8)]
    cast = [{"row": n, "film_id": n % 8, "hours": n % 8} for n in range(20)]
    assert refers(("films", films), ("cast", cast)) == [("cast", "film_id", "films", "")]


def test_a_key_may_be_that_of_another_where_it_is_named_so() -> None:
    books = [{"key": f"b{n}", "title": f"T{n}"} for n in range(4)]
    loans = [{"book": f"b{n}", "reader": "Ann"} for n in (1, 3)]
    assert refers(("books", books), ("loans", loans)) == [("loans", "book", "books", "")]


def test_a_record_of_the_same_key_refers_one_way() -> None:
    films = [{"film_id": n, "title": f"F{n}"} for n in range(8)]
    told = [{"film_id": n, "told": f"Long {n}"} for n in range(8)]
    found = refers(("films", films), ("film_texts", told))
    assert found == [("film_texts", "film_id", "films", "")]


def test_digits_that_happen_to_be_keys_refer_to_nothing() -> None:
    huts = [{"id": str(n), "name": f"H{n}"} for n in range(9)]
    legs = [{"leg": f"l{n}", "stars": str(n % 5), "climb": n} for n in range(20)]
    assert refers(("huts", huts), ("legs", legs)) == []


def test_a_database_says_its_keys_and_what_they_refer_to(tmp_path: Path) -> None:
    file = tmp_path / "shop.sqlite"
    with sqlite3.connect(file) as made:
        made.executescript(
            """
            create table maker (nr integer primary key, name text);
            create table tool (name text, serial text primary key, made_by integer
              references maker (nr));
            create table held (tool text, place text, primary key (place, tool));
            insert into maker values (10, 'Ash'), (20, 'Elm');
            insert into tool values ('Saw', 's1', 10), ('Axe', 's2', 20), ('Axe', 's3', 10);
            insert into held values ('s1', 'bench'), ('s1', 'wall'), ('s2', 'wall');
            """
        )
    made.close()
    (tmp_path / "project").mkdir()
    found = {each.source.id: each for each in adopt(tmp_path / "project", file, ())}
    assert {name: each.source.key for name, each in found.items()} == {
        "maker": "nr",
        "tool": "serial",
        "held": "key",
    }
    assert found["held"].source.key_from == ("place", "tool")
    records = {name: each.records for name, each in found.items()}
    assert ("tool", "made_by", "maker", "") in [
        (each.source, each.field, each.to, each.by) for each in references(records)
    ]


def test_a_person_says_otherwise() -> None:
    frame = pl.DataFrame({"id": [1, 2], "name": ["a", "b"], "short": ["x", "y"]})
    made = chosen(Source(id="huts", key=""), Reading(frame), key=("name",), label="short")
    assert (made.source.key, made.source.label) == ("name", "short")
    with pytest.raises(Problem, match="there is no field nobody"):
        chosen(Source(id="huts", key=""), Reading(frame), key=("nobody",))


def test_new_says_what_it_decided_and_takes_corrections(tmp_path: Path) -> None:
    (tmp_path / "huts.csv").write_text("id,hutName,beds\na,Fonda,4\nb,Alpe,9\n")
    (tmp_path / "rooms.csv").write_text("nr,hut,name\n1,a,Attic\n2,b,Attic\n3,a,Loft\n")
    files = [str(tmp_path / name) for name in ("huts.csv", "rooms.csv")]
    code, said = call(
        "new", *files, "--to", str(tmp_path / "mine"), "--closed", "--label", "rooms=nr"
    )
    assert code == 0
    assert 'called by hutName (called "name", 100% different)' in said
    assert "key nr (filled, different in each record, and named as a key)" in said
    assert "called by nr (you said so)" in said
    assert "hut refers to huts" in said
    app = open_project(tmp_path / "mine").app
    rooms = next(each for each in app.screens if each.id == "hut").blocks[-1]
    assert rooms.rows.row.title == "{nr}"
    code, said = call("check", str(tmp_path / "mine"))
    assert "breaks" not in said


def test_a_wish_for_what_is_not_there_leaves_nothing(tmp_path: Path) -> None:
    (tmp_path / "huts.csv").write_text("id,name\na,Fonda\n")
    for option in (
        ["--key", "nobody=id"],
        ["--key", "huts=nobody"],
        ["--only", "x"],
        ["--label", "huts"],
    ):
        to = tmp_path / "mine"
        code, _ = call("new", str(tmp_path / "huts.csv"), "--to", str(to), "--closed", *option)
        assert code == 2
        assert not to.exists()


def test_a_row_says_words_before_measures_and_no_places(tmp_path: Path) -> None:
    head = "id,name,lat,lon,beds,valley,opened"
    rows = [f"{n},Hut {n},46.{n},9.{n},{n % 3},Valley {n % 2},2026-0{n + 1}-01" for n in range(5)]
    (tmp_path / "huts.csv").write_text("\n".join([head, *rows]))
    call("new", str(tmp_path / "huts.csv"), "--to", str(tmp_path / "mine"), "--closed")
    app = open_project(tmp_path / "mine").app
    row = app.screens[0].rows.row
    assert (row.title, row.subtitle) == ("{name}", "{valley} · {opened}")


def test_a_project_is_made_without_any_data(tmp_path: Path) -> None:
    code, said = call("new", "--to", str(tmp_path / "mine"), "--name", "Mine", "--closed")
    assert (code, said.split(" in ")[0]) == (0, "Mine: 0 screens, 0 links")
    assert call("check", str(tmp_path / "mine"))[0] == 0


def test_an_object_of_records_has_its_names_for_keys(tmp_path: Path) -> None:
    text = '{"fonda": {"beds": 4, "rooms": [{"n": 1}]}, "alpe": {"beds": 9, "key": "x"}}'
    (tmp_path / "huts.geojson").write_text(text)
    made, rooms = adopt(tmp_path, tmp_path / "huts.geojson", ())
    assert rooms.records.frame.rows() == [(1, "fonda")]
    assert made.source.key == "key-2"
    assert made.records.keys.to_list() == ["fonda", "alpe"]
    assert (made.records.by_key("alpe") or {})["beds"] == 9


def test_objects_that_are_not_alike_are_no_records(tmp_path: Path) -> None:
    (tmp_path / "a.json").write_text('{"info": {"by": "me"}, "page": {"next": 2}}')
    with pytest.raises(Problem, match="it holds an object"):
        adopt(tmp_path, tmp_path / "a.json", ())


def test_words_for_nothing_among_numbers_are_read_as_empty_and_that_is_said(
    tmp_path: Path,
) -> None:
    text = "id,beds,name,opened\na,4,NA,2026-01-02\nb,NA,Loft,-\nc,7,Attic,2026-03-04\n"
    (tmp_path / "rooms.csv").write_text(text)
    code, said = call("new", str(tmp_path / "rooms.csv"), "--to", str(tmp_path / "m"), "--closed")
    assert code == 0
    assert "2 values written NA, - are read as empty" in said
    project = open_project(tmp_path / "m")
    rooms = project.records["rooms"]
    assert (rooms.types["beds"], rooms.types["opened"]) == ("whole number", "date")
    assert rooms.by_key("b") == {"id": "b", "beds": None, "name": "Loft", "opened": None}
    # Among texts NA is a text, such as the code of a country.
    assert (rooms.by_key("a") or {})["name"] == "NA"
    source = replace(project.app.sources[0], csv=Csv(), fields=())
    assert read_records(tmp_path / "m", source).types["beds"] == "text"


def test_a_heading_is_not_said_again_as_a_body(tmp_path: Path) -> None:
    rows = [f"{n},{'A long text that names it ' * 4}{n}" for n in range(3)]
    (tmp_path / "notes.csv").write_text("\n".join(["id,text", *rows]))
    call("new", str(tmp_path / "notes.csv"), "--to", str(tmp_path / "mine"), "--closed")
    detail = open_project(tmp_path / "mine").app.screens[1]
    assert [each.id for each in detail.blocks] == ["heading"]


def test_what_joins_two_things_is_shown_as_the_other(tmp_path: Path) -> None:
    (tmp_path / "films.csv").write_text("id,title\n1,Dusk\n2,Dawn\n")
    (tmp_path / "actors.csv").write_text("id,name\n7,Ann\n8,Ben\n")
    (tmp_path / "roles.csv").write_text("film_id,actor_id\n1,7\n1,8\n2,7\n")
    files = [str(tmp_path / f"{name}.csv") for name in ("films", "actors", "roles")]
    code, _ = call("new", *files, "--to", str(tmp_path / "mine"), "--closed")
    assert code == 0
    app = open_project(tmp_path / "mine").app
    assert [each.id for each in app.sections] == ["films", "actors"]
    film = next(each for each in app.screens if each.id == "film")
    assert film.blocks[-1].rows.row.title == "{actor_id}"
    links = {each.trigger.screen: each.to for each in app.links if each.trigger.part == "roles"}
    assert links == {"film": "actor", "actor": "film"}
    project = open_project(tmp_path / "mine")
    run = Run(project.app)
    run.app = WiredApp(project.app, project.records)
    run.session, run.notes = start(run.app, run.session.window)
    run(do.Choose(screen="films", key=1))
    boxes = lay_out(run.app, run.session, run.session.window).boxes
    assert [box.text for box in boxes if box.kind == "row title"] == ["Ann", "Ben"]
    run(do.Choose(screen="film", list="roles", key="1-8"))
    assert run.chain == ["films", "film", "actor"]
    assert run.arguments == {"actor": 8}
