"""Each need as a small app: its walk holds in the engine, nothing of it is broken, and driven in
a browser the delivered app does the same."""

from __future__ import annotations

import base64
from collections.abc import Iterator
from pathlib import Path

import pytest
from harbour import boats, harbour, records_of, wired
from msgspec.structs import replace
from small_needs import NEEDS, PHONE, Need, choose, so

from cadena.check.check import breaks, check
from cadena.deliver.drive.driving import drive
from cadena.deliver.drive.folder_server import served
from cadena.deliver.drive.gestures import Hand
from cadena.deliver.drive.walks_driven import DRIVEN
from cadena.deliver.drive.webdriver import Browser, found
from cadena.engine import events as do
from cadena.engine.wired import WiredApp
from cadena.model.listing import Row
from cadena.model.problem import Problem
from cadena.model.source import Service
from cadena.runs.prove.causes import events_of
from cadena.runs.walks.walk import replay
from cadena.sources.bring_records import brought
from cadena.sources.import_file import Adopted
from small_service import answering
from test_drive import deliver_bundled


def _is_there() -> bool:
    try:
        found()
    except Problem:
        return False
    return True


DOT = base64.b64decode(
    "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNkYPhfDwAChwGA60e6kgAAAABJRU5ErkJggg=="
)
"""A picture of one dot."""
needs_browser = pytest.mark.skipif(not _is_there(), reason="Chromium and its driver are not there")


def assert_holds(need: Need) -> None:
    """The walk holds, none of it is refused but what a form does not take, and nothing breaks."""
    for each in replay(need.app, need.walk, need.window):
        assert not each.failures, each.failures
    assert not breaks(found := check(need.app.app, need.app.as_read)), found
    need.also(need.app)


@pytest.mark.parametrize("name", NEEDS)
def test_its_walk_holds(name: str) -> None:
    assert_holds(NEEDS[name]())


def assert_driven(needs: dict[str, Need], folder: Path, page: Browser) -> None:
    for name in ("0.png", "1.png", "2.png"):
        (folder / name).write_bytes(DOT)
    for number, (name, need) in enumerate(needs.items()):
        to = folder / str(number)
        deliver_bundled(need.app, folder, to)
        events = tuple(events_of(need.walk))
        with served(to) as at:
            hand = Hand(need.app, page, f"{at}index.html?{DRIVEN}")
            steps = list(drive(need.app, hand, events, need.window, patience=3.0))
        said = "; ".join(map(str, steps[-1].differences))
        assert not said, f"{name}: {said}"
        assert len(steps) > len(events)


@pytest.mark.long
@needs_browser
@pytest.mark.parametrize("part", range(2))
def test_driven_it_does_the_same(part: int, tmp_path: Path, tab: Browser) -> None:
    assert_driven({name: made() for name, made in [*NEEDS.items()][part::2]}, tmp_path, tab)


@pytest.fixture
def service() -> Iterator[str]:
    """A service whose answers are wrapped, and whose records have no key."""
    told = [{"name": each["name"], "length": each["length"]} for each in boats(12)]
    with answering({"/boats": {"count": len(told), "items": told}}) as at:
        yield f"{at}/boats"


@pytest.mark.long
@needs_browser
def test_a_made_up_list_is_exchanged_for_a_service_without_keys(
    service: str, tmp_path: Path, tab: Browser
) -> None:
    source = replace(records_of()["boats"].source, fields=(), service=Service(list=service))
    made = brought(tmp_path, source, lambda _: None)
    assert isinstance(made, Adopted)
    assert len(made.records) == 12
    key = made.source.key
    assert key == "name"
    app = harbour()
    parameter = replace(app.screens[1].parameters[0], type="text")
    rows = replace(app.screens[0].rows, row=Row(title="{name}"))  # type: ignore[union-attr]
    screens = (
        replace(app.screens[0], rows=rows),
        replace(app.screens[1], parameters=(parameter,), blocks=app.screens[1].blocks[:1]),
    )
    link = replace(app.links[0], arguments=(replace(app.links[0].arguments[0], field=key),))  # type: ignore[call-arg]
    app = replace(app, sources=(made.source,), screens=screens, links=(link,))
    need = Need(
        wired(app, {"boats": made.records}),
        PHONE,
        (
            so(rows={"boats": 12}),
            choose("Gannet 02"),
            so(title="Gannet 02", arguments={"boat": "Gannet 02"}),
            do.Back(),
        ),
    )
    assert isinstance(need.app, WiredApp)
    assert_holds(need)
    assert_driven({"exchanged": need}, tmp_path, tab)
