"""Projects of strangers: whatever a sound file says, nothing breaks and nothing hangs."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from builders import POCKET, SLATE, small_records
from cadena.check.check import check
from cadena.check.mend import mended
from cadena.engine import events as do
from cadena.engine.rules.app_changed import fitted
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model import app as parts
from cadena.model import blocks as block
from cadena.model import listing as rows
from cadena.model.app import App
from cadena.model.source import Field, Source, StandIn, StandsOut
from cadena.runs.walks.trace import to_line, trace_line
from cadena.scene.board.board import lay_out_board
from cadena.scene.lay_out import lay_out
from long_form import examples

NAMES = st.sampled_from(
    ["huts", "rooms", "hut", "room", "id", "name", "", "gone", "{name}", "{", "}{}"]
)
VALUES = st.none() | st.sampled_from([0, "", False, 1.5, "h1", ("a",), 2**62])
TYPES = st.sampled_from(["text", "whole number", "number", "yes/no", "date", "list of text"])
TESTS = st.sampled_from(["is", "is not", "under", "at least", "contains", "is one of", "is empty"])
CONDITIONS = st.builds(
    rows.Condition,
    field=NAMES,
    test=TESTS,
    constant=VALUES,
    argument=NAMES,
    value=NAMES,
    choice=NAMES,
)
DOES = st.one_of(
    st.just(rows.Follow()),
    st.builds(rows.RemoveRecord, confirm=NAMES),
    st.builds(rows.Mark, value=NAMES),
    st.builds(rows.SetField, field=NAMES, to=VALUES),
    st.builds(rows.ToggleField, field=NAMES),
    st.just(rows.SaveRows()),
)
BUTTONS = st.lists(
    st.builds(rows.Button, id=NAMES, label=NAMES, does=DOES, on_row=st.booleans()), max_size=3
).map(tuple)
GROUPS = st.lists(
    st.builds(rows.Group, title=NAMES, where=st.lists(CONDITIONS, max_size=1).map(tuple)),
    max_size=2,
).map(tuple)
LISTINGS = st.builds(
    rows.Listing,
    source=NAMES,
    where=st.lists(CONDITIONS, max_size=2).map(tuple),
    search=st.lists(NAMES, max_size=2).map(tuple),
    sort=st.lists(st.builds(rows.Sort, field=NAMES), max_size=2).map(tuple),
    limit=st.none() | st.integers(1, 5),
    layout=st.sampled_from(["rows", "grid", "strip"]),
    tile=st.sampled_from([0, 1, 132, 5000]),
    group_by=NAMES,
    groups=GROUPS,
    actions=BUTTONS,
    past_limit=NAMES,
    row=st.builds(rows.Row, title=NAMES, subtitle=NAMES, picture=NAMES, badge=NAMES),
)
PARAMETERS = st.lists(
    st.builds(
        parts.Parameter,
        name=NAMES,
        type=TYPES,
        need=st.sampled_from(["required", "default", "none"]),
        default=VALUES,
        key_of=NAMES,
    ),
    max_size=2,
    unique_by=lambda each: each.name,
).map(tuple)
BLOCKS = st.lists(
    st.one_of(
        st.builds(block.PictureBlock, id=NAMES, field=NAMES),
        st.builds(block.HeadingBlock, id=NAMES, text=NAMES),
        st.builds(
            block.FactsBlock,
            id=NAMES,
            fields=st.lists(NAMES, max_size=2).map(tuple),
            in_place=st.lists(NAMES, max_size=1).map(tuple),
        ),
        st.builds(block.BodyBlock, id=NAMES, field=NAMES),
        st.builds(block.ListBlock, id=NAMES, heading=NAMES, rows=LISTINGS),
        st.builds(
            block.ActionsBlock,
            id=NAMES,
            buttons=BUTTONS,
            place=st.sampled_from(["flow", "bar", "bottom"]),
        ),
        st.builds(block.AddressBlock, id=NAMES, field=NAMES),
        st.builds(block.PageBlock, id=NAMES, title=NAMES),
    ),
    max_size=4,
    unique_by=lambda each: each.id,
).map(tuple)
FORM_FIELDS = st.lists(
    st.builds(
        block.FormField,
        field=NAMES,
        required=st.booleans(),
        choices=st.lists(VALUES.filter(lambda v: v is not None), max_size=2).map(tuple),
        choices_from=NAMES,
        least=st.none() | st.floats(allow_nan=False),
        default=VALUES,
        argument=NAMES,
    ),
    max_size=2,
    unique_by=lambda each: each.field,
).map(tuple)
SCREENS = st.lists(
    st.one_of(
        st.builds(
            parts.ListScreen,
            id=NAMES,
            title=NAMES,
            rows=LISTINGS,
            parameters=PARAMETERS,
            nothing_chosen=st.sampled_from(["say so", "open first", "open last"]),
            above=st.lists(
                st.builds(block.ListBlock, id=NAMES, heading=NAMES, rows=LISTINGS), max_size=1
            ).map(tuple),
            buttons=BUTTONS,
        ),
        st.builds(
            parts.FormScreen,
            id=NAMES,
            title=NAMES,
            source=NAMES,
            key=NAMES,
            parameters=PARAMETERS,
            fields=FORM_FIELDS,
        ),
        st.builds(
            parts.DetailScreen,
            id=NAMES,
            title=NAMES,
            source=NAMES,
            key=NAMES,
            parameters=PARAMETERS,
            blocks=BLOCKS,
        ),
    ),
    min_size=1,
    max_size=4,
    unique_by=lambda each: each.id,
).map(tuple)
TRIGGERS = st.builds(
    parts.Trigger,
    screen=NAMES,
    on=st.sampled_from(["row", "button", "action", "saved"]),
    part=NAMES,
)
ARGUMENTS = st.lists(
    st.one_of(
        st.builds(parts.FromField, parameter=NAMES, field=NAMES),
        st.builds(parts.FromArgument, parameter=NAMES, argument=NAMES),
        st.builds(
            parts.FromConstant, parameter=NAMES, constant=VALUES.filter(lambda v: v is not None)
        ),
        st.builds(parts.FromPosition, parameter=NAMES),
        st.builds(parts.FromRecord, parameter=NAMES),
    ),
    max_size=2,
).map(tuple)
LINKS = st.lists(
    st.builds(
        parts.Link,
        id=st.uuids().map(str),
        trigger=TRIGGERS,
        to=NAMES,
        how=st.sampled_from(["push", "beside", "replace", "modal", "popover"]),
        arguments=ARGUMENTS,
    ),
    max_size=4,
).map(tuple)
SECTIONS = st.lists(
    st.builds(parts.Section, id=NAMES, title=NAMES, root=NAMES),
    max_size=3,
    unique_by=lambda s: s.id,
).map(tuple)
WIDTHS = st.lists(
    st.builds(
        parts.PaneWidth,
        fixed=st.none() | st.floats(0, 5000),
        share=st.none() | st.floats(0, 3),
        least=st.floats(0, 3000),
        most=st.none() | st.floats(0, 3000),
    ),
    max_size=4,
).map(tuple)
ARRANGEMENTS = st.lists(
    st.builds(
        parts.Arrangement,
        id=NAMES,
        panes=st.integers(1, 5),
        widths=WIDTHS,
        bar=st.sampled_from(["bottom", "rail", "top", "none"]),
        over=st.booleans(),
        detail_first=st.sampled_from(["no", "open first"]),
    ),
    max_size=2,
    unique_by=lambda each: each.id,
).map(tuple)


def source_named(name: str) -> Any:
    """A source of that name, however it is served and said."""
    return st.builds(
        Source,
        id=st.just(name),
        file=st.just(f"{name}.json"),
        key=st.just("id"),
        served=st.sampled_from(["file", "file", "stand-in", "service"]),
        list_brings=st.sampled_from([(), ("name",), ("gone",)]),
        stand_in=st.builds(
            StandIn,
            delay=st.integers(0, 50),
            page=st.integers(1, 3),
            fails_one_in=st.integers(0, 3),
            changes_one_in=st.integers(0, 3),
        ),
        fields=st.lists(
            st.builds(Field, name=NAMES, type=TYPES, when_empty=NAMES, unit=NAMES), max_size=2
        ).map(tuple),
        stands_out=st.lists(
            st.builds(StandsOut, field=NAMES, test=TESTS, constant=VALUES), max_size=1
        ).map(tuple),
    )


APPS = st.builds(
    App,
    start=NAMES,
    sources=st.tuples(source_named("huts"), source_named("rooms")),
    values=st.just((parts.AppValue(id="name", type="list of text"),)),
    screens=SCREENS,
    links=LINKS,
    sections=SECTIONS,
    arrangements=ARRANGEMENTS,
)
EVENTS: list[Any] = [
    do.Choose(key="h1"),
    do.Choose(key=1),
    do.Press(button="name"),
    do.Scroll(by=50.0),
    do.Search(text="h"),
    do.Move(to="down"),
    do.Enter(),
    do.Turn(),
    do.SlideList(),
    do.Back(),
    do.Act(key="h1", action="name"),
    do.OpenMenu(key="h2"),
    do.TurnPage(to="name"),
    do.ShowGroup(title="A", open=False),
    do.Type(field="name", to="new"),
    do.Type(field="id", to="mine"),
    do.Save(),
    do.Cancel(),
    do.Decide(yes=True),
    do.Undo(),
    do.Retry(),
    do.Wait(ms=60),
    do.Wait(ms=200),
    do.Answered(request=1, records=({"id": "h9", "name": "Nine"},)),
    do.Scroll(by=30.0, list="name"),
    do.Move(to="right"),
    do.Kill(),
    do.Restore(),
    do.Remove(source="huts", key="h1"),
    do.GoTo(section="huts"),
    do.Relaunch(),
]


@pytest.mark.long
@given(APPS, st.permutations(EVENTS))
@settings(max_examples=examples(300), suppress_health_check=list(HealthCheck))
def test_whatever_a_project_says_it_opens_checks_runs_and_is_drawn(
    app: App, events: list[Any]
) -> None:
    records = small_records(4)
    types = {name: each.types for name, each in records.items()}
    for finding in check(app, records):
        mended(app, types, finding)
    wired = WiredApp(app, records)
    session, notes = start(wired, POCKET)
    for event in events:
        session, notes, _ = step(wired, session, event)
        lay_out(wired, session, session.window)
        to_line(trace_line(wired, session, event, notes))
    for section in ("", *(each.id for each in app.sections)):
        lay_out_board(wired, session, section)
    lay_out(wired, session, SLATE)
    fitted(wired, session, wired)
