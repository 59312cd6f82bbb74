"""What survives: every mark is the result of a run, and the runs are true."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from click.testing import CliRunner
from hypothesis import given, settings
from msgspec.structs import replace

from builders import DEMO, demo, small_app, small_records, with_link, with_screen
from builders import Run as Run2
from cadena.cli.main import main
from cadena.engine import events as do
from cadena.engine.rules.saved_state import SURVIVES_KILL, saved_state
from cadena.engine.session import Session
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.app import App, AppValue, FromField, FromPosition, FromRecord, Keep
from cadena.runs.keep.disturbances import DISTURBANCES
from cadena.runs.keep.marks_in_words import in_words, is_broken, steps_of, totals
from cadena.runs.keep.matrix import Known, matrix_of, runs
from cadena.runs.keep.mend import mended_keep, with_lifetime
from cadena.runs.keep.pieces import Piece, pieces_of, size_of, value_of
from cadena.runs.keep.rows_in_view import KINDS
from cadena.runs.keep.run import Matrix, Run, worst
from cadena.runs.keep.saved_size import sizes_of
from cadena.scene.lay_out import lay_out
from cadena.scene.scene import Box
from long_form import examples
from test_engine_random import apps

SMALL = small_records(30)


def marks(app: App) -> dict[str, str]:
    """The mark of each piece and disturbance of the small app, by name."""
    found = matrix_of(WiredApp(app, SMALL))
    return {f"{piece.name}, {name}": run.mark for (piece, name), run in found.items()}


def mark_of(matrix: Matrix, name: str, disturbance: str) -> Run:
    return next(r for (p, d), r in matrix.items() if p.name == name and d == disturbance)


def test_the_demo_keeps_all_or_lets_it_go_as_asked() -> None:
    matrix = matrix_of(demo())
    assert not is_broken(matrix), totals(matrix)
    assert mark_of(matrix, "huts · scroll", "kill").mark == "kept"
    assert mark_of(matrix, "huts · search", "relaunch").mark == "let go as asked"
    assert mark_of(matrix, "hut · carried", "row gone").mark == "moved on as asked"
    assert mark_of(matrix, "saved · value", "relaunch").mark == "kept"


def test_pieces_are_found_from_the_app() -> None:
    names = {each.name for each in pieces_of(demo())}
    assert {
        "huts · scroll",
        "huts · search",
        "huts · sort",
        "huts · chosen row",
        "huts · regions · choice",
        "hut · rooms · chosen row",
        "route · page",
        "stay-form · draft",
        "hut · carried",
        "huts · chain",
        "current · value",
    } <= names
    assert "saved · search" not in names


def test_6_every_lifetime_is_measured() -> None:
    """A search that lives as its view, its entry, saved and stored."""
    fates = {
        "view": ("let go as asked", "let go as asked", "let go as asked", "let go as asked"),
        "entry": ("kept", "kept", "let go as asked", "let go as asked"),
        "saved": ("kept", "kept", "kept", "let go as asked"),
        "stored": ("kept", "kept", "kept", "kept"),
    }
    for life, wanted in fates.items():
        found = marks(with_screen(small_app(), "huts", keep=Keep(search=life)))  # type: ignore[arg-type]
        got = tuple(
            found[f"huts · search, {each}"] for each in ("turn", "section", "kill", "relaunch")
        )
        assert got == wanted, life


def test_a_chain_that_a_kill_loses_takes_what_was_to_be_kept() -> None:
    app = small_app()
    app = replace(app, sections=tuple(replace(each, keep="entry") for each in app.sections))
    found = matrix_of(WiredApp(app, SMALL))
    lost = mark_of(found, "hut · scroll", "kill")
    assert lost.mark == "lost"
    mended = mended_keep(app, lost, {})
    assert mended is not None
    assert mark_of(matrix_of(WiredApp(mended, SMALL)), "hut · scroll", "kill").mark == "kept"


@pytest.mark.long
def test_each_loss_of_the_broken_demo_is_mended_and_then_kept() -> None:
    broken = demo("cresta-broken")
    matrix = matrix_of(broken)
    lost = [each for each in matrix.values() if each.mark in ("lost", "wrong")]
    assert {(each.piece.name, each.disturbance, each.mark) for each in lost} == {
        ("stay-form · draft", "turn", "lost"),
        ("stay-form · draft", "over an edge", "lost"),
        ("stay-form · draft", "fold", "lost"),
        ("stay-form · draft", "kill", "lost"),
        ("saved · sort", "kill", "lost"),
        ("stay · carried", "row moved", "wrong"),
        ("hut · carried", "row moved", "wrong"),
        ("hut · carried", "row changed", "wrong"),
    }
    types = {name: records.types for name, records in broken.as_read.items()}
    app = broken.app
    known: Known = {}
    for each in lost:
        made = mended_keep(app, each, types)
        if made is not None:
            app = made
        after = worst(runs(WiredApp(app, broken.as_read), known))
        assert mark_of(after, each.piece.name, each.disturbance).mark == "kept"
    assert not is_broken(after)
    assert all(mended_keep(app, each, types) is None for each in lost)


def test_6_what_is_stored_is_there_when_its_screen_is_opened_again() -> None:
    app = with_screen(small_app(), "hut", keep=Keep(scroll="stored"))
    assert marks(app)["hut · scroll, relaunch"] == "kept"
    app = with_screen(small_app(), "hut", keep=Keep(scroll="saved"))
    assert marks(app)["hut · scroll, relaunch"] == "let go as asked"


def test_6_stored_state_has_a_limit_where_the_app_says_so() -> None:
    app = with_screen(small_app(), "hut", keep=Keep(scroll="stored"))
    app = replace(app, platform=replace(app.platform, stored_most=2))
    run = Run2(app)
    for key in ("h1", "h2", "h3"):
        run.choose(key)(do.Scroll(screen="hut", to=10.0), do.Back())
    assert [each.arguments["hut"] for each in run.session.stored] == ["h2", "h3"]


@pytest.mark.long
@given(apps(), apps())
@settings(max_examples=10)
def test_what_has_not_changed_is_not_run_again_and_comes_to_the_same(one: App, other: App) -> None:
    records = small_records(6)
    mixed = replace(one, screens=(one.screens[0], *other.screens[1:]))
    known: Known = {}
    list(runs(WiredApp(one, records), known))
    size = len(known)
    again = worst(runs(WiredApp(mixed, records), known))
    fresh = matrix_of(WiredApp(mixed, records))
    assert again == fresh
    list(runs(WiredApp(one, records), known))
    assert len(known) == size


@pytest.mark.parametrize(
    ("argument", "disturbance"), [(FromPosition, "row moved"), (FromRecord, "row changed")]
)
def test_what_is_carried_in_place_of_a_key_comes_back_wrong(
    argument: type, disturbance: str
) -> None:
    """A position names another row once its list is sorted anew; a copy grows old."""
    kind = "whole number" if argument is FromPosition else "text"
    app = with_link(small_app(), "open", arguments=(argument(parameter="hut"),))
    hut = app.screens[1]
    parameters = (replace(hut.parameters[0], type=kind),)  # type: ignore[union-attr]
    app = with_screen(app, "hut", parameters=parameters)
    found = matrix_of(WiredApp(app, SMALL))
    assert mark_of(found, "hut · carried", disturbance).mark == "wrong"
    assert mark_of(found, "hut · carried", "sleep").mark == "kept"


def test_an_app_wide_value_has_its_lifetime_measured_and_changed() -> None:
    app = small_app(values=(AppValue(id="last", keep="entry"),))
    found = matrix_of(WiredApp(app, SMALL))
    assert mark_of(found, "last · value", "kill").mark == "let go as asked"
    piece = next(each for each in pieces_of(WiredApp(app, SMALL)) if each.kind == "value")
    app = with_lifetime(app, piece, "stored")
    assert marks(app)["last · value, relaunch"] == "kept"


def test_a_run_is_told_as_steps_with_its_size() -> None:
    lost = mark_of(matrix_of(demo("cresta-broken")), "stay-form · draft", "turn")
    assert lost.size == size_of({"guest": "Ilva"}) == 16
    said = steps_of(lost)
    assert said[0] == "stay-form · draft, turn, at Wrist: lost"
    assert said[-1].endswith("nothing is there")
    assert any("guest = Ilva" in each for each in said)


@pytest.mark.long
@settings(max_examples=examples(25))
@given(apps())
def test_the_matrix_and_a_direct_run_of_the_same_events_agree(app: App) -> None:
    """Each run, replayed event by event from a fresh start, comes to the same."""
    wired = WiredApp(app, small_records(6))
    for run in runs(wired):
        session, _ = start(wired, run.window)
        for event in run.events:
            session, *_ = step(wired, session, event)
        section = run.before.section
        if run.piece.kind in KINDS:
            assert_seen(wired, session, run)
            continue
        assert value_of(session, run.piece, section, run.place) == run.had
        if run.disturbance == "new version":
            continue
        for event in run.disturbing:
            session, *_ = step(wired, session, event)
        has = value_of(session, run.piece, section, run.place)
        assert has == run.has
        if run.mark == "kept":
            assert has == run.had
        elif run.mark == "lost":
            assert has is None
            assert run.had is not None


def assert_seen(app: WiredApp, session: Session, run: Run) -> None:
    """What a run says of rows in view is what the app's own picture shows."""
    if run.mark == "nothing to keep here":
        return
    was = rows_in(app, session, run)
    for event in run.disturbing:
        session, *_ = step(app, session, event)
    now = rows_in(app, session, run)
    if run.piece.kind == "chosen in view":
        lies = was[run.had]
        assert lies.y > lies.clip.y - 1
        if run.mark in ("kept", "lost"):
            assert (run.had in now) == (run.mark == "kept") or now[run.had].height > 0
        return
    key, above = run.had
    lead = was[key].y - was[key].clip.y
    assert lead <= 0 or above > 0
    if run.mark == "kept":
        assert now[key].y - now[key].clip.y == pytest.approx(lead, abs=0.6)


def rows_in(app: WiredApp, session: Session, run: Run) -> dict[object, Box]:
    """The rows of the list of a run that are in the picture of the app."""
    boxes = lay_out(app, session, session.window).boxes
    place = (run.place, run.piece.part)
    return {e.key: e for e in boxes if e.kind == "row" and (e.entry, e.part) == place}


@pytest.mark.long
def test_keep_on_the_command_line(tmp_path: Path) -> None:
    run = CliRunner().invoke(main, ["keep", str(DEMO / "cresta")])
    assert run.exit_code == 0
    assert "huts · scroll" in run.output
    assert "0 lost" not in run.output
    assert run.output.strip().endswith("nothing to keep here")
    run = CliRunner().invoke(main, ["keep", str(DEMO / "cresta-broken")])
    assert run.exit_code == 1
    assert "stay-form · draft, turn, at Wrist: lost" in run.output
    run = CliRunner().invoke(main, ["keep", str(DEMO / "cresta-broken"), "--json"])
    assert run.exit_code == 1
    made = json.loads(run.output)
    assert {each["mark"] for each in made} >= {"kept", "lost"}
    assert all(each["run"] is not None for each in made)
    assert CliRunner().invoke(main, ["keep", str(tmp_path)]).exit_code == 2


def test_an_app_with_nothing_keeps_nothing() -> None:
    assert matrix_of(WiredApp(App(), {})) == {}
    assert in_words("x", {}).endswith("x: ")
    assert len(DISTURBANCES) == 11


def test_a_piece_is_named_in_words() -> None:
    assert Piece("scroll", "huts", "", "saved", "").name == "huts · scroll"
    assert Piece("search", "hut", "rooms", "saved", "").name == "hut · rooms · search"


def test_a_position_and_a_copy_are_wrong_once_their_row_has_moved_or_changed() -> None:
    app = with_link(small_app(), "open", arguments=(FromPosition(parameter="hut", convert=True),))
    types = {name: each.types for name, each in SMALL.items()}
    wrong = mark_of(matrix_of(WiredApp(app, SMALL)), "hut · carried", "row moved")
    assert (wrong.mark, wrong.had, wrong.instead) == ("wrong", {"hut": "1"}, {"hut": "29"})
    assert steps_of(wrong)[-1].endswith("it would be opened with hut = 29 now")
    made = mended_keep(app, wrong, types)
    assert made is not None
    assert made.links[0].arguments == (FromField(parameter="hut", field="id"),)
    assert marks(made)["hut · carried, row moved"] == "kept"
    copied = with_link(small_app(), "open", arguments=(FromRecord(parameter="hut"),))
    assert marks(copied)["hut · carried, row changed"] == "wrong"


def test_what_is_carried_is_followed_along_every_link() -> None:
    """The hut is reached by its row; the booking, that a button opens, by its argument."""
    found = marks(small_app())
    assert found["book · carried, kill"] == "kept"
    assert found["room · carried, row moved"] == "kept"


def test_a_lifetime_is_lengthened_and_shortened_for_the_sections_that_lead_there() -> None:
    app = small_app()
    piece = next(each for each in pieces_of(WiredApp(app, SMALL)) if each.name == "hut · carried")
    short = with_lifetime(app, piece, "entry")
    assert {each.keep for each in short.sections} == {"entry"}
    assert marks(short)["hut · carried, kill"] == "let go as asked"
    again = next(e for e in pieces_of(WiredApp(short, SMALL)) if e.name == "hut · carried")
    assert again.lifetime == "entry"
    assert with_lifetime(short, again, "saved") == app


def test_saved_state_is_told_by_piece_with_its_bytes() -> None:
    run = Run2()(do.Search(screen="huts", text="hut"), do.Scroll(screen="huts", by=90))
    run.choose("h3")
    text = saved_state(run.app, run.session, SURVIVES_KILL)
    sizes = sizes_of(text)
    assert sizes["huts › hut · carried"] == len('{"hut":"h3"}')
    assert {"huts › huts · search", "huts › huts · scroll"} <= {*sizes}
    assert list(sizes.values()) == sorted(sizes.values(), reverse=True)
    assert sum(sizes.values()) < len(text)
    assert sizes_of("{}") == {}


def test_17_what_can_be_gone_forward_to_is_measured() -> None:
    app = small_app()
    app = replace(app, platform=replace(app.platform, forward=True))
    matrix = matrix_of(WiredApp(app, small_records()))
    marks = {name: run.mark for (piece, name), run in matrix.items() if piece.kind == "forward"}
    assert marks == {
        **dict.fromkeys(("turn", "over an edge", "sleep", "row moved", "row changed"), "kept"),
        **dict.fromkeys(("section", "kill", "relaunch"), "let go as asked"),
        **dict.fromkeys(("fold", "row gone", "new version"), "kept"),
    }
    assert not is_broken(matrix)
