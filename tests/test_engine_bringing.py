"""Opened to choose (rules.md, 15)."""

from __future__ import annotations

from typing import Any

import pytest
from msgspec.structs import replace

from builders import DESK, POCKET, SLATE, Run, with_link
from cadena.engine import events as do
from cadena.engine.form_values import value_in
from cadena.engine.layout.forms import choices_of
from cadena.engine.session import Window, from_json, to_json
from cadena.model.app import (
    App,
    AppValue,
    Brings,
    FormScreen,
    FromArgument,
    Link,
    ListScreen,
    Parameter,
    Trigger,
)
from cadena.model.blocks import ActionsBlock, FactsBlock, FormField
from cadena.model.listing import Button, Listing, Row
from cadena.runs.possible import possible
from cadena.scene.lay_out import lay_out
from cadena.scene.scene import typed_into
from stays import FORM, STAY, stays, stays_app

PICK = Listing(source="huts", search=("name",), row=Row(title="{name}"), empty="No huts.")
NEW_HUT = FormScreen(
    id="new-hut",
    title="Hut",
    source="huts",
    key="hut",
    parameters=(Parameter(name="hut", need="none", key_of="huts"),),
    fields=(FormField(field="name", required=True),),
)


def field_link(how: Any = "push", **brings: Any) -> Link:
    trigger = Trigger(screen="form", on="field", part="hut")
    return Link(id="which", trigger=trigger, to="which", how=how, brings=Brings(**brings))


def choosing(link: Link | None = None, **changed: Any) -> App:
    """The app of stays, whose form opens a list of huts to choose from."""
    app = stays_app()
    fields = tuple(replace(e, opens=True) if e.field == "hut" else e for e in FORM.fields)
    form = replace(FORM, fields=fields)
    which = ListScreen(
        id="which", title="Which hut?", rows=PICK, buttons=(Button(id="make", label="New"),)
    )
    make = Trigger(screen="which", on="button", part="make")
    screens = tuple(form if each.id == "form" else each for each in app.screens)
    return replace(
        app,
        screens=(*screens, which, NEW_HUT),
        links=(
            *app.links,
            link or field_link(),
            Link(id="make", trigger=make, to="new-hut"),
        ),
        **changed,
    )


def at_form(app: App | None = None, window: Window = POCKET) -> Run:
    return stays(app or choosing(), window)(do.Press(button="new"))


def held(run: Run, name: str = "hut") -> Any:
    return value_in(run.app, run.session, run.session.entries[1], name)


@pytest.mark.parametrize("how", ["push", "modal", "popover", "beside"])
@pytest.mark.parametrize("window", [POCKET, SLATE, DESK])
def test_15_a_press_ends_it_and_brings_the_key_home(how: Any, window: Window) -> None:
    run = at_form(choosing(field_link(how)), window)(do.OpenField(field="hut"))
    assert run.chain == ["stays", "form", "which"]
    run.choose("h0", "which")
    assert (run.chain, held(run)) == (["stays", "form"], "h0")
    assert "brought" in run.kinds
    assert "form" in run.shown


def test_15_back_brings_nothing() -> None:
    run = at_form()(do.Type(field="guest", to="Ada"), do.OpenField(field="hut"), do.Back())
    assert (run.chain, held(run), held(run, "guest")) == (["stays", "form"], None, "Ada")


def test_15_nothing_that_was_typed_is_lost_or_asked_about() -> None:
    run = at_form()(do.Type(field="guest", to="Ada"), do.OpenField(field="hut"))
    run.choose("h3", "which")
    assert (run.session.question, held(run), held(run, "guest")) == (None, "h3", "Ada")
    # What is brought may be what was there before: that is no draft that was lost.
    edit = stays(choosing()).choose(2, "stays")(do.Press(button="edit"))
    edit(do.OpenField(field="hut")).choose("h5", "which")(do.OpenField(field="hut"))
    edit.choose("h2", "which")
    assert (edit.session.question, edit.session.entries[-1].view.draft) == (None, {})


def test_15_a_field_of_the_row_is_brought_where_one_is_named() -> None:
    app = choosing(field_link(field="name"))
    run = at_form(app)(do.OpenField(field="hut")).choose("h4", "which")
    assert held(run) == "Hut 004"
    run(do.OpenField(field="hut"))
    (row,) = [b for b in lay_out(run.app, run.session, POCKET).boxes
              if b.kind == "row" and "chosen" in b.state]  # fmt: skip
    assert row.key == "h4"


def test_15_the_row_that_the_asker_holds_is_chosen_and_in_view() -> None:
    run = at_form()(do.OpenField(field="hut")).choose("h8", "which")(do.OpenField(field="hut"))
    boxes = lay_out(run.app, run.session, POCKET).boxes
    assert [b.key for b in boxes if b.kind == "row" and "chosen" in b.state] == ["h8"]
    assert run(do.Enter()).chain == ["stays", "form"]
    assert held(run) == "h8"


def test_15_what_was_saved_restores_it() -> None:
    run = at_form()(do.Type(field="guest", to="Ada"), do.OpenField(field="hut"), do.Kill())
    run(do.Restore()).choose("h1", "which")
    assert (run.chain, held(run), held(run, "guest")) == (["stays", "form"], "h1", "Ada")
    assert from_json(to_json(run.session)) == run.session


def test_15_where_nobody_asks_any_more_it_is_an_ordinary_list() -> None:
    run = at_form()(do.OpenField(field="hut"), do.Kill())
    saved = run.session.kept.replace('"opened_for":{"on":"field","part":"hut"}', '"missing":false')
    assert saved != run.session.kept
    run.session = replace(run.session, kept=saved)
    run(do.Restore())
    assert run.chain[-1] == "which"
    assert run.choose("h1", "which").refused


def test_15_a_form_above_it_that_saves_a_new_record_brings_that() -> None:
    run = at_form()(do.OpenField(field="hut"), do.Press(button="make"))
    assert run.chain == ["stays", "form", "which", "new-hut"]
    run(do.Type(field="name", to="Nest"), do.Save())
    assert run.chain == ["stays", "form"]
    records = run.app.records(run.session, "huts")
    assert records is not None
    record = records.by_key(held(run))
    assert record is not None
    assert record["name"] == "Nest"


def test_15_from_a_fact_it_changes_the_record() -> None:
    app = choosing()
    blocks = tuple(
        replace(e, fields=("hut",), in_place=(), opens=("hut",)) if isinstance(e, FactsBlock) else e
        for each in app.screens
        if each.id == "stay"
        for e in each.blocks  # type: ignore[union-attr]
    )
    screens = tuple(replace(e, blocks=blocks) if e.id == "stay" else e for e in app.screens)
    fact = Trigger(screen="stay", on="fact", part="hut")
    link = Link(id="move", trigger=fact, to="which", how="modal", brings=Brings())
    app = replace(app, screens=screens, links=(*app.links, link))
    run = stays(app).choose(0, "stays")(do.OpenFact(fact="hut")).choose("h7", "which")
    records = run.app.records(run.session, "stays")
    assert records is not None
    record = records.by_key(0)
    assert record is not None
    assert (run.chain, record["hut"]) == (["stays", "stay"], "h7")


def with_button(brings: Brings, **changed: Any) -> App:
    app = choosing(values=(AppValue(id="marks", type="list of whole number"), AppValue(id="own")))
    blocks = (ActionsBlock(id="do", buttons=(Button(id="find", label="Find"),)),)
    near = Parameter(name="near", need="none")
    screens = tuple(
        replace(e, blocks=blocks, parameters=(*e.parameters, near)) if e.id == "stay" else e
        for e in app.screens
    )
    trigger = Trigger(screen="stay", on="button", part="find")
    link = Link(id="find", trigger=trigger, to="which", brings=brings)
    return replace(app, screens=screens, links=(*app.links, link), **changed)


def test_15_from_a_button_it_goes_into_a_value_or_an_argument() -> None:
    run = stays(with_button(Brings(value="own"))).choose(0, "stays")(do.Press(button="find"))
    assert run.choose("h6", "which").session.values["own"] == "h6"
    run = stays(with_button(Brings(argument="near"))).choose(0, "stays")(do.Press(button="find"))
    assert run.choose("h6", "which").arguments == {"stay": 0, "near": "h6"}


def test_15_what_does_not_fit_is_refused_and_the_list_stays() -> None:
    for brings in (Brings(value="marks"), Brings(argument="stay"), Brings(value="nowhere")):
        run = stays(with_button(brings)).choose(0, "stays")(do.Press(button="find"))
        assert run.choose("h6", "which").refused, brings
        assert run.chain == ["stays", "stay", "which"]


def test_15_rows_of_a_list_opened_to_choose_open_nothing() -> None:
    row = Trigger(screen="which")
    app = choosing()
    hut = Link(id="open-hut", trigger=row, to="hut", how="beside",
               arguments=(FromArgument(parameter="hut", argument="hut"),))  # fmt: skip
    app = replace(app, links=(*app.links, hut))
    run = at_form(with_link(app, "new", how="push"), DESK)(do.OpenField(field="hut"))
    assert "-" not in run.shown
    offered = [e for e in possible(run.app, run.session) if isinstance(e.event, do.Choose)]
    assert {each.link for each in offered if each.event.screen == "which"} == {None}  # type: ignore[attr-defined]
    run(do.Move(to="down", screen="which"))
    assert run.chain[-1] == "which"


def test_15_it_is_opened_once_for_each_that_asks() -> None:
    run = at_form()(do.OpenField(field="hut"))
    assert run(do.OpenField(field="hut", entry=1)).chain == ["stays", "form", "which"]


def test_15_a_value_that_names_no_record_is_at_fault() -> None:
    run = at_form()(do.Type(field="guest", to="Ada"), do.Type(field="hut", to="none"), do.Save())
    assert "not saved" in run.kinds


def test_15_few_records_are_choices_in_place_by_label() -> None:
    run = stays(count=6)(do.Press(button="new"))
    field = next(each for each in FORM.fields if each.field == "hut")
    offered = choices_of(run.app, run.session, run.session.entries[-1], field)
    assert [words for _, words in offered] == [f"Hut {n:03}" for n in range(9)]
    kinds = [b.kind for b in lay_out(run.app, run.session, POCKET).boxes if b.part == "hut"]
    assert "input" not in kinds
    assert kinds.count("option") >= 3


def test_15_many_records_are_found_by_typing_and_said_by_label() -> None:
    app = replace(stays_app(), screens=tuple(
        replace(e, fields=(FormField(field="guest"), FormField(field="hut", choices_from="rooms")))
        if e.id == "form" else e for e in stays_app().screens))  # fmt: skip
    run = stays(app)(do.Press(button="new"), do.Type(field="hut", to=3))
    (box,) = [b for b in lay_out(run.app, run.session, POCKET).boxes if b.kind == "input"
              and b.part == "hut"]  # fmt: skip
    assert box.text == "Room 3"
    typed = typed_into(run.app, run.session, box, "Room 0")
    assert isinstance(typed, do.Type)
    assert (typed.to, type(typed.to)) == (0, int)


def test_15_a_field_that_opens_a_list_says_what_it_holds_and_can_be_emptied() -> None:
    run = at_form()(do.OpenField(field="hut")).choose("h2", "which")
    boxes = [b for b in lay_out(run.app, run.session, POCKET).boxes if b.part == "hut"]
    (chooser,) = [b for b in boxes if b.kind == "chooser"]
    assert chooser.text == "Hut 002"
    assert not [b for b in boxes if b.kind in ("input", "option")]
    assert STAY.need == "none"


def test_15_a_screen_without_the_list_that_chooses_is_an_ordinary_one() -> None:
    link = replace(field_link("modal", list="none"), to="which")
    run = at_form(choosing(link))(do.OpenField(field="hut"))
    assert run.chain[-1] == "which"
    assert run.choose("h1", "which").refused
    assert lay_out(run.app, run.session, POCKET).boxes
