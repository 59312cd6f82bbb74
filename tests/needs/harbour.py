"""A harbour of boats, berths and jobs, made up: what the small apps of the needs are wired on."""

from __future__ import annotations

from typing import Any, Final

import polars as pl
from msgspec.structs import replace

from cadena.engine.wired import WiredApp
from cadena.model.app import (
    App,
    Arrangement,
    DetailScreen,
    FormScreen,
    FromArgument,
    FromField,
    Link,
    ListScreen,
    Parameter,
    Range,
    Screen,
    Section,
    Trigger,
    When,
)
from cadena.model.blocks import ActionsBlock, FactsBlock, FormField, HeadingBlock
from cadena.model.listing import Button, Listing, Row, Sort
from cadena.model.source import Field, Refers, Source
from cadena.records.records import Records
from cadena.sources.read_file import typed

BIRDS: Final = ("Tern", "Plover", "Gannet", "Curlew", "Dunlin", "Knot", "Skua", "Petrel")
QUAYS: Final = ("North", "South", "East", "West", "Old", "New", "Far", "Near", "High", "Low")
WORK: Final = ("Caulk", "Paint", "Splice", "Rig", "Scrape", "Tar")
STATES: Final = ("to do", "doing", "done")


def boats(count: int = 24) -> list[dict[str, Any]]:
    """Boats with whole-number keys from 0, each at a quay."""
    return [
        {
            "id": n,
            "name": f"{BIRDS[n % 8]} {n:02}",
            "quay": f"q{n % len(QUAYS)}",
            "length": 5 + (n * 7) % 11,
            "launched": f"20{n % 30:02}-0{1 + n % 9}-1{n % 9}",
            "photo": f"{n % 3}.png",
            "site": f"https://boats.invalid/{n}",
        }
        for n in range(count)
    ]


def quays() -> list[dict[str, Any]]:
    return [{"id": f"q{n}", "name": f"{name} quay"} for n, name in enumerate(QUAYS)]


def jobs() -> list[dict[str, Any]]:
    return [
        {
            "id": n,
            "what": f"{WORK[n % 6]} {n}",
            "state": STATES[n % 3],
            "is_done": n % 3 == 2,
            "boat": n % 5,
            "due": f"2027-03-{10 + n}",
        }
        for n in range(12)
    ]


REFERS: Final = {("boats", "quay"): "quays", ("jobs", "boat"): "boats"}
KINDS: Final = {"photo": "picture", "launched": "date", "due": "date"}


def records_of(some: dict[str, list[dict[str, Any]]] | None = None) -> dict[str, Records]:
    """The records of the harbour, with what refers to what."""
    made = some or {"boats": boats(), "quays": quays(), "jobs": jobs()}
    found = {}
    for name, rows in made.items():
        frame = pl.DataFrame(rows, infer_schema_length=None)
        fields = tuple(
            Field(
                name=each,
                type=KINDS.get(each, kind),  # type: ignore[arg-type]
                date="medium" if KINDS.get(each) == "date" else "as written",
                refers=Refers(to=REFERS[name, each]) if (name, each) in REFERS else None,
            )
            for each, kind in typed(Source(id=name, file="x.csv", key="id"), frame).types.items()
        )
        found[name] = typed(Source(id=name, file=f"{name}.json", key="id", fields=fields), frame)
    return found


BOAT: Final = Parameter(name="boat", type="whole number", key_of="boats")
LIST: Final = ListScreen(
    id="boats",
    title="Boats",
    rows=Listing(
        source="boats",
        search=("name",),
        sort=(Sort(field="name"),),
        row=Row(title="{name}", subtitle="{quay}", badge="{length}"),
        empty="No boats.",
    ),
)
DETAIL: Final = DetailScreen(
    id="boat",
    title="{name}",
    source="boats",
    key="boat",
    parameters=(BOAT,),
    blocks=(
        HeadingBlock(id="name", text="{name}"),
        FactsBlock(id="facts", fields=("quay", "length", "launched")),
        ActionsBlock(id="do", buttons=(Button(id="edit", label="Edit"),)),
    ),
)
FORM: Final = FormScreen(
    id="form",
    title="{name}",
    title_new="New boat",
    source="boats",
    key="boat",
    parameters=(replace(BOAT, need="none"),),
    fields=(FormField(field="name", required=True), FormField(field="length", least=1)),
)
OPEN: Final = Link(
    id="open",
    trigger=Trigger(screen="boats"),
    to="boat",
    how="beside",
    arguments=(FromField(parameter="boat", field="id"),),
)
EDIT: Final = Link(
    id="edit",
    trigger=Trigger(screen="boat", on="button", part="edit"),
    to="form",
    how="modal",
    arguments=(FromArgument(parameter="boat", argument="boat"),),
)
BOATS: Final = Section(id="boats", title="Boats", root="boats")
ONE: Final = Arrangement(id="one", when=When(width=Range(below=700)))
TWO: Final = Arrangement(id="two", panes=2)


def harbour(*more: Screen, **changed: Any) -> App:
    """Boats, beside them a boat, over it a form; one pane, or two from 700 dp."""
    app = App(
        name="Harbour",
        locale="en-GB",
        start="boats",
        sources=tuple(each.source for each in records_of().values()),
        screens=(LIST, DETAIL, FORM, *more),
        links=(OPEN, EDIT),
        sections=(BOATS,),
        arrangements=(ONE, TWO),
    )
    return replace(app, **changed)


def screen(app: App, name: str, **changed: Any) -> App:
    """The app with one screen changed."""
    made = (replace(each, **changed) if each.id == name else each for each in app.screens)
    return replace(app, screens=tuple(made))


def rows(app: App, name: str = "boats", **changed: Any) -> App:
    """The app with the rows of a list screen changed."""
    of = next(each for each in app.screens if each.id == name)
    assert isinstance(of, ListScreen)
    return screen(app, name, rows=replace(of.rows, **changed))


def wired(app: App, records: dict[str, Records] | None = None) -> WiredApp:
    return WiredApp(app, records or records_of())
