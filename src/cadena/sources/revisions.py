"""A project as it was at a revision of its repository, read by git's own command."""

from __future__ import annotations

import io
import subprocess
import tarfile
from pathlib import Path
from typing import Final

from cadena.model.problem import Problem

SECONDS: Final = 60


def project_at(revision: str, project: Path, into: Path) -> Path:
    """Put the folder of a project as it was at a revision into another folder.

    Raises:
        Problem: where there is no such revision, no repository, or no such folder in it.
    """
    folder = project if project.is_dir() else project.parent
    wanted = "a revision that holds this project, or the path of another"
    try:
        inside = _git(folder, "rev-parse", "--show-prefix", refuse=wanted, of=revision)
        top = _git(folder, "rev-parse", "--show-toplevel", refuse=wanted, of=revision)
        tree = f"{revision}:{inside.decode().strip()}"
        archive_of = ("archive", "--format=tar", tree)
        raw = _git(Path(top.decode().strip()), *archive_of, refuse=wanted, of=revision)
        with tarfile.open(fileobj=io.BytesIO(raw)) as archive:
            archive.extractall(into, filter="data")
    except tarfile.TarError as error:
        raise Problem(revision, "", f"it cannot be unpacked ({error})", wanted) from None
    return into


def _git(folder: Path, *arguments: str, refuse: str, of: str) -> bytes:
    if of.startswith("-"):
        raise Problem(of, "", "it is no revision", refuse)
    try:
        made = subprocess.run(
            ["git", "-C", str(folder), *arguments],
            capture_output=True,
            check=False,
            timeout=SECONDS,
        )
    except FileNotFoundError:
        raise Problem("git", "", "there is no such command here", "git, installed") from None
    except subprocess.TimeoutExpired:
        raise Problem(of, "", "git does not answer", refuse) from None
    if made.returncode:
        lines = made.stderr.decode(errors="replace").strip().splitlines() or ["git refuses it"]
        raise Problem(of, "", lines[-1].removeprefix("fatal: "), refuse)
    return made.stdout
