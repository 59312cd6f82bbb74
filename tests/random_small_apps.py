"""Small apps of one section with a few things wired otherwise, and claims about them, by chance."""

from __future__ import annotations

import random
from typing import Any

from msgspec.structs import replace

from builders import (
    HUT,
    records_of,
    small_app,
    small_records,
    with_arrangement,
    with_link,
    with_screen,
)
from cadena.engine.wired import WiredApp
from cadena.model.app import (
    App,
    AppValue,
    Argument,
    Brings,
    FormScreen,
    FromArgument,
    FromConstant,
    FromField,
    FromPosition,
    FromRecord,
    FromValue,
    Keep,
    Link,
    Trigger,
)
from cadena.model.blocks import ActionsBlock, FormField
from cadena.model.claims import OwnClaim, Situation
from cadena.model.listing import Button, ForSeveral, Mark, RemoveRecord

HOWS = ("push", "beside", "replace", "modal", "popover")
LIVES = ("view", "entry", "saved", "stored")


def an_app(chance: random.Random) -> WiredApp:
    """The small app with some of its wiring by chance, and perhaps a form, a mark, a circle."""
    app = small_app()
    huts = replace(app.screens[0].rows, search=())
    app = with_screen(app, "huts", rows=huts)
    app = replace(app, sections=(replace(app.sections[0], keep=_one(chance, "saved", LIVES)),))
    for link in app.links:
        app = with_link(
            app,
            link.id,
            how=_one(chance, link.how, HOWS),
            if_open=_one(chance, "open again", ("go back to it",)),
        )
    app = with_link(app, "open", arguments=_carried(chance, "hut", "id"))
    app = with_link(app, "room", arguments=_carried(chance, "room", "id"))
    app = with_screen(
        app,
        "huts",
        nothing_chosen=_one(chance, "say so", ("open first", "open last")),
    )
    app = with_screen(app, "hut", when_gone=_one(chance, "say so", ("close", "next")))
    app = with_arrangement(
        app,
        "one",
        over=chance.random() < 0.2,
        detail_first=_one(chance, "no", ("open first", "open last")),
    )
    app = with_arrangement(
        app, "two", back=_one(chance, "leave", ("close",)), panes=_one(chance, 2, (1, 3))
    )
    if chance.random() < 0.3:
        app = with_screen(app, "hut", address="/huts/{hut}")
        if chance.random() < 0.5:
            app = with_screen(app, "room", address=chance.choice(["/rooms/{room}", "/huts/{room}"]))
    if chance.random() < 0.4:
        app = _with_form(chance, app)
    if chance.random() < 0.3:
        app = _with_marks(chance, app)
    if chance.random() < 0.3:
        app = _with_way_back(chance, app)
    if chance.random() < 0.2:
        app = replace(app, platform=replace(app.platform, saved_most=chance.choice([200, 400])))
    if chance.random() < 0.15:
        app = replace(app, links=tuple(e for e in app.links if e.id != chance.choice(["ask"])))
    return WiredApp(app, _records(chance))


def choosing(chance: random.Random, app: App) -> App:
    """The app with rows that are picked, lists that are opened to choose, and neighbours."""
    rows = app.screens[0].rows
    values = (*(e for e in app.values if e.id != "kept"), AppValue(id="own"))
    values = (AppValue(id="kept", type="list of text"), *values)
    keep = Button(id="keep", label="Keep", does=Mark(value="kept"), several=ForSeveral())
    drop = Button(id="drop", label="Drop", does=RemoveRecord(), several=ForSeveral(confirm="All?"))
    actions = (keep, drop) if chance.random() < 0.5 else (keep,)
    if chance.random() < 0.6:
        rows = replace(rows, several="yes", actions=actions)
    app = replace(with_screen(app, "huts", rows=rows), values=values)
    app = with_screen(app, "hut", neighbours=chance.random() < 0.5)
    how = chance.choice(["push", "modal", "popover", "beside"])
    if chance.random() < 0.5:
        app = with_link(
            app, "ask", to="huts", how=how, arguments=(), brings=Brings(value="own"), sets={}
        )
    form = next((each for each in app.screens if isinstance(each, FormScreen)), None)
    if form is not None and chance.random() < 0.7:
        fields = tuple(replace(each, opens=True) for each in form.fields)
        app = with_screen(app, form.id, fields=fields)
        trigger = Trigger(screen=form.id, on="field", part=form.fields[0].field)
        link = Link(id="which", trigger=trigger, to="huts", how=how, brings=Brings())
        app = replace(app, links=(*app.links, link))
    return app


def _one(chance: random.Random, usual: Any, others: tuple[Any, ...]) -> Any:
    return chance.choice(others) if chance.random() < 0.25 else usual


def _carried(chance: random.Random, parameter: str, field: str) -> tuple[Argument, ...]:
    """The key, or what is carried by mistake."""
    mistakes: list[tuple[Argument, ...]] = [
        (FromPosition(parameter=parameter, convert=True),),
        (FromRecord(parameter=parameter, convert=True),),
        (FromField(parameter=parameter, field="name", convert=True),),
        (FromConstant(parameter=parameter, constant="h1" if parameter == "hut" else 0),),
        (),
    ]
    right = (FromField(parameter=parameter, field=field),)
    return chance.choice(mistakes) if chance.random() < 0.2 else right


def _records(chance: random.Random) -> dict[str, object]:
    records = small_records(3)
    if chance.random() < 0.3:
        rooms = records["rooms"].frame.to_dicts()
        rooms[chance.randrange(6)]["hut"] = chance.choice(["h9", "", None])
        records["rooms"] = records_of("rooms", rooms)
    return records


def _with_form(chance: random.Random, app: App) -> App:
    """A form to edit a hut, or for a new one, from the button *book*."""
    form = FormScreen(
        id="form",
        title="Edit",
        source="huts",
        key="hut",
        parameters=(replace(HUT, need="none"),),
        fields=(FormField(field="note", required=chance.random() < 0.5),),
        keep=Keep(draft=_one(chance, "saved", LIVES)),
    )
    arguments = (FromArgument(parameter="hut", argument="hut"),) if chance.random() < 0.8 else ()
    app = replace(app, screens=(*app.screens, form))
    app = with_link(app, "book", to="form", arguments=arguments)
    if chance.random() < 0.5:
        saved = Link(
            id="saved",
            trigger=Trigger(screen="form", on="saved"),
            to=chance.choice(["hut", "room", "form"]),
            how=_one(chance, "replace", HOWS),
            arguments=(FromField(parameter="hut", field="id"),),
        )
        app = replace(app, links=(*app.links, saved))
    return app


def _with_marks(chance: random.Random, app: App) -> App:
    """An app-wide list of huts that are kept; perhaps a hut is opened from it."""
    kept = AppValue(id="kept", type="list of text", keep=_one(chance, "saved", LIVES))
    rows = app.screens[0].rows
    actions: tuple[Button, ...] = (Button(id="keep", label="Keep", does=Mark(value="kept")),)
    if chance.random() < 0.3:
        actions = (*actions, Button(id="drop", label="Drop", does=RemoveRecord()))
    app = with_screen(app, "huts", rows=replace(rows, actions=actions))
    app = replace(app, values=(kept,))
    if chance.random() < 0.4:
        last = AppValue(id="last", keep=_one(chance, "saved", LIVES))
        app = replace(app, values=(kept, last))
        app = with_link(app, "room", sets={"last": "room"} if chance.random() < 0.2 else {})
        app = with_link(app, "ask", arguments=(FromValue(parameter="hut", value="last"),))
        app = with_link(app, "open", sets={"last": "hut"})
    return app


def _with_way_back(chance: random.Random, app: App) -> App:
    """From a room on to its hut: a circle, unless it is gone back to."""
    up = ActionsBlock(id="do", buttons=(Button(id="up", label="Its hut"),))
    room = next(each for each in app.screens if each.id == "room")
    app = with_screen(app, "room", blocks=(*room.blocks, up))
    link = Link(
        id="up",
        trigger=Trigger(screen="room", on="button", part="up"),
        to=chance.choice(["hut", "hut", "huts"]),
        how=_one(chance, "push", HOWS),
        arguments=(FromField(parameter="hut", field="hut"),),
        if_open=_one(chance, "open again", ("go back to it",)),
    )
    return replace(app, links=(*app.links, link))


def a_claim(chance: random.Random, app: WiredApp) -> OwnClaim:
    """A claim over screens, arguments, values and arrangements that there are, or nearly."""

    def situation(least: int) -> Situation:
        made = Situation()
        for _ in range(chance.randint(least, 2)):
            screen = chance.choice([each.id for each in app.app.screens])
            hut, room = f"h{chance.randrange(7)}", chance.randrange(14)
            kinds = [
                replace(made, shows=(screen,)),
                replace(made, hides=(*made.hides, screen)),
                replace(made, arguments={"hut": hut}),
                replace(made, arguments={"room": room}),
                replace(made, arrangement=chance.choice(["one", "two"])),
            ]
            if app.app.values:
                kinds.append(replace(made, values={"kept": hut}))
            made = chance.choice(kinds)
        return made

    return OwnClaim(
        id="own",
        says=chance.choice(["always", "never", "never", "can reach"]),
        when=situation(0),
        so=situation(1),
    )
