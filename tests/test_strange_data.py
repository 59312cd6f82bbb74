"""Data as it is met: whatever it is, a project of it opens, and what is left out is said."""

from __future__ import annotations

import json
import sqlite3
import time
from contextlib import closing
from pathlib import Path
from typing import Any

import polars as pl
import pytest

from cadena.check.check import check
from cadena.desktop.document.document import Document
from cadena.desktop.document.making_up import exchange
from cadena.desktop.document.typing import paste, remove_records, type_cell
from cadena.model.app import DetailScreen, ListScreen
from cadena.model.blocks import FactsBlock, PictureBlock
from cadena.model.edits.shown_fields import shown_nowhere, with_fields_shown
from cadena.model.problem import Problem
from cadena.sources.import_file import adopt
from cadena.sources.open_project import Project, open_project
from cadena.sources.read_columns import _emptied
from cadena.sources.scaffold import decided, new_project

TREES = [
    "Alder",
    "Birch",
    "Cedar",
    "Damson",
    "Elm",
    "Fir",
    "Gorse",
    "Hazel",
    "Ilex",
    "Juniper",
    "Larch",
    "Maple",
]


class Made:
    """A project made of a file, opened again."""

    def __init__(self, tmp_path: Path, name: str, content: str | bytes | Any) -> None:
        file = tmp_path / "data" / name
        file.parent.mkdir(parents=True, exist_ok=True)
        if isinstance(content, str | bytes):
            file.write_bytes(content.encode() if isinstance(content, str) else content)
        elif callable(content):
            content(file)
        else:
            file.write_text(json.dumps(content))
        self.folder = tmp_path / "made"
        app, made = new_project(self.folder, [file])
        self.said = list(decided(app, made))
        self.opened: Project = open_project(self.folder)
        self.app = self.opened.app

    @property
    def sources(self) -> list[str]:
        return [source.id for source in self.app.sources]

    def types(self, source: str) -> dict[str, str]:
        return dict(self.opened.records[source].types)

    def records(self, source: str) -> list[dict[str, Any]]:
        records = self.opened.records[source]
        return [records.record(row) for row in range(len(records))]

    def detail(self, source: str) -> DetailScreen:
        found = (e for e in self.app.screens if isinstance(e, DetailScreen) and e.source == source)
        return next(found)

    def holds(self) -> bool:
        """Whether a check finds nothing that breaks it."""
        found = check(self.app, self.opened.records, self.opened.look)
        return not [finding for finding in found if finding.weight == "breaks"]


def rows(*columns: str, start: int = 0) -> list[dict[str, Any]]:
    """Trees, with whatever columns are asked for beside id and name."""
    return [
        {"id": start + n, "name": tree, **dict.fromkeys(columns, n * 7 % 5)}
        for n, tree in enumerate(TREES)
    ]


def test_a_long_address_of_a_picture_is_a_picture_alone(tmp_path: Path) -> None:
    address = "https://pictures.example.org/archive/of/very/long/addresses/without/end"
    made = Made(
        tmp_path, "trees.json", [{**e, "photo": f"{address}/{e['id']}.jpg"} for e in rows()]
    )
    blocks = made.detail("trees").blocks
    assert [type(block) for block in blocks if block.id != "heading"] == [PictureBlock]
    assert made.holds()


def test_what_is_called_as_a_block_is_another_block(tmp_path: Path) -> None:
    long = "words " * 30
    made = Made(tmp_path, "t.json", [{**e, "heading": long, "facts": long} for e in rows("n")])
    blocks = made.detail("t").blocks
    assert len({block.id for block in blocks}) == len(blocks) == 4


def test_what_cannot_be_opened_is_not_said_to_be_made(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def refused(_: Path) -> None:
        raise Problem("x.cadena", "", "it is wrong", "nothing")

    monkeypatch.setattr("cadena.sources.scaffold.read_app", refused)
    with pytest.raises(Problem):
        Made(tmp_path, "t.json", rows())
    assert not (tmp_path / "made").exists()


def test_a_detail_shows_all_that_is_filled_somewhere(tmp_path: Path) -> None:
    columns = [f"part{n}" for n in range(14)]
    data = [{**e, "void": "", "seldom": 3 if e["id"] == 4 else None} for e in rows(*columns)]
    made = Made(tmp_path, "t.json", data)
    (facts,) = (b for b in made.detail("t").blocks if isinstance(b, FactsBlock))
    assert facts.fields == (*columns, "seldom")
    assert not check(made.app, made.opened.records)


def test_a_name_that_is_mostly_empty_names_nothing(tmp_path: Path) -> None:
    data = [{"id": n, "name": "x" if n == 2 else "", "title": e} for n, e in enumerate(TREES)]
    made = Made(tmp_path, "t.json", data)
    assert made.app.sources[0].label == "title"


@pytest.mark.parametrize(
    ("name", "title"),
    [
        ("iso-3166-1.csv", "Iso 3166-1"),
        ("tidyTrees.csv", "Tidy trees"),
        ("EU_ports.csv", "EU ports"),
    ],
)
def test_lists_are_called_by_what_a_person_says(tmp_path: Path, name: str, title: str) -> None:
    made = Made(tmp_path, name, "code,tree\n" + "".join(f"{e[:3]},{e}\n" for e in TREES))
    assert made.app.sources[0].title == title


# JSON


def test_records_by_name_may_lack_fields(tmp_path: Path) -> None:
    data = {
        f"st-{n}": {"title": tree} | ({"opened": 1900 + n} if n % 2 else {"note": "x", "lines": n})
        for n, tree in enumerate(TREES)
    }
    made = Made(tmp_path, "stations.json", data)
    assert made.sources == ["stations"]
    assert made.records("stations")[1] == {
        **{"key": "st-1", "title": "Birch", "note": None, "lines": None, "opened": 1901}
    }


@pytest.mark.parametrize("value", ["a town", 7, ["a", "b"]])
def test_plain_values_by_name_are_records(tmp_path: Path, value: Any) -> None:
    made = Made(tmp_path, "towns.json", {tree.lower(): value for tree in TREES})
    held = tuple(value) if isinstance(value, list) else value
    assert made.records("towns")[0] == {"key": "alder", "value": held}
    assert made.holds()


def test_many_lists_that_are_alike_are_one_source(tmp_path: Path) -> None:
    data = {tree[0]: [{"word": tree, "n": n}] for n, tree in enumerate(TREES)}
    made = Made(tmp_path, "words.json", data)
    assert made.sources == ["words"]
    assert made.records("words")[2] == {"group": "C", "word": "Cedar", "n": 2}


def test_lists_of_other_things_are_sources_called_by_their_names(tmp_path: Path) -> None:
    berths = [{"id": n, "label": f"B{n}", "boat_id": n} for n in range(9)]
    made = Made(tmp_path, "yard.json", {"data": {"boats": rows(), "berths": berths}, "meta": {}})
    assert made.sources == ["boats", "berths"]
    assert [each.title for each in made.app.sources] == ["Boats", "Berths"]


def test_a_name_of_one_letter_says_nothing_by_itself(tmp_path: Path) -> None:
    made = Made(tmp_path, "yard.json", {"a": rows(), "b": rows("n")})
    assert [each.title for each in made.app.sources] == ["Yard a", "Yard b"]


def test_numbers_in_quotes_are_numbers_and_stay_in_quotes(tmp_path: Path) -> None:
    data = [{"id": f"{n}", "tree": tree, "height": str(n * 100)} for n, tree in enumerate(TREES)]
    made = Made(tmp_path, "trees.json", data)
    assert made.types("trees")["height"] == "whole number"
    document = Document()
    document.open(made.folder)
    type_cell(document, "trees", 1, "height", "150")
    document.save()
    saved = json.loads((made.folder / "trees.json").read_text())
    assert [each["height"] for each in saved[:3]] == ["0", "150", "200"]


def test_codes_in_quotes_stay_text(tmp_path: Path) -> None:
    made = Made(tmp_path, "t.json", [{"id": n, "zip": f"0{n:04}"} for n in range(20)])
    assert made.types("t")["zip"] == "text"


def test_an_empty_text_among_numbers_is_nothing(tmp_path: Path) -> None:
    data = [{**e, "depth": "" if e["id"] == 3 else e["id"] * 2} for e in rows()]
    made = Made(tmp_path, "t.json", data)
    assert made.types("t")["depth"] == "whole number"
    assert made.records("t")[3]["depth"] is None
    assert not made.opened.records["t"].faults


@pytest.mark.parametrize(("kind", "key", "field"), [("model", "pk", "fields"),
                                                    ("type", "id", "attributes")])  # fmt: skip
def test_records_that_say_of_what_kind_they_are(
    tmp_path: Path, kind: str, key: str, field: str
) -> None:
    boats = [{kind: "yard.boat", key: n, field: {"name": e}} for n, e in enumerate(TREES)]
    berths = [{kind: "yard.berth", key: n, field: {"boat": n, "no": f"B{n}"}} for n in range(9)]
    made = Made(tmp_path, "dump.json", [*boats, *berths])
    assert made.sources == ["boat", "berth"]
    assert made.records("berth")[2] == {"boat": 2, "no": "B2", key: 2}
    refers = {each.name: each.refers for each in made.app.sources[1].fields}
    assert refers["boat"] is not None
    assert made.holds()


def test_lists_of_records_in_parquet_belong_to_theirs(tmp_path: Path) -> None:
    data = [{**e, "parts": [{"part": f"p{n}", "n": n} for n in range(e["id"] % 3)]} for e in rows()]
    made = Made(tmp_path, "boats.parquet", lambda file: pl.DataFrame(data).write_parquet(file))
    assert made.sources == ["boats", "parts"]
    assert made.records("parts")[:2] == [
        {"part": "p0", "n": 0, "boat_id": 1, "key": "p0-1"},
        {"part": "p0", "n": 0, "boat_id": 2, "key": "p0-2"},
    ]


# CSV and sheets


def test_titles_above_a_head_that_are_padded_are_no_records(tmp_path: Path) -> None:
    text = "Table 3: trees,,,\nMade by nobody,,,\n,,,\nname,height,year,code\n"
    text += "".join(f"{tree},{n},{1900 + n},T{n}\n" for n, tree in enumerate(TREES))
    made = Made(tmp_path, "t.csv", text)
    assert list(made.types("t")) == ["name", "height", "year", "code"]
    assert len(made.records("t")) == len(TREES)


def test_sparse_rows_are_no_titles(tmp_path: Path) -> None:
    text = "name,height,year,code\n,,,x\n,,,y\n" + "".join(f"{e},1,2,3\n" for e in TREES)
    assert len(Made(tmp_path, "t.csv", text).records("t")) == len(TREES) + 2


def test_blanks_before_quotes_are_no_part_of_a_value(tmp_path: Path) -> None:
    text = "name, remark, height\n" + "".join(f'{e}, "tall, and green", {n}\n'
                                                for n, e in enumerate(TREES))  # fmt: skip
    made = Made(tmp_path, "t.csv", text)
    assert made.records("t")[2] == {"name": "Cedar", "remark": "tall, and green", "height": 2}
    document = Document()
    document.open(made.folder)
    type_cell(document, "t", 1, "height", "11")
    document.save()
    saved = (made.folder / "t.csv").read_text().splitlines()
    assert saved[1:4] == [
        'Alder, "tall, and green", 0',
        'Birch,"tall, and green",11',
        'Cedar, "tall, and green", 2',
    ]


@pytest.mark.parametrize(
    ("pair", "written"),
    [(("TRUE", "FALSE"), "TRUE/FALSE"), (("yes", "no"), "yes/no"), (("Y", "N"), "Y/N"),
     (("1", "0"), "1/0"), (("True", "True"), "True/False"), (("On", "Off"), "On/Off")],
)  # fmt: skip
def test_yes_and_no_in_whatever_words_where_that_is_all(
    tmp_path: Path, pair: tuple[str, str], written: str
) -> None:
    text = "id,name,kept\n" + "".join(f"{n},{e},{pair[n % 2]}\n" for n, e in enumerate(TREES))
    made = Made(tmp_path, "t.csv", text)
    assert made.types("t")["kept"] == "yes/no"
    assert made.records("t")[0]["kept"] is True
    assert f"  kept is read as yes/no, written {written}" in made.said
    document = Document()
    document.open(made.folder)
    type_cell(document, "t", 0, "kept", "no")
    document.save()
    assert (made.folder / "t.csv").read_text().splitlines()[1] == f"0,Alder,{written.split('/')[1]}"


@pytest.mark.parametrize("values", ["Y,N,maybe", "1,0,2", "y,y,y"])
def test_what_is_more_than_yes_and_no_is_something_else(tmp_path: Path, values: str) -> None:
    some = values.split(",")
    text = "id,name,kept\n" + "".join(f"{n},{e},{some[n % 3]}\n" for n, e in enumerate(TREES))
    assert Made(tmp_path, "t.csv", text).types("t")["kept"] != "yes/no"


def test_what_is_counted_is_no_yes_and_no(tmp_path: Path) -> None:
    text = "id,name,count\n" + "".join(f"{n},{e},{n % 2}\n" for n, e in enumerate(TREES))
    assert Made(tmp_path, "t.csv", text).types("t")["count"] == "whole number"


def test_a_cell_of_another_kind_costs_itself_alone() -> None:
    table: list[list[Any]] = [[n, float(n)] for n in range(30)]
    table[4][1] = "about ten"
    fault = _emptied(table, 1, "height")
    assert str(fault) == "1 value of height left empty, no number (record 5: 'about ten')"
    assert table[4] == [4, ""]
    mixed: list[list[Any]] = [[n if n % 2 else "x"] for n in range(30)]
    assert _emptied(mixed, 0, "either") is None


# Databases


def of_tables(*statements: str) -> Any:
    def write(file: Path) -> None:
        with closing(sqlite3.connect(file)) as base:
            for statement in statements:
                base.execute(statement)
            base.commit()

    return write


def test_virtual_tables_are_left_out_by_name_and_the_rest_is_read(tmp_path: Path) -> None:
    made = Made(
        tmp_path,
        "books.db",
        of_tables(
            "CREATE TABLE book(id INTEGER PRIMARY KEY, title TEXT)",
            "INSERT INTO book VALUES (0, 'A'), (1, 'B')",
            "CREATE VIRTUAL TABLE found USING fts5(title)",
        ),
    )
    assert made.sources == ["book"]
    told = [line for line in made.said if "virtual" in line]
    said = "1 table left out: virtual, which only their own program can read (found)"
    assert told == [f"  left out: {said}"]
    assert [each.code for each in check(made.app, made.opened.records)] == ["records-left-out"]


def test_types_are_those_that_are_declared(tmp_path: Path) -> None:
    values = ", ".join(f"({n}, 1, {n}, '2026-01-{n + 1:02}')" for n in range(12))
    made = Made(
        tmp_path,
        "s.db",
        of_tables(
            "CREATE TABLE sale(id INT PRIMARY KEY, paid BOOLEAN, price DECIMAL(8, 2), day DATE)",
            f"INSERT INTO sale VALUES {values}",
        ),
    )
    assert list(made.types("sale").values()) == ["whole number", "yes/no", "number", "date"]
    document = Document()
    document.open(made.folder)
    type_cell(document, "sale", 3, "paid", "no")
    type_cell(document, "sale", 3, "price", "5.25")
    document.save()
    with closing(sqlite3.connect(made.folder / "s.db")) as base:
        assert base.execute("SELECT paid, price FROM sale WHERE id = 3").fetchone() == (0, 5.25)


def test_tables_without_foreign_keys_are_tied_by_natural_codes(tmp_path: Path) -> None:
    ports = ", ".join(f"('{tree[:3].upper()}', '{tree} port')" for tree in TREES)
    sails = ", ".join(f"('F{n}', '{TREES[n % 12][:3].upper()}', {n})" for n in range(60))
    made = Made(
        tmp_path,
        "n.db",
        of_tables(
            "CREATE TABLE port(code TEXT, name TEXT)",
            f"INSERT INTO port VALUES {ports}",
            "CREATE TABLE sailing(number TEXT, from_code TEXT, seats INT)",
            f"INSERT INTO sailing VALUES {sails}",
        ),
    )
    refers = {e.name: e.refers.to for e in made.app.sources[1].fields if e.refers is not None}
    assert refers == {"from_code": "port"}


# Bounds


@pytest.mark.long
def test_very_many_fields_take_no_time_without_end(tmp_path: Path) -> None:
    data = [{f"numberOf{n}Words": n * at for n in range(2_000)} for at in range(3)]
    began = time.process_time()
    made = Made(tmp_path, "wide.json", data)
    assert len(made.types("wide")) >= 2_000
    assert time.process_time() - began < 60


# By hand


def test_a_table_pasted_into_a_source_without_records_makes_its_fields(tmp_path: Path) -> None:
    made = Made(tmp_path, "t.json", rows()[:1])
    document = Document()
    document.open(made.folder)
    remove_records(document, "t", [0])
    head = "name\theight\topened\tkept\tbooked on"
    lines = "\n".join(f"{e}\t{n}\t2026-01-{n + 1:02}\tY\t31.12.2025" for n, e in enumerate(TREES))
    text = lines.replace("Alder\t0\t2026-01-01\tY", "Alder\t0\t2026-01-01\tN")
    paste(document, "t", 0, "name", f"{head}\n{text}\n")
    records = document.records["t"]
    assert records.types == {
        **{"id": "whole number", "name": "text", "height": "whole number"},
        **{"opened": "date", "kept": "yes/no", "booked on": "date"},
    }
    assert records.record(0) == {
        **{"id": 1, "name": "Alder", "height": 0, "opened": "2026-01-01"},
        **{"kept": False, "booked on": "2025-12-31"},
    }
    assert shown_nowhere(document.app, document.types, "t") == (
        *("height", "opened", "kept", "booked on"),
    )
    document.save()
    assert open_project(made.folder).records["t"].record(1)["booked on"] == "2025-12-31"


def test_fields_that_no_screen_shows_are_shown_at_once(tmp_path: Path) -> None:
    made = Made(tmp_path, "t.json", rows())
    other = tmp_path / "other.json"
    other.write_text(json.dumps(rows("height", "age")))
    document = Document()
    document.open(made.folder)
    (adopted,) = adopt(made.folder, other, ["t"])
    exchange(document, "t", adopted)
    hidden = shown_nowhere(document.app, document.types, "t")
    assert hidden == ("height", "age")
    app = with_fields_shown(document.app, "t", hidden)
    assert not shown_nowhere(app, document.types, "t")
    assert not check(app, document.records)
    (listing,) = (each for each in app.screens if isinstance(each, ListScreen))
    assert listing.rows.row.subtitle == "{height} · {age}"


@pytest.mark.parametrize(
    ("data", "first", "count"),
    [
        (list(TREES), {"value": "Alder"}, 12),
        ([["code", "n"], *([e[:3], n] for n, e in enumerate(TREES))], {"code": "Ald", "n": 0}, 12),
        (
            [[e[:3], e, n] for n, e in enumerate(TREES)],
            {"column_1": "Ald", "column_2": "Alder", "column_3": 0},
            12,
        ),
        (
            {"tree": list(TREES), "height": list(range(12)), "kept": [n % 2 for n in range(12)]},
            {"tree": "Alder", "height": 0, "kept": False},
            12,
        ),
        ({"locale": "en", "trees": {e[:3]: [e, "x"] if e == "Elm" else e for e in TREES}},
         {"key": "Ald", "value": ("Alder",)}, 12),
        ({e: {"n": n} if n != 3 else {} for n, e in enumerate(TREES)}, None, 12),
    ],
)  # fmt: skip
def test_plain_values_in_whatever_shape_are_records(
    tmp_path: Path, data: Any, first: dict[str, Any] | None, count: int
) -> None:
    made = Made(tmp_path, "t.json", data)
    (source,) = made.sources
    found = made.records(source)
    assert len(found) == count
    if first is not None:
        assert {name: found[0][name] for name in first} == first
    assert made.holds()


def test_what_is_only_read_becomes_a_file_of_its_own_once_something_is_typed(
    tmp_path: Path,
) -> None:
    made = Made(tmp_path, "towns.json", {tree.lower(): f"{tree} town" for tree in TREES})
    before = (made.folder / "towns.json").read_bytes()
    document = Document()
    document.open(made.folder)
    type_cell(document, "towns", 1, "value", "New town")
    document.save()
    assert (made.folder / "towns.json").read_bytes() == before
    again = open_project(made.folder)
    assert again.app.sources[0].file != "towns.json"
    assert again.records["towns"].record(1)["value"] == "New town"


@pytest.mark.parametrize(
    "data",
    [
        {"meta": {"made": "now"}, "data": {"boats": rows("n"), "berths": rows("m", "k")}},
        {"a": {"b": {"c/d~e": rows()}}},
        {"x": {"one": {"id": 1}, "two": {"id": 2}, "three": {"id": 3}}},
        [{**each, "parts": [{"p": n} for n in range(each["id"] % 3)]} for each in rows()],
        {"empty": [], "few": [{"id": 1}], "other": rows(), "rest": [1, 2]},
    ],
)
def test_much_json_is_read_a_record_at_a_time_and_comes_to_the_same(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, data: Any
) -> None:
    whole = Made(tmp_path / "whole", "t.json", data)
    for module in ("data_file", "read_json"):
        monkeypatch.setattr(f"cadena.sources.{module}.EXACT", 10)
    apart = Made(tmp_path / "apart", "t.json", data)
    assert apart.app == whole.app
    for source in whole.sources:
        assert apart.records(source) == whole.records(source)
    assert apart.said == whole.said


def test_arrays_that_are_no_records_are_said_to_be_left_out(tmp_path: Path) -> None:
    unlike = [{"a": 1}, {"b": 2}, {"c": 3}, {"d": 4}]
    made = Made(tmp_path, "t.json", {"boats": rows(), "notes": unlike})
    assert made.sources == ["boats"]
    said = "1 array left out, of records that are not alike (/notes)"
    assert f"  left out: {said}" in made.said
