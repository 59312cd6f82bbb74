"""The log of unexpected errors, in the state folder."""

from __future__ import annotations

import contextlib
import datetime
import traceback
from pathlib import Path
from typing import Final

from cadena import __version__
from cadena.desktop.process.settings import state_folder

LARGEST: Final = 1_000_000
"""Bytes of a log; a larger one is begun anew, and the one before kept."""
LONGEST: Final = 200


def log_file() -> Path:
    """Where the log is."""
    return state_folder() / "cadena.log"


def in_a_line(error: BaseException) -> str:
    """An error as it is said in a line."""
    return f"{type(error).__name__}: {error}".splitlines()[0][:LONGEST]


def report_of(error: BaseException, where: str = "") -> str:
    """All that is worth knowing of an error."""
    lines = "".join(traceback.format_exception(type(error), error, error.__traceback__))
    return report_of_text(f"{where}\n{lines}" if where else lines)


def report_of_text(text: str) -> str:
    """A text with what runs it, and when."""
    import platform

    return (
        f"Cadena {__version__}, Python {platform.python_version()}, {platform.platform()}\n"
        f"{datetime.datetime.now().isoformat(timespec='seconds')}\n{text}"
    )


def append(report: str) -> None:
    """Add to the log; a disk that does not take it is no reason to stop."""
    file = log_file()
    with contextlib.suppress(OSError):
        file.parent.mkdir(parents=True, exist_ok=True)
        if file.exists() and file.stat().st_size > LARGEST:
            file.replace(file.with_suffix(".log.before"))
        with file.open("a", encoding="utf-8", errors="backslashreplace") as log:
            log.write(report.rstrip() + "\n\n")
