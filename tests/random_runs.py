"""Random apps and random walks, told by a seed: what every implementation of the rules must
agree on."""

from __future__ import annotations

import json
import random
from typing import Any, NamedTuple

import msgspec
from msgspec.structs import replace

from builders import demo
from cadena.deliver.described import described, records_of
from cadena.engine import events as do
from cadena.engine.session import Window, sized
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.app import (
    App,
    AppValue,
    Arrangement,
    Brings,
    DetailScreen,
    FormScreen,
    Keep,
    Link,
    ListScreen,
    NamedWindow,
    PaneWidth,
    Platform,
    Range,
    Screen,
    Side,
    Trigger,
    When,
)
from cadena.model.blocks import ActionsBlock, FactsBlock
from cadena.model.listing import (
    Condition,
    Follow,
    ForSeveral,
    LeaveFor,
    Listing,
    Mark,
    Order,
    SetValue,
    Sort,
    TableColumn,
    TakeMarker,
)
from cadena.model.source import StandIn
from cadena.runs.possible import Possible, possible
from cadena.runs.walks.trace import to_line, trace_line
from random_kinds import by_kind
from stays import stays_app, stays_records

LIVES = ("view", "entry", "saved", "stored")
SIZES = (
    (360, 780, None),
    (780, 360, None),
    (820, 1180, None),
    (1280, 800, None),
    (198, 242, None),
    (673, 841, 336),
    (640, 300, None),
    (501, 777, None),
)


class RandomRun(NamedTuple):
    """A run as the kit takes it, and the trace that it should give."""

    given: dict[str, Any]
    expected: list[dict[str, Any]]


def random_run(seed: int, length: int) -> RandomRun:
    """A random app under random events, with the engine's own trace."""
    chance = random.Random(seed)
    app = random_app(chance)
    kinds = random.Random(-seed - 1)
    if kinds.random() < 0.3:
        app = WiredApp(by_kind(kinds, app.app, app.as_read), app.as_read)
    window = random_window(chance)
    session, notes = start(app, window)
    events: list[do.Event] = []
    expected = [json.loads(to_line(trace_line(app, session, None, notes)))]
    for _ in range(length):
        event = random_event(chance, app, session)
        session, notes, _ = step(app, session, event)
        events.append(event)
        expected.append(json.loads(to_line(trace_line(app, session, event, notes))))
    given = {
        "app": described(app),
        "records": {name: records_of(each) for name, each in app.as_read.items()},
        "window": {"width": window.width, "height": window.height, "fold": window.fold},
        "events": json.loads(msgspec.json.encode(events)),
    }
    return RandomRun(given, expected)


def random_window(chance: random.Random) -> Window:
    return sized(*chance.choice(SIZES))


def random_app(chance: random.Random) -> WiredApp:
    """The demo, or the app of stays, with everything wired anyhow."""
    if chance.random() < 0.4:
        wired = demo(chance.choice(["cresta", "cresta-broken"]))
        return WiredApp(_anyhow(chance, wired.app), wired.as_read)
    return WiredApp(_anyhow(chance, stays_app()), stays_records(chance.choice([1, 3, 9])))


def _anyhow(chance: random.Random, app: App) -> App:
    links = tuple(
        replace(
            each,
            how=chance.choice(["push", "beside", "replace", "modal", "popover"])
            if chance.random() < 0.4
            else each.how,
            if_open=chance.choice(["open again", "go back to it"]),
        )
        for each in app.links
        if all(argument.__struct_config__.tag != "record" for argument in each.arguments)
    )
    sources = app.sources
    if chance.random() < 0.3:
        sources = tuple(
            replace(
                each,
                served=chance.choice(["file", "stand-in"]),
                list_brings=tuple(each.name for each in each.fields[:2])
                if chance.random() < 0.5
                else (),
                stand_in=StandIn(
                    page=chance.choice([2, 5]),
                    fails_one_in=chance.choice([0, 3]),
                    changes_one_in=chance.choice([0, 2]),
                    takes=chance.choice([(), ("create", "change", "remove")]),
                    refuses_one_in=chance.choice([0, 4]),
                    quicker_one_in=chance.choice([0, 3]),
                    seed=chance.randrange(9),
                ),
            )
            for each in sources
        )
    marks = AppValue(id="many", type="list of text")
    app = replace(app, values=(*app.values, AppValue(id="usual"), marks))
    app = _choosing(chance, replace(app, links=links))
    links = app.links
    paths = _from_others(app)
    return replace(
        app,
        links=links,
        sources=sources,
        screens=tuple(_screen_anyhow(chance, each, paths) for each in app.screens),
        sections=tuple(
            replace(each, keep=chance.choice(LIVES), returns=chance.choice(["as left", "root"]))
            for each in app.sections
        ),
        values=tuple(replace(each, keep=chance.choice(LIVES)) for each in app.values),
        arrangements=_arrangements(chance),
        platform=Platform(
            rebuilds=chance.choice([(), ("turn",), ("breakpoint",), ("turn", "breakpoint")]),
            back_to_start=chance.random() < 0.5,
            stored_most=chance.choice([None, 2]),
            forward=chance.random() < 0.7,
        ),
        locale=chance.choice(["", app.locale, "de-DE", "fr", "ja"]),
    )


def _choosing(chance: random.Random, app: App) -> App:
    """With fields, and links of buttons and facts, that open lists to choose from."""
    lists = [
        each.id
        for each in app.screens
        if isinstance(each, ListScreen) and all(e.need != "required" for e in each.parameters)
    ]
    if not lists or chance.random() < 0.3:
        return app

    def brings(**into: str) -> Brings:
        return Brings(field=chance.choice(["", "", "", "name", "guest", "nothing"]), **into)

    def opens() -> dict[str, Any]:
        how = chance.choice(["push", "push", "beside", "modal", "popover", "replace"])
        return {"to": chance.choice(lists), "how": how}

    links: list[Link] = []
    for each in app.links:
        if each.trigger.on == "button" and chance.random() < 0.4:
            into = chance.choice([{"value": "usual"}, {"value": "many"}, {"argument": "key"}])
            each = replace(each, **opens(), arguments=(), brings=brings(**into))
        elif each.trigger.on == "fact" and chance.random() < 0.5:
            each = replace(each, **opens(), arguments=(), brings=brings())
        links.append(each)
    screens: list[Screen] = []
    for screen in app.screens:
        if isinstance(screen, FormScreen):
            for field in screen.fields[:2]:
                trigger = Trigger(screen=screen.id, on="field", part=field.field)
                name = f"choose-{screen.id}-{field.field}"
                links.append(Link(id=name, trigger=trigger, **opens(), brings=brings()))
            fields = tuple(replace(each, opens=True) for each in screen.fields[:3])
            screen = replace(screen, fields=(*fields, *screen.fields[3:]))
        screens.append(screen)
    return replace(app, links=tuple(links), screens=tuple(screens))


def _from_others(app: App) -> dict[str, list[str]]:
    """For each source, what can be told of the records that refer to it."""
    found: dict[str, list[str]] = {}
    for source in app.sources:
        for each in source.fields:
            if each.refers is None:
                continue
            name = f"{source.id}({each.name})"
            numbers = [e.name for e in source.fields if e.type in ("number", "whole number")]
            found.setdefault(each.refers.to, []).extend(
                [
                    f"{name}.count",
                    *(f"{name}.first.{e.name}" for e in source.fields[:2]),
                    *(f"{name}.{gives}.{e}" for e in numbers for gives in ("sum", "least", "most")),
                ]
            )
    return found


def _screen_anyhow(chance: random.Random, screen: Any, paths: dict[str, list[str]]) -> Any:
    keep = Keep(**{name: chance.choice(LIVES) for name in Keep.__struct_fields__})
    screen = replace(screen, keep=keep)
    match screen:
        case ListScreen():
            return replace(
                screen,
                rows=_listing_anyhow(chance, screen.rows, paths.get(screen.rows.source, [])),
                nothing_chosen=chance.choice(["say so", "open first", "open last"]),
            )
        case DetailScreen():
            lists = [each.id for each in screen.blocks]
            blocks = tuple(_saying(chance, each) for each in screen.blocks)
            side = Side(blocks=tuple(lists[1::2]), least=chance.choice([200, 640]))
            return replace(
                screen,
                when_gone=chance.choice(["say so", "close", "next"]),
                neighbours=chance.random() < 0.5,
                blocks=blocks,
                side=side if chance.random() < 0.3 else None,
            )
        case FormScreen():
            usual = chance.choice(["", "", "usual"])
            fields = tuple(replace(each, value=usual) for each in screen.fields[:2])
            says = chance.choice(["", "", "{name} {guest} said", "Saved"])
            return replace(screen, fields=(*fields, *screen.fields[2:]), says=says)
    return screen


def _saying(chance: random.Random, block: Any) -> Any:
    """Buttons that say something once they have done it."""
    if isinstance(block, FactsBlock):
        fields = (*block.fields, "web", "phone")
        return replace(block, fields=fields, leaves=chance.choice([(), fields]))
    if not isinstance(block, ActionsBlock):
        return block
    texts = ["", "{name}{guest} is done", "Done"]
    made = tuple(replace(each, says=chance.choice(texts)) for each in block.buttons)
    return replace(block, buttons=made)


def _listing_anyhow(chance: random.Random, listing: Listing, paths: list[str]) -> Listing:
    texts = ["", "{name}{guest}", "Done"]
    several = [None, ForSeveral(), ForSeveral(confirm="All {count}?", says="{count} done")]
    actions = tuple(
        replace(each, says=chance.choice(texts), several=chance.choice(several))
        for each in listing.actions
    )
    press: Any = Follow()
    if chance.random() < 0.2:
        leaves = LeaveFor(field=chance.choice(["web", "phone", "guest"]))
        press = chance.choice([SetValue(value="usual"), Mark(value="many"), TakeMarker(), leaves])
    listing = replace(
        listing,
        actions=actions,
        density=chance.choice(["compact", "regular", "regular", "roomy"]),
        row=replace(listing.row, takes_ground=chance.random() < 0.3),
        press=press,
        several=chance.choice(["no", "no", "yes", "with boxes"]),
    )
    if paths and chance.random() < 0.6:
        path, other = chance.choice(paths), chance.choice(paths)
        row = replace(listing.row, subtitle=f"{{{path}}} of {{{other}}}")
        where = listing.where
        if chance.random() < 0.3:
            test: Any = chance.choice(["over", "is empty", "is filled", "under"])
            where = (*where, Condition(field=path, test=test, constant=chance.choice([0, 1, 3])))
        listing = replace(
            listing,
            row=row,
            where=where,
            sort=(Sort(field=path, descending=chance.random() < 0.5), *listing.sort),
            group_by=chance.choice(["", other]),
            search=(*listing.search, other),
        )
    if chance.random() < 0.5:
        return listing
    order = Order(name="Other", sort=(Sort(field="name", descending=True), Sort(field="guest")))
    return replace(
        listing,
        layout=chance.choice(["rows", "grid", "strip", "columns", "columns"]),
        columns=tuple(
            TableColumn(
                shows=chance.choice(["name", "{guest}", "{name} · {nights}", "id", *paths]),
                least=chance.choice([60, 96, 200]),
                share=chance.choice([0.5, 1, 3]),
                side=chance.choice(["start", "end"]),
            )
            for _ in range(chance.choice([1, 2, 4]))
        ),
        groups_start=chance.choice(["fixed", "open", "closed"]),
        group_by=chance.choice(["", "name", "region", "note", "hut"]),
        limit=chance.choice([None, 1, 4]),
        orders=chance.choice([(), (order,)]),
        keep_in_view=chance.random() < 0.8,
        search=listing.search or ("name", "guest"),
    )


def _arrangements(chance: random.Random) -> tuple[Arrangement, ...]:
    def widths() -> tuple[PaneWidth, ...]:
        return tuple(
            chance.choice(
                [
                    PaneWidth(),
                    PaneWidth(fixed=260, least=100),
                    PaneWidth(share=0.4, least=150),
                    PaneWidth(share=0.3, most=300),
                ]
            )
            for _ in range(chance.randrange(4))
        )

    def arrangement(name: str, when: When, panes: int) -> Arrangement:
        return Arrangement(
            id=name,
            when=when,
            panes=panes,
            widths=widths(),
            lie=chance.choice(["across", "across", "down"]),
            dividers=chance.choice(["fixed", "the person's"]),
            keep=chance.choice(LIVES),
            bar=chance.choice(["bottom", "rail", "wide rail", "top", "button", "none"]),
            first=chance.choice(["scrolls", "stays"]),
            over=chance.random() < 0.5,
            back=chance.choice(["leave", "close"]),
            detail_first=chance.choice(["no", "open first", "open last"]),
            popover_from=chance.choice([0, 600]),
        )

    return (
        arrangement("wide", When(width=Range(least=1100)), 3),
        arrangement("flat", When(shape="landscape"), chance.choice([1, 2])),
        arrangement("one", When(width=Range(below=600)), 1),
        arrangement("two", When(), 2),
    )


def random_event(chance: random.Random, app: WiredApp, session: Any) -> do.Event:
    """Something that can happen now, or anything at all."""
    offered = list(possible(app, session))
    drawn = chance.random()
    if drawn < 0.25 and (some := [each.event for each in offered if _is_rare(app, session, each)]):
        return chance.choice(some)
    if drawn < 0.6 and offered:
        event = chance.choice(offered).event
        if isinstance(event, do.Kill | do.Relaunch | do.Sleep) and chance.random() < 0.6:
            return do.Back()
        if isinstance(event, do.Search):
            return replace(event, text=chance.choice(["", "a", "or", "guest 1", "zz"]))
        if isinstance(event, do.Type):
            return replace(
                event, to=chance.choice(["", "Ada", "h1", 3, 0.5, True, None, "2026-08-01"])
            )
        return event
    if drawn < 0.65:
        return chance.choice(list(_of_records(chance, app, session)) or [do.Back()])
    screen = chance.choice(["", "", *app.screens])
    part = chance.choice(["", *app.listings.get(screen, {"": 0})])
    return chance.choice(
        [
            do.Scroll(by=chance.choice([-300.0, 37.5, 250.0, 900.0]), screen=screen),
            do.Scroll(to=chance.choice([0.0, 120.0, 5000.0]), screen=screen, list=part),
            do.Move(
                to=chance.choice(
                    ["up", "down", "left", "right", "home", "end", "page up", "page down"]
                ),
                screen=screen,
                list=part,
            ),
            do.Enter(screen=screen, list=part),
            do.Back(),
            do.Forward(),
            do.Neighbour(by=chance.choice([-1, 1]), screen=screen),
            do.Resize(**dict(zip(("width", "height", "fold"), chance.choice(SIZES), strict=True))),
            do.SetText(size=chance.choice([0.6, 1.0, 1.3, 2.0, 3.0])),
            do.ReadFrom(side=chance.choice(["left", "right"])),
            do.Wait(ms=chance.choice([1, 300, 1000])),
            do.SortBy(by=(Sort(field="name", descending=chance.random() < 0.5),), screen=screen),
            do.ShowGroup(
                title=chance.choice(["Due", "Arrived", "Others", "–"]),
                open=chance.random() < 0.5,
                screen=screen,
            ),
            do.Visit(
                address=chance.choice(
                    ["/huts", "/huts/mor", "/nowhere", "/rooms/1", "/routes/1?x=1", "/huts/none"]
                )
            ),
            do.Divide(pane=chance.choice([0, 0, 1]), to=chance.choice([0.0, 250.0, 333.3, 900.0])),
            do.PutAway(),
            do.LetGo(screen=screen, list=part),
            do.PickAll(screen=screen, list=part),
            do.OpenMenu(key=chance.choice([None, 1, "mor", "h1"]), screen=screen, list=part),
            do.GoTo(section=chance.choice([*app.sections, "nowhere"])),
            do.Wake(),
            do.Restore(),
            do.Decide(yes=chance.random() < 0.5),
        ]
    )


def _is_rare(app: WiredApp, session: Any, offered: Possible) -> bool:
    """What opens a list to choose from, chooses in one, or picks: of so much, little is tried."""
    event = offered.event
    if isinstance(event, do.OpenField | do.Pick | do.PickTo | do.ActOnPicked):
        return True
    if isinstance(event, do.Settle | do.SendAgain | do.GoBackTo | do.GiveUp):
        return True
    if isinstance(event, do.Choose) and event.entry is not None:
        return session.entries[event.entry].opened_for is not None
    return offered.link is not None and offered.link.brings is not None


def _of_records(chance: random.Random, app: WiredApp, session: Any) -> Any:
    """Changes of records and values, most of which can be."""
    source = chance.choice([*app.as_read, "nowhere"])
    records = app.records(session, source)
    key = records.key_at(chance.randrange(len(records))) if records else "none"
    other = chance.choice([key, "new-1", 9999, None])
    row = {} if not records else {**records.record(0), records.source.key: other}
    yield do.Remove(source=source, key=key)
    yield do.Refresh(source=source, gone=(key,), added=(row,) if row else ())
    yield do.Refresh(source=source, added=(row,) if row else ())
    for field, value in row.items():
        yield do.Edit(source=source, key=key, fields={field: value})
    for value in app.values.values():
        yield do.SetValue(value=value.id, to=chance.choice([None, "x", 1, (key,), ("mor",)]))


WINDOWS = tuple(NamedWindow(name="", width=w, height=h, fold=f) for w, h, f in SIZES)
