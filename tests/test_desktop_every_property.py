"""Every property of the schema can be said in the window, or is meant for machines, with why."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any, Final

import pytest
from msgspec import Struct
from msgspec.structs import replace
from PySide6.QtWidgets import QApplication

from cadena.desktop.document.selection import (
    SelectedField,
    SelectedLink,
    SelectedScreen,
    SelectedSection,
    SelectedSource,
    Selection,
    WholeApp,
)
from cadena.desktop.stages.fit.selected import SelectedArrangement, SelectedWindow
from cadena.desktop.stages.prove.own_sentences import about_own
from cadena.desktop.stages.shape.selected import SelectedBlock, SelectedList, SelectedSlot
from cadena.desktop.widgets.words import Word, all_of
from cadena.model.app import (
    App,
    DetailScreen,
    FromArgument,
    FromConstant,
    FromPosition,
    FromRecord,
    FromValue,
    ListScreen,
    NamedWindow,
    Trigger,
)
from cadena.model.claims import OwnClaim, Situation
from cadena.model.edits.parameters import with_parameter
from cadena.model.edits.shaping import with_field
from cadena.model.find import by_id
from cadena.model.listing import Button, Condition, Group, Order, SetField, Sort, ToggleField
from cadena.model.properties import structures
from cadena.model.properties import things as told
from cadena.model.screen_parts import listings
from cadena.model.source import Field, MadeUp, Paging, Service, Source
from test_desktop import Person, person

__all__ = ["person"]

Property = tuple[str, str]
TYPED: Final = (
    *("7", "0.5", "200", "name", "x y", "30/70", "2026-01-01", "/x/{hut}", "id", "a: b", ""),
    "300x500@200",
)


def properties() -> set[Property]:
    """Every property of the model: its struct, and its name."""
    return {(each.cls.__name__, of.name) for each in structures(App) for of in each.fields}


def changed(one: Any, other: Any) -> Iterator[Property]:
    """The properties that differ between two values."""
    if isinstance(one, tuple) and isinstance(other, tuple):
        for left, right in zip(one, other, strict=False):
            yield from changed(left, right)
    if isinstance(other, Struct) and type(one) is not type(other):
        # Another kind in its place: what it says is said by choosing it.
        yield from ((type(other).__name__, name) for name in other.__struct_fields__)
        return
    if not isinstance(one, Struct) or not isinstance(other, Struct):
        return
    for name in one.__struct_fields__:
        left, right = getattr(one, name), getattr(other, name)
        if left is not right and left != right:
            yield type(one).__name__, name
            yield from changed(left, right)


def does(word: Word) -> Iterator[Callable[[], object]]:
    """All that a word can be made to do."""
    match word.kind:
        case "menu":
            yield from (option for _, option in word.options)
        case "line" | "size":
            yield from (lambda text=text: word.does(text) for text in TYPED)  # type: ignore[misc]
        case "do" | "choice" | "toggle" | "mend" if "…" not in word.text:
            yield word.does


FIELDS_OF: Final = ("huts", "rooms", "stays")


def is_for_machines(of: str, name: str) -> bool:
    """Whether it needs no control of its own: what it is called by, and what says how it is set."""
    return name == "id" or bool(told()[of].has[name].set)


@pytest.mark.long
def test_every_property_is_reached_by_a_control_or_is_for_machines(
    person: Person, monkeypatch: pytest.MonkeyPatch
) -> None:
    document = person.document
    made = Path(str(document.file)).parent / "made.json"
    made.write_text('[{"id": 1, "name": "One"}]')
    failed: list[str] = []
    document.failed.connect(failed.append)
    read_otherwise = with_field(document.app, document.types, "huts", "web", type="date")
    document.edit("all that there can be", with_all(read_otherwise))
    QApplication.processEvents()
    assert failed == []
    reached = reached_in(person, monkeypatch)
    every = properties()
    left = sorted(f"{of}.{name}" for of, name in every - reached if not is_for_machines(of, name))
    assert not left, " ".join(left)


def reached_in(person: Person, monkeypatch: pytest.MonkeyPatch) -> set[Property]:
    """What the controls of all things change: each is tried, and nothing is."""
    document = person.document
    reached: set[Property] = set()

    def edit(what: str, app: App, *_: Any, **__: Any) -> None:
        reached.update(changed(document.app, app))

    monkeypatch.setattr(document, "edit", edit)
    for name in ("select", "show_stage", "show_section", "mend", "play_events"):
        monkeypatch.setattr(document, name, lambda *_: None)
    document.blockSignals(True)
    for stage, selection in things(document.app):
        document.stage, document.selection = stage, selection
        strip = person.window.stage_of(stage).strip
        said = (
            about_own(document, document.app.claims[0])
            if stage == "Prove"
            else strip.sentences(document)
        )
        for sentence in list(all_of(said)):
            for word in sentence.words:
                for act in does(word):
                    act()
    document.blockSignals(False)
    return reached


def with_all(app: App) -> App:
    """The demo with one of each thing that it has not got."""
    huts, stays = by_id(app.screens, "huts"), by_id(app.screens, "stays")
    hut = by_id(app.screens, "hut")
    assert isinstance(huts, ListScreen)
    assert isinstance(stays, ListScreen)
    assert isinstance(hut, DetailScreen)
    rows = replace(
        huts.rows,
        where=(*huts.rows.where, Condition(field="beds", test="over", constant=0)),
        orders=(Order(name="By beds", sort=(Sort(field="beds"),)),),
        actions=(
            *huts.rows.actions,
            Button(id="flip", label="Flip", does=ToggleField(field="spring")),
            Button(id="put", label="Put", does=SetField(field="free", to=3)),
        ),
    )
    groups = (Group(title="Few", where=(Condition(field="nights", constant=1),)),)
    grid = replace(stays.rows, layout="grid", group_by="", groups=groups)
    screens = tuple(
        {"huts": replace(huts, rows=rows), "stays": replace(stays, rows=grid)}.get(each.id, each)
        for each in app.screens
    )
    link = app.links[0]
    ways = [
        FromConstant(parameter="hut", constant="mor"),
        FromPosition(parameter="hut"),
        FromRecord(parameter="hut"),
        FromArgument(parameter="hut", argument="hut"),
        FromValue(parameter="hut", value="current"),
    ]
    links = tuple(
        replace(link, id=f"way-{at}", trigger=Trigger(screen="x", part=str(at)), arguments=(way,))
        for at, way in enumerate(ways)
    )
    service = Service(
        list="http://127.0.0.1:9/x/{of}", given={"of": ""}, sort="by", order="way", sorts=("name",)
    )
    paged = replace(service, paging=Paging(by="page", size_parameter="size", next="/next"))
    called = Source(id="called", key="id", service=paged, served="service")
    made = Source(
        id="made",
        key="id",
        file="made.json",
        made_up=MadeUp(kinds={"name": "a name"}),
        fields=(Field(name="id", type="whole number"), Field(name="name")),
    )
    claim = OwnClaim(
        id="own",
        says="after",
        when=Situation(arrangement="wide", section="huts", backs=2),
        so=Situation(
            shows=("hut",), hides=("room",), arguments={"hut": "mor"}, values={"current": "mor"}
        ),
    )
    parameter = replace(hut.parameters[0], name="other", need="default", default="x", key_of="")
    return with_parameter(
        replace(
            app,
            screens=screens,
            links=(*app.links, *links),
            claims=(claim,),
            sources=(*app.sources, called, made),
            windows=(NamedWindow(name="Own", width=320, height=400),),
        ),
        "room",
        parameter,
    )


def things(app: App) -> Iterator[tuple[str, Selection]]:
    """All that can be selected, with the stage that says it."""
    yield "Link", WholeApp()
    for source in app.sources:
        yield "Gather", SelectedSource(source.id)
        for field in (
            () if source.id not in FIELDS_OF else ("id", "free", "begins", "hut", "name", "web")
        ):
            yield "Gather", SelectedField(source.id, field)
    for screen in app.screens:
        yield "Link", SelectedScreen(screen.id)
        yield "Shape", SelectedScreen(screen.id)
        for part in listings(screen):
            yield "Shape", SelectedList(screen.id, part)
            if screen.id == "huts":
                slots = ("picture", "title", "subtitle", "badge")
                yield from (("Shape", SelectedSlot(screen.id, part, slot)) for slot in slots)
        if isinstance(screen, DetailScreen):
            yield from (("Shape", SelectedBlock(screen.id, e.id)) for e in screen.blocks)
    yield from (("Link", SelectedLink(each.id)) for each in app.links)
    yield from (("Link", SelectedSection(each.id)) for each in app.sections)
    yield from (("Fit", SelectedArrangement(each.id)) for each in app.arrangements)
    yield from (("Fit", SelectedWindow(each.name)) for each in app.windows)
    yield "Prove", Selection()
