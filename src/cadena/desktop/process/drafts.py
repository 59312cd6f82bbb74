"""Projects that nobody has said a place for yet: they run from a folder of the person's state.

A draft is there until it is saved somewhere, or let go of when it is left; one whose window did
not end well is found again.
"""

from __future__ import annotations

import contextlib
import shutil
from pathlib import Path
from typing import IO, Final

from cadena.desktop.process.locks import held
from cadena.desktop.process.settings import state_folder
from cadena.model.file.disk import said_path
from cadena.model.file.project_file import SUFFIX
from cadena.model.find import slug, unused
from cadena.model.once import once
from cadena.model.problem import Problem

LOCK: Final = ".window"
WANTED: Final = "a new name, or an empty folder"


def drafts_folder() -> Path:
    """Where drafts are."""
    return state_folder() / "drafts"


@once
def is_draft(project: Path | None) -> bool:
    """Whether a project file, or a project's folder, is one of a draft."""
    return project is not None and drafts_folder() in project.parents


def new_draft(name: str) -> Path:
    """A folder for a draft, called by what it shows; it is there, and empty.

    Raises:
        Problem: when it cannot be made.
    """
    folder = drafts_folder()
    try:
        folder.mkdir(parents=True, exist_ok=True)
        made = folder / unused(slug(name) or "project", [each.name for each in folder.iterdir()])
        made.mkdir()
    except OSError as error:
        reason = f"it cannot be made ({error.strerror})"
        raise Problem(said_path(folder), "", reason, "a folder that can be written") from None
    return made


def hold(project: Path) -> IO[bytes] | None:
    """Hold a draft as one that a window shows, for as long as what is given back is open."""
    with contextlib.suppress(OSError):
        return held(project.parent / LOCK)
    return None


def left_over() -> list[Path]:
    """The drafts that no window shows, newest first: those of windows that did not end well."""
    found: list[tuple[float, Path]] = []
    for file in drafts_folder().glob(f"*/*{SUFFIX}"):
        with contextlib.suppress(OSError):
            lock = held(file.parent / LOCK)
            if lock is not None:
                lock.close()
                found.append((file.stat().st_mtime, file.parent))
    return [folder for _, folder in sorted(found, reverse=True)]


def let_go(folder: Path) -> None:
    """Let go of a draft that was saved elsewhere, or is not wanted."""
    if is_draft(folder):
        shutil.rmtree(folder, ignore_errors=True)


def laid_out_in(draft: Path, folder: Path) -> Path:
    """A draft copied into a folder of its own, new or empty, its project called like the folder.

    Raises:
        Problem: when something stands there already, or the disk does not take it; nothing is
            left behind then.
    """
    said = said_path(folder)
    try:
        is_free = not folder.exists() or (folder.is_dir() and not any(folder.iterdir()))
        if not is_free:
            raise Problem(said, "", "something is there already", WANTED)
        there = folder.exists()
        try:
            leave = shutil.ignore_patterns(LOCK)
            shutil.copytree(draft, folder, ignore=leave, dirs_exist_ok=True)
            file = next(folder.glob(f"*{SUFFIX}"))
            return file.rename(folder / f"{slug(folder.name) or file.stem}{SUFFIX}")
        except BaseException:
            shutil.rmtree(folder, ignore_errors=True)
            if there:
                folder.mkdir()
            raise
    except OSError as error:
        reason = f"it cannot be written ({error.strerror or error})"
        raise Problem(said, "", reason, "a folder that can be written") from None
