"""Where the engine did otherwise than its rules say: each by the shortest run that showed it."""

from __future__ import annotations

from msgspec import json
from msgspec.structs import replace

from builders import (
    DESK,
    POCKET,
    SLATE,
    Run,
    demo,
    small_app,
    small_records,
    with_arrangement,
    with_link,
    with_screen,
)
from cadena.engine import events as do
from cadena.engine.rules.display import display_of, focus_of
from cadena.engine.session import RowRef
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.app import App, DetailScreen, FromConstant, FromField
from cadena.model.blocks import ActionsBlock, ListBlock
from cadena.model.listing import Button, Order, Sort, ToggleField
from cadena.model.source import Field, Refers, StandIn
from cadena.words.notes import in_words
from stays import stays, stays_app


def test_6_an_entry_that_cannot_be_read_costs_itself_and_those_after_it() -> None:
    run = Run().choose("h1").choose(2, "hut", "rooms")(do.Kill())
    kept = json.decode(run.session.kept)
    chain = kept["chains"][0]
    chain["entries"][1] = 7
    session, notes, _ = step(
        run.app, replace(run.session, kept=json.encode(kept).decode()), do.Restore()
    )
    assert [each.screen for each in session.entries] == ["huts"]
    dropped = next(each for each in notes if each.kind == "dropped")
    assert (dropped.case, dropped.data["count"], dropped.data["all"]) == ("entries", 2, 3)


def test_5_3_what_a_rule_opened_goes_also_below_what_was_pushed_in_a_layer() -> None:
    app = with_screen(small_app(), "huts", nothing_chosen="open first")
    run = Run(app, SLATE)
    assert run.chain == ["huts", "hut"]
    root = run.session.entries[0]
    layer = replace(root, screen="book", opened="modal", arguments={"hut": "h2"})
    deep = replace(layer, opened="push", arguments={"hut": "h3"})
    session = run.session.with_entries((*run.session.entries, layer, deep))
    after, *_ = step(run.app, session, do.Resize(width=POCKET.width, height=POCKET.height))
    assert [each.screen for each in after.entries] == ["huts", "book", "book"]


def test_10_a_number_typed_as_it_was_is_no_draft() -> None:
    run = stays()
    run(do.Choose(screen="stays", key=1), do.Press(button="edit"))
    before = run.app.record_of(run.session, run.session.entries[-1])
    assert before is not None
    run(do.Type(field="nights", to=float(before["nights"])))
    assert not run.session.entries[-1].view.draft
    run(do.Type(field="nights", to=True))
    assert run.session.entries[-1].view.draft


def test_10_a_draft_that_was_discarded_or_saved_is_not_stored_any_more() -> None:
    run = stays()
    form = next(each for each in run.app.app.screens if each.id == "form")
    app = with_screen(run.app.app, "form", keep=replace(form.keep, draft="stored"))
    run.app = WiredApp(app, run.app.as_read)
    run.session, _ = start(run.app, POCKET)
    for ends in ((do.Back(), do.Decide(yes=True)), (do.Save(),)):
        run(do.GoTo(section="stays"), do.Choose(screen="stays", key=1), do.Press(button="edit"))
        run(do.Type(field="guest", to="Ada"))
        assert run.session.stored
        run(*ends)
        assert not any(each.view.draft for each in run.session.stored)
        run(do.GoTo(section="stays"), do.GoTo(section="huts"), do.GoTo(section="stays"))
        run(do.Choose(screen="stays", key=1), do.Press(button="edit"))
        assert not run.session.entries[-1].view.draft
        run(do.GoTo(section="stays"))


def test_7_7_an_offered_order_may_follow_a_reference() -> None:
    """Legs of a route by the altitude of their huts; an order that nobody offers is refused."""
    model = demo().app
    route = next(each for each in model.screens if each.id == "route")
    assert isinstance(route, DetailScreen)
    legs = next(each for each in route.blocks if isinstance(each, ListBlock))
    by = (Sort(field="hut.altitude"),)
    rows = replace(legs.rows, orders=(Order(name="By altitude", sort=by),))
    blocks = tuple(replace(e, rows=rows) if e.id == legs.id else e for e in route.blocks)
    app = WiredApp(with_screen(model, "route", blocks=blocks), demo().as_read)
    session, _ = start(app, DESK)
    key = app.as_read["routes"].key_at(0)
    for event in (do.GoTo(section="routes"), do.Choose(screen="routes", key=key)):
        session = step(app, session, event).session
    after, _, refused = step(app, session, do.SortBy(screen="route", list=legs.id, by=by))
    assert not refused
    listed = app.listed(after, after.entries[-1], legs.id)
    assert listed is not None
    found = [listed.rows.record_at(at)["hut.altitude"] for at in range(len(listed.rows))]
    filled = [each for each in found if each is not None]
    assert len(filled) > 1
    assert filled == sorted(filled)
    other = do.SortBy(screen="route", list=legs.id, by=(Sort(field="hut.beds"),))
    assert step(app, session, other).refused


def test_8_an_action_on_a_row_that_is_not_listed_asks_nothing() -> None:
    run = stays()
    gone = do.Act(screen="stays", key=99, action="remove")
    after, notes, refused = step(run.app, run.session, gone)
    assert refused
    assert after.question is None
    assert notes[0].case == "row not listed"


def test_3_2_a_list_slid_over_has_the_focus() -> None:
    app = with_arrangement(small_app(), "one", over=True)
    run = Run(app).choose("h1")(do.Scroll(by=40.0))
    assert focus_of(run.app, run.session) == 1
    run(do.SlideList())
    assert display_of(run.app, run.session).slid is not None
    assert focus_of(run.app, run.session) == 0


def test_9_what_is_changed_of_a_service_s_records_is_said_not_to_be_sent() -> None:
    run = stays()
    source = replace(run.app.as_read["stays"].source, served="service")
    run.app.sources["stays"] = source
    for event in (do.Choose(screen="stays", key=1), do.Press(button="edit")):
        run(event)
    run(do.Type(field="guest", to="Ada"), do.Save())
    said = [in_words(each) for each in run.notes if each.kind == "not sent"]
    assert said == ["stays: the change stays in the app; nothing is sent to its service"]


def test_10_leaving_a_form_for_its_list_asks_for_the_list() -> None:
    """Where a detail comes first, the list that a form was left for stays."""
    app = with_link(stays_app(), "stay", to="form")
    links = tuple(each for each in app.links if each.id != "saved")
    app = with_arrangement(replace(app, links=links), "one", detail_first="open first")
    for leave in ((do.Cancel(),), (do.Type(field="guest", to="Ada"), do.Save())):
        run = stays(app)
        assert run.chain == ["stays", "form"]
        run(*leave)
        assert run.chain == ["stays"]


def test_2_3_the_row_that_would_open_the_same_is_found_by_what_its_link_carries() -> None:
    """Not by its key alone; and a link that carries nothing of a row finds none."""
    app = with_link(small_app(), "open", arguments=(FromField(parameter="hut", field="name"),))
    other = FromConstant(parameter="hut", constant="Hut 002")
    app = with_link(app, "book", to="hut", how="replace", arguments=(other,))
    run = Run(app).choose("h1")(do.Press(button="book"))
    assert run.session.entries[1].row == RowRef("", "h2")
    app = with_link(app, "open", arguments=(replace(other, constant="Hut 001"),))
    run = Run(app).choose("h1")(do.Press(button="book"))
    assert run.arguments == {"hut": "Hut 002"}
    assert run.session.entries[1].row is None


def test_10_the_row_of_what_a_saved_form_opens_is_chosen_in_a_layer_as_well() -> None:
    run = stays(with_link(stays_app(), "saved", how="modal"))
    run(do.Act(screen="stays", key=1, action="change"))
    run(do.Type(field="guest", to="Ada"), do.Save())
    assert run.chain == ["stays", "stay"]
    assert run.session.entries[1].row == RowRef("", 1)


def test_13_what_a_saved_record_refers_to_can_be_carried() -> None:
    carried = FromField(parameter="hut", field="hut.name")
    app = with_link(stays_app(), "saved", to="book", how="push", arguments=(carried,))
    refers = Field(name="hut", refers=Refers(to="huts"))
    sources = tuple(
        replace(each, fields=(*(f for f in each.fields if f.name != "hut"), refers))
        if each.id == "stays"
        else each
        for each in app.sources
    )
    run = stays(replace(app, sources=sources))
    run(do.Choose(screen="stays", key=1), do.Press(button="edit"))
    hut = (run.app.record_of(run.session, run.session.entries[1]) or {})["hut"]
    run(do.Type(field="guest", to="Ada"), do.Save())
    named = run.app.as_read["huts"].by_key(hut)
    assert named is not None
    assert run.arguments == {"hut": named["name"]}


def late(app: App) -> Run:
    """The app with huts that come late: of each, a list brings the name."""
    huts = replace(
        app.sources[0], served="stand-in", list_brings=("name",), stand_in=StandIn(delay=300)
    )
    run = Run(count=1)
    run.app = WiredApp(replace(app, sources=(huts, *app.sources[1:])), small_records(60))
    run.session, run.notes = start(run.app, POCKET)
    return run


def test_9_a_row_carries_only_what_its_list_has_brought() -> None:
    note = FromField(parameter="hut", field="note")
    late_one = late(with_link(small_app(), "open", arguments=(note,)))
    late_one(do.Wait(ms=300), do.Choose(key="h1"))
    assert late_one.kinds == ["refused"]
    assert late_one.chain == ["huts"]


def test_9_what_has_not_come_is_not_changed() -> None:
    """Opened by a button, the record is not known before its call has come."""
    turn = Button(id="turn", label="Turn", does=ToggleField(field="note", between=("x", "y")))
    run = late(with_screen(small_app(), "book", blocks=(ActionsBlock(id="do", buttons=(turn,)),)))
    run(do.Wait(ms=300), do.Choose(key="h1"), do.Press(button="book"))
    run(do.Press(screen="book", button="turn"))
    assert run.kinds == ["refused"]
    run(do.Wait(ms=300), do.Press(screen="book", button="turn"))
    assert (run.app.record_of(run.session, run.session.entries[-1]) or {})["note"] == "y"


def test_10_a_form_writes_what_was_typed_and_nothing_of_what_has_not_come() -> None:
    app = stays_app()
    brings = ("id", "guest", "hut", "nights")
    sources = tuple(
        replace(e, served="stand-in", list_brings=brings, stand_in=StandIn(delay=300))
        if e.id == "stays"
        else e
        for e in app.sources
    )
    run = stays(replace(app, sources=sources))
    before = run.app.as_read["stays"].by_key(1)
    run(do.Wait(ms=300), do.Act(screen="stays", key=1, action="change"))
    run(do.Type(field="guest", to="Ada"), do.Save())
    records = run.app.records(run.session, "stays")
    assert before is not None
    assert records is not None
    assert "saved" in run.kinds
    assert records.by_key(1) == {**before, "guest": "Ada"}
