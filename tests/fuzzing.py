"""Damaged input of every kind, made from a seed: whatever it is, it is taken or said to be none.

Each kind makes one example of a chance and tries it; anything but a ``Problem`` escapes. The
tests try some of each, ``tools/fuzz.py`` as many as are asked for.
"""

from __future__ import annotations

import copy
import gzip
import io
import json
import random
import sqlite3
import tempfile
from collections.abc import Callable
from contextlib import suppress
from functools import lru_cache
from pathlib import Path
from typing import Any

import httpx
import polars as pl
from msgspec.structs import replace

from builders import POCKET, SLATE, small_app
from cadena.check.check import check
from cadena.check.mend import mended
from cadena.engine import events as do
from cadena.engine.session import Session, sized
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.app import Transition
from cadena.model.file.project_file import decode, encode
from cadena.model.problem import Problem
from cadena.model.source import Paging, Service, Source
from cadena.runs.walks.trace import to_line, trace_line
from cadena.runs.walks.walk import read_walk, replay
from cadena.scene.lay_out import lay_out
from cadena.sources.bring_records import bring
from cadena.sources.fetch import Caller
from cadena.sources.import_file import adopt
from cadena.sources.open_project import open_project, read_all
from cadena.sources.openapi import proposals
from cadena.sources.read_file import read_file, typed
from cadena.sources.read_json import columns_of
from cadena.sources.scaffold import new_project
from cadena.sources.table import pasted, table_of, with_cell, without_records
from cadena.sources.write_back import Edited, write_all
from stays import stays, stays_app, stays_records

Tree = Any
STRANGE: list[Any] = [
    None, True, False, 0, -1, 1, 2**31, 2**63, -(2**63), 2**70, 0.5, -0.0, 1e308, 5e-324, "", " ",
    "a" * 300, "é\u202e\u0000", "{", "{name}", "{name}{hut}", "../x", "/etc/passwd", "huts", "hut",
    "h1", "1", "2026-02-30", "list of text", "beside", "modal", [], {}, [[]], [None], [{}],
    {"id": "x"}, "http://[::1", "${CADENA_X}", "\ud83d\ude00", "=1+1", "/{hut", "/a/{hut}",
]  # fmt: skip


PARTS = [b'"', b"\n", b"\r", b"\0", b"\xff\xfe", b",", b";", b"{", b"[", b"=", b"\t"]


def chosen(chance: random.Random, tree: Tree) -> list[tuple[Any, Any]]:
    """Every place in a document: what holds it, and under which key."""
    places: list[tuple[Any, Any]] = []
    open_ = [tree]
    while open_:
        node = open_.pop()
        items = node.items() if isinstance(node, dict) else enumerate(node)
        for key, each in list(items):
            places.append((node, key))
            if isinstance(each, dict | list):
                open_.append(each)
    return places


def damaged_tree(chance: random.Random, tree: Tree, most: int = 4) -> Tree:
    """A document with a few of its places exchanged, removed, doubled or moved."""
    tree = copy.deepcopy(tree)
    for _ in range(chance.randint(1, most)):
        places = chosen(chance, tree)
        if not places:
            break
        holder, key = chance.choice(places)
        other = chance.choice(places)
        match chance.randrange(6):
            case 0:
                holder[key] = copy.deepcopy(chance.choice(STRANGE))
            case 1:
                holder.pop(key)
            case 2:
                holder[key] = copy.deepcopy(other[0][other[1]])
            case 3 if isinstance(holder, list):
                holder.insert(key, copy.deepcopy(holder[key]))
            case 3 | 4 if isinstance(holder, dict):
                holder[str(chance.choice(STRANGE))] = holder.pop(key)
            case _:
                value = holder[key]
                if isinstance(value, str):
                    at = chance.randint(0, len(value))
                    holder[key] = value[:at] + chance.choice(["", "x", "{", '"', "/"]) + value[at:]
                elif isinstance(value, int | float) and not isinstance(value, bool):
                    holder[key] = value * chance.choice([-1, 0, 2, 1e9, 0.1])
                elif isinstance(value, list):
                    chance.shuffle(value)
    return tree


def damaged_bytes(chance: random.Random, raw: bytes, most: int = 5) -> bytes:
    """Bytes with a few of them turned, cut out, doubled or put in."""
    made = bytearray(raw)
    for _ in range(chance.randint(1, most)):
        at = chance.randrange(len(made) + 1)
        to = min(len(made), at + chance.choice([0, 1, 1, 3, 40, 400]))
        match chance.randrange(5):
            case 0:
                made[at:to] = b""
            case 1:
                made[at:at] = made[at:to]
            case 2:
                made[at:at] = bytes(chance.randrange(256) for _ in range(chance.choice([1, 2, 30])))
            case 3:
                parts = [
                    b'"',
                    b"\n",
                    b"\r",
                    b"\0",
                    b"\xff\xfe",
                    b",",
                    b";",
                    b"{",
                    b"[",
                    b"=",
                    b"\t",
                ]
                made[at:at] = chance.choice(parts)
            case _ if at < len(made):
                made[at] ^= 1 << chance.randrange(8)
    return bytes(made)


def damaged_json(chance: random.Random, tree: Tree) -> bytes:
    """A JSON document that is damaged as a document, as bytes, or as both."""
    if chance.random() < 0.75:
        tree = damaged_tree(chance, tree)
    raw = json.dumps(tree, ensure_ascii=chance.random() < 0.5).encode("utf-8", "surrogatepass")
    return damaged_bytes(chance, raw) if chance.random() < 0.35 else raw


@lru_cache
def folder() -> Path:
    """A folder with a small project's data files, made once."""
    made = Path(tempfile.mkdtemp(prefix="cadena-fuzz-"))
    for name, records in stays_records(5).items():
        rows = [records.record(at) for at in range(len(records))]
        (made / f"{name}.json").write_text(json.dumps(rows))
    return made


@lru_cache
def projects() -> tuple[Tree, ...]:
    """Documents of sound projects, with all that a project can hold."""
    app = stays_app()
    links = tuple(replace(each, transition=Transition()) for each in app.links[:1])
    screens = tuple(
        replace(each, address=f"/{each.id}") if each.id in ("huts", "stays") else each
        for each in app.screens
    )
    full = replace(app, links=(*links, *app.links[1:]), screens=screens)
    late = tuple(replace(each, served="stand-in") for each in app.sources)
    return tuple(
        json.loads(encode(each)) for each in (full, replace(full, sources=late), small_app())
    )


SOME: list[do.Event] = [
    do.Choose(key="h1"), do.Choose(key=1), do.Wait(ms=400), do.Press(button="edit"), do.Turn(),
    do.Type(field="guest", to="Ada"), do.Save(), do.Decide(yes=True), do.Back(), do.Kill(),
    do.Restore(), do.Act(key=1, action="change"), do.Search(text="1"), do.GoTo(section="huts"),
    do.Visit(address="/huts"), do.Refresh(source="huts", gone=("h1",)), do.Enter(), do.Relaunch(),
]  # fmt: skip


def a_project(chance: random.Random) -> None:
    """A project is read, checked, mended where that can be, run and laid out."""
    app = decode(damaged_json(chance, chance.choice(projects())), "p.cadena")
    records = read_all(folder(), app)
    types = {name: each.types for name, each in records.items()}
    for finding in check(app, records):
        mended(app, types, finding)
    wired = WiredApp(app, records)
    session, notes = start(wired, POCKET)
    for event in chance.sample(SOME, 10):
        session, notes, _ = step(wired, session, event)
        lay_out(wired, session, session.window)
        to_line(trace_line(wired, session, event, notes))
    decode(encode(app).encode(), "again.cadena")


ROWS = [
    {"id": n, "name": f"Hut {n}", "since": f"2020-0{n}-01", "price": n * 1.5, "open": n % 2 == 0,
     "tags": ["a", "b"][: n % 3], "owner": {"name": "Ada", "age": n}}
    for n in range(1, 7)
]  # fmt: skip


def _taken(chance: random.Random, name: str, raw: bytes) -> None:
    """A data file is made a project of, which opens again."""
    with tempfile.TemporaryDirectory() as temporary:
        file = Path(temporary) / name
        file.write_bytes(raw)
        if chance.random() < 0.7:
            adopt(Path(temporary), file, ())
            return
        new_project(Path(temporary) / "to", [file])
        project = open_project(Path(temporary) / "to")
        start(WiredApp(project.app, project.records), SLATE)


def a_json(chance: random.Random) -> None:
    tree = chance.choice([ROWS, {"items": ROWS, "count": 6}, {r["name"]: r for r in ROWS}])
    _taken(chance, "huts.json", damaged_json(chance, tree))


def a_jsonl(chance: random.Random) -> None:
    lines = b"\n".join(json.dumps(damaged_tree(chance, each, 1)).encode() for each in ROWS)
    _taken(chance, "huts.jsonl", damaged_bytes(chance, lines))


def a_csv(chance: random.Random) -> None:
    mark = chance.choice(",;\t|")
    rows = [[str(v) for v in each.values()] for each in ROWS]
    lines = [mark.join(["id", "name", "since", "price", "open", "tags", "owner"])]
    lines += [mark.join(f'"{v}"' if chance.random() < 0.2 else v for v in row) for row in rows]
    text = chance.choice(["\n", "\r\n", "\r"]).join(lines)
    raw = text.encode(chance.choice(["utf-8", "latin-1", "utf-16", "utf-8-sig"]), "replace")
    _taken(chance, chance.choice(["huts.csv", "huts.tsv"]), damaged_bytes(chance, raw))


@lru_cache
def database() -> bytes:
    """A small database with tables and a view, as bytes."""
    with tempfile.TemporaryDirectory() as temporary:
        file = Path(temporary) / "a.sqlite"
        made = sqlite3.connect(file)
        made.execute("CREATE TABLE huts (id INTEGER PRIMARY KEY, name TEXT, photo BLOB)")
        made.executemany(
            "INSERT INTO huts VALUES (?, ?, ?)", [(n, f"H{n}", b"x") for n in range(9)]
        )
        made.execute("CREATE VIEW named AS SELECT id, upper(name) AS name FROM huts")
        made.commit()
        made.close()
        return file.read_bytes()


def a_sqlite(chance: random.Random) -> None:
    _taken(chance, "huts.sqlite", damaged_bytes(chance, database(), 12))


def columns(chance: random.Random) -> None:
    """Files of columns and packed ones, and those whose ending says nothing."""
    frame = pl.DataFrame([{k: v for k, v in each.items() if k != "tags"} for each in ROWS])
    made = io.BytesIO()
    frame.write_parquet(made)
    text = "\n".join(f"- {json.dumps(each)}" for each in ROWS).encode()
    kind = chance.choice(["h.parquet", "h.yaml", "h.csv.gz", "h.xlsx", "h.data", "h"])
    raw = {"h.parquet": made.getvalue(), "h.yaml": text}.get(kind, json.dumps(ROWS).encode())
    if kind == "h.csv.gz":
        packed = gzip.compress(b"id,name\n1,A\n")
        _taken(chance, kind, damaged_bytes(chance, packed, 1))
    else:
        _taken(chance, kind, damaged_bytes(chance, raw, 2))


def typed_by_hand(chance: random.Random) -> None:
    """Cells of any text typed and pasted anywhere, and written back."""
    with tempfile.TemporaryDirectory() as temporary:
        folder = Path(temporary)
        (folder / "h.json").write_bytes(json.dumps(ROWS).encode())
        (made,) = adopt(folder, folder / "h.json", ())
        assert made.records.reading is not None
        before = now = table_of(made.records.reading)
        records = made.records
        for _ in range(6):
            names = list(now.columns)
            row, name = chance.randrange(max(1, now.frame.height)), chance.choice(names)
            text = damaged_bytes(chance, b"1,5\tx\n2020-01-02\tyes\n").decode("utf-8", "replace")
            with suppress(Problem):
                if chance.random() < 0.5:
                    now = pasted(now, records, row, name, text).table
                elif now.frame.height and chance.random() < 0.7:
                    now = with_cell(now, records, row, name, text.strip()[:9])
                else:
                    now = without_records(now, [row])
            records = typed(made.source, now.reading)
        edited = Edited(made.source, before, made.records.reading.stamp, now, {})
        write_all(folder, [edited], lambda _: None)
        again = read_file(folder / "h.json", "h.json")
        assert again.frame.height == now.frame.height


SCHEMA = {
    "type": "object",
    "required": ["id"],
    "properties": {
        "id": {"type": "integer"},
        "name": {"type": "string"},
        "day": {"type": "string", "format": "date"},
        "owner": {"$ref": "#/components/schemas/Owner"},
        "tags": {"type": "array", "items": {"type": "string"}},
    },
}
OPENAPI = {
    "openapi": "3.1.0",
    "info": {"title": "Huts", "version": "1"},
    "servers": [{"url": "http://x/{v}", "variables": {"v": {"default": "1"}}}],
    "paths": {
        "/huts": {
            "get": {
                "parameters": [{"name": "page", "in": "query"}],
                "responses": {
                    "200": {
                        "content": {
                            "application/json": {
                                "schema": {
                                    "type": "array",
                                    "items": {"$ref": "#/components/schemas/Hut"},
                                }
                            }
                        }
                    }
                },
            }
        },
        "/huts/{hutId}": {
            "get": {
                "responses": {
                    "200": {
                        "content": {
                            "application/json": {"schema": {"$ref": "#/components/schemas/Hut"}}
                        }
                    }
                }
            }
        },
    },
    "components": {
        "schemas": {
            "Hut": SCHEMA,
            "Owner": {
                "type": "object",
                "properties": {"hut": {"$ref": "#/components/schemas/Hut"}},
            },
        }
    },
}


def an_openapi(chance: random.Random) -> None:
    raw = damaged_json(chance, OPENAPI)
    for each in proposals(raw, "api.json", chance.choice(["", "http://x/api.json"])):
        assert each.source.service is not None


def an_answer(chance: random.Random) -> None:
    """A service answers, and what it brings is made columns of."""
    tree = chance.choice([ROWS, {"data": {"rows": ROWS}}, ROWS[0]])
    calls = [0]

    def answer(request: httpx.Request) -> httpx.Response:
        calls[0] += 1
        raw = damaged_json(chance, tree)
        headers = {"content-type": chance.choice(["application/json", "text/html", ""])}
        if chance.random() < 0.3:
            links = ['<http://x/huts?p=2>; rel="next"', '<http://y/>; rel="next"', "<", ";;=,"]
            headers["link"] = chance.choice(links)
        status = chance.choice([200, 200, 200, 200, 404, 500, 302, 204])
        if status == 302:
            headers["location"] = chance.choice(["/huts", "http://y/", "http://[::1", "", "x:y"])
        if chance.random() < 0.1:
            raw, headers["content-encoding"] = gzip.compress(raw), "gzip"
        return httpx.Response(status, content=raw, headers=headers)

    by = chance.choice(["none", "page", "offset", "link"])
    service = Service(
        list="http://x/huts",
        item="http://x/huts/{key}",
        records=chance.choice(["", "/data/rows", "/data"]),
        paging=Paging(by=by, parameter="p", size_parameter="s", size=6),
        key_from_address=chance.choice(["", "name"]),
    )
    caller = Caller(service, httpx.Client(transport=httpx.MockTransport(answer)), longest=2.0)
    if chance.random() < 0.3:
        found = caller.item(chance.choice(["h1", 0, "a/b"]))
        if found is not None:
            columns_of([found], "huts", "record")
        return
    bring(Source(id="huts", key="id", service=service), caller)


@lru_cache
def saved() -> tuple[WiredApp, Session]:
    """An app that was ended with much to keep."""
    run = stays()
    run(
        do.Choose(screen="stays", key=1), do.Press(button="edit"), do.Type(field="guest", to="A"),
        do.GoTo(section="tiles"), do.Scroll(by=40.0), do.Choose(list="pick", key="h1"),
        do.GoTo(section="huts"), do.Choose(key="h1"), do.Kill(),
    )  # fmt: skip
    return run.app, run.session


def a_session(chance: random.Random) -> None:
    """Saved state is restored, and the app goes on, whatever was saved."""
    app, ended = saved()
    kept = damaged_json(chance, json.loads(ended.kept)).decode("utf-8", "replace")
    session, notes, refused = step(app, replace(ended, kept=kept), do.Restore())
    assert not refused
    for event in chance.sample(SOME, 6):
        session, notes, _ = step(app, session, event)
        lay_out(app, session, session.window)
        to_line(trace_line(app, session, event, notes))


WALK = [
    {"do": "choose", "screen": "huts", "key": "h1"},
    {"expect": {"chain": ["huts", "hut"], "chosen": {"huts": "h1"}, "back": "Huts"}},
    {"do": "resize", "width": 820, "height": 1180},
    {"do": "refresh", "source": "huts", "gone": ["h2"], "added": [{"id": "h9", "name": "Nine"}]},
    {"do": "change", "source": "huts", "key": "h1", "fields": {"name": "New"}},
    {"do": "search", "text": "hut"},
    {"do": "move", "to": "down"},
    {"do": "back"},
    {"do": "visit", "address": "/huts/h1"},
    {"do": "wait", "ms": 300},
]


def a_walk(chance: random.Random) -> None:
    """A walk is read, and replayed where it can be."""
    app, _ = saved()
    with tempfile.TemporaryDirectory() as temporary:
        file = Path(temporary) / "a.json"
        file.write_bytes(damaged_json(chance, WALK))
        for each in replay(app, read_walk(file), sized(360, 780)):
            if each.line is not None:
                to_line(each.line)
            for failure in each.failures:
                str(failure)


KINDS: dict[str, Callable[[random.Random], None]] = {
    "projects": a_project,
    "json": a_json,
    "jsonl": a_jsonl,
    "csv": a_csv,
    "sqlite": a_sqlite,
    "columns": columns,
    "typed by hand": typed_by_hand,
    "openapi": an_openapi,
    "answers": an_answer,
    "sessions": a_session,
    "walks": a_walk,
}


def tried(kind: str, seed: int) -> str:
    """Try one example; what it was refused with, or nothing.

    Raises:
        Exception: whatever escapes, with the seed that makes it.
    """
    try:
        KINDS[kind](random.Random(f"{kind} {seed}"))
    except Problem as problem:
        said = str(problem)
        assert said
        assert len(said) < 1500
        assert "Traceback" not in said
        return said
    except Exception as error:
        error.add_note(f"{kind}, seed {seed}")
        raise
    return ""
