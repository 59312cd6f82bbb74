"""What is handed over: readable, complete, refused by name, and never over somebody's own work."""

from __future__ import annotations

import gzip
import json
import re
import subprocess
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from builders import DEMO, demo, records_of, small_app, small_records, with_link
from cadena.cli.main import main
from cadena.deliver.bundle import bundled
from cadena.deliver.cannot import cannot_be_carried
from cadena.deliver.delivery import LEDGER, deliver, known_of, planned
from cadena.deliver.described import described
from cadena.deliver.joined_lines import joined_lines
from cadena.deliver.literal import identifier, literal
from cadena.deliver.taken_along import taken_along
from cadena.deliver.web_app import web_app
from cadena.deliver.wishes import WebWishes, wished
from cadena.engine.wired import WiredApp
from cadena.model.app import App, FromRecord, ListScreen
from cadena.model.listing import Listing
from cadena.model.problem import Problem
from cadena.model.source import Service, Source
from kit_traces import NODE, needs_node

CRESTA = DEMO / "cresta"


def states(files: dict[str, bytes], folder: Path) -> dict[str, str]:
    return {each.path: each.state for each in deliver(files, folder)}


def test_a_delivered_app_says_what_is_wired(tmp_path: Path) -> None:
    files = web_app(demo(), CRESTA)
    hut = files["screens/hut.js"].decode()
    assert hut.startswith("// hut: a detail.\n\nexport const hut = {")
    assert "    { block: 'picture', id: 'photo', field: 'photo' },\n" in hut
    assert "  whenGone: 'next',\n  address: '/huts/{hut}',\n};\n" in hut
    assert "import { hut } from './screens/hut.js';" in files["app.js"].decode()
    assert "import { routesScreen } from" in files["app.js"].decode()
    assert b'"name":"Morenna"' in files["records/huts.json"]
    assert files["pictures/mor.png"] == (CRESTA / "pictures" / "mor.png").read_bytes()
    assert "Content-Security-Policy" in files["index.html"].decode()


@needs_node
def test_the_modules_say_the_very_app(tmp_path: Path) -> None:
    deliver(web_app(demo(), CRESTA), tmp_path)
    (tmp_path / "package.json").write_text('{"type": "module"}')
    script = "import('./app.js').then(({ app }) => console.log(JSON.stringify(app)))"
    done = subprocess.run(
        [str(NODE), "-e", script], cwd=tmp_path, capture_output=True, text=True, check=True
    )
    said = {name: value for name, value in json.loads(done.stdout).items() if value}
    assert set(said.pop("icons")) == {each.icon for each in demo().app.sections if each.icon}
    assert said == json.loads(json.dumps(described(demo())))


PLAIN = st.recursive(
    st.none() | st.booleans() | st.integers(-(2**53), 2**53) | st.text(max_size=30),
    lambda inner: st.lists(inner, max_size=5) | st.dictionaries(st.text(max_size=9), inner),
    max_leaves=12,
)


@pytest.mark.long
@needs_node
@given(st.lists(PLAIN, min_size=60, max_size=60))
@settings(max_examples=4)
def test_a_literal_is_read_as_it_was(values: list[Any]) -> None:
    script = f"console.log(JSON.stringify({literal(values)}))"
    done = subprocess.run(
        [str(NODE), "-"], input=script.encode("utf-8", "surrogatepass"), capture_output=True
    )
    assert done.returncode == 0, done.stderr
    assert json.loads(done.stdout) == values


def test_a_literal_breaks_where_it_is_too_long() -> None:
    assert literal({"id": "a", "on-row": [1, 2.0, True]}) == "{ id: 'a', 'on-row': [1, 2, true] }"
    long = literal({"fields": ["a" * 30] * 5})
    assert long.splitlines()[0] == "{"
    assert max(map(len, long.splitlines())) <= 100


def test_names_are_made_identifiers() -> None:
    taken: set[str] = set()
    names = ["stay-form", "Stay form", "class", "2nd", "日本", "a b", "a-b"]
    made = [identifier(each, taken) for each in names]
    assert made == [
        *("stayForm", "stayFormScreen", "classScreen", "screen2nd", "screen", "aB", "aBScreen"),
    ]


def test_hostile_names_become_files_of_their_own() -> None:
    app = small_app()
    names = ["../up", "CON", "hut ", "Hut", "日本", "</script>"]
    screens = tuple(ListScreen(id=name, title=name, rows=Listing(source="huts")) for name in names)
    wired = WiredApp(replace(app, screens=(*app.screens, *screens)), small_records(3))
    files = web_app(wired, CRESTA)
    made = [name for name in files if name.startswith("screens/")]
    assert len({name.lower() for name in made}) == len(app.screens) + len(names)
    assert all(".." not in name and name.isascii() for name in made)
    assert not any(b"</script>" in content for name, content in files.items() if name in made)


def test_what_cannot_be_carried_is_refused_by_name(tmp_path: Path) -> None:
    link = small_app().links[0].id
    app = with_link(small_app(), link, arguments=(FromRecord(parameter="hut"),))
    large = [{"id": "a", "name": "x", "size": 2**60}]
    source = Source(id="big", file="big.json", key="id")
    wired = WiredApp(
        replace(app, sources=(*app.sources, source)),
        {**small_records(3), "big": records_of("big", large)},
    )
    said = "\n".join(map(str, cannot_be_carried(wired)))
    assert f"links[{link}].arguments[hut]" in said
    assert "sources[big].fields[size]" in said
    with pytest.raises(Problem, match="whole record"):
        web_app(wired, tmp_path)
    token = Service(list="https://huts.example/huts", headers={"auth": "Bearer ${CADENA_TOKEN}"})
    sources = tuple(replace(e, served="service", service=token) for e in small_app().sources)
    secret = WiredApp(replace(small_app(), sources=sources), small_records(3))
    assert any("environment" in str(each) for each in cannot_be_carried(secret))
    assert any("no section" in str(e) for e in cannot_be_carried(WiredApp(App(), {})))


def test_delivered_again_nothing_changed_by_hand_is_lost(tmp_path: Path) -> None:
    first = {"app.js": b"one\n", "look.css": b"red\n", "kit/a.js": b"a\n", "old.js": b"old\n"}
    assert set(states(first, tmp_path).values()) == {"new"}
    assert set(states(first, tmp_path).values()) == {"as it was"}
    (tmp_path / "look.css").write_bytes(b"blue\n")
    (tmp_path / "app.js").write_bytes(b"mine\n")
    then = {"app.js": b"two\n", "look.css": b"red\n", "kit/a.js": b"b\n"}
    plan = {each.path: each for each in planned(then, tmp_path)}
    assert (tmp_path / "kit" / "a.js").read_bytes() == b"a\n"
    assert plan["app.js"].difference.splitlines()[-2:] == ["-mine", "+two"]
    assert states(then, tmp_path) == {
        "app.js": "both",
        "look.css": "yours",
        "kit/a.js": "changed",
        "old.js": "gone",
    }
    assert (tmp_path / "app.js").read_bytes() == b"mine\n"
    assert (tmp_path / "app.delivered.js").read_bytes() == b"two\n"
    assert (tmp_path / "look.css").read_bytes() == b"blue\n"
    assert (tmp_path / "kit" / "a.js").read_bytes() == b"b\n"
    assert not (tmp_path / "old.js").exists()


def lines(*changed: tuple[int, str]) -> bytes:
    """Nine lines, some of them otherwise."""
    said = {at: f"line {at}" for at in range(1, 10)} | dict(changed)
    return "".join(f"{each}\n" for each in said.values()).encode()


def test_changes_by_hand_are_joined_with_what_is_new(tmp_path: Path) -> None:
    states({"app.js": lines()}, tmp_path)
    (tmp_path / "app.js").write_bytes(lines((2, "mine")))
    assert states({"app.js": lines((8, "new"))}, tmp_path) == {"app.js": "joined"}
    assert (tmp_path / "app.js").read_bytes() == lines((2, "mine"), (8, "new"))
    assert states({"app.js": lines((8, "new"))}, tmp_path) == {"app.js": "yours"}
    assert states({"app.js": lines((8, "newer"))}, tmp_path) == {"app.js": "joined"}
    assert (tmp_path / "app.js").read_bytes() == lines((2, "mine"), (8, "newer"))


def test_what_cannot_be_joined_is_told_until_it_is(tmp_path: Path) -> None:
    states({"app.js": lines()}, tmp_path)
    (tmp_path / "app.js").write_bytes(lines((2, "mine")))
    theirs, beside = lines((2, "new")), tmp_path / "app.delivered.js"
    for _ in range(2):
        assert states({"app.js": theirs}, tmp_path) == {"app.js": "both"}
        assert beside.read_bytes() == theirs
        assert (tmp_path / "app.js").read_bytes() == lines((2, "mine"))
    # Told of a newer one as well, against what the change by hand started from.
    assert states({"app.js": lines((2, "new"), (5, "more"))}, tmp_path) == {"app.js": "both"}
    (tmp_path / "app.js").write_bytes(lines((2, "mine and new"), (5, "more")))
    beside.unlink()
    assert states({"app.js": lines((2, "new"), (5, "more"))}, tmp_path) == {"app.js": "yours"}
    then = lines((2, "new"), (5, "more"), (9, "last"))
    assert states({"app.js": then}, tmp_path) == {"app.js": "joined"}
    assert (tmp_path / "app.js").read_bytes() == lines(
        (2, "mine and new"), (5, "more"), (9, "last")
    )


def test_what_was_put_beside_goes_once_it_is_joined(tmp_path: Path) -> None:
    states({"app.js": lines()}, tmp_path)
    (tmp_path / "app.js").write_bytes(lines((2, "mine")))
    states({"app.js": lines((2, "new"))}, tmp_path)
    (tmp_path / "app.js").write_bytes(lines((2, "new"), (4, "mine")))
    assert states({"app.js": lines((2, "new"))}, tmp_path) == {"app.js": "yours"}
    assert not (tmp_path / "app.delivered.js").exists()


def test_a_file_that_nothing_uses_is_told_and_stays(tmp_path: Path) -> None:
    states({"app.js": b"a\n", "screens/old.js": b"old\n"}, tmp_path)
    (tmp_path / "screens" / "old.js").write_bytes(b"mine\n")
    for _ in range(2):
        assert states({"app.js": b"a\n"}, tmp_path)["screens/old.js"] == "unused"
    assert (tmp_path / "screens" / "old.js").read_bytes() == b"mine\n"


def test_what_is_yours_to_write_is_only_put_where_there_is_none(tmp_path: Path) -> None:
    states({"extend.js": b"nothing\n"}, tmp_path)
    (tmp_path / "extend.js").write_bytes(b"mine\n")
    assert states({"extend.js": b"other\n"}, tmp_path) == {"extend.js": "yours"}
    assert (tmp_path / "extend.js").read_bytes() == b"mine\n"


@given(
    base=st.lists(st.sampled_from("abc"), max_size=6),
    mine=st.lists(st.sampled_from("abcx"), max_size=6),
    theirs=st.lists(st.sampled_from("abcy"), max_size=6),
)
def test_joining_takes_each_side_and_is_the_same_from_either(
    base: list[str], mine: list[str], theirs: list[str]
) -> None:
    of, left, right = ("".join(f"{each}\n" for each in some) for some in (base, mine, theirs))
    assert joined_lines(of, left, of) == left
    assert joined_lines(of, of, right) == right
    assert joined_lines(of, left, left) == left
    assert joined_lines(of, left, right) == joined_lines(of, right, left)


@pytest.mark.long
def test_a_conflict_is_told_by_the_plan_with_exit_1(tmp_path: Path) -> None:
    run, to = CliRunner(), tmp_path / "to"
    arguments = ["deliver", str(CRESTA), "--to", str(to)]
    run.invoke(main, arguments)
    page = to / "index.html"
    known = page.read_text()
    page.write_text(known.replace("no-referrer", "same-origin"))
    assert run.invoke(main, [*arguments, "--plan"]).exit_code == 0
    bundle = [*arguments, "--bundle"]
    done = run.invoke(main, bundle)
    assert "index.html: yours, joined with what is new" in done.output
    assert "bundle.js" in page.read_text()
    assert "same-origin" in page.read_text()
    page.write_text(page.read_text().replace('src="bundle.js"', 'src="mine.js"'))
    plan = run.invoke(main, [*arguments, "--plan", "--no-bundle"])
    assert plan.exit_code == 1
    assert "not joined" in plan.output


def test_what_was_chosen_stays_chosen_and_a_path_is_one(tmp_path: Path) -> None:
    run, to = CliRunner(), tmp_path / "to"
    arguments = ["deliver", str(CRESTA), "--to", str(to)]
    run.invoke(main, [*arguments, "--addresses", "path", "--under", "of/huts"])
    again = run.invoke(main, arguments)
    assert "no changes" in again.output
    assert '<base href="/of/huts/">' in (to / "index.html").read_text()
    wrong = run.invoke(main, [*arguments, "--under", "a b"])
    assert wrong.exit_code == 2
    assert "cannot lie under" in wrong.output
    (to / LEDGER).write_text('{"files": {}, "web": {"under": "x"}}')
    assert wished(known_of(to).web) == WebWishes()


def test_a_module_that_cannot_be_joined_is_told() -> None:
    files = web_app(demo(), CRESTA)
    for text, told in (
        (b"export let a = 1;\n", "cannot be joined"),
        (b"import x from 'elsewhere';\n", "does not lie beside"),
        (b"import { x } from './none.js';\n", "not among the files"),
        (b"import './start.js';\n", "in a circle"),
    ):
        with pytest.raises(Problem, match=told):
            bundled({**files, "extend.js": text})


def test_records_that_look_like_places_are_only_records() -> None:
    rows = [{"id": "h0", "name": "{early-js} {title} <b>", "region": "{base}"}]
    wired = WiredApp(
        small_app(name="{rows}"), {**small_records(2), "huts": records_of("huts", rows)}
    )
    page = web_app(wired, CRESTA)["index.html"].decode()
    assert page.count("{early-js} {title} &lt;b&gt;") == 1
    assert "<title>{rows}</title>" in page
    assert page.count("classList.add") == 1


def test_the_manifest_is_one_and_its_icons_are_there() -> None:
    files = web_app(demo(), CRESTA)
    said = json.loads(files["app.webmanifest"])
    assert said["name"] == "Cresta Huts"
    for icon in said["icons"]:
        assert icon["src"] in files


def test_a_folder_that_is_not_ours_is_left_alone(tmp_path: Path) -> None:
    (tmp_path / "app.js").write_bytes(b"theirs\n")
    assert states({"app.js": b"ours\n"}, tmp_path) == {"app.js": "both"}
    assert (tmp_path / "app.js").read_bytes() == b"theirs\n"
    outside = tmp_path / "outside"
    outside.mkdir()
    inside = tmp_path / "to"
    inside.mkdir()
    (inside / "kit").symlink_to(outside)
    with pytest.raises(Problem, match="outside the folder"):
        deliver({"kit/a.js": b"a"}, inside)
    (inside / LEDGER).write_text("{")
    with pytest.raises(Problem, match="does not tell"):
        deliver({"b.js": b"b"}, inside)
    (tmp_path / "file").write_text("")
    with pytest.raises(Problem, match="no folder"):
        deliver({"b.js": b"b"}, tmp_path / "file")


def test_a_ledger_that_leads_out_removes_nothing(tmp_path: Path) -> None:
    victim = tmp_path / "victim"
    victim.write_text("keep")
    to = tmp_path / "to"
    deliver({"a.js": b"a"}, to)
    known = json.loads((to / LEDGER).read_text())["files"]["a.js"]
    (to / LEDGER).write_text(json.dumps({"files": {"../victim": known, "/etc/x": known}}))
    deliver({"a.js": b"a"}, to)
    assert victim.read_text() == "keep"


def test_deliver_from_the_command_line(tmp_path: Path) -> None:
    to = tmp_path / "to"
    run = CliRunner()
    arguments = ["deliver", str(CRESTA), "--as", "web", "--to", str(to)]
    planned_only = run.invoke(main, [*arguments, "--plan"])
    assert planned_only.exit_code == 0
    assert not to.exists()
    done = run.invoke(main, arguments)
    assert done.exit_code == 0, done.output
    assert "new" in done.output
    (to / "screens" / "hut.js").write_text("// mine\n")
    again = run.invoke(main, arguments)
    assert "screens/hut.js: yours, left as it is" in again.output
    assert (to / "screens" / "hut.js").read_text() == "// mine\n"
    broken = run.invoke(main, ["deliver", str(DEMO / "cresta-broken"), "--to", str(tmp_path / "b")])
    assert broken.exit_code == 2
    assert "cannot be carried over" in broken.output
    assert not (tmp_path / "b").exists()


def many_boats(count: int) -> WiredApp:
    app = small_app()
    huts = [{"id": f"h{n}", "name": f"Hut {n}", "region": "r"} for n in range(count)]
    return WiredApp(app, {**small_records(2), "huts": records_of("huts", huts)})


def test_no_more_records_are_taken_along_than_is_said_and_they_come_in_files(
    tmp_path: Path,
) -> None:
    whole = many_boats(12_001)
    app, left = taken_along(whole)
    assert left == ("huts: the first 5,000 of 12,001 records are taken along",)
    assert len(app.as_read["huts"]) == 5_000
    assert app.as_read["rooms"] is whole.as_read["rooms"]
    assert taken_along(whole, 12_001) == (whole, ())
    pages = [name for name in web_app(whole, tmp_path) if name.startswith("records/huts")]
    assert pages == ["records/huts.json", "records/huts.2.json", "records/huts.3.json"]
    held = [json.loads(web_app(whole, tmp_path)[page]) for page in pages]
    assert [len(each) for each in held] == [5_000, 5_000, 2_001]
    assert held[2][-1]["id"] == "h12000"


def test_what_a_bundle_weighs_is_said_as_it_is() -> None:
    files = web_app(demo(), CRESTA)
    script = len(gzip.compress(bundled(files)["bundle.js"], 9))
    docs = (Path(__file__).parents[1] / "docs" / "delivering.md").read_text()
    said = re.search(r"that is (\d+) kB packed by gzip", docs)
    assert said is not None
    assert abs(script / 1000 - int(said[1])) < 2
