"""`cadena serve --keep`: what is written to the stand-in is kept in the project's own files."""

from __future__ import annotations

import json
import sqlite3
from pathlib import Path
from typing import Any

import httpx
import pytest
from click.testing import CliRunner

from cadena.cli.main import main
from cadena.model.file.disk import write_text
from cadena.serve.keeping import Kept
from cadena.serve.serve import Served
from cadena.sources.open_project import open_project
from cadena.sources.scaffold import new_project
from small_service import serving

JSON = """[
  {"id": 1, "name": "Gull", "seats": 4, "more": {"x": [1]}, "tags": ["a"]},
  {"id": 2, "name": "Tern"}
]
"""
CSV = 'Boats of the East\ncode;name;built\nb1;Gull;3.5.2019\nb2;"Tern; old";17.11.2020\n'


def made(folder: Path, name: str, content: str | None) -> Path:
    file = folder / name
    if content is None:
        with sqlite3.connect(file) as base:
            base.execute("CREATE TABLE boats (id INTEGER PRIMARY KEY, name TEXT, seats INTEGER)")
            base.executemany("INSERT INTO boats VALUES (?, ?, ?)", [(1, "Gull", 4), (2, "Tern", 2)])
        base.close()
    else:
        write_text(content, file)
    new_project(folder / "project", [file])
    return folder / "project"


def kept(project: Path) -> Served:
    opened = open_project(project)
    return Served("Boats", opened.records, kept=Kept(opened.folder))


def again(project: Path) -> list[dict[str, Any]]:
    """The records as another who opens the project finds them."""
    records = open_project(project).records["boats"]
    return [dict(records.record(row)) for row in range(len(records))]


def as_sent(records: list[dict[str, Any]]) -> Any:
    return json.loads(json.dumps(records))


FILES = [("boats.json", JSON, (1, 2, 3)), ("boats.db", None, (1, 2, 3))]


@pytest.mark.long
@pytest.mark.parametrize(
    ("name", "content", "keys"), [*FILES, ("boats.csv", CSV, ("b1", "b2", "b3"))]
)
def test_what_is_written_is_in_the_file_in_its_own_format(
    tmp_path: Path, name: str, content: str | None, keys: tuple[Any, ...]
) -> None:
    project = made(tmp_path, name, content)
    key = "code" if name.endswith("csv") else "id"
    with serving(kept(project)) as at, httpx.Client(base_url=at, trust_env=False) as client:
        assert client.patch(f"/boats/{keys[0]}", json={"name": "Kite, grey"}).status_code == 200
        answer = client.post("/boats", json={key: keys[2], "name": "Auk"})
        assert answer.status_code == 201, answer.text
        assert client.delete(f"/boats/{keys[1]}").status_code == 204
        there = client.get("/boats").json()
        assert [each["name"] for each in there] == ["Kite, grey", "Auk"]
        assert as_sent(again(project)) == there
        client.patch(f"/boats/{keys[2]}", json={"name": None})
        assert as_sent(again(project)) == client.get("/boats").json()
    text = (project / name).read_bytes()
    if name.endswith("json"):
        assert json.loads(text)[0]["more"] == {"x": [1]}
    if name.endswith("csv"):
        assert text.startswith(b"Boats of the East\ncode;name;built\n")
        assert b"3.5.2019" in text


def test_a_value_that_would_be_another_in_the_file_is_refused_at_its_field(tmp_path: Path) -> None:
    project = made(tmp_path, "boats.json", JSON)
    before = (project / "boats.json").read_bytes()
    with serving(kept(project)) as at, httpx.Client(base_url=at, trust_env=False) as client:
        answer = client.patch("/boats/1", json={"name": "Kite", "tags": ["a, b"]})
        assert answer.status_code == 422
        assert answer.json()["errors"][0]["pointer"] == "#/tags"
        assert client.get("/boats/1").json()["name"] == "Gull"
        assert (project / "boats.json").read_bytes() == before
        assert client.patch("/boats/1", json={"tags": ["a", "b"]}).status_code == 200
    assert again(project)[0]["tags"] == ("a", "b")


def test_what_others_change_in_the_file_is_joined_or_told(tmp_path: Path) -> None:
    project = made(tmp_path, "boats.json", JSON)
    file = project / "boats.json"
    with serving(kept(project)) as at, httpx.Client(base_url=at, trust_env=False) as client:
        write_text(file.read_text().replace('"Tern"', '"Theirs"'), file)
        assert client.patch("/boats/1", json={"seats": 9}).status_code == 200
        assert [each["name"] for each in again(project)] == ["Gull", "Theirs"]
        assert client.get("/boats/2").json()["name"] == "Theirs"
        write_text(file.read_text().replace('"Theirs"', '"Others"'), file)
        answer = client.patch("/boats/2", json={"name": "Mine"})
        assert answer.status_code == 409
        assert client.get("/boats/2").json()["name"] == "Others"
        assert client.patch("/boats/2", json={"name": "Mine"}).status_code == 200
    assert [each["name"] for each in again(project)] == ["Gull", "Mine"]
    assert again(project)[0]["seats"] == 9


def test_a_file_that_is_only_read_says_so(tmp_path: Path) -> None:
    project = made(tmp_path, "boats.yaml", "- id: 1\n  name: Gull\n")
    with serving(kept(project)) as at, httpx.Client(base_url=at, trust_env=False) as client:
        answer = client.patch("/boats/1", json={"name": "Tern"})
        assert (answer.status_code, "only read" in answer.json()["detail"]) == (405, True)
        paths = client.get("/openapi.json").json()["paths"]
        assert {method for path in paths.values() for method in path} == {"get", "parameters"}


def test_without_it_files_stay_as_they_are(tmp_path: Path) -> None:
    project = made(tmp_path, "boats.json", JSON)
    served = Served("Boats", open_project(project).records)
    with serving(served) as at:
        assert httpx.delete(f"{at}/boats/1", trust_env=False).status_code == 204
    assert json.loads((project / "boats.json").read_text()) == json.loads(JSON)
    assert "--keep" in CliRunner().invoke(main, ["serve", "--help"]).output
