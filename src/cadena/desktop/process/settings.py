"""What the window remembers between runs, and where state of projects is kept."""

from __future__ import annotations

import hashlib
import os
from pathlib import Path
from typing import Final

import msgspec
import platformdirs
from msgspec import Struct

from cadena.model.file.disk import said_path, write_text
from cadena.model.problem import Problem

RECENT: Final = 8
MOST: Final = 20_000


class Settings(Struct, frozen=True, omit_defaults=True):
    """Geometry in Qt's own base 64; window sizes in dp; projects newest first; ``strip`` and
    ``bench`` are the dividers that a person has set, in px."""

    theme: str = ""
    geometry: str = ""
    widths: tuple[int, ...] = ()
    window: tuple[float, float] = (360, 780)
    zoom: float = 1.0
    strip: int = 0
    bench: tuple[int, ...] = ()
    recent: tuple[str, ...] = ()
    reduced_motion: bool | None = None


def state_folder() -> Path:
    """Where the application keeps its own state."""
    return Path(platformdirs.user_state_dir("cadena"))


def read_settings() -> Settings:
    """The settings as they were left; damaged ones are as good as none."""
    try:
        raw = (state_folder() / "settings.json").read_bytes()
        return sound(msgspec.json.decode(raw, type=Settings))
    except (OSError, msgspec.MsgspecError, UnicodeDecodeError, ValueError, RecursionError):
        return Settings()


def sound(settings: Settings) -> Settings:
    """The settings with numbers that a window can have; the toolkit knows no others."""
    usual = Settings()
    return msgspec.structs.replace(
        settings,
        widths=tuple(within(each, 50, 10_000) for each in settings.widths),
        window=settings.window
        if all(1 <= each <= MOST for each in settings.window)
        else usual.window,
        zoom=settings.zoom if 0.1 <= settings.zoom <= 10 else usual.zoom,
        recent=settings.recent[:RECENT],
    )


def within(value: int, least: int, most: int) -> int:
    """A number, or the nearest one that is allowed."""
    return max(least, min(value, most))


def write_settings(settings: Settings) -> None:
    """Keep the settings."""
    keep_text(msgspec.json.encode(settings).decode(), state_folder() / "settings.json")


def with_recent(settings: Settings, project: Path) -> Settings:
    """The settings with a project as the one opened last; one that no text names is left out."""
    name = str(project.resolve())
    if said_path(name) != name:
        return settings
    others = tuple(each for each in settings.recent if each != name)
    return msgspec.structs.replace(settings, recent=(name, *others)[:RECENT])


def state_of(project: Path, kind: str, suffix: str) -> Path:
    """Where state of one kind is kept for a project, apart from all others."""
    name = hashlib.sha256(os.fsencode(project.resolve())).hexdigest()[:24]
    return state_folder() / kind / f"{name}{suffix}"


def keep_text(text: str, file: Path) -> str | None:
    """Keep a text; a disk that does not take it is no reason to stop: why, or none."""
    try:
        file.parent.mkdir(parents=True, exist_ok=True)
        write_text(text, file)
    except OSError as error:
        return f"{file.parent}: it cannot be made ({error.strerror})"
    except Problem as problem:
        return str(problem)
    return None
