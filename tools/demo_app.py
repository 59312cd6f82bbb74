"""How the demo is wired: Cresta Huts, and the same with one of each mistake."""

from __future__ import annotations

from msgspec.structs import replace

from cadena.model.app import (
    App,
    AppValue,
    Arrangement,
    Brings,
    DetailScreen,
    FormScreen,
    FromArgument,
    FromConstant,
    FromField,
    FromPosition,
    FromRecord,
    FromValue,
    Keep,
    Link,
    ListScreen,
    NamedWindow,
    Pair,
    PaneWidth,
    Parameter,
    Platform,
    Range,
    RowKind,
    Section,
    Side,
    Transition,
    Trigger,
    When,
)
from cadena.model.blocks import (
    ActionsBlock,
    AddressBlock,
    BodyBlock,
    FactsBlock,
    FormField,
    HeadingBlock,
    ListBlock,
    PageBlock,
    PictureBlock,
)
from cadena.model.listing import (
    Button,
    Condition,
    ForSeveral,
    Group,
    LeaveFor,
    Listing,
    Mark,
    Order,
    RemoveRecord,
    Row,
    SaveRows,
    SetField,
    Sort,
    TableColumn,
    ToggleField,
)
from cadena.model.source import Field, Refers, Service, Source, StandIn, StandsOut, Writing
from cadena.model.windows import NAMED

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
STAY_FIELDS = fields(
    "id:whole number, guest:text, hut:text, begins:date, nights:whole number, "
    "people:whole number, arrived:yes/no, note:text"
)
NOTICE_FIELDS = fields("id:whole number, hut:text, day:date, text:text")
SAID = {
    "altitude": {"unit": "m"},
    "about": {"when_empty": ""},
    "phone": {"when_empty": "no telephone"},
    "web": {"label": "on the web"},
    "spring": {"label": "spring water"},
    "price": {"decimals": 2, "unit": "fl"},
    "window": {"when_empty": "no window"},
    "guest": {"required": True},
    "begins": {"date": "medium", "required": True},
    "day": {"date": "long"},
    "note": {"when_empty": ""},
}


def said(made: tuple[Field, ...]) -> tuple[Field, ...]:
    """The fields, with how they are said."""
    return tuple(replace(each, **SAID.get(each.name, {})) for each in made)


SOURCES = (
    Source(
        id="huts",
        title="Huts",
        file="huts.json",
        key="id",
        fields=said(HUT_FIELDS),
        stands_out=(
            StandsOut(field="free", test="is", constant=0, sign="✕", word="full", colour="bad"),
            StandsOut(field="free", test="under", constant=5, word="scarce"),
            StandsOut(
                field="free", test="over", constant=8, sign="✓", word="plenty", colour="good"
            ),
        ),
    ),
    Source(id="rooms", title="Rooms", file="rooms.csv", key="id", fields=said(ROOM_FIELDS)),
    Source(id="routes", title="Routes", file="routes.json", key="id"),
    Source(
        id="legs",
        title="Legs",
        file="legs.csv",
        key="id",
        fields=(
            Field(name="hut", refers=Refers(to="huts")),
            Field(name="route", refers=Refers(to="routes")),
        ),
    ),
    Source(
        id="stays",
        title="Stays",
        file="stays.csv",
        key="id",
        fields=said(STAY_FIELDS),
        served="stand-in",
        list_brings=("guest", "begins", "nights", "arrived", "hut"),
        stand_in=StandIn(delay=300, page=20),
        stands_out=(StandsOut(field="nights", test="at least", constant=7, word="a week"),),
    ),
    Source(id="regions", title="Regions", file="regions.jsonl", key="id"),
    Source(
        id="notices",
        title="Notices",
        file="notices.sqlite",
        at="notices",
        key="id",
        fields=said(NOTICE_FIELDS),
    ),
)

SAVE = Button(id="save", label="Save", when_on="Saved", does=Mark(value="saved"))
HUTS = ListScreen(
    id="huts",
    title="Huts",
    rows=Listing(
        source="huts",
        search=("name", "region"),
        sort=(Sort(field="name"),),
        row=Row(title="{name}", subtitle="{altitude} · {region}", picture="photo", badge="{free}"),
        where=(Condition(field="region", choice="regions"),),
        actions=(
            replace(SAVE, id="keep"),
            Button(id="full", label="Close all beds", does=SetField(field="free", to=0)),
            Button(id="take-out", label="Take out", does=RemoveRecord(confirm="Take {name} out?")),
        ),
        limit=40,
        past_limit="{shown} of {found} huts shown: search for the others.",
        empty="No huts yet.",
        not_found="No hut has such a name or region.",
    ),
    above=(
        ListBlock(
            id="regions",
            heading="",
            rows=Listing(
                source="regions",
                layout="strip",
                tile=112,
                row=Row(title="{id}"),
                empty="No regions.",
            ),
        ),
    ),
    buttons=(Button(id="csv", label="CSV", does=SaveRows()),),
    nothing_chosen_words="Choose a hut to see its rooms.",
)
ROUTES = ListScreen(
    id="routes",
    title="Routes",
    rows=Listing(
        source="routes",
        search=("name", "grade"),
        row=Row(title="{name}", subtitle="{legs.many} · {legs.sum.hours} h", badge="{grade}"),
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
    address="/huts/{hut}",
    parameters=(HUT,),
    blocks=(
        PictureBlock(id="photo", field="photo"),
        HeadingBlock(id="name", text="{name}"),
        FactsBlock(
            id="facts",
            fields=("altitude", "region", "free", "spring"),
            in_place=("free", "spring"),
        ),
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
        AddressBlock(id="web", field="web"),
        ListBlock(
            id="notices",
            heading="Notices",
            rows=Listing(
                source="notices",
                density="roomy",
                where=(Condition(field="hut", argument="hut"),),
                sort=(Sort(field="day", descending=True),),
                row=Row(title="{text}", subtitle="{day}"),
                empty="No notices.",
            ),
        ),
        ActionsBlock(id="bar", place="bar", buttons=(SAVE,)),
        ActionsBlock(id="bottom", place="bottom", buttons=(Button(id="book", label="Book a bed"),)),
    ),
    side=Side(blocks=("rooms", "passing", "notices"), least=680),
    when_gone="next",
)
ROOM_SCREEN = DetailScreen(
    id="room",
    title="{name}",
    source="rooms",
    key="room",
    neighbours=True,
    address="/rooms/{room}",
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
        FactsBlock(id="facts", fields=("phone", "name"), leaves=("phone",)),
    ),
)
ROUTE_SCREEN = DetailScreen(
    id="route",
    title="{name}",
    source="routes",
    key="route",
    address="/routes/{route}",
    parameters=(ROUTE,),
    blocks=(
        PageBlock(id="page-about", title="About"),
        FactsBlock(id="facts", fields=("grade", "days")),
        PageBlock(id="page-legs", title="Legs"),
        ListBlock(
            id="legs",
            heading="Legs",
            rows=Listing(
                source="legs",
                where=(Condition(field="route", argument="route"),),
                sort=(Sort(field="number"),),
                row=Row(title="{hut}", subtitle="{hours} h · {climb} m up", badge="{number}"),
                layout="columns",
                columns=(
                    TableColumn(shows="hut", least=120, share=3),
                    TableColumn(shows="number", head="leg", least=40, share=0.5, side="end"),
                    TableColumn(shows="{hours} h", head="walk", least=52, side="end"),
                    TableColumn(shows="{climb} m", head="up", least=64, side="end"),
                ),
                empty="This route has no legs yet.",
            ),
        ),
        BodyBlock(id="note", field="note"),
    ),
)
ARRIVES = ToggleField(field="arrived")
STAY_ROW = Row(title="{guest}", subtitle="{begins}", badge="{nights}", takes_ground=True)
STAYS = ListScreen(
    id="stays",
    title="Stays",
    rows=Listing(
        source="stays",
        search=("guest",),
        sort=(Sort(field="begins"),),
        groups=(
            Group(title="Due", where=(Condition(field="arrived", constant=False),)),
            Group(title="Arrived", where=(Condition(field="arrived", constant=True),)),
        ),
        groups_start="open",
        several="yes",
        row=STAY_ROW,
        actions=(
            Button(
                id="arrive",
                label="Arrived",
                when_on="Undo",
                does=ToggleField(field="arrived"),
                several=ForSeveral(label="{count} arrived"),
            ),
            Button(id="change", label="Change"),
            Button(
                id="cancel",
                label="Cancel",
                does=RemoveRecord(confirm="Cancel for {guest}?"),
                several=ForSeveral(
                    label="Cancel {count}",
                    confirm="Cancel {count} stays?",
                    says="{count} stays are cancelled",
                ),
            ),
        ),
        empty="Nobody has booked yet.",
        not_found="No guest of that name.",
    ),
    buttons=(
        Button(id="new", label="New"),
        Button(id="json", label="JSON", does=SaveRows(form="json")),
    ),
    nothing_chosen_words="Choose a stay.",
)
STAY_SCREEN = DetailScreen(
    id="stay",
    title="{guest}",
    source="stays",
    key="stay",
    takes_ground=True,
    address="/stays/{stay}",
    parameters=(Parameter(name="stay", type="whole number", key_of="stays"),),
    blocks=(
        HeadingBlock(id="guest", text="{guest}"),
        FactsBlock(id="facts", fields=("begins", "nights", "people", "arrived", "hut")),
        BodyBlock(id="note", field="note"),
        ActionsBlock(
            id="actions",
            buttons=(
                Button(id="come", label="Has arrived", when_on="Not yet arrived", does=ARRIVES),
                Button(id="edit", label="Change"),
                Button(id="to-hut", label="See the hut"),
            ),
        ),
    ),
    when_gone="close",
)
STAY_FORM = FormScreen(
    id="stay-form",
    title="Change {guest}",
    says="{guest} is booked",
    title_new="New stay",
    source="stays",
    key="stay",
    parameters=(
        Parameter(name="stay", type="whole number", need="none", key_of="stays"),
        Parameter(name="hut", need="none", key_of="huts"),
    ),
    fields=(
        FormField(field="guest", required=True, most=60),
        FormField(field="hut", required=True, choices_from="huts", argument="hut", opens=True),
        FormField(field="begins", required=True),
        FormField(field="nights", required=True, least=1, most=14, default=1),
        FormField(field="people", choices=(1, 2, 3, 4, 6), default=2),
        FormField(field="arrived", default=False),
        FormField(field="note", lines=3),
    ),
    save_label="Save stay",
)
CHOOSE_HUT = ListScreen(
    id="choose-hut",
    title="Which hut?",
    rows=Listing(
        source="huts",
        search=("name", "region"),
        sort=(Sort(field="name"),),
        row=Row(title="{name}", subtitle="{altitude} · {region}", badge="{free}"),
        empty="No huts yet.",
        not_found="No hut has such a name or region.",
    ),
)
SAVED = ListScreen(
    id="saved",
    title="Saved",
    rows=Listing(
        source="huts",
        where=(Condition(field="id", test="is one of", value="saved"),),
        sort=(Sort(field="name"),),
        several="yes",
        actions=(
            Button(
                id="forget",
                label="Take out",
                does=Mark(value="saved"),
                several=ForSeveral(label="Take {count} out", says="{count} taken out"),
            ),
        ),
        layout="grid",
        tile=120,
        row=Row(title="{name}", subtitle="{region}", picture="photo", badge="{free}"),
        empty="Nothing saved yet: save a hut, and it is here.",
    ),
    nothing_chosen_words="Choose a saved hut.",
)
STAY_KEY = FromField(parameter="stay", field="id")
LINKS = (
    Link(
        id="huts-to-hut",
        trigger=Trigger(screen="huts"),
        to="hut",
        how="beside",
        arguments=(FromField(parameter="hut", field="id"),),
        sets={"current": "hut"},
        transition=Transition(
            pairs=(Pair(slot="picture", element="photo"), Pair(slot="title", element="name")),
            duration=320,
            fades={"facts": 90, "about": 140},
        ),
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
        if_open="go back to it",
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
        if_open="go back to it",
        arguments=(FromField(parameter="hut", field="hut"),),
    ),
)
STAY_LINKS = (
    Link(
        id="saved-to-hut",
        trigger=Trigger(screen="saved"),
        to="hut",
        how="beside",
        arguments=(FromField(parameter="hut", field="id"),),
        sets={"current": "hut"},
    ),
    Link(
        id="hut-to-form",
        comes="from below",
        trigger=Trigger(screen="hut", on="button", part="book"),
        to="stay-form",
        how="modal",
        arguments=(FromArgument(parameter="hut", argument="hut"),),
    ),
    Link(
        id="stays-to-stay",
        trigger=Trigger(screen="stays"),
        to="stay",
        how="beside",
        arguments=(STAY_KEY,),
    ),
    Link(
        id="stays-to-form",
        trigger=Trigger(screen="stays", on="button", part="new"),
        to="stay-form",
        how="modal",
        arguments=(FromValue(parameter="hut", value="current"),),
    ),
    Link(
        id="stays-change",
        trigger=Trigger(screen="stays", on="action", part="change"),
        to="stay-form",
        how="modal",
        arguments=(STAY_KEY,),
    ),
    Link(
        id="stay-to-form",
        trigger=Trigger(screen="stay", on="button", part="edit"),
        to="stay-form",
        arguments=(STAY_KEY,),
    ),
    Link(
        id="stay-to-hut",
        trigger=Trigger(screen="stay", on="button", part="to-hut"),
        to="hut",
        arguments=(FromField(parameter="hut", field="hut"),),
    ),
    Link(
        id="form-choose-hut",
        trigger=Trigger(screen="stay-form", on="field", part="hut"),
        to="choose-hut",
        how="modal",
        brings=Brings(),
    ),
    Link(
        id="saved-stay",
        trigger=Trigger(screen="stay-form", on="saved"),
        to="stay",
        arguments=(STAY_KEY,),
    ),
)
ARRANGEMENTS = (
    Arrangement(
        id="tiny",
        title="one, on the wrist",
        when=When(width=Range(below=280)),
        bar="button",
        popover_from=480,
    ),
    Arrangement(
        id="one",
        title="one at a time",
        when=When(width=Range(least=280, below=640)),
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
        id="tall",
        title="list above detail",
        when=When(width=Range(least=1040), height=Range(least=1200), shape="portrait"),
        panes=2,
        lie="down",
        widths=(PaneWidth(share=0.4, least=300), PaneWidth(share=0.6, least=400)),
        dividers="the person's",
        bar="rail",
    ),
    Arrangement(
        id="wide",
        title="rail, list, detail",
        when=When(width=Range(least=1040)),
        panes=2,
        widths=(PaneWidth(fixed=360, least=280, most=640), PaneWidth(least=480)),
        dividers="the person's",
        bar="rail",
    ),
)


def cresta() -> App:
    """Cresta Huts, wired well."""
    return App(
        name="Cresta Huts",
        start="huts",
        locale="en-GB",
        sources=SOURCES,
        values=(
            AppValue(id="saved", type="list of text", keep="stored", shown_on="huts"),
            AppValue(id="current", type="text"),
        ),
        screens=(
            *(HUTS, HUT_SCREEN, ROOM_SCREEN, WARDEN, ROUTES, ROUTE_SCREEN),
            *(STAYS, STAY_SCREEN, STAY_FORM, CHOOSE_HUT, SAVED),
        ),
        links=(*LINKS, *STAY_LINKS),
        sections=(
            Section(id="huts", title="Huts", root="huts", icon="house-line", address="/huts"),
            Section(id="routes", title="Routes", root="routes", icon="path", address="/routes"),
            Section(
                id="stays", title="Stays", root="stays", icon="calendar-blank", address="/stays"
            ),
            Section(id="saved", title="Saved", root="saved", icon="bookmark-simple"),
        ),
        arrangements=ARRANGEMENTS,
    )


def cresta_broken() -> App:
    """The same app with one of each mistake that ``cadena check`` knows."""
    good = cresta()
    keyless = (
        Source(id="cabins", title="Cabins", file="cabins.csv", key="id"),
        Source(id="gaps", title="Gaps", file="gaps.csv", key="id", service=_told()),
        Source(
            id="numbered",
            title="Numbered",
            file="cabins.csv",
            key="row",
            numbered=True,
            fields=(Field(name="name", type="picture"),),
        ),
        Source(
            id="wishes",
            title="Wishes",
            served="service",
            service=Service(list="http://127.0.0.1:8765/wishes"),
            key="number",
            fields=(Field(name="wish"), Field(name="from", refers=Refers(to="huts"))),
        ),
        Source(
            id="echoes",
            title="Echoes",
            served="service",
            service=Service(
                list="http://127.0.0.1:8765/echoes",
                create=Writing(method="POST", address="http://127.0.0.1:8765/echoes"),
                change=Writing(method="PUT", address="http://127.0.0.1:8765/echoes/{key}"),
            ),
            key="number",
            fields=(Field(name="number", type="whole number"), Field(name="echo")),
        ),
    )
    cabins = ListScreen(
        id="cabins",
        title="Cabins",
        rows=Listing(
            source="cabins", row=Row(title="{name}", subtitle="{nickname}", takes_ground=True)
        ),
    )
    attic = replace(ROOM_SCREEN, id="attic", title="", address="/attic", neighbours=True)
    idle = FactsBlock(id="idle", fields=("id",), in_place=("id",))
    by_position = DetailScreen(
        id="nth",
        title="{name}",
        source="huts",
        key="hut",
        parameters=(Parameter(name="hut", type="whole number"),),
        blocks=(
            HeadingBlock(id="name", text="{name}, {wishes.many}"),
            BodyBlock(id="view", field="panorama"),
            AddressBlock(id="site", field="web", frame=240),
            idle,
        ),
    )
    whole = replace(WARDEN, id="whole", source="guides", key="guide", address="/whole/{hut")
    blocks = tuple(_buttons() if each.id == "actions" else each for each in HUT_SCREEN.blocks)
    side = Side(blocks=("rooms", "lost"), measured="window")
    lost = (*blocks, _lost_list())
    row = replace(HUT_SCREEN, blocks=lost, side=side, keep=Keep(scroll="stored"))
    unfit = FromConstant(parameter="room", constant="three")
    links = (
        replace(LINKS[0], arguments=()),
        replace(LINKS[1], arguments=(unfit,)),
        replace(LINKS[2], arguments=(FromArgument(parameter="hut", argument="shelter"),)),
        replace(
            LINKS[3],
            if_open="open again",
            arguments=(*LINKS[3].arguments, FromField(parameter="leg", field="id")),
        ),
        *(
            replace(each, transition=_lost_pair(), comes="from below")
            if each.id == "routes-to-route"
            else each
            for each in (LINKS[4], replace(LINKS[5], if_open="open again"))
        ),
        *(_carrying(e) for e in STAY_LINKS if e.id not in ("saved-stay", "form-choose-hut")),
        Link(
            id="saved-form",
            trigger=Trigger(screen="stay-form", on="saved"),
            to="stay-form",
            arguments=(STAY_KEY,),
        ),
        _from_button("gone", "lost", ()),
        _from_button("cellar", "room", (FromConstant(parameter="room", constant=0),)),
        _from_button("nth", "nth", (FromConstant(parameter="hut", constant=3),)),
        _from_button("whole", "whole", (FromArgument(parameter="hut", argument="hut"),)),
        _from_button("attic", "attic", (FromConstant(parameter="room", constant=0),)),
        replace(_from_button("again", "again-form", ()), when=RowKind(field="id", constant="mor")),
        _from_button("add", "room-form", ()),
        Link(
            id="cabins-to-warden",
            trigger=Trigger(screen="cabins"),
            to="warden",
            how="replace",
            arguments=(FromConstant(parameter="hut", constant="mor"),),
            when=RowKind(field="id", test="is not", constant="top"),
        ),
        _from_button("twin", "hut", (FromArgument(parameter="hut", argument="hut"),)),
        replace(
            _from_button("find", "warden", (FromArgument(parameter="hut", argument="hut"),)),
            brings=Brings(value="current"),
        ),
        Link(
            id="spare-to-warden",
            trigger=Trigger(screen="spare"),
            to="warden",
            arguments=(FromConstant(parameter="hut", constant="mor"),),
        ),
    )
    return replace(
        good,
        name="Cresta Huts, broken",
        start="home",
        sources=(*SOURCES, *keyless),
        values=(
            *(replace(each, keep="saved") for each in good.values),
            AppValue(id="mood", shown_on="moods"),
        ),
        screens=(
            *(HUTS, row, replace(ROOM_SCREEN, address=""), WARDEN, _routes(), _route()),
            *(_stays(), STAY_SCREEN, _stay_form(), _saved()),
            cabins,
            attic,
            by_position,
            whole,
            replace(
                STAY_FORM,
                id="again-form",
                source="wishes",
                says="",
                fields=(FormField(field="wish"),),
            ),
            _room_form(),
            _spare(),
        ),
        links=links,
        sections=(
            *(replace(e, keep="entry") if e.id == "saved" else e for e in good.sections),
            Section(id="cabins", title="Cabins", root="cabins"),
            Section(id="maps", title="Maps", root="maps"),
            Section(id="bed", title="Cabins", root="room"),
        ),
        arrangements=_arrangements(),
        windows=(*NAMED, NamedWindow(name="Wall", width=0, height=1080)),
        platform=Platform(saved_most=400),
    )


def _carrying(link: Link) -> Link:
    """A position in place of a key, and a whole record in place of one."""
    if link.id == "stays-to-stay":
        return replace(link, arguments=(FromPosition(parameter="stay"),))
    if link.id == "stay-to-hut":
        return replace(link, arguments=(FromRecord(parameter="hut"),))
    return link


def _arrangements() -> tuple[Arrangement, ...]:
    """No bar on small windows, panes with too little room, a gap, and rules that never match."""
    tiny, one, two, _, wide = ARRANGEMENTS
    return (
        tiny,
        replace(one, bar="none"),
        Arrangement(id="behind", title="hand-held", when=When(width=Range(below=200))),
        replace(two, widths=(PaneWidth(least=320), PaneWidth(least=400))),
        replace(
            wide,
            when=When(width=Range(least=1200)),
            widths=(PaneWidth(least=360, most=360),),
        ),
        Arrangement(id="no size", when=When(height=Range(least=900, below=800))),
    )


def _route() -> DetailScreen:
    """A page that scrolls, before another."""
    about, facts, legs, listed, note = ROUTE_SCREEN.blocks
    return replace(ROUTE_SCREEN, blocks=(about, facts, note, legs, listed))


def _lost_pair() -> Transition:
    """A row's picture, where the row has none."""
    return Transition(pairs=(Pair(slot="picture", element="title"),))


WIDE = TableColumn(shows="hours", least=2000)


def _lost_list() -> ListBlock:
    """A nested list that compares the wrong fields."""
    where = (Condition(field="id", argument="hut"),)
    rows = Listing(
        source="legs",
        where=where,
        row=Row(title="{hut_name}"),
        empty="No legs.",
        layout="columns",
        columns=(WIDE, WIDE),
    )
    return ListBlock(id="lost", heading="Legs", rows=rows)


def cresta_written() -> App:
    """The demo with its stays written to: a stand-in takes them, and now and then refuses, fails
    or has been changed by somebody quicker."""
    good = cresta()
    stand_in = StandIn(
        delay=300,
        page=20,
        takes=("create", "change", "remove"),
        fails_one_in=6,
        refuses_one_in=5,
        quicker_one_in=4,
        seed=290,
    )
    sources = tuple(
        replace(each, stand_in=stand_in) if each.id == "stays" else each for each in good.sources
    )
    return replace(good, name="Cresta Huts, written", sources=sources)


def _stays() -> ListScreen:
    """A row that only the item call could fill, and that says one thing twice; several stays are
    cancelled without a word, and said to be changed at once."""
    row = Row(title="{guest}", subtitle="{people} people", badge="{guest}")
    arrive, change, cancel = STAYS.rows.actions
    actions = (arrive, replace(change, several=ForSeveral()), replace(cancel, several=ForSeveral()))
    return replace(STAYS, rows=replace(STAYS.rows, row=row, actions=actions))


def _stay_form() -> FormScreen:
    """A form without a field that is required, with one that is not there, and no memory."""
    fields = (STAY_FORM.fields[0], FormField(field="breakfast"), *STAY_FORM.fields[3:])
    return replace(STAY_FORM, fields=fields, keep=Keep(draft="view"))


def _routes() -> ListScreen:
    """A limit that nobody is told of."""
    return replace(ROUTES, rows=replace(ROUTES.rows, limit=5))


def _saved() -> ListScreen:
    """Marks kept where nobody keeps them, of which several are picked for nothing."""
    where = (Condition(field="id", test="is one of", value="saves"),)
    return replace(SAVED, rows=replace(SAVED.rows, where=where, actions=()))


def _spare() -> ListScreen:
    """Opened by nothing, under the address of another, whose press marks where nothing can be."""
    listing = Listing(source="gaps", row=Row(title="{name}"), empty="Nothing here.")
    where, moods = (Condition(field="id", argument="valley"),), Order(name="By mood", sort=())
    listing = replace(listing, where=where, orders=(moods,), press=Mark(value="current"))
    return ListScreen(id="spare", title="Spare", rows=listing, address="/huts")


def _buttons() -> ActionsBlock:
    made = (
        ("ask", "Ask the warden"),
        ("gone", "Lost"),
        ("nth", "Third hut"),
        ("whole", "Guide"),
        ("attic", "Attic"),
        ("again", "Book again"),
        ("twin", "This hut once more"),
        ("deaf", "Call the hut"),
        ("add", "Add a room"),
        ("find", "Find another"),
    )
    heat = Button(id="heat", label="Heat the sauna", does=SetField(field="sauna", to=True))
    mail = Button(id="mail", label="Write to the hut", does=LeaveFor(field="region"))
    return ActionsBlock(
        id="actions", buttons=(*(Button(id=each, label=label) for each, label in made), heat, mail)
    )


def _room_form() -> FormScreen:
    """A form for a new room, which says nothing of the hut that it is added to."""
    return FormScreen(
        id="room-form",
        title="Change {name}",
        title_new="New room",
        source="rooms",
        key="room",
        parameters=(Parameter(name="room", type="whole number", need="none", key_of="rooms"),),
        fields=(FormField(field="name", required=True, opens=True), FormField(field="beds")),
    )


def _from_button(button: str, to: str, arguments: tuple[FromConstant | FromArgument, ...]) -> Link:
    trigger = Trigger(screen="hut", on="button", part=button)
    return Link(id=f"hut-{button}", trigger=trigger, to=to, arguments=arguments)


def _told() -> Service:
    """A service whose key stands in the project for all to read."""
    return Service(
        list="http://127.0.0.1:8765/gaps", headers={"Authorization": "Bearer made-up-1234"}
    )
