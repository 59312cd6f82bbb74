"""What can be chosen, shown by a small app that the engine runs: ways to open, and lifetimes."""

from __future__ import annotations

from functools import lru_cache, partial
from pathlib import Path
from typing import Final

import polars as pl
from msgspec.structs import replace
from PySide6.QtCore import Qt

from cadena.desktop.painting.pictures import Pictures
from cadena.desktop.painting.theme import px
from cadena.desktop.widgets.running_app import Happening, Loaded, RunningApp
from cadena.engine.events import (
    Back,
    Choose,
    Event,
    Kill,
    Relaunch,
    Restore,
    Search,
    Sleep,
    Wake,
)
from cadena.engine.session import sized
from cadena.engine.wired import WiredApp
from cadena.model.app import (
    App,
    Arrangement,
    DetailScreen,
    FromField,
    How,
    Keep,
    Link,
    ListScreen,
    PaneWidth,
    Parameter,
    Range,
    Section,
    Trigger,
    When,
)
from cadena.model.blocks import BodyBlock, HeadingBlock
from cadena.model.listing import Listing, Row
from cadena.model.part import Lifetime
from cadena.model.source import Field, Source

NARROW, WIDE = sized(300, 420), sized(640, 420)
NAMES: Final = ("Amber", "Birch", "Cedar", "Delta", "Ember", "Fjord", "Grove")
SIZE: Final = (430, 210)
"""Px that an example is wide and high."""
TOLD: Final = "{name} is one of a few made-up things, and this says a little more of it."


@lru_cache
def _loaded(how: How, search: Lifetime) -> Loaded:
    from cadena.desktop.painting.faces import measure
    from cadena.sources.read_file import typed

    fields = (Field(name="id", type="whole number"), Field(name="name"), Field(name="about"))
    source = Source(id="things", title="Things", key="id", label="name", fields=fields)
    rows = [
        {"id": number, "name": name, "about": TOLD.format(name=name)}
        for number, name in enumerate(NAMES)
    ]
    things = ListScreen(
        id="things",
        title="Things",
        rows=Listing(source="things", row=Row(title="{name}"), search=("name",)),
        keep=replace(Keep(), search=search),
    )
    thing = DetailScreen(
        id="thing",
        title="{name}",
        source="things",
        key="thing",
        parameters=(Parameter(name="thing", type="whole number", key_of="things"),),
        blocks=(HeadingBlock(id="name", text="{name}"), BodyBlock(id="about", field="about")),
    )
    link = Link(
        id="open",
        trigger=Trigger(screen="things"),
        to="thing",
        how=how,
        arguments=(FromField(parameter="thing", field="id"),),
    )
    app = App(
        name="An example",
        sources=(source,),
        screens=(things, thing),
        links=(link,),
        sections=(Section(id="things", title="Things", root="things", keep="saved"),),
        arrangements=(
            Arrangement(id="one", when=When(width=Range(below=500)), bar="none", popover_from=500),
            Arrangement(id="two", panes=2, widths=(PaneWidth(fixed=220),), bar="none"),
        ),
    )
    records = typed(source, pl.DataFrame(rows))
    return Loaded(WiredApp(app, {"things": records}, measure), Pictures(Path("/nonexistent")))


OPENS: Final = (
    Happening(Choose(screen="things", key=1), "a row is pressed, in a small window and a wide one"),
    Happening(Choose(screen="things", key=3), "another row"),
    Happening(Back(), "back"),
    Happening(Back(), "and back once more"),
)
ENDS: Final[dict[Lifetime, tuple[tuple[Event, str], ...]]] = {
    "view": ((Choose(screen="things", key=3), "a row covers it"), (Back(), "seen again")),
    "entry": ((Sleep(), "the app is put aside"), (Wake(), "and shown again")),
    "saved": ((Kill(), "the system ends the app"), (Restore(), "and restores it")),
    "stored": ((Kill(), "the app is ended"), (Relaunch(), "and started another day")),
}


def way_to_open(how: How) -> RunningApp:
    """A row pressed in a small window and in a wide one, and back."""
    shown = RunningApp(partial(_loaded, how, "saved"), (NARROW, WIDE), OPENS)
    return _quiet(shown, f"an example of {how}")


def lifetime(life: Lifetime) -> RunningApp:
    """What was typed in a search, and what becomes of it."""
    typed = Happening(Search(screen="things", text="de"), "something is typed in a search")
    ends = tuple(Happening(event, said) for event, said in ENDS[life])
    shown = RunningApp(partial(_loaded, "push", life), (NARROW,), (typed, *ends))
    return _quiet(shown, f"an example of {life}")


def _quiet(shown: RunningApp, name: str) -> RunningApp:
    """A picture, and nothing to press."""
    shown.setFixedSize(px(SIZE[0]), px(SIZE[1]))
    shown.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    shown.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
    shown.setAccessibleName(name)
    return shown
