"""The delivered app is driven while it writes to real services: what it sends is overheard, held
against what is wired, and counted at the service."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, NamedTuple

import httpx
import pytest

from bare_habits import BareHabits, Failing, Making
from bare_habits import description as bare
from builders import demo
from cadena.deliver.delivery import deliver
from cadena.deliver.drive.folder_server import served
from cadena.deliver.drive.walks_driven import Plan, RandomSteps, drive_all, events_of
from cadena.deliver.web_app import web_app
from cadena.desktop.shell.demo import lay_demo
from cadena.engine import events as do
from cadena.engine.session import Session, Write
from cadena.engine.wired import WiredApp
from cadena.runs.walks.walk import read_walk
from cadena.serve.call_services import Services
from cadena.serve.serve import Served
from cadena.sources.open_project import open_project
from cadena.sources.scaffold import Wishes, new_project
from other_habits import OtherHabits
from other_habits import description as other
from small_service import serving
from test_cli import call
from test_drive import SIZES, assert_as_wired, deliver_bundled, pytestmark
from test_sending import stand_in

__all__ = ["pytestmark"]

SEND = Services.send
WALKS = int(os.environ.get("CADENA_DRIVEN_WRITES", "1"))
"""Random walks for each service and each rate; many in the long form."""
RATES = [0, 4, 2] if WALKS > 1 else [0, 3]


def described(address: str) -> bytes:
    return httpx.get(f"{address}/openapi.json", trust_env=False).content


class Counted:
    """What the engine has sent: each new record once, however often, and those confirmed."""

    def __init__(self) -> None:
        self.sendings = 0
        self.sent: set[tuple[int, int]] = set()
        self.confirmed = 0

    def send(self, services: Services, app: WiredApp, session: Session, write: Write) -> do.Written:
        answer = SEND(services, app, session, write)
        if write.kind == "create":
            self.sendings += 1
            self.sent.add((id(services), write.number))
            self.confirmed += answer.outcome == "done"
        return answer


class Habit(NamedTuple):
    """A service, and how it is described."""

    make: Callable[[], Any]
    describe: Callable[[str], bytes]


HABITS = {
    "demo": Habit(lambda: Served("Cresta Huts", demo().as_read), described),
    "stand-in": Habit(stand_in, described),
    "bare": Habit(BareHabits, bare),
    "other": Habit(OtherHabits, other),
}


@contextmanager
def driven_at(
    folder: Path, service: Any, describe: Callable[[str], bytes], in_modules: bool = False
) -> Iterator[tuple[WiredApp, str]]:
    """An app that is made of a service, and the address that its page is served at."""
    with serving(service) as at:
        (folder / "boats.json").write_bytes(describe(at))
        new_project(folder / "project", [folder / "boats.json"], wishes=Wishes())
        opened = open_project(folder / "project")
        app = WiredApp(opened.app, opened.records)
        if in_modules:
            deliver(web_app(app, opened.folder), folder / "app")
        else:
            deliver_bundled(app, opened.folder, folder / "app")
        with served(folder / "app") as page:
            yield app, f"{page}index.html"


ANSWERED = "const answer = this.mayWrite"
BY_HAND = (
    do.Press(screen="boats", button="add"),
    do.Type(screen="boats-form", field="name", to="Gull"),
    do.Save(screen="boats-form"),
    do.Choose(screen="boats", key="b2"),
    do.Press(screen="boat", button="edit"),
    do.Type(screen="boats-form", field="berths", to=9),
    do.Save(screen="boats-form"),
    do.Back(),
    do.Act(screen="boats", key="b3", action="remove"),
    do.Decide(yes=True),
    do.Choose(screen="boats", key="b1"),
)


@pytest.mark.long
def test_what_is_sent_is_what_is_wired(tmp_path: Path) -> None:
    service = BareHabits()
    with driven_at(tmp_path, service, bare) as (app, page):
        plans = [Plan("by hand", BY_HAND, "Pocket", SIZES["Pocket"])]
        outcomes = list(drive_all(app, page, plans, writes=True))
    assert_as_wired(outcomes)
    assert outcomes[0].steps >= len(BY_HAND)
    assert service.boats["b6"] == {"code": "b6", "name": "Gull", "berths": None}
    assert service.boats["b2"]["berths"] == 9
    assert "b3" not in service.boats


def test_without_leave_an_app_that_is_driven_sends_nothing(tmp_path: Path) -> None:
    service = BareHabits()
    with driven_at(tmp_path, service, bare) as (app, page):
        plans = [Plan("by hand", BY_HAND[:3], "Pocket", SIZES["Pocket"])]
        assert_as_wired(list(drive_all(app, page, plans, patience=5)))
    assert len(service.boats) == 6


@pytest.mark.long
@pytest.mark.parametrize(
    ("before", "after", "says"),
    [
        ("nested(write.fields, there)", "nested({ ...write.fields, berths: 1 }, there)", "sent"),
        ("method: way.method", "method: 'PUT'", "what is asked of a service"),
        ("'if-match': /**", "'x-match': /**", "header if-match"),
        (ANSWERED, f"void this.answerToWrite(session, write);\n{ANSWERED}", "what is sent"),
    ],
)
def test_what_is_sent_otherwise_is_told(tmp_path: Path, before: str, after: str, says: str) -> None:
    """Mistakes in what an app sends: another body, method or version, or more often than once."""
    service = BareHabits()
    with driven_at(tmp_path, service, bare, in_modules=True) as (app, page):
        file = next((tmp_path / "app").rglob("service.js"))
        text = file.read_text()
        assert before in text
        file.write_text(text.replace(before, after, 1))
        plans = [Plan("by hand", BY_HAND, "Pocket", SIZES["Pocket"])]
        (outcome,) = drive_all(app, page, plans, writes=True, patience=1)
    assert any(says in each.what or says in str(each) for each in outcome.differences)


@pytest.mark.long
@pytest.mark.parametrize("one_in", RATES)
@pytest.mark.parametrize("habit", HABITS)
def test_random_walks_that_write_are_as_wired_and_make_nothing_twice(
    habit: str, one_in: int, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """At every rate of failure; what the service has made is what was confirmed, or is told as
    not known."""
    service = HABITS[habit].make()
    made = Making(service)
    failing: Any = made
    if isinstance(service, Served):
        service.rates.update(fails_one_in=0, refuses_one_in=one_in, quicker_one_in=one_in)
        service.delay = 0
    else:
        failing = Failing(made, one_in)
    counted = Counted()
    monkeypatch.setattr(Services, "send", lambda *given: counted.send(*given))
    with driven_at(tmp_path, failing, HABITS[habit].describe) as (app, page):
        plans = []
        for number in range(WALKS):
            steps = RandomSteps(app, 33_000 + number, 25)
            window = list(SIZES)[number % len(SIZES)]
            plans.append(Plan(f"random {number}", steps, window, SIZES[window]))
        assert_as_wired(list(drive_all(app, page, plans, patience=5, writes=True)))
    # Which knows a write again makes it once, however often it is sent.
    most = len(counted.sent) if isinstance(service, Served) else counted.sendings
    assert counted.confirmed <= len(made.made) <= most


@pytest.mark.long
def test_the_walk_of_the_demo_that_is_written_to_does_what_was_wired(tmp_path: Path) -> None:
    lay_demo("cresta-written", tmp_path / "written")
    opened = open_project(tmp_path / "written")
    app = WiredApp(opened.app, opened.records)
    deliver_bundled(app, opened.folder, tmp_path / "app")
    events = events_of(read_walk(tmp_path / "written" / "walks" / "written.json"))
    plans = [Plan("written", events, name, SIZES[name]) for name in ("Pocket", "Slate")]
    with served(tmp_path / "app") as page:
        outcomes = list(drive_all(app, f"{page}index.html", plans))
    assert_as_wired(outcomes)
    assert sum(each.steps for each in outcomes) > 30


@pytest.mark.long
def test_drive_writes_only_when_it_is_told_to(tmp_path: Path) -> None:
    service = BareHabits()
    with driven_at(tmp_path, service, bare):
        asked = ["drive", str(tmp_path / "project"), "--app", str(tmp_path / "app")]
        asked += ["--random", "2", "--length", "12", "--window", "360x780"]
        code, said = call(*asked, "--write", "--seed", "3")
        assert code == 0, said
        versions = dict(service.versions)
        code, said = call(*asked, "--seed", "3")
        assert code == 0, said
    assert service.versions == versions
