"""The command line, as it is called."""

from __future__ import annotations

import json
import socket
import subprocess
import sys
from pathlib import Path
from xml.etree import ElementTree

import pytest
from click.testing import CliRunner

from builders import DEMO, small_app
from cadena.cli.main import main
from cadena.model.file.project_file import write_app

CRESTA, BROKEN = str(DEMO / "cresta"), str(DEMO / "cresta-broken")
TOUR = str(DEMO / "cresta" / "walks" / "tour.json")


def call(*arguments: str) -> tuple[int, str]:
    result = CliRunner().invoke(main, list(arguments))
    assert result.exception is None or isinstance(result.exception, SystemExit)
    return result.exit_code, result.output


def test_check() -> None:
    assert call("check", CRESTA) == (0, "Cresta Huts: 0 findings\n")
    code, text = call("check", BROKEN)
    assert code == 1
    assert "breaks argument-missing at links[huts-to-hut].arguments[hut]" in text
    code, text = call("check", BROKEN, "--json")
    findings = json.loads(text)
    assert code == 1
    assert {"code", "weight", "where", "what", "why", "mend"} <= findings[0].keys()


def test_walk() -> None:
    assert call("walk", CRESTA, TOUR) == (0, "tour.json at 360x780: holds\n")
    code, text = call("walk", CRESTA, TOUR, "--window", "820x1180", "--trace")
    lines = [json.loads(line) for line in text.splitlines() if line.startswith("{")]
    assert code == 0
    assert lines[0]["event"] is None
    assert lines[1]["event"] == {"do": "resize", "width": 360.0, "height": 780.0}
    assert {"chain", "display", "back", "notes"} <= lines[1].keys()


def test_a_walk_that_does_not_hold(tmp_path: Path) -> None:
    (tmp_path / "w.json").write_text(
        '[{"do": "choose", "key": "mor"}, {"expect": {"back": "Nowhere"}}]'
    )
    code, text = call("walk", CRESTA, str(tmp_path / "w.json"))
    assert code == 1
    assert 'step 1: back: expected "Nowhere", got "Huts"' in text


@pytest.mark.parametrize(
    "arguments",
    [
        ("check", "/nowhere"),
        ("walk", CRESTA, "/nowhere.json"),
        ("walk", CRESTA, TOUR, "--window", "wide"),
        ("walk", CRESTA),
        ("check",),
        ("fly",),
        ("shot", "/nowhere", "--out", "/tmp/x.png"),
    ],
)
def test_input_that_cannot_be_used_is_exit_2(arguments: tuple[str, ...]) -> None:
    code, text = call(*arguments)
    assert code == 2
    assert text
    assert "Traceback" not in text


def test_a_project_that_points_outside_is_refused_and_left_alone(tmp_path: Path) -> None:
    source = small_app().sources[0]
    from msgspec.structs import replace

    write_app(small_app(sources=(replace(source, file="../secret.json"),)), tmp_path / "a.cadena")
    before = (tmp_path / "a.cadena").read_bytes()
    code, text = call("check", str(tmp_path))
    assert code == 2
    assert "leads outside the project folder" in text
    assert (tmp_path / "a.cadena").read_bytes() == before
    assert [each.name for each in tmp_path.iterdir() if each.is_file()] == ["a.cadena"]


def test_schema() -> None:
    code, text = call("schema")
    assert code == 0
    assert json.loads(text)["title"] == "Cadena project"
    assert json.loads(call("schema", "--walk")[1])["title"] == "Cadena walk"


@pytest.mark.long
def test_demo_copies(tmp_path: Path) -> None:
    code, _ = call("demo", "--copy", str(tmp_path / "d"))
    assert code == 0
    assert call("check", str(tmp_path / "d" / "cresta"))[0] == 0
    assert call("check", str(tmp_path / "d" / "cresta-broken"))[0] == 1
    written = tmp_path / "d" / "cresta-written"
    assert call("check", str(written))[0] == 0
    windows = (each for size in ("360x780", "1194x834") for each in ("--window", size))
    code, text = call("walk", str(written), str(written / "walks" / "written.json"), *windows)
    assert (code, text.count("holds")) == (0, 2)
    code, text = call("demo", "--copy", str(tmp_path / "d"))
    assert code == 2
    assert "it is there already" in text


@pytest.mark.long
def test_shot(tmp_path: Path) -> None:
    """A picture of each stage is drawn with no screen, at the size asked for."""
    for stage, size in (("link", (900, 600)), ("bench", (277, 600))):
        out = tmp_path / f"{stage}.png"
        command = [
            "shot",
            CRESTA,
            "--stage",
            stage,
            "--size",
            "900x600",
            "--theme",
            "dark",
            "--out",
            str(out),
        ]
        subprocess.run([sys.executable, "-m", "cadena", *command], check=True, capture_output=True)
        header = out.read_bytes()[16:24]
        assert (int.from_bytes(header[:4], "big"), int.from_bytes(header[4:], "big")) == size


def test_the_core_never_loads_the_toolkit() -> None:
    code = (
        "import sys, cadena.cli.main, cadena.runs.walks.walk, cadena.check.check;"
        "sys.exit(any('PySide6' in name for name in sys.modules))"
    )
    assert subprocess.run([sys.executable, "-c", code], check=False).returncode == 0


@pytest.mark.long
def test_without_a_display_the_demo_is_toured(tmp_path: Path) -> None:
    done = subprocess.run(
        [sys.executable, "-m", "cadena", "demo"],
        cwd=tmp_path,
        capture_output=True,
        text=True,
        check=True,
    )
    assert "There is no display" in done.stdout
    assert '"do":"restore"' in done.stdout
    assert {each.name for each in (tmp_path / "out").iterdir()} >= {
        "link-light.png",
        "link-dark.png",
        "bench-360x780.png",
    }


def test_new_makes_a_project_that_check_passes(tmp_path: Path) -> None:
    (tmp_path / "huts.csv").write_text("id,name\na,Alder\nb,Birch\n")
    (tmp_path / "rooms.json").write_text('[{"id": 0, "hut": "a"}, {"id": 1, "hut": "b"}]')
    files = [str(tmp_path / "huts.csv"), str(tmp_path / "rooms.json")]
    folder = str(tmp_path / "mine")
    code, out = call("new", *files, "--to", folder, "--closed")
    assert code == 0, out
    assert "huts: 2 records, 2 fields; key id (filled" in out
    assert call("check", folder)[0] == 0
    code, out = call("new", *files, "--to", folder, "--closed")
    assert code == 2
    assert "there is a project in it already" in out
    code, out = call("new", str(tmp_path / "gone.csv"), "--to", str(tmp_path / "x"), "--closed")
    assert code == 2
    assert "Traceback" not in out
    assert not (tmp_path / "x").exists()


def test_serve_says_when_its_port_is_taken() -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        code, out = call("serve", CRESTA, "--port", str(taken.getsockname()[1]))
    assert code == 2
    assert "it cannot be taken" in out


@pytest.mark.long
def test_shot_of_every_stage(tmp_path: Path) -> None:
    for stage in ("gather", "shape"):
        out = tmp_path / f"{stage}.png"
        code, said = call("shot", CRESTA, "--stage", stage, "--size", "900x600", "--out", str(out))
        assert code == 0, said
        assert out.stat().st_size > 10_000
    code, said = call("shot", CRESTA, "--stage", "gather", "--select", "x", "--out", str(out))
    assert code == 2
    assert "KIND:NAME" in said


def test_findings_are_written_for_other_tools(tmp_path: Path) -> None:
    junit, sarif = tmp_path / "j.xml", tmp_path / "s.sarif"
    broken = DEMO / "cresta-broken"
    code, said = call("check", str(broken), "--junit", str(junit), "--sarif", str(sarif), "--json")
    assert code == 1
    findings = json.loads(said)
    suite = ElementTree.parse(junit).getroot()[0]
    cases = {case.get("name"): case for case in suite}
    failed = [case for case in suite if case.find("failure") is not None]
    assert int(suite.get("failures", 0)) == len(failed) > 10
    told = "\n".join(text for case in suite for text in case.itertext())
    assert all(each["code"] in told for each in findings)
    assert "sources[huts]" in cases
    run = json.loads(sarif.read_text())["runs"][0]
    assert [each["ruleId"] for each in run["results"]] == [each["code"] for each in findings]
    text = (broken / "cresta-broken.cadena").read_text().splitlines()
    result = next(e for e, f in zip(run["results"], findings, strict=True) if f.get("screen"))
    line = result["locations"][0]["physicalLocation"]["region"]["startLine"]
    assert '"id"' in text[line - 1]
    assert {each["level"] for each in run["results"]} == {"error", "warning"}
