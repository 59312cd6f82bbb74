"""Opening a screen (rules.md, 2)."""

from __future__ import annotations

import pytest

from builders import POCKET, SLATE, Run, small_app, with_link, with_screen
from cadena.engine import events as do
from cadena.engine.rules.display import display_of
from cadena.engine.rules.lists import chosen_row, offset_of
from cadena.model.app import (
    AppValue,
    FromConstant,
    FromField,
    FromPosition,
    FromRecord,
    FromValue,
    Parameter,
)

NUMBER = Parameter(name="hut", type="whole number")


def test_2_1_arguments_come_from_the_row_and_zero_is_a_key() -> None:
    run = Run().choose("h0").choose(0, "hut", "rooms")
    assert run.arguments == {"room": 0}
    assert run.shown == ["room"]


def test_2_1_arguments_come_from_values_and_constants() -> None:
    values = (AppValue(id="mine", default="h7"),)
    app = with_link(
        small_app(values=values), "book", arguments=(FromValue(parameter="hut", value="mine"),)
    )
    run = Run(app).choose("h1")(do.Press(button="book"))
    assert run.arguments == {"hut": "h7"}
    run(do.Back(), do.SetValue(value="mine", to="h8"), do.Press(button="book"))
    assert run.arguments == {"hut": "h8"}
    assert Run(app)(do.SetValue(value="mine", to=3)).kinds == ["refused"]
    app = with_link(small_app(), "book", arguments=(FromConstant(parameter="hut", constant=""),))
    assert Run(app).choose("h1")(do.Press(button="book")).arguments == {"hut": ""}


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        ((), "link open to hut: parameter hut is required; nothing came, text was wanted"),
        ((FromField(parameter="hut", field="note"),), "nothing came"),
        ((FromConstant(parameter="hut", constant=3),), "whole number 3 came, text was wanted"),
        ((FromPosition(parameter="hut"),), "whole number 3 came, text was wanted"),
    ],
)
def test_2_2_a_required_parameter_without_its_argument_is_refused(
    arguments: tuple, says: str
) -> None:
    run = Run(with_link(small_app(), "open", arguments=arguments))
    before = run.session
    run.choose("h3")
    assert run.session is before
    assert run.kinds == ["refused"]
    assert says in run.said
    assert run.notes[0].where == "links[open].arguments[hut]"


def test_2_2_a_link_to_nowhere_is_refused() -> None:
    run = Run(with_link(small_app(), "open", to="gone")).choose("h1")
    assert run.kinds == ["refused"]
    assert "there is no such screen" in run.said


def test_2_2_a_row_that_opens_nothing_says_so() -> None:
    run = Run(small_app(links=())).choose("h1")
    assert "its rows open nothing yet" in run.said
    assert Run().choose("h99").kinds == ["refused"]


def test_2_1_a_conversion_is_for_the_link_to_say() -> None:
    app = with_screen(small_app(), "hut", parameters=(NUMBER,))
    text = FromConstant(parameter="hut", constant="3")
    assert Run(with_link(app, "open", arguments=(text,))).choose("h1").kinds == ["refused"]
    converted = FromConstant(parameter="hut", constant="3", convert=True)
    assert Run(with_link(app, "open", arguments=(converted,))).choose("h1").arguments == {"hut": 3}


def test_a_position_and_a_whole_record_can_be_carried_and_are_seen_to_fail() -> None:
    app = with_screen(small_app(), "hut", parameters=(NUMBER,))
    run = Run(with_link(app, "open", arguments=(FromPosition(parameter="hut"),))).choose("h4")
    assert run.arguments == {"hut": 4}
    assert run.app.title_of(run.session, run.session.entries[1]) == "Not there"
    run = Run(with_link(small_app(), "open", arguments=(FromRecord(parameter="hut"),))).choose("h4")
    assert '"name": "Hut 004"' in run.arguments["hut"]


def test_2_1_defaults_and_none() -> None:
    parameters = (
        *small_app().screens[1].parameters,
        Parameter(name="tone", need="default", default="calm"),
        Parameter(name="extra", need="none"),
    )
    run = Run(with_screen(small_app(), "hut", parameters=parameters)).choose("h1")
    assert run.arguments == {"hut": "h1", "tone": "calm"}


def test_2_3_push_beside_replace_modal() -> None:
    run = Run(window=SLATE).choose("h1").choose(2, "hut", "rooms")
    assert [each.opened for each in run.session.entries] == ["root", "beside", "push"]
    run.choose("h3")
    assert run.chain == ["huts", "hut"]
    run(do.Press(button="book"))
    assert [each.opened for each in run.session.entries] == ["root", "beside", "modal"]


def test_2_3_replace_takes_the_place_and_is_opened_as_that_was() -> None:
    app = with_link(small_app(), "room", how="replace")
    run = Run(app, SLATE).choose("h1").choose(2, "hut", "rooms")
    assert run.chain == ["huts", "room"]
    assert run.session.entries[1].opened == "beside"
    assert run.shown == ["huts", "room"]
    assert chosen_row(run.session, 0) is None


def test_2_3_a_replaced_detail_moves_the_chosen_row() -> None:
    app = with_link(
        small_app(),
        "book",
        how="replace",
        to="hut",
        arguments=(FromConstant(parameter="hut", constant="h9"),),
    )
    run = Run(app, SLATE).choose("h1")(do.Press(button="book"))
    assert run.arguments == {"hut": "h9"}
    assert chosen_row(run.session, 0).key == "h9"  # type: ignore[union-attr]


def test_2_4_a_second_quick_tap_stacks_no_second_copy() -> None:
    run = Run(window=SLATE).choose("h1")
    before = run.session.entries
    run.choose("h1")
    assert run.session.entries == before
    assert run.kinds == ["already open"]
    run(do.Press(button="book"))
    before = run.session.entries
    run(do.Press(button="book", screen="hut"))
    assert run.session.entries == before


def test_2_5_a_modal_blocks_what_lies_under_it() -> None:
    run = Run(window=SLATE).choose("h1")(do.Press(button="book"))
    before = run.session
    for event in (
        do.Choose(key="h2", screen="huts"),
        do.Scroll(screen="huts", by=9.0),
        do.GoTo(section="again"),
    ):
        run(event)
        assert run.kinds == ["refused"]
        assert run.session is before
    assert "close it first" in run.said
    assert run(do.PressOutside()).kinds == ["refused"]


def test_2_5_a_press_outside_a_popover_closes_it_and_does_nothing_else() -> None:
    run = Run(window=SLATE).choose("h1")(do.Press(button="ask"))
    assert run.shown == ["huts", "hut", "book"]
    run(do.PressOutside())
    assert run.chain == ["huts", "hut"]


def test_2_6_a_section_is_shown_as_it_was_left() -> None:
    run = Run().choose("h1")(do.GoTo(section="again"))
    assert run.chain == ["huts"]
    run.choose("h2")(do.GoTo(section="huts"))
    assert run.arguments == {"hut": "h1"}
    run(do.GoTo(section="huts"))
    assert run.chain == ["huts"]
    run(do.Scroll(by=500.0), do.GoTo(section="huts"))
    area = display_of(run.app, run.session).panes[0].area
    assert offset_of(run.app, run.session, 0, area) == 0
    assert run(do.GoTo(section="nowhere")).kinds == ["refused"]


def test_2_6_a_section_may_come_back_at_its_root() -> None:
    from msgspec.structs import replace

    app = small_app()
    app = replace(app, sections=(replace(app.sections[0], returns="root"), app.sections[1]))
    run = Run(app).choose("h1")(do.GoTo(section="again"), do.GoTo(section="huts"))
    assert run.chain == ["huts"]


def test_events_for_what_is_not_on_display_are_refused() -> None:
    run = Run(window=POCKET).choose("h1")
    assert run.choose("h2", "huts").kinds == ["refused"]
    assert "not on display" in run.said
    assert run(do.Press(button="nothing")).kinds == ["refused"]
    assert run(do.Press(button="book", entry=0)).kinds == ["refused"]
