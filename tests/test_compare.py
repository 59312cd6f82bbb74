"""Two versions of a project compared, from folders and from git; and joined thing by thing."""

from __future__ import annotations

import json
import shutil
import subprocess
from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from msgspec import convert
from msgspec.structs import replace

from builders import small_app, small_records, with_arrangement, with_link, with_screen
from cadena.check.compared import compared, in_words, to_html, to_json
from cadena.engine.step import start, step
from cadena.engine.wired import WiredApp
from cadena.model.app import App, Keep, Range, When
from cadena.model.by_thing import Conflict, differences, merged, tree_of
from cadena.model.file.project_file import decode, encode
from cadena.model.listing import TableColumn
from cadena.runs.compare.told_apart import shown, told_apart
from cadena.runs.prove.explore import Limits
from cadena.runs.prove.prove import Reached, at_once, proof_of, prove, reached_in
from cadena.runs.walks.walk import Walk
from test_cli import call
from test_engine_random import RECORDS, apps

pytestmark = pytest.mark.skipif(shutil.which("git") is None, reason="git is not there")


NO_TIME = Limits(stop=lambda: True)


def last(of: Iterator[Reached | int]) -> Reached:
    *_, reached = of
    assert isinstance(reached, Reached)
    return reached


def wired(app: App) -> WiredApp:
    return WiredApp(app, small_records())


def moved(by: int) -> App:
    """The small app with its one breakpoint elsewhere."""
    return with_arrangement(small_app(), "one", when=When(width=Range(below=600 + by)))


def test_a_breakpoint_that_moved_is_told_apart_from_words_that_changed() -> None:
    made = compared(wired(small_app()), wired(moved(40)), {})
    assert [each.where for each in made.changes] == ["arrangements[one].when.width.below"]
    assert made.behaves_otherwise
    first = made.apart[0]
    assert 600 <= first.window.width < 640
    assert [type(each).__name__ for each in first.walk] == ["Choose"]
    assert (first.old["display"], first.new["display"]) == (["huts", "hut"], ["hut"])
    said = in_words("Small", made)
    assert "arrangements[one].when.width ends below 640" in said
    assert "display: hut now, and was: huts, hut" in said
    words = with_screen(small_app(), "huts", title="Cabins")
    made = compared(wired(small_app()), wired(words), {})
    assert not made.behaves_otherwise
    assert all(each.is_words for each in made.changes)
    assert "it behaves alike" in in_words("Small", made)


def test_a_shorter_lifetime_changes_marks_and_claims() -> None:
    app = with_screen(small_app(), "huts", keep=Keep(search="view"))
    made = compared(wired(small_app()), wired(app), {})
    assert "screens[huts].keep.search is view now, and was saved" in in_words("Small", made)
    assert any(each.what.startswith("huts · search") for each in made.marks)
    section = replace(small_app().sections[0], keep="entry")
    app = replace(small_app(), sections=(section, small_app().sections[1]))
    made = compared(wired(small_app()), wired(app), {})
    assert [each.what for each in made.claims] == ["An ended process comes back as it was"]


def test_columns_are_joined_column_by_column() -> None:
    def with_columns(**heads: str) -> App:
        columns = tuple(TableColumn(shows=name, head=head) for name, head in heads.items())
        rows = replace(small_app().screens[0].rows, layout="columns", columns=columns)  # type: ignore[union-attr]
        return with_screen(small_app(), "huts", rows=rows)

    was = with_columns(name="", id="", note="")
    sides = with_columns(name="Hut", id="", note=""), with_columns(name="", id="No.", note="")
    tree, conflicts = merged(*(tree_of(each) for each in (was, *sides)))
    assert not conflicts
    made = convert(tree, App).screens[0].rows.columns  # type: ignore[union-attr]
    assert [(e.shows, e.head) for e in made] == [("name", "Hut"), ("id", "No."), ("note", "")]
    assert all(each.is_words for each in differences(tree_of(was), tree))


def test_what_was_not_looked_at_is_said_and_is_no_change() -> None:
    old, new = wired(small_app()), wired(moved(40))
    in_no_time = proof_of(new, (last(reached_in(new, each, NO_TIME)) for each in new.sections))
    made = compared(old, new, {}, lambda: (prove(old), in_no_time))
    assert not made.claims
    assert any("no more time" in each for each in made.not_looked_at)
    assert in_words("Small", made).endswith("otherwise, as far as was looked")
    assert json.loads(to_json(made))["not_looked_at"]
    assert not compared(old, new, {}).not_looked_at


def test_a_piece_of_state_that_is_new_is_told_in_one_line() -> None:
    listing = replace(small_app().screens[0].rows, several="yes")  # type: ignore[union-attr]
    app = with_screen(small_app(), "huts", rows=listing)
    said = in_words("Small", compared(wired(small_app()), wired(app), {}))
    assert said.count("huts · picked") == 1
    assert "now, and was: not there" in said


def test_a_link_that_opens_otherwise_ends_walks_elsewhere() -> None:
    app = with_link(small_app(), "room", to="book", arguments=())
    walk: Walk = ()
    made = compared(wired(small_app()), wired(app), {"nothing": walk})
    said = in_words("Small", made)
    assert "links[room] opens book now, and opened room" in said
    assert "Whatever can be pressed opens: broken at links[room]" in said
    tree = json.loads(to_json(made))
    assert tree["behaves_otherwise"]
    assert tree["apart"][0]["walk"]
    page = to_html("<Small>", made)
    assert "<Small>" not in page
    assert "<script" not in page
    assert "&lt;Small&gt;" in page


@given(apps(), apps())
@settings(max_examples=4, deadline=None, suppress_health_check=[HealthCheck.too_slow])
def test_a_walk_that_tells_two_apart_does_so_when_it_is_taken(one: App, other: App) -> None:
    old, new = (at_once(WiredApp(each, RECORDS)) for each in (one, other))
    for each in list(told_apart(old, new))[:4]:
        ends = []
        for app in (old, new):
            session, _ = start(app, each.window)
            for event in each.walk:
                session, *_ = step(app, session, event)
            ends.append(shown(app, session))
        assert ends == [each.old, each.new]
        assert each.old != each.new


@given(apps(), apps())
@settings(max_examples=20, deadline=None)
def test_joining_gives_what_one_side_alone_has_changed(one: App, other: App) -> None:
    base, ours, theirs = tree_of(small_app()), tree_of(one), tree_of(other)
    assert merged(base, base, theirs) == (theirs, [])
    assert merged(base, ours, base) == (ours, [])
    assert merged(base, ours, ours) == (ours, [])
    made, conflicts = merged(base, ours, theirs)
    app = convert(made, App)
    assert decode(encode(app).encode(), "x") == app
    if not conflicts:
        back, none = merged(base, theirs, ours)
        assert none == []
        assert list(differences(made, back)) == []


def things(names: str) -> list[dict[str, str]]:
    return [{"id": each} for each in names]


@pytest.mark.parametrize(
    ("base", "ours", "theirs", "both"),
    [
        ("abcd", "dabc", "abcd", "dabc"),
        ("abcd", "bacd", "abdc", "badc"),
        ("abcd", "bcda", "dabc", "dbca"),
        ("ab", "axb", "ayb", "axyb"),
        ("ab", "aqpb", "abz", "aqpbz"),
        ("abc", "cab", "ac", "ca"),
    ],
)
def test_an_order_is_joined_by_thing_the_same_from_either_side(
    base: str, ours: str, theirs: str, both: str
) -> None:
    for one, other in ((ours, theirs), (theirs, ours)):
        assert merged(things(base), things(one), things(other)) == (things(both), [])


def test_an_order_that_both_have_turned_round_is_told() -> None:
    made, conflicts = merged(things("abc"), things("acb"), things("bac"), "screens")
    assert made == things("acb")
    assert conflicts == [Conflict("screens.order", list("acb"), list("bac"))]


def test_one_and_true_are_not_the_same() -> None:
    assert merged({"a": 1}, {"a": True}, {"a": 1}) == ({"a": True}, [])
    assert merged({"a": [0]}, {"a": [False]}, {"a": [2]})[1] == [Conflict("a", [False], [2])]
    assert [str(each.new) for each in differences({"a": 1}, {"a": True})] == ["True"]


def git(folder: Path, *arguments: str) -> str:
    identity = ["-c", "user.name=A", "-c", "user.email=a@example.invalid"]
    run = ["git", "-C", str(folder), *identity, *arguments]
    return subprocess.run(run, check=False, capture_output=True, text=True).stdout


def saved(folder: Path, app: App, message: str) -> None:
    (folder / "small.cadena").write_text(encode(app))
    git(folder, "add", "-A")
    git(folder, "commit", "-q", "-m", message)


@pytest.fixture
def repository(tmp_path: Path) -> Path:
    """A project in a repository, in a folder of it."""
    top = tmp_path / "top"
    folder = top / "app"
    folder.mkdir(parents=True)
    for name, records in small_records(6).items():
        records.frame.write_json(folder / f"{name}.json")
    git(top, "init", "-q", "-b", "main")
    saved(folder, small_app(), "first")
    return folder


@pytest.mark.long
def test_revisions_are_read_from_git(repository: Path, tmp_path: Path) -> None:
    saved(repository, moved(40), "second")
    code, text = call("compare", "HEAD~1", str(repository))
    assert code == 1
    assert "arrangements[one].when.width ends below 640" in text
    html = tmp_path / "a.html"
    code, text = call(
        *("compare", "HEAD~1", "HEAD", "--in", str(repository), "--json", "--html", str(html))
    )
    assert code == 1
    assert json.loads(text)["changes"][0]["new"] == 640
    assert html.read_text().startswith("<!doctype html>")
    assert call("compare", "HEAD", str(repository)) == (0, "Small: nothing has changed\n")


@pytest.mark.parametrize(
    ("old", "said"),
    [("none", "none"), ("--output=x", "it is no revision"), ("HEAD~9", "HEAD~9")],
)
def test_revisions_that_do_not_exist_are_said(repository: Path, old: str, said: str) -> None:
    code, text = call("compare", "--", old, str(repository))
    assert code == 2
    assert said in text
    assert not list(repository.glob("x*"))


def test_no_repository_and_no_project_are_said(tmp_path: Path, repository: Path) -> None:
    alone = tmp_path / "alone"
    shutil.copytree(repository, alone)
    code, text = call("compare", "HEAD", str(alone))
    assert code == 2
    assert "not a git repository" in text
    assert call("compare", "one", "other")[0] == 2
    git(repository, "rm", "-q", "--cached", "-r", ".")
    git(repository, "commit", "-q", "-m", "nothing", "--allow-empty")
    assert call("compare", "HEAD", str(repository))[0] == 2
    (repository / "small.cadena").write_text('{"cadena": 99, "needs": "9.0"}')
    code, text = call("compare", "HEAD~1", str(repository))
    assert code == 2
    assert "9.0" in text


def test_two_edits_of_one_screen_that_git_cannot_join_are_joined_by_thing(
    repository: Path,
) -> None:
    import sys

    driver = f"{sys.executable} -m cadena merge %O %A %B"
    git(repository, "config", "merge.cadena.driver", driver)
    (repository / ".gitattributes").write_text("*.cadena merge=cadena\n")
    saved(repository, small_app(), "attributes")
    git(repository, "checkout", "-q", "-b", "theirs")
    saved(repository, with_screen(small_app(), "hut", when_gone="close"), "theirs")
    git(repository, "checkout", "-q", "main")
    saved(repository, with_screen(small_app(), "hut", title="{name} hut"), "ours")
    git(repository, "merge", "-q", "theirs", "-m", "both")
    app = decode((repository / "small.cadena").read_bytes(), "x")
    hut = next(each for each in app.screens if each.id == "hut")
    assert (hut.title, getattr(hut, "when_gone", "")) == ("{name} hut", "close")
    assert git(repository, "status", "--porcelain") == ""


def test_what_both_have_changed_is_a_conflict_and_ours_stands(tmp_path: Path) -> None:
    files = [tmp_path / name for name in ("base.cadena", "ours.cadena", "theirs.cadena")]
    for file, how in zip(files, ("push", "modal", "popover"), strict=True):
        file.write_text(encode(with_link(small_app(), "room", how=how)))
    code, text = call("merge", *map(str, files))
    assert code == 1
    assert "conflict at links[room].how: ours 'modal', theirs 'popover'" in text
    app = decode(files[1].read_bytes(), "x")
    assert next(each for each in app.links if each.id == "room").how == "modal"
    files[2].write_text("{}")
    assert call("merge", *map(str, files))[0] == 2
