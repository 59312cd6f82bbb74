"""Rows that lead on by their kind (rules.md, 2.7)."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from builders import POCKET, SLATE, Run, demo, small_app, small_records, with_link, with_screen
from cadena.check.check import check
from cadena.check.mend import mended
from cadena.engine import events as do
from cadena.engine.session import Window
from cadena.engine.wired import WiredApp
from cadena.model.app import App, DetailScreen, Link, RowKind, Trigger
from cadena.model.edits.renaming import with_field_renamed
from cadena.model.edits.row_kinds import kinds_among, with_kind
from cadena.model.edits.wiring import link_to
from cadena.model.field_uses import uses
from cadena.runs.possible import possible
from kit_traces import kit_differs, needs_node

SOUTH = RowKind(field="region", constant="S")


def kinds(app: App | None = None, **changed: object) -> App:
    """The small app in which huts of the south, the odd ones, open a screen of their own."""
    app = app or small_app()
    hut = next(each for each in app.screens if isinstance(each, DetailScreen) and each.id == "hut")
    app = replace(app, screens=(*app.screens, replace(hut, id="south", title="South {name}")))
    first = next(each for each in app.links if each.id == "open")
    link = replace(first, id="open-south", to="south", when=SOUTH)
    return replace(app, links=(*app.links, replace(link, **changed)))


@pytest.mark.parametrize("window", [POCKET, SLATE])
def test_2_7_a_row_opens_the_screen_of_its_kind(window: Window) -> None:
    run = Run(kinds(), window).choose("h2")
    assert run.chain == ["huts", "hut"]
    run = Run(kinds(), window).choose("h3")
    assert (run.chain, run.arguments) == (["huts", "south"], {"hut": "h3"})
    if window is SLATE:
        assert run.choose("h4", "huts").chain == ["huts", "hut"]


def test_2_7_the_first_that_a_row_passes_is_followed_whatever_stands_first() -> None:
    app = kinds()
    only = RowKind(field="id", constant="h3")
    third = replace(app.links[-1], id="open-third", to="room", when=only)
    turned = replace(app, links=(third, *reversed(app.links)))
    assert Run(turned).choose("h1").chain == ["huts", "south"]
    assert Run(turned).choose("h2").chain == ["huts", "hut"]
    assert Run(turned).choose("h3").refused, "what room asks for is not carried"


def test_2_7_a_row_of_no_kind_is_refused() -> None:
    app = with_link(kinds(), "open", when=RowKind(field="id", constant="h0"))
    run = Run(app).choose("h2")
    assert run.refused
    assert run.chain == ["huts"]
    assert Run(app).choose("h0").chain == ["huts", "hut"]
    assert Run(app).choose("h1").chain == ["huts", "south"]


def test_2_7_what_has_no_row_is_followed_whatever_it_says() -> None:
    app = with_link(kinds(), "ask", when=RowKind(field="id", constant="none"))
    assert Run(app).choose("h2")(do.Press(button="ask")).chain[-1] == "book"


@pytest.mark.parametrize("test", ["is", "is not", "is one of", "is empty", "is filled"])
def test_2_7_every_test_of_a_field(test: str) -> None:
    constant = {"is one of": ("h1", "h3"), "is empty": None, "is filled": None}.get(test, "h3")
    field = "note" if constant is None else "id"
    app = kinds(when=RowKind(field=field, test=test, constant=constant))
    wired = WiredApp(app, small_records())
    records = wired.as_read["huts"]
    for at in range(6):
        record = records.by_key(records.key_at(at)) or {}
        passes = {
            "is": record["id"] == "h3",
            "is not": record["id"] != "h3",
            "is one of": record["id"] in ("h1", "h3"),
            "is empty": record["note"] is None,
            "is filled": record["note"] is not None,
        }[test]
        to = Run(app).choose(record["id"]).chain[-1]
        assert (to == "south") is passes


def test_5_2_a_rule_opens_the_screen_of_the_first_rows_kind() -> None:
    app = with_screen(kinds(), "huts", nothing_chosen="open first")
    assert Run(app, SLATE).chain == ["huts", "hut"]
    app = with_link(app, "open-south", when=RowKind(field="region", constant="N"))
    assert Run(app, SLATE).chain == ["huts", "south"]
    app = with_link(app, "open-south", how="modal")
    assert Run(app, SLATE).chain == ["huts"]


def test_7_4_keys_go_from_kind_to_kind() -> None:
    run = Run(kinds(), SLATE).choose("h2")(do.Move(to="down", screen="huts"))
    assert run.chain == ["huts", "south"]
    assert run(do.Move(to="down", screen="huts")).chain == ["huts", "hut"]


def test_8_where_a_record_goes_the_next_row_opens_its_own_screen() -> None:
    app = with_screen(kinds(), "hut", when_gone="next")
    run = Run(app).choose("h2")(do.Remove(source="huts", key="h2"))
    assert (run.chain, run.arguments) == (["huts", "south"], {"hut": "h3"})


def test_11_an_address_leads_by_the_link_of_the_kind() -> None:
    app = with_screen(kinds(), "south", address="/south/{hut}")
    assert Run(app)(do.Visit(address="/south/h3")).chain == ["huts", "south"]
    run = Run(app)(do.Visit(address="/south/h2"))
    assert run.chain == ["huts"], "a hut of the north is no row that opens it"


def test_16_neighbours_go_from_kind_to_kind() -> None:
    app = with_screen(with_screen(kinds(), "hut", neighbours=True), "south", neighbours=True)
    run = Run(app).choose("h2")(do.Neighbour(by=1))
    assert (run.chain, run.arguments) == (["huts", "south"], {"hut": "h3"})
    assert run(do.Neighbour(by=1)).chain == ["huts", "hut"]


def test_every_kind_is_tried_whichever_rows_are() -> None:
    run = Run(kinds(when=RowKind(field="id", constant="h29")))
    followed = {e.link.id for e in possible(run.app, run.session) if e.link is not None}
    assert followed >= {"open", "open-south"}


def test_a_link_by_kind_starts_from_a_nested_list_as_well() -> None:
    app = small_app()
    screen = replace(app.screens[0], id="even", title="Even")
    trigger = Trigger(screen="hut", part="rooms")
    over = RowKind(field="id", test="over", constant=6)
    even = Link(id="even", trigger=trigger, to="even", when=over)
    app = replace(app, screens=(*app.screens, screen), links=(*app.links, even))
    assert Run(app).choose("h3").choose(6, "hut", "rooms").chain[-1] == "room"
    assert Run(app).choose("h3").choose(7, "hut", "rooms").chain[-1] == "even"


@needs_node
def test_2_7_the_kit_goes_by_kind_too() -> None:
    app = with_screen(with_screen(kinds(), "hut", neighbours=True), "south", neighbours=True)
    app = with_screen(app, "south", address="/south/{hut}", when_gone="next")
    app = with_screen(app, "huts", nothing_chosen="open first")
    wired = WiredApp(app, small_records())
    events = [
        *(do.Choose(screen="huts", key="h3"), do.Move(screen="huts", to="down")),
        *(do.Neighbour(by=-1), do.Remove(source="huts", key="h3"), do.Back()),
        *(do.Visit(address="/south/h5"), do.Visit(address="/south/h6"), do.Turn()),
    ]
    for window in (POCKET, SLATE):
        assert set(kit_differs(wired, window, events)) == {None}


def found(app: App) -> set[str]:
    return {each.code for each in check(app, small_records())}


def test_links_that_no_row_follows_are_found() -> None:
    assert not found(kinds()) & {"kind-never", "kinds-leave-rows"}
    nobody = RowKind(field="region", constant="W")
    assert "kind-never" in found(with_link(kinds(), "open-south", when=nobody))
    missing = RowKind(field="colour", constant="W")
    assert "kind-never" in found(with_link(kinds(), "open-south", when=missing))
    assert "kind-never" in found(with_link(kinds(), "open-south", when=None))
    assert "kind-never" in found(with_link(kinds(), "ask", when=SOUTH))


def test_rows_that_no_link_is_for_are_found_and_mended() -> None:
    app = with_link(kinds(), "open", when=RowKind(field="id", constant="h0"))
    (left,) = [e for e in check(app, small_records()) if e.code == "kinds-leave-rows"]
    assert "14 of 30" in left.what
    assert left.weight == "breaks"
    types = {name: dict(each.types) for name, each in small_records().items()}
    made = mended(app, types, left)
    assert made is not None
    assert "kinds-leave-rows" not in found(made)
    north = with_link(kinds(), "open", when=RowKind(field="region", constant="N"))
    assert "kinds-leave-rows" not in found(north)


def test_a_field_that_kinds_go_by_is_used_and_renamed() -> None:
    app = kinds()
    assert [each for each in uses(app, "huts", "region") if each.what == "link to south"]
    types = {name: dict(each.types) for name, each in small_records().items()}
    made = with_field_renamed(app, types, "huts", "region", "valley")
    assert made.links[-1].when == RowKind(field="valley", constant="S")


def test_kinds_are_told_apart_by_fields_of_few_values() -> None:
    records = small_records()["huts"]
    fields = [(name, records.values_of(name)) for name in records.types]
    told = list(kinds_among(fields))
    assert {each.field for each in told} == {"region"}
    assert {each.constant for each in told} == {"N", "S"}


def test_one_more_screen_for_a_kind_is_made_and_linked() -> None:
    app = small_app()
    types = {name: dict(each.types) for name, each in small_records().items()}
    link = next(each for each in app.links if each.id == "open")
    made, new = with_kind(app, types, link, SOUTH)
    assert (new.when, new.how, new.to) == (SOUTH, link.how, "s")
    assert Run(made).choose("h1").chain == ["huts", "s"]
    assert Run(made).choose("h2").chain == ["huts", "hut"]
    again, other = with_kind(made, types, new, RowKind(field="id", constant="h5"))
    assert Run(again).choose("h5").chain[-1] in ("s", other.to)
    assert len(again.links) == len(app.links) + 2


def test_a_link_to_a_row_takes_the_place_of_the_one_for_the_same_rows_only() -> None:
    app = kinds()
    types = {name: dict(each.types) for name, each in small_records().items()}
    trigger = Trigger(screen="huts")
    made, new = link_to(app, types, trigger, "room")
    assert new.when is None
    assert [each.to for each in made.links if each.trigger == trigger] == ["room", "south"]
    made, new = link_to(app, types, trigger, "room", SOUTH)
    assert [each.to for each in made.links if each.trigger == trigger] == ["hut", "room"]


@needs_node
def test_7_1_what_a_yes_contains_is_the_same_in_the_kit() -> None:
    wired = demo()
    link = next(each for each in wired.app.links if each.id == "huts-to-hut")
    wet = RowKind(field="spring", test="contains", constant=True)
    other = replace(link, id="wet", to="warden", when=wet)
    app = WiredApp(replace(wired.app, links=(*wired.app.links, other)), wired.as_read)
    events = [
        event
        for key in ("mor", "bal", "alp")
        for event in (do.Choose(screen="huts", key=key), do.Back())
    ]
    assert set(kit_differs(app, POCKET, events)) == {None}
