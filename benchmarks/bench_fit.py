"""Fit: dragging the live point with three windows open, and the window map."""

from __future__ import annotations

import time
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
import pytest
from PySide6.QtGui import QColor, QPainter, QPixmap
from PySide6.QtWidgets import QApplication
from pytest_benchmark.fixture import BenchmarkFixture

from builders import DEMO, demo
from cadena.desktop.document.bench_windows import add_window
from cadena.engine.events import Choose, Divide, Resize
from cadena.engine.session import sized
from cadena.engine.step import seen_in, start, step
from cadena.model.app import Arrangement, Range, When
from cadena.runs.window_plane import Plane
from cadena.scene.lay_out import lay_out

if TYPE_CHECKING:
    from cadena.desktop.shell.window import MainWindow

WINDOWS = (sized(360, 780), sized(820, 1180))
RULES = tuple(
    Arrangement(
        id=f"r{n}",
        panes=1 + n % 3,
        when=When(
            width=Range(least=100.0 * n, below=100.0 * n + 260),
            height=Range(least=90.0 * (n % 5)),
            shape=(None, "portrait", "landscape")[n % 3],  # type: ignore[arg-type]
        ),
    )
    for n in range(12)
)


def sizes() -> list[tuple[float, float]]:
    """A drag all over the plane, over every breakpoint, 400 frames long."""
    t = np.linspace(0, 6 * np.pi, 400)
    return [
        (float(round(700 + 500 * np.cos(each))), float(round(700 + 400 * np.sin(each * 1.3))))
        for each in t
    ]


def tell(what: str, seconds: list[float], wanted: str) -> None:
    """Say a median and a 99th percentile, in ms."""
    median, late = (float(np.percentile(seconds, each)) * 1000 for each in (50, 99))
    print(f"\n{what}: median {median:.1f} ms, 99th percentile {late:.1f} ms (wanted: {wanted})")


def dividing() -> list[Divide]:
    """A drag of the divider to and fro, 400 frames long."""
    return [Divide(pane=0, to=460 + 170 * float(np.sin(each / 20))) for each in range(400)]


@pytest.mark.parametrize("dragged", ["window", "divider"])
def test_engine_and_layout_of_a_frame(benchmark: BenchmarkFixture, dragged: str) -> None:
    """One step and three layouts: wanted within 4 ms, of a divider as of a breakpoint."""
    app = demo()
    session, _ = start(app, sized(1280, 800))
    session, *_ = step(app, session, Choose(key="mor", screen="huts"))
    seconds = []
    resizes = [Resize(width=width, height=height) for width, height in sizes()]
    events = resizes if dragged == "window" else dividing()

    def drag() -> None:
        now = session
        for event in events:
            begun = time.perf_counter()
            now, _, refused = step(app, now, event)
            assert not refused
            lay_out(app, now, now.window)
            for window in WINDOWS:
                seen = seen_in(app, now, window)
                lay_out(app, seen, window)
            seconds.append(time.perf_counter() - begun)

    benchmark.pedantic(drag, rounds=3, warmup_rounds=1)
    tell(f"engine and layout of a frame, {dragged}", seconds, "within 4 ms")


def fit_window() -> MainWindow:
    from cadena.desktop.process.settings import Settings
    from cadena.desktop.shell.application import application, dressed, window_on

    app = application()
    dressed(app, Settings())
    window = window_on(Path(DEMO / "cresta"), Settings(), remembers=False)
    window.show()
    window.document.check()
    window.document.do(Choose(key="mor", screen="huts"))
    for each in WINDOWS:
        add_window(window.document, each)
    window.document.show_stage("Fit")
    for _ in range(5):
        QApplication.processEvents()
    return window


@pytest.mark.parametrize("peer", ["bare", "cadena", "divider"])
def test_whole_frame_of_a_drag(benchmark: BenchmarkFixture, peer: str) -> None:
    """Wanted: 16 ms median, 33 ms at the 99th percentile. Bare: a point drawn on a picture."""
    window = fit_window()
    if peer == "divider":
        window.document.do(Resize(width=1280, height=800))
    seconds = []
    map_ = window.stage_of("Fit").picture
    ground = QPixmap(map_.size())
    ground.fill(QColor("#E9E6DF"))

    def drag() -> None:
        for (width, height), divide in zip(sizes(), dividing(), strict=True):
            begun = time.perf_counter()
            if peer == "divider":
                window.document.do(divide)
                QApplication.processEvents()
            elif peer == "cadena":
                map_.drag_to(width, height)
                QApplication.processEvents()
            else:
                painter = QPainter(ground)
                painter.drawEllipse(int(width / 3), int(height / 3), 20, 20)
                painter.end()
                window.repaint()
            seconds.append(time.perf_counter() - begun)

    benchmark.pedantic(drag, rounds=2, warmup_rounds=1)
    tell(f"whole frame, {peer}", seconds, "16 ms median, 33 ms at the 99th percentile")
    window.document.close()
    window.close()


@pytest.mark.parametrize("rules", [RULES[:3], RULES], ids=["3 rules", "12 rules"])
def test_window_map(benchmark: BenchmarkFixture, rules: tuple[Arrangement, ...]) -> None:
    """The plane and all that is drawn of it: wanted within 100 ms from 12 rules."""

    def compute() -> int:
        plane = Plane(rules)
        drawn = [plane.outline(cell, (1400, 1400)) for r in plane.regions for cell in r.cells]
        return len(drawn) + len(plane.breakpoints) + len(plane.idle)

    assert benchmark.pedantic(compute, rounds=20, warmup_rounds=2) > 3


def test_map_redrawn_while_a_breakpoint_is_dragged(benchmark: BenchmarkFixture) -> None:
    """A frame of dragging a breakpoint among 12 rules, computed and painted."""
    from msgspec.structs import replace

    window = fit_window()
    document = window.document
    document.edit("rules", replace(document.app, arrangements=RULES))
    map_ = window.stage_of("Fit").picture
    each = next(e for e in map_.plane().breakpoints if e.axis == "width" and e.at == 500)
    seconds = []

    def drag() -> None:
        for n in range(30):
            begun = time.perf_counter()
            map_.move_breakpoint(each, 505.0 + n * 3)
            map_.repaint()
            seconds.append(time.perf_counter() - begun)

    benchmark.pedantic(drag, rounds=2, warmup_rounds=1)
    tell("map redrawn while a breakpoint is dragged", seconds, "within 100 ms")
    document.close()
    window.close()
