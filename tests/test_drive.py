"""Delivered apps in a real browser: driven through walks, and held against what is wired."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from threading import Thread
from typing import Any

import pytest
from click.testing import CliRunner
from msgspec.structs import replace

from builders import DEMO, demo, records_of, with_screen
from cadena.cli.main import main
from cadena.deliver.delivery import deliver
from cadena.deliver.drive.folder_server import served
from cadena.deliver.drive.reading import read
from cadena.deliver.drive.walks_driven import (
    Outcome,
    Plan,
    drive_all,
    events_of,
    random_walk,
)
from cadena.deliver.drive.webdriver import Browser, found
from cadena.deliver.web_app import web_app, web_files
from cadena.deliver.wishes import WebWishes
from cadena.engine import events as do
from cadena.engine.rules.window_change import window_of
from cadena.engine.wired import WiredApp
from cadena.model.app import (
    App,
    Arrangement,
    DetailScreen,
    FromField,
    Link,
    ListScreen,
    Parameter,
    RowKind,
    Section,
    Trigger,
)
from cadena.model.blocks import AddressBlock, BodyBlock, FactsBlock, PictureBlock
from cadena.model.edits.row_kinds import with_kind
from cadena.model.listing import Listing, Row, Sort
from cadena.model.problem import Problem
from cadena.model.source import Field, Service, Source
from cadena.model.windows import NAMED
from cadena.runs.walks.walk import parse_window, read_walk
from cadena.serve.serve import Served, server
from cadena.sources.open_project import open_project
from cadena.sources.scaffold import Wishes, new_project
from kit_traces import ROOT

CRESTA = DEMO / "cresta"
BY_HAND = Path(__file__).parent / "by_hand"
NODE_MODULES = ROOT / ".venv" / "node" / "node_modules"
ESCAPE = "\ue00c"
"""The key, as W3C WebDriver names it."""
WALKS = int(os.environ.get("CADENA_DRIVEN_WALKS", 0))
"""Random walks that are driven in the long form, beside all of the demo in all windows."""


def _is_there() -> bool:
    try:
        found()
    except Problem:
        return False
    return True


pytestmark = pytest.mark.skipif(not _is_there(), reason="Chromium and its driver are not there")
SIZES = {each.name: window_of(each) for each in NAMED}


def plan(walk: str, window: str) -> Plan:
    events = events_of(read_walk(CRESTA / "walks" / f"{walk}.json"))
    return Plan(walk, events, window, SIZES[window])


@pytest.fixture(scope="module")
def delivered(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo as it is delivered."""
    to = tmp_path_factory.mktemp("cresta")
    deliver(web_app(demo(), CRESTA), to)
    return to


def deliver_bundled(app: WiredApp, project: Path, to: Path) -> None:
    """An app as it is delivered in one script, which comes soonest."""
    wishes = WebWishes(bundled=True)
    deliver(web_files(app, project, to, wishes), to, wishes)


@pytest.fixture(scope="session")
def bundled(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo as it is delivered in one script, which comes soonest."""
    to = tmp_path_factory.mktemp("cresta")
    deliver_bundled(demo(), CRESTA, to)
    return to


@pytest.fixture
def page(bundled: Path, tab: Browser) -> Iterator[Browser]:
    """The demo in a browser, as a person has it: nobody drives it."""
    with served(bundled) as at:
        tab.size(360, 780)
        tab.go_to(f"{at}index.html")
        shown(tab, "huts")
        yield tab


FIRST_ROW = "document.querySelector('[data-list=\"\"] .contents')"


def shown(made: Browser, screen: str) -> Any:
    """What the page shows, once it shows a screen last."""
    return until(
        lambda: (now := read(made)) and now.panes and now.panes[-1].screen == screen and now
    )


def until(holds: Callable[[], Any], most: float = 5.0) -> Any:
    end = time.monotonic() + most
    while not (value := holds()):
        assert time.monotonic() < end, "it did not come to be so"
        time.sleep(0.02)
    return value


def driven(app: WiredApp, folder: Path, *plans: Plan, patience: float = 3.0) -> list[Outcome]:
    with served(folder) as at:
        return list(drive_all(app, f"{at}index.html", plans, patience=patience))


def assert_as_wired(outcomes: list[Outcome]) -> None:
    for each in outcomes:
        said = "; ".join(map(str, each.differences))
        assert each.differs is None, f"{each.plan.walk} at {each.plan.window}: {said}"


@pytest.mark.long
def test_the_walks_of_the_demo_do_what_was_wired(delivered: Path) -> None:
    """Each walk in a window of its own, and each window with a walk; in the long form all."""
    names = sorted(each.stem for each in (CRESTA / "walks").glob("*.json"))
    pairs = list(zip(names, SIZES, strict=True))
    if WALKS:
        pairs = [(name, window) for name in names for window in SIZES]
    outcomes = driven(demo(), delivered, *(plan(*pair) for pair in pairs))
    assert_as_wired(outcomes)
    assert sum(each.steps for each in outcomes) > 100


@pytest.mark.long
def test_random_walks_do_what_was_wired(tmp_path: Path) -> None:
    deliver_bundled(demo(), CRESTA, tmp_path)
    plans = []
    for number in range(max(2, WALKS)):
        window = list(SIZES)[number % len(SIZES)]
        events = random_walk(demo(), SIZES[window], 7_000 + number, 20)
        plans.append(Plan(f"random {number}", events, window, SIZES[window]))
    assert_as_wired(driven(demo(), tmp_path, *plans))


LEGS: dict[str, Any] = {"screen": "route", "list": "legs"}
IN_COLUMNS = (
    *(do.GoTo(section="routes"), do.Choose(screen="routes", key="r04")),
    *(do.TurnPage(screen="route", to="page-legs"), do.Scroll(screen="route", to=150)),
    *(do.SortBy(**LEGS, by=(Sort(field="climb"),)),),
    *(do.SortBy(**LEGS, by=(Sort(field="climb", descending=True),)),),
    *(do.Move(**LEGS, to="end"), do.Move(**LEGS, to="home"), do.Turn()),
    *(do.Refresh(source="legs", gone=("r04-1",)), do.Kill(), do.Restore(), do.Back()),
    *(do.Scroll(screen="routes", to=120),),
)
"""Legs in columns, sorted by their heads, on pages that scroll; counts that change."""


@pytest.mark.long
def test_7_5_and_13_columns_and_what_is_told_of_others_in_a_browser(tmp_path: Path) -> None:
    deliver_bundled(demo(), CRESTA, tmp_path)
    assert_as_wired(
        driven(demo(), tmp_path, *(Plan("legs", IN_COLUMNS, n, s) for n, s in SIZES.items()))
    )


@pytest.mark.long
def test_2_7_rows_open_the_screen_of_their_kind_in_a_browser(tmp_path: Path) -> None:
    plain = demo()
    link = next(each for each in plain.app.links if each.id == "routes-to-route")
    types = {name: dict(each.types) for name, each in plain.as_read.items()}
    hard = RowKind(field="grade", constant="hard")
    app, opens = with_kind(plain.app, types, link, hard)
    app = with_screen(app, opens.to, address="/hard/{route}")
    wired = WiredApp(app, plain.as_read)
    deliver_bundled(wired, CRESTA, tmp_path)
    events = (
        *(do.GoTo(section="routes"), do.Choose(screen="routes", key="r03"), do.Turn()),
        *(do.Choose(screen="routes", key="r02"), do.Move(screen="routes", to="down")),
        *(do.Kill(), do.Restore(), do.Back(), do.Choose(screen="routes", key="r07"), do.Back()),
        do.Visit(address="/hard/r03"),
    )
    assert_as_wired(
        driven(wired, tmp_path, *(Plan("kinds", events, n, SIZES[n]) for n in ("Pocket", "Desk")))
    )


@pytest.mark.long
def test_17_back_and_forward_in_a_browser_are_the_apps(tmp_path: Path) -> None:
    plain = demo().app
    app = WiredApp(replace(plain, platform=replace(plain.platform, forward=True)), demo().as_read)
    deliver_bundled(app, CRESTA, tmp_path)
    there = (do.Choose(screen="huts", key="alp"), do.Press(screen="hut", button="book"))
    back = (do.Back(), do.Back(), do.Forward(), do.Turn(), do.Forward(), do.Back())
    again = (do.Back(), do.Choose(screen="huts", key="mor"), do.Back(), do.Forward())
    plans = [Plan("forward", (*there, *back, *again), "Pocket", SIZES["Pocket"])]
    # A press that makes an entry of the browser's own forgets nothing that is ahead.
    menu = (do.Choose(screen="huts", key="alp"), do.Back(), do.OpenSections())
    kept = (*menu, do.GoTo(section="huts"), do.Forward(), do.Back(), do.Forward())
    plans.append(Plan("sections opened between", kept, "Wrist", SIZES["Wrist"]))
    address = (do.Visit(address="/rooms/3"), *(do.Back(),) * 2, *(do.Forward(),) * 2)
    plans.append(Plan("from an address", address, "Pocket", SIZES["Pocket"]))
    for number, window in enumerate(list(SIZES)[: max(1, WALKS // 4)]):
        events = random_walk(app, SIZES[window], 9_000 + number, 20)
        plans.append(Plan(f"random {number}", events, window, SIZES[window]))
    done = driven(app, tmp_path, *plans)
    assert_as_wired(done)


@pytest.mark.long
def test_16_the_next_and_the_one_before_are_pressed_in_a_browser(tmp_path: Path) -> None:
    plain = demo().app
    screens = tuple(
        replace(each, neighbours=True) if isinstance(each, DetailScreen) else each
        for each in plain.screens
    )
    app = WiredApp(replace(plain, screens=screens), demo().as_read)
    deliver_bundled(app, CRESTA, tmp_path)
    onward, before = do.Neighbour(by=1), do.Neighbour(by=-1)
    events = (
        *(do.Choose(screen="huts", key="alp"), onward, onward, before),
        *(do.Scroll(by=300.0, screen="hut"), onward, do.Back(), do.GoTo(section="routes")),
        *(do.Choose(screen="routes", key=1), onward, do.TurnPage(to="page-legs"), onward),
    )
    sizes = [(name, SIZES[name]) for name in ("Wrist", "Slate")]
    plans = [Plan("neighbours", events, name, size) for name, size in sizes]
    for number, (name, size) in enumerate(sizes[: max(1, WALKS // 4)]):
        events = random_walk(app, size, 9_500 + number, 20)
        plans.append(Plan(f"random {number}", events, name, size))
    assert_as_wired(driven(app, tmp_path, *plans))


@pytest.mark.long
def test_14_and_15_rows_are_picked_and_chosen_for_a_field_in_a_browser(tmp_path: Path) -> None:
    app = demo()
    deliver_bundled(app, CRESTA, tmp_path)
    key = int(app.as_read["stays"].key_at(3))
    others = [int(app.as_read["stays"].key_at(at)) for at in (4, 5)]
    picking = (
        *(do.GoTo(section="stays"), do.Wait(ms=400), do.Pick(key=key, screen="stays")),
        *(do.Move(to="down", screen="stays"), do.Choose(key=others[0], screen="stays")),
        *(do.PickTo(key=others[1], screen="stays"), do.Search(text="e", screen="stays")),
        *(do.LetGo(screen="stays"), do.PickAll(screen="stays"), do.Back()),
        *(do.Pick(key=key, screen="stays"), do.ActOnPicked(action="arrive")),
        *(do.PickAll(screen="stays"), do.ActOnPicked(action="cancel"), do.Decide(yes=True)),
        *(do.Undo(), do.Pick(key=key, screen="stays"), do.Kill(), do.Restore()),
    )
    choosing = (
        *(do.GoTo(section="stays"), do.Wait(ms=400), do.Press(button="new")),
        *(do.Type(field="guest", to="Ada"), do.OpenField(field="hut")),
        *(do.Search(text="mor", screen="choose-hut"), do.Choose(key="mor", screen="choose-hut")),
        *(do.OpenField(field="hut"), do.Back(), do.OpenField(field="hut"), do.Kill()),
        *(do.Restore(), do.Choose(key="alp", screen="choose-hut"), do.Save()),
    )
    marked = (
        *(do.SetValue(value="saved", to=("alp", "fon", "mor")), do.GoTo(section="saved")),
        *(do.Pick(key="mor", screen="saved"), do.PickTo(key="alp", screen="saved")),
        *(do.ActOnPicked(action="forget"), do.GoTo(section="huts")),
    )
    covered = (
        *(do.SetValue(value="saved", to=("alp", "fon")), do.GoTo(section="saved")),
        *(do.Choose(key="alp", screen="saved"), do.Choose(key="r12-1", list="passing")),
        *(do.PickAll(screen="saved"), do.Back(), do.Back()),
    )
    sizes = [(name, SIZES[name]) for name in ("Wrist", "Slate", "Desk")]
    walks = {"picking": picking, "choosing": choosing, "marked": marked}
    plans = [
        Plan(walk, events, name, size) for walk, events in walks.items() for name, size in sizes
    ]
    plans.append(Plan("what back shows is covered by what is picked", covered, *sizes[-1]))
    assert_as_wired(driven(app, tmp_path, *plans))


def changed(delivered: Path, to: Path, file: str, old: str, new: str) -> Path:
    """The delivered app with one line changed by hand."""
    shutil.copytree(delivered, to)
    text = (to / file).read_text()
    assert text.count(old) == 1, f"{text.count(old)} times {old!r}"
    (to / file).write_text(text.replace(old, new))
    return to


MISTAKES = {
    "a row link carries the position": (
        "routes.js",
        "trigger: { screen: 'huts' },\n      to: 'hut',\n      how: 'beside',\n"
        "      arguments: [{ from: 'field', parameter: 'hut', field: 'id' }],",
        "trigger: { screen: 'huts' },\n      to: 'hut',\n      how: 'beside',\n"
        "      arguments: [{ from: 'position', parameter: 'hut', convert: true }],",
        (do.Choose(screen="huts", key="alp"),),
        "choose",
    ),
    "back skips a screen": (
        "kit/page/page.js",
        "        this.send({ do: 'back' });",
        "        for (const _ of [1, 2]) this.send({ do: 'back' });",
        (
            do.Choose(screen="huts", key="alp"),
            do.Choose(screen="hut", list="rooms", key=1),
            do.Back(),
        ),
        "back",
    ),
    "a scroll is not restored": (
        "kit/page/page.js",
        "&& Math.abs(element.scrollTop - to) >= 1)",
        "&& Math.abs(element.scrollTop - to) >= 1e9)",
        (
            do.Scroll(screen="huts", to=400.0),
            do.GoTo(section="routes"),
            do.GoTo(section="huts"),
        ),
        "section",
    ),
    "a draft is lost on reload": (
        "screens/stay-form.js",
        "  kind: 'form',\n",
        "  kind: 'form',\n  keep: { draft: 'entry' },\n",
        (
            do.GoTo(section="stays"),
            do.Press(screen="stays", button="new"),
            do.Type(screen="stay-form", field="guest", to="Ada"),
            do.Kill(),
            do.Restore(),
        ),
        "restore",
    ),
}


@pytest.mark.long
@pytest.mark.parametrize("mistake", MISTAKES)
def test_one_line_changed_by_hand_is_caught_at_the_right_step(
    delivered: Path, tmp_path: Path, mistake: str
) -> None:
    file, old, new, events, at = MISTAKES[mistake]
    app = demo()
    window = SIZES["Pocket"]
    sound = Plan(mistake, _existing(app, events), "Pocket", window)
    assert_as_wired(driven(app, delivered, sound))
    folder = changed(delivered, tmp_path / "app", file, old, new)
    (outcome,) = driven(app, folder, sound, patience=1.0)
    assert outcome.differs is not None
    assert outcome.differs.event is not None
    assert outcome.differs.event.__struct_config__.tag == at
    assert outcome.differences


BREAKS = {
    "an error that nothing catches": (
        "kit/page/page.js",
        "    this.steps += 1;\n",
        "    this.steps += 1;\n    setTimeout(() => { throw new Error('of its own'); });\n",
        "of its own",
    ),
    "a file that does not come": (
        "kit/page/page.js",
        "    this.steps += 1;\n",
        "    this.steps += 1;\n    fetch('no-such.json');\n",
        "no-such.json",
    ),
}


@pytest.mark.long
@pytest.mark.parametrize("fault", BREAKS)
def test_a_page_that_goes_wrong_is_not_as_wired_whatever_it_shows(
    delivered: Path, tmp_path: Path, fault: str
) -> None:
    file, old, new, said = BREAKS[fault]
    folder = changed(delivered, tmp_path / "app", file, old, new)
    events = (do.Choose(screen="huts", key="alp"), do.Back())
    (outcome,) = driven(demo(), folder, Plan(fault, events, "Pocket", SIZES["Pocket"]))
    assert outcome.differs is not None
    assert "an error of the page" in str(outcome.differences[0])
    assert said in str(outcome.differences[0])


@pytest.mark.long
def test_a_page_that_never_answers_is_told_with_its_step(
    delivered: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(
        "cadena.deliver.drive.webdriver.TIMEOUTS", {"script": 800, "pageLoad": 5_000}
    )
    monkeypatch.setattr("cadena.deliver.drive.webdriver.ANSWERS_WITHIN", 4.0)
    old = "    this.steps += 1;\n"
    folder = changed(delivered, tmp_path / "app", "kit/page/page.js", old, f"{old}    for (;;);\n")
    walk = Plan("hangs", (do.Choose(screen="huts", key="alp"),), "Pocket", SIZES["Pocket"])
    begun = time.monotonic()
    with pytest.raises(Problem, match="step 1, choose"):
        driven(demo(), folder, walk)
    assert time.monotonic() - begun < 40


def _existing(app: WiredApp, events: tuple[do.Event, ...]) -> tuple[do.Event, ...]:
    """The events with a room that the hut has."""
    rooms = app.as_read["rooms"]
    room = next(rooms.key_at(at) for at in range(len(rooms)) if rooms.record(at)["hut"] == "alp")
    return tuple(
        replace(each, key=room) if isinstance(each, do.Choose) and each.list == "rooms" else each
        for each in events
    )


@pytest.mark.long
def test_a_project_of_other_data_is_driven(tmp_path: Path) -> None:
    orchards = [f"o{at},Acre {at},{1.5 * at},{2000 + at}-03-1{at % 9}" for at in range(9)]
    trees = [
        {
            "id": at,
            "orchard": f"o{at % 9}",
            "kind": ("apple", "pear")[at % 2],
            "seen": f"2026-0{1 + at % 9}-11T1{at % 9}:30:00+02:00",
            "tags": ["old", "leaning"][: at % 3],
        }
        for at in range(40)
    ]
    data = tmp_path / "orchards.csv", tmp_path / "trees.json"
    data[0].write_text("\n".join(["orchard,name,hectares,planted", *orchards]))
    data[1].write_text(json.dumps(trees))
    wishes = Wishes(labels={"trees": "seen"})
    new_project(tmp_path / "project", data, "Orchards", wishes=wishes)
    project = open_project(tmp_path / "project")
    assert any(field.refers for field in project.app.sources[1].fields)
    app = WiredApp(project.app, project.records)
    deliver_bundled(app, project.folder, tmp_path / "app")
    plans = [
        Plan(f"random {seed}", random_walk(app, SIZES[window], seed, 15), window, SIZES[window])
        for seed, window in enumerate(("Slate", "Fold"), 4)
    ]
    # Back leads to a tree, which is said by its time.
    events = (
        do.GoTo(section="trees"),
        do.Choose(key=3),
        do.OpenFact(fact="orchard"),
        do.Choose(key=12, list="trees"),
        do.Back(),
        do.Back(),
    )
    plans.append(Plan("back to a time", events, "Pocket", SIZES["Pocket"]))
    outcomes = driven(app, tmp_path / "app", *plans)
    assert sum(each.steps for each in outcomes) > 30
    assert_as_wired(outcomes)


def boats() -> WiredApp:
    """A list of boats and their detail, as somebody wrote it by hand."""
    source = Source(
        id="boats",
        file="boats.json",
        key="id",
        fields=(
            Field(name="id", type="whole number"),
            Field(name="name"),
            Field(name="length", type="whole number", unit="m"),
        ),
    )
    rows = json.loads(_boats())
    app = App(
        name="Boats",
        start="boats",
        sources=(source,),
        screens=(
            ListScreen(
                id="boats",
                title="Boats",
                rows=Listing(source="boats", row=Row(title="{name}"), sort=(Sort(field="name"),)),
            ),
            DetailScreen(
                id="boat",
                title="{name}",
                source="boats",
                key="boat",
                parameters=(Parameter(name="boat", type="whole number", key_of="boats"),),
                blocks=(FactsBlock(id="facts", fields=("length",)),),
                address="/boats/{boat}",
            ),
        ),
        links=(
            Link(
                id="open",
                trigger=Trigger(screen="boats"),
                to="boat",
                arguments=(FromField(parameter="boat", field="id"),),
            ),
        ),
        sections=(
            Section(id="boats", title="Boats", root="boats", in_bar=False, address="/boats"),
        ),
        arrangements=(),
    )

    app = replace(app, arrangements=(Arrangement(id="one", bar="none"),))
    return WiredApp(app, {"boats": records_of("boats", rows)})


def _boats() -> str:
    names = ["Tern", "Plover", "Gannet", "Curlew", "Dunlin", "Knot", "Skua", "Petrel"]
    rows = [{"id": n, "name": f"{names[n % 8]} {n:02}", "length": 6 + n % 9} for n in range(40)]
    return json.dumps(rows)


@pytest.mark.long
def test_a_page_written_by_hand_is_driven_as_well(tmp_path: Path) -> None:
    folder = tmp_path / "boats"
    shutil.copytree(BY_HAND, folder)
    (folder / "boats.json").write_text(_boats())
    events = (
        do.Scroll(to=300.0),
        do.Choose(key=12),
        do.Back(),
        do.Choose(key=0),
        do.Kill(),
        do.Restore(),
        do.Back(),
    )
    walk = tuple(each for each in events if not isinstance(each, do.Kill | do.Restore))
    outcomes = driven(boats(), folder, Plan("by hand", walk, "Pocket", SIZES["Pocket"]))
    assert_as_wired(outcomes)
    text = (folder / "boats.js").read_text()
    (folder / "boats.js").write_text(text.replace("boat: boat.id, last", "boat: 1, last"))
    (wrong,) = driven(
        boats(), folder, Plan("by hand", walk, "Pocket", SIZES["Pocket"]), patience=0.5
    )
    assert wrong.differs is not None
    assert isinstance(wrong.differs.event, do.Choose)


@contextmanager
def huts_at_a_service() -> Iterator[WiredApp]:
    """A list and its detail whose records a service has, as long as that answers."""
    records = {name: demo().as_read[name] for name in ("huts", "regions")}
    made = server(Served("huts", records, delay=5))
    Thread(target=made.serve_forever, daemon=True).start()
    at = f"http://127.0.0.1:{made.server_port}"
    service = Service(list=f"{at}/huts", item=f"{at}/huts/{{key}}", search="q")
    key = FromField(parameter="hut", field="id")
    huts = replace(
        demo().sources["huts"],
        served="service",
        service=service,
        fields=tuple(replace(each, refers=None) for each in demo().sources["huts"].fields),
    )
    app = App(
        name="Remote",
        start="huts",
        sources=(huts,),
        screens=(
            ListScreen(
                id="huts",
                title="Huts",
                rows=Listing(source="huts", row=Row(title="{name}"), search=("name",)),
            ),
            DetailScreen(
                id="hut",
                title="{name}",
                source="huts",
                key="hut",
                parameters=(Parameter(name="hut"),),
                blocks=(FactsBlock(id="facts", fields=("altitude", "free")),),
            ),
        ),
        links=(Link(id="hut", trigger=Trigger(screen="huts"), to="hut", arguments=(key,)),),
        sections=(Section(id="huts", title="Huts", root="huts"),),
    )
    yield WiredApp(app, {"huts": demo().as_read["huts"]})
    made.shutdown()


FOUND_AND_OPENED = (
    do.Scroll(to=500.0),
    do.Choose(key="mor"),
    do.Back(),
    do.Search(text="fon"),
    do.Choose(key="fon"),
    do.Back(),
)


@pytest.mark.long
def test_an_app_of_a_service_is_driven_with_its_service(tmp_path: Path) -> None:
    plans = [Plan("service", FOUND_AND_OPENED, "Pocket", SIZES["Pocket"])]
    with huts_at_a_service() as wired:
        deliver(web_app(wired, CRESTA), tmp_path / "app")
        with served(tmp_path / "app") as address:
            outcomes = list(drive_all(wired, f"{address}index.html", plans, patience=5))
    assert_as_wired(outcomes)


CUT_OFF = """
import os, sys
from pathlib import Path
from cadena.deliver.drive.webdriver import browser
with browser(Path(sys.argv[1])):
    os.kill(os.getpid(), 9)
"""


def test_a_browser_ends_with_what_began_it(tmp_path: Path) -> None:
    profile = str(tmp_path / "profile")
    ended = subprocess.run([sys.executable, "-c", CUT_OFF, profile])
    assert ended.returncode == -9

    def running() -> list[str]:
        commands = (read_or_nothing(each) for each in Path("/proc").glob("[0-9]*/cmdline"))
        return [each for each in commands if f"--user-data-dir={profile}" in each]

    until(lambda: not running(), most=20.0)
    # And so does what it kept, however it ended.
    until(lambda: not Path(profile).exists(), most=10.0)


def read_or_nothing(file: Path) -> str:
    try:
        return file.read_text("utf-8", "replace")
    except OSError:
        return ""


@pytest.mark.long
def test_the_browsers_own_back_leaves_where_the_app_does(page: Browser) -> None:
    page.press(page.element(f"return {FIRST_ROW}"))
    shown(page, "hut")
    page.back()
    shown(page, "huts")
    page.run("window.here = true")
    page.back()
    until(lambda: page.run("return !document.querySelector('[data-pane]') || !window.here"))


def test_back_and_escape_close_an_open_menu_and_nothing_else(page: Browser) -> None:
    """Rule 4.0."""
    for closes in (page.back, lambda: page.type(ESCAPE)):
        page.press(page.element("return document.querySelector('[aria-haspopup=\"menu\"]')"))
        until(lambda: page.run("return Boolean(document.querySelector('[role=\"menu\"]'))"))
        closes()
        until(lambda: page.run("return !document.querySelector('[role=\"menu\"]')"))
        assert shown(page, "huts")


@pytest.mark.long
def test_a_reload_comes_back_and_a_new_tab_starts_cold(page: Browser) -> None:
    at = page.run("return location.href").split("#")[0]
    page.press(page.element("return document.querySelector('[data-section=\"stays\"]')"))
    shown(page, "stays")
    page.press(page.element("return document.querySelector('[data-button=\"new\"]')"))
    shown(page, "stay-form")
    page.run("document.querySelector('[data-field=\"guest\"]').focus()")
    page.type("Ada")
    page.reload()
    assert shown(page, "stay-form").panes[-1].fields["guest"] == "Ada"
    page.new_tab()
    page.size(360, 780)
    page.go_to(at)
    assert shown(page, "huts")


def test_an_address_that_leads_nowhere_is_said(page: Browser) -> None:
    page.run("location.hash = '/no/such/place'")
    said = "return document.querySelector('.told')?.textContent ?? ''"
    until(lambda: "There is nothing at /no/such/place" in page.run(said))
    assert shown(page, "huts")


@pytest.mark.long
def test_an_address_opens_its_screen_with_its_way_back(page: Browser, delivered: Path) -> None:
    page.run("location.hash = '/huts/mor'")
    assert shown(page, "hut").panes[-1].title == "Morenna"
    assert page.run("return document.title") == "Morenna · Cresta Huts"
    page.back()
    shown(page, "huts")


@pytest.mark.long
def test_once_loaded_it_works_without_a_network(delivered: Path, tab: Browser) -> None:
    with served(delivered) as at:
        tab.size(360, 780)
        tab.go_to(f"{at}index.html")
        shown(tab, "huts")
        until(lambda: tab.run("return Boolean(navigator.serviceWorker?.controller)"))
        kept = "return caches.open('app').then((s) => s.match(location.href)).then(Boolean)"
        until(lambda: tab.run(kept))
        time.sleep(1)
    tab.reload()
    assert shown(tab, "huts").panes[-1].title == "Huts"


def hostile() -> WiredApp:
    """Records that would do harm, if anything took them for more than text."""
    bad = '<script>window.harmed = 1</script><img src=x onerror="window.harmed = 1">'
    rows = [
        {"id": "a", "name": bad, "about": bad, "web": "javascript:window.harmed=1", "photo": "x"},
        {
            "id": "b",
            "name": "\u202eright\u2066",
            "about": "x" * 1_000_000,
            "web": "data:text/html,x",
            "photo": "https://elsewhere.example/x.png",
        },
        {"id": "__proto__", "name": "constructor", "about": "", "web": "", "photo": "../../etc"},
    ]
    source = Source(
        id="things",
        file="things.json",
        key="id",
        fields=(*(Field(name=name) for name in ("id", "name", "about", "web")),
                Field(name="photo", type="picture")),
    )  # fmt: skip
    key = FromField(parameter="thing", field="id")
    app = App(
        name="</title><script>window.harmed = 1</script>",
        start="things",
        sources=(source,),
        screens=(
            ListScreen(
                id="things",
                title="<b>Things</b>",
                rows=Listing(
                    source="things", row=Row(title="{name}", picture="photo"), search=("name",)
                ),
            ),
            DetailScreen(
                id="thing",
                title="{name}",
                source="things",
                key="thing",
                parameters=(Parameter(name="thing"),),
                blocks=(
                    PictureBlock(id="photo", field="photo"),
                    BodyBlock(id="about", field="about"),
                    AddressBlock(id="web", field="web"),
                ),
            ),
        ),
        links=(Link(id="open", trigger=Trigger(screen="things"), to="thing", arguments=(key,)),),
        sections=(Section(id="things", title="Things", root="things"),),
    )
    return WiredApp(app, {"things": records_of("things", rows)})


@pytest.mark.long
def test_hostile_records_do_nothing(tmp_path: Path, tab: Browser) -> None:
    app = hostile()
    deliver(web_app(app, tmp_path / "none"), tmp_path / "app")
    with served(tmp_path / "app") as at:
        tab.size(360, 780)
        tab.go_to(f"{at}index.html")
        for key in ("a", "b", "__proto__"):
            shown(tab, "things")
            find = (
                "return [...document.querySelectorAll('[data-key]')]"
                ".find((each) => each.dataset.key === arguments[1])"
            )
            tab.press(tab.element(find, "row", json.dumps(key)))
            shown(tab, "thing")
            links = tab.run("return [...document.querySelectorAll('a')].map((e) => e.href)")
            assert links == []
            asked = tab.run("return performance.getEntriesByType('resource').map((e) => e.name)")
            # A picture is asked for where the records say that it lies, and nothing else is.
            elsewhere = {each for each in asked if not each.startswith(at)}
            assert elsewhere <= {"https://elsewhere.example/x.png"}
            tab.back()
        assert tab.run("return window.harmed ?? null") is None
        assert tab.run("return document.title").startswith("<b>Things</b> · </title>")
        blocked = tab.run(
            "const s = document.createElement('script'); s.textContent = 'window.harmed = 1';"
            "document.body.append(s); return window.harmed ?? null"
        )
        assert blocked is None


@pytest.mark.long
@pytest.mark.skipif(not (NODE_MODULES / "axe-core").exists(), reason="axe-core is not there")
@pytest.mark.parametrize("size", [(360, 780), (1280, 800)])
def test_nothing_stands_in_the_way_of_assistive_technology(
    page: Browser, size: tuple[int, int]
) -> None:
    axe = (NODE_MODULES / "axe-core" / "axe.min.js").read_text()
    page.size(*size)
    page.run(axe)
    steps = [
        "",
        "document.querySelector('[data-key] .more').click()",
        "document.querySelector('.scrim').click()",
        "document.querySelector('[data-list=\"\"] .contents').click()",
        "[...document.querySelectorAll('[data-button=\"ask\"]')].at(-1)?.click()",
        "document.querySelector('[data-outside]')?.click()",
        "document.querySelector('[data-pane=modal] [data-back]')?.click()",
        "document.querySelector('[data-section=\"stays\"]').click()",
        "document.querySelector('[data-button=\"new\"]').click()",
        "document.querySelector('[data-save]').click()",
        "document.querySelector('[data-open-field]').click()",
        "document.querySelector('[data-screen=\"choose-hut\"] .contents').click()",
        "history.back()",
        "document.querySelector('[data-answer=yes]')?.click()",
        "document.querySelector('[data-list=\"\"] .contents').dispatchEvent("
        "new MouseEvent('click', { bubbles: true, cancelable: true, ctrlKey: true }))",
        "document.querySelector('[data-pick-all]').click()",
        "document.querySelector('[data-act-on-picked=cancel]').click()",
        "document.querySelector('[data-answer=no]').click()",
        "document.querySelector('[data-let-go]').click()",
    ]
    for step in steps:
        page.run(step)
        time.sleep(0.25)
        found = page.run(
            "const runOnly = ['wcag2a', 'wcag2aa', 'wcag21aa', 'best-practice'];"
            "return axe.run(document, { runOnly }).then((done) => done.violations.map((each) =>"
            " `${each.id}: ${each.nodes.map((node) => node.html).join()}`))"
        )
        assert found == [], f"after {step}"


@pytest.mark.long
@pytest.mark.skipif(
    shutil.which("java") is None or not (NODE_MODULES / "vnu-jar").exists(),
    reason="the HTML checker is not there",
)
def test_its_html_is_what_the_standard_has(page: Browser, delivered: Path, tmp_path: Path) -> None:
    jar = NODE_MODULES / "vnu-jar" / "build" / "dist" / "vnu.jar"
    running = tmp_path / "running.html"
    page.press(page.element(f"return {FIRST_ROW}"))
    shown(page, "hut")
    running.write_text(f"<!doctype html>\n{page.run('return document.documentElement.outerHTML')}")
    for file in (delivered / "index.html", running):
        done = subprocess.run(
            ["java", "-jar", str(jar), "--errors-only", str(file)],
            capture_output=True,
            text=True,
            timeout=120,
        )
        assert done.returncode == 0, done.stderr[:2000]


@pytest.mark.long
def test_drive_from_the_command_line(delivered: Path, tmp_path: Path) -> None:
    junit = tmp_path / "out.xml"
    walk = str(CRESTA / "walks" / "groups.json")
    arguments = ["drive", str(CRESTA), walk, "--window", "Slate", "--junit", str(junit)]
    run = CliRunner()
    done = run.invoke(main, [*arguments, "--app", str(delivered), "--shots", str(tmp_path / "s")])
    assert done.exit_code == 0, done.output
    assert "groups at Slate: as wired" in done.output
    assert 'failures="0"' in junit.read_text()
    assert len(list((tmp_path / "s" / "groups-slate").glob("*.png"))) > 5
    folder = changed(
        delivered,
        tmp_path / "app",
        "screens/stays.js",
        "groupsStart: 'open'",
        "groupsStart: 'closed'",
    )
    wrong = run.invoke(main, [*arguments, "--app", str(folder)])
    assert wrong.exit_code == 1, wrong.output
    assert 'failures="1"' in junit.read_text()
    neither = run.invoke(main, arguments)
    assert neither.exit_code == 2
    empty = run.invoke(main, [*arguments, "--app", str(tmp_path)])
    assert empty.exit_code == 2
    assert "index.html" in empty.output


def test_a_browser_that_is_not_there_is_said(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("CADENA_BROWSER", "/nowhere/chromium")
    with pytest.raises(Problem, match="chromium-driver"):
        found()


@pytest.mark.long
def test_a_page_that_is_no_app_is_said(tmp_path: Path) -> None:
    (tmp_path / "index.html").write_text("<!doctype html><title>x</title>")
    (tmp_path / "look.css").write_text("")
    with served(tmp_path) as at:
        plans = [Plan("x", (), "Pocket", parse_window("360x780"))]
        (outcome,) = drive_all(demo(), f"{at}index.html", plans, patience=0.2)
    assert outcome.differences[0].what == "the page"


def keeps(page: Browser) -> None:
    """What has happened is kept by now."""
    page.run("dispatchEvent(new Event('pagehide'))")


SEND = "document.dispatchEvent(new CustomEvent('cadena:event', { detail: arguments[0] }))"
KEPT = (
    "return JSON.parse(Object.entries(localStorage).find(([name]) => name.endsWith(' world'))[1])"
)


def changes_kept(page: Browser, source: str) -> dict[Any, Any]:
    found = page.run(KEPT)["changes"][source]
    made = {each["key"]: each["fields"] for each in found["changed"]}
    return {**made, **dict.fromkeys(found["gone"])}


@pytest.mark.long
def test_two_tabs_lose_nothing_of_what_the_other_has_changed(page: Browser) -> None:
    def change(key: str, **fields: Any) -> None:
        page.run(SEND, {"do": "change", "source": "huts", "key": key, "fields": fields})

    first = page.tab()
    change("alp", beds=1)
    keeps(page)
    address = page.run("return location.href.split('#')[0]")
    second = page.open_tab(address)
    page.size(360, 780)
    shown(page, "huts")
    change("mor", beds=2)
    keeps(page)
    # A tab that is merely shown again writes nothing of its own over that.
    page.to_tab(first)
    until(lambda: page.run(SEND, {"do": "wait", "ms": 1}) is None)
    keeps(page)
    assert changes_kept(page, "huts") == {"alp": {"beds": 1}, "mor": {"beds": 2}}
    change("alp", beds=3)
    page.run(SEND, {"do": "remove", "source": "huts", "key": "fon"})
    keeps(page)
    page.to_tab(second)
    change("mor", name="Morenna II")
    keeps(page)
    both = {"alp": {"beds": 3}, "mor": {"beds": 2, "name": "Morenna II"}, "fon": None}
    assert changes_kept(page, "huts") == both
    page.go_to(address)
    shown(page, "huts")
    assert changes_kept(page, "huts") == both


@pytest.mark.long
def test_where_both_tabs_change_one_field_the_later_counts_and_it_is_said(page: Browser) -> None:
    keeps(page)
    change = {"do": "change", "source": "huts", "key": "mor", "fields": {"beds": 5}}
    # What another tab has kept at this very moment.
    theirs = {"huts": {"changed": [{"key": "mor", "fields": {"beds": 2, "name": "M"}}]}}
    page.run(
        f"{SEND}; const name = Object.keys(localStorage).find((each) => each.endsWith(' world'));"
        "localStorage[name] = JSON.stringify({ changes: arguments[1] });"
        "dispatchEvent(new Event('pagehide'));",
        change,
        theirs,
    )
    assert changes_kept(page, "huts") == {"mor": {"beds": 5, "name": "M"}}
    told = page.run("return document.querySelector('.told').textContent")
    assert told.startswith("M: changed in another tab as well.")


def test_what_the_browser_has_no_room_for_is_said(page: Browser) -> None:
    page.run(
        "Storage.prototype.setItem = () => { throw new DOMException('', 'QuotaExceededError') }"
    )
    page.run(SEND, {"do": "change", "source": "huts", "key": "mor", "fields": {"beds": 2}})
    keeps(page)
    assert "no room" in page.run("return document.querySelector('.told').textContent")


@pytest.mark.long
@pytest.mark.parametrize(
    "held",
    [
        "7",
        "{",
        '{"changes": [], "clock": "x", "calls": -1}',
        '{"changes": {"huts": {"changed": [7, {"key": "mor", "fields": {"beds": "no", "x": 1}}], '
        '"gone": "all", "added": [{"id": null}, null]}, "none": 3}}',
        '{"changes": {"huts": {"changed": [{"key": {}, "fields": null}], "gone": [{}, "mor"]}}}',
    ],
)
def test_what_a_store_holds_is_checked_before_it_is_used(page: Browser, held: str) -> None:
    keeps(page)
    address = page.run("return location.href.split('#')[0]")
    page.go_to(address.replace("index.html", "icon.svg"))
    page.run(
        "for (const name of Object.keys(localStorage)) localStorage[name] = arguments[0]", held
    )
    page.go_to(address)
    (pane,) = shown(page, "huts").panes
    assert pane.rows[""] > 3
    # And it goes on from there.
    page.run(SEND, {"do": "change", "source": "huts", "key": "alp", "fields": {"beds": 2}})
    keeps(page)
    assert changes_kept(page, "huts")["alp"] == {"beds": 2}
