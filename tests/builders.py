"""Small apps, made in a line, and running them."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path
from typing import Any

import polars as pl
from msgspec.structs import replace

from cadena.engine import events as do
from cadena.engine.rules.display import display_of
from cadena.engine.session import Session, Window, sized
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.app import (
    App,
    Arrangement,
    DetailScreen,
    FromArgument,
    FromField,
    Link,
    ListScreen,
    PaneWidth,
    Parameter,
    Range,
    Section,
    Trigger,
    When,
)
from cadena.model.blocks import ActionsBlock, HeadingBlock, ListBlock
from cadena.model.listing import Button, Condition, Listing, Row, Sort
from cadena.model.source import Source
from cadena.records.records import Records
from cadena.sources.open_project import open_project
from cadena.sources.read_file import typed
from cadena.words.notes import in_words

DEMO = Path(__file__).resolve().parent.parent / "src" / "cadena" / "demo"
POCKET, SLATE, DESK = sized(360, 780), sized(820, 1180), sized(1280, 800)


def records_of(name: str, rows: list[dict[str, Any]], key: str = "id") -> Records:
    """Records of a source, of the types found in them."""
    source = Source(id=name, file=f"{name}.json", key=key)
    return typed(source, pl.DataFrame(rows, infer_schema_length=None))


def small_records(count: int = 30) -> dict[str, Records]:
    """Huts h0, h1…, and two rooms in each, with whole-number keys from 0."""
    huts = [
        {
            "id": f"h{n}",
            "name": f"Hut {n:03}",
            "region": "NS"[n % 2],
            "note": "x" if n % 3 else None,
        }
        for n in range(count)
    ]
    rooms = [{"id": n, "hut": f"h{n // 2}", "name": f"Room {n}"} for n in range(2 * count)]
    return {"huts": records_of("huts", huts), "rooms": records_of("rooms", rooms)}


HUT = Parameter(name="hut", key_of="huts")


def small_app(**changed: Any) -> App:
    """Huts, beside them a hut with its rooms and a modal; one pane, or two from 600 dp."""
    huts = ListScreen(
        id="huts",
        title="Huts",
        rows=Listing(
            source="huts",
            search=("name", "region"),
            sort=(Sort(field="name"),),
            row=Row(title="{name}", subtitle="{note}"),
            empty="No huts.",
        ),
    )
    rooms = Listing(
        source="rooms",
        where=(Condition(field="hut", argument="hut"),),
        row=Row(title="{name}"),
        empty="No rooms.",
    )
    hut = DetailScreen(
        id="hut",
        title="{name}",
        source="huts",
        key="hut",
        parameters=(HUT,),
        blocks=(
            HeadingBlock(id="name", text="{name}"),
            ListBlock(id="rooms", heading="Rooms", rows=rooms),
            ActionsBlock(
                id="do", buttons=(Button(id="book", label="Book"), Button(id="ask", label="Ask"))
            ),
        ),
    )
    room_key = Parameter(name="room", type="whole number", key_of="rooms")
    room = DetailScreen(
        id="room",
        title="{name}",
        source="rooms",
        key="room",
        parameters=(room_key,),
        blocks=(HeadingBlock(id="name", text="{name}"),),
    )
    book = DetailScreen(
        id="book",
        title="Book {name}",
        source="huts",
        key="hut",
        parameters=(HUT,),
        blocks=(HeadingBlock(id="name", text="{name}"),),
    )
    app = App(
        name="Small",
        start="huts",
        sources=(
            Source(id="huts", file="huts.json", key="id"),
            Source(id="rooms", file="rooms.json", key="id"),
        ),
        screens=(huts, hut, room, book),
        links=(
            Link(
                id="open",
                trigger=Trigger(screen="huts"),
                to="hut",
                how="beside",
                arguments=(FromField(parameter="hut", field="id"),),
            ),
            Link(
                id="room",
                trigger=Trigger(screen="hut", part="rooms"),
                to="room",
                arguments=(FromField(parameter="room", field="id"),),
            ),
            Link(
                id="book",
                trigger=Trigger(screen="hut", on="button", part="book"),
                to="book",
                how="modal",
                arguments=(FromArgument(parameter="hut", argument="hut"),),
            ),
            Link(
                id="ask",
                trigger=Trigger(screen="hut", on="button", part="ask"),
                to="book",
                how="popover",
                arguments=(FromArgument(parameter="hut", argument="hut"),),
            ),
        ),
        sections=(
            Section(id="huts", title="Huts", root="huts"),
            Section(id="again", title="Again", root="huts"),
        ),
        arrangements=(
            Arrangement(id="one", when=When(width=Range(below=600)), popover_from=400),
            Arrangement(id="two", panes=2, widths=(PaneWidth(fixed=260),)),
        ),
    )
    return replace(app, **changed)


def with_screen(app: App, name: str, **changed: Any) -> App:
    """The app with one screen changed."""
    return replace(
        app, screens=tuple(replace(e, **changed) if e.id == name else e for e in app.screens)
    )


def with_link(app: App, name: str, **changed: Any) -> App:
    """The app with one link changed."""
    return replace(
        app, links=tuple(replace(e, **changed) if e.id == name else e for e in app.links)
    )


def with_arrangement(app: App, name: str, **changed: Any) -> App:
    """The app with one arrangement changed."""
    made = tuple(replace(e, **changed) if e.id == name else e for e in app.arrangements)
    return replace(app, arrangements=made)


class Run:
    """A running app; events are given by calling, and what is on display can be asked."""

    def __init__(self, app: App | None = None, window: Window = POCKET, count: int = 30) -> None:
        self.app = WiredApp(app or small_app(), small_records(count))
        self.session, self.notes = start(self.app, window)

    def __call__(self, *events: do.Event) -> Run:
        for event in events:
            self.session, self.notes, self.refused = step(self.app, self.session, event)
        return self

    def choose(self, key: Any, screen: str = "huts", list: str = "") -> Run:
        return self(do.Choose(key=key, screen=screen, list=list))

    def resize(self, window: Window) -> Run:
        return self(do.Resize(width=window.width, height=window.height, fold=window.fold))

    @property
    def chain(self) -> list[str]:
        return [each.screen for each in self.session.entries]

    @property
    def arguments(self) -> dict[str, Any]:
        return self.session.entries[-1].arguments

    @property
    def shown(self) -> list[str]:
        """What is on display, left to right, then what lies over it."""
        display = display_of(self.app, self.session)
        entries = self.session.entries
        panes = [*display.panes, *filter(None, (display.slid, display.layer))]
        return ["-" if each.entry is None else entries[each.entry].screen for each in panes]

    @property
    def kinds(self) -> list[str]:
        return [each.kind for each in self.notes]

    @property
    def said(self) -> str:
        return "; ".join(in_words(each) for each in self.notes)


@lru_cache
def demo(name: str = "cresta") -> WiredApp:
    """A demo project, read once."""
    project = open_project(DEMO / name)
    return WiredApp(project.app, project.records)


def session_of(window: Window, app: WiredApp) -> Session:
    return start(app, window)[0]
