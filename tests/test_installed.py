"""Cadena as it is installed: from its wheel, with its demo, and as the desktop finds it."""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import sys
import zipfile
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import pytest

from cadena import __version__
from cadena.desktop.shell.install_desktop import PLACES, SHARE, install, quoted, remove
from cadena.model.problem import Problem

ROOT = Path(__file__).resolve().parent.parent


@pytest.fixture(scope="session")
def unpacked(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The wheel, built and unpacked where nothing of the checkout is."""
    made = tmp_path_factory.mktemp("wheel")
    for name in ("pyproject.toml", "README.md", "LICENSE"):
        shutil.copy(ROOT / name, made)
    without = shutil.ignore_patterns("__pycache__", "*.egg-info")
    shutil.copytree(ROOT / "src", made / "src", ignore=without)
    subprocess.run(
        [sys.executable, "-m", "pip", "wheel", "--quiet", "--no-deps", "--no-build-isolation",
         "--disable-pip-version-check", "--wheel-dir", str(made), str(made)],
        check=True,
    )  # fmt: skip
    wheel = next(made.glob("*.whl"))
    assert __version__ in wheel.name
    with zipfile.ZipFile(wheel) as held:
        held.extractall(made / "site")
    return made / "site"


def run(unpacked: Path, *words: str, **where: Any) -> subprocess.CompletedProcess[str]:
    environment = {**os.environ, "PYTHONPATH": str(unpacked), "QT_QPA_PLATFORM": "offscreen"}
    return subprocess.run(
        [sys.executable, "-m", "cadena", *words],
        check=False,
        capture_output=True,
        text=True,
        cwd=unpacked,
        env=environment,
        **where,
    )


@pytest.mark.long
def test_the_wheel_runs_demo_check_and_a_picture(unpacked: Path, tmp_path: Path) -> None:
    where = subprocess.run(
        [sys.executable, "-c", "import cadena; print(cadena.__file__)"],
        check=True,
        capture_output=True,
        text=True,
        cwd=unpacked,
        env={**os.environ, "PYTHONPATH": str(unpacked)},
    )
    assert where.stdout.startswith(str(unpacked))
    assert run(unpacked, "--version").stdout.split()[-1] == __version__
    laid = run(unpacked, "demo", "--copy", str(tmp_path / "demos"))
    assert laid.returncode == 0, laid.stderr
    project = tmp_path / "demos" / "cresta"
    assert len(list((project / "pictures").iterdir())) > 20
    assert run(unpacked, "check", str(project)).returncode == 0
    shot = run(unpacked, "shot", str(project), "--stage", "bench", "--out", str(tmp_path / "a.png"))
    assert shot.returncode == 0, shot.stderr
    assert (tmp_path / "a.png").stat().st_size > 5000
    for name in PLACES:
        assert (unpacked / "cadena" / "desktop" / "shell" / "share" / name).is_file()


def test_the_desktop_finds_what_is_laid_and_it_can_be_taken_away(tmp_path: Path) -> None:
    (tmp_path / "applications").mkdir()
    (tmp_path / "applications" / "other.desktop").write_text("")
    laid = install(tmp_path)
    entry = next(each for each in laid if each.suffix == ".desktop").read_text()
    assert re.search(r"^Exec=\S.* open %f$", entry, re.M)
    assert "application/vnd.cadena+json" in entry
    icon = re.search(r"^Icon=(.*)$", entry, re.M)
    assert icon is not None
    assert (tmp_path / f"icons/hicolor/scalable/apps/{icon[1]}.svg").is_file()
    assert install(tmp_path) == laid
    assert remove(tmp_path) == laid
    assert remove(tmp_path) == []
    left = [
        each for each in tmp_path.rglob("*") if each.is_file() and "cadena" in each.name.lower()
    ]
    assert left == []


def test_the_command_installs_where_xdg_says(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    from click.testing import CliRunner

    from cadena.cli.main import main

    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "home"))
    done = CliRunner().invoke(main, ["install-desktop"])
    assert done.exit_code == 0
    assert done.output.count("laid ") == len(PLACES)
    assert CliRunner().invoke(main, ["install-desktop", "--remove"]).output.count("removed") == 4
    (tmp_path / "flat").write_text("")
    with pytest.raises(Problem, match="cannot be made"):
        install(tmp_path / "flat")


def test_a_command_in_an_entry_is_quoted_as_it_must_be() -> None:
    assert quoted("/usr/bin/cadena") == "/usr/bin/cadena"
    assert quoted("/home/a b/cadena") == '"/home/a b/cadena"'
    assert quoted('/a"b$c') == '"/a\\"b\\$c"'
    assert quoted("/a b/python -m cadena") == '"/a b/python" -m cadena'


def test_what_is_laid_is_well_formed_and_of_this_version() -> None:
    for name in PLACES:
        if name.endswith((".xml", ".svg")):
            ElementTree.parse(SHARE / name)
    releases = (
        ElementTree.parse(SHARE / "app.cadena.Cadena.metainfo.xml").getroot().find("releases")
    )
    assert releases is not None
    assert releases[0].get("version") == __version__
    changes = (ROOT / "CHANGELOG.md").read_text()
    assert re.search(r"^## (\S+)", changes, re.M)[1] == __version__  # type: ignore[index]
    project = (ROOT / "pyproject.toml").read_text().split("[project.scripts]")[0]
    assert not re.search(r"^version", project, re.M)
