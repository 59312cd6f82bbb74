"""Corners of the rules: what leaves a chain, what follows a list, what comes again."""

from __future__ import annotations

import itertools
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec import json
from msgspec.structs import replace

from builders import POCKET, SLATE, Run, small_app, with_arrangement, with_link, with_screen
from cadena.engine import events as do
from cadena.engine.rules.back import back_label
from cadena.engine.rules.display import display_of
from cadena.engine.rules.lists import chosen_row
from cadena.engine.session import Session, opened_from, owner_of, sized
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.app import (
    App,
    Arrangement,
    FromArgument,
    FromConstant,
    FromField,
    Keep,
    Link,
    ListScreen,
    Parameter,
    Range,
    Section,
    Trigger,
    When,
)
from cadena.model.listing import Button, Condition, Group, Listing, Row
from cadena.records.changes import Change
from cadena.words.notes import in_words
from long_form import examples
from stays import stays, stays_app, stays_records
from test_engine_random import EVENTS, RECORDS, apps

WIDE = sized(1280, 800)


def with_row_action(how: Any = "modal", to: str = "book", **screen: Any) -> App:
    """The small app, whose huts have an action that opens a screen of theirs."""
    app = small_app()
    rows = replace(app.screens[0].rows, actions=(Button(id="peek", label="Peek"),))
    link = Link(
        id="peek",
        trigger=Trigger(screen="huts", on="action", part="peek"),
        to=to,
        how=how,
        arguments=(FromField(parameter="hut", field="id"),),
    )
    app = with_screen(replace(app, links=(*app.links, link)), "huts", rows=rows)
    return with_screen(app, to, **screen)


def three_lists(**deepest: Any) -> App:
    """Huts, a list of the rooms of one, a room: all beside, opened first, in three panes."""
    app = small_app()
    rooms = ListScreen(
        id="rooms",
        title="Rooms",
        parameters=(Parameter(name="hut", key_of="huts"),),
        nothing_chosen="open first",
        rows=Listing(
            source="rooms",
            where=(Condition(field="hut", argument="hut"),),
            row=Row(title="{name}"),
            empty="No rooms.",
        ),
        **deepest,
    )
    to_rooms = Link(
        id="open",
        trigger=Trigger(screen="huts"),
        to="rooms",
        how="beside",
        arguments=(FromField(parameter="hut", field="id"),),
    )
    to_room = Link(
        id="deep",
        trigger=Trigger(screen="rooms"),
        to="room",
        how="beside",
        arguments=(FromField(parameter="room", field="id"),),
    )
    wide = Arrangement(id="wide", when=When(width=Range(least=1100)), panes=3)
    app = replace(app, screens=(*app.screens, rooms), arrangements=(wide, *app.arrangements))
    return with_screen(
        replace(app, links=(to_rooms, to_room, *app.links[1:])), "huts", nothing_chosen="open first"
    )


# 2: opening


def test_2_a_section_whose_root_needs_something_says_so_at_the_start() -> None:
    app = small_app()
    app = replace(app, sections=(*app.sections, Section(id="hut", title="Hut", root="hut")))
    session, notes = start(WiredApp(app, RECORDS), POCKET)
    assert session.chains["hut"].entries == ()
    assert [each.kind for each in notes] == ["not opened"]
    assert "section hut" in in_words(notes[0])
    assert "hut is required" in in_words(notes[0])


def test_2_2_whether_a_step_was_refused_is_a_value_of_it() -> None:
    text = FromConstant(parameter="hut", constant=3)
    app = with_screen(with_link(small_app(), "open", arguments=(text,)), "huts")
    run = Run(with_screen(app, "huts", nothing_chosen="open first"), POCKET).resize(SLATE)
    assert not run.refused
    assert "refused" not in run.kinds
    assert "not opened by rule" in run.kinds
    assert run.choose("h1").refused
    assert run.kinds == ["refused"]


def test_2_3_after_replace_only_a_row_that_would_have_opened_it_is_chosen() -> None:
    """A hut that is not on the list, and one that the list would have opened otherwise."""
    north = (Condition(field="region", constant="N"),)
    button = with_link(
        small_app(), "book", to="hut", how="replace",
        arguments=(FromConstant(parameter="hut", constant="h1"),),
    )  # fmt: skip
    rows = replace(button.screens[0].rows, where=north)
    run = Run(with_screen(button, "huts", rows=rows), SLATE).choose("h2")(do.Press(button="book"))
    assert run.arguments == {"hut": "h1"}
    assert chosen_row(run.session, 0) is None

    other = replace(
        button.screens[1],
        parameters=(*button.screens[1].parameters, Parameter(name="tone", need="none")),
    )
    toned = replace(button, screens=tuple(other if e.id == "hut" else e for e in button.screens))
    tone = FromConstant(parameter="tone", constant="low")
    toned = with_link(toned, "open", arguments=(FromField(parameter="hut", field="id"), tone))
    run = Run(toned, SLATE).choose("h2")(do.Press(button="book"))
    assert run.arguments == {"hut": "h1"}
    assert chosen_row(run.session, 0) is None


@pytest.mark.parametrize("window", [POCKET, SLATE, WIDE])
def test_2_4_a_form_that_is_open_is_never_opened_a_second_time(window: Any) -> None:
    run = stays(window=window).choose(3, "stays")(do.Press(button="edit"))
    assert run.chain == ["stays", "stay", "form"]
    app = stays_app()
    modal = with_link(app, "edit", how="modal")
    run = stays(modal, window).choose(3, "stays")(do.Press(button="edit"))
    assert run.chain.count("form") == 1


def test_2_4_the_chain_is_cut_back_to_the_form_and_a_draft_asks_first() -> None:
    run = stays(window=SLATE).choose(3, "stays")(do.Press(button="edit"))
    change = do.Act(screen="stays", key=3, action="change")
    assert run(change).chain == ["stays", "stay", "form"]
    assert run.kinds == ["already open"]
    run(do.Act(screen="stays", key=2, action="change"), do.Type(field="guest", to="Ada"))
    assert run.chain == ["stays", "stay", "form", "form"]
    assert run.session.question is None


def test_2_5_a_press_outside_a_popover_closes_all_that_is_in_it() -> None:
    app = small_app()
    button = Button(id="on", label="On")
    block = replace(app.screens[1].blocks[2], buttons=(button,))
    app = with_screen(app, "book", blocks=(*app.screens[3].blocks, block))
    on = Link(
        id="on",
        trigger=Trigger(screen="book", on="button", part="on"),
        to="hut",
        arguments=(FromArgument(parameter="hut", argument="hut"),),
    )
    app = replace(app, links=(*app.links, on))
    run = Run(app, SLATE).choose("h1")(do.Press(button="ask"), do.Press(button="on"))
    assert run.chain == ["huts", "hut", "book", "hut"]
    assert run(do.PressOutside()).chain == ["huts", "hut"]


def test_2_6_what_a_section_cut_is_remembered_and_the_list_is_asked_for() -> None:
    app = with_arrangement(small_app(), "one", detail_first="open first")
    run = Run(app, POCKET)
    assert run.shown == ["hut"]
    run(do.GoTo(section="huts"))
    assert run.shown == ["huts"]
    assert run.session.chain.asked
    assert run.session.entries[0].view.last == {"": "h0"}

    again = small_app()
    again = replace(again, sections=(replace(again.sections[0], returns="root"), again.sections[1]))
    run = Run(again).choose("h3")(do.GoTo(section="again"), do.GoTo(section="huts"))
    assert run.session.entries[0].view.last == {"": "h3"}
    assert run(do.Enter()).arguments == {"hut": "h3"}


def test_2_6_a_list_slid_over_does_not_stay_so_in_the_next_section() -> None:
    app = with_arrangement(small_app(), "one", over=True)
    run = Run(app, POCKET)(do.GoTo(section="again"))
    run.choose("h2")(do.GoTo(section="huts")).choose("h1")(do.SlideList())
    assert run.session.slid
    run(do.GoTo(section="again"))
    assert not run.session.slid
    assert run.shown == ["hut"]


# 3: on display


def test_3_3_under_a_list_that_is_slid_over_nothing_takes_events() -> None:
    app = with_arrangement(small_app(), "one", over=True)
    run = Run(app, POCKET).choose("h1")(do.SlideList())
    before = run.session
    for event in (
        do.Press(button="book"),
        do.Choose(key=2, list="rooms"),
        do.Scroll(screen="hut", by=20.0),
    ):
        assert run(event).refused
        assert run.session is before
    assert run(do.PressOutside()).shown == ["hut"]
    assert run(do.SlideList()).choose("h2").arguments == {"hut": "h2"}


def test_3_5_the_label_names_what_back_shows() -> None:
    app = small_app()
    platform = replace(app.platform, back_to_start=True)
    to_start = Run(replace(app, platform=platform), SLATE).choose("h1")(do.GoTo(section="again"))
    assert back_label(to_start.app, to_start.session) == "Hut 001"
    to_start(do.Back())
    assert to_start.session.section == "huts"

    # What a rule opened goes with what was opened from it: back does not show it.
    deep = Run(three_lists(), WIDE)(do.Scroll(screen="room", by=1.0)).resize(POCKET)
    assert [each.by for each in deep.session.entries] == ["hand", "rule", "hand"]
    assert back_label(deep.app, deep.session) == "Huts"
    assert deep(do.Back()).shown == ["huts"]

    # Detail first: what back shows is not what a rule takes away as soon as it is there.
    first = with_arrangement(three_lists(), "one", detail_first="open first")
    run = Run(first, POCKET)
    label = back_label(run.app, run.session)
    run(do.Back())
    assert run.shown == ["huts"]
    assert label == "Huts"


@given(apps(), st.lists(EVENTS, max_size=20))
@settings(max_examples=examples(150))
def test_3_5_the_label_is_that_of_something_back_shows(model: App, events: list[Any]) -> None:
    app = WiredApp(model, RECORDS)
    session, _ = start(app, SLATE)
    for event in events:
        session, *_ = step(app, session, event)
    if session.phase != "running" or session.question is not None:
        return
    label = back_label(app, session)
    after, *_ = step(app, session, do.Back())
    assert (label is None) == (after.phase == "left")
    if label is not None:
        shown = [
            after.entries[e.entry] for e in display_of(app, after).shown if e.entry is not None
        ]
        assert label in [app.title_of(after, entry) for entry in shown]


# 4: back


def test_4_1_a_list_slid_over_slides_away_and_nothing_else_changes() -> None:
    run = Run(with_arrangement(small_app(), "one", over=True), POCKET).choose("h1")
    before = run.session.chains
    run(do.SlideList(), do.Back())
    assert run.shown == ["hut"]
    assert run.session.chains == before
    assert run.kinds == ["back"]
    assert run(do.Back()).chain == ["huts"]


def test_4_5_close_counts_as_leave_only_where_something_opens_again() -> None:
    app = with_arrangement(with_screen(small_app(), "huts", nothing_chosen="open first"), "two")
    app = with_arrangement(app, "two", back="close")
    run = Run(app, SLATE).choose("h1")
    assert run(do.Back()).session.phase == "left"
    # Where what the rule would open is refused, the detail is closed.
    gone = with_link(app, "open", arguments=(FromField(parameter="hut", field="note"),))
    run = Run(gone, SLATE).choose("h1")
    assert run(do.Back()).session.phase == "running"
    assert run.chain == ["huts"]


def test_4_what_a_rule_had_opened_is_remembered_as_last_opened() -> None:
    run = Run(with_arrangement(small_app(), "one", detail_first="open first"), POCKET)
    assert run.session.entries[1].by == "rule"
    assert not run(do.Back(), do.Enter()).refused
    assert run.arguments == {"hut": "h0"}


def test_4_so_is_the_row_of_a_detail_that_was_replaced() -> None:
    app = with_screen(small_app(), "huts", nothing_chosen="open last")
    app = with_arrangement(with_link(app, "book", how="replace"), "two", back="close")
    run = Run(app, POCKET).choose("h3")(do.Press(button="book"), do.Back())
    assert run.chain == ["huts"]
    assert run.resize(SLATE).arguments == {"hut": "h3"}


@given(apps(), st.lists(EVENTS, max_size=25))
@settings(max_examples=examples(150))
def test_4_whatever_leaves_a_list_is_its_last_opened_row(model: App, events: list[Any]) -> None:
    """What back, another section or another row takes away names the row it was opened from."""
    app = WiredApp(model, RECORDS)
    session, _ = start(app, SLATE)
    for event in events:
        before = session
        session, _, refused = step(app, before, event)
        if refused or not isinstance(event, do.Back | do.PressOutside):
            continue
        for index, entry in enumerate(before.entries):
            row, now = entry.row, session.chains[before.section].entries
            if index >= len(now) and row is not None and owner_of(row, index) < len(now):
                below = [e for e in before.entries[len(now) :] if e.row is not None]
                lowest = next(e.row for e in below if e.row.part == row.part)
                assert now[owner_of(row, index)].view.last[row.part] in (row.key, lowest.key)


# 5: another window


def test_5_3_what_a_rule_opened_follows_its_list() -> None:
    app = with_screen(small_app(), "huts", nothing_chosen="open first")
    run = Run(app, SLATE)(do.Search(screen="huts", text="003"))
    assert run.arguments == {"hut": "h3"}
    assert run.resize(POCKET).resize(SLATE).arguments == {"hut": "h3"}
    run(do.Refresh(source="huts", gone=("h3",)))
    assert run.chain == ["huts"]


def test_5_3_the_row_that_is_open_is_chosen_in_a_list_that_a_rule_opened() -> None:
    run = Run(three_lists(), WIDE)
    assert [each.by for each in run.session.entries] == ["hand", "rule", "rule"]
    run(do.Choose(screen="rooms", key=0))
    assert [each.by for each in run.session.entries] == ["hand", "hand", "hand"]
    assert run.resize(POCKET).shown == ["room"]


@given(st.sampled_from(["move", "press", "menu", "type", "scroll"]))
def test_5_3_touched_means_anything_was_done_in_it(what: str) -> None:
    run = Run(with_screen(small_app(), "huts", nothing_chosen="open first"), SLATE)
    events = {
        "move": do.Move(screen="hut", list="rooms", to="down"),
        "press": do.Press(screen="hut", button="ask"),
        "menu": do.Choose(screen="hut", list="rooms", key=0),
        "type": do.Choose(screen="huts", key="h0"),
        "scroll": do.Scroll(screen="hut", by=1.0),
    }
    assert run(events[what]).session.entries[1].by == "hand"


def test_5_2_what_a_rule_has_opened_stays_as_it_is() -> None:
    """Nothing is closed and opened again with every event."""
    run = Run(with_screen(small_app(), "huts", nothing_chosen="open first"), SLATE)
    opened = run.session.entries[1]
    run(do.Refresh(source="rooms"))
    assert run.kinds == ["refreshed"]
    assert run.session.entries[1] is opened


def test_5_3_a_menu_is_closed_without_touching_anything() -> None:
    run = stays(with_screen(stays_app(), "stays", nothing_chosen="open first"), SLATE)
    run(do.OpenMenu(screen="stays", key=1))
    assert run.session.menu is not None
    before = run.session.chains
    assert run(do.CloseMenu()).session.menu is None
    assert run.session.chains == before
    assert run(do.CloseMenu()).refused


# 1: a row says whose it is


def test_1_a_modal_over_a_detail_leaves_the_rows_of_both_lists_alone() -> None:
    run = Run(with_row_action(), SLATE).choose("h1")
    run(do.Act(screen="huts", key="h3", action="peek"))
    assert chosen_row(run.session, 0).key == "h1"  # type: ignore[union-attr]
    assert chosen_row(run.session, 1) is None
    run(do.Back())
    assert run.session.entries[1].view.last == {}
    assert run.session.entries[0].view.last == {"": "h3"}
    run.resize(POCKET)(do.Back())
    assert run.session.entries[0].view.last == {"": "h1"}


def test_1_what_lies_over_a_pane_keeps_its_row_when_a_rule_opens_another_below() -> None:
    app = with_screen(with_row_action(), "huts", nothing_chosen="open first")
    run = Run(app, POCKET)(do.Act(screen="huts", key="h3", action="peek")).resize(SLATE)
    assert run.chain == ["huts", "hut", "book"]
    rows = [opened_from(run.session.entries, at) for at in range(3)]
    assert rows[0] is not None
    assert rows[0].key == "h0"
    assert rows[1] is None
    run(do.Back())
    assert run.session.entries[0].view.last == {"": "h3"}


# 6: lifetimes


def test_6_one_entry_that_cannot_be_read_costs_itself_and_those_after_it() -> None:
    app = small_app()
    app = with_screen(app, "huts", keep=Keep(scroll="stored"))
    run = (
        Run(app)
        .choose("h1")(do.GoTo(section="again"))
        .choose("h2")(
            do.GoTo(section="huts"), do.Back(), do.Scroll(by=300.0), do.Choose(key="h4"), do.Kill()
        )
    )
    kept = json.decode(run.session.kept)
    assert kept["stored"]
    for spoilt in (
        {"chains": [{**kept["chains"][0], "entries": [kept["chains"][0]["entries"][0], 7]}]},
        {"stored": [*kept["stored"], {"section": 1}]},
        {"values": {"mine": {"a": 1}}},
        {"chains": [*kept["chains"], 5]},
        {"section": 3},
    ):
        text = json.encode({**kept, **spoilt}).decode()
        session, notes, _ = step(run.app, replace(run.session, kept=text), do.Restore())
        assert len(session.stored) == len(kept["stored"])
        assert [each.screen for each in session.chains["again"].entries] in (
            ["huts", "hut"],
            ["huts"],
        )
        if "values" not in spoilt:
            assert "dropped" in [each.kind for each in notes]
    assert session.chains["huts"].entries[0].screen == "huts"


@pytest.mark.parametrize(("wish", "chain"), [("say so", 2), ("close", 1), ("next", 1)])
def test_6_a_record_that_went_while_the_app_was_ended(wish: Any, chain: int) -> None:
    run = Run(with_screen(small_app(), "hut", when_gone=wish)).choose("h1")
    run(do.Kill(), do.Remove(source="huts", key="h1"), do.Restore())
    assert len(run.chain) == chain
    assert ("closed" in run.kinds) == (chain == 1)


def test_6_one_that_never_was_there_stays_as_it_was() -> None:
    app = with_link(small_app(), "open", arguments=(FromConstant(parameter="hut", constant="zz"),))
    run = Run(with_screen(app, "hut", when_gone="close")).choose("h1")(do.Kill(), do.Restore())
    assert run.chain == ["huts", "hut"]


# 7: lists


def test_7_1_a_condition_that_cannot_be_compared_survives_a_refresh() -> None:
    rows = replace(small_app().screens[0].rows, where=(Condition(field="name", constant=3),))
    run = Run(with_screen(small_app(), "huts", rows=rows))
    run(do.Refresh(source="huts", added=({"id": "new", "name": "New"},)))
    assert not run.refused
    listed = run.app.listed(run.session, run.session.entries[0], "")
    assert listed is not None
    assert len(listed.rows) == 0


VALUES = st.one_of(
    st.none(), st.booleans(), st.integers(-3, 3), st.sampled_from(["", "Hut 001", "2026-01-01"]),
    st.lists(st.one_of(st.integers(0, 3), st.text(max_size=2)), max_size=3).map(tuple),
)  # fmt: skip
TESTS = st.sampled_from(
    ["is", "is not", "under", "over", "at least", "at most", "contains", "is one of"]
)


@given(VALUES, TESTS, st.sampled_from(["name", "region", "note", "id"]))
@settings(max_examples=examples(200))
def test_7_1_a_group_compares_with_whatever_an_argument_holds(
    value: Any, test: Any, field: str
) -> None:
    app = small_app()
    group = Group(title="Some", where=(Condition(field=field, test=test, argument="which"),))
    kind = "list of text" if isinstance(value, tuple) else "text"
    huts = replace(
        app.screens[0],
        rows=replace(app.screens[0].rows, groups=(group,)),
        parameters=(Parameter(name="which", need="none", type=kind),),  # type: ignore[arg-type]
    )
    app = replace(app, screens=(huts, *app.screens[1:]))
    run = Run(app)
    entry = replace(run.session.entries[0], arguments={} if value is None else {"which": value})
    run.session = run.session.with_entry(0, entry)
    run(do.Search(text="hut"), do.Search(text=""))
    listed = run.app.listed(run.session, run.session.entries[0], "")
    assert listed is not None
    assert len(listed.rows) == 30


def test_7_4_enter_opens_the_marked_row_else_the_one_last_opened() -> None:
    run = Run(window=SLATE).choose("h1")
    assert not run(do.Enter(screen="huts")).refused
    assert run.arguments == {"hut": "h1"}
    run.choose("h2")(do.Enter(screen="huts"))
    assert run.arguments == {"hut": "h2"}


# 8: records that change


def test_8_what_went_can_come_again_and_what_is_new_comes_once() -> None:
    run = Run()
    run(do.Refresh(source="huts", gone=("h1",)))
    run(do.Refresh(source="huts", added=({"id": "h1", "name": "Back again"},)))
    records = run.app.records(run.session, "huts")
    assert records is not None
    assert records.by_key("h1") == {"id": "h1", "name": "Back again", "region": None, "note": None}
    for name in ("New", "Newer"):
        run(do.Refresh(source="huts", added=({"id": "new", "name": name},)))
    records = run.app.records(run.session, "huts")
    assert records is not None
    assert len(records) == 31
    assert records.by_key("new")["name"] == "Newer"  # type: ignore[index]
    run(do.Remove(source="huts", key="new"))
    run(do.Refresh(source="huts", added=({"id": "new", "name": "Newest"},)))
    assert run.app.records(run.session, "huts").by_key("new")["name"] == "Newest"  # type: ignore


def test_8_a_change_to_a_record_that_is_not_there_is_left_out_with_a_note() -> None:
    change = Change("zz", {"name": "Z"})
    run = Run()(do.Refresh(source="huts", changed=(change,), gone=("yy",)))
    assert run.kinds == ["refreshed", "left out"]
    run(do.Refresh(source="huts", added=({"id": "zz", "name": "As it came"},)))
    assert run.app.records(run.session, "huts").by_key("zz")["name"] == "As it came"  # type: ignore
    run(do.Refresh(source="huts", added=({"name": "no key"}, {"id": 3, "name": "not a text"})))
    assert "left out" in run.kinds


RECORD_EVENTS = st.lists(
    st.one_of(
        st.builds(do.Remove, source=st.just("huts"), key=st.sampled_from(["h0", "h1", "n0"])),
        st.builds(
            lambda key, name: do.Refresh(source="huts", added=({"id": key, "name": name},)),
            st.sampled_from(["h0", "n0", "n1"]),
            st.text(max_size=2),
        ),
        st.builds(
            lambda key, name: do.Refresh(source="huts", changed=(Change(key, {"name": name}),)),
            st.sampled_from(["h0", "n0", "n1"]),
            st.text(max_size=2),
        ),
        st.builds(
            lambda key: do.Refresh(source="huts", gone=(key,)), st.sampled_from(["h0", "n0"])
        ),
    ),
    max_size=12,
)


@given(RECORD_EVENTS)
def test_8_records_are_as_a_plain_dictionary_would_have_them(events: list[Any]) -> None:
    run = Run(count=3)
    plain = {row["id"]: row for row in run.app.as_read["huts"].frame.to_dicts()}
    for event in events:
        run(event)
        if isinstance(event, do.Remove):
            plain.pop(event.key, None)
            continue
        for key in event.gone:
            plain.pop(key, None)
        for row in event.added:
            blank = dict.fromkeys(("id", "name", "region", "note"))
            plain[row["id"]] = {**plain.get(row["id"], blank), **row}
        for change in event.changed:
            if change.key in plain:
                plain[change.key] = {**plain[change.key], **change.fields}
    records = run.app.records(run.session, "huts")
    assert records is not None
    assert {row["id"]: row for row in records.frame.to_dicts()} == plain


def test_8_next_opens_again_by_the_link_that_had_opened_it() -> None:
    run = Run(with_row_action("push", when_gone="next"))
    run(do.Act(screen="huts", key="h3", action="peek"), do.Remove(source="huts", key="h3"))
    assert run.chain == ["huts", "book"]
    assert run.arguments == {"hut": "h4"}
    assert run.session.entries[1].row.action == "peek"  # type: ignore[union-attr]


def test_8_what_next_opens_gets_what_was_stored_for_it() -> None:
    app = with_screen(small_app(), "hut", when_gone="next", keep=Keep(scroll="stored"))
    run = Run(app, sized(300, 200)).choose("h4")(do.Scroll(screen="hut", by=40.0))
    there = run.session.entries[1].view.scroll
    assert there is not None
    run(do.Back()).choose("h3")(do.Remove(source="huts", key="h3"))
    assert run.arguments == {"hut": "h4"}
    assert run.session.entries[1].view.scroll == there
    assert any(each.view.scroll == there for each in run.session.stored)


# 10: forms


@pytest.mark.parametrize("window", [POCKET, SLATE, WIDE, sized(198, 242)])
def test_10_a_stay_opened_from_its_list_changed_and_saved_lies_on_nothing(window: Any) -> None:
    run = stays(window=window).choose(3, "stays")
    run(do.Press(button="edit"), do.Type(field="nights", to=4), do.Save())
    assert run.chain == ["stays", "stay"]
    assert run.arguments == {"stay": 3}


def test_10_every_form_of_the_record_leaves_the_chain() -> None:
    """A modal form over a pushed one of the same record, with other arguments."""
    app = stays_app()
    key = FromField(parameter="stay", field="id")
    hut = FromField(parameter="hut", field="hut")
    app = with_link(with_link(app, "change", arguments=(key, hut)), "saved", to="stay", how="push")
    run = stays(app, SLATE).choose(3, "stays")(do.Press(button="edit"))
    run(do.Act(screen="stays", key=3, action="change"))
    assert run.chain == ["stays", "stay", "form", "form"]
    run(do.Type(field="nights", to=4), do.Save())
    assert run.chain == ["stays", "stay"]
    # Saved without a link: back from there never shows a form of it either.
    bare = replace(app, links=tuple(each for each in app.links if each.id != "saved"))
    run = stays(bare, SLATE).choose(3, "stays")(do.Press(button="edit"))
    run(do.Act(screen="stays", key=3, action="change"), do.Save())
    assert run.chain == ["stays", "stay"]


def test_10_a_draft_in_another_form_of_the_record_asks_before_it_goes() -> None:
    app = stays_app()
    key, hut = FromField(parameter="stay", field="id"), FromField(parameter="hut", field="hut")
    app = with_link(app, "change", arguments=(key, hut))
    run = stays(app, SLATE).choose(3, "stays")(
        do.Press(button="edit"), do.Type(field="guest", to="Ada")
    )
    run(do.Act(screen="stays", key=3, action="change"), do.Type(field="nights", to=4), do.Save())
    assert run.kinds == ["asked"]
    run(do.Decide(yes=True))
    assert run.chain == ["stays", "stay"]
    assert run.app.records(run.session, "stays").by_key(3)["nights"] == 4  # type: ignore


def test_10_where_the_screen_lies_below_already_the_chain_is_cut_back_to_it() -> None:
    app = with_link(stays_app(), "saved", to="stays", how="push", arguments=())
    run = stays(app, POCKET).choose(3, "stays")(do.Press(button="edit"), do.Save())
    assert run.chain == ["stays"]
    assert run.session.entries[0].view.last == {"": 3}


def session_is_whole(app: WiredApp, session: Session) -> None:
    for chain in session.chains.values():
        for index, entry in enumerate(chain.entries):
            if entry.row is not None:
                assert 0 <= owner_of(entry.row, index) < index


@given(st.lists(st.integers(0, 11), max_size=25), st.sampled_from([POCKET, SLATE, WIDE]))
@settings(max_examples=examples(80))
def test_10_no_screen_lies_on_a_copy_of_itself_after_saving(acts: list[int], window: Any) -> None:
    run = stays(window=window)
    every = [
        do.Choose(screen="stays", key=3), do.Choose(screen="stays", key=1), do.Press(button="edit"),
        do.Press(button="new"), do.Act(screen="stays", key=3, action="change"),
        do.Type(field="nights", to=4), do.Type(field="guest", to="Ada"), do.Save(), do.Back(),
        do.Decide(yes=True), do.Type(field="hut", to="h1"), do.Turn(),
    ]  # fmt: skip
    for act in acts:
        run(every[act])
        session_is_whole(run.app, run.session)
        seen = [(e.screen, sorted(e.arguments.items())) for e in run.session.entries]
        assert len({str(each) for each in seen if each[0] == "form"}) == sum(
            each[0] == "form" for each in seen
        )
        if isinstance(every[act], do.Save) and "saved" in run.kinds:
            assert all(one != other for one, other in itertools.pairwise(seen))


def test_stays_records_are_what_these_tests_take_them_for() -> None:
    assert len(stays_records()["stays"]) == 6


def test_notes_are_short_whatever_they_are_about() -> None:
    """A key or a value of a megabyte is cut wherever it is named."""
    long = "x" * 1_000_000
    run = Run()
    for event in (
        do.Choose(key=long),
        do.Remove(source="huts", key=long),
        do.Edit(source="huts", key="h1", fields={"name": long}),
        do.SetValue(value="mine", to=long),
        do.Refresh(source="huts", changed=(Change(long, {}),), gone=(long,)),
        do.Refresh(source="huts", added=({"id": long, "name": long},)),
        do.Choose(key=long),
        do.Visit(address="/" + long),
        do.Scroll(row=long),
    ):
        run(event)
        assert all(len(in_words(note)) < 500 for note in run.notes), type(event)
