"""The demo projects: laid out as copies, and toured where there is no display."""

from __future__ import annotations

import os
import shutil
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Final

import platformdirs

from cadena.model.files import said_path
from cadena.model.problem import Problem

DEMO: Final = Path(__file__).resolve().parent.parent / "demo"
PROJECTS: Final = ("cresta", "cresta-broken")
TOUR_WINDOWS: Final = ("360x780", "820x1180", "1280x800")


def lay_demos(folder: Path) -> list[Path]:
    """Lay both demo projects into a folder; returns theirs.

    Raises:
        Problem: when one of them is there already: nothing is written over.
    """
    for name in PROJECTS:
        if (folder / name).exists():
            raise Problem(str(folder / name), "", "it is there already", "a folder without it")
    try:
        for name in PROJECTS:
            shutil.copytree(DEMO / name, folder / name)
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
            shutil.copytree(DEMO / "cresta", folder / "cresta")
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


def tour(say: Callable[[str], None], out: Path = Path("out")) -> None:
    """Run the demo walk without a display: print its trace, and write pictures of each stage."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from cadena.data.project import open_project
    from cadena.desktop.shot import take_shot
    from cadena.engine.wired import WiredApp
    from cadena.walk.trace import to_line
    from cadena.walk.walk import Failure, parse_window, read_walk, replay

    say("There is no display: the demo walk runs in Qt's offscreen mode instead.")
    project = open_project(DEMO / "cresta")
    app = WiredApp(project.app, project.records)
    steps = read_walk(DEMO / "cresta" / "walks" / "tour.json")
    out.mkdir(exist_ok=True)
    for text in TOUR_WINDOWS:
        window = parse_window(text)
        failures: list[Failure] = []
        for each in replay(app, steps, window):
            failures += each.failures
            if each.line is not None:
                say(to_line(each.line))
        say(f"tour at {text}: {'holds' if not failures else failures[0]}")
        made = out / f"bench-{text}.png"
        take_shot(DEMO / "cresta", "bench", window, "light", window, steps[:6], made)
        say(f"wrote {made}")
    for theme in ("light", "dark"):
        made = out / f"link-{theme}.png"
        size = parse_window("1280x800")
        take_shot(DEMO / "cresta", "link", size, theme, parse_window("360x780"), steps[:6], made)
        say(f"wrote {made}")
