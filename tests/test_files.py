"""Files: read within bounds, written whole or not at all, and never outside a folder."""

from __future__ import annotations

import builtins
import os
import shutil
import sqlite3
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from builders import records_of, small_app
from cadena.model.address import read, told
from cadena.model.file import disk as files
from cadena.model.file.disk import write_bytes, write_in
from cadena.model.file.project_file import decode, encode, locate, read_app, write_app
from cadena.model.listing import Listing
from cadena.model.problem import Problem
from cadena.records.export_rows import handed_out
from cadena.records.query import Asked, query
from cadena.runs.walks.walk import read_walk
from cadena.sources import openapi, schemas
from cadena.sources.import_file import adopt
from cadena.sources.openapi import proposals
from cadena.sources.read_file import read_file

ABSENT = b""


@pytest.mark.parametrize("name", ["../out", "/tmp/out", "a/b", "a\\b", ".hidden", " a", "a\0b", ""])
def test_nothing_is_written_outside_a_folder(tmp_path: Path, name: str) -> None:
    inner = tmp_path / "project"
    inner.mkdir()
    with pytest.raises(Problem, match="no file can be named so"):
        write_in(inner, name, b"x")
    assert list(tmp_path.iterdir()) == [inner]


@pytest.mark.parametrize("name", ["../escaped", "/tmp/escaped", "a/b", ".ssh"])
def test_a_source_whose_name_would_lead_elsewhere_is_refused_at_reading(name: str) -> None:
    text = encode(small_app()).replace('"id": "rooms"', f'"id": "{name}"', 1)
    with pytest.raises(Problem, match="no file can be named so"):
        decode(text.encode(), "p.cadena")


def test_a_project_file_that_links_elsewhere_is_refused(tmp_path: Path) -> None:
    there, here = tmp_path / "there", tmp_path / "here"
    there.mkdir()
    here.mkdir()
    write_app(small_app(), there / "p.cadena")
    (here / "p.cadena").symlink_to(there / "p.cadena")
    with pytest.raises(Problem, match="leads outside its folder"):
        locate(here)
    with pytest.raises(Problem, match="leads outside its folder"):
        locate(here / "p.cadena")
    (there / "q.cadena").symlink_to(there / "p.cadena")
    assert locate(there / "q.cadena").name == "q.cadena"


def no_links(*_: Any) -> None:
    raise OSError(1, "Operation not permitted")


def test_a_disk_without_links_or_permissions_takes_a_project(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    file = tmp_path / "p.cadena"
    write_app(small_app(), file)
    for name in ("link", "symlink", "chmod"):
        monkeypatch.setattr(os, name, no_links)
    write_app(small_app(name="Second"), file)
    assert read_app(file).name == "Second"
    assert read_app(file.with_name("p.cadena.before")).name == "Small"


def test_what_a_kill_has_left_is_cleared_at_the_next_save(tmp_path: Path) -> None:
    file = tmp_path / "p.cadena"
    gone = tmp_path / ".p.cadena.4194304.abc.tmp"
    alive = tmp_path / f".p.cadena.{os.getpid()}.abc.tmp"
    other = tmp_path / ".q.cadena.4194304.abc.tmp"
    for each in (gone, alive, other):
        each.write_bytes(b"half")
    write_bytes(b"whole", file)
    assert sorted(tmp_path.iterdir()) == sorted([alive, other, file])


CALLS: list[tuple[Any, str]] = [
    (os, "fsync"), (os, "replace"), (os, "close"), (os, "open"), (builtins, "open"),
    (files.tempfile, "mkstemp"), (Path, "open"), (Path, "read_bytes"), (Path, "iterdir"),
    (Path, "exists"), (Path, "stat"), (shutil, "copyfile"),
]  # fmt: skip


def failing(real: Callable[..., Any], at: int, seen: list[int]) -> Callable[..., Any]:
    def call(*arguments: Any, **named: Any) -> Any:
        seen[0] += 1
        if seen[0] == at:
            raise OSError(28, "No space left on device")
        return real(*arguments, **named)

    return call


@pytest.mark.parametrize(("module", "name"), CALLS, ids=[name for _, name in CALLS])
@pytest.mark.parametrize("at", [1, 2, 3])
def test_a_fault_at_any_call_of_a_write_loses_nothing(
    tmp_path: Path, module: Any, name: str, at: int
) -> None:
    file = tmp_path / "p"
    write_bytes(b"one", file, keep_before=True)
    write_bytes(b"two", file, keep_before=True)
    with pytest.MonkeyPatch.context() as patched:
        patched.setattr(module, name, failing(getattr(module, name), at, [0]))
        try:
            write_bytes(b"three", file, keep_before=True)
        except Problem as problem:
            assert "cannot be written" in str(problem)
    before = (tmp_path / "p.before").read_bytes()
    assert (file.read_bytes(), before) in [(b"three", b"two"), (b"two", b"one"), (b"two", b"two")]
    write_bytes(b"four", file, keep_before=True)
    assert file.read_bytes() == b"four"
    assert sorted(each.name for each in tmp_path.iterdir()) == ["p", "p.before"]


@pytest.mark.parametrize("ending", [".json", ".csv", ".jsonl", ".sqlite", ".yaml", ".cadena"])
def test_a_pipe_or_a_device_is_not_waited_for(tmp_path: Path, ending: str) -> None:
    pipe = tmp_path / f"pipe{ending}"
    os.mkfifo(pipe)
    device = tmp_path / f"device{ending}"
    device.symlink_to("/dev/zero")
    for each in (pipe, device):
        with pytest.raises(Problem):
            adopt(tmp_path / "to", each, ())
        with pytest.raises(Problem, match="plain file"):
            read_walk(each)
        with pytest.raises(Problem):
            locate(each)


def test_a_sparse_file_is_told_by_its_size(tmp_path: Path) -> None:
    for name in ("a.json", "b.csv", "c.sqlite", "d.jsonl", "e.cadena"):
        file = tmp_path / name
        with file.open("wb") as made:
            made.truncate(40 << 30)
        reads: Callable[[], Any] = (
            (lambda file=file: read_app(file))
            if name.endswith("cadena")
            else (lambda file=file: read_file(file, file.name))
        )
        with pytest.raises(Problem, match="it holds 40 GiB"):
            reads()


def test_a_record_of_very_many_fields_is_read_as_far_as_may_be(tmp_path: Path) -> None:
    file = tmp_path / "wide.json"
    file.write_text("[{" + ", ".join(f'"f{n}": {n}' for n in range(30_000)) + "}]")
    reading = read_file(file, "wide.json")
    assert reading.frame.width == 2000
    assert "28,000 values left out" in str(reading.faults[0])
    wide = tmp_path / "wide.csv"
    wide.write_text(",".join(f"f{n}" for n in range(30_000)) + "\n")
    with pytest.raises(Problem, match="30,000 columns"):
        read_file(wide, "wide.csv")


def test_a_small_view_cannot_make_gigabytes(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    from cadena.sources import read_sqlite

    monkeypatch.setattr(read_sqlite, "MOST_BYTES", 4 << 20)
    file = tmp_path / "large.sqlite"
    with sqlite3.connect(file) as made:
        made.execute(
            "CREATE VIEW large AS WITH RECURSIVE n(x) AS "
            "(SELECT 1 UNION ALL SELECT x + 1 FROM n) "
            "SELECT x AS id, replace(hex(zeroblob(50000)), '0', 'x') AS t FROM n"
        )
    with pytest.raises(Problem, match="it holds over 4 MiB"):
        read_file(file, "large.sqlite", "large")


# Addresses


def test_a_template_is_matched_in_linear_time() -> None:
    template = "/" + "x".join(f"{{a{n}}}" for n in range(60))
    address = "/" + "x" * 1900
    began = time.perf_counter()
    assert read(template, address) is None
    for _ in range(20):
        read(template, address + "/")
    assert time.perf_counter() - began < 1


WORDS = st.text("abxé ./", min_size=1, max_size=6)


@given(WORDS, WORDS, WORDS, st.sampled_from(["", "/end", "-x"]))
def test_what_a_template_tells_it_reads_back(one: str, two: str, three: str, end: str) -> None:
    for template in (
        "/h/{a}/r/{b}" + end,
        "/{a}{/b,c}" + end,
        "/f/{+a}/g/{b}" + end,
        "/p/{a,b}{?c}",
        "/q/{a}{#b}",
    ):
        arguments = {"a": one, "b": two, "c": three}
        address = told(template, arguments)
        assert address is not None
        found = read(template, address)
        if template.startswith("/f/"):
            # What may hold anything may hold what comes after it, too.
            assert found is not None
            continue
        names = {name: arguments[name] for name in (found or {})}
        assert found == names


# Documents that make much of little


def yaml_of(line: str) -> bytes:
    return ("openapi: 3.1.0\n" + line).encode()


LAUGHS = "a: &a [x, x]\n" + "".join(
    f"{chr(98 + n)}: &{chr(98 + n)} [{', '.join(['*' + chr(97 + n)] * 60)}]\n" for n in range(20)
)
MERGES = "a: &a {x: 1}\nb: {<<: *a}\n"


@pytest.mark.parametrize(
    ("raw", "says"),
    [
        (yaml_of(LAUGHS), "over 1,000 aliases"),
        (yaml_of(MERGES), "merge keys"),
        (yaml_of("a: !!python/object/apply:os.system ['true']\n"), "neither JSON nor YAML"),
        (yaml_of("a: !strange x\n"), "neither JSON nor YAML"),
        (b"openapi: 3.1.0\nservers: [{url: 'http://[::1'}]\npaths: {}\n", "no web address"),
    ],
    ids=["aliases", "merge keys", "a tag", "a strange tag", "a server"],
)
def test_documents_that_are_no_plain_ones_are_refused(raw: bytes, says: str) -> None:
    with pytest.raises(Problem, match=says):
        proposals(raw, "api.yaml")


def test_a_schema_that_holds_itself_is_looked_at_for_a_while_only(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setattr(schemas, "MOST_STEPS", 1_000)
    itself = {f"p{n}": {"$ref": "#/components/schemas/S"} for n in range(12)}
    schema = {"type": "object", "properties": {"id": {"type": "integer"}, **itself}}
    held = {"application/json": {"schema": {"$ref": "#/components/schemas/S"}}}
    many = {"application/json": {"schema": {"type": "array", "items": held["application/json"]}}}
    many["application/json"]["schema"]["items"] = {"$ref": "#/components/schemas/S"}
    document = {
        "openapi": "3.1.0",
        "paths": {
            "/s": {"get": {"responses": {"200": {"content": many}}}},
            "/s/{id}": {"get": {"responses": {"200": {"content": held}}}},
        },
        "components": {"schemas": {"S": schema}},
    }
    import msgspec

    began = time.perf_counter()
    with pytest.raises(Problem, match="lead on through over 1,000 nodes"):
        proposals(msgspec.json.encode(document), "api.json")
    assert time.perf_counter() - began < 5


def test_the_variables_of_a_server_are_filled_once() -> None:
    variables = {f"v{n}": {"default": 2 * f"{{v{n + 1}}}"} for n in range(40)}
    document: Any = schemas.Document(servers=[{"url": "http://x/{v0}", "variables": variables}])
    assert openapi._base(document, "", "api.json") == "http://x/{v1}{v1}"


# Raw errors


@pytest.mark.parametrize("encoding", ["idna", "punycode", "zlib", "undefined", "no-such"])
def test_odd_codecs_are_a_message(tmp_path: Path, encoding: str) -> None:
    from cadena.model.source import Csv

    file = tmp_path / "a.csv"
    file.write_bytes("id,näme\n1,ö\n".encode("latin-1") * 300)
    try:
        reading = read_file(file, "a.csv", form=Csv(encoding=encoding))
    except Problem as problem:
        assert str(problem)
    else:
        assert reading.frame.height >= 0


def test_lines_that_end_in_a_return_alone_are_lines(tmp_path: Path) -> None:
    file = tmp_path / "mac.csv"
    file.write_bytes(b"id;name\r1;Alpe\r2;Balma\r")
    found = adopt(tmp_path, file, ())[0]
    assert found.records.frame.height == 2
    assert found.source.csv.delimiter == ";"


def test_lists_can_be_searched() -> None:
    records = records_of("huts", [{"id": 1, "tags": ["quiet", "high"]}, {"id": 2, "tags": None}])
    found = query(records, Listing(source="huts", search=("tags",)), Asked(search="HIGH"))
    assert [found.key_at(at) for at in range(len(found))] == [1]


def test_a_file_whose_name_is_no_utf8_is_taken_under_a_name_that_is(tmp_path: Path) -> None:
    (tmp_path / "project").mkdir()
    name = os.fsencode(tmp_path) + b"/h\xfcts.csv"
    with open(name, "wb") as made:
        made.write(b"id,name\n1,Alpe\n")
    found = adopt(tmp_path / "project", Path(os.fsdecode(name)), ())[0]
    assert found.source.file.encode()
    assert (tmp_path / "project" / found.source.file).is_file()


# What is handed out, and what is said


@pytest.mark.parametrize(
    "cell",
    ["=1+1", " =1+1", "\n=1+1", "\t=1", "+1", "-1", "@x", "＝1", "－1", "＠x", "\r=1", "\x00=1"],
)
def test_no_cell_and_no_head_is_a_formula_where_it_is_opened(cell: str) -> None:
    records = records_of("s", [{"id": 1, cell: cell}])
    text = handed_out(query(records, Listing(source="s")), "csv")
    head, row = text.split("\n", 1)
    assert "'" in text.split(",", 1)[1][:3]
    assert row.count("'") + head.count("'") >= 2


def test_a_message_is_short_whatever_it_is_about() -> None:
    problem = Problem("f" * 5000, "p" * 5000, "x" * 5000, "w" * 5000)
    assert len(str(problem)) < 1400
