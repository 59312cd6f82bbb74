"""An app that is handed over for the desktop: a package that is the engine's own modules, typed
and formatted, and runs with neither the workbench nor the column engine."""

from __future__ import annotations

import io
import subprocess
import sys
import zipfile
from pathlib import Path
from typing import Any

import pytest
from msgspec.structs import replace

from builders import demo
from cadena.deliver.delivery import deliver, planned
from cadena.deliver.desktop_app import LOOK, desktop_app, package_of
from cadena.deliver.kit_modules import kit_modules, taken_as
from cadena.deliver.python_text import python_text
from cadena.desktop.shell.demo import DEMO
from cadena.engine.wired import WiredApp
from cadena.model.app import App, ListScreen, Section
from cadena.model.blocks import HeadingBlock
from cadena.model.listing import Listing, Row
from cadena.native.look import GROUNDS
from test_cli import call

CRESTA = DEMO / "cresta"
SRC = Path(__file__).parent.parent / "src" / "cadena"
LARGEST_KIT = 300_000


@pytest.fixture(scope="module")
def delivered(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo as it is delivered."""
    to = tmp_path_factory.mktemp("cresta")
    deliver(desktop_app(demo(), CRESTA), to)
    return to


@pytest.mark.long
def test_the_kit_is_the_very_modules_of_the_engine(delivered: Path) -> None:
    kit = delivered / "cresta_huts" / "kit"
    there = {each.relative_to(kit).as_posix(): each.read_text() for each in kit.rglob("*.py")}
    assert len(there) > 80
    assert {"engine/step.py", "engine/rules/back.py", "native/shown.py"} <= there.keys()
    for path, text in there.items():
        if path != "__init__.py":
            assert text.replace("cresta_huts.kit", "cadena") == (SRC / path).read_text(), path
    for room in ("desktop", "cli", "runs", "check", "deliver"):
        assert not (kit / room).exists()


@pytest.mark.long
def test_the_kit_is_small(delivered: Path) -> None:
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        for each in (delivered / "cresta_huts" / "kit").rglob("*"):
            if each.is_file():
                archive.writestr(str(each.relative_to(delivered)), each.read_bytes())
    assert len(packed.getvalue()) < LARGEST_KIT


RUNS = """
import sys
class Blocked:
    def find_spec(self, name, *_):
        if name.split(".")[0] in ("polars", "cadena"):
            raise ImportError(name)
sys.meta_path.insert(0, Blocked())
import importlib, pathlib
from pathlib import Path
import cresta_huts
from cresta_huts.app import app
from cresta_huts.sources import files
folder = Path(cresta_huts.__file__).parent
for each in (folder / "kit").rglob("*.py"):
    parts = each.relative_to(folder.parent).with_suffix("").parts
    importlib.import_module(".".join(parts).removesuffix(".__init__"))
from PySide6.QtWidgets import QApplication
from cresta_huts.kit.engine import events as do
from cresta_huts.kit.engine.wired import WiredApp
from cresta_huts.kit.native.running import Running
from cresta_huts.kit.native.start import records_of
from cresta_huts.kit.native.store import Store
toolkit = QApplication([])
wired = WiredApp(app, records_of(app, files, folder))
window = Running(wired, folder, Store(Path(sys.argv[1])), size=(1000, 700))
window.take(do.Choose(screen="huts", key="mor"))
print([each.screen for each in window.session.entries], window.windowTitle())
"""


def test_it_runs_without_the_workbench_and_the_column_engine(
    delivered: Path, tmp_path: Path
) -> None:
    ran = subprocess.run(
        [sys.executable, "-c", RUNS, str(tmp_path)],
        cwd=delivered,
        capture_output=True,
        text=True,
        check=False,
    )
    assert ran.stdout.strip() == "['huts', 'hut'] Morenna · Cresta Huts", ran.stderr


@pytest.mark.long
def test_it_is_typed_and_formatted(delivered: Path) -> None:
    cache = ["--cache-dir", str(delivered / ".mypy")]
    for command in (
        ["ruff", "format", "--check", "."],
        ["ruff", "check", "--select", "E,F,I", "--exclude", "cresta_huts/kit", "."],
        ["mypy", "--strict", *cache, "-p", "cresta_huts"],
    ):
        ran = subprocess.run(
            [sys.executable, "-m", *command],
            cwd=delivered,
            capture_output=True,
            text=True,
            check=False,
        )
        assert ran.returncode == 0, ran.stdout + ran.stderr


def test_its_readme_says_how_it_is_run_and_its_needs_are_pinned(delivered: Path) -> None:
    said = (delivered / "README.md").read_text()
    assert "pip install .\npython -m cresta_huts" in said
    pins = (delivered / "pyproject.toml").read_text()
    assert "PySide6-Essentials==" in pins
    assert "polars" not in pins
    assert "Exec=python3 -m cresta_huts" in (delivered / "cresta_huts.desktop").read_text()


def test_delivered_again_what_was_changed_by_hand_stays(tmp_path: Path) -> None:
    files = desktop_app(demo(), CRESTA)
    deliver(files, tmp_path)
    huts = tmp_path / "cresta_huts" / "screens" / "huts.py"
    huts.write_text(huts.read_text().replace("search", "search  # mine", 1))
    kept = zipfile.ZipFile(tmp_path / "delivered.zip").namelist()
    assert "delivered/cresta_huts/look.py" in kept
    assert not any("/kit/" in each for each in kept)
    states = {each.path: each.state for each in planned(files, tmp_path)}
    assert states["cresta_huts/screens/huts.py"] == "yours"
    assert set(states.values()) == {"yours", "as it was"}


@pytest.mark.parametrize(
    ("name", "package"),
    [
        ("Cresta Huts", "cresta_huts"),
        ("json", "json_app"),
        ("Polars", "polars"),
        ("class", "class_app"),
        ("3 boats", "app_3_boats"),
        ("山小屋", "app"),
        ("msgspec", "msgspec_app"),
    ],
)
def test_a_package_is_nobody_elses(name: str, package: str) -> None:
    made = App(name=name, screens=(), sections=())
    assert package_of(WiredApp(made, {})) == package


@pytest.mark.parametrize("text", ['a "quoted" word', "it's", "line\nbreak", "both \" and '", "ü\\"])
def test_texts_are_python(text: str) -> None:
    made = HeadingBlock(id="h", text=text)
    assert eval(python_text(made), {"HeadingBlock": HeadingBlock}) == made


def test_what_stands_out_looks_as_it_does_unless_it_is_changed() -> None:
    said: dict[str, Any] = {}
    exec(LOOK, said)
    assert (said["grounds"], said["style"]) == (GROUNDS, "")


def test_what_cannot_be_carried_is_named_and_nothing_is_written(tmp_path: Path) -> None:
    bare = WiredApp(replace(demo().app, sections=()), demo().as_read)
    with pytest.raises(Exception, match="no section has a screen to open"):
        desktop_app(bare, CRESTA)
    to = tmp_path / "delivered"
    code, said = call("deliver", str(CRESTA), "--as", "desktop", "--to", str(to), "--plan")
    assert code == 0, said
    assert not to.exists()


def test_an_app_without_records_is_one(tmp_path: Path) -> None:
    huts = demo().sources["huts"]
    app = App(
        name="Empty",
        start="huts",
        sources=(huts,),
        screens=(
            ListScreen(
                id="huts", title="Huts", rows=Listing(source="huts", row=Row(title="{name}"))
            ),
        ),
        sections=(Section(id="huts", title="Huts", root="huts"),),
    )
    files = desktop_app(WiredApp(app, {"huts": demo().as_read["huts"].none()}), tmp_path)
    assert files["empty/records/huts.json"] == b"[\n\n]\n"


def test_imports_alone_are_said_otherwise() -> None:
    text = 'from cadena.engine import step\nimport cadena.model\n# of cadena\nx = "cadena"\n'
    said = 'from huts.kit.engine import step\nimport huts.kit.model\n# of cadena\nx = "cadena"\n'
    assert taken_as("huts", text) == said
    assert "native/start.py" in kit_modules()
