"""Files of records that two people change: what each did, as a plain model, and what a file of
every kind then holds, written and read here without Cadena."""

from __future__ import annotations

import csv
import gzip
import io
import json
import random
import sqlite3
from collections.abc import Callable
from contextlib import closing
from dataclasses import dataclass, field
from datetime import timedelta
from pathlib import Path
from typing import Any

import polars as pl

from cadena.model.source import Csv, Field, Source

Records = dict[Any, dict[str, Any]]
"""Records by their key: a name, beds, and what no column shows (``more``)."""
WORDS = [
    "Alp",
    "Bel",
    "Cap, Upper",
    'The "Dot"',
    "Éca",
    "Fon; Low",
    "two\nlines",
    "true",
    "07",
    "x y",
]


def some_records(chance: random.Random, count: int) -> Records:
    keys = [*range(count)]
    chance.shuffle(keys)
    return {key: a_record(chance, f"more of {key}") for key in keys}


def a_record(chance: random.Random, more: str | None = None) -> dict[str, Any]:
    beds = chance.choice([None, 0, 1, 7, 40])
    return {"name": chance.choice([*WORDS, None]), "beds": beds, "more": more}


@dataclass(frozen=True)
class Kind:
    """A kind of file: how it is named, written anew, changed as its own program would, and read."""

    name: str
    write: Callable[[Path, Records], None]
    read: Callable[[Path], Records]
    said: dict[str, Any] = field(default_factory=dict)
    has_more: bool = True

    def source(self, name: str) -> Source:
        fields = (
            Field(name="id", type="whole number"),
            Field(name="name"),
            Field(name="beds", type="whole number"),
        )
        said = {"fields": fields, **self.said}
        return Source(id=name, file=f"{name}{self.name}", key="id", **said)


def _filled(key: Any, record: dict[str, Any]) -> dict[str, Any]:
    made = {"id": key, "name": record["name"], "beds": record["beds"]}
    if record["more"] is not None:
        made["more"] = [[record["more"]]]
    return {name: value for name, value in made.items() if value is not None}


def _plain(found: dict[str, Any]) -> tuple[Any, dict[str, Any]]:
    more = found.get("more")
    record = {"name": found.get("name"), "beds": found.get("beds")}
    return found["id"], {**record, "more": None if more is None else more[0][0]}


def _json(indent: int | None, wrap: Callable[[Any], Any], unwrap: Callable[[Any], Any]) -> Any:
    def write(path: Path, records: Records) -> None:
        rows = ["no record", *(_filled(key, each) for key, each in records.items()), {}]
        path.write_text(json.dumps(wrap(rows), indent=indent))

    def read(path: Path) -> Records:
        rows = unwrap(json.loads(path.read_text()))
        assert "no record" in rows
        assert {} in rows
        return dict(_plain(each) for each in rows if isinstance(each, dict) and each)

    return write, read


def _write_map(path: Path, records: Records) -> None:
    rows = {str(key): _filled(key, each) for key, each in records.items()}
    path.write_text(json.dumps({"version": 1.50, "huts": rows}, indent=1))


def _read_map(path: Path) -> Records:
    tree = json.loads(path.read_text())
    assert tree["version"] == 1.5
    return dict(_plain(each) for each in tree["huts"].values())


JUNK = b'not json\n{"id": 99, "name": "\xff bad"'


def _lines(mark: bytes) -> Any:
    def write(path: Path, records: Records) -> None:
        lines = [json.dumps(_filled(key, each)).encode() for key, each in records.items()]
        path.write_bytes(mark + b"\n".join([*lines[:2], JUNK, *lines[2:]]))

    def read(path: Path) -> Records:
        raw = path.read_bytes()
        assert raw.startswith(mark)
        assert JUNK in raw
        lines = raw.removeprefix(mark).replace(JUNK, b"").split(b"\n")
        return dict(_plain(json.loads(each)) for each in lines if each.strip())

    return write, read


def _csv(form: Csv, above: str, odd: str, ending: str) -> Any:
    names = ["id", "name", "beds"]

    def write(path: Path, records: Records) -> None:
        to = io.StringIO(newline="")
        writer = csv.writer(to, delimiter=form.delimiter, lineterminator=ending)
        if form.header:
            writer.writerow(names)
        for at, (key, each) in enumerate(records.items()):
            if at == 1:
                to.write(odd)
            writer.writerow([key, each["name"] or "", "" if each["beds"] is None else each["beds"]])
        raw = (above + to.getvalue()).encode(form.encoding, "replace")
        path.write_bytes(gzip.compress(raw) if path.suffix == ".gz" else raw)

    def read(path: Path) -> Records:
        raw = path.read_bytes()
        text = (gzip.decompress(raw) if path.suffix == ".gz" else raw).decode(form.encoding)
        assert text.startswith(above)
        rows = csv.reader(
            io.StringIO(text.removeprefix(above), newline=""), delimiter=form.delimiter
        )
        good = [row for row in rows if len(row) == 3][1 if form.header else 0 :]
        return {
            int(key): {"name": name or None, "beds": int(beds) if beds else None, "more": None}
            for key, name, beds in good
        }

    return write, read


def _sqlite(table: str, after: str) -> Any:
    blob = "BLOB" in table
    more = ", more" if blob else ""

    def write(path: Path, records: Records) -> None:
        path.unlink(missing_ok=True)
        with closing(sqlite3.connect(path)) as base, base:
            base.execute("CREATE TABLE other(a, b)")
            base.execute("INSERT INTO other VALUES(1, x'00ff')")
            base.execute(table)
            for key, each in records.items():
                values = [key, each["name"], each["beds"]]
                if blob:
                    values.append(None if each["more"] is None else each["more"].encode())
                marks = ",".join("?" * len(values))
                base.execute(f"INSERT INTO h(id, name, beds{more}) VALUES({marks})", values)
            base.executescript(after)

    def read(path: Path) -> Records:
        with closing(sqlite3.connect(path)) as base:
            assert base.execute("SELECT * FROM other").fetchall() == [(1, b"\0\xff")]
            rows = base.execute(f"SELECT id, name, beds{more} FROM h").fetchall()
        return {
            int(key): {
                "name": name,
                "beds": beds,
                "more": left[0].decode() if left and left[0] else None,
            }
            for key, name, beds, *left in rows
        }

    return write, read


def _write_parquet(path: Path, records: Records) -> None:
    rows = [{"id": key, **each} for key, each in records.items()]
    frame = pl.DataFrame(
        {
            "id": pl.Series([each["id"] for each in rows], dtype=pl.Int32),
            "name": pl.Series([each["name"] for each in rows], dtype=pl.Categorical),
            "beds": pl.Series([each["beds"] for each in rows], dtype=pl.Decimal(12, 0)),
            "more": [None if each["more"] is None else each["more"].encode() for each in rows],
            "took": [timedelta(seconds=each["id"]) for each in rows],
        },
        schema_overrides={"more": pl.Binary, "took": pl.Duration("us")},
    )
    frame.write_parquet(path)


def _read_parquet(path: Path) -> Records:
    frame = pl.read_parquet(path)
    assert frame.schema["name"] == pl.Categorical
    assert frame.schema["beds"] == pl.Decimal(12, 0)
    assert frame.schema["took"] == pl.Duration("us")
    return {
        each["id"]: {
            "name": each["name"],
            "beds": None if each["beds"] is None else int(each["beds"]),
            "more": None if each["more"] is None else each["more"].decode(),
        }
        for each in frame.iter_rows(named=True)
    }


PLAIN = _json(None, lambda rows: rows, lambda tree: tree)
LOOSE = _json(3, lambda rows: {"a/b": [{"rows": rows}]}, lambda tree: tree["a/b"][0]["rows"])
SEMI = Csv(delimiter=";", encoding="cp1252", skip=2)
TABLES = [
    ("id INTEGER PRIMARY KEY, name TEXT, beds INT, more BLOB)", ""),
    ("id INT, name TEXT, beds INT, more BLOB)", "CREATE INDEX n ON h(name, id, beds, more)"),
    ("id INT PRIMARY KEY, name TEXT, beds INT) WITHOUT ROWID", ""),
    ("id INT UNIQUE, name TEXT, beds INT, rowid TEXT)", ""),
]
"""Tables as their own programs declare them, and what is done once they are filled."""
KINDS: list[Kind] = [
    Kind(".json", *PLAIN),
    Kind(".json", *LOOSE, {"at": "/a~1b/0/rows"}),
    Kind(".json", _write_map, _read_map, {"at": "/huts"}),
    Kind(".jsonl", *_lines(b"")),
    Kind(".jsonl", *_lines(b"\xef\xbb\xbf")),
    Kind(".csv", *_csv(Csv(), "", "odd\n", "\n"), has_more=False),
    Kind(
        ".csv",
        *_csv(SEMI, "Huts 2026\r\n\r\n", "\r\n", "\r\n"),
        {"csv": SEMI},
        has_more=False,
    ),
    Kind(".csv.gz", *_csv(Csv(), "", "", "\n"), has_more=False),
    *(
        Kind(
            ".db",
            *_sqlite(f"CREATE TABLE h({said}", after),
            {"at": "h"},
            "BLOB" in said,
        )
        for said, after in TABLES
    ),
    Kind(".parquet", _write_parquet, _read_parquet),
]


def changed_by_them(chance: random.Random, kind: Kind, records: Records) -> Records:
    """The records after another program has changed, added, removed and moved some."""
    made = {key: dict(each) for key, each in records.items()}
    for _ in range(chance.randrange(1, 5)):
        keys = list(made)
        act = chance.choice(["cell", "cell", "remove", "add", "move"])
        if act == "add":
            more = "theirs" if kind.has_more else None
            made[chance.randrange(100, 104)] = a_record(chance, more)
        elif keys and act == "remove":
            del made[chance.choice(keys)]
        elif keys and act == "cell":
            name = chance.choice(["name", "beds"])
            made[chance.choice(keys)][name] = a_record(chance)[name]
        elif act == "move":
            chance.shuffle(keys)
            made = {key: made[key] for key in keys}
    return made


def of_both(base: Records, mine: Records, theirs: Records, is_mine: bool) -> tuple[Records, int]:
    """What both have made of some records, and in how many places they are at odds.

    Args:
        is_mine: whose counts there.
    """
    made: Records = {}
    odd = 0
    for key in dict.fromkeys((*theirs, *mine)):
        was, here, there = base.get(key), mine.get(key), theirs.get(key)
        if was is None:
            if here is None or there is None:
                made[key] = dict(here or there or {})
            elif _shown(here) == _shown(there):
                made[key] = dict(there)
            else:
                odd += 1
                made[key] = dict(here if is_mine else there)
        elif here is None or there is None:
            left = here or there
            if left is None or _shown(left) == _shown(was):
                continue
            odd += 1
            if (here is not None) == is_mine:
                made[key] = {**left, "more": None if here is not None else left["more"]}
        else:
            made[key] = dict(there)
            for name in ("name", "beds"):
                if here[name] == was[name] or here[name] == there[name]:
                    continue
                if there[name] != was[name]:
                    odd += 1
                    if not is_mine:
                        continue
                made[key][name] = here[name]
    return made, odd


def _shown(record: dict[str, Any]) -> tuple[Any, Any]:
    return record["name"], record["beds"]
