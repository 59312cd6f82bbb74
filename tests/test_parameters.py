"""What a screen takes, and what a new record begins with."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from builders import demo
from cadena.check.check import read_through
from cadena.check.mend import mended
from cadena.engine import events as do
from cadena.engine.session import sized
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.address import renamed_in
from cadena.model.app import (
    App,
    AppValue,
    FormScreen,
    FromArgument,
    FromField,
    Parameter,
    Trigger,
)
from cadena.model.blocks import ActionsBlock, FormField
from cadena.model.claims import OwnClaim, Situation
from cadena.model.edits.parameters import fault_of_name, with_parameter, without_parameter
from cadena.model.edits.targets import kinds_for, target_made, unlisted
from cadena.model.edits.wiring import Types, with_screen
from cadena.model.find import by_id
from cadena.model.listing import Button, Condition
from cadena.model.screen_parts import listings


def types_of(app: WiredApp) -> Types:
    return {name: each.types for name, each in app.as_read.items()}


def findings(app: App, wired: WiredApp) -> list[str]:
    return [each.code for each in read_through(app, wired.as_read)]


def with_button(app: App, label: str) -> tuple[App, Trigger]:
    """The demo with one more button on the hut."""
    hut = by_id(app.screens, "hut")
    assert hut is not None
    block = ActionsBlock(id="more", buttons=(Button(id="more", label=label),))
    made = with_screen(app, replace(hut, blocks=(*hut.blocks, block)))  # type: ignore[call-arg]
    return made, Trigger(screen="hut", on="button", part="more")


def test_a_parameter_called_otherwise_is_so_wherever_it_is_named() -> None:
    wired = demo()
    app = replace(wired.app, claims=(OwnClaim(id="one", when=Situation(arguments={"hut": "mor"})),))
    hut = by_id(app.screens, "hut")
    assert hut is not None
    renamed = replace(hut.parameters[0], name="shelter")
    made = with_parameter(app, "hut", renamed, "hut")
    after = by_id(made.screens, "hut")
    assert after is not None
    assert [each.name for each in after.parameters] == ["shelter"]
    assert after.key == "shelter"  # type: ignore[union-attr]
    assert after.address == "/huts/{shelter}"
    assert [e.argument for one in listings(after).values() for e in one.where] == (
        [e.argument.replace("hut", "shelter") for o in listings(hut).values() for e in o.where]
    )
    for link in made.links:
        if link.to == "hut":
            assert {each.parameter for each in link.arguments} <= {"shelter"}
        if link.trigger.screen == "hut":
            given = [each.argument for each in link.arguments if isinstance(each, FromArgument)]
            assert "hut" not in given
    # Others still take a hut, so a claim about that name stays what it is.
    assert made.claims == app.claims
    assert findings(made, wired) == findings(app, wired) == []
    back = with_parameter(made, "hut", hut.parameters[0], "shelter")
    assert back == app


def test_a_parameter_is_taken_away_with_all_that_filled_it() -> None:
    wired = demo()
    added = Parameter(name="from_where", need="required")
    app = with_parameter(wired.app, "hut", added)
    assert "argument-missing" in findings(app, wired)
    link = next(each for each in app.links if each.to == "hut")
    filled = replace(
        link,
        arguments=(*link.arguments, FromField(parameter="from_where", field="name")),
        sets={**link.sets, "last": "from_where"},
    )
    app = replace(app, links=tuple(filled if each is link else each for each in app.links))
    assert without_parameter(app, "hut", "from_where") == wired.app


@pytest.mark.parametrize("name", ["", "1st", "a b", "hut", "a-b"])
def test_a_name_that_cannot_be_is_said_why(name: str) -> None:
    hut = by_id(demo().app.screens, "hut")
    assert hut is not None
    assert fault_of_name(hut, name)
    assert fault_of_name(hut, "hut", "hut") is None


def test_the_variables_of_an_address_are_called_otherwise_and_no_others() -> None:
    def renamed(name: str) -> str:
        return {"hut": "h", "a": "b"}.get(name, name)

    assert renamed_in("/hut/{hut}{?a,huts}", renamed) == "/hut/{h}{?b,huts}"
    assert renamed_in("/hut", renamed) == "/hut"


@pytest.mark.parametrize(
    ("label", "first"),
    [("Add a room", "form"), ("Edit", "form"), ("New", "form"), ("Ask", "detail")],
)
def test_what_is_called_new_or_edit_is_offered_a_form_first(label: str, first: str) -> None:
    app, trigger = with_button(demo().app, label)
    assert kinds_for(app, trigger)[0] == first


def test_add_a_room_makes_a_form_whose_rooms_are_of_that_hut() -> None:
    wired = demo()
    app, trigger = with_button(wired.app, "Add a room")
    app, link = target_made(app, types_of(wired), trigger)
    form = by_id(app.screens, link.to)
    assert isinstance(form, FormScreen)
    assert form.source == "rooms"
    assert form.key not in {each.parameter for each in link.arguments}
    assert not list(unlisted(app, link))
    assert "new-not-listed" not in findings(app, wired)
    run = WiredApp(app, wired.as_read)
    session, _ = start(run, sized(360, 780))
    for event in (do.Choose(key="mor", screen="huts"), do.Press(button="more", screen="hut")):
        session, *_ = step(run, session, event)
    assert session.entries[-1].screen == form.id
    before = len(run.records(session, "rooms") or ())
    session, *_ = step(run, session, do.Type(screen=form.id, field="name", to="Loft"))
    session, *_ = step(run, session, do.Save(screen=form.id))
    records = run.records(session, "rooms")
    assert records is not None
    assert len(records) == before + 1
    made = records.record(before)
    assert (made["name"], made["hut"]) == ("Loft", "mor")


def test_edit_on_a_row_carries_the_row() -> None:
    wired = demo()
    app = wired.app
    huts = by_id(app.screens, "huts")
    assert huts is not None
    rows = listings(huts)[""]
    rows = replace(rows, actions=(*rows.actions, Button(id="edit", label="Edit")))
    app = with_screen(app, replace(huts, rows=rows))  # type: ignore[call-arg]
    app, link = target_made(app, types_of(wired), Trigger(screen="huts", on="action", part="edit"))
    form = by_id(app.screens, link.to)
    assert isinstance(form, FormScreen)
    assert link.arguments == (FromField(parameter=form.key, field="id"),)


def test_a_new_record_that_would_not_be_listed_is_found_and_mended() -> None:
    broken = demo("cresta-broken")
    finding = next(
        each for each in read_through(broken.app, broken.as_read) if each.code == "new-not-listed"
    )
    app = mended(broken.app, types_of(broken), finding)
    assert app is not None
    form = by_id(app.screens, "room-form")
    assert isinstance(form, FormScreen)
    begins = next(each for each in form.fields if each.field == "hut")
    assert begins.argument == "hut"
    assert not [e for e in read_through(app, broken.as_read) if e.code == "new-not-listed"]


@pytest.mark.parametrize(
    ("condition", "field", "is_kept"),
    [
        (Condition(field="beds", constant=2), None, False),
        (Condition(field="beds", constant=2), FormField(field="beds", default=2), True),
        (Condition(field="beds", constant=2), FormField(field="beds", default=3), False),
        (Condition(field="beds", constant=2), FormField(field="beds"), True),
        (Condition(field="beds", test="over", constant=2), None, True),
        (Condition(field="beds", value="usual"), None, False),
        (Condition(field="beds", value="usual"), FormField(field="beds", value="usual"), True),
    ],
)
def test_what_keeps_a_new_record_off_its_list(
    condition: Condition, field: FormField | None, is_kept: bool
) -> None:
    wired = demo()
    app, trigger = with_button(wired.app, "Add a room")
    app, link = target_made(app, types_of(wired), trigger)
    hut, form = by_id(app.screens, "hut"), by_id(app.screens, link.to)
    assert hut is not None
    assert isinstance(form, FormScreen)
    rows = listings(hut)["rooms"]
    blocks = tuple(
        replace(each, rows=replace(rows, where=(*rows.where, condition)))
        if each.id == "rooms"
        else each
        for each in hut.blocks  # type: ignore[union-attr]
    )
    others = tuple(each for each in form.fields if each.field != "beds")
    fields = others if field is None else (*others, field)
    app = with_screen(app, replace(hut, blocks=blocks))  # type: ignore[call-arg]
    app = with_screen(app, replace(form, fields=fields))
    assert (not list(unlisted(app, link))) is is_kept


def test_10_a_new_record_begins_with_an_app_wide_value_until_something_is_typed() -> None:
    wired = demo()
    form = next(each for each in wired.app.screens if isinstance(each, FormScreen))
    first = replace(form.fields[0], value="usual", argument="", default="Nobody")
    made = replace(form, fields=(first, *form.fields[1:]))
    app = replace(with_screen(wired.app, made), values=(*wired.app.values, AppValue(id="usual")))
    run = WiredApp(app, wired.as_read)
    name = first.field

    def shown(session: object) -> object:
        from cadena.engine.form_values import value_in

        return value_in(run, session, session.entries[-1], name)  # type: ignore[attr-defined,arg-type]

    session, _ = start(run, sized(360, 780))
    for event in (do.GoTo(section="stays"), do.Press(button="new", screen="stays")):
        session, *_ = step(run, session, event)
    assert session.entries[-1].screen == form.id
    assert shown(session) == "Nobody"
    session, *_ = step(run, session, do.SetValue(value="usual", to="Ada"))
    assert shown(session) == "Ada"
    session, *_ = step(run, session, do.Type(screen=form.id, field=name, to="Ilva"))
    session, *_ = step(run, session, do.SetValue(value="usual", to="Bo"))
    assert shown(session) == "Ilva"
    assert "value-missing" in findings(with_screen(wired.app, made), wired)
