"""Take the pictures of the documentation anew, from the demo: ``python tools/make_pictures.py``."""

from __future__ import annotations

import os
import shutil
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"

from msgspec.structs import replace
from PySide6.QtGui import QPalette

from cadena.deliver.delivery import deliver
from cadena.deliver.drive.folder_server import served
from cadena.deliver.drive.webdriver import browser
from cadena.deliver.web_app import web_app
from cadena.desktop.document.bench_windows import add_window
from cadena.desktop.document.document import Document
from cadena.desktop.document.handed import HandOver
from cadena.desktop.document.handing import handing_of
from cadena.desktop.document.selection import SelectedField, SelectedLink, SelectedScreen, Selection
from cadena.desktop.document.stages import stage_named
from cadena.desktop.jobs.comparing import comparing_of
from cadena.desktop.jobs.driving import driving_of
from cadena.desktop.painting.faces import forget_fonts
from cadena.desktop.painting.motion import Motion
from cadena.desktop.painting.theme import Name, install
from cadena.desktop.process.settings import Settings
from cadena.desktop.shell.application import application, window_on
from cadena.desktop.shell.shot import take_shot
from cadena.desktop.shell.window import MainWindow
from cadena.desktop.stages.deliver.selected import SelectedDriven, SelectedForm
from cadena.desktop.stages.fit.selected import (
    SelectedArrangement,
    SelectedBreakpoint,
)
from cadena.desktop.stages.keep.selected import SelectedMark
from cadena.desktop.stages.prove.selected import SelectedClaim
from cadena.desktop.stages.shape.selected import SelectedSlot
from cadena.engine import events as do
from cadena.engine.session import Window, sized
from cadena.engine.wired import WiredApp
from cadena.native.look import system_measure
from cadena.native.running import Running
from cadena.native.store import Store
from cadena.runs.walks.walk import Walk, parse_window
from cadena.sources.open_project import open_project

ROOT = Path(__file__).resolve().parent.parent
DEMO = ROOT / "src" / "cadena" / "demo"
OUT = ROOT / "docs" / "screenshots"
MORENNA = do.Choose(key="mor", screen="huts")
ROOM = do.Choose(key=3, screen="hut", list="rooms")
BOOKING = (
    MORENNA,
    do.Press(button="book"),
    do.Type(field="guest", to="Ilva Rauth"),
    do.Type(field="nights", to="40"),
    do.Save(),
)
BENCH: dict[str, Walk] = {
    "360x780": (MORENNA,),
    "820x1180": (MORENNA,),
    "1280x800": (MORENNA, ROOM),
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


def first_page() -> None:
    """What can be begun with, and the demo at its third step."""
    app = application()
    install(app, "light")
    forget_fonts()
    Motion.reduced = False
    window = window_on(None, Settings(), remembers=False)
    window.resize(1280, 800)
    window.show()
    app.processEvents()
    for _ in range(4):
        assert window.first.demo is not None
        window.first.demo.go_on()
    app.processEvents()
    window.grab().save(str(OUT / "first-page.png"))
    window.close()


def main() -> None:
    OUT.mkdir(parents=True, exist_ok=True)
    link = SelectedLink("huts-to-hut")
    stage("cresta", "link-light.png", "light", link, MORENNA)
    stage("cresta-broken", "link-broken.png", "light", link, do.Choose(key="alp", screen="huts"))
    about = SelectedField("huts", "about")
    stage("cresta", "gather.png", "light", about, MORENNA, of="Gather")
    badge = SelectedSlot("huts", "", "badge")
    stage("cresta", "shape.png", "light", badge, of="Shape")
    form = SelectedScreen("stay-form")
    stage("cresta", "shape-form.png", "light", form, *BOOKING, of="Shape")
    free = do.Resize(width=906, height=560)
    two = SelectedArrangement("two")
    stage("cresta", "fit.png", "light", two, free, MORENNA, of="Fit")
    three = (sized(360, 780), sized(820, 1180))
    over = SelectedBreakpoint("width", 640.0)
    stage("cresta", "fit-three.png", "light", over, free, MORENNA, of="Fit", beside=three)
    draft = SelectedMark("stay-form · draft", "turn")
    stage("cresta-broken", "keep.png", "light", draft, of="Keep")
    gone = SelectedMark("huts · first in view", "first gone")
    stage("cresta", "keep-rows.png", "light", gone, of="Keep")
    saved = SelectedClaim("turning", "screens[stay-form].keep.draft")
    stage("cresta-broken", "prove.png", "light", saved, of="Prove")
    for size, walk in BENCH.items():
        window = parse_window(size)
        box = parse_window("720x720")
        take_shot(DEMO / "cresta", "bench", box, "light", window, walk, OUT / f"bench-{size}.png")
    first_page()
    deliver_stage()
    changes()
    delivered()
    on_desktop()


@contextmanager
def in_deliver() -> Iterator[tuple[MainWindow, Document, Path]]:
    """A copy of the demo in Deliver, its window and its folder."""
    with tempfile.TemporaryDirectory() as made:
        folder = Path(made) / "cresta"
        shutil.copytree(DEMO / "cresta", folder)
        window = window_on(folder, Settings(), remembers=False)
        window.resize(1280, 800)
        window.show()
        document: Document = window.document
        document.check()
        document.keeping.finish()
        document.show_stage("Deliver")
        stage_named("Deliver").ready(document)
        yield window, document, folder
        document.close()
        window.close()


def wait_while(is_at_work: Callable[[], bool]) -> None:
    """Wait for what goes on in the background."""
    while is_at_work():
        application().processEvents()
        time.sleep(0.02)


def deliver_stage() -> None:
    """Deliver with every walk driven, through an app in which one number was changed by hand."""
    install(application(), "light")
    with in_deliver() as (window, document, folder):
        handing = handing_of(document)
        handing.write("web")
        windows = folder / "delivered" / "web" / "windows.js"
        text = windows.read_text()
        windows.write_text(text.replace("below: 640", "below: 700"))
        handing.state.made.clear()
        stage_named("Deliver").ready(document)
        driving_of(document).begin()
        wait_while(lambda: document.own(HandOver).is_driving)
        document.select(SelectedDriven("tour", "Fold"))
        application().processEvents()
        window.grab().save(str(OUT / "deliver.png"))


def changes() -> None:
    """What has changed since the demo was saved: a room opens over its hut."""
    install(application(), "dark")
    forget_fonts()
    with in_deliver() as (window, document, _):
        document.select(SelectedForm("changes"))
        links = tuple(
            replace(each, how="modal") if each.id == "hut-to-room" else each
            for each in document.app.links
        )
        document.edit("a room opens over its hut", replace(document.app, links=links))
        comparing_of(document).begin()
        wait_while(lambda: comparing_of(document).is_at_work)
        for event in (do.Resize(width=820, height=1180), MORENNA, ROOM):
            document.do(event)
        for _ in range(5):
            application().processEvents()
        window.grab().save(str(OUT / "changes.png"))


def delivered() -> None:
    """The demo as it is delivered, in a browser, at two sizes."""
    project = open_project(DEMO / "cresta")
    with tempfile.TemporaryDirectory() as made:
        folder, profile = Path(made) / "app", Path(made) / "profile"
        deliver(web_app(WiredApp(project.app, project.records), project.folder), folder)
        with served(folder) as at, browser(profile) as page:
            for width, height in ((360, 780), (1280, 800)):
                page.size(width, height)
                page.go_to(f"{at}index.html?driven#/huts/mor")
                time.sleep(1)
                page.run("document.querySelector('[data-button=save]').click()")
                page.drawn()
                (OUT / f"delivered-{width}x{height}.png").write_bytes(page.picture())
                page.go_to(f"{at}look.css")
                page.run("localStorage.clear(); sessionStorage.clear()")


def on_desktop() -> None:
    """The demo as an app for the desktop."""
    project = open_project(DEMO / "cresta")
    app = WiredApp(project.app, project.records, system_measure)
    application().setStyleSheet("")
    application().setPalette(QPalette())
    with tempfile.TemporaryDirectory() as made:
        window = Running(app, project.folder, Store(Path(made)), size=(1000, 720))
        window.show()
        window.take(MORENNA)
        application().processEvents()
        window.grab().save(str(OUT / "delivered-desktop.png"))
        window.close()


if __name__ == "__main__":
    main()
