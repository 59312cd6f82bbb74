"""How the demo is wired: Cresta Huts, and the same with one of each mistake."""

from __future__ import annotations

from msgspec.structs import replace

from cadena.model.app import (
    App,
    Arrangement,
    DetailScreen,
    FromArgument,
    FromConstant,
    FromField,
    FromPosition,
    FromRecord,
    Link,
    ListScreen,
    PaneWidth,
    Parameter,
    Range,
    Section,
    Trigger,
    When,
)
from cadena.model.blocks import (
    ActionsBlock,
    BodyBlock,
    FactsBlock,
    HeadingBlock,
    ListBlock,
    PictureBlock,
)
from cadena.model.listing import Button, Condition, Listing, Row, Sort
from cadena.model.source import Field, Source

HUT = Parameter(name="hut", key_of="huts")
ROOM = Parameter(name="room", type="whole number", key_of="rooms")
ROUTE = Parameter(name="route", key_of="routes")


def fields(text: str) -> tuple[Field, ...]:
    pairs = (each.split(":") for each in text.split(", "))
    return tuple(Field(name=name, type=kind) for name, kind in pairs)  # type: ignore[arg-type]


HUT_FIELDS = fields(
    "id:text, name:text, region:text, altitude:whole number, beds:whole number, "
    "free:whole number, photo:picture, about:text, warden:text, spring:yes/no, phone:text"
)
ROOM_FIELDS = fields(
    "id:whole number, hut:text, name:text, beds:whole number, price:number, window:text"
)
SOURCES = (
    Source(id="huts", title="Huts", file="huts.json", key="id", fields=HUT_FIELDS),
    Source(id="rooms", title="Rooms", file="rooms.csv", key="id", fields=ROOM_FIELDS),
    Source(id="routes", title="Routes", file="routes.json", key="id"),
    Source(id="legs", title="Legs", file="legs.csv", key="id"),
)

HUTS = ListScreen(
    id="huts",
    title="Huts",
    rows=Listing(
        source="huts",
        search=("name", "region"),
        sort=(Sort(field="name"),),
        row=Row(
            title="{name}", subtitle="{altitude} m · {region}", picture="photo", badge="{free}"
        ),
        empty="No huts yet.",
        not_found="No hut has such a name or region.",
    ),
    nothing_chosen_words="Choose a hut to see its rooms.",
)
ROUTES = ListScreen(
    id="routes",
    title="Routes",
    rows=Listing(
        source="routes",
        search=("name", "grade"),
        row=Row(title="{name}", subtitle="{note}", badge="{grade}"),
        empty="No routes yet.",
        not_found="No route has such a name or grade.",
    ),
    nothing_chosen="open last",
    nothing_chosen_words="Choose a route to see its legs.",
)
HUT_SCREEN = DetailScreen(
    id="hut",
    title="{name}",
    source="huts",
    key="hut",
    parameters=(HUT,),
    blocks=(
        PictureBlock(id="photo", field="photo"),
        HeadingBlock(id="name", text="{name}"),
        FactsBlock(id="facts", fields=("altitude", "region", "free", "spring")),
        BodyBlock(id="about", field="about"),
        ListBlock(
            id="rooms",
            heading="Rooms",
            rows=Listing(
                source="rooms",
                where=(Condition(field="hut", argument="hut"),),
                row=Row(title="{name}", badge="{beds} beds"),
                empty="No rooms are let here.",
            ),
        ),
        ActionsBlock(id="actions", buttons=(Button(id="ask", label="Ask the warden"),)),
        ListBlock(
            id="passing",
            heading="Routes that pass",
            rows=Listing(
                source="legs",
                where=(Condition(field="hut", argument="hut"),),
                row=Row(title="Leg {number}", subtitle="{hours} h · {climb} m up"),
                empty="No route passes here.",
            ),
        ),
    ),
    when_gone="next",
)
ROOM_SCREEN = DetailScreen(
    id="room",
    title="{name}",
    source="rooms",
    key="room",
    parameters=(ROOM,),
    blocks=(
        HeadingBlock(id="name", text="{name}"),
        FactsBlock(id="facts", fields=("beds", "price", "window")),
    ),
)
WARDEN = DetailScreen(
    id="warden",
    title="{warden}",
    source="huts",
    key="hut",
    parameters=(HUT,),
    blocks=(
        HeadingBlock(id="name", text="{warden}"),
        FactsBlock(id="facts", fields=("phone", "name")),
    ),
)
ROUTE_SCREEN = DetailScreen(
    id="route",
    title="{name}",
    source="routes",
    key="route",
    parameters=(ROUTE,),
    blocks=(
        HeadingBlock(id="name", text="{name}"),
        FactsBlock(id="facts", fields=("grade", "days")),
        BodyBlock(id="note", field="note"),
        ListBlock(
            id="legs",
            heading="Legs",
            rows=Listing(
                source="legs",
                where=(Condition(field="route", argument="route"),),
                sort=(Sort(field="number"),),
                row=Row(title="{hut_name}", subtitle="{hours} h · {climb} m up", badge="{number}"),
                empty="This route has no legs yet.",
            ),
        ),
    ),
)
LINKS = (
    Link(
        id="huts-to-hut",
        trigger=Trigger(screen="huts"),
        to="hut",
        how="beside",
        arguments=(FromField(parameter="hut", field="id"),),
    ),
    Link(
        id="hut-to-room",
        trigger=Trigger(screen="hut", part="rooms"),
        to="room",
        arguments=(FromField(parameter="room", field="id"),),
    ),
    Link(
        id="hut-to-warden",
        trigger=Trigger(screen="hut", on="button", part="ask"),
        to="warden",
        how="popover",
        arguments=(FromArgument(parameter="hut", argument="hut"),),
    ),
    Link(
        id="hut-to-route",
        trigger=Trigger(screen="hut", part="passing"),
        to="route",
        arguments=(FromField(parameter="route", field="route"),),
    ),
    Link(
        id="routes-to-route",
        trigger=Trigger(screen="routes"),
        to="route",
        how="beside",
        arguments=(FromField(parameter="route", field="id"),),
    ),
    Link(
        id="route-to-hut",
        trigger=Trigger(screen="route", part="legs"),
        to="hut",
        arguments=(FromField(parameter="hut", field="hut"),),
    ),
)
ARRANGEMENTS = (
    Arrangement(
        id="one",
        title="one at a time",
        when=When(width=Range(below=640)),
        panes=1,
        popover_from=480,
    ),
    Arrangement(
        id="two",
        title="list beside detail",
        when=When(width=Range(least=640, below=1040)),
        panes=2,
        widths=(PaneWidth(fixed=300),),
    ),
    Arrangement(
        id="wide",
        title="rail, list, detail",
        when=When(width=Range(least=1040)),
        panes=2,
        widths=(PaneWidth(least=280, most=360),),
        bar="rail",
    ),
)


def cresta() -> App:
    """Cresta Huts, wired well."""
    return App(
        name="Cresta Huts",
        start="huts",
        sources=SOURCES,
        screens=(HUTS, HUT_SCREEN, ROOM_SCREEN, WARDEN, ROUTES, ROUTE_SCREEN),
        links=LINKS,
        sections=(
            Section(id="huts", title="Huts", root="huts"),
            Section(id="routes", title="Routes", root="routes"),
        ),
        arrangements=ARRANGEMENTS,
    )


def cresta_broken() -> App:
    """The same app with one of each mistake that ``cadena check`` knows."""
    good = cresta()
    keyless = (
        Source(id="cabins", title="Cabins", file="cabins.csv", key="id"),
        Source(id="gaps", title="Gaps", file="gaps.csv", key="id"),
    )
    cabins = ListScreen(
        id="cabins",
        title="Cabins",
        rows=Listing(source="cabins", row=Row(title="{name}", subtitle="{nickname}")),
    )
    attic = replace(ROOM_SCREEN, id="attic", title="")
    by_position = DetailScreen(
        id="nth",
        title="{name}",
        source="huts",
        key="hut",
        parameters=(Parameter(name="hut", type="whole number"),),
        blocks=(HeadingBlock(id="name", text="{name}"), BodyBlock(id="view", field="panorama")),
    )
    whole = replace(WARDEN, id="whole", source="guides", key="guide")
    row = replace(HUT_SCREEN, blocks=(*HUT_SCREEN.blocks[:5], _buttons(), HUT_SCREEN.blocks[6]))
    unfit = FromConstant(parameter="room", constant="three")
    links = (
        replace(LINKS[0], arguments=()),
        replace(LINKS[1], arguments=(unfit,)),
        replace(LINKS[2], arguments=(FromArgument(parameter="hut", argument="shelter"),)),
        replace(LINKS[3], arguments=(*LINKS[3].arguments, FromField(parameter="leg", field="id"))),
        *LINKS[4:],
        _from_button("gone", "lost", ()),
        _from_button("cellar", "room", (FromConstant(parameter="room", constant=0),)),
        _from_button("nth", "nth", (FromConstant(parameter="hut", constant=3),)),
        _from_button("whole", "whole", (FromArgument(parameter="hut", argument="hut"),)),
        _from_button("attic", "attic", (FromConstant(parameter="room", constant=0),)),
        Link(
            id="cabins-to-nth",
            trigger=Trigger(screen="cabins"),
            to="nth",
            arguments=(FromPosition(parameter="hut"),),
        ),
        Link(
            id="spare-to-hut",
            trigger=Trigger(screen="spare"),
            to="hut",
            arguments=(FromRecord(parameter="hut"),),
        ),
    )
    return replace(
        good,
        name="Cresta Huts, broken",
        start="home",
        sources=(*SOURCES, *keyless),
        screens=(
            HUTS,
            row,
            ROOM_SCREEN,
            WARDEN,
            ROUTES,
            ROUTE_SCREEN,
            cabins,
            attic,
            by_position,
            whole,
            _spare(),
        ),
        links=links,
        sections=(
            *good.sections,
            Section(id="cabins", title="Cabins", root="cabins"),
            Section(id="maps", title="Maps", root="maps"),
            Section(id="bed", title="A bed", root="room"),
        ),
    )


def _spare() -> ListScreen:
    listing = Listing(source="gaps", row=Row(title="{name}"), empty="Nothing here.")
    listing = replace(listing, where=(Condition(field="id", argument="valley"),))
    return ListScreen(id="spare", title="Spare", rows=listing)


def _buttons() -> ActionsBlock:
    made = (
        ("ask", "Ask the warden"),
        ("gone", "Lost"),
        ("nth", "Third hut"),
        ("whole", "Guide"),
        ("attic", "Attic"),
    )
    return ActionsBlock(
        id="actions", buttons=tuple(Button(id=each, label=label) for each, label in made)
    )


def _from_button(button: str, to: str, arguments: tuple[FromConstant | FromArgument, ...]) -> Link:
    trigger = Trigger(screen="hut", on="button", part=button)
    return Link(id=f"hut-{button}", trigger=trigger, to=to, arguments=arguments)
