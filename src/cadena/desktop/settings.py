"""What the window remembers between runs, and what it rescues after a crash."""

from __future__ import annotations

import hashlib
from pathlib import Path
from typing import Final

import msgspec
import platformdirs
from msgspec import Struct

from cadena.model.files import write_text
from cadena.model.problem import Problem

RECENT: Final = 8


class Settings(Struct, frozen=True, omit_defaults=True):
    """Geometry in Qt's own base 64; window sizes in dp; projects newest first."""

    theme: str = ""
    geometry: str = ""
    widths: tuple[int, ...] = ()
    window: tuple[float, float] = (360, 780)
    zoom: float = 1.0
    recent: tuple[str, ...] = ()
    reduced_motion: bool | None = None


def state_folder() -> Path:
    """Where the application keeps its own state."""
    return Path(platformdirs.user_state_dir("cadena"))


def read_settings() -> Settings:
    """The settings as they were left; damaged ones are as good as none."""
    try:
        return msgspec.json.decode((state_folder() / "settings.json").read_bytes(), type=Settings)
    except (OSError, msgspec.MsgspecError, UnicodeDecodeError):
        return Settings()


def write_settings(settings: Settings) -> None:
    """Keep the settings."""
    keep_text(msgspec.json.encode(settings).decode(), state_folder() / "settings.json")


def with_recent(settings: Settings, project: Path) -> Settings:
    """The settings with a project as the one opened last."""
    name = str(project.resolve())
    others = tuple(each for each in settings.recent if each != name)
    return msgspec.structs.replace(settings, recent=(name, *others)[:RECENT])


def rescue_file(project: Path) -> Path:
    """Where the unsaved state of a project is kept."""
    return state_of(project, "unsaved", ".cadena")


def state_of(project: Path, kind: str, suffix: str) -> Path:
    """Where state of one kind is kept for a project, apart from all others."""
    name = hashlib.sha256(str(project.resolve()).encode()).hexdigest()[:24]
    return state_folder() / kind / f"{name}{suffix}"


def keep_unsaved(project: Path, text: str) -> None:
    """Keep what is not saved yet, in case the application does not end well."""
    keep_text(text, rescue_file(project))


def keep_text(text: str, file: Path) -> None:
    """Keep a text; a disk that does not take it is no reason to stop."""
    try:
        file.parent.mkdir(parents=True, exist_ok=True)
        write_text(text, file)
    except (OSError, Problem):
        return
