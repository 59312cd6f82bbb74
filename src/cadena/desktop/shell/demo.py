"""The demo projects, laid out as copies."""

from __future__ import annotations

import os
import shutil
import sys
from pathlib import Path
from typing import Final

import platformdirs

from cadena.model.file.disk import said_path
from cadena.model.problem import Problem

DEMO: Final = Path(__file__).resolve().parents[2] / "demo"
PROJECTS: Final = ("cresta", "cresta-broken", "cresta-written")
RECORDS_OF: Final = {"cresta-written": "cresta"}
"""A project that stands on the records of another: its own file and walks are in place of those."""


def lay_demo(name: str, to: Path) -> None:
    """Lay one of the demo projects out.

    Raises:
        OSError: where it cannot be written.
    """
    other = RECORDS_OF.get(name)
    if other is not None:
        own = shutil.ignore_patterns("*.cadena", "walks")
        shutil.copytree(DEMO / other, to, ignore=own)
    shutil.copytree(DEMO / name, to, dirs_exist_ok=True)


def lay_demos(folder: Path) -> list[Path]:
    """Lay the demo projects into a folder; returns theirs.

    Raises:
        Problem: when one of them is there already: nothing is written over.
    """
    for name in PROJECTS:
        if (folder / name).exists():
            raise Problem(str(folder / name), "", "it is there already", "a folder without it")
    try:
        for name in PROJECTS:
            lay_demo(name, folder / name)
    except OSError as error:
        raise Problem(
            str(folder), "", f"it cannot be written ({error.strerror})", "a folder that can be"
        ) from None
    return [folder / name for name in PROJECTS]


def demo_copy() -> Path:
    """The person's own copy of the demo, laid out on first use.

    Raises:
        Problem: when it cannot be laid out.
    """
    folder = Path(platformdirs.user_data_dir("cadena")) / "demo"
    if not (folder / "cresta").exists():
        try:
            folder.mkdir(parents=True, exist_ok=True)
            lay_demo("cresta", folder / "cresta")
        except OSError as error:
            reason = f"it cannot be made ({error.strerror or error})"
            raise Problem(said_path(folder), "", reason, "a folder that can be written") from None
    return folder / "cresta"


def shows_windows() -> bool:
    """Whether there is a display to show a window on."""
    if os.environ.get("QT_QPA_PLATFORM", "") in ("offscreen", "minimal"):
        return False
    if not sys.platform.startswith("linux"):
        return True
    return bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))
