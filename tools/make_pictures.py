"""Take the pictures of the documentation anew, from the demo: ``python tools/make_pictures.py``."""

from __future__ import annotations

import os
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"

from cadena.desktop.application import application, window_on
from cadena.desktop.document import Document, Selection
from cadena.desktop.painter import forget_fonts
from cadena.desktop.settings import Settings
from cadena.desktop.shot import take_shot
from cadena.desktop.theme import Name, install
from cadena.engine import events as do
from cadena.walk.walk import Walk, parse_window

ROOT = Path(__file__).resolve().parent.parent
DEMO = ROOT / "src" / "cadena" / "demo"
OUT = ROOT / "docs" / "screenshots"
MORENNA = do.Choose(key="mor", screen="huts")
ROOM = do.Choose(key=3, screen="hut", list="rooms")
BENCH: dict[str, Walk] = {
    "360x780": (MORENNA,),
    "820x1180": (MORENNA,),
    "1280x800": (MORENNA, ROOM),
}


def stage(project: str, file: str, name: Name, selection: Selection, *events: do.Event) -> None:
    """The whole window at 1280 × 800, with something selected and something having happened."""
    app = application()
    install(app, name)
    forget_fonts()
    window = window_on(DEMO / project, Settings(), remembers=False)
    window.resize(1280, 800)
    window.show()
    document: Document = window.document
    document.check()
    for event in events:
        document.do(event)
    document.select(selection)
    for _ in range(5):
        app.processEvents()
    window.grab().save(str(OUT / file))
    document.close()
    window.close()


def main() -> None:
    OUT.mkdir(parents=True, exist_ok=True)
    link = Selection("link", "huts-to-hut")
    stage("cresta", "link-light.png", "light", link, MORENNA)
    stage("cresta", "link-dark.png", "dark", link, MORENNA)
    stage("cresta-broken", "link-broken.png", "light", link, do.Choose(key="alp", screen="huts"))
    for size, walk in BENCH.items():
        window = parse_window(size)
        box = parse_window("720x720")
        take_shot(DEMO / "cresta", "bench", box, "light", window, walk, OUT / f"bench-{size}.png")


if __name__ == "__main__":
    main()
