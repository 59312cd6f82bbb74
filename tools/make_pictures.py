"""Take the pictures of the documentation anew, from the demo: ``python tools/make_pictures.py``."""

from __future__ import annotations

import os
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"

from cadena.desktop.document.bench_windows import add_window
from cadena.desktop.document.document import Document
from cadena.desktop.document.selection import SelectedField, SelectedLink, SelectedScreen, Selection
from cadena.desktop.document.stages import stage_named
from cadena.desktop.painting.faces import forget_fonts
from cadena.desktop.painting.motion import Motion
from cadena.desktop.painting.theme import Name, install
from cadena.desktop.shell.application import application, window_on
from cadena.desktop.shell.settings import Settings
from cadena.desktop.shell.shot import take_shot
from cadena.desktop.stages.fit.selected import (
    SelectedArrangement,
    SelectedBreakpoint,
    SelectedWindow,
)
from cadena.desktop.stages.keep.selected import SelectedMark
from cadena.desktop.stages.prove.selected import SelectedClaim
from cadena.desktop.stages.shape.selected import SelectedBlock, SelectedSlot
from cadena.engine import events as do
from cadena.engine.session import Window, sized
from cadena.runs.walks.walk import Walk, parse_window

ROOT = Path(__file__).resolve().parent.parent
DEMO = ROOT / "src" / "cadena" / "demo"
OUT = ROOT / "docs" / "screenshots"
MORENNA = do.Choose(key="mor", screen="huts")
ROOM = do.Choose(key=3, screen="hut", list="rooms")
STAYS = (do.GoTo(section="stays"), do.Wait(ms=900))
BOOKING = (
    MORENNA,
    do.Press(button="book"),
    do.Type(field="guest", to="Ilva Rauth"),
    do.Type(field="nights", to="40"),
    do.Save(),
)
SAVED = tuple(
    do.Act(screen="huts", key=key, action="keep") for key in ("mor", "alp", "fon", "tro", "cas")
)
BENCH: dict[str, Walk] = {
    "360x780": (MORENNA,),
    "820x1180": (MORENNA,),
    "1280x800": (MORENNA, ROOM),
    "673x841": (*SAVED, do.GoTo(section="saved"), do.Choose(screen="saved", key="mor")),
}


def stage(
    project: str,
    file: str,
    name: Name,
    selection: Selection,
    *events: do.Event,
    of: str = "Link",
    beside: tuple[Window, ...] = (),
) -> None:
    """The whole window at 1280 × 800, with something selected and something having happened.

    Args:
        beside: more windows on the Bench.
    """
    app = application()
    install(app, name)
    forget_fonts()
    window = window_on(DEMO / project, Settings(), remembers=False)
    window.resize(1280, 800)
    window.show()
    document: Document = window.document
    document.check()
    document.keeping.finish()
    Motion.reduced = True
    for event in events:
        document.do(event)
    for each in beside:
        add_window(document, each)
    document.show_stage(of)
    stage_named(of).ready(document)
    document.select(selection)
    for _ in range(5):
        app.processEvents()
    window.stage.picture.clearFocus()
    window.stage.setFocus()
    app.processEvents()
    window.grab().save(str(OUT / file))
    document.close()
    window.close()


def main() -> None:
    OUT.mkdir(parents=True, exist_ok=True)
    link = SelectedLink("huts-to-hut")
    stage("cresta", "link-light.png", "light", link, MORENNA)
    stage("cresta", "link-dark.png", "dark", link, MORENNA)
    stage("cresta-broken", "link-broken.png", "light", link, do.Choose(key="alp", screen="huts"))
    about = SelectedField("huts", "about")
    stage("cresta", "gather.png", "light", about, MORENNA, of="Gather")
    stays = SelectedField("stays", "nights")
    stage("cresta", "gather-service.png", "light", stays, *STAYS, of="Gather")
    badge = SelectedSlot("huts", "", "badge")
    stage("cresta", "shape.png", "light", badge, of="Shape")
    form = SelectedScreen("stay-form")
    stage("cresta", "shape-form.png", "light", form, *BOOKING, of="Shape")
    stage("cresta", "shape-dark.png", "dark", SelectedBlock("hut", "facts"), of="Shape")
    free = do.Resize(width=906, height=560)
    two = SelectedArrangement("two")
    stage("cresta", "fit.png", "light", two, free, MORENNA, of="Fit")
    three = (sized(360, 780), sized(820, 1180))
    over = SelectedBreakpoint("width", 640.0)
    stage("cresta", "fit-three.png", "light", over, free, MORENNA, of="Fit", beside=three)
    large = (Window(360.0, 780.0, text=2.0), Window(820.0, 1180.0, rtl=True))
    desk = do.Resize(width=1280, height=800)
    pocket = SelectedWindow("Pocket")
    stage("cresta", "fit-dark.png", "dark", pocket, desk, MORENNA, of="Fit", beside=large)
    draft = SelectedMark("stay-form · draft", "turn")
    stage("cresta-broken", "keep.png", "light", draft, of="Keep")
    gone = SelectedMark("huts · first in view", "first gone")
    stage("cresta", "keep-rows.png", "light", gone, of="Keep")
    saved = SelectedClaim("turning", "screens[stay-form].keep.draft")
    stage("cresta-broken", "prove.png", "light", saved, of="Prove")
    stage("cresta", "prove-dark.png", "dark", SelectedClaim("order"), of="Prove")
    for size, walk in BENCH.items():
        window = parse_window(size)
        box = parse_window("720x720")
        take_shot(DEMO / "cresta", "bench", box, "light", window, walk, OUT / f"bench-{size}.png")


if __name__ == "__main__":
    main()
