"""The demo toured where there is no display: its trace, and pictures of what it shows."""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path
from typing import Final

from cadena.desktop.shell.demo import DEMO

TOUR_WINDOWS: Final = ("360x780", "820x1180", "1280x800")


def tour(say: Callable[[str], None], out: Path = Path("out")) -> None:
    """Run the demo walk without a display: print its trace, and write pictures of each stage."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from cadena.desktop.shell.shot import take_shot
    from cadena.engine.wired import WiredApp
    from cadena.runs.walks.trace import to_line
    from cadena.runs.walks.walk import Failure, parse_window, read_walk, replay
    from cadena.sources.open_project import open_project

    say("There is no display: the demo walk runs in Qt's offscreen mode instead.")
    project = open_project(DEMO / "cresta")
    app = WiredApp(project.app, project.records)
    steps = read_walk(DEMO / "cresta" / "walks" / "tour.json")
    out.mkdir(exist_ok=True)
    for text in TOUR_WINDOWS:
        window = parse_window(text)
        failures: list[Failure] = []
        for at in replay(app, steps, window):
            failures += at.failures
            if at.line is not None:
                say(to_line(at.line))
        say(f"tour at {text}: {'holds' if not failures else failures[0]}")
        made = out / f"bench-{text}.png"
        take_shot(DEMO / "cresta", "bench", window, "light", window, steps[:6], made)
        say(f"wrote {made}")
    for theme in ("light", "dark"):
        made = out / f"link-{theme}.png"
        size = parse_window("1280x800")
        take_shot(DEMO / "cresta", "link", size, theme, parse_window("360x780"), steps[:6], made)
        say(f"wrote {made}")
