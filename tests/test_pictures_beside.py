"""Pictures beside the data come along: by new, dropped, exchanged and delivered; what is missing
is said by name, and nothing is read or written outside the folders."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from click.testing import CliRunner

from cadena.check.check import read_through
from cadena.cli.main import main
from cadena.deliver.web_app import web_app
from cadena.engine.wired import WiredApp
from cadena.sources import pictures_beside
from cadena.sources.import_file import adopt
from cadena.sources.open_project import open_project
from cadena.sources.scaffold import new_project

PNG = b"\x89PNG\r\n\x1a\n"


@pytest.fixture
def data(tmp_path: Path) -> Path:
    """Boats with a picture each: one is there, one in a folder, one nowhere, one outside."""
    folder = tmp_path / "theirs"
    (folder / "shots").mkdir(parents=True)
    (folder / "erl.png").write_bytes(PNG + b"erl")
    (folder / "shots" / "ulm.png").write_bytes(PNG + b"ulm")
    (tmp_path / "secret.png").write_bytes(PNG + b"secret")
    names = ("erl.png", "shots/ulm.png", "gone.png", "../secret.png")
    boats = [{"id": f"b{n}", "name": f"Boat {n}", "photo": name} for n, name in enumerate(names)]
    (folder / "boats.json").write_text(json.dumps(boats))
    return folder / "boats.json"


def files(folder: Path) -> set[str]:
    return {str(each.relative_to(folder)) for each in folder.rglob("*.png")}


def test_a_new_project_has_the_pictures_that_its_data_names(data: Path, tmp_path: Path) -> None:
    project = tmp_path / "deep" / "boats"
    new_project(project, [data])
    assert files(project) == {"erl.png", "shots/ulm.png"}
    assert (project / "shots" / "ulm.png").read_bytes() == PNG + b"ulm"
    opened = open_project(project)
    made = web_app(WiredApp(opened.app, opened.records), opened.folder)
    pictures = {each for each in made if each.endswith(".png") and not each.startswith("icon-")}
    assert pictures == {"erl.png", "shots/ulm.png"}


def test_what_is_missing_is_a_finding_with_names(data: Path, tmp_path: Path) -> None:
    project = tmp_path / "boats"
    new_project(project, [data])
    opened = open_project(project)
    (found,) = [
        each
        for each in read_through(opened.app, opened.records, opened.look)
        if each.code == "picture-missing"
    ]
    assert "2 of 4 pictures of photo" in found.what
    assert "gone.png, ../secret.png" in found.what
    said = CliRunner().invoke(main, ["check", str(project)]).output
    assert "picture-missing" in said


def test_what_is_dropped_brings_its_own_and_leaves_what_stands_there(
    data: Path, tmp_path: Path
) -> None:
    project = tmp_path / "there"
    project.mkdir()
    (project / "erl.png").write_bytes(b"mine")
    adopt(project, data, ())
    assert (project / "erl.png").read_bytes() == b"mine"
    assert files(project) == {"erl.png", "shots/ulm.png"}


def test_a_folder_that_leads_elsewhere_is_not_written_to(data: Path, tmp_path: Path) -> None:
    project, elsewhere = tmp_path / "there", tmp_path / "elsewhere"
    project.mkdir()
    elsewhere.mkdir()
    (project / "shots").symlink_to(elsewhere)
    adopt(project, data, ())
    assert files(elsewhere) == set()


def test_no_more_is_brought_than_is_said(
    data: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(pictures_beside, "MOST_PICTURES", 1)
    project = tmp_path / "boats"
    new_project(project, [data])
    assert len(files(project)) == 1


def test_what_could_not_be_made_leaves_no_picture(data: Path, tmp_path: Path) -> None:
    bad = data.with_name("bad.json")
    bad.write_text("{")
    project = tmp_path / "boats"
    said = CliRunner().invoke(main, ["new", str(data), str(bad), "--to", str(project)])
    assert said.exit_code == 2
    assert not project.exists()
