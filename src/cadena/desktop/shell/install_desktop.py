"""The desktop entry, icon, MIME type and metadata of an installed Cadena, for one person.

After the freedesktop.org conventions: Desktop Entry, Icon Theme, Shared MIME-info, AppStream and
Base Directory. All of it lies under XDG_DATA_HOME and can be removed again.
"""

from __future__ import annotations

import contextlib
import os
import shutil
import sys
from pathlib import Path
from typing import Final

from cadena.model.file.disk import write_text
from cadena.model.problem import Problem

NAME: Final = "app.cadena.Cadena"
SHARE: Final = Path(__file__).resolve().parent / "share"
PLACES: Final = {
    f"{NAME}.desktop": f"applications/{NAME}.desktop",
    f"{NAME}.svg": f"icons/hicolor/scalable/apps/{NAME}.svg",
    f"{NAME}.mime.xml": f"mime/packages/{NAME}.xml",
    f"{NAME}.metainfo.xml": f"metainfo/{NAME}.metainfo.xml",
}
"""What is installed, and where under the data folder."""
TOLD: Final = (("update-mime-database", "mime"), ("update-desktop-database", "applications"))
PATIENCE: Final = 30


def data_home() -> Path:
    """Where a person's own data files are (XDG Base Directory)."""
    named = os.environ.get("XDG_DATA_HOME", "")
    return Path(named) if os.path.isabs(named) else Path.home() / ".local" / "share"


def command() -> str:
    """What starts this Cadena: its own command where there is one."""
    beside = Path(sys.executable).with_name("cadena")
    found = shutil.which("cadena") if not beside.is_file() else str(beside)
    return found or f"{sys.executable} -m cadena"


def install(home: Path | None = None) -> list[Path]:
    """Lay the files where the desktop finds them.

    Raises:
        Problem: when they cannot be written.
    """
    home = home or data_home()
    laid = []
    for name, place in PLACES.items():
        text = (SHARE / name).read_text(encoding="utf-8")
        if name.endswith(".desktop"):
            text = text.replace("Exec=cadena ", f"Exec={quoted(command())} ")
            text = text.replace("TryExec=cadena\n", "")
        path = home / place
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            reason = f"it cannot be made ({error.strerror})"
            raise Problem(str(path.parent), "", reason, "a folder that can be") from None
        write_text(text, path)
        laid.append(path)
    _tell(home)
    return laid


def quoted(text: str) -> str:
    """A command as the Exec key of a desktop entry wants it."""
    if text.endswith(" -m cadena"):
        return f"{quoted(text.removesuffix(' -m cadena'))} -m cadena"
    escaped = "".join(f"\\{each}" if each in '"`$\\' else each for each in text)
    return f'"{escaped}"' if any(each in text for each in " \t\"'\\><~|&;$*?#()`") else text


def remove(home: Path | None = None) -> list[Path]:
    """Take away what was laid.

    Raises:
        Problem: when something cannot be removed.
    """
    home = home or data_home()
    gone = []
    for place in PLACES.values():
        path = home / place
        if not path.exists():
            continue
        try:
            path.unlink()
        except OSError as error:
            reason = f"it cannot be removed ({error.strerror})"
            raise Problem(str(path), "", reason, "a file that can be") from None
        gone.append(path)
    _tell(home)
    return gone


def _tell(home: Path) -> None:
    """Tell the desktop, where its own programs for that are there."""
    for program, folder in TOLD:
        if shutil.which(program) and (home / folder).is_dir():
            import subprocess

            with contextlib.suppress(OSError, subprocess.SubprocessError):
                subprocess.run(
                    [program, str(home / folder)],
                    check=False,
                    capture_output=True,
                    timeout=PATIENCE,
                )
