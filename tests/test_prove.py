"""Prove: all that can be reached, what is claimed of it, and what breaks that."""

from __future__ import annotations

import json
import os
import random
from functools import lru_cache
from pathlib import Path

import msgspec
import polars as pl
import pytest
from click.testing import CliRunner
from hypothesis import HealthCheck, given, settings
from msgspec.structs import replace

from builders import DEMO, demo, records_of, small_app, small_records, with_link, with_screen
from cadena.check import mend as check_mend
from cadena.check.check import read_through
from cadena.check.proof_in_words import (
    answer_of,
    findings_of,
    in_words,
    proof_cases,
    to_junit,
    what_of,
)
from cadena.cli.main import main
from cadena.engine import events as do
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.app import App, FromConstant, FromPosition, Link
from cadena.model.claims import Aside, OwnClaim, Situation
from cadena.model.edits.wiring import with_link as linked
from cadena.model.file.project_file import encode
from cadena.model.listing import Button, SetField
from cadena.runs.possible import possible
from cadena.runs.prove.causes import Cause, events_of
from cadena.runs.prove.claims import CLAIMS, judged
from cadena.runs.prove.explore import LEFT, REFUSED, Edge, Explored, Limits
from cadena.runs.prove.mend import claimed_again, mended, set_aside
from cadena.runs.prove.moves import Move
from cadena.runs.prove.moves_in_words import moves_in_words
from cadena.runs.prove.prove import Proof, at_once, depends_on, prove, reached_slowly
from cadena.runs.prove.self_check import differences
from cadena.runs.prove.windows import windows_to_try
from cadena.runs.walks.walk import Expectation, replay
from cadena.sources.read_file import typed
from test_engine_random import RECORDS, apps

MENDED_FIRST = ("leads-nowhere", "action-field-missing", "leaves-for-nothing", "kinds-leave-rows")
MUST_BREAK = {
    *("opens", "chosen", "there", "turning", "ended", "unasked", "copy"),
    *("after saving", "reached", "address", "grows", "saved size"),
}


@lru_cache
def proven(name: str) -> Proof:
    return prove(demo(name))


def claim(proof: Proof, name: str) -> tuple[Cause, ...]:
    return next(each.causes for each in proof.claims if each.claim.name == name)


def answers(proof: Proof) -> dict[str, str]:
    return {each.claim.name: each.answer for each in proof.claims}


def fails(app: WiredApp, cause: Cause) -> bool:
    """Whether the walk of a cause ends in an expectation that does not hold."""
    assert cause.window is not None
    last = list(replay(app, cause.walk, cause.window))[-1]
    return bool(last.failures) and isinstance(cause.walk[-1], Expectation)


@pytest.mark.long
def test_every_claim_holds_everywhere_of_the_demo() -> None:
    proof = proven("cresta")
    assert set(answers(proof).values()) == {"holds everywhere"}, in_words("Cresta", proof)
    assert proof.whole
    assert proof.states > 2_000
    assert len(proof.claims) == len(CLAIMS) == 24
    assert not proof.undecided
    assert not any(each.unconfirmed for each in proof.reached)


FALSE = (
    OwnClaim(
        id="a screen hides itself",
        when=Situation(shows=("hut",)),
        so=Situation(hides=("room", "hut")),
    ),
    OwnClaim(id="always one window", so=Situation(arrangement="tiny")),
    OwnClaim(id="never kept", says="never", so=Situation(values={"saved": "alp"})),
    OwnClaim(
        id="never all of it", says="never", so=Situation(values={"saved": ("alp",)}, section="huts")
    ),
    OwnClaim(id="never this hut", says="never", so=Situation(arguments={"hut": "mor"})),
    OwnClaim(id="never this room", says="never", so=Situation(arguments={"room": 17})),
    OwnClaim(id="always in one section", so=Situation(section="huts")),
    OwnClaim(id="hidden by two", says="never", so=Situation(hides=("stay", "room"))),
)
"""Claims about the demo that are not so."""


@pytest.mark.long
def test_false_claims_are_broken_by_walks_that_show_it() -> None:
    app = WiredApp(replace(demo().app, claims=FALSE), demo().as_read)
    proof = prove(app, Limits(states=900))
    for each in FALSE:
        assert answers(proof)[each.id] == "broken", each.id
        causes = claim(proof, each.id)
        assert causes
        for cause in causes:
            assert fails(app, cause), each.id


@pytest.mark.long
def test_what_was_found_and_is_not_seen_again_is_not_decided(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setattr("cadena.runs.prove.prove.cause_of", lambda *_: None)
    proof = prove(demo("cresta-broken"), Limits(states=500))
    undecided = {each.claim.name for each in proof.undecided}
    assert undecided >= {"opens", "there"}
    assert not proof.holds
    assert "not decided" in in_words("Broken", proof)
    assert any(each.failed for each in proof_cases(proof))


@pytest.mark.long
def test_what_is_broken_breaks_twelve_claims_with_walks_that_fail_when_replayed() -> None:
    app, proof = demo("cresta-broken"), proven("cresta-broken")
    assert {each.claim.name for each in proof.broken} >= MUST_BREAK
    for each in proof.broken:
        for cause in each.causes:
            assert not cause.walk or fails(app, cause), (each.claim.name, cause.where)
        if each.claim.name != "reached":
            assert all(cause.walk for cause in each.causes)


@pytest.mark.long
def test_each_broken_claim_is_mended_and_proven_whole() -> None:
    app, model = demo("cresta-broken"), demo("cresta-broken").app
    types = {name: each.types for name, each in app.as_read.items()}
    offered = set()
    for each in proven("cresta-broken").broken:
        for cause in each.causes:
            made = mended(model, types, cause)
            if made is not None:
                model = made.app
                offered.add(each.claim.name)
    assert offered >= {"opens", "chosen", "there", "turning", "ended", "copy", "after saving"}
    # What only a person can decide: a screen that nobody needs, a limit, an address to nothing.
    nth = FromConstant(parameter="hut", constant="alp")
    links = tuple(
        replace(each, arguments=(nth,)) if each.id == "hut-nth" else each
        for each in model.links
        if each.id not in ("hut-whole", "hut-cellar", "saved-to-hut")
    )
    screens = tuple(each for each in model.screens if each.id not in ("spare", "whole"))
    model = replace(
        model,
        links=links,
        screens=screens,
        sections=tuple(each for each in model.sections if each.id not in ("maps", "bed")),
        arrangements=tuple(e for e in model.arrangements if e.id not in ("behind", "no size")),
        platform=replace(model.platform, saved_most=4096),
    )
    # A button whose link is gone leads nowhere; one that changes what is not there is refused.
    for finding in read_through(model, app.as_read):
        if finding.code in MENDED_FIRST:
            model = check_mend.mended(model, types, finding) or model
    text = replace(next(e for e in model.screens if e.id == "nth").parameters[0], type="text")
    model = with_screen(with_screen(model, "nth", parameters=(text,)), "attic", address="")
    proof = prove(WiredApp(model, app.as_read))
    assert not proof.broken, in_words("mended", proof)


@pytest.mark.long
@given(apps())
@settings(max_examples=8, deadline=None, suppress_health_check=[HealthCheck.too_slow])
def test_every_broken_claim_of_any_app_is_seen_when_its_walk_is_replayed(model: object) -> None:
    app = WiredApp(model, RECORDS)  # type: ignore[arg-type]
    proof = prove(app, Limits(states=700))
    for each in proof.broken:
        for cause in each.causes:
            assert not cause.walk or fails(app, cause), (each.claim.name, cause)


@given(apps())
@settings(max_examples=4, deadline=None, suppress_health_check=[HealthCheck.too_slow])
def test_what_holds_is_broken_by_no_random_events(model: object) -> None:
    app = WiredApp(model, RECORDS)  # type: ignore[arg-type]
    broken = {each.claim.name for each in prove(app).broken}
    events = int(os.environ.get("CADENA_RANDOM_EVENTS", "2000"))
    assert by_chance(app, events) <= broken


def by_chance(app: WiredApp, count: int) -> set[str]:
    """What random events break, of the claims that are told by one step."""
    chance, found = random.Random(1), set()
    plain = at_once(app)
    windows = [each.window for each in windows_to_try(plain)]
    session, _ = start(plain, windows[0])
    explored = {name: Explored(plain, name) for name in plain.sections}
    for each in explored.values():
        list(each.explore(Limits(depth=0)))
    for _ in range(count):
        if session.phase != "running" or len(session.entries) > 6:
            session, _ = start(plain, chance.choice(windows))
        offered = [e for e in possible(plain, session) if not isinstance(e.event, do.Turn)]
        event, link = chance.choice(offered)
        if isinstance(event, do.Fold | do.Unfold | do.Kill | do.Relaunch):
            continue
        if chance.random() < 0.1:
            to = chance.choice(windows)
            event, link = do.Resize(width=to.width, height=to.height, fold=to.fold), None
        made = step(plain, session, event)
        to_state = REFUSED if made.refused else LEFT if made.session.phase == "left" else 0
        is_back = isinstance(event, do.Back)
        move = Move((event,), link, "back" if is_back else "do")
        if made.session.question is None and made.session.section == session.section:
            edge = Edge(0, session, move, (event,), made, to_state)
            of = explored[session.section]
            if session.window in of.key.windows and made.session.window in of.key.windows:
                found |= {each.claim for each in judged(of, edge)}
        session = made.session
    return found


@pytest.mark.parametrize(
    ("change", "broken", "where"),
    [
        ({"arguments": (FromPosition(parameter="hut", convert=True),)}, "chosen", "links[open]"),
        ({"arguments": ()}, "opens", "links[open]"),
        ({"to": "gone"}, "opens", "links[open]"),
        (
            {"arguments": (FromConstant(parameter="hut", constant="h999"),)},
            "there",
            "links[open]",
        ),
    ],
)
def test_a_wrong_link_breaks_its_claim(change: dict[str, object], broken: str, where: str) -> None:
    app = WiredApp(with_link(small_app(), "open", **change), small_records())
    proof = prove(app)
    found = {each.where for each in claim(proof, broken)}
    assert where in found
    cause = claim(proof, broken)[0]
    assert set(cause.columns) == {"one", "two"}
    assert fails(app, cause)
    assert len(cause.walk) == 2


def test_a_circle_grows_until_its_links_go_back() -> None:
    back = Link(
        id="back-to-hut",
        trigger=small_app().links[2].trigger,
        to="hut",
        arguments=small_app().links[2].arguments,
    )
    app = linked(small_app(), replace(back, id="book"))
    proof = prove(WiredApp(app, small_records()))
    assert {each.claim.name for each in proof.broken} >= {"copy", "grows"}
    app = with_link(app, "book", if_open="go back to it")
    left = {each.claim.name for each in prove(WiredApp(app, small_records())).broken}
    assert not left & {"copy", "grows"}


def test_claims_of_a_persons_own_hold_or_are_broken_with_a_walk() -> None:
    claims = (
        OwnClaim(id="few", so=Situation(backs=3)),
        OwnClaim(id="beside", says="never", so=Situation(shows=("huts", "hut"))),
        OwnClaim(id="home", says="can reach", so=Situation(shows=("huts",))),
        OwnClaim(id="booked", says="after", after="book", so=Situation(shows=("book",))),
        OwnClaim(id="alone", so=Situation(hides=("room",)), when=Situation(arrangement="one")),
        OwnClaim(id="two backs", so=Situation(backs=1)),
        OwnClaim(id="lost", so=Situation(shows=("nowhere",))),
        OwnClaim(id="empty"),
    )
    app = WiredApp(small_app(claims=claims), small_records())
    proof = prove(app)
    found = answers(proof)
    holding = {each for each in found if found[each] == "holds everywhere"}
    assert {"home", "booked", "few"} <= holding
    for name in ("beside", "alone", "two backs"):
        assert fails(app, claim(proof, name)[0]), name
    assert [what_of(each) for each in claim(proof, "lost")] == ["there is no screen nowhere"]
    assert [what_of(each) for each in claim(proof, "empty")] == ["it claims nothing yet"]
    assert claim(proof, "beside")[0].columns == ("two",)
    there = with_screen(small_app(claims=claims[2:3]), "book", title="Elsewhere")
    assert answers(prove(WiredApp(there, small_records())))["home"] == "holds everywhere"
    said = {each.claim.name: each.claim.words for each in proof.claims}
    assert said["beside"] == "Never huts and hut on display"
    assert said["home"] == "From everywhere huts on display can be reached"


@pytest.mark.long
def test_three_claims_of_their_own_on_the_demo() -> None:
    wired = demo()
    claims = (
        OwnClaim(
            id="saved stay is shown",
            says="after",
            after="saved-stay",
            so=Situation(shows=("stay",)),
        ),
        OwnClaim(id="never alone", says="never", so=Situation(shows=("stay-form", "hut"))),
        OwnClaim(
            id="no such hut can be reached",
            says="can reach",
            so=Situation(arguments={"hut": "nowhere"}),
        ),
    )
    app = WiredApp(replace(wired.app, claims=claims), wired.as_read)
    proof = prove(app)
    assert answers(proof)["saved stay is shown"] == "holds everywhere"
    # What cannot be reached is only known once all is.
    assert answers(proof)["no such hut can be reached"] == "broken"
    assert all(fails(app, each) for each in claim(proof, "no such hut can be reached"))
    cause = claim(proof, "never alone")[0]
    assert fails(app, cause)
    assert moves_in_words(events_of(cause.walk))[-1].startswith("press")


def test_what_is_set_aside_is_counted_and_can_be_claimed_again() -> None:
    app = with_link(small_app(), "open", arguments=())
    proof = prove(WiredApp(app, small_records()))
    cause = claim(proof, "opens")[0]
    aside = set_aside(app, cause, "it is a stub")
    assert aside.aside == (Aside(claim="opens", where="links[open]", why="it is a stub"),)
    proof = prove(WiredApp(aside, small_records()))
    assert answers(proof)["opens"] != "broken"
    assert "set aside at links[open]: it is a stub" in in_words("x", proof)
    assert claimed_again(aside, "opens", "links[open]") == app


def test_an_app_that_does_not_end_says_how_far_it_was_looked_at() -> None:
    app = WiredApp(small_app(), small_records())
    proof = prove(app, Limits(depth=1))
    assert not proof.whole
    assert answers(proof)["label"] == "holds to depth"
    assert answer_of(proof, proof.claims[4]) == "holds to depth 1"
    stopped = prove(app, Limits(stop=lambda: True))
    assert "no more time" in in_words("x", stopped)
    few = prove(app, Limits(states=5))
    assert "more than 5 states" in in_words("x", few)


def test_of_nothing_nothing_is_broken() -> None:
    proof = prove(WiredApp(App(name="Nothing"), {}))
    assert not proof.broken
    assert proof.states == 0


def test_what_was_not_looked_at_to_its_end_is_not_said_to_be_out_of_reach() -> None:
    proof = prove(WiredApp(small_app(), small_records()), Limits(depth=1))
    assert answers(proof)["reached"] == "holds to depth"


def test_ten_thousand_rows_of_as_many_classes_are_not_all_tried_and_that_is_said() -> None:
    app, count = small_app(), 10_000
    rooms = [{"id": n, "hut": f"h{n}", "name": f"Room {n}"} for n in range(count)]
    huts = [{"id": f"h{n}", "name": f"Hut {n}", "note": None} for n in range(count)]
    records = {"huts": records_of("huts", huts), "rooms": records_of("rooms", rooms)}
    assert prove(WiredApp(app, records)).whole
    # Twelve more fields are carried, filled or not in as many ways as there are rows.
    fields = {f"f{n}": ["x" * (at >> n & 1) for at in range(count)] for n in range(12)}
    frame = records["huts"].frame.with_columns(**{k: pl.Series(v) for k, v in fields.items()})
    arguments, parameters = app.links[0].arguments, app.screens[1].parameters
    carried = (replace(arguments[0], parameter=name, field=name) for name in fields)
    more = (replace(parameters[0], name=name, need="none", key_of="") for name in fields)
    app = with_link(app, "open", arguments=(*arguments, *carried))
    app = with_screen(app, "hut", parameters=(*parameters, *more))
    proof = prove(WiredApp(app, {**records, "huts": typed(records["huts"].source, frame)}))
    assert not proof.whole
    assert "classes of rows were not tried" in in_words("x", proof)


@pytest.mark.long
def test_the_exploration_agrees_with_a_plainer_one() -> None:
    for app in (demo(), WiredApp(small_app(), small_records())):
        assert list(differences(app)) == []


@given(apps())
@settings(max_examples=3, deadline=None, suppress_health_check=[HealthCheck.too_slow])
def test_it_agrees_on_any_app(model: object) -> None:
    assert list(differences(WiredApp(model, RECORDS))) == []  # type: ignore[arg-type]


@pytest.mark.long
def test_after_an_edit_only_what_it_can_have_changed_is_explored_anew() -> None:
    wired = demo()
    known: dict[str, tuple[object, object]] = {}
    list(reached_slowly(wired, known, Limits(depth=1)))
    assert known == {}
    for each in wired.sections:
        known[each] = depends_on(wired, each), None
    model = with_link(wired.app, "stays-to-stay", how="push")
    changed = WiredApp(model, wired.as_read, like=wired)
    same = [e for e in changed.sections if known[e][0] == depends_on(changed, e)]
    assert "huts" in same
    assert "stays" not in same


def test_the_command_tells_what_is_broken_in_every_form(tmp_path: Path) -> None:
    project = tmp_path / "small"
    project.mkdir()
    app = with_link(small_app(), "open", arguments=())
    (project / "small.cadena").write_text(encode(app))
    for name, records in small_records(4).items():
        records.frame.write_json(project / f"{name}.json")
    out = {each: tmp_path / f"out.{each}" for each in ("junit", "sarif")}
    options = [part for name, file in out.items() for part in (f"--{name}", str(file))]
    run = CliRunner().invoke(main, ["prove", str(project), "--json", *options])
    assert run.exit_code == 1, run.output
    told = json.loads(run.output)
    opens = next(each for each in told if each["claim"] == "opens")
    assert opens["answer"] == "broken"
    assert opens["depth"] is None
    assert opens["states"] > 1
    cause = opens["broken"][0]
    assert cause["where"] == "links[open]"
    assert set(cause["window"]) == {"width", "height", "fold"}
    walk = tmp_path / "walk.json"
    walk.write_text(json.dumps(cause["walk"]))
    window = f"{cause['window']['width']:g}x{cause['window']['height']:g}"
    run = CliRunner().invoke(main, ["walk", str(project), str(walk), "--window", window])
    assert run.exit_code == 1
    assert "expected" in run.output
    assert 'failures="2"' in out["junit"].read_text()
    assert json.loads(out["sarif"].read_text())["runs"][0]["results"]
    one = CliRunner().invoke(main, ["prove", str(project), "--claim", "label"])
    assert one.exit_code == 0
    assert one.output.startswith("✓ The back label")
    none = CliRunner().invoke(main, ["prove", str(project), "--claim", "nothing"])
    assert none.exit_code == 2
    assert "one of opens" in none.output


@pytest.mark.long
def test_several_processes_tell_the_same() -> None:
    run = CliRunner().invoke(
        main, ["prove", str(DEMO / "cresta"), "--processes", "2", "--depth", "2"]
    )
    assert run.exit_code == 0
    assert "holds to depth 2" in run.output


def test_reports_name_claims_and_places() -> None:
    app = WiredApp(with_link(small_app(), "open", arguments=()), small_records())
    proof = prove(app)
    found = list(findings_of(proof))
    assert {each.code for each in found} == {"prove/opens", "prove/reached"}
    assert all(msgspec.json.decode(each.run) for each in found if each.code == "prove/opens")
    assert to_junit(app.app, proof).count("<testcase") == len(proof.claims)
    assert "in every window" in in_words("x", proof)


@pytest.mark.long
def test_a_button_that_leads_nowhere_is_found_and_breaks_the_claim() -> None:
    """And so does an action that changes a field of another source than its row's."""
    model = demo().app
    huts = next(each for each in model.screens if each.id == "huts")
    actions = (
        Button(id="far", label="Far"),
        Button(id="odd", label="Odd", does=SetField(field="nr")),
    )
    rows = replace(huts.rows, actions=actions)  # type: ignore[union-attr]
    model = with_screen(model, "huts", rows=rows)
    app = WiredApp(model, demo().as_read)
    found = {each.code for each in read_through(model, app.as_read)}
    assert {"leads-nowhere", "action-field-missing"} <= found
    causes = claim(prove(app, Limits(states=900)), "opens")
    assert {each.where for each in causes} >= {
        "screens[huts].buttons[far]",
        "screens[huts].buttons[odd]",
    } or {each.where for each in causes} >= {"screens[huts]"}
    assert all(fails(app, each) for each in causes)
    types = {name: each.types for name, each in app.as_read.items()}
    finding = next(e for e in read_through(model, app.as_read) if e.code == "leads-nowhere")
    better = check_mend.mended(model, types, finding)
    assert better is not None
    assert "leads-nowhere" not in {each.code for each in read_through(better, app.as_read)}


def test_a_root_that_is_replaced_for_good_is_found_proven_and_mended() -> None:
    model = with_link(small_app(), "open", how="replace")
    app = WiredApp(model, small_records(4))
    (finding,) = [e for e in read_through(model, app.as_read) if e.code == "root-replaced"]
    assert finding.where == "links[open].how"
    proof = prove(app)
    (cause, *_) = claim(proof, "root")
    assert cause.where == "links[open]"
    assert fails(app, cause)
    types = {name: each.types for name, each in app.as_read.items()}
    by_cause, by_finding = mended(model, types, cause), check_mend.mended(model, types, finding)
    assert by_cause is not None
    assert by_cause.app == by_finding == with_link(model, "open", how="push")
    assert answers(prove(WiredApp(by_cause.app, app.as_read)))["root"] == "holds everywhere"


def test_a_root_that_something_leads_back_to_is_no_finding() -> None:
    model = with_link(small_app(), "open", how="replace")
    back = Link(id="back", trigger=model.links[2].trigger, to="huts", how="replace")
    model = replace(model, links=tuple(back if e.id == "book" else e for e in model.links))
    app = WiredApp(model, small_records(4))
    assert "root-replaced" not in {each.code for each in read_through(model, app.as_read)}
    assert answers(prove(app))["root"] == "holds everywhere"


def test_what_was_not_looked_at_to_its_end_breaks_no_claim_to_reach() -> None:
    own = OwnClaim(id="own", says="can reach", so=Situation(arguments={"room": 3}))
    app = WiredApp(replace(small_app(), claims=(own,)), small_records(4))
    assert answers(prove(app))["own"] == "holds everywhere"
    early = answers(prove(app, Limits(depth=1)))
    assert early["own"] == early["root"] == "holds to depth"
