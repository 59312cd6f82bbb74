"""Apps are driven on a desktop of their own, through accessibility: what was delivered, one that is
written by hand in another toolkit, and mistakes that must be told."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import time
from pathlib import Path

import pytest

from builders import demo
from cadena.deliver.delivery import deliver
from cadena.deliver.desktop_app import desktop_app
from cadena.deliver.drive.desktop_place import LISTENER, NEEDED, desktop
from cadena.deliver.drive.walks_driven import (
    Outcome,
    Plan,
    drive_all_on_desktop,
    random_walk,
)
from cadena.engine import events as do
from cadena.engine.wired import WiredApp
from cadena.model.problem import Problem
from test_cli import call
from test_drive import (
    CRESTA,
    FOUND_AND_OPENED,
    IN_COLUMNS,
    SIZES,
    WALKS,
    _boats,
    _existing,
    assert_as_wired,
    boats,
    huts_at_a_service,
    plan,
)

pytestmark = pytest.mark.skipif(
    any(shutil.which(each) is None for each in NEEDED) or not Path(LISTENER).exists(),
    reason="Xvfb, D-Bus or AT-SPI are not there",
)
BY_HAND = Path(__file__).parent / "by_hand_gtk"
SYSTEM_PYTHON = "/usr/bin/python3"
HAS_GTK = "import gi; gi.require_version('Gtk', '3.0')"


@pytest.fixture(scope="module")
def delivered(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo as it is delivered."""
    to = tmp_path_factory.mktemp("cresta")
    deliver(desktop_app(demo(), CRESTA), to)
    return to


def command(folder: Path) -> str:
    return f"env PYTHONPATH={folder} {sys.executable} -m cresta_huts"


def driven(folder: Path, *plans: Plan, patience: float = 3.0) -> list[Outcome]:
    return list(drive_all_on_desktop(demo(), command(folder), plans, patience=patience))


@pytest.mark.long
def test_the_walks_of_the_demo_are_as_wired(delivered: Path) -> None:
    walks = ("tour", "fit", "groups", "lists", "stays")
    every = [(walk, window) for walk in walks for window in SIZES]
    some = every if WALKS else [("tour", "Pocket"), ("lists", "Desk")]
    outcomes = driven(delivered, *(plan(*each) for each in some))
    assert_as_wired(outcomes)
    assert sum(each.steps for each in outcomes) > 60


@pytest.mark.long
def test_columns_are_driven_as_a_table(delivered: Path) -> None:
    windows = SIZES if WALKS else ("Desk", "Pocket")
    assert_as_wired(
        driven(delivered, *(Plan("legs", IN_COLUMNS, each, SIZES[each]) for each in windows))
    )


@pytest.mark.long
def test_random_walks_are_as_wired(delivered: Path) -> None:
    app, names = demo(), list(SIZES)
    plans = []
    for number in range(max(4, WALKS)):
        name = names[number % len(names)]
        events = random_walk(app, SIZES[name], 900 + number, 20)
        plans.append(Plan(f"random {number}", events, name, SIZES[name]))
    assert_as_wired(driven(delivered, *plans))


FREELY = ("routes.py", "stay_form.py")
"""Modules of an app, which are changed by hand as one likes."""
MISTAKES = {
    "a row link carries the position": (
        "routes.py",
        'FromField(parameter="hut", field="id")',
        'FromPosition(parameter="hut", convert=True)',
        (do.Choose(screen="huts", key="alp"),),
        "choose",
    ),
    "back skips a screen": (
        "kit/native/running.py",
        "self.take(do.Back() if back is not self.session.window.rtl else do.Forward())",
        "[self.take(do.Back()) for _ in (1, 2)]",
        (
            do.Choose(screen="huts", key="alp"),
            do.Choose(screen="hut", list="rooms", key=1),
            do.Back(),
        ),
        "back",
    ),
    "a scroll is not restored": (
        "kit/native/shown.py",
        "bar.setValue(round(offset * unit))",
        "bar.setValue(bar.minimum())",
        (do.Scroll(screen="huts", to=400.0), do.GoTo(section="routes"), do.GoTo(section="huts")),
        "scroll",
    ),
    "a draft is lost when it is ended": (
        "screens/stay_form.py",
        'id="stay-form",',
        'id="stay-form", keep=Keep(draft="entry"),',
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
    file, before, after, events, at = MISTAKES[mistake]
    folder = tmp_path / "app"
    shutil.copytree(delivered, folder)
    place = folder / "cresta_huts" / file
    text = place.read_text()
    assert before in text
    imported = "from cresta_huts.kit.model.app import FromPosition, Keep\n"
    place.write_text((imported if file.endswith(FREELY) else "") + text.replace(before, after, 1))
    sound = Plan(mistake, _existing(demo(), events), "Pocket", SIZES["Pocket"])
    assert_as_wired(driven(delivered, sound))
    (outcome,) = driven(folder, sound, patience=1.0)
    assert outcome.differs is not None
    assert outcome.differs.event is not None
    assert outcome.differs.event.__struct_config__.tag == at


@pytest.mark.long
def test_it_is_told_where_it_cannot_be_driven(tmp_path: Path) -> None:
    for wrong, says in (
        ("true", "it ended"),
        (f"{tmp_path}/nothing", "it cannot be started"),
        ("'", "it cannot be read"),
        ("", "it is empty"),
    ):
        plans = [Plan("any", (), "Pocket", SIZES["Pocket"])]
        with pytest.raises(Problem, match=says):
            list(drive_all_on_desktop(demo(), wrong, plans))


@pytest.mark.long
def test_it_leaves_nothing_behind(delivered: Path) -> None:
    with desktop(command(delivered)) as place:
        place.start(360, 780)
        folder = place.folder
        assert place.is_running
    assert not folder.exists()
    until = time.monotonic() + 5
    while (left := _running_in(folder)) and time.monotonic() < until:
        time.sleep(0.1)
    assert left == []


CUT_OFF = """
import os, sys
from cadena.deliver.drive.desktop_place import desktop
with desktop(sys.argv[1]) as place:
    place.start(360, 780)
    print(place.folder, flush=True)
    os.kill(os.getpid(), 9)
"""


@pytest.mark.long
def test_a_desktop_ends_with_what_began_it(delivered: Path) -> None:
    began = [sys.executable, "-c", CUT_OFF, command(delivered)]
    folder = Path(subprocess.run(began, capture_output=True, text=True, check=False).stdout.strip())
    until = time.monotonic() + 10
    while (folder.exists() or _running_in(folder)) and time.monotonic() < until:
        time.sleep(0.1)
    assert folder.name.startswith("cadena-desktop-")
    assert not folder.exists()
    assert _running_in(folder) == []


DEAF = """#!/bin/sh
trap 'trap - TERM' TERM
for folder; do :; done
echo unix:path=/nowhere > "$folder/bus"
while :; do sleep 0.1; done
"""
AT_ONCE = """
from cadena.deliver.drive.desktop_place import desktop
try:
    with desktop("true"):
        pass
except Exception as error:
    print("no bus:", error)
"""


def test_a_desktop_ends_where_what_begins_does_not_hear_it(tmp_path: Path) -> None:
    """A bus that is told to end while it begins: nobody waits for it without end."""
    bus = tmp_path / "dbus-run-session"
    bus.write_text(DEAF)
    bus.chmod(0o755)
    path = {**os.environ, "PATH": f"{tmp_path}:{os.environ['PATH']}"}
    ended = subprocess.run(
        [sys.executable, "-c", AT_ONCE], env=path, capture_output=True, text=True, timeout=20
    )
    assert ended.stdout.startswith("no bus:")


def _running_in(folder: Path) -> list[str]:
    """The processes whose environment or command names a folder."""
    found = []
    for each in Path("/proc").glob("[0-9]*"):
        try:
            said = (each / "cmdline").read_bytes() + (each / "environ").read_bytes()
        except OSError:
            continue
        if str(folder).encode() in said:
            found.append((each / "cmdline").read_text())
    return found


@pytest.mark.long
def test_an_app_of_a_service_is_driven_with_its_service(tmp_path: Path) -> None:
    plans = [Plan("service", FOUND_AND_OPENED, "Pocket", SIZES["Pocket"])]
    with huts_at_a_service() as wired:
        deliver(desktop_app(wired, CRESTA), tmp_path)
        starts = f"env PYTHONPATH={tmp_path} {sys.executable} -m remote"
        outcomes = list(drive_all_on_desktop(wired, starts, plans, patience=5))
    assert_as_wired(outcomes)
    assert outcomes[0].steps > len(FOUND_AND_OPENED)


@pytest.mark.long
@pytest.mark.skipif(
    not Path(SYSTEM_PYTHON).exists()
    or subprocess.run([SYSTEM_PYTHON, "-c", HAS_GTK], capture_output=True, check=False).returncode,
    reason="GTK is not there",
)
def test_an_app_of_another_toolkit_is_driven_as_well(tmp_path: Path) -> None:
    folder = tmp_path / "boats"
    shutil.copytree(BY_HAND, folder)
    (folder / "boats.json").write_text(_boats())
    starts = f"{SYSTEM_PYTHON} {folder / 'boats.py'}"
    events = (
        do.Scroll(to=300.0),
        do.Choose(key=12),
        do.Back(),
        do.Choose(key=0),
        do.Kill(),
        do.Restore(),
        do.Back(),
    )
    plans = [Plan("by hand", events, "Pocket", SIZES["Pocket"])]
    app: WiredApp = boats()
    outcomes = list(drive_all_on_desktop(app, starts, plans))
    assert_as_wired(outcomes)
    assert outcomes[0].steps >= len(events)
    text = (folder / "boats.py").read_text()
    (folder / "boats.py").write_text(text.replace("boat=row.boat", "boat=1"))
    (wrong,) = drive_all_on_desktop(app, starts, plans, patience=0.5)
    assert wrong.differs is not None
    assert isinstance(wrong.differs.event, do.Choose)


@pytest.mark.long
def test_the_command_drives_an_app_on_a_desktop(delivered: Path, tmp_path: Path) -> None:
    asked = ["drive", str(CRESTA), "--command", command(delivered), "--window", "360x780"]
    shots = tmp_path / "shots"
    code, said = call(*asked, "--random", "1", "--length", "4", "--shots", str(shots))
    assert code == 0, said
    assert "1 walk driven" in said
    assert len(list(shots.rglob("*.png"))) >= 2
    code, said = call(*asked, "--write")
    assert code == 2
    assert "heard in a browser alone" in said
