"""The contract: compiled, type-checked and round-tripped with the compilers that are there."""

from __future__ import annotations

import json
import re
import shutil
import subprocess
import sys
from pathlib import Path

import jsonschema
import pytest
from click.testing import CliRunner
from msgspec.structs import replace

from builders import DEMO, POCKET, demo, small_app, small_records
from cadena.cli.main import main
from cadena.deliver.contract.contract import contract
from cadena.deliver.contract.names import JAVA, PYTHON, camel_name, each_its_own, snake_name
from cadena.deliver.delivery import deliver
from cadena.engine import events as do
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.app import DetailScreen, ListScreen, NamedWindow, Parameter, Section
from cadena.model.listing import Listing
from cadena.runs.walks.recording import write_walk
from cadena.sources.open_project import open_project
from cadena.sources.scaffold import new_project
from kit_traces import NODE
from test_kit import TSC

HOSTILE = (
    "class", "Class", "2nd", "日本", "stay form", "stay-form", "__proto__", "route", "String",
    '"; drop', "*/ hello", "\\u0022", "list", "é", "None", "System", "</script>", "constructor",
)  # fmt: skip


def hostile() -> WiredApp:
    """An app whose screens and parameters are named as nobody should."""
    parameters = tuple(
        Parameter(name=name, type=kind, need="none")  # type: ignore[arg-type]
        for name, kind in zip(
            HOSTILE,
            ("text", "whole number", "number", "yes/no", "list of text", "date") * 3,
            strict=True,
        )
    )
    screens = tuple(
        ListScreen(id=name, title=name, rows=Listing(source="huts"), parameters=parameters)
        for name in HOSTILE
    )
    detail = DetailScreen(
        id="x", title="X", source="huts", key="class", parameters=(Parameter(name="class"),),
        address="/x/{class}",
    )  # fmt: skip
    sections = tuple(
        Section(id=f"s{at}", title="S", root=name, address=f"/s{at}{{?class}}")
        for at, name in enumerate(HOSTILE)
    )
    app = replace(small_app(), screens=(*screens, detail), sections=sections, links=(), start="s0")
    return WiredApp(app, small_records(3))


@pytest.fixture(scope="module", params=["demo", "hostile", "stranger"])
def folder(request: pytest.FixtureRequest, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The contract of the demo, and of an app with hostile names and walks of the small app."""
    to: Path = tmp_path_factory.mktemp(request.param)
    if request.param == "demo":
        deliver(contract(demo(), DEMO / "cresta"), to)
    elif request.param == "stranger":
        project = tmp_path_factory.mktemp("strangers")
        (project / "h.csv").write_text("id,name\n1,Alp\n2,Bel\n")
        new_project(project / "p", [project / "h.csv"], "Strangers")
        opened = open_project(project / "p")
        write_walk(project / "p", "one", (do.Choose(key=2), do.Back(), do.Choose(key=1)))
        windows = (NamedWindow(name="My own phone", width=390, height=800),)
        app = WiredApp(replace(opened.app, windows=windows), opened.records)
        deliver(contract(app, project / "p"), to)
    else:
        project = tmp_path_factory.mktemp("project")
        (project / "walks").mkdir()
        (project / "walks" / "one.json").write_text('[{"do": "section", "section": "s1"}]')
        deliver(contract(hostile(), project), to)
    return to


def ran(*command: str | Path, cwd: Path) -> str:
    done = subprocess.run(
        [str(each) for each in command], cwd=cwd, capture_output=True, text=True, timeout=300
    )
    assert done.returncode == 0, (done.stdout + done.stderr)[:3000]
    return done.stdout


def counted(said: str) -> tuple[int, int]:
    found = re.search(r"compared (\d+) of (\d+) steps, taken over (\d+)", said)
    assert found, said
    compared, steps, over = map(int, found.groups())
    assert compared + over == steps
    return compared, over


def assert_compared(folder: Path, *command: str | Path, cwd: Path) -> None:
    """The vectors of the demo are replayed; of an app of which nothing can be compared, the test
    has failed, and says why."""
    done = subprocess.run(
        [str(each) for each in command], cwd=cwd, capture_output=True, text=True, timeout=300
    )
    compared, over = counted(done.stdout)
    assert over > 0
    start = json.loads((folder / "routes.json").read_text())["start"]
    if start != "s0":
        assert done.returncode == 0, done.stderr
        assert compared > (10 if "hut" in start else 1)
    else:
        assert (done.returncode, compared) == (1, 0), done.stderr
        assert "too little was compared" in done.stderr


def test_routes_json_is_what_its_schema_says(folder: Path) -> None:
    routes = json.loads((folder / "routes.json").read_text())
    jsonschema.validate(routes, json.loads((folder / "routes.schema.json").read_text()))
    assert all(each["panes"] for each in routes["windows"])
    for window in routes["windows"]:
        last = window["panes"][-1]
        assert last["x"] + last["width"] == pytest.approx(window["width"])


def test_the_records_and_lists_handed_over_give_the_rows_of_the_vectors(folder: Path) -> None:
    """By them alone: what a list without conditions shows first, and how many."""
    routes = json.loads((folder / "routes.json").read_text())
    looked = 0
    for listed in routes["lists"]:
        given = json.loads((folder / listed["records"]).read_text())
        assert given["of"] == len(given["records"])
        is_kept = any("choice" not in each for each in listed["where"])
        if is_kept or listed["part"] or len(listed["sort"]) > 1:
            continue
        rows = given["records"]
        for order in listed["sort"]:
            rows = sorted(rows, key=lambda each: str(each[order["field"]]).lower())
        for file in (folder / "vectors").glob("*.jsonl"):
            line = json.loads(file.read_text().splitlines()[0])
            for pane in line["display"]:
                if pane["screen"] == listed["screen"] and pane["chosen"] is None:
                    shown = rows[: listed.get("limit", len(rows))]
                    assert (pane["rows"], pane["first_row"]) == (len(shown), rows[0][given["key"]])
                    looked += 1
    assert looked


def test_saved_state_is_what_its_schema_says(folder: Path) -> None:
    saved = json.loads((folder / "saved-state.schema.json").read_text())
    session, _ = start(demo(), POCKET)
    for event in (
        do.Choose(key="mor"),
        do.Scroll(by=100.0),
        do.GoTo(section="stays"),
        do.Press(button="new"),
        do.Type(field="guest", to="Ada"),
        do.Kill(),
    ):
        session = step(demo(), session, event).session
    kept = json.loads(session.kept)
    jsonschema.validate(kept, saved)
    assert [each["section"] for each in kept["chains"]] == list(demo().sections)
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate({"chains": [{"entries": 1}]}, saved)


@pytest.mark.long
def test_python_routes_are_typed_and_replay_the_vectors(folder: Path) -> None:
    python = folder / "python"
    assert_compared(folder, sys.executable, "test_vectors.py", cwd=python)
    ran(sys.executable, "-m", "mypy", "--strict", "--no-incremental", "routes.py", cwd=python)


@pytest.mark.long
@pytest.mark.skipif(NODE is None or not TSC.exists(), reason="TypeScript is not there")
def test_typescript_routes_compile_and_replay_the_vectors(folder: Path, tmp_path: Path) -> None:
    shutil.copytree(folder / "typescript", tmp_path / "ts")
    for name, text in {
        "node.d.ts": "declare module 'node:assert' { export const strict: any; }\n"
        "declare module 'node:fs' { export const readFileSync: any, readdirSync: any; }\n"
        "declare const process: any;\n",
        "package.json": '{"type": "module"}',
    }.items():
        (tmp_path / "ts" / name).write_text(text)
    ran(
        TSC, "--strict", "--noUncheckedIndexedAccess", "--target", "es2023", "--module", "es2022",
        "--moduleResolution", "bundler", "--lib", "es2023,dom", "node.d.ts",
        "vectors.test.ts", cwd=tmp_path / "ts",
    )  # fmt: skip
    assert_compared(folder, str(NODE), "vectors.test.js", str(folder), cwd=tmp_path / "ts")


@pytest.mark.long
@pytest.mark.skipif(shutil.which("javac") is None, reason="there is no Java compiler")
def test_java_routes_compile_and_replay_the_vectors(folder: Path, tmp_path: Path) -> None:
    files = sorted((folder / "java").glob("*.java"))
    ran("javac", "-Xlint:all", "-Werror", "-encoding", "UTF-8", "-d", tmp_path, *files, cwd=folder)
    assert_compared(folder, "java", "-cp", tmp_path, "VectorsTest", folder, cwd=tmp_path)


JARS = Path(__file__).parent.parent / ".venv" / "kotlin" / "run_kotlin_kernel" / "jars"
COMPILER = "org.jetbrains.kotlin.cli.jvm.K2JVMCompiler"


@pytest.mark.long
@pytest.mark.skipif(
    shutil.which("java") is None or not JARS.exists(), reason="there is no Kotlin compiler"
)
def test_kotlin_routes_compile_and_replay_the_vectors(folder: Path, tmp_path: Path) -> None:
    files = sorted((folder / "kotlin").glob("*.kt"))
    (library,) = JARS.glob("kotlin-stdlib-*.jar")
    ran(
        *("java", "-XX:TieredStopAtLevel=1", "-XX:+UseSerialGC", "-cp", f"{JARS}/*", COMPILER),
        *("-no-stdlib", "-no-reflect", "-Werror"),
        *("-cp", library, "-d", tmp_path, *files),
        cwd=folder,
    )
    assert_compared(
        folder, "java", "-cp", f"{tmp_path}:{library}", "VectorsTestKt", folder, cwd=tmp_path
    )


def test_a_wrong_app_is_told_by_the_vectors(tmp_path: Path) -> None:
    deliver(contract(demo(), DEMO / "cresta"), tmp_path)
    test = tmp_path / "python" / "test_vectors.py"
    text = test.read_text()
    test.write_text(text.replace("self.chain.pop()", "self.chain[1:] = []"))
    done = subprocess.run([sys.executable, str(test)], capture_output=True, text=True)
    assert done.returncode == 1
    assert "in place of" in done.stderr


def test_names_are_names_of_the_language() -> None:
    assert [snake_name(each, PYTHON) for each in ("class", "firstHut", "2nd", "日本")] == [
        "class_", "first_hut", "value2nd", "value",
    ]  # fmt: skip
    assert [camel_name(each, JAVA) for each in ("class", "first-hut", "record")] == [
        "class_", "firstHut", "record_",
    ]  # fmt: skip
    assert each_its_own(["Hut", "HUT", "hut"]) == ["Hut", "HUT2", "hut3"]


def test_the_contract_from_the_command_line(tmp_path: Path) -> None:
    arguments = ["deliver", str(DEMO / "cresta"), "--as", "contract", "--to", str(tmp_path)]
    done = CliRunner().invoke(main, arguments)
    assert done.exit_code == 0, done.output
    assert (tmp_path / "routes.json").exists()
    assert len(list((tmp_path / "vectors").glob("*.jsonl"))) == 25
    # What a web app cannot carry, a contract can tell.
    broken = CliRunner().invoke(
        main,
        ["deliver", str(DEMO / "cresta-broken"), "--as", "contract", "--to", str(tmp_path)],
    )
    assert broken.exit_code == 0, broken.output
