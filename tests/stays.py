"""An app with forms, row actions, groups, a grid, a strip and marks, made in a line."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from builders import Run, records_of, small_app, small_records
from cadena.engine.session import Window, sized
from cadena.engine.step import start
from cadena.engine.wired import WiredApp
from cadena.model.app import (
    App,
    AppValue,
    DetailScreen,
    FormScreen,
    FromField,
    Link,
    ListScreen,
    Parameter,
    Section,
    Trigger,
)
from cadena.model.blocks import ActionsBlock, FactsBlock, FormField, ListBlock
from cadena.model.listing import (
    Button,
    Condition,
    Group,
    Listing,
    Mark,
    RemoveRecord,
    Row,
    SaveRows,
    Sort,
    ToggleField,
)
from cadena.model.source import Field, Source, StandsOut
from cadena.records.held import held
from cadena.records.records import Records

STAY = Parameter(name="stay", type="whole number", need="none", key_of="stays")
STAY_SOURCE = Source(
    id="stays",
    file="stays.json",
    key="id",
    fields=(
        Field(name="id", type="whole number"),
        Field(name="guest"),
        Field(name="hut"),
        Field(name="nights", type="whole number", unit="nights"),
        Field(name="arrived", type="yes/no"),
        Field(name="begins", type="date"),
    ),
    stands_out=(StandsOut(field="nights", test="over", constant=5, sign="!", word="long"),),
)
ACTIONS = (
    Button(id="arrive", label="Arrived", does=ToggleField(field="arrived"), on_row=True),
    Button(id="change", label="Change"),
    Button(id="remove", label="Remove", does=RemoveRecord(confirm="Remove {guest}?")),
    Button(id="drop", label="Drop", does=RemoveRecord(undo=False)),
    Button(id="star", label="Mark", does=Mark(value="marks")),
)
STAYS = Listing(
    source="stays",
    row=Row(title="{guest}", badge="{nights}"),
    sort=(Sort(field="id"),),
    groups=(
        Group(title="Due", where=(Condition(field="arrived", constant=False),)),
        Group(title="Arrived", where=(Condition(field="arrived", constant=True),)),
    ),
    actions=ACTIONS,
    empty="No stays.",
)
FORM = FormScreen(
    id="form",
    title="Change {guest}",
    title_new="New stay",
    source="stays",
    key="stay",
    parameters=(STAY, Parameter(name="hut", need="none", key_of="huts")),
    fields=(
        FormField(field="guest", required=True, most=12),
        FormField(field="hut", required=True, choices_from="huts", argument="hut"),
        FormField(field="nights", required=True, least=1, most=30, default=1),
        FormField(field="arrived", default=False),
        FormField(field="begins"),
    ),
)


def stays_records(count: int = 6) -> dict[str, Records]:
    """Huts, rooms and stays with whole-number keys from 0; every third has arrived."""
    rows = [
        {
            "id": n,
            "guest": f"Guest {n}",
            "hut": f"h{n}",
            "nights": n + 1,
            "arrived": n % 3 == 2,
            "begins": "2026-07-01",
        }
        for n in range(count)
    ]
    made = records_of("stays", rows)
    frame = made.frame.with_columns(made.frame["begins"].str.to_date())
    types = {each.name: each.type for each in STAY_SOURCE.fields}
    return {**small_records(9), "stays": held(STAY_SOURCE, frame, types)}


def stays_app(**changed: Any) -> App:
    """Huts as in the small app, and stays: a grouped list, a detail, a form, marked huts."""
    app = small_app()
    key = FromField(parameter="stay", field="id")
    stay = DetailScreen(
        id="stay",
        title="{guest}",
        source="stays",
        key="stay",
        parameters=(replace(STAY, need="required"),),
        blocks=(
            FactsBlock(id="facts", fields=("nights", "begins"), in_place=("nights",)),
            ActionsBlock(
                id="do",
                place="bottom",
                buttons=(
                    Button(id="edit", label="Edit"),
                    Button(id="gone", label="Remove", does=RemoveRecord()),
                ),
            ),
        ),
    )
    buttons = (Button(id="new", label="New"), Button(id="csv", label="CSV", does=SaveRows()))
    marked = Listing(
        source="stays",
        where=(Condition(field="id", test="is one of", value="marks"),),
        row=Row(title="{guest}"),
        empty="Nothing marked.",
    )
    regions = Listing(source="huts", layout="strip", tile=100, row=Row(title="{name}"))
    by_hut = Listing(
        source="stays",
        where=(Condition(field="hut", choice="pick"),),
        layout="grid",
        tile=150,
        row=Row(title="{guest}"),
        empty="No stays.",
    )
    screens = (
        ListScreen(id="stays", title="Stays", rows=STAYS, buttons=buttons),
        stay,
        FORM,
        ListScreen(id="marked", title="Marked", rows=marked),
        ListScreen(
            id="tiles",
            title="Tiles",
            rows=by_hut,
            above=(ListBlock(id="pick", heading="", rows=regions),),
        ),
    )
    links = (
        Link(id="stay", trigger=Trigger(screen="stays"), to="stay", how="beside", arguments=(key,)),
        Link(id="tile", trigger=Trigger(screen="tiles"), to="stay", arguments=(key,)),
        Link(
            id="change",
            trigger=Trigger(screen="stays", on="action", part="change"),
            to="form",
            how="modal",
            arguments=(key,),
        ),
        Link(
            id="edit",
            trigger=Trigger(screen="stay", on="button", part="edit"),
            to="form",
            arguments=(key,),
        ),
        Link(
            id="new",
            trigger=Trigger(screen="stays", on="button", part="new"),
            to="form",
            how="modal",
        ),
        Link(
            id="saved",
            trigger=Trigger(screen="form", on="saved"),
            to="stay",
            how="beside",
            arguments=(key,),
        ),
    )
    sections = (
        Section(id="stays", title="Stays", root="stays"),
        Section(id="marked", title="Marked", root="marked"),
        Section(id="tiles", title="Tiles", root="tiles"),
        *app.sections,
    )
    made = replace(
        app,
        start="stays",
        sources=(*app.sources, STAY_SOURCE),
        values=(AppValue(id="marks", type="list of whole number"),),
        screens=(*app.screens, *screens),
        links=(*app.links, *links),
        sections=sections,
    )
    return replace(made, **changed)


def stays(app: App | None = None, window: Window | None = None, count: int = 6) -> Run:
    """The app of stays, running."""
    run = Run()
    run.app = WiredApp(app or stays_app(), stays_records(count))
    run.session, run.notes = start(run.app, window or sized(360, 780))
    return run
