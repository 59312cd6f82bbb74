"""References between records (rules.md, 13)."""

from __future__ import annotations

from typing import Any

import pytest
from msgspec.structs import replace

from builders import (
    DESK,
    POCKET,
    Run,
    records_of,
    small_app,
    small_records,
    with_link,
    with_screen,
)
from cadena.check.check import check
from cadena.engine import events as do
from cadena.engine.form_values import faults_of
from cadena.engine.step import start
from cadena.engine.wired import WiredApp
from cadena.model.app import (
    App,
    DetailScreen,
    FormScreen,
    FromField,
    Link,
    ListScreen,
    Parameter,
    Section,
    Trigger,
)
from cadena.model.blocks import FactsBlock, FormField
from cadena.model.find import by_id
from cadena.model.listing import Listing, Row, Sort
from cadena.model.source import Field, Refers, Source
from cadena.records.changes import Change
from cadena.records.records import Records
from cadena.runs.possible import possible
from cadena.scene.lay_out import lay_out
from cadena.scene.scene import typed_into
from kit_traces import kit_differs, needs_node

REGIONS = [{"id": "n", "name": "North"}, {"id": "s", "name": "South"}]
HUTS: list[dict[str, Any]] = [
    {"id": "h0", "name": "Fonda", "region": "n"},
    {"id": "h1", "name": "Alpe", "region": "s"},
    {"id": "h2", "name": "Corvo", "region": None},
]
ROOMS = [{"id": n, "name": f"Room {n}", "hut": ["h0", "h1", "h2", "gone"][n % 4]} for n in range(8)]


def sources() -> dict[str, Records]:
    made = {
        "regions": records_of("regions", REGIONS),
        "huts": records_of("huts", HUTS),
        "rooms": records_of("rooms", ROOMS),
    }
    refers = {("huts", "region"): "regions", ("rooms", "hut"): "huts"}
    said = {}
    for name, records in made.items():
        fields = tuple(
            Field(
                name=each,
                type=kind,
                refers=Refers(to=to) if (to := refers.get((name, each))) else None,
            )
            for each, kind in records.types.items()
        )
        said[name] = records.said_by(replace(records.source, fields=fields))
    return said


def rooms_app() -> tuple[App, dict[str, Records]]:
    """The small app, whose rooms are a list of their own, and tell the hut and its region."""
    records = sources()
    app = replace(small_app(), sources=tuple(each.source for each in records.values()))
    huts = by_id(app.screens, "huts")
    rooms = replace(
        huts,
        rows=replace(
            huts.rows,
            source="rooms",
            row=Row(title="{name}", subtitle="{hut} · {hut.region.name}"),
            sort=(Sort(field="hut.name"),),
            search=("hut.name",),
            group_by="",
            groups=(),
            where=(),
        ),
    )
    facts = FactsBlock(id="facts", fields=("name", "hut", "hut.region.name"), opens=("hut",))
    room = replace(
        by_id(app.screens, "room"), source="rooms", blocks=(facts,), title="{hut.name} {name}"
    )
    app = with_screen(
        with_screen(app, "huts", rows=rooms.rows),
        "room",
        **{e: getattr(room, e) for e in ("source", "blocks", "title")},
    )
    key = FromField(parameter="hut", field="hut")
    up = Link(
        id="up",
        trigger=Trigger(screen="room", on="fact", part="hut"),
        to="hut",
        how="push",
        arguments=(key,),
    )
    down = replace(
        by_id(app.links, "open"), to="room", arguments=(FromField(parameter="room", field="id"),)
    )
    links = tuple(
        down if each.id == "open" else each
        for each in app.links
        if each.to != "room" or each.id == "open"
    )
    return replace(app, links=(*links, up)), records


def running(window: Any = POCKET) -> Run:
    app, records = rooms_app()
    run = Run(app, window)
    return on_records(run, records)


def on_records(run: Run, records: dict[str, Records]) -> Run:
    run.app = WiredApp(run.app.app, records)
    run.session, run.notes = start(run.app, run.session.window)
    return run


def said(run: Run, kind: str) -> list[str]:
    return [
        box.text
        for box in lay_out(run.app, run.session, run.session.window).boxes
        if box.kind == kind
    ]


def test_13_a_reference_is_said_by_its_label_and_by_its_value_where_nothing_is_there() -> None:
    run = running()
    rows = dict(zip(said(run, "row title"), said(run, "row subtitle"), strict=True))
    assert rows["Room 0"] == "Fonda · North"
    assert rows["Room 2"] == "Corvo"
    assert rows["Room 3"] == "gone"


def test_13_a_path_sorts_and_searches() -> None:
    run = running()
    assert said(run, "row title")[:2] == ["Room 1", "Room 5"]
    run(do.Search(text="corv"))
    assert said(run, "row title") == ["Room 2", "Room 6"]
    run(do.Search(text=""), do.SortBy(by=(Sort(field="hut.region.name", descending=True),)))
    assert said(run, "row title")[0] == "Room 1"


def test_13_a_fact_opens_what_it_holds_the_key_of() -> None:
    run = running()
    run(do.Choose(key=4))
    assert run.app.title_of(run.session, run.session.entries[-1]) == "Fonda Room 4"
    fact = next(
        box
        for box in lay_out(run.app, run.session, POCKET).boxes
        if box.does == do.OpenFact(screen="room", entry=1, fact="hut")
    )
    assert (fact.text, fact.name) == ("Fonda", "hut, Fonda")
    assert fact.does in [each.event for each in possible(run.app, run.session)]
    run(fact.does)
    assert run.chain == ["huts", "room", "hut"]
    assert run.arguments == {"hut": "h0"}
    run(do.Back())
    assert run.chain == ["huts", "room"]


def test_13_what_a_reference_leads_to_follows_its_changes() -> None:
    run = running()
    run(do.Edit(source="huts", key="h0", fields={"name": "Fonda Alta", "region": "s"}))
    rows = dict(zip(said(run, "row title"), said(run, "row subtitle"), strict=True))
    assert rows["Room 0"] == "Fonda Alta · South"
    run(do.Refresh(source="huts", gone=("h0",)))
    rows = dict(zip(said(run, "row title"), said(run, "row subtitle"), strict=True))
    assert rows["Room 0"] == "h0"


def test_13_paths_are_no_fields_of_the_records_themselves() -> None:
    run = running()
    added = {"id": 99, "name": "New", "hut": "h1"}
    run(do.Refresh(source="rooms", added=(added,), changed=(Change(0, {"hut": "h2"}),)))
    assert run.kinds == ["refreshed"]
    run(do.Search(text="alpe"))
    assert "New" in said(run, "row title")


def test_13_check_knows_paths_and_says_which_lead_nowhere() -> None:
    app, records = rooms_app()
    assert "field-missing" not in [each.code for each in check(app, records)]
    rows = replace(by_id(app.screens, "huts").rows, row=Row(title="{hut.nobody}"))
    broken = with_screen(app, "huts", rows=rows)
    assert "field-missing" in [each.code for each in check(broken, records)]


@pytest.mark.parametrize("window", [POCKET, DESK])
def test_13_a_record_may_refer_to_one_of_its_own_source(window: Any) -> None:
    staff = [{"id": n, "name": f"P{n}", "boss": n // 2 if n else None} for n in range(6)]
    records = records_of("huts", staff)
    fields = (
        Field(name="id", type="whole number"),
        Field(name="name"),
        Field(name="boss", type="whole number", refers=Refers(to="huts")),
    )
    source = Source(id="huts", key="id", fields=fields)
    app = replace(small_app(), sources=(source,))
    rows = replace(
        by_id(app.screens, "huts").rows,
        row=Row(title="{name}", subtitle="{boss} · {boss.boss.name}"),
        where=(),
        groups=(),
        group_by="",
        sort=(),
    )
    run = Run(with_screen(app, "huts", rows=rows), window)
    on_records(run, {"huts": records.said_by(source)})
    assert said(run, "row subtitle")[-1] == "P2 · P1"


def rooms_with_a_form(**field: Any) -> App:
    """Rooms that refer to their hut, and a form for a new one."""
    form = FormScreen(
        id="form",
        title="Room",
        source="rooms",
        key="room",
        parameters=(Parameter(name="room", type="whole number", need="none", key_of="rooms"),),
        fields=(FormField(field="hut", **field), FormField(field="name")),
    )
    rooms = Source(
        id="rooms",
        file="rooms.json",
        key="id",
        fields=(Field(name="hut", refers=Refers(to="huts")),),
    )
    app = small_app()
    screens, sources = (*app.screens, form), (app.sources[0], rooms)
    app = replace(app, screens=screens, sources=sources)
    return with_link(app, "book", to="form", arguments=())


def test_10_a_field_that_refers_chooses_by_label_and_what_names_no_record_is_a_fault() -> None:
    run = Run(rooms_with_a_form(), count=3).choose("h1")(do.Press(button="book"))
    texts = [e.text for e in lay_out(run.app, run.session, POCKET).boxes if e.kind == "option"]
    assert texts == ["Hut 000", "Hut 001", "Hut 002"]
    run(do.Type(field="hut", to="h9"), do.Save())
    assert run.chain[-1] == "form"
    (fault,) = faults_of(run.app, run.session, run.session.entries[-1]).items()
    assert fault == ("hut", "must be one of huts")
    run(do.Type(field="hut", to="h2"), do.Save())
    assert run.chain[-1] == "hut"


def test_10_a_field_that_says_its_own_choices_keeps_them() -> None:
    app = WiredApp(rooms_with_a_form(choices=("h0", "h9")), small_records(3))
    form = app.screens["form"]
    assert isinstance(form, FormScreen)
    assert [each.choices_from for each in form.fields] == ["", ""]
    late = replace(rooms_with_a_form().sources[0], served="stand-in")
    app = rooms_with_a_form()
    wired = WiredApp(replace(app, sources=(late, app.sources[1])), small_records(3))
    assert wired.screens["form"].fields[0].choices_from == ""  # type: ignore[union-attr]


def differences_of_the_kit(app: App, events: list[do.Event]) -> list[Any]:
    """How the kit's trace differs from the engine's, of three huts."""
    return kit_differs(WiredApp(app, small_records(3)), POCKET, events)


@needs_node
def test_10_the_kit_chooses_so_as_well() -> None:
    events = [do.Choose(key="h1"), do.Press(button="book"), do.Type(field="hut", to="h9")]
    events += [do.Save(), do.Type(field="hut", to="h2"), do.Save()]
    assert differences_of_the_kit(rooms_with_a_form(), events) == [None] * 7


def hut_of_a_room_in_place() -> App:
    """Rooms on the first list, a detail whose fact *hut* is changed in place."""
    app = rooms_with_a_form()
    detail = by_id(app.screens, "hut")
    facts = FactsBlock(id="facts", fields=("name", "hut"), in_place=("hut",))
    room = DetailScreen(
        id="one_room",
        title="{name}",
        source="rooms",
        key="room",
        parameters=(Parameter(name="room", type="whole number", key_of="rooms"),),
        blocks=(facts,),
    )
    assert detail is not None
    section = Section(id="rooms", title="Rooms", root="all_rooms")
    rooms = ListScreen(id="all_rooms", title="Rooms", rows=Listing(source="rooms"))
    link = Link(
        id="one_room",
        trigger=Trigger(screen="all_rooms"),
        to="one_room",
        arguments=(FromField(parameter="room", field="id"),),
    )
    return replace(
        app,
        screens=(*app.screens, room, rooms),
        sections=(section,),
        start="rooms",
        links=(*app.links, link),
    )


def test_8_a_reference_changed_in_place_is_chosen_by_label_and_names_a_record() -> None:
    run = Run(hut_of_a_room_in_place(), count=3).choose(0, screen="all_rooms")

    def typed(text: str) -> None:
        scene = lay_out(run.app, run.session, POCKET)
        (box,) = (each for each in scene.boxes if each.kind == "in place")
        event = typed_into(run.app, run.session, box, text)
        assert event is not None
        run(event)

    def hut() -> tuple[str, Any]:
        scene = lay_out(run.app, run.session, POCKET)
        (box,) = (each for each in scene.boxes if each.kind == "in place")
        record = run.app.record_of(run.session, run.session.entries[-1])
        assert record is not None
        return box.text, record["hut"]

    typed("hut 002")
    assert hut() == ("Hut 002", "h2")
    typed("h1")
    assert hut() == ("Hut 001", "h1")
    typed("Nowhere")
    assert run.kinds == ["refused"]
    assert hut() == ("Hut 001", "h1")
    typed("Hut")
    assert (run.kinds, hut()[1]) == (["refused"], "h1")
    typed("")
    assert hut() == ("", None)


@needs_node
def test_8_the_kit_takes_only_what_names_a_record_as_well() -> None:
    changes = [do.Edit(source="rooms", key=0, fields={"hut": to}) for to in ("h2", "h9", None, "")]
    events = [do.Choose(key=0, screen="all_rooms"), *changes]
    assert differences_of_the_kit(hut_of_a_room_in_place(), events) == [None] * 6
