"""An app for the desktop beside a bare window with the same list: how long it takes to be there,
and a frame of scrolling among 100,000 rows."""

from __future__ import annotations

import compileall
import os
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QStringListModel
from PySide6.QtWidgets import QApplication, QListView
from pytest_benchmark.fixture import BenchmarkFixture

from builders import demo, records_of
from cadena.deliver.delivery import deliver
from cadena.deliver.desktop_app import desktop_app
from cadena.desktop.shell.demo import DEMO
from cadena.engine.wired import WiredApp
from cadena.model.app import ListScreen
from cadena.model.listing import TableColumn
from cadena.native.running import Running
from cadena.native.store import Store
from test_drive import boats

MANY = 100_000
STEP = 7_919
BARE = """
import json, sys
from pathlib import Path
from PySide6.QtCore import QStringListModel
from PySide6.QtWidgets import QApplication, QListView
toolkit = QApplication([])
view = QListView()
rows = json.loads(Path("cresta_huts/records/huts.json").read_text())
view.setModel(QStringListModel([each["name"] for each in rows]))
view.resize(1000, 700)
view.show()
toolkit.processEvents()
"""
OURS = """
import sys
from pathlib import Path
from PySide6.QtWidgets import QApplication
import cresta_huts
from cresta_huts.app import app
from cresta_huts.sources import files
from cresta_huts.kit.engine.wired import WiredApp
from cresta_huts.kit.native.look import system_measure
from cresta_huts.kit.native.running import Running
from cresta_huts.kit.native.start import records_of
from cresta_huts.kit.native.store import Store
folder = Path(cresta_huts.__file__).parent
toolkit = QApplication([])
wired = WiredApp(app, records_of(app, files, folder), system_measure)
window = Running(wired, folder, Store(folder / "kept"), size=(1000, 700))
window.show()
toolkit.processEvents()
"""


@pytest.fixture(scope="module")
def delivered(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo as it is delivered, compiled as an installer does."""
    to = tmp_path_factory.mktemp("cresta")
    deliver(desktop_app(demo(), DEMO / "cresta"), to)
    compileall.compile_dir(to, quiet=1)
    return to


@pytest.mark.parametrize("peer", ["bare window", "the demo"])
def test_a_start(benchmark: BenchmarkFixture, peer: str, delivered: Path) -> None:
    """From the command to the first picture; wanted is 2.5 times a bare window."""
    command = [sys.executable, "-c", BARE if peer == "bare window" else OURS]
    given = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    benchmark.group = "a start"
    benchmark.pedantic(
        lambda: subprocess.run(command, cwd=delivered, env=given, check=True, capture_output=True),
        rounds=7,
        warmup_rounds=1,
    )


def bare_list() -> Any:
    view = QListView()
    view.setUniformItemSizes(True)
    view.setModel(QStringListModel([f"Boat {n:06}" for n in range(MANY)]))
    return view, view.verticalScrollBar()


def our_list(folder: Path, in_columns: bool) -> Any:
    made = [{"id": n, "name": f"Boat {n * STEP % MANY:06}", "length": n % 9} for n in range(MANY)]
    plain = boats().app
    if in_columns:
        first, *others = plain.screens
        assert isinstance(first, ListScreen)
        columns = (TableColumn(shows="name"), TableColumn(shows="length", side="end"))
        listing = replace(first.rows, layout="columns", columns=columns)
        plain = replace(plain, screens=(replace(first, rows=listing), *others))
    app = WiredApp(plain, {"boats": records_of("boats", made)})
    window = Running(app, folder, Store(folder), size=(1000, 800))
    (pane, *_) = window.shown._panes.values()
    return window, pane.bar


@pytest.mark.parametrize("peer", ["bare list", "rows of an app", "columns of an app"])
def test_a_frame_of_scrolling(
    benchmark: BenchmarkFixture, peer: str, qapp: QApplication, tmp_path: Path
) -> None:
    """To somewhere else among 100,000 rows, painted; wanted are 33 ms at most."""
    window, bar = (
        bare_list() if peer == "bare list" else our_list(tmp_path, peer.startswith("columns"))
    )
    window.resize(1000, 800)
    window.show()
    qapp.processEvents()
    at = [0]

    def frame() -> None:
        at[0] = (at[0] + STEP * 13) % max(1, bar.maximum())
        bar.setValue(at[0])
        window.repaint()
        qapp.processEvents()

    benchmark.group = "a frame of scrolling"
    benchmark(frame)
