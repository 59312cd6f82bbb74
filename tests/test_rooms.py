"""The walls of the house: what a room must not import is refused, in each of them."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
ROOMS = (
    "model", "records", "sources", "engine", "runs", "scene", "words", "serve", "check", "deliver",
)  # fmt: skip
STAGES = ("gather", "shape", "link", "fit", "keep", "prove", "deliver")
ABOVE = ("cadena.desktop.painting.theme", "PySide6")
PURE = ("engine", "runs", "scene", "check", "words")


def forbidden() -> dict[str, tuple[str, ...]]:
    """What each room must not import, by the room."""
    found: dict[str, tuple[str, ...]] = dict.fromkeys(
        ROOMS, ("cadena.desktop.painting.theme", "PySide6")
    )
    for room in PURE:
        found[room] += ("httpx",)
    for stage in STAGES:
        other = STAGES[STAGES.index(stage) - 1]
        found[f"desktop.stages.{stage}"] = (f"cadena.desktop.stages.{other}.stage",)
    rooms = ("shell", "stages", "bench", "widgets", "jobs", "document", "painting", "process")
    above = ("shell.window", "stages.field_sentences", "bench.bench", "widgets.strip", "jobs.work")
    above += ("document.document", "painting.theme")
    for room, name in zip(rooms[1:], above, strict=True):
        found[f"desktop.{room}"] = (f"cadena.desktop.{name}",)
    found["desktop"] = ("cadena.cli.main",)
    found["cli"] = ("PySide6",)
    return found


def test_each_room_refuses_what_it_must_not_import(tmp_path: Path) -> None:
    """One module more in each room of a copy, and all of them are told."""
    shutil.copytree(ROOT / "src" / "cadena", tmp_path / "cadena")
    shutil.copy(ROOT / "pyproject.toml", tmp_path)
    for room, names in forbidden().items():
        folder = tmp_path.joinpath("cadena", *room.split("."))
        assert folder.is_dir(), room
        (folder / "trespass.py").write_text("".join(f"import {name}\n" for name in names))
    tool = Path(sys.executable).parent / "lint-imports"
    ran = subprocess.run(
        [str(tool), "--no-logo", "--no-cache"],
        cwd=tmp_path,
        env={**os.environ, "PYTHONPATH": str(tmp_path), "COLUMNS": "400"},
        capture_output=True,
        text=True,
        check=False,
    )
    assert ran.returncode == 1, ran.stdout + ran.stderr
    said = ran.stdout
    for room, names in forbidden().items():
        for name in names:
            arrow = f"cadena.{room}.trespass -> {name}"
            assert arrow in said, f"{arrow}\n{said}"
