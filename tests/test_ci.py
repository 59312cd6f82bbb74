"""Everything at once for continuous integration, and diagrams as text."""

from __future__ import annotations

import json
from pathlib import Path
from xml.etree import ElementTree

import pytest
from msgspec.structs import replace

from builders import DEMO, demo, small_app, small_records, with_link, with_screen
from cadena.check.diagrams import diagram_of
from cadena.model.app import App
from cadena.model.file.project_file import encode
from test_cli import call


@pytest.fixture
def project(tmp_path: Path) -> Path:
    """A small project on disk, with a walk that does not hold."""
    folder = tmp_path / "small"
    (folder / "walks").mkdir(parents=True)
    (folder / "small.cadena").write_text(encode(with_link(small_app(), "open", arguments=())))
    for name, records in small_records(4).items():
        records.frame.write_json(folder / f"{name}.json")
    walk = [{"do": "choose", "key": "h0"}, {"expect": {"display": ["hut"]}}]
    (folder / "walks" / "one.json").write_text(json.dumps(walk))
    (folder / "walks" / "no.json").write_text("{")
    return folder


def test_all_of_a_broken_project_is_told_once(project: Path, tmp_path: Path) -> None:
    junit, sarif = tmp_path / "a.xml", tmp_path / "a.sarif"
    code, text = call("ci", str(project), "--junit", str(junit), "--sarif", str(sarif))
    assert code == 1
    assert "✕ check: " in text
    assert "argument-missing at links[open].arguments[hut]" in text
    assert "✕ walks: 2 walks in 6 runs, 6 expectations do not hold" in text
    assert "one at Pocket: step 1: display" in text
    assert "✓ keep: " in text
    assert "Whatever can be pressed opens: links[open]" in text
    suites = ElementTree.parse(junit).getroot()
    names = {each.get("classname") for each in suites.iter("testcase")}
    assert names == {"check.screens", "check.links", "check.sources", "walks", "keep", "prove"}
    rules = {each["ruleId"] for each in json.loads(sarif.read_text())["runs"][0]["results"]}
    assert {"argument-missing", "prove/opens"} <= rules


@pytest.mark.long
def test_the_demo_is_well_in_every_way() -> None:
    code, text = call("ci", str(DEMO / "cresta"))
    assert code == 0
    assert [line[0] for line in text.splitlines()] == ["✓"] * 4
    assert "5 walks in 25 runs, all hold" in text


def test_a_project_that_cannot_be_read_is_said_so(tmp_path: Path) -> None:
    code, text = call("ci", str(tmp_path / "nothing"))
    assert code == 2
    assert "nothing" in text


def hostile() -> App:
    """An app whose names would be read as something else."""
    app = with_screen(small_app(), "huts", title='A "quoted" <b>|title|</b>\\ [x] -->')
    return with_link(replace(app, name="<&>"), "book", how="popover")


def test_diagrams_say_what_opens_what() -> None:
    app = demo().app
    mermaid = diagram_of(app, "mermaid")
    assert mermaid.startswith("flowchart LR\n")
    assert mermaid.count("-->|") + mermaid.count("-.->|") == len(app.links)
    assert "room: whole number" in mermaid
    dot = diagram_of(app, "dot")
    assert dot.count(" -> ") == len(app.links)
    assert '"hut" -> "warden" [label="Ask the warden · popover", style=dotted];' in dot
    svg = ElementTree.fromstring(diagram_of(app, "svg"))
    texts = [each.text for each in svg.iter("{http://www.w3.org/2000/svg}text")]
    assert "Huts" in texts
    assert "row of rooms · push" in texts
    saved = diagram_of(app, "mermaid", "saved")
    assert "Saved" in saved
    assert "Stays" not in saved


def test_hostile_names_stay_text() -> None:
    mermaid, dot = diagram_of(hostile(), "mermaid"), diagram_of(hostile(), "dot")
    first = next(line for line in mermaid.splitlines() if "quoted" in line)
    assert first == '  s0["A #34;quoted#34; <b>#124;title#124;</b>#92; #91;x#93; --#62;"]' or (
        '"quoted"' not in first
    )
    assert '\\"quoted\\"' in dot
    ElementTree.fromstring(diagram_of(hostile(), "svg"))


def test_the_command_writes_a_diagram_or_says_what_sections_there_are(tmp_path: Path) -> None:
    out = tmp_path / "a.svg"
    assert call("diagram", str(DEMO / "cresta"), "--as", "svg", "--out", str(out))[0] == 0
    assert out.read_text().startswith("<svg")
    code, text = call("diagram", str(DEMO / "cresta"), "--section", "none")
    assert code == 2
    assert "one of huts, routes, stays, saved" in text
