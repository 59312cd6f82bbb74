"""Addresses (rules.md, 11): told, read back, and visited; and every kind of bad one."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from builders import DESK, POCKET, Run, demo, small_app, small_records, with_screen
from cadena.check.check import check
from cadena.engine import events as do
from cadena.engine.rules.addresses import address_now
from cadena.engine.session import Session
from cadena.engine.step import start, step
from cadena.model.address import LONGEST, fault_of_template, names_in, path_of, read, told
from cadena.model.app import App, AppValue, FromValue


def with_addresses() -> App:
    app = small_app()
    app = with_screen(app, "huts", address="/huts")
    app = with_screen(app, "hut", address="/huts/{hut}")
    app = with_screen(app, "room", address="/rooms/{room}")
    return with_screen(app, "book", address="/huts/{hut}/book")


WORDS = st.text(min_size=1, max_size=12).filter(lambda text: text.strip() == text)


@pytest.mark.parametrize(
    "template",
    ["/a/{x}", "/a/{x}/b/{y}", "/a{/x,y}", "/a/{x,y}", "/a{?x,y}", "/a/{x}{?y}"],
)
@given(x=WORDS, y=WORDS)
def test_11_what_a_template_tells_it_reads_back(template: str, x: str, y: str) -> None:
    values = {name: {"x": x, "y": y}[name] for name in names_in(template)}
    address = told(template, values)
    assert address is not None
    assert read(template, address) == values


@pytest.mark.parametrize(
    ("template", "address", "values"),
    [
        ("/huts/{hut}", "/huts/0", {"hut": "0"}),
        ("/huts/{hut}", "/huts/a%2Fb", {"hut": "a/b"}),
        ("/huts/{hut}", "/huts/", None),
        ("/huts/{hut}", "/huts/a/b", None),
        ("/huts/{hut}", "/huts", None),
        ("/huts/{hut}", "/huts/a?x=1", {"hut": "a"}),
        ("/huts{?q}", "/huts", {}),
        ("/huts{?q}", "/huts?q=", {"q": ""}),
        ("/file/{+path}", "/file/a/b/c", {"path": "a/b/c"}),
        ("/p{#at}", "/p#down", {"at": "down"}),
        ("/huts/{hut}", "/huts/" + "a" * 100_000, None),
        ("/huts/{hut}", "/huts/%zz%ff", {"hut": "%zz\ufffd"}),
    ],
)
def test_11_addresses_are_read(template: str, address: str, values: dict[str, str] | None) -> None:
    assert read(template, address) == values


@pytest.mark.parametrize(
    ("template", "says"),
    [
        ("huts", "begins with /"),
        ("/huts/{hut", "braces"),
        ("/huts/{}", "names nothing"),
        ("/huts/{hut*}", "level 4"),
        ("/huts/{hut:3}", "level 4"),
        ("/huts/{;hut}", "cannot be read back"),
        ("/huts/{a}{b}", "where one of its variables ends"),
        ("/{+a}/x/{+b}", "where one of its variables ends"),
        ("/a b", "no address has"),
        ("/" + "a" * 3000, "longer"),
    ],
)
def test_11_templates_that_cannot_be(template: str, says: str) -> None:
    assert says in str(fault_of_template(template))
    assert told(template, {"a": "1", "b": "2"}) is None
    assert read(template, template) is None


def test_11_visiting_builds_the_chain_that_a_person_would_have_made() -> None:
    run = Run(with_addresses())(do.Visit(address="/rooms/4"))
    assert run.chain == ["huts", "hut", "room"]
    assert run.session.entries[1].arguments == {"hut": "h2"}
    assert address_now(run.app, run.session) == "/rooms/4"
    assert [each.by for each in run.session.entries] == ["address"] * 3
    assert run(do.Back()).chain == ["huts", "hut"]
    assert address_now(run.app, run.session) == "/huts/h2"
    assert run(do.Back()).chain == ["huts"]
    assert address_now(run.app, run.session) == "/huts"
    by_hand = Run(with_addresses()).choose("h2").choose(4, "hut", "rooms")
    again = Run(with_addresses())(do.Visit(address="/rooms/4"))
    for one, other in zip(by_hand.session.entries, again.session.entries, strict=True):
        assert (one.screen, one.arguments, one.row) == (other.screen, other.arguments, other.row)


def test_11_a_modal_and_the_key_0() -> None:
    run = Run(with_addresses())(do.Visit(address="/huts/h1/book"))
    assert run.shown == ["hut", "book"]
    assert Run(with_addresses())(do.Visit(address="/rooms/0")).arguments == {"room": 0}
    wide = Run(with_addresses(), DESK)(do.Visit(address="/huts/h1"))
    assert wide.shown == ["huts", "hut"]


@pytest.mark.parametrize(
    ("address", "says"),
    [
        ("/nowhere", "no template matches"),
        ("", "no template matches"),
        ("/huts/h999", "no record h999"),
        ("/rooms/x", "whole number"),
        ("/rooms/3.5", "whole number"),
        ("/rooms/-1", "no record"),
        ("/rooms/" + "9" * 100_000, "no template matches"),
        ("/huts/%00%ff%zz", "no record"),
        ("mailto:someone", "no template matches"),
        ("javascript:alert(1)", "no template matches"),
    ],
)
def test_11_what_leads_nowhere_goes_to_the_fallback_and_says_why(address: str, says: str) -> None:
    app = replace(with_addresses(), fallback="again")
    run = Run(app).choose("h1")(do.Visit(address=address))
    assert run.kinds == ["fallback"]
    assert says in run.said
    assert run.session.section == "again"
    assert run.chain == ["huts"]


@given(st.text(max_size=60))
def test_11_no_address_breaks_anything(text: str) -> None:
    run = Run(with_addresses())(do.Visit(address=text), do.Visit(address=f"/huts/{text}"))
    assert run.session.phase == "running"
    assert run.chain
    for entry in run.session.entries:
        screen = run.app.screens[entry.screen]
        assert {each.name for each in screen.parameters if each.need == "required"} <= set(
            entry.arguments
        )


def test_11_a_link_that_does_not_lead_there_is_no_way() -> None:
    """The address gives what the link would take from a value that nobody has set."""
    app = with_addresses()
    links = tuple(
        replace(each, arguments=(FromValue(parameter="hut", value="current"),))
        if each.to == "hut"
        else each
        for each in app.links
    )
    values = (AppValue(id="current", type="text"),)
    run = Run(replace(app, links=links, values=values))
    run(do.Visit(address="/huts/h2"))
    assert run.kinds == ["fallback"]
    assert "no path of links leads to hut" in run.said


def test_11_a_pasted_address_loses_its_scheme_and_its_host() -> None:
    assert path_of("https://huts.example:8080/huts/a?b=1") == "/huts/a?b=1"
    assert path_of("app://huts/a") == "/a"
    assert path_of(" /huts ") == "/huts"
    assert path_of("huts/a") == "/huts/a"


def test_11_a_draft_is_not_lost_to_an_address() -> None:
    app = demo()
    session: Session = start(app, POCKET)[0]
    for event in (
        do.GoTo(section="stays"),
        do.Press(button="new"),
        do.Type(field="guest", to="Ilva"),
        do.Visit(address="/stays"),
    ):
        session, *_ = step(app, session, event)
    assert session.question is not None
    session, *_ = step(app, session, do.Decide(yes=False))
    assert session.entries[-1].view.draft == {"guest": "Ilva"}


def test_11_every_address_of_the_demo_leads_where_it_was_told() -> None:
    app = demo()
    for address in ("/huts/mor", "/rooms/3", "/routes/r02", "/stays/0", "/huts", "/routes"):
        session, *_ = step(app, start(app, POCKET)[0], do.Visit(address=address))
        assert address_now(app, session) == address


def test_what_is_wrong_with_addresses_is_found(tmp_path: Path) -> None:
    app = with_screen(with_addresses(), "book", address="/huts/{hut}")
    codes = [each.code for each in check(app, small_records())]
    assert codes == ["address-ambiguous"]
    app = with_screen(with_addresses(), "hut", address="/hut")
    assert [each.code for each in check(app, small_records())] == ["address-without-chain"]
    app = with_screen(with_addresses(), "hut", address="/huts/{nr}")
    assert [each.code for each in check(app, small_records())] == ["address-template"]
    assert LONGEST == 2000
