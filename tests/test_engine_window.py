"""Another window, and how long state lives (rules.md, 5 and 6)."""

from __future__ import annotations

import json
import random
from collections.abc import Iterator
from typing import Any

import msgspec
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from builders import POCKET, SLATE, Run, small_app, with_arrangement, with_link, with_screen
from cadena.engine import events as do
from cadena.engine.rules.app_changed import fitted
from cadena.engine.session import from_json, sized
from cadena.engine.step import step
from cadena.engine.wired import WiredApp
from cadena.model.app import AppValue, Arrangement, Keep, Platform, Range, When
from cadena.model.listing import Sort
from cadena.scene.lay_out import lay_out
from cadena.words.notes import in_words
from long_form import examples
from test_engine_random import assert_sound


def opening(wish: str) -> Run:
    return Run(with_screen(small_app(), "huts", nothing_chosen=wish), SLATE)


def test_5_1_the_first_matching_rule_wins() -> None:
    rules = (
        Arrangement(
            id="flat and wide", when=When(shape="landscape", width=Range(least=500)), panes=2
        ),
        Arrangement(id="folded", when=When(fold="folded"), panes=1),
        Arrangement(id="tall", when=When(height=Range(least=900)), panes=2),
    )
    run = Run(small_app(arrangements=rules), sized(800, 600))
    assert run.shown == ["huts", "-"]
    assert run.resize(sized(600, 800)).shown == ["huts"]
    assert run.resize(sized(600, 900)).shown == ["huts", "-"]


def test_5_1_without_a_rule_there_is_one_pane() -> None:
    rules = (Arrangement(id="x", when=When(width=Range(least=5000)), panes=2),)
    assert Run(small_app(arrangements=rules), SLATE).shown == ["huts"]


def test_5_2_nothing_chosen_opens_the_first() -> None:
    run = opening("open first")
    assert run.shown == ["huts", "hut"]
    assert run.session.entries[1].by == "rule"
    assert run.arguments == {"hut": "h0"}


def test_5_2_or_the_last() -> None:
    run = opening("open last").choose("h4").resize(POCKET)
    run(do.Back()).resize(SLATE)
    assert run.arguments == {"hut": "h4"}
    assert run.session.entries[1].by == "rule"


def test_5_2_a_list_without_rows_says_that_nothing_is_chosen() -> None:
    run = opening("open first")(do.Search(screen="huts", text="zzz"))
    assert run.shown == ["huts", "-"]
    empty = Run(with_screen(small_app(), "huts", nothing_chosen="open first"), POCKET)
    empty(do.Search(text="zzz")).resize(SLATE)
    assert empty.shown == ["huts", "-"]


def test_5_3_what_a_rule_opened_goes_with_its_pane() -> None:
    run = opening("open first").resize(POCKET)
    assert run.shown == ["huts"]
    assert "closed by rule" in run.kinds
    assert run.resize(SLATE).shown == ["huts", "hut"]


def test_5_3_what_was_touched_stays() -> None:
    for touch in (do.Scroll(screen="hut", by=1.0), do.Choose(key="h0", screen="huts")):
        run = opening("open first")(touch).resize(POCKET)
        assert run.shown == ["hut"]
    run = opening("open first").choose(0, "hut", "rooms").resize(POCKET)
    assert run.chain == ["huts", "hut", "room"]


def test_5_3_holds_below_a_modal() -> None:
    app = with_screen(small_app(), "huts", nothing_chosen="open first")
    run = Run(with_link(app, "book", to="hut"), SLATE)(do.Press(button="book"))
    assert [each.by for each in run.session.entries] == ["hand", "hand", "hand"]
    run.resize(POCKET)
    assert run.chain == ["huts", "hut", "hut"]


def test_5_4_a_rebuilt_screen_loses_what_lives_as_long_as_its_view() -> None:
    app = with_screen(small_app(), "huts", keep=Keep(scroll="view", search="entry"))
    scrolled = (do.Search(text="hut"), do.Scroll(by=300.0))
    run = Run(app)(*scrolled, do.Turn())
    assert run.session.entries[0].view.scroll is None
    assert run.session.entries[0].view.search == {"": "hut"}
    neither = replace(app, platform=Platform(rebuilds=()))
    assert Run(neither)(*scrolled, do.Turn()).session.entries[0].view.scroll is not None
    only = replace(app, platform=Platform(rebuilds=("breakpoint",)))
    small = sized(360, 500)
    assert Run(only, small)(*scrolled, do.Turn()).session.entries[0].view.scroll is not None
    assert Run(only, small)(*scrolled).resize(SLATE).session.entries[0].view.scroll is None


def test_6_view_state_goes_when_its_screen_goes_off_display() -> None:
    app = with_screen(small_app(), "huts", keep=Keep(scroll="view", search="saved"))
    run = Run(app)(do.Scroll(by=300.0)).choose("h9")
    assert run.session.entries[0].view.scroll is None
    run = Run(app)(do.Scroll(by=300.0), do.GoTo(section="again"), do.GoTo(section="huts"))
    assert run.session.entries[0].view.scroll is None


def test_5_5_tiny_windows_start_on_the_detail() -> None:
    app = with_arrangement(small_app(), "one", detail_first="open first")
    run = Run(app)
    assert run.shown == ["hut"]
    assert run.session.entries[1].by == "rule"
    run(do.Back())
    assert run.shown == ["huts"]
    assert run.session.chain.asked
    run(do.GoTo(section="again"), do.GoTo(section="huts"))
    assert run.shown == ["hut"]
    run(do.Back(), do.Back())
    assert run.session.phase == "left"


@pytest.mark.parametrize("life", ["entry", "saved", "stored"])
def test_6_kill_and_relaunch_keep_what_they_should(life: str) -> None:
    app = with_screen(small_app(), "huts", keep=Keep(scroll=life, search=life))
    run = Run(app)(do.Search(text="hut"), do.Scroll(by=300.0)).choose("h9")
    before = run.session.entries[0].view
    run(do.Kill())
    assert run.session.phase == "killed"
    assert run.session.entries == ()
    run(do.Restore())
    assert run.chain == ["huts", "hut"]
    kept = run.session.entries[0].view
    assert (kept == before) == (life != "entry")
    run(do.Relaunch())
    assert run.chain == ["huts"]
    assert bool(run.session.entries[0].view.search) == (life == "stored")


def test_6_what_is_stored_is_kept_by_arguments() -> None:
    app = with_screen(small_app(), "hut", keep=Keep(scroll="stored"))
    run = Run(app, sized(360, 300)).choose("h1")(do.Scroll(by=60.0), do.Back()).choose("h2")
    assert run.session.entries[1].view.scroll is None
    run(do.Back()).choose("h1")
    assert run.session.entries[1].view.scroll is not None


def test_6_a_chain_that_is_not_saved_is_not_restored() -> None:
    app = small_app()
    app = replace(app, sections=tuple(replace(each, keep="entry") for each in app.sections))
    assert Run(app).choose("h1")(do.Kill(), do.Restore()).chain == ["huts"]


def test_6_app_wide_values_have_lifetimes_too() -> None:
    values = tuple(AppValue(id=life, keep=life) for life in ("entry", "saved", "stored"))  # type: ignore[arg-type]
    run = Run(small_app(values=values))
    run(*(do.SetValue(value=each.id, to="x") for each in values), do.Kill(), do.Restore())
    assert set(run.session.values) == {"saved", "stored"}
    assert set(run(do.Relaunch()).session.values) == {"stored"}


def test_6_sleep_and_wake_lose_nothing() -> None:
    run = Run().choose("h1")
    before = run.session
    run(do.Sleep())
    assert run.choose(0, "hut", "rooms").kinds == ["refused"]
    assert run(do.Wake()).session == before
    assert run(do.Wake()).kinds == ["refused"]


def test_6_saved_state_is_small_and_plain() -> None:
    run = Run().choose("h1")(do.Kill())
    assert len(run.session.kept) < 400
    assert json.loads(run.session.kept)["section"] == "huts"


@pytest.mark.parametrize(
    ("change", "chain", "says"),
    [
        (
            lambda saved: saved["chains"][0]["entries"][1].update(screen="gone"),
            ["huts"],
            "screen gone is not there",
        ),
        (
            lambda saved: saved["chains"][0]["entries"][1]["arguments"].update(hut=3),
            ["huts"],
            "text was wanted",
        ),
        (
            lambda saved: saved["chains"][0]["entries"][1]["arguments"].clear(),
            ["huts"],
            "is required",
        ),
        (
            lambda saved: saved["chains"][0]["entries"][1]["arguments"].update(x=1),
            ["huts"],
            "no parameter x",
        ),
        (
            lambda saved: saved["chains"][0]["entries"][1].update(opened="root"),
            ["huts"],
            "opened as root",
        ),
        (lambda saved: saved["chains"][0].update(section="gone"), ["huts"], "section gone"),
    ],
)
def test_6_restoring_trusts_nothing(change: object, chain: list[str], says: str) -> None:
    run = Run().choose("h1").choose(2, "hut", "rooms")(do.Kill())
    saved = json.loads(run.session.kept)
    change(saved)  # type: ignore[operator]
    run.session = replace(run.session, kept=json.dumps(saved))
    run(do.Restore())
    assert run.chain == chain
    assert "dropped" in run.kinds
    assert says in run.said


@given(st.randoms(use_true_random=False), st.integers(1, 6))
def test_6_damaged_state_never_stops_a_start(chance: random.Random, flips: int) -> None:
    run = Run().choose("h1")(do.Scroll(by=20.0), do.Press(button="book"), do.Kill())
    raw = bytearray(run.session.kept.encode())
    for _ in range(flips):
        raw[chance.randrange(len(raw))] = chance.randrange(32, 127)
    cut = bytes(raw[: chance.randrange(len(raw))])
    for damaged in (bytes(raw), cut):
        run.session = replace(run.session, kept=damaged.decode(), phase="killed", chains={})
        run(do.Restore())
        assert run.session.phase == "running"
        assert run.chain[:1] == ["huts"]
        run(do.Scroll(by=5.0), do.Back(), do.Turn())


LEAVES = st.sampled_from(
    [None, 0, -1, 2**70, 1.5, True, "", "h1", "root", "hut", [], [[]], {}, {"part": "", "key": 1}]
)


@settings(max_examples=examples(200))
@given(st.randoms(use_true_random=False), st.lists(LEAVES, max_size=3))
def test_6_swapped_values_never_stop_a_start(chance: random.Random, strange: list[object]) -> None:
    """Values of a saved state exchanged for one another, and for others: what fits is restored."""
    huts = small_app().screens[0]
    rows = replace(huts.rows, group_by="region", groups_start="open")
    run = Run(with_screen(small_app(), "huts", rows=rows))
    run(do.ShowGroup(title="N", open=False), do.Scroll(row="h9"), do.SortBy(by=(Sort(field="id"),)))
    run.choose("h1").choose(2, "hut", "rooms")(do.GoTo(section="again"))
    run(do.Search(text="hut"), do.Scroll(by=20.0), do.Kill())
    saved = json.loads(run.session.kept)
    places = [(holder, at) for holder, at in _leaves(saved)]
    for _ in range(3):
        (one, at), (other, to) = chance.choice(places), chance.choice(places)
        one[at], other[to] = other[to], one[at]
    for value in strange:
        holder, at = chance.choice(places)
        holder[at] = value
    run.session = replace(run.session, kept=json.dumps(saved))
    run(do.Restore())
    assert_sound(run.app, run.session)
    for event in (do.Scroll(by=5.0), do.Move(to="down"), do.Turn(), do.GoTo(section="huts")):
        run(event)
        assert_sound(run.app, run.session)
        lay_out(run.app, run.session, run.session.window)


def _leaves(value: Any) -> Iterator[tuple[Any, Any]]:
    """Every place in JSON that holds something, with what holds it."""
    if isinstance(value, dict | list):
        for at in [*value] if isinstance(value, dict) else range(len(value)):
            yield value, at
            yield from _leaves(value[at])


def test_a_session_is_carried_over_to_a_changed_app() -> None:
    run = Run().choose("h1").choose(2, "hut", "rooms")
    without = small_app(screens=small_app().screens[:2])
    app = WiredApp(without, run.app.as_read)
    session, notes = fitted(app, run.session, run.app)
    assert [each.screen for each in session.entries] == ["huts", "hut"]
    assert "screen room is not there any more" in in_words(notes[0])
    same, notes = fitted(run.app, run.session, run.app)
    assert same == run.session
    assert notes == ()


def test_a_section_given_another_root_starts_there() -> None:
    run = Run().choose("h1")
    free = with_screen(small_app(), "book", parameters=())
    sections = (replace(free.sections[0], root="book"), free.sections[1])
    app = WiredApp(replace(free, sections=sections), run.app.as_read)
    session, _ = fitted(app, run.session, run.app)
    assert [each.screen for each in session.entries] == ["book"]
    assert session.chains["again"] == run.session.chains["again"]


@pytest.mark.parametrize(
    "event",
    [
        do.Resize(width=0, height=100),
        do.Resize(width=100, height=float("inf")),
        do.Resize(width=100_000, height=100),
        do.Resize(width=100, height=100, fold=200),
        do.Unfold(),
    ],
)
def test_windows_that_cannot_be_are_refused(event: do.Event) -> None:
    run = Run()
    before = run.session
    assert run(event).kinds == ["refused"]
    assert run.session is before


def test_turning_turns_the_fold_too() -> None:
    run = Run(window=sized(673, 841, 336))(do.Turn(), do.Fold())
    assert run.session.window.size == (841, 336)
    run(do.Unfold(), do.Turn())
    assert run.session.window == sized(673, 841, 336)
    assert from_json(msgspec.json.encode(run.session)) == run.session
    assert step(run.app, run.session, do.Resize(width=673, height=841, fold=336))[0] == run.session
